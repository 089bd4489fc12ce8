//! Envelopes against the formula of the document: every ready shape, loops, delays, keys, strokes, tempo.

use rstest::rstest;
use zolvik_patch::Patch;
use zolvik_patch::envelope::{Envelope, READY};
use zolvik_patch::timing::auditioned_scale;

use crate::support::*;

fn with(envelope: Envelope) -> Patch {
    let mut patch = plain_units(&[1.0]);
    connect(&mut patch, 1, TO_LEFT);
    patch.units[0].envelope = envelope;
    patch.audition.note = 60;
    patch.audition.velocity = 127;
    patch
}

/// Largest distance between what the engine puts out and the document's formula, over hold and release. The
/// first block after a corner is passed over: there the engine's straight line cuts it.
fn distance(patch: &Patch, hold_s: f64) -> f64 {
    let unit = &patch.units[0];
    let scale = auditioned_scale(patch, unit);
    let mut engine = engine(patch);
    engine.note_on(patch.audition.note, patch.audition.velocity);
    let block_s = 16.0 / RATE_HZ;
    let release = (hold_s / block_s).round() as usize;
    let env = &unit.envelope;
    let total = release + ((env.release_s() * scale + 0.1) / block_s) as usize;
    let mut most = 0.0f64;
    for block in 1..=total {
        if block == release + 1 {
            engine.note_off(patch.audition.note);
        }
        take(&mut engine, 16);
        let at = |offset: f64| {
            let time_s = (block as f64 + offset) * block_s / scale;
            env.level_at(time_s.max(0.0), release as f64 * block_s / scale)
        };
        let heard = f64::from(engine.unit_amplitude(unit.id));
        // between the formula a block earlier and a block later, on either side
        let around = [at(-1.5), at(-1.0), at(-0.5), at(0.0), at(0.5), at(1.0)];
        let lowest = around.iter().fold(f64::MAX, |a, b| a.min(*b));
        let highest = around.iter().fold(f64::MIN, |a, b| a.max(*b));
        most = most.max(lowest - heard).max(heard - highest);
    }
    most
}

#[test]
fn every_ready_shape_follows_its_formula() {
    for ready in READY {
        for hold_s in [0.04, 0.7, 1.9] {
            let off = distance(&with(ready.envelope()), hold_s);
            assert!(off < 2e-3, "{} held {hold_s} s: {off} off", ready.name);
        }
    }
}

#[rstest]
#[case::delay(|p: &mut Patch| p.units[0].envelope.delay_s = 0.25)]
#[case::higher_keys_are_shorter(|p: &mut Patch| { p.units[0].key_times = 0.5; p.audition.note = 84; })]
#[case::softer_strokes_are_longer(|p: &mut Patch| { p.units[0].velocity_times = 0.6; p.units[0].velocity = 0.0; p.audition.velocity = 30; })]
#[case::tempo(|p: &mut Patch| { p.units[0].envelope.in_beats = true; p.audition.tempo_bpm = 93.0; })]
fn times_are_scaled_as_the_document_says(#[case] change: fn(&mut Patch)) {
    let named = |name: &str| READY.iter().find(|r| r.name == name).unwrap().envelope();
    for name in ["Double strike", "Ripple", "Afterglow"] {
        let mut patch = with(named(name));
        change(&mut patch);
        let off = distance(&patch, 1.3);
        assert!(off < 2e-3, "{name}: {off} off");
    }
}

#[test]
fn key_follow_changes_the_level_by_decibels_per_octave() {
    let mut patch = with(Envelope::default());
    patch.units[0].envelope.points[1].level = 1.0;
    patch.units[0].key_level_db = -3.0;
    let level = |key: u8| {
        let mut engine = engine(&patch);
        engine.note_on(key, 127);
        take(&mut engine, 9600);
        20.0 * f64::from(engine.unit_amplitude(patch.units[0].id)).log10()
    };
    assert!((level(60) - 0.0).abs() < 0.01);
    assert!(
        (level(84) + 6.0).abs() < 0.01,
        "two octaves up: {}",
        level(84)
    );
    assert!(
        (level(36) - 6.0).abs() < 0.03,
        "two octaves down: {}",
        level(36)
    );
}

#[test]
fn a_loop_goes_on_as_long_as_the_key_and_no_longer() {
    let ripple = READY.iter().find(|r| r.name == "Ripple").unwrap();
    let patch = with(ripple.envelope());
    let mut engine = engine(&patch);
    engine.note_on(60, 127);
    take(&mut engine, 48_000 * 9);
    let (mut low, mut high) = (1.0f32, 0.0f32);
    for _ in 0..800 {
        take(&mut engine, 16);
        let now = engine.unit_amplitude(patch.units[0].id);
        (low, high) = (low.min(now), high.max(now));
    }
    assert!(
        low < 0.45 && high > 0.85,
        "after nine seconds: {low} to {high}"
    );
    engine.note_off(60);
    take(&mut engine, 48_000 / 2);
    assert_eq!(engine.voices(), 0);
}

#[test]
fn segments_of_no_length_never_break_the_level_wherever_they_fall() {
    use zolvik_patch::envelope::Point;
    // attacks of many lengths, so that rounding falls on either side of a block's end
    for i in 0..600 {
        let mut patch = with(Envelope::default());
        let attack_s = f64::from(i) * 0.000_7 + 0.8 * f64::from(i % 2);
        patch.units[0].envelope.points = vec![
            Point::new(attack_s, 1.0, -0.4),
            Point::new(0.0, 1.0, 0.0),
            Point::new(0.0, 0.5, 0.3),
            Point::new(0.01, 0.0, 0.0),
        ];
        patch.units[0].envelope.held = 2;
        let mut engine = engine(&patch);
        engine.note_on(60, 127);
        for _ in 0..(attack_s * RATE_HZ / 16.0) as usize + 8 {
            take(&mut engine, 16);
            let level = engine.unit_amplitude(patch.units[0].id);
            assert!((0.0..=1.0).contains(&level), "attack {attack_s} s: {level}");
        }
    }
}
