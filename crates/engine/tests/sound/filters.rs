//! Filters and shapers: responses against theory, tuning of combs, what stays bounded, what passes where.

use std::f64::consts::PI;

use proptest::prelude::*;
use rstest::rstest;
use zolvik_engine::program::prepare;
use zolvik_patch::Patch;
use zolvik_patch::document::{
    Filter, FilterType, KindName, Send, Shaper, ShaperCurve, Slope, TunedBy, Unit, UnitId, UnitKind,
};
use zolvik_patch::hearing::Listening;
use zolvik_patch::testing::Dice;

use crate::support::*;

fn through(to: u16, pass_db: f64) -> Send {
    Send::Audio {
        to: UnitId(to),
        pass_db,
        pass_pan: 0.0,
    }
}

/// A sine of a frequency, 20 dB down, through a filter to the left channel.
fn filtered(hz: f64, filter: Filter) -> Patch {
    let mut patch = plain_units(&[1.0]);
    let operator = patch.units[0].oscillator_mut().unwrap();
    operator.tuned_by = TunedBy::Fixed;
    operator.fixed_hz = hz;
    let mut unit = Unit::new(UnitId(2), KindName::Filter);
    unit.kind = UnitKind::Filter(filter);
    patch.units.push(unit);
    connect(&mut patch, 1, through(2, -20.0));
    connect(&mut patch, 2, TO_LEFT);
    patch
}

fn still(response: FilterType, slope: Slope, cutoff_hz: f64, resonance: f64) -> Filter {
    Filter {
        response,
        slope,
        cutoff_hz,
        resonance,
        key_follow: 0.0,
        sweep_oct: 0.0,
        mix: 1.0,
        ..Filter::default()
    }
}

/// Gain of a filter at a frequency, measured with a sine.
fn measured_db(hz: f64, filter: Filter) -> f64 {
    let mut engine = engine(&filtered(hz, filter));
    engine.note_on(60, 127);
    take(&mut engine, 24_000);
    let samples = take(&mut engine, 9_600).0;
    20.0 * (partial(&samples, hz).0 / 0.1).log10()
}

/// Gain of one stage by theory: the analog prototype in `s`, its frequencies warped by the bilinear transform
/// (Tustin, 1947); `damping` is 1/Q.
fn stage(response: FilterType, hz: f64, cutoff_hz: f64, damping: f64) -> f64 {
    let w = (PI * hz / RATE_HZ).tan() / (PI * cutoff_hz / RATE_HZ).tan();
    // s = j w: the denominator is 1 - w^2 + j damping w
    let below = (1.0 - w * w).hypot(damping * w);
    match response {
        FilterType::Low => 1.0 / below,
        FilterType::High => w * w / below,
        FilterType::Band => damping * w / below,
        FilterType::Notch => (1.0 - w * w).abs() / below,
        _ => (1.0 - w * w).hypot(3.0 * damping * w) / below,
    }
}

#[rstest]
fn responses_are_those_of_theory(
    #[values(
        FilterType::Low,
        FilterType::High,
        FilterType::Band,
        FilterType::Notch,
        FilterType::Peak
    )]
    response: FilterType,
    #[values(Slope::Db12, Slope::Db24)] slope: Slope,
    #[values(0.0, 0.7)] resonance: f64,
) {
    // a Butterworth response without resonance; each step toward 1 takes damping away
    let rest = (1.0 - resonance).powf(1.5);
    let dampings = match (slope, response) {
        (Slope::Db12, _) => vec![2f64.sqrt() * rest + 0.0005],
        (_, FilterType::Low | FilterType::High) => {
            let pole = |share: f64| 2.0 * (PI * share).sin();
            vec![pole(0.375), pole(0.125) * rest + 0.0005]
        }
        _ => vec![2f64.sqrt() * rest + 0.0005; 2],
    };
    for cutoff_hz in [150.0, 1_000.0, 5_000.0] {
        for times in [0.1, 0.5, 0.93, 1.0, 1.4, 2.0, 8.0] {
            let hz = cutoff_hz * times;
            if hz > 10_000.0 {
                continue;
            }
            let gain: f64 = dampings
                .iter()
                .map(|k| stage(response, hz, cutoff_hz, *k))
                .product();
            let theory = 20.0 * gain.log10();
            if theory < -60.0 {
                continue; // the middle of a notch
            }
            let heard = measured_db(hz, still(response, slope, cutoff_hz, resonance));
            assert!(
                (heard - theory).abs() < 0.5,
                "{response:?} {slope:?} {cutoff_hz} Hz, resonance {resonance}, at {hz} Hz: {heard:.2} dB, theory {theory:.2}"
            );
        }
    }
}

