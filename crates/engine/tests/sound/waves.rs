//! Every wave against its own harmonics: sample by sample, what folds back, and what happens while it changes.

use std::f64::consts::TAU;

use rstest::rstest;
use zolvik_patch::Patch;
use zolvik_patch::document::{Quality, TunedBy};
use zolvik_patch::hearing::Listening;
use zolvik_patch::wave::{Bars, Shape, Table, Wave};
use zolvik_waves::bank::LEVELS;
use zolvik_waves::cycles::spectrum_at;

use zolvik_engine::program::prepare;

use crate::support::*;

/// One operator of a fixed frequency, at full level in the left channel.
pub fn plain(wave: Wave, hz: f64) -> Patch {
    let mut patch = plain_units(&[1.0]);
    connect(&mut patch, 1, TO_LEFT);
    let operator = patch.units[0].oscillator_mut().unwrap();
    operator.tuned_by = TunedBy::Fixed;
    operator.fixed_hz = hz;
    operator.wave = wave;
    operator.position = 0.37;
    patch
}

fn bars() -> Wave {
    let mut bars = Bars::single();
    bars.set(7, 0.6, 0.3);
    bars.set(64, 0.4, 0.8);
    Wave::Bars(bars)
}

fn every_wave() -> Vec<Wave> {
    let mut waves: Vec<Wave> = Wave::all().collect();
    waves.push(bars());
    waves
}

pub fn settled(patch: &Patch, frames: usize) -> Vec<f32> {
    let mut engine = engine(patch);
    engine.note_on(60, 127);
    take(&mut engine, 4800);
    take(&mut engine, frames).0
}

pub fn rms(samples: impl Iterator<Item = f64>) -> f64 {
    let (mut sum, mut count) = (0.0, 0.0);
    for s in samples {
        sum += s * s;
        count += 1.0;
    }
    (sum / f64::max(count, 1.0)).sqrt()
}

/// The highest harmonic the engine keeps for a frequency, in half-octave steps.
fn kept(hz: f64) -> usize {
    let fits = 0.5 * RATE_HZ / hz;
    *LEVELS.iter().find(|h| **h as f64 <= fits).unwrap()
}

/// The sum of a wave's harmonics, each moved in phase by a sine: the plain formula, in double precision.
fn reference(wave: &Wave, hz: f64, index_rad: f64, modulator_hz: f64, frames: usize) -> Vec<f64> {
    let spectrum = spectrum_at(wave, &[], 0.37, 0.25);
    let harmonics = kept(hz).min(spectrum.cosine.len());
    let sample = |i: usize| {
        let t = i as f64 / RATE_HZ;
        let angle = TAU * (hz * t).fract() + index_rad * (TAU * (modulator_hz * t).fract()).sin();
        (1..=harmonics)
            .map(|n| {
                let (s, c) = (n as f64 * angle).sin_cos();
                spectrum.cosine[n - 1] * c + spectrum.sine[n - 1] * s
            })
            .sum()
    };
    (0..frames).map(sample).collect()
}

#[test]
fn every_wave_alone_and_modulated_is_the_sum_of_its_harmonics() {
    // a bass and a high note; the modulated one moves every partial by its sidebands, which theory sums exactly
    for wave in every_wave() {
        for (hz, index_rad) in [(55.0, 0.0), (440.0, 0.0), (1046.5, 0.0), (110.0, 0.8)] {
            let mut patch = plain(wave.clone(), hz);
            if index_rad > 0.0 {
                let mut modulator = plain(Wave::default(), 77.0).units.remove(0);
                modulator.id.0 = 2;
                patch.units.push(modulator);
                connect(&mut patch, 2, index(1, index_rad));
            }
            let mut engine = engine(&patch);
            engine.note_on(60, 127);
            let heard = take(&mut engine, 4800).0;
            let theory = reference(&wave, hz, index_rad, 77.0, 4800);
            let off = heard[64..].iter().zip(&theory[64..]);
            let error = rms(off.map(|(a, b)| f64::from(*a) - b));
            let level = rms(theory[64..].iter().copied());
            let db = 20.0 * (error / level).log10();
            // modulated, the highest harmonics run beyond half the rate and fold: quality 1x
            let bar_db = if index_rad > 0.0 { -40.0 } else { -60.0 };
            assert!(
                db < bar_db,
                "{wave:?} at {hz} Hz, {index_rad} rad: {db:.1} dB"
            );
        }
    }
}

