//! Notes that end with a level strip, and filters that ring on.

use crate::support::*;
use crate::wide::{MIDDLE, constant, through};
use rstest::rstest;
use zolvik_patch::Patch;
use zolvik_patch::document::{Filter, FilterType, KindName, Level, Unit, UnitId, UnitKind};

/// Noise and metal through a high-pass filter and a level strip that falls in a tenth of a second.
fn hat() -> Patch {
    let mut patch = plain_units(&[3.7]);
    patch
        .units
        .push(constant(2, Unit::new(UnitId(2), KindName::Noise).kind));
    patch.units.push(constant(
        3,
        UnitKind::Filter(Filter {
            response: FilterType::High,
            cutoff_hz: 5_000.0,
            ..Filter::default()
        }),
    ));
    patch
        .units
        .push(constant(4, UnitKind::Level(Level::default())));
    let points = &mut patch.units[3].envelope.points;
    (points[1].time_s, points[1].level) = (0.1, 0.0);
    connect(&mut patch, 1, through(3, -0.4));
    connect(&mut patch, 2, through(3, 0.4));
    connect(&mut patch, 3, through(4, 0.0));
    connect(&mut patch, 4, MIDDLE);
    patch
}

#[test]
fn a_hat_ends_with_its_level_strip_though_its_key_is_held() {
    let patch = hat();
    let mut engine = engine(&patch);
    engine.note_on(60, 127);
    let (left, _) = take(&mut engine, 2_400);
    assert!(left.iter().any(|s| s.abs() > 0.1), "it sounds");
    assert_eq!(engine.voices(), 1);
    take(&mut engine, 48_000 / 5);
    assert_eq!(engine.voices(), 0, "ended, the key still down");
    assert!(take(&mut engine, 4_800).0.iter().all(|s| *s == 0.0));
    // the key can be struck again without being let go
    engine.note_on(60, 127);
    assert!(take(&mut engine, 2_400).0.iter().any(|s| s.abs() > 0.1));
    engine.note_off(60);
    take(&mut engine, 48_000 / 2);
    assert_eq!(engine.voices(), 0);
}

#[test]
fn a_level_strip_that_lets_some_go_by_ends_no_note() {
    let mut patch = hat();
    let UnitKind::Level(level) = &mut patch.units[3].kind else {
        unreachable!()
    };
    level.mix = 0.9;
    let mut engine = engine(&patch);
    engine.note_on(60, 127);
    take(&mut engine, 48_000);
    assert_eq!(engine.voices(), 1);
    assert!(take(&mut engine, 4_800).0.iter().any(|s| s.abs() > 0.01));
}

/// A struck comb: a millisecond of a sine, rung out.
fn struck(resonance: f64, cutoff_hz: f64) -> Patch {
    let mut patch = plain_units(&[4.0]);
    patch.units.push(constant(
        2,
        UnitKind::Filter(Filter {
            response: FilterType::CombPlus,
            cutoff_hz,
            resonance,
            key_follow: 0.0,
            sweep_oct: 0.0,
            ..Filter::default()
        }),
    ));
    let points = &mut patch.units[0].envelope.points;
    (points[1].time_s, points[1].level) = (0.001, 0.0);
    points[2].time_s = 0.0;
    connect(&mut patch, 1, through(2, 0.0));
    connect(&mut patch, 2, TO_LEFT);
    patch
}

#[rstest]
#[case::short(0.5, 440.0)]
#[case::long(0.97, 440.0)]
#[case::deep(0.9, 40.0)]
fn what_rings_is_heard_down_to_80_db_below_its_peak(#[case] resonance: f64, #[case] hz: f64) {
    let patch = struck(resonance, hz);
    let mut engine = engine(&patch);
    engine.note_on(60, 127);
    let mut all = take(&mut engine, 480).0;
    engine.note_off(60);
    while engine.voices() > 0 && all.len() < 40 * 48_000 {
        all.extend(take(&mut engine, 480).0);
    }
    assert_eq!(engine.voices(), 0, "it ends");
    let peak = all.iter().fold(0.0f32, |most, s| most.max(s.abs()));
    let end = all.len() - 960;
    // loudest of the last round before the fade
    let round = (48_000.0 / hz) as usize * 2;
    let last = all[end - round..end]
        .iter()
        .fold(0.0f32, |most, s| most.max(s.abs()));
    assert!(
        last < 1e-4 * peak,
        "cut at {} dB",
        off_db(last.into(), peak.into())
    );
}

#[test]
fn the_user_says_how_long_a_note_may_ring() {
    let mut patch = struck(1.0, 440.0);
    patch.voice.longest_ring_s = 0.5;
    let mut engine = engine(&patch);
    engine.note_on(60, 127);
    take(&mut engine, 480);
    engine.note_off(60);
    take(&mut engine, 48_000 / 4);
    assert_eq!(engine.voices(), 1);
    take(&mut engine, 48_000 / 2);
    assert_eq!(engine.voices(), 0);
}
