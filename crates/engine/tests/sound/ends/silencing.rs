//! Being silenced: within milliseconds, for good, and without a click.

use rstest::rstest;
use zolvik_engine::Engine;
use zolvik_engine::program::prepare;
use zolvik_patch::Patch;
use zolvik_patch::document::{EffectId, Quality};
use zolvik_patch::finish::{Delay, Effect, EffectName};
use zolvik_patch::hearing::Listening;

use crate::support::*;

/// A sine; with an echo that goes on for ever where it is asked for.
fn patch(echoes: bool) -> Patch {
    let mut patch = Patch::empty();
    patch.voice.quality = Quality::X1;
    if echoes {
        let mut delay = Effect::new(EffectId(EffectId::FIRST), EffectName::Delay);
        for (id, value) in [(Delay::FEEDBACK, 1.0), (Delay::DRIVE_DB, 24.0)] {
            delay.value_slot(id).unwrap().write(value);
        }
        patch.finish.common.effects.push(delay);
    }
    patch
}

/// Nothing is left after 40 ms, whenever the echo was put in: long before, in the same moment, or while it falls silent.
#[rstest]
#[case::long_before(0.5, 0.0)]
#[case::a_moment_before(0.0004, 0.0)]
#[case::at_once(0.0, 0.0)]
#[case::while_it_falls(0.0, 0.004)]
fn nothing_rings_on(
    #[case] before_s: f64,
    #[case] after_s: f64,
    #[values(44_100.0, 48_000.0, 192_000.0)] rate_hz: f64,
    #[values(Quality::X1, Quality::X4, Quality::X8, Quality::Auto)] quality: Quality,
) {
    let frames = |time_s: f64| (time_s * rate_hz) as usize;
    let of = |echoes| {
        let mut patch = patch(echoes);
        patch.voice.quality = quality;
        prepare(&patch, &Listening::default())
    };
    let mut engine = Engine::new(rate_hz);
    engine.take(&of(false));
    engine.note_on(57, 100);
    take(&mut engine, frames(0.2));
    if after_s == 0.0 {
        engine.take(&of(true));
    }
    take(&mut engine, frames(before_s));
    engine.silence();
    if after_s > 0.0 {
        take(&mut engine, frames(after_s));
        engine.take(&of(true));
    }
    take(&mut engine, frames(0.04 - after_s));
    let (left, right) = take(&mut engine, frames(1.0));
    assert!(left.iter().chain(&right).all(|x| *x == 0.0));
    engine.note_on(57, 100);
    let (left, _) = take(&mut engine, frames(1.0));
    assert!(
        left[frames(0.5)..].iter().any(|x| x.abs() > 0.05),
        "it plays on"
    );
}

/// A note struck while it falls silent, and a second silencing on top of the first, leave no step.
#[rstest]
fn what_comes_meanwhile_does_not_click(
    #[values(false, true)] echoes: bool,
    #[values(0, 100, 250, 470, 500, 700)] frames: usize,
    #[values(false, true)] again: bool,
) {
    let mut engine = engine(&patch(echoes));
    engine.note_on(57, 100);
    take(&mut engine, 9_600);
    let mut all = take(&mut engine, 9_600).0;
    let still = roughness_of_peak(&all);
    engine.silence();
    all.extend(take(&mut engine, frames).0);
    engine.note_on(57, 100);
    if again {
        all.extend(take(&mut engine, 96).0);
        engine.silence();
        all.extend(take(&mut engine, 96).0);
        engine.note_on(57, 100);
    }
    all.extend(take(&mut engine, 9_600).0);
    let rough = roughness_of_peak(&all);
    assert!(rough < 3.0 * still + 0.002, "{rough}, at rest {still}");
    let end = &all[all.len() - 4_800..];
    assert!(end.iter().any(|x| x.abs() > 0.05), "the new note is heard");
}
