//! Why it sounds so: which partials theory expects of a patch at one moment, which combination of operators makes each, and how
//! strong it is.
//!
//! A sine moved in phase by a sine has the partials `J_n(index)` at `carrier + n modulator` (Chowning, "The Synthesis of Complex Audio Spectra by
//! Means of Frequency Modulation", 1973); several modulators multiply, and a modulator that is itself modulated is the sum of its
//! own partials (Schottstaedt, "The Simulation of Natural Instrument Tones using Frequency Modulation with a Complex Modulating Wave",
//! 1977). An operator that feeds itself below an index of 1 has the harmonics `2 J_n(n index) / (n index)`, Kepler's equation as Bessel
//! solved it (1824).

mod explained;
mod idle;
mod meeting;
mod theory;
mod tone;

use zolvik_patch::Patch;
use zolvik_patch::document::Send;
use zolvik_patch::levels::{db_gain, pan_gains};
use zolvik_patch::pitch::auditioned_hz;

pub use self::explained::{Explained, Explanation, Fold, Moment};
use self::meeting::meet;
use self::theory::Theory;
use self::tone::Tone;
use crate::spectrum::Partial;

/// Explains a moment; `measured` are the partials found there.
pub fn explain(moment: &Moment, measured: &[Partial]) -> Explanation {
    let mut theory = Theory {
        moment,
        key_hz: auditioned_hz(moment.patch),
        beyond: vec![],
        idle: vec![],
        path: vec![],
        spent: 0,
    };
    let mut heard: Vec<Tone> = vec![];
    for route in &moment.patch.routes {
        let Send::Output { pan, .. } = route.send else {
            continue;
        };
        let open = route.on
            && moment.listening.lets_through(moment.patch, route)
            && moment.listening.brings_solo(moment.patch, route.from);
        // the spectrum is that of the power of both channels
        let [left, right] = pan_gains(pan);
        let gain = moment.patch.strength(route) * (0.5 * (left * left + right * right)).sqrt();
        if !open || gain <= 0.0 {
            continue;
        }
        heard.extend(theory.tones(route.from, 0).into_iter().map(|tone| Tone {
            amplitude: tone.amplitude * gain * trim(moment.patch),
            ..tone
        }));
    }
    let mut idle = theory.idle;
    idle.dedup();
    let mut beyond = theory.beyond;
    // copies and drift part each line into several around it
    let voice = &moment.patch.voice;
    if voice.unison.copies > 1 {
        beyond.push("the copies of unison, which part each line".into());
    }
    if voice.drift_cents > 0.0 {
        beyond.push("drift, which moves each line".into());
    }
    beyond.dedup();
    Explanation {
        partials: meet(moment, heard, measured),
        beyond,
        idle,
    }
}

fn trim(patch: &Patch) -> f64 {
    db_gain(patch.voice.trim_db)
}