/// Power outside the multiples of a frequency, against the strongest partial, in dB. The frequency must fit a
/// whole number of times into the samples.
pub fn folded_db(samples: &[f32], hz: f64) -> f64 {
    let count = samples.len() as f64;
    let total: f64 = samples.iter().map(|s| f64::from(*s).powi(2)).sum::<f64>() / count;
    let mut harmonic = 0.0;
    let mut strongest = 0.0f64;
    let mut n = 1;
    while f64::from(n) * hz < 0.5 * RATE_HZ {
        let (mut c, mut s) = (0.0, 0.0);
        for (i, x) in samples.iter().enumerate() {
            let angle = TAU * (f64::from(n) * hz * i as f64 / RATE_HZ).fract();
            c += f64::from(*x) * angle.cos();
            s += f64::from(*x) * angle.sin();
        }
        let power = 2.0 * (c * c + s * s) / (count * count);
        harmonic += power;
        strongest = strongest.max(power);
        n += 1;
    }
    let mean = samples.iter().map(|s| f64::from(*s)).sum::<f64>() / count;
    10.0 * ((total - harmonic - mean * mean).max(1e-30) / strongest).log10()
}

/// Key 84 to a quarter of a cent, and exactly 1429 times in 65,536 samples, so that nothing leaks where it is not.
pub const KEY_84_HZ: f64 = 48_000.0 * 1429.0 / 65_536.0;
pub const SPAN: usize = 65_536;

#[rstest]
#[case(Quality::X1, -60.0)]
#[case(Quality::X4, -90.0)]
fn no_wave_folds_back_above_the_bar(#[case] quality: Quality, #[case] bar_db: f64) {
    for wave in every_wave() {
        let mut patch = plain(wave.clone(), KEY_84_HZ);
        patch.voice.quality = quality;
        let db = folded_db(&settled(&patch, SPAN), KEY_84_HZ);
        assert!(db < bar_db, "{wave:?} at {quality:?}: {db:.1} dB");
    }
}

#[rstest]
#[case(Quality::X1, -60.0)]
#[case(Quality::X2, -90.0)]
#[case(Quality::X4, -90.0)]
#[case(Quality::X8, -90.0)]
fn two_operators_at_index_6_do_not_fold_back(#[case] quality: Quality, #[case] bar_db: f64) {
    let mut patch = plain(Wave::default(), KEY_84_HZ);
    patch.voice.quality = quality;
    let mut modulator = patch.units[0].clone();
    modulator.id.0 = 2;
    patch.units.push(modulator);
    connect(&mut patch, 2, index(1, 6.0));
    let db = folded_db(&settled(&patch, SPAN), KEY_84_HZ);
    assert!(db < bar_db, "{quality:?}: {db:.1} dB");
}

#[test]
fn oversampling_takes_away_what_folds_in_a_harsh_patch() {
    let harsh = |quality| {
        let mut patch = plain(Wave::default(), KEY_84_HZ);
        patch.voice.quality = quality;
        let mut modulator = patch.units[0].clone();
        modulator.id.0 = 2;
        modulator.oscillator_mut().unwrap().fixed_hz = 5.0 * KEY_84_HZ;
        patch.units.push(modulator);
        connect(&mut patch, 2, index(1, 6.0));
        folded_db(&settled(&patch, SPAN), KEY_84_HZ)
    };
    let (plain, twice, eight) = (harsh(Quality::X1), harsh(Quality::X2), harsh(Quality::X8));
    assert!(plain > -25.0, "it folds at 1x: {plain:.1} dB");
    assert!(twice < plain - 15.0, "less at 2x: {twice:.1} dB");
    assert!(eight < -90.0, "not at 8x: {eight:.1} dB");
}

