//! What each effect takes, as a share of the time there is at 48 kHz, and as a multiple of a Level effect in the same run.

use std::hint::black_box;
use std::time::Instant;

use zolvik_effects::{BLOCK, SILENT, Still, kind};
use zolvik_patch::document::EffectId;
use zolvik_patch::finish::{Drive, Effect, EffectName, Reverb};

const RATE_HZ: f64 = 48_000.0;

/// Median of the time a second of sound takes, in seconds.
fn takes_s(effect: &Effect) -> f64 {
    let mut node = kind(effect.kind.name()).make(RATE_HZ);
    let still = Still::of(effect);
    let set = still.setting(RATE_HZ);
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
    // `cargo bench --bench cost -- Reverb` looks at those alone
    let asked = std::env::args().skip(1).find(|arg| !arg.starts_with('-'));
    let say = |what: &str, effect: &Effect| {
        if asked.as_ref().is_some_and(|part| !what.contains(part)) {
            return;
        }
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