/// Where a comb struck by a click rings, near a frequency, from how its phase moves.
fn ringing_hz(patch: &Patch, key: u8, near_hz: f64) -> f64 {
    let mut engine = engine(patch);
    engine.note_on(key, 127);
    take(&mut engine, 12_000);
    let frames = 9_600;
    let first = partial(&take(&mut engine, frames).0, near_hz).1;
    let second = partial(&take(&mut engine, frames).0, near_hz).1;
    let expected = near_hz * frames as f64 / RATE_HZ;
    let moved = (second - first).rem_euclid(1.0);
    let off = (expected.fract() - moved + 0.5).rem_euclid(1.0) - 0.5;
    near_hz - off * RATE_HZ / frames as f64
}

#[rstest]
fn combs_ring_within_a_cent_of_their_key(
    #[values(FilterType::CombPlus, FilterType::CombMinus)] response: FilterType,
    #[values(36, 57, 60, 81, 93)] key: u8,
) {
    let mut patch = plain_units(&[1.0]);
    let mut click = Unit::new(UnitId(1), KindName::Sample);
    click.velocity = 0.0;
    patch.units[0] = click;
    let mut unit = Unit::new(UnitId(2), KindName::Filter);
    unit.kind = UnitKind::Filter(Filter {
        response,
        cutoff_hz: 261.625_565_300_6,
        key_follow: 1.0,
        sweep_oct: 0.0,
        resonance: 0.97,
        mix: 1.0,
        ..Filter::default()
    });
    patch.units.push(unit);
    connect(&mut patch, 1, through(2, 0.0));
    connect(&mut patch, 2, TO_LEFT);
    let hz = zolvik_patch::pitch::key_hz(key.into());
    let heard = ringing_hz(&patch, key, hz);
    let cents = 1200.0 * (heard / hz).log2();
    assert!(
        cents.abs() < 1.0,
        "{heard:.3} Hz, the key is {hz:.3}: {cents:.2} ct"
    );
}

#[test]
fn a_filter_follows_the_key_as_far_as_it_is_told() {
    for (follow, octaves) in [(0.0, 0.0), (0.5, 1.0), (1.0, 2.0)] {
        let mut filter = still(FilterType::Band, Slope::Db12, 500.0, 0.7);
        filter.key_follow = follow;
        // two octaves above C4
        let at = 500.0 * 2f64.powf(octaves);
        let mut engine = engine(&filtered(at, filter));
        engine.note_on(84, 127);
        take(&mut engine, 24_000);
        let gain = partial(&take(&mut engine, 9_600).0, at).0 / 0.1;
        assert!(
            (gain - 1.0).abs() < 0.01,
            "follow {follow}: {gain} at the middle"
        );
    }
}

#[test]
fn an_envelope_sweeps_the_cutoff_by_its_octaves() {
    let mut filter = still(FilterType::Band, Slope::Db12, 500.0, 0.7);
    filter.sweep_oct = 2.0;
    let mut patch = filtered(1_000.0, filter);
    patch.units[1].velocity = 0.0;
    let points = &mut patch.units[1].envelope.points;
    (points[0].time_s, points[1].time_s, points[1].level) = (0.0, 0.0, 0.5);
    let mut engine = engine(&patch);
    engine.note_on(60, 127);
    take(&mut engine, 24_000);
    // half the envelope is one octave
    let gain = partial(&take(&mut engine, 9_600).0, 1_000.0).0 / 0.1;
    assert!((gain - 1.0).abs() < 0.01, "{gain} an octave up");
}

#[test]
fn what_misses_the_filter_is_not_filtered_and_bypass_lets_all_through() {
    let mut patch = filtered(4_000.0, still(FilterType::Low, Slope::Db24, 400.0, 0.0));
    let loud = |patch: &Patch, listening: &Listening| {
        let mut engine = engine(patch);
        engine.take(&prepare(patch, listening));
        engine.note_on(60, 127);
        take(&mut engine, 12_000);
        20.0 * partial(&take(&mut engine, 9_600).0, 4_000.0).0.log10()
    };
    let plain = Listening::default();
    assert!(loud(&patch, &plain) < -95.0, "80 dB below what goes in");
    let mut bypassed = Listening::default();
    bypassed.bypassed.insert(UnitId(2));
    assert!((loud(&patch, &bypassed) + 20.0).abs() < 0.05, "as it came");
    patch.units[1].on = false;
    assert!((loud(&patch, &plain) + 20.0).abs() < 0.05, "off is past");
    patch.units[1].on = true;
    let mut muted = Listening::default();
    muted.muted.insert(UnitId(2));
    assert!(loud(&patch, &muted) < -150.0, "muted is silent");
    // a second way, past the filter
    connect(&mut patch, 1, TO_LEFT);
    assert!(loud(&patch, &plain).abs() < 0.05, "straight out");
    // alone, the filter is heard with what goes through it and nothing that goes past
    let mut alone = Listening::default();
    alone.soloed.insert(UnitId(2));
    assert!(loud(&patch, &alone) < -95.0);
    // the source alone is heard both ways
    alone.soloed = [UnitId(1)].into();
    assert!(loud(&patch, &alone).abs() < 0.05);
}

