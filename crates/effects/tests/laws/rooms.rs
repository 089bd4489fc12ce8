//! The reverb: its decay, its density, its evenness.

use rstest::rstest;
use rustfft::FftPlanner;
use rustfft::num_complex::Complex;
use zolvik_patch::finish::{Cuts, EffectName, Reverb};

use crate::bench::{Bench, amplitude, db, noise, rms, sine};

const RATE_HZ: f64 = 48_000.0;

/// A band of an octave, by a band-pass of this file's own (two poles, twice).
fn octave(x: &[f32], hz: f64) -> Vec<f64> {
    let w = std::f64::consts::TAU * hz / RATE_HZ;
    let alpha = w.sin() / (2.0 * 1.414);
    let (b0, a0, a1, a2) = (alpha, 1.0 + alpha, -2.0 * w.cos(), 1.0 - alpha);
    let mut y: Vec<f64> = x.iter().map(|x| f64::from(*x)).collect();
    for _ in 0..2 {
        let (mut x1, mut x2, mut y1, mut y2) = (0.0, 0.0, 0.0, 0.0);
        for x in &mut y {
            let out = (b0 * (*x - x2) - a1 * y1 - a2 * y2) / a0;
            (x2, x1) = (x1, *x);
            (y2, y1) = (y1, out);
            *x = out;
        }
    }
    y
}

/// Time to fall by 60 dB, from -5 to -35 dB of the energy that is left (Schroeder, "New Method of Measuring Reverberation Time", 1965).
fn decay_s(x: &[f64]) -> f64 {
    let mut left: Vec<f64> = x.iter().map(|x| x * x).collect();
    for i in (0..left.len() - 1).rev() {
        left[i] += left[i + 1];
    }
    let at = |db: f64| {
        let goal = left[0] * 10f64.powf(db / 10.0);
        left.iter().position(|e| *e < goal).unwrap_or(left.len())
    };
    (at(-35.0) - at(-5.0)) as f64 / RATE_HZ * 2.0
}

fn room(time_s: f64, size: f64) -> Bench {
    Bench::new(EffectName::Reverb, RATE_HZ)
        .set(Reverb::TIME_S, time_s)
        .set(Reverb::SIZE, size)
        .set(Reverb::EARLY, 0.0)
        .set(Reverb::PRE_S, 0.0)
        .set(Reverb::LOW_CUT_HZ, 20.0)
        .set(Reverb::HIGH_CUT_HZ, 20_000.0)
        .set(Reverb::DAMP_HZ, 20_000.0)
}

#[rstest]
fn it_falls_by_60_db_in_the_time_that_is_set(
    #[values(0.8, 2.5, 6.0)] time_s: f64,
    #[values(0.2, 0.5, 1.0)] size: f64,
) {
    let mut bench = room(time_s, size);
    let mut x = vec![0.0f32; (RATE_HZ * (time_s * 1.3 + 0.5)) as usize / 16 * 16];
    x[0] = 1.0;
    let y = bench.mono(&x);
    for hz in [125.0, 250.0, 500.0, 1_000.0, 2_000.0, 4_000.0, 8_000.0] {
        let is = decay_s(&octave(&y, hz));
        assert!(
            (is / time_s - 1.0).abs() < 0.1,
            "{hz} Hz: {is} s for {time_s}"
        );
    }
}

/// Above the damping it falls faster, and the higher the faster.
#[test]
fn highs_fall_faster() {
    let mut bench = room(3.0, 0.5).set(Reverb::DAMP_HZ, 3_000.0);
    let mut x = vec![0.0f32; 192_000];
    x[0] = 1.0;
    let y = bench.mono(&x);
    let at = |hz| decay_s(&octave(&y, hz));
    let times: Vec<f64> = [250.0, 1_000.0, 3_000.0, 9_000.0].map(at).into();
    assert!(times.windows(2).all(|w| w[1] < w[0] * 1.02), "{times:?}");
    assert!((times[2] / 1.5 - 1.0).abs() < 0.25, "{times:?}");
}

