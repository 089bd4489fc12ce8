//! Responses by their analog prototypes, combs by their key, and what moves a cutoff.

use super::*;
use crate::support::*;
use proptest::prelude::*;
use rstest::rstest;
use std::f64::consts::PI;
use zolvik_engine::program::prepare;
use zolvik_patch::Patch;
use zolvik_patch::document::{
    Filter, FilterType, KindName, Quality, Send, Slope, TunedBy, Unit, UnitId, UnitKind,
};
use zolvik_patch::hearing::Listening;
use zolvik_patch::testing::Dice;
use zolvik_patch::wave::{Shape, Wave};

/// Gain of a filter at a frequency, measured with a sine.
fn measured_db(hz: f64, filter: Filter) -> f64 {
    measured_at(hz, filter, Quality::X1, RATE_HZ)
}

/// [`measured_db`] at a quality and a rate.
fn measured_at(hz: f64, filter: Filter, quality: Quality, rate_hz: f64) -> f64 {
    let mut patch = filtered(hz, filter);
    patch.voice.quality = quality;
    let mut engine = engine_at(&patch, rate_hz);
    engine.note_on(60, 127);
    take(&mut engine, (rate_hz * 0.2) as usize);
    let samples = take(&mut engine, (rate_hz * 0.1) as usize).0;
    20.0 * (partial_at(&samples, hz, rate_hz).0 / 0.1).log10()
}

/// Gain of one stage by theory: the analog prototype in `s = j w`, `w` being the frequency as a multiple of the cutoff and `damping` 1/Q.
fn stage(response: FilterType, w: f64, damping: f64) -> f64 {
    let below = (1.0 - w * w).hypot(damping * w);
    match response {
        FilterType::Low => 1.0 / below,
        FilterType::High => w * w / below,
        // noise stays as loud: the middle grows as the width shrinks
        FilterType::Band => {
            let rest = ((damping - 0.0005) / 2f64.sqrt()).powf(2.0 / 3.0);
            let singing = 0.3 * (1.0 - rest).powi(8);
            ((damping * 2f64.sqrt()).sqrt() + singing) * w / below
        }
        FilterType::Notch => (1.0 - w * w).abs() / below,
        _ => (1.0 - w * w).hypot(3.0 * damping * w) / below,
    }
}

/// The whole prototype.
fn prototype_db(filter: &Filter, hz: f64) -> f64 {
    // a Butterworth response without resonance; each step toward 1 takes damping away
    let rest = (1.0 - filter.resonance).powf(1.5);
    let dampings = match (filter.slope, filter.response) {
        (Slope::Db12, _) => vec![2f64.sqrt() * rest + 0.0005],
        (_, FilterType::Low | FilterType::High) => {
            let pole = |share: f64| 2.0 * (PI * share).sin();
            vec![pole(0.375), pole(0.125) * rest + 0.0005]
        }
        _ => vec![2f64.sqrt() * rest + 0.0005; 2],
    };
    let gain: f64 = dampings
        .iter()
        .map(|k| stage(filter.response, hz / filter.cutoff_hz, *k))
        .product();
    20.0 * gain.log10()
}

#[rstest]
#[case::plain(Quality::X1, 48_000.0, 10_000.0)]
#[case::plain_44(Quality::X1, 44_100.0, 10_000.0)]
#[case::twice(Quality::X2, 48_000.0, 16_000.0)]
#[case::studio(Quality::X1, 96_000.0, 16_000.0)]
#[case::finest(Quality::X8, 48_000.0, 16_000.0)]
fn responses_are_those_of_the_analog_prototype(
    #[case] quality: Quality,
    #[case] rate_hz: f64,
    #[case] up_to_hz: f64,
    #[values(
        FilterType::Low,
        FilterType::High,
        FilterType::Band,
        FilterType::Notch,
        FilterType::Peak
    )]
    response: FilterType,
    #[values(Slope::Db12, Slope::Db24)] slope: Slope,
    #[values(0.0, 0.6)] resonance: f64,
) {
    for cutoff_hz in [150.0, 1_000.0, 4_000.0, 8_000.0, 12_000.0] {
        if rate_hz < 48_000.0 && cutoff_hz > 8_000.0 {
            continue; // within 0.6 dB
        }
        let long = quality == Quality::X8 || rate_hz > 48_000.0;
        if long && [1_000.0, 8_000.0].contains(&cutoff_hz) {
            continue; // the others tell as much
        }
        for hz in [90.0, 700.0, 3_000.0, 7_900.0, 10_000.0, 15_900.0] {
            let filter = still(response, slope, cutoff_hz, resonance);
            let theory = prototype_db(&filter, hz);
            if hz > up_to_hz || theory < -60.0 {
                continue; // the middle of a notch
            }
            let heard = measured_at(hz, filter, quality, rate_hz);
            assert!(
                (heard - theory).abs() < 0.5,
                "{response:?} {slope:?} {cutoff_hz} Hz, resonance {resonance}, at {hz} Hz: {heard:.2} dB, theory {theory:.2}"
            );
        }
    }
}

#[rstest]
fn responses_near_the_cutoff_are_those_of_the_prototype(
    #[values(
        FilterType::Low,
        FilterType::High,
        FilterType::Band,
        FilterType::Notch,
        FilterType::Peak
    )]
    response: FilterType,
    #[values(0.0, 0.7)] resonance: f64,
) {
    for cutoff_hz in [150.0, 1_000.0, 5_000.0] {
        for times in [0.5, 0.93, 1.0, 1.4, 2.0] {
            let filter = still(response, Slope::Db12, cutoff_hz, resonance);
            let hz = cutoff_hz * times;
            let theory = prototype_db(&filter, hz);
            if theory < -60.0 {
                continue;
            }
            let heard = measured_db(hz, filter);
            assert!(
                (heard - theory).abs() < 0.5,
                "{response:?} {cutoff_hz} Hz, resonance {resonance}, at {hz} Hz: {heard:.2} dB, theory {theory:.2}"
            );
        }
    }
}

