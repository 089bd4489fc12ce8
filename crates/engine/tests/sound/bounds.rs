//! Any valid patch, any events: finite, bounded, silent in the end.

use proptest::prelude::*;
use rstest::rstest;
use zolvik_engine::{
    Guard,
    program::{compile, prepare},
};
use zolvik_patch::catalogue::param;
use zolvik_patch::document::{Send, VoiceSettings};
use zolvik_patch::hearing::Listening;
use zolvik_patch::levels::db_gain;
use zolvik_patch::testing::{Dice, any_patch};

use crate::support::*;

proptest! {
    #![proptest_config(ProptestConfig { cases: 32, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn any_patch_under_any_events_stays_finite_and_bounded(seed in any::<u64>()) {
        events_on_any_patch(seed)?;
    }

    #[test]
    fn any_patch_is_silent_within_its_stated_tail(seed in any::<u64>()) {
        let mut patch = any_patch(seed);
        for unit in &mut patch.units {
            unit.envelope.in_beats = false;
            for point in &mut unit.envelope.points {
                point.time_s = point.time_s.min(0.02);
            }
        }
        let tail_s = compile(&patch, &Listening::default()).tail_s();
        let mut engine = engine(&patch);
        engine.note_on(50, 100);
        take(&mut engine, 3200);
        engine.all_notes_off();
        take(&mut engine, (tail_s * RATE_HZ) as usize + 64);
        prop_assert_eq!(engine.voices(), 0);
    }
}

/// Random events, and other patches taken in between, on a random patch; then it must be silent.
fn events_on_any_patch(seed: u64) -> Result<(), TestCaseError> {
    let mut dice = Dice(seed);
    let mut patch = any_patch(dice.bits());
    let mut engine = engine(&patch);
    // every lane at full level through every output, both while a change fades
    let gain = db_gain(param(Send::LEVEL_DB).max) * db_gain(param(VoiceSettings::TRIM_DB).max);
    let bound = (128.0 * 16.0 * 2.0 * 1.5 * gain) as f32;
    for _ in 0..24 {
        match dice.below(8) {
            0 => {
                patch = any_patch(dice.bits());
                engine.take(&prepare(&patch, &Listening::default()));
            }
            1 => engine.midi([0xB0, 64, dice.bits() as u8]),
            2 => engine.silence(),
            3..=5 => engine.midi([
                0x90 | dice.below(16) as u8,
                dice.below(128) as u8,
                dice.below(128) as u8,
            ]),
            _ => engine.midi([dice.bits() as u8, dice.bits() as u8, dice.bits() as u8]),
        }
        let frames = dice.below(600);
        let (left, right) = take(&mut engine, frames);
        for s in left.iter().chain(&right) {
            prop_assert!(
                s.is_finite() && s.abs() <= bound,
                "sample {s} for seed {seed}"
            );
        }
    }
    engine.silence();
    take(&mut engine, 2000);
    let (left, right) = take(&mut engine, 64);
    prop_assert!(
        left.iter().chain(&right).all(|s| *s == 0.0),
        "not silent for seed {seed}"
    );
    Ok(())
}

/// The same of so many that what is rare is met.
#[rstest]
#[ignore = "takes some minutes"]
fn thousands_of_patches_stay_finite_and_bounded(#[values(0, 1)] part: u64) {
    let seeds = 1_000 * part..1_000 * (part + 1);
    let faults: Vec<_> = seeds
        .filter_map(|n| events_on_any_patch(Dice(n).bits()).err())
        .collect();
    assert!(faults.is_empty(), "{faults:?}");
}

/// What anybody may have made, struck and let go: it sounds finite, comes out below +24 dBFS, and ends. (Of a thousand all do; so many
/// take a minute.)
#[test]
fn many_patches_are_finite_not_too_loud_and_end() {
    let most = db_gain(24.0) as f32;
    for seed in 0..45 {
        let mut patch = any_patch(seed);
        patch.voice.longest_ring_s = 0.1;
        patch.voice.quality = Default::default();
        for unit in &mut patch.units {
            unit.envelope.in_beats = false;
            unit.envelope.delay_s = unit.envelope.delay_s.min(0.01);
            for point in &mut unit.envelope.points {
                point.time_s = point.time_s.min(0.001);
            }
        }
        let tail_s = compile(&patch, &Listening::default()).tail_of_s(52, 100);
        let (mut engine, mut guard) = (engine(&patch), Guard::new(RATE_HZ));
        engine.note_on(52, 100);
        for part in [1_600, (tail_s * RATE_HZ) as usize + 64] {
            let (mut left, mut right) = take(&mut engine, part);
            assert!(
                left.iter().chain(&right).all(|s| s.is_finite()),
                "seed {seed}"
            );
            guard.process(&mut left, &mut right);
            let peak = left
                .iter()
                .chain(&right)
                .fold(0.0f32, |m, s| m.max(s.abs()));
            assert!(peak < most, "seed {seed}: {peak}");
            engine.all_notes_off();
        }
        assert_eq!(engine.voices(), 0, "seed {seed} goes on");
    }
}

#[test]
fn the_guard_lets_nothing_loud_or_broken_through() {
    let mut guard = Guard::new(RATE_HZ);
    let mut left: Vec<f32> = (0..4800).map(|i| 40.0 * (i as f32 * 0.05).sin()).collect();
    left[7] = f32::NAN;
    left[9] = f32::INFINITY;
    let mut right = left.clone();
    let lowest = guard.process(&mut left, &mut right);
    assert!(lowest < 0.03);
    assert!(left.iter().chain(&right).all(|s| s.abs() <= Guard::CEILING));
    let mut quiet = vec![0.5; 96_000];
    guard.process(&mut quiet.clone(), &mut quiet);
    assert!((quiet[95_999] - 0.5).abs() < 0.01, "it lets go again");
}