/// More than a thousand echoes a second within a tenth of a second: counted as what stands out of a window by its own deviation, against
/// noise (after Abel and Huang, "A Simple, Robust Measure of Reverberation Echo Density", 2006).
#[rstest]
fn it_is_dense_within_a_tenth_of_a_second(#[values(0.3, 0.5, 1.0)] size: f64) {
    let mut bench = room(2.0, size);
    let mut x = vec![0.0f32; 48_000];
    x[0] = 1.0;
    let y = bench.mono(&x);
    let window = &y[4_800..5_760];
    let deviation = rms(window);
    let beyond = window
        .iter()
        .filter(|x| f64::from(x.abs()) > deviation)
        .count();
    // of noise 32 % lies beyond; of few single echoes next to nothing
    let share = beyond as f64 / window.len() as f64 / 0.3173;
    let echoes = window
        .windows(3)
        .filter(|w| w[1].abs() > w[0].abs() && w[1].abs() >= w[2].abs())
        .filter(|w| f64::from(w[1].abs()) > 0.1 * deviation)
        .count();
    println!("size {size}: density {share:.2}, {} a second", echoes * 50);
    assert!(share > 0.6, "{share}");
    assert!(echoes * 50 > 1_000, "{echoes}");
}

/// Levels of bands of 20 Hz of a sound, by power, against the mean of those within a third of an octave around, in decibels: the highest.
fn highest_band_db(sound: &[f32]) -> f64 {
    let mut bins: Vec<Complex<f64>> = sound.iter().map(|x| f64::from(*x).into()).collect();
    let forward = FftPlanner::new().plan_fft_forward(bins.len());
    forward.process(&mut bins);
    let bin = |hz: f64| (hz / RATE_HZ * bins.len() as f64) as usize;
    let bands: Vec<(f64, f64)> = (0..110)
        .map(|i| 200.0 + 20.0 * f64::from(i))
        .map(|hz| {
            let inside = &bins[bin(hz - 10.0)..bin(hz + 10.0)];
            (hz, inside.iter().map(Complex::norm_sqr).sum())
        })
        .collect();
    let over = bands.iter().filter(|(hz, _)| (300.0..2_000.0).contains(hz));
    over.map(|(hz, power)| {
        let third = 2.0_f64.powf(1.0 / 3.0);
        let near: Vec<f64> = bands
            .iter()
            .filter(|(other, _)| *other != *hz && (hz / third..hz * third).contains(other))
            .map(|(_, power)| *power)
            .collect();
        10.0 * (power / (near.iter().sum::<f64>() / near.len() as f64)).log10()
    })
    .fold(f64::MIN, f64::max)
}

/// No mode stands 6 dB over its neighbours: in bands of 20 Hz, wide enough that chance alone stays below 3 dB in the first second, over all
/// of the sound and after 20 dB of it. Noise that falls alike everywhere is measured beside it, as what chance does.
#[rstest]
fn no_mode_stands_out(#[values(0.0, 0.3)] movement: f64, #[values(0.0, 0.3, 0.6, 1.0)] size: f64) {
    let mut bench = room(3.0, size).set(Reverb::MOVE, movement);
    let mut x = vec![0.0f32; 144_000];
    x[0] = 1.0;
    let y = bench.mono(&x);
    let falling: Vec<f32> = noise(3.0, RATE_HZ, 5)
        .iter()
        .enumerate()
        .map(|(i, x)| x * 10.0_f32.powf(-(i as f32) / 48_000.0))
        .collect();
    let [all, late] = [0, 48_000].map(|from| highest_band_db(&y[from..]));
    let [by_chance, late_by_chance] = [0, 48_000].map(|from| highest_band_db(&falling[from..]));
    println!(
        "size {size}, movement {movement}: {all:.1} dB, late {late:.1}; noise {by_chance:.1}, {late_by_chance:.1}"
    );
    assert!(
        by_chance < 6.0 && late_by_chance < 6.0,
        "the measure itself"
    );
    assert!(all < 6.0, "{all}");
    assert!(late < 6.0, "{late}");
}

