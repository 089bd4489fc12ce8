//! Partials and pitch against theory.

use rstest::rstest;
use zolvik_patch::document::Bus;
use zolvik_patch::pitch::key_hz;

use crate::support::*;

/// The bar: every partial above -80 dB to 0.05 dB.
const TOLERANCE_DB: f64 = 0.05;

#[rstest]
#[case::gentle(0.5)]
#[case::one_radian(1.0)]
#[case::carrier_vanishes(2.404_825_557_695_773)]
#[case::bright(5.0)]
#[case::extreme(10.0)]
fn sidebands_follow_bessel_theory(#[case] index_rad: f64) {
    let mut patch = plain_units(&[4.0, 0.312]);
    connect(&mut patch, 1, TO_LEFT);
    connect(&mut patch, 2, index(1, index_rad));
    let mut engine = engine(&patch);
    engine.note_on(69, 127);
    take(&mut engine, 4800);
    let (samples, _) = take(&mut engine, 4 * 48_000);
    let (carrier_hz, modulator_hz) = (4.0 * 440.0, 0.312 * 440.0);
    let mut checked = 0;
    for n in -24i32..=24 {
        let theory = libm::jn(n, index_rad).abs();
        if theory < 1e-4 {
            continue;
        }
        let hz = (carrier_hz + f64::from(n) * modulator_hz).abs();
        let (measured, _) = partial(&samples, hz);
        let error_db = 20.0 * (measured / theory).log10();
        assert!(
            error_db.abs() < TOLERANCE_DB,
            "index {index_rad}, partial {n}: {measured}, theory {theory}, {error_db} dB"
        );
        checked += 1;
    }
    assert!(checked >= 7, "only {checked} partials above -80 dB");
}

#[test]
fn feedback_of_one_radian_follows_the_series() {
    // y = sin(x + b y) has the harmonics 2 J_n(n b) / (n b) (Kepler's equation; Bessel, 1824). The average of
    // two samples and the delay of 1.5 samples bend this slightly, so a low key is measured.
    let mut patch = plain_units(&[1.0]);
    connect(&mut patch, 1, TO_LEFT);
    connect(&mut patch, 1, index(1, 0.5));
    let mut engine = engine(&patch);
    engine.note_on(33, 127);
    take(&mut engine, 4800);
    let (samples, _) = take(&mut engine, 96_000);
    for n in 1..=5 {
        let theory = 2.0 * libm::jn(n, f64::from(n) * 0.5) / (f64::from(n) * 0.5);
        let (measured, _) = partial(&samples, key_hz(33.0) * f64::from(n));
        let error_db = 20.0 * (measured / theory).log10();
        assert!(
            error_db.abs() < 0.2,
            "harmonic {n}: {measured}, theory {theory}"
        );
    }
}

#[test]
fn pitch_stays_within_a_hundredth_of_a_cent() {
    for key in 0..=127u8 {
        let hz = key_hz(key.into());
        if hz > 0.46 * RATE_HZ {
            continue;
        }
        let mut patch = plain_units(&[1.0]);
        connect(&mut patch, 1, TO_LEFT);
        let mut engine = engine(&patch);
        engine.note_on(key, 127);
        take(&mut engine, 2400);
        // phase drift against the exact frequency between two halves of four seconds
        let (samples, _) = take(&mut engine, 4 * 48_000);
        let (first, second) = samples.split_at(2 * 48_000);
        let expected = (hz * 2.0).fract();
        let drift = partial(second, hz).1 - partial(first, hz).1 - expected;
        let drift = drift - drift.round();
        let cents = 1200.0 * (1.0 + drift / 2.0 / hz).log2();
        assert!(cents.abs() < 0.01, "key {key}: {cents} cents");
    }
}

#[rstest]
#[case::attack_of_100_ms_straight(100.0, 0.0, 50.0, 0.5)]
#[case::attack_bent_fast(100.0, 0.5, 50.0, (1.0 - (-1.5f64).exp()) / (1.0 - (-3.0f64).exp()))]
#[case::attack_bent_slow(100.0, -0.5, 50.0, (1.0 - 1.5f64.exp()) / (1.0 - 3.0f64.exp()))]
fn envelope_passes_through_its_formula(
    #[case] attack_ms: f64,
    #[case] curve: f64,
    #[case] at_ms: f64,
    #[case] level: f64,
) {
    let mut patch = plain_units(&[1.0]);
    connect(&mut patch, 1, TO_LEFT);
    patch.units[0].envelope.points[0].time_s = attack_ms / 1000.0;
    patch.units[0].envelope.points[0].curve = curve;
    let mut engine = engine(&patch);
    engine.note_on(60, 127);
    take(&mut engine, (at_ms * 48.0) as usize);
    let amplitude = f64::from(engine.unit_amplitude(patch.units[0].id));
    assert!(
        (amplitude - level).abs() < 1e-4,
        "{amplitude}, should be {level}"
    );
}

#[test]
fn pan_keeps_power() {
    for pan in [-1.0, -0.4, 0.0, 0.7, 1.0] {
        let mut patch = plain_units(&[1.0]);
        connect(
            &mut patch,
            1,
            zolvik_patch::document::Send::Output {
                level_db: 0.0,
                pan,
                bus: Bus::Main,
            },
        );
        let mut engine = engine(&patch);
        engine.note_on(69, 127);
        take(&mut engine, 4800);
        let (l, r) = take(&mut engine, 48_000);
        let power = partial(&l, 440.0).0.powi(2) + partial(&r, 440.0).0.powi(2);
        assert!((power - 1.0).abs() < 1e-3, "pan {pan}: power {power}");
    }
}
