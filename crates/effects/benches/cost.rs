//! What each effect takes, as a share of the time there is at 48 kHz, and as a multiple of a Level effect in the same run.

use std::hint::black_box;
use std::time::Instant;

use zolvik_effects::{BLOCK, Band, Point, SILENT, Setting, Value, make};
use zolvik_patch::choice::Options;
use zolvik_patch::document::EffectId;
use zolvik_patch::finish::effect::effect_params;
use zolvik_patch::finish::{Drive, Effect, EffectName, EqBand, Reverb};
use zolvik_patch::part::Part;

const RATE_HZ: f64 = 48_000.0;

/// Median of the time a second of sound takes, in seconds.
fn takes_s(effect: &Effect) -> f64 {
    let mut node = make(effect.kind.name(), RATE_HZ);
    let own = effect_params(effect.kind.name());
    let mut values: Vec<Value> = own
        .map(|row| Value::still(effect.value(row.id).unwrap()))
        .collect();
    let mut bands = [Band::default(); 8];
    for (to, band) in bands.iter_mut().zip(effect.bands()) {
        let rows = EqBand::ROWS.params.iter();
        values.extend(rows.map(|row| Value::still(band.get(row.id).unwrap())));
        *to = Band {
            on: band.on,
            what: band.what.position() as u8,
            slope: band.slope.position() as u8,
        };
    }
    let points: Vec<Point> = effect
        .points()
        .iter()
        .map(|p| Point {
            at: p.at as f32,
            level: p.level as f32,
            curve: p.curve as f32,
        })
        .collect();
    let set = Setting {
        values: &values,
        choices: effect.choices(),
        bands,
        band_count: effect.bands().len(),
        points: &points,
        rate_hz: RATE_HZ,
        tempo_bpm: 120.0,
        beats: 0.0,
        key_hz: 220.0,
        kick: &SILENT[0],
    };
    let mut times: Vec<f64> = (0..7)
        .map(|_| {
            let began = Instant::now();
            let mut noise = 1u32;
            for _ in 0..(RATE_HZ as usize / BLOCK) {
                let mut block = SILENT;
                for x in block.iter_mut().flatten() {
                    noise = noise.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
                    *x = noise as f32 / u32::MAX as f32 - 0.5;
                }
                node.run(&mut block, &set);
                black_box(&block);
            }
            began.elapsed().as_secs_f64()
        })
        .collect();
    times.sort_by(f64::total_cmp);
    times[times.len() / 2]
}

fn main() {
    let plain = takes_s(&Effect::new(EffectId(2001), EffectName::Level));
    let say = |what: &str, effect: &Effect| {
        let s = takes_s(effect);
        println!(
            "{what:<24} {:6.2} % of the time, {:6.1} Levels",
            s * 100.0,
            s / plain
        );
    };
    for kind in EffectName::ALL {
        say(kind.label(), &Effect::new(EffectId(2001), *kind));
    }
    for (at, label) in ["1 x", "2 x", "4 x", "8 x"].iter().enumerate() {
        let mut effect = Effect::new(EffectId(2001), EffectName::Drive);
        effect.choose_of(Drive::FINENESS, at);
        say(&format!("Drive {label}"), &effect);
    }
    let mut eq = Effect::new(EffectId(2001), EffectName::Eq);
    for band in eq.bands_mut().into_iter().flatten() {
        band.gain_db = 3.0;
    }
    say("EQ, four bands at work", &eq);
    let mut reverb = Effect::new(EffectId(2001), EffectName::Reverb);
    if let Some(slot) = reverb.value_slot(Reverb::SHIMMER) {
        slot.write(0.3);
    }
    say("Reverb with shimmer", &reverb);
}