/// It falls steadily: no quarter of a second is louder than the one before.
#[rstest]
fn it_never_rises(#[values(0.3, 0.6, 1.0)] size: f64) {
    let mut bench = room(3.0, size);
    let mut x = vec![0.0f32; 144_000];
    x[0] = 1.0;
    let y = bench.mono(&x);
    for hz in [125.0, 500.0, 2_000.0, 8_000.0] {
        let band = octave(&y[4_800..], hz);
        let levels: Vec<f64> = band
            .chunks(12_000)
            .map(|part| part.iter().map(|x| x * x).sum())
            .collect();
        assert!(levels.windows(2).all(|w| w[1] < w[0]), "{hz}: {levels:?}");
    }
}

#[test]
fn in_mono_nothing_is_lost() {
    let mut bench = room(2.0, 0.5);
    let x = noise(3.0, RATE_HZ, 9);
    let [l, r] = bench.run(&x, &x);
    let mono: Vec<f32> = l.iter().zip(&r).map(|(a, b)| 0.5 * (a + b)).collect();
    let lost = db(rms(&mono[48_000..]) / rms(&l[48_000..]));
    assert!(lost > -4.0, "{lost} dB");
}

#[test]
fn width_0_is_mono_and_frozen_stays() {
    let mut bench = room(2.0, 0.5).set(Reverb::WIDTH, 0.0);
    let x = noise(1.0, RATE_HZ, 9);
    let [l, r] = bench.run(&x, &x);
    let off = l
        .iter()
        .zip(&r)
        .map(|(a, b)| (a - b).abs())
        .fold(0.0, f32::max);
    assert!(off < 1e-4, "{off}");
    let mut x = noise(12.0, RATE_HZ, 9);
    x[48_000..].fill(0.0);
    let mut bench = room(1.0, 0.5);
    let [y, _] = bench.run_with(
        &x,
        &x,
        |effect, at| {
            let frozen = usize::from(at >= 40_000);
            effect.choose_of(Reverb::FREEZE, frozen).unwrap();
        },
        |_| 0.0,
    );
    let lost = db(rms(&y[480_000..]) / rms(&y[96_000..144_000]));
    assert!(lost.abs() < 3.0, "{lost} dB in eight seconds");
}

#[test]
fn a_shimmer_rises_and_ends() {
    let mut bench = room(4.0, 0.7).set(Reverb::SHIMMER, 1.0);
    let mut x = crate::bench::sine(400.0, 0.3, 20.0, RATE_HZ);
    x[48_000..].fill(0.0);
    let y = bench.mono(&x);
    let at = |hz| crate::bench::amplitude(&y[72_000..120_000], hz, RATE_HZ);
    let risen: f64 = (-12..=12).map(|o| at(800.0 + f64::from(o)).powi(2)).sum();
    assert!(
        risen.sqrt() > 0.02 * at(400.0),
        "{} {}",
        risen.sqrt(),
        at(400.0)
    );
    assert!(y.iter().all(|x| x.abs() < 4.0));
    let end = db(rms(&y[912_000..]));
    assert!(end < -60.0, "{end}");
}

/// A one-pole cut at 1 kHz takes 27 dB off a low F, the first reflections included; so far as they go, a file from before has them whole.
#[test]
fn cuts_reach_the_first_reflections_too() {
    const LOW_F_HZ: f64 = 43.654;
    let level_db = |cut_hz: f64, cuts: Cuts| {
        let mut bench = Bench::new(EffectName::Reverb, RATE_HZ)
            .set(Reverb::LOW_CUT_HZ, cut_hz)
            .choose(Reverb::CUTS, cuts as usize);
        let y = bench.mono(&sine(LOW_F_HZ, 0.5, 4.0, RATE_HZ));
        db(amplitude(&y[96_000..], LOW_F_HZ, RATE_HZ) / 0.5)
    };
    let theory_db = -10.0 * (1.0 + (1_000.0 / LOW_F_HZ).powi(2)).log10();
    let cut_db = level_db(1_000.0, Cuts::All) - level_db(20.0, Cuts::All);
    // the room is fed a little less by what its lowest cut takes
    assert!((cut_db - theory_db).abs() < 1.5, "{cut_db} for {theory_db}");
    assert!(level_db(1_000.0, Cuts::Late) > -20.0);
}
