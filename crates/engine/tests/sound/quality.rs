//! Quality that follows the keys.

use rstest::rstest;
use zolvik_engine::Engine;
use zolvik_patch::Patch;
use zolvik_patch::document::{
    Filter, FilterType, KindName, Quality, TunedBy, Unit, UnitId, UnitKind,
};
use zolvik_patch::pitch::key_hz;

use crate::support::*;

/// A carrier moved by a modulator at a multiple of it, as needed.
fn moved(ratio: f64, index_rad: f64) -> Patch {
    let mut patch = plain_units(&[1.0, ratio]);
    patch.voice.quality = Quality::Auto;
    connect(&mut patch, 2, index(1, index_rad));
    connect(&mut patch, 1, TO_LEFT);
    patch
}

/// What stands where sidebands past half a rate are mirrored to, below 20 kHz, against the strongest sideband, in dB.
fn mirrored_db(samples: &[f32], carrier_hz: f64, modulator_hz: f64) -> f64 {
    let all = (-40..=40).map(|n| (carrier_hz + f64::from(n) * modulator_hz).abs());
    let (below, beyond): (Vec<f64>, Vec<f64>) = all.partition(|hz| *hz < 0.5 * RATE_HZ);
    let level = |hz: f64| partial(samples, hz).0;
    let strongest = below.into_iter().map(level).fold(0.0, f64::max);
    let mirrored = beyond.into_iter().map(|hz| {
        let turns = (hz / RATE_HZ).fract();
        RATE_HZ * turns.min(1.0 - turns)
    });
    let power: f64 = mirrored
        .filter(|hz| *hz < 20_000.0)
        .map(|hz| level(hz).powi(2))
        .sum();
    10.0 * (power.max(1e-30) / strongest.powi(2)).log10()
}

#[rstest]
fn high_keys_do_not_fold_back(
    #[values(84, 96, 100, 108)] key: u8,
    #[values((2.003, 6.0), (3.003, 6.0), (1.003, 6.0), (7.003, 2.0), (1.37, 12.0))] by: (f64, f64),
) {
    let (ratio, index_rad) = by;
    let patch = moved(ratio, index_rad);
    let hz = key_hz(key.into());
    // at four times the rate something folds only past these
    let highest_hz = hz * (1.0 + ratio * (index_rad + 3.3 * index_rad.cbrt()));
    if highest_hz > 4.0 * RATE_HZ - 20_000.0 {
        return;
    }
    let mut engine = engine(&patch);
    engine.note_on(key, 127);
    take(&mut engine, 4_800);
    let samples = take(&mut engine, 32_768).0;
    let db = mirrored_db(&samples, hz, hz * ratio);
    assert!(
        db < -60.0,
        "{} times the rate: {db:.1} dB",
        engine.oversampling()
    );
    // and is it as dear as it has to be?
    if engine.oversampling() > 1 {
        let mut cheaper = patch.clone();
        cheaper.voice.quality = match engine.oversampling() {
            2 => Quality::X1,
            _ => Quality::X2,
        };
        let mut engine = crate::support::engine(&cheaper);
        engine.note_on(key, 127);
        take(&mut engine, 4_800);
        let db = mirrored_db(&take(&mut engine, 32_768).0, hz, hz * ratio);
        assert!(
            db > -100.0,
            "{:?} would do: {db:.1} dB",
            cheaper.voice.quality
        );
    }
}

#[test]
fn low_keys_cost_what_they_cost() {
    let patch = moved(3.0, 6.0);
    for (key, rate_hz, times) in [
        (36, 48_000.0, 1),
        (60, 48_000.0, 1),
        (84, 48_000.0, 2),
        (100, 48_000.0, 4),
        (100, 96_000.0, 2),
        (100, 192_000.0, 1),
    ] {
        let mut engine = engine_at(&patch, rate_hz);
        engine.note_on(key, 100);
        assert_eq!(engine.oversampling(), times, "key {key} at {rate_hz}");
    }
}

fn times_after(engine: &mut Engine, time_s: f64) -> usize {
    take(engine, (time_s * RATE_HZ) as usize);
    engine.oversampling()
}

