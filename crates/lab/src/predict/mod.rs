//! Why it sounds so: which partials theory expects of a patch at one moment, which combination of operators makes each, and how
//! strong it is.
//!
//! A sine moved in phase by a sine has the partials `J_n(index)` at `carrier + n modulator` (Chowning, "The Synthesis of Complex Audio Spectra by
//! Means of Frequency Modulation", 1973); several modulators multiply, and a modulator that is itself modulated is the sum of its
//! own partials (Schottstaedt, "The Simulation of Natural Instrument Tones using Frequency Modulation with a Complex Modulating Wave",
//! 1977). An operator that feeds itself below an index of 1 has the harmonics `2 J_n(n index) / (n index)`, Kepler's equation as Bessel
//! solved it (1824).

mod meeting;
mod theory;
mod tone;

use serde::Serialize;
use zolvik_patch::Patch;
use zolvik_patch::document::{Send, UnitId};
use zolvik_patch::hearing::Listening;
use zolvik_patch::levels::{db_gain, pan_gains};
use zolvik_patch::pitch::auditioned_hz;

use self::meeting::meet;
use self::theory::Theory;
use self::tone::Tone;
use crate::spectrum::Partial;

/// Where a partial ended up that began elsewhere.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum Fold {
    /// Below 0 Hz, and so mirrored up.
    Zero,
    /// Beyond half the sample rate, and so mirrored down.
    Rate,
}

/// A partial and what makes it.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Explained {
    /// Where it is heard, in hertz.
    pub hz: f64,
    /// How strong theory has it, in dB of full scale.
    pub predicted_db: f64,
    /// How strong it is in the rendered sound; none where no partial stands out there.
    pub measured_db: Option<f64>,
    /// The strongest combination that makes it, in words, such as `Body − 2 × Mallet`.
    pub words: String,
    /// The same as short as it goes, such as `Body −2 Mallet`; of one unit's own partials `Wings ×3`.
    pub short: String,
    /// How many combinations meet there.
    pub meeting: usize,
    /// The operator that causes it: the modulator that counts most in it, or the carrier itself.
    pub by: UnitId,
    /// All units that take part in it.
    pub units: Vec<UnitId>,
    /// Whether it was mirrored.
    pub folded: Option<Fold>,
}

/// Everything theory says of a moment.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Explanation {
    /// Strongest first.
    pub partials: Vec<Explained>,
    /// What is heard but has no closed theory, in words; empty if all of it has.
    pub beyond: Vec<String>,
}

/// So near to each other what is measured and what theory has are the same partial, in hertz.
const MEETS_HZ: f64 = 4.0;

impl Explanation {
    /// What theory has where a partial was measured.
    pub fn of(&self, measured: &Partial) -> Option<&Explained> {
        let apart = |p: &&Explained| (p.hz - measured.hz).abs();
        let there = self.partials.iter().filter(|p| apart(p) < MEETS_HZ);
        there.min_by(|a, b| apart(a).total_cmp(&apart(b)))
    }
}

/// What is known of the moment.
pub struct Moment<'a> {
    /// The patch.
    pub patch: &'a Patch,
    /// What is muted and soloed.
    pub listening: &'a Listening,
    /// What each unit puts out, 0 to 1.
    pub amplitudes: &'a dyn Fn(UnitId) -> f64,
    /// Sample rate the sound was rendered at.
    pub rate_hz: f64,
}

/// Explains a moment; `measured` are the partials found there.
pub fn explain(moment: &Moment, measured: &[Partial]) -> Explanation {
    let mut theory = Theory {
        moment,
        key_hz: auditioned_hz(moment.patch),
        beyond: vec![],
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
    }
}

fn trim(patch: &Patch) -> f64 {
    db_gain(patch.voice.trim_db)
}
