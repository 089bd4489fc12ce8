//! What bends: nothing that does not belong, and as loud as before.

use rstest::rstest;
use zolvik_effects::bent;
use zolvik_patch::finish::{Bend, Drive, EffectName};

use crate::bench::{Bench, amplitude, db, rms, sine};

const RATE_HZ: f64 = 48_000.0;

/// The loudest partial that is no harmonic, over the loudest that is, in decibels.
fn aliases_db(y: &[f32], hz: f64) -> f64 {
    let harmonics: Vec<f64> = (1..)
        .map(|n| n as f64 * hz)
        .take_while(|f| *f < RATE_HZ / 2.0)
        .collect();
    let loudest = harmonics
        .iter()
        .map(|f| amplitude(y, *f, RATE_HZ))
        .fold(0.0, f64::max);
    // where harmonics beyond half the rate would fold to
    let folded = (1..400).map(|n| n as f64 * hz).filter_map(|f| {
        let at = f.rem_euclid(RATE_HZ);
        let at = at.min(RATE_HZ - at);
        let near = harmonics.iter().any(|h| (h - at).abs() < 12.0);
        (f > RATE_HZ / 2.0 && !near && at > 20.0 && at < 20_000.0).then_some(at)
    });
    let worst = folded.map(|f| amplitude(y, f, RATE_HZ)).fold(0.0, f64::max);
    db(worst / loudest)
}

#[rstest]
fn at_four_times_the_rate_nothing_folds(
    #[values(0, 1, 2, 3, 4, 5)] bend: usize,
    #[values((997.0, 24.0), (4_999.0, 12.0))] (hz, drive_db): (f64, f64),
) {
    let mut bench = Bench::new(EffectName::Drive, RATE_HZ)
        .choose(Drive::BEND, bend)
        .choose(Drive::FINENESS, 2)
        .set(Drive::DRIVE_DB, drive_db);
    let y = bench.mono(&sine(hz, 1.0, 1.0, RATE_HZ));
    let left = aliases_db(&y[9_600..], hz);
    println!("{bend} {hz} Hz {drive_db} dB: {left:.1} dB");
    assert!(left < -80.0, "{left} dB");
}

/// Hard clipping by Fourier's series.
#[test]
fn hard_clipping_has_the_partials_of_theory() {
    let mut bench = Bench::new(EffectName::Drive, RATE_HZ)
        .choose(Drive::BEND, 1)
        .set(Drive::DRIVE_DB, 12.0);
    let y = bench.mono(&sine(500.0, 1.0, 1.0, RATE_HZ));
    let times = 10f64.powf(12.0 / 20.0);
    let part = |n: usize| {
        let steps = 20_000;
        let sum: f64 = (0..steps)
            .map(|i| {
                let t = std::f64::consts::TAU * (i as f64 + 0.5) / f64::from(steps);
                (times * t.sin()).clamp(-1.0, 1.0) * (n as f64 * t).sin()
            })
            .sum();
        2.0 * sum / f64::from(steps)
    };
    let first = amplitude(&y[9_600..], 500.0, RATE_HZ);
    for n in [3, 5, 7, 9, 15, 21] {
        let is = db(amplitude(&y[9_600..], 500.0 * n as f64, RATE_HZ) / first);
        let should = db(part(n).abs() / part(1));
        assert!((is - should).abs() < 0.2, "partial {n}: {is} dB, {should}");
    }
}

#[rstest]
fn a_drive_is_about_as_loud_as_what_came(
    #[values(0, 1, 2, 3, 4, 6)] bend: usize,
    #[values(0.0, 6.0, 18.0, 36.0)] drive_db: f64,
) {
    let mut bench = Bench::new(EffectName::Drive, RATE_HZ)
        .choose(Drive::BEND, bend)
        .set(Drive::DRIVE_DB, drive_db);
    let x = sine(220.0, 0.25, 0.5, RATE_HZ);
    let y = bench.mono(&x);
    let louder = db(rms(&y[9_600..]) / rms(&x[9_600..]));
    assert!(louder.abs() < 1.5, "{louder} dB");
}

/// Bits: as many steps as are set, and held for as long.
#[test]
fn bits_leave_as_many_steps_as_are_set() {
    let mut bench = Bench::new(EffectName::Drive, RATE_HZ)
        .choose(Drive::BEND, 7)
        .set(Drive::BITS, 3.0)
        .set(Drive::STEP_HZ, 6_000.0);
    let y = bench.mono(&sine(50.0, 1.0, 0.5, RATE_HZ));
    let mut levels: Vec<i32> = y.iter().map(|x| (x * 1_000.0).round() as i32).collect();
    let changes = levels.windows(2).filter(|w| w[0] != w[1]).count();
    levels.sort_unstable();
    levels.dedup();
    assert_eq!(levels.len(), 9, "{levels:?}");
    assert!(changes < 3_000 && changes > 300, "{changes}");
}

/// The picture of a curve is the curve: by its formula, over twice the full height, moved by the bias.
#[rstest]
#[case::hard(Bend::Hard, |x: f64| x.clamp(-1.0, 1.0), 1e-6)]
#[case::fold(Bend::Fold, f64::sin, 1e-3)]
#[case::soft(Bend::Soft, f64::tanh, 0.03)]
#[case::rectify(Bend::Rectify, |x: f64| x.abs().tanh(), 0.03)]
fn the_picture_of_a_drive_is_its_curve(
    #[case] bend: Bend,
    #[case] formula: fn(f64) -> f64,
    #[case] within: f64,
) {
    for bias in [0.0, 0.5] {
        let rows = Drive {
            bend,
            bias,
            ..Drive::default()
        };
        let picture = bent(&rows, &[], 2.0, 41);
        for (i, y) in picture.into_iter().enumerate() {
            let x = i as f64 / 10.0 - 2.0;
            let expected = formula(x + bias);
            assert!((f64::from(y) - expected).abs() < within, "{y} at {x}");
        }
    }
}

/// Three bits leave steps of a quarter.
#[test]
fn the_picture_of_bits_has_their_steps() {
    let rows = Drive {
        bend: Bend::Bits,
        bits: 3.0,
        ..Drive::default()
    };
    let picture = bent(&rows, &[], 1.0, 9);
    let steps: Vec<f32> = (0..9).map(|i| i as f32 / 4.0 - 1.0).collect();
    assert_eq!(picture, steps);
}