#[test]
fn it_rises_with_a_high_key_and_falls_a_second_after() {
    let mut engine = engine(&moved(3.0, 6.0));
    engine.note_on(48, 100);
    assert_eq!(times_after(&mut engine, 0.5), 1);
    engine.note_on(100, 100);
    assert_eq!(times_after(&mut engine, 0.5), 4);
    engine.note_off(100);
    assert_eq!(times_after(&mut engine, 0.5), 4);
    assert_eq!(times_after(&mut engine, 3.0), 1);
    engine.note_off(48);
    take(&mut engine, 96_000);
    engine.note_on(100, 100);
    assert_eq!(times_after(&mut engine, 0.0), 4);
}

/// The low note is what it was, the high one is there from its first moment, and nothing clicks.
#[test]
fn going_over_is_not_heard() {
    let played = |quality: Quality, keys: [u8; 2]| {
        let mut patch = moved(3.0, 3.0);
        patch.voice.quality = quality;
        let mut engine = engine(&patch);
        let mut all = vec![];
        for key in keys {
            engine.note_on(key, 127);
            all.extend(take(&mut engine, 24_000).0);
        }
        all
    };
    let fine = played(Quality::X4, [45, 103]);
    let auto = played(Quality::Auto, [45, 103]);
    let rms = |samples: &[f32]| {
        let sum: f64 = samples.iter().map(|s| f64::from(*s).powi(2)).sum();
        (sum / samples.len() as f64).sqrt()
    };
    // two milliseconds at a time, from the stroke of the high key on
    for (is, should) in auto[24_000..]
        .chunks(96)
        .zip(fine[24_000..].chunks(96))
        .take(20)
    {
        let off = off_db(rms(is), rms(should));
        assert!(off.abs() < 1.0, "{off:.2} dB");
    }
    // the first ten milliseconds are partly still those of the plain rate
    let coarse = played(Quality::X1, [45, 103]);
    let rough = |samples: &[f32]| roughness(&samples[23_000..26_000]);
    let (is, most) = (rough(&auto), rough(&fine).max(rough(&coarse)));
    assert!(is < 1.1 * most, "{is} beside {most}");
    let low_hz = key_hz(45.0);
    for n in 1..=12 {
        let hz = f64::from(n) * low_hz;
        let (is, should) = (
            partial(&auto[30_000..], hz).0,
            partial(&fine[30_000..], hz).0,
        );
        if should > 1e-3 {
            let off = off_db(is, should);
            assert!(off.abs() < 0.05, "harmonic {n}: {off:.3} dB");
        }
    }
}

/// A comb has its line at either quality, and rings at its pitch.
#[test]
fn combs_go_over_too() {
    let mut patch = moved(3.0, 6.0);
    patch.routes.pop();
    let mut comb = Unit::new(UnitId(3), KindName::Filter);
    comb.kind = UnitKind::Filter(Filter {
        response: FilterType::CombPlus,
        cutoff_hz: 500.0,
        resonance: 0.9,
        key_follow: 0.0,
        ..Filter::default()
    });
    patch.units.push(comb);
    connect(
        &mut patch,
        1,
        zolvik_patch::document::Send::Audio {
            to: UnitId(3),
            pass_db: 0.0,
            pass_pan: 0.0,
        },
    );
    connect(&mut patch, 3, TO_LEFT);
    let operator = patch.units[0].oscillator_mut().unwrap();
    (operator.tuned_by, operator.fixed_hz) = (TunedBy::Ratio, 0.0);
    let level = |quality: Quality, key: u8| {
        let mut patch = patch.clone();
        patch.voice.quality = quality;
        let mut engine = engine(&patch);
        engine.note_on(40, 100);
        take(&mut engine, 4_800);
        engine.note_on(key, 100);
        take(&mut engine, 24_000);
        let samples = take(&mut engine, 24_000).0;
        let sum: f64 = samples.iter().map(|s| f64::from(*s).powi(2)).sum();
        (engine.oversampling(), (sum / samples.len() as f64).sqrt())
    };
    for (key, times) in [(45, 1), (100, 4)] {
        let (is, should) = (level(Quality::Auto, key), level(Quality::X4, key));
        assert_eq!(is.0, times);
        assert!(
            off_db(is.1, should.1).abs() < 0.3,
            "key {key}: {} {}",
            is.1,
            should.1
        );
    }
}