#[test]
fn filters_in_a_row_multiply_and_side_by_side_add() {
    let low = still(FilterType::Low, Slope::Db12, 1_000.0, 0.0);
    let one = measured_db(1_000.0, low.clone());
    let mut row = filtered(1_000.0, low.clone());
    let mut second = row.units[1].clone();
    second.id = UnitId(3);
    row.units.push(second);
    row.routes.pop();
    let mut side = row.clone();
    connect(&mut row, 2, through(3, 0.0));
    connect(&mut row, 3, TO_LEFT);
    connect(&mut side, 1, through(3, -20.0));
    connect(&mut side, 2, TO_LEFT);
    connect(&mut side, 3, TO_LEFT);
    for (patch, expected) in [(row, 2.0 * one), (side, one + 6.02)] {
        let mut engine = engine(&patch);
        engine.note_on(60, 127);
        take(&mut engine, 12_000);
        let gain = partial(&take(&mut engine, 9_600).0, 1_000.0).0 / 0.1;
        assert!((20.0 * gain.log10() - expected).abs() < 0.05);
    }
}

#[test]
fn a_cutoff_moved_by_an_operator_makes_sidebands() {
    let mut patch = filtered(1_000.0, still(FilterType::Low, Slope::Db12, 1_000.0, 0.0));
    let mut mover = plain_units(&[1.0]).units.remove(0);
    mover.id = UnitId(3);
    mover.oscillator_mut().unwrap().tuned_by = TunedBy::Fixed;
    mover.oscillator_mut().unwrap().fixed_hz = 70.0;
    patch.units.push(mover);
    let side = |patch: &Patch| {
        let mut engine = engine(patch);
        engine.note_on(60, 127);
        take(&mut engine, 12_000);
        partial(&take(&mut engine, 24_000).0, 1_070.0).0
    };
    assert!(side(&patch) < 1e-5);
    connect(
        &mut patch,
        3,
        Send::Frequency {
            to: UnitId(2),
            deviation: 0.5,
        },
    );
    assert!(side(&patch) > 0.01, "{}", side(&patch));
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 40, failure_persistence: None, ..ProptestConfig::default() })]

    /// Extremes of everything at once: resonance, drive, cutoffs thrown about at audio rate by big deviations.
    #[test]
    fn filters_stay_bounded_and_fall_silent_under_any_modulation(seed in any::<u64>()) {
        let mut dice = Dice(seed);
        let response = FilterType::ALL[dice.below(8)];
        let mut filter = still(response, Slope::ALL[dice.below(2)], 20.0, 1.0);
        let mut pick = |list: &[f64]| list[dice.below(list.len())];
        filter.cutoff_hz = pick(&[20.0, 90.0, 700.0, 5_000.0, 20_000.0]);
        filter.resonance = pick(&[1.0, 1.0, 0.95, 0.5]);
        filter.drive_db = pick(&[0.0, 12.0, 36.0]);
        filter.sweep_oct = pick(&[-8.0, 0.0, 8.0]);
        filter.vowel = pick(&[0.0, 0.4, 1.0]);
        let deviation = pick(&[0.0, 1.0, 8.0, 32.0]);
        let mover_hz = pick(&[3.0, 220.0, 7_000.0, 19_000.0]);
        let source_hz = pick(&[30.0, 440.0, 12_000.0]);
        let mut patch = filtered(source_hz, filter);
        let Send::Audio { pass_db, .. } = &mut patch.routes[0].send else { unreachable!() };
        *pass_db = 12.0;
        let mut mover = plain_units(&[1.0]).units.remove(0);
        mover.id = UnitId(3);
        mover.oscillator_mut().unwrap().tuned_by = TunedBy::Fixed;
        mover.oscillator_mut().unwrap().fixed_hz = mover_hz;
        patch.units.push(mover);
        connect(&mut patch, 3, Send::Frequency { to: UnitId(2), deviation });
        patch.units[0].envelope.points[2].time_s = 0.02;
        let mut engine = engine(&patch);
        engine.note_on(60, 127);
        let sounding = take(&mut engine, 24_000).0;
        prop_assert!(sounding.iter().all(|s| s.is_finite() && s.abs() <= 4.0));
        engine.note_off(60);
        let prepared = prepare(&patch, &Listening::default());
        take(&mut engine, (prepared.program.tail_of_s(60, 127) * RATE_HZ) as usize + 64);
        let after = take(&mut engine, 64).0;
        prop_assert!(after.iter().all(|s| *s == 0.0), "rings on: {:?}", &after[..4]);
    }
}