#[rstest]
#[case(0.1)]
#[case(0.5)]
#[case(0.93)]
fn a_pulse_has_the_harmonics_of_its_width(#[case] width: f64) {
    let hz = 100.0;
    let mut patch = plain(Wave::Shape(Shape::Pulse), hz);
    patch.units[0].oscillator_mut().unwrap().width = width;
    let samples = settled(&patch, 48_000);
    for n in 1..=60 {
        // |sin(pi n w)| 4 / (pi n): the pulse is 2 high
        let angle = std::f64::consts::PI * f64::from(n);
        let theory = (angle * width).sin().abs() * 4.0 / angle;
        let (measured, _) = partial(&samples, hz * f64::from(n));
        assert!(
            (measured - theory).abs() < 2e-4,
            "harmonic {n}: {measured}, theory {theory}"
        );
    }
}

#[test]
fn a_table_moves_through_its_cycles() {
    let at = |position: f64| {
        let mut patch = plain(Wave::Table(Table::ReedPipe), 100.0);
        patch.units[0].oscillator_mut().unwrap().position = position;
        let samples = settled(&patch, 24_000);
        partial(&samples, 900.0).0 / partial(&samples, 100.0).0
    };
    assert!(
        at(0.0) < 0.02 && at(0.5) > 0.2 && at(1.0) > 0.6,
        "brighter and brighter"
    );
}

#[rstest]
#[case::another_wave(|p: &mut Patch| p.units[0].oscillator_mut().unwrap().wave = Wave::Table(Table::Throat))]
#[case::bars(|p: &mut Patch| p.units[0].oscillator_mut().unwrap().wave = bars())]
#[case::back_to_sine(|p: &mut Patch| p.units[0].oscillator_mut().unwrap().wave = Wave::default())]
#[case::position(|p: &mut Patch| p.units[0].oscillator_mut().unwrap().position = 1.0)]
#[case::quality(|p: &mut Patch| p.voice.quality = Quality::X4)]
fn a_change_while_a_note_sounds_does_not_click(#[case] change: fn(&mut Patch)) {
    let mut patch = plain(Wave::Table(Table::HumToAh), 110.0);
    let mut engine = engine(&patch);
    engine.note_on(60, 127);
    let before = take(&mut engine, 9600).0;
    change(&mut patch);
    engine.take(&prepare(&patch, &Listening::default()));
    let moving = take(&mut engine, 4800).0;
    let after = take(&mut engine, 4800).0;
    let usual = roughness(&before[4800..]).max(roughness(&after));
    assert!(
        roughness(&moving) < 1.3 * usual + 1e-3,
        "{} while moving, {usual} else",
        roughness(&moving)
    );
}

#[test]
fn envelopes_keep_their_times_when_the_quality_changes_midway() {
    let mut patch = plain(Wave::default(), 1000.0);
    patch.units[0].envelope.points[0].time_s = 0.4;
    patch.units[0].envelope.points[0].curve = 0.5;
    let mut engine = engine(&patch);
    engine.note_on(60, 127);
    take(&mut engine, 9600);
    patch.voice.quality = Quality::X8;
    engine.take(&prepare(&patch, &Listening::default()));
    take(&mut engine, 4800);
    let share = 0.3 / 0.4;
    let theory = (1.0 - (-3.0f64 * share).exp()) / (1.0 - (-3.0f64).exp());
    let level = f64::from(engine.unit_amplitude(patch.units[0].id));
    assert!((level - theory).abs() < 2e-3, "{level}, theory {theory}");
}
