//! What modulation has to be by theory, and that neither rate nor quality changes it.

use rstest::rstest;
use zolvik_patch::Patch;
use zolvik_patch::document::{CycleShape, Quality, Send, UnitId};
use zolvik_patch::pitch::key_hz;
use zolvik_patch::wave::{Shape, Wave};

use crate::support::*;

/// Each rate and each quality, beside the finest.
const PLACES: [(f64, Quality); 7] = [
    (44_100.0, Quality::X1),
    (48_000.0, Quality::X1),
    (96_000.0, Quality::X1),
    (192_000.0, Quality::X1),
    (48_000.0, Quality::X2),
    (44_100.0, Quality::X4),
    (48_000.0, Quality::X8),
];

fn into_itself(index_rad: f64) -> Patch {
    let mut patch = plain_units(&[1.0]);
    connect(&mut patch, 1, TO_LEFT);
    connect(&mut patch, 1, index(1, index_rad));
    patch
}

fn through_zero(ratio: f64, deviation: f64) -> Patch {
    let mut patch = plain_units(&[1.0, ratio]);
    connect(&mut patch, 1, TO_LEFT);
    let to = UnitId(1);
    connect(&mut patch, 2, Send::Frequency { to, deviation });
    patch
}

/// Tomisawa's series: partial n of a sine that moves its own phase is `2 J_n(n index) / (n index)`.
#[rstest]
fn feedback_is_what_theory_has_of_it(
    #[values(0.1, 0.4, 0.8)] index_rad: f64,
    #[values(36, 60, 72)] key: u8,
    #[values(Quality::X1, Quality::X4)] quality: Quality,
) {
    let heard = second_of(&into_itself(index_rad), quality, RATE_HZ, key);
    let hz = key_hz(key.into());
    for n in 1..=10 {
        let bent = f64::from(n) * index_rad;
        let theory = 2.0 * libm::jn(n, bent) / bent;
        if theory < 1e-4 {
            break;
        }
        let (level, _) = partial(&heard, hz * f64::from(n));
        let off = off_db(level, theory);
        assert!(off.abs() < 0.1, "index {index_rad}, partial {n}: {off} dB");
    }
}

/// Whatever the index, also where it is beyond what has one answer.
#[rstest]
fn feedback_is_the_same_at_every_rate(#[values(0.6, 0.9, 1.2, 1.5)] index_rad: f64) {
    let patch = into_itself(index_rad);
    same_everywhere(&patch, 57, &[1.0; 12], 0.2);
}

/// A sine that moves the frequency of another by a share of it is phase modulation of index `deviation / ratio`.
#[rstest]
fn frequency_modulation_is_what_theory_has_of_it(
    #[values(48, 72, 96)] key: u8,
    #[values(1.37, 2.61)] ratio: f64,
    #[values(0.5, 3.0)] deviation: f64,
) {
    let hz = key_hz(key.into());
    let patch = through_zero(ratio, deviation);
    for (quality, most_db) in [(Quality::X1, 0.1), (Quality::X4, 0.05)] {
        let heard = second_of(&patch, quality, RATE_HZ, key);
        for n in 1..=6 {
            let at = hz * (1.0 + ratio * f64::from(n));
            if at > 10_000.0 {
                break;
            }
            let theory = libm::jn(n, deviation / ratio);
            if theory < 3e-3 {
                continue;
            }
            let (level, _) = partial(&heard, at);
            let off = off_db(level, theory);
            assert!(off.abs() < most_db, "{quality:?}, sideband {n}: {off} dB");
        }
    }
}

#[rstest]
#[case::frequency(through_zero(3.0, 4.0), 84)]
#[case::steep(through_zero(7.0, 3.0), 76)]
#[case::phase({ let mut p = plain_units(&[1.0, 3.0]); connect(&mut p, 1, TO_LEFT); connect(&mut p, 2, index(1, 2.0)); p }, 76)]
#[case::round({ let mut p = plain_units(&[1.0, 3.0]); connect(&mut p, 1, TO_LEFT); connect(&mut p, 2, index(1, 1.0)); connect(&mut p, 1, index(2, 0.4)); p }, 64)]
fn modulation_is_the_same_at_every_rate(#[case] patch: Patch, #[case] key: u8) {
    same_everywhere(&patch, key, &[1.0; 12], 0.2);
}

fn bent(wave: Shape, lean: f64, repeat: f64, fold: f64, steps: (f64, f64)) -> Patch {
    let mut patch = plain_units(&[1.0]);
    connect(&mut patch, 1, TO_LEFT);
    let operator = patch.units[0].oscillator_mut().unwrap();
    operator.wave = Wave::Shape(wave);
    operator.cycle = CycleShape {
        lean,
        repeat,
        fold,
        steps: steps.0,
        levels: steps.1,
    };
    patch
}

#[rstest]
#[case::lean(bent(Shape::Sine, 0.9, 1.0, 0.0, (0.0, 4.0)), 84)]
#[case::repeat(bent(Shape::Sine, 0.0, 3.3, 0.0, (0.0, 4.0)), 76)]
#[case::fold(bent(Shape::Sine, 0.0, 1.0, 0.9, (0.0, 4.0)), 84)]
#[case::steps(bent(Shape::Sine, 0.0, 1.0, 0.0, (1.0, 16.0)), 81)]
#[case::saw(bent(Shape::Saw, 0.5, 1.0, 0.4, (0.0, 4.0)), 72)]
#[case::all(bent(Shape::Sine, 0.6, 2.5, 0.5, (1.0, 4.0)), 69)]
fn bent_cycles_are_the_same_at_every_rate(#[case] patch: Patch, #[case] key: u8) {
    same_everywhere(&patch, key, &[1.0; 30], 0.2);
}

/// Partials of the key below 10 kHz, above -60 dB of the strongest, by 4x at 192 kHz.
fn same_everywhere(patch: &Patch, key: u8, partials: &[f64], most_db: f64) {
    let hz = key_hz(key.into());
    let levels = |quality, rate_hz| -> Vec<f64> {
        let heard = second_of(patch, quality, rate_hz, key);
        (1..=partials.len())
            .map(|n| hz * n as f64)
            .take_while(|hz| *hz < 10_000.0)
            .map(|hz| partial_at(&heard, hz, rate_hz).0)
            .collect()
    };
    let exact = levels(Quality::X4, 192_000.0);
    let top = exact.iter().copied().fold(0.0, f64::max);
    for (rate_hz, quality) in PLACES {
        for (n, (heard, exact)) in levels(quality, rate_hz).iter().zip(&exact).enumerate() {
            if *exact > 1e-3 * top {
                let off = off_db(*heard, *exact);
                assert!(
                    off.abs() < most_db,
                    "{rate_hz} Hz, {quality:?}, partial {}: {off} dB",
                    n + 1
                );
            }
        }
    }
}