#[test]
fn a_singing_filter_rings_for_seconds_at_its_cutoff() {
    let mut patch = filtered(880.0, still(FilterType::Low, Slope::Db12, 880.0, 1.0));
    // a short burst of the source strikes it
    let points = &mut patch.units[0].envelope.points;
    (points[1].time_s, points[1].level) = (0.01, 0.0);
    let mut engine = engine(&patch);
    engine.note_on(60, 127);
    take(&mut engine, 4_800);
    let at_once = partial(&take(&mut engine, 9_600).0, 880.0).0;
    take(&mut engine, 2_400);
    let later = partial(&take(&mut engine, 9_600).0, 880.0).0;
    assert!(
        at_once > 0.1 && later > 0.5 * at_once,
        "{at_once} then {later}"
    );
}

/// A sine of full level through a shaper.
fn shaped(curve: ShaperCurve, drive_db: f64, mix: f64) -> Patch {
    let mut patch = filtered(440.0, Filter::default());
    patch.units[1] = Unit::new(UnitId(2), KindName::Shaper);
    patch.units[1].kind = UnitKind::Shaper(Shaper {
        curve,
        drive_db,
        mix,
    });
    patch.units[1].velocity = 0.0;
    let points = &mut patch.units[1].envelope.points;
    (points[0].time_s, points[1].time_s, points[1].level) = (0.0, 0.0, 1.0);
    patch.routes[0].send = through(2, 0.0);
    patch
}

fn harmonics(patch: &Patch) -> Vec<f64> {
    let mut engine = engine(patch);
    engine.note_on(60, 127);
    take(&mut engine, 24_000);
    let samples = take(&mut engine, 24_000).0;
    (1..=5)
        .map(|n| partial(&samples, 440.0 * f64::from(n)).0)
        .collect()
}

#[test]
fn shapers_make_the_harmonics_of_their_curves() {
    // a sine cut to a square by 48 dB of drive: 4/pi (1, 0, 1/3, 0, 1/5), scaled to the half
    let square = harmonics(&shaped(ShaperCurve::Hard, 48.0, 1.0));
    for (n, level) in [(1, 1.0), (3, 1.0 / 3.0), (5, 0.2)] {
        let theory = 0.5 * 4.0 / PI * level;
        assert!(
            (square[n - 1] - theory).abs() < 0.01,
            "{n}: {} {theory}",
            square[n - 1]
        );
    }
    assert!(square[1] < 1e-4 && square[3] < 1e-4, "no even ones");
    // sin(g sin x) has 2 J_n(g) at odd n
    let g = 10f64.powf(12.0 / 20.0);
    let folded = harmonics(&shaped(ShaperCurve::Fold, 12.0, 1.0));
    let scale = 0.5 / (0.5 * g).min(PI / 2.0).sin();
    for n in [1, 3, 5] {
        let theory = (2.0 * libm::jn(n, g) * scale).abs();
        let heard = folded[n as usize - 1];
        assert!((heard - theory).abs() < 0.003, "{n}: {heard} {theory}");
    }
    // a rectified sine: only even ones, and no offset
    let up = harmonics(&shaped(ShaperCurve::Rectify, 0.0, 1.0));
    assert!(up[0] < 1e-3 && up[1] > 0.2, "{up:?}");
    let mut engine = engine(&shaped(ShaperCurve::Rectify, 0.0, 1.0));
    engine.note_on(60, 127);
    take(&mut engine, 48_000);
    let mean: f32 = take(&mut engine, 48_000).0.iter().sum::<f32>() / 48_000.0;
    assert!(mean.abs() < 1e-3, "{mean}");
    // soft adds odd ones gently, and a mix of nothing changes nothing
    let soft = harmonics(&shaped(ShaperCurve::Soft, 6.0, 1.0));
    assert!(soft[2] > 0.01 && soft[2] < 0.2 * soft[0] && soft[1] < 1e-4);
    let dry = harmonics(&shaped(ShaperCurve::Hard, 48.0, 0.0));
    assert!((dry[0] - 1.0).abs() < 1e-4 && dry[2] < 1e-4);
}