/// Harmonics of a sine through a filter without resonance, against its first.
#[rstest]
fn without_resonance_a_filter_is_linear(
    #[values(FilterType::Low, FilterType::High, FilterType::Band, FilterType::Peak)]
    response: FilterType,
    #[values(Slope::Db12, Slope::Db24)] slope: Slope,
    #[values(0.0, 12.0)] level_db: f64,
) {
    let hz = 1_000.0;
    if response == FilterType::Peak && level_db > 0.0 {
        return; // 19 dB more at the peak are beyond what passes
    }
    let mut patch = filtered(hz, still(response, slope, hz, 0.0));
    patch.routes[0].send = through(2, level_db);
    // so that nothing after the filter bends it
    connect(
        &mut patch,
        2,
        Send::Output {
            level_db: -24.0,
            pan: -1.0,
            bus: Default::default(),
        },
    );
    patch.routes.swap_remove(1);
    let mut engine = engine(&patch);
    engine.note_on(60, 127);
    take(&mut engine, 24_000);
    let samples = take(&mut engine, 24_000).0;
    let first = partial(&samples, hz).0;
    for n in 2..=6 {
        let level = partial(&samples, hz * f64::from(n)).0;
        assert!(
            off_db(level, first) < -90.0,
            "{n}: {}",
            off_db(level, first)
        );
    }
}

/// Loudness of a sound over its resonance: a saw, its fourth partial near the cutoff, or noise.
#[rstest]
fn resonance_keeps_the_level(
    #[values(FilterType::Low, FilterType::High, FilterType::Band, FilterType::Peak)]
    response: FilterType,
    #[values("saw", "saw between", "noise")] source: &str,
) {
    let within_db = match (response, source) {
        // without resonance little of these is left to be beside
        (FilterType::Low, "noise") => 20.0,
        (FilterType::High, _) => 11.0,
        (FilterType::Band, "noise") => 7.0,
        _ => 6.0,
    };
    let level = |resonance: f64| {
        let cutoff_hz = if source == "saw between" {
            915.0
        } else {
            1_000.0
        };
        let mut patch = filtered(0.0, still(response, Slope::Db12, cutoff_hz, resonance));
        match source {
            "noise" => {
                let mut noise = Unit::new(UnitId(1), KindName::Noise);
                noise.velocity = 0.0;
                noise.envelope = patch.units[0].envelope.clone();
                patch.units[0] = noise;
            }
            _ => {
                let operator = patch.units[0].oscillator_mut().unwrap();
                operator.tuned_by = TunedBy::Ratio;
                operator.wave = Wave::Shape(Shape::Saw);
            }
        }
        patch.routes[0].send = through(2, -6.0);
        let mut engine = engine(&patch);
        engine.note_on(60, 127);
        take(&mut engine, 24_000);
        let samples = take(&mut engine, 48_000).0;
        let power: f64 = samples.iter().map(|s| f64::from(*s).powi(2)).sum();
        10.0 * (power / samples.len() as f64).log10()
    };
    let levels: Vec<f64> = [0.0, 0.3, 0.6, 0.8, 0.9, 0.97, 1.0].map(level).into();
    let most = levels.iter().copied().fold(f64::MIN, f64::max);
    let least = levels.iter().copied().fold(f64::MAX, f64::min);
    assert!(most - least < within_db, "{levels:.1?}");
}

/// Where a comb struck by a click rings, near a frequency, from how its phase moves in a tenth of a second after another.
fn ringing_hz(patch: &Patch, key: u8, near_hz: f64) -> f64 {
    let mut engine = engine(patch);
    engine.note_on(key, 127);
    take(&mut engine, 2_400);
    // long for low tones, short for high ones, which ring for less
    let frames = match near_hz {
        hz if hz < 150.0 => 96_000,
        hz if hz < 2_000.0 => 9_600,
        _ => 2_400,
    };
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
    #[values(0, 12, 24, 36, 57, 60, 81, 93, 105, 117, 127)] key: u8,
    #[values(Quality::X1, Quality::X8)] quality: Quality,
) {
    let mut patch = plain_units(&[1.0]);
    patch.voice.quality = quality;
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
    // low ones by an odd multiple, which stands clear of its neighbours
    let multiple = (50.0 / hz).floor() * 2.0 + 1.0;
    let heard = ringing_hz(&patch, key, hz * multiple) / multiple;
    let cents = 1200.0 * (heard / hz).log2();
    assert!(
        cents.abs() < 1.0,
        "{heard:.3} Hz, the key is {hz:.3}: {cents:.2} ct"
    );
}

/// Gain at the middle of a band-pass: noise stays as loud, so that it is the root of how much narrower it is.
fn middle_of_a_band(resonance: f64) -> f64 {
    let damping = 2f64.sqrt() * (1.0 - resonance).powf(1.5) + 0.0005;
    (2f64.sqrt() / damping).sqrt() + 0.3 * resonance.powi(8) / damping
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
        let middle = middle_of_a_band(0.7);
        assert!(
            (gain / middle - 1.0).abs() < 0.01,
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
    assert!(
        (gain / middle_of_a_band(0.7) - 1.0).abs() < 0.01,
        "{gain} an octave up"
    );
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
    assert!(loud(&patch, &plain).abs() < 0.05, "direct to output");
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
    #![proptest_config(ProptestConfig { cases: 28, failure_persistence: None, ..ProptestConfig::default() })]

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
        prop_assert!(sounding.iter().all(|s| s.is_finite() && s.abs() <= 16.0));
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
