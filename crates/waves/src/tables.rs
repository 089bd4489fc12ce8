//! The tables that come with the application: each a rule from a position, 0 to 1, to harmonics. All are ours.

use std::f64::consts::{PI, TAU};

use zolvik_patch::wave::{MAX_HARMONICS, Table};

use zolvik_patch::filter::{FORMANTS_HZ, formants_between};

use crate::shapes;
use crate::spectrum::Spectrum;
use crate::squared::squared;

/// Cycles of each table.
pub(crate) const CYCLES: usize = 32;

/// Harmonics of a table at a position; loudness as it comes.
pub(crate) fn spectrum(table: Table, p: f64) -> Spectrum {
    let sines =
        |amplitude: &dyn Fn(f64) -> f64| Spectrum::sines(MAX_HARMONICS, |n| amplitude(n as f64));
    let only = |partials: &[usize], level: &dyn Fn(f64) -> f64| {
        Spectrum::sines(128, |n| match partials.iter().position(|h| *h == n) {
            Some(at) => level(at as f64),
            None => 0.0,
        })
    };
    let odd = |n: f64| f64::from(n as u32 % 2);
    match table {
        Table::Narrowing => shapes::pulse(0.5 * libm::pow(0.04, p)),
        Table::TwinGates => gates(&[0.0, 0.15 + 0.35 * p], 0.12),
        Table::PicketRow => pickets(p),
        Table::FiveVowels => along(&[AH, EH, EE, OH, OO], p, 1.0),
        Table::HumToAh => along(&[[250.0, 600.0, 2200.0], AH], p, 1.2),
        Table::FarChoir => scattered(along(&[OO, EH, EE], p, 0.6)),
        Table::ReedPipe => sines(&|n| odd(n) * libm::exp(-n / (1.5 + 28.0 * p * p))),
        Table::OddLadder => sines(&|n| {
            let enters = (n - 1.0) / 2.0;
            odd(n) * (p * 20.0 - enters + 1.0).clamp(0.0, 1.0) * f64::from(n < 41.0) / n.sqrt()
        }),
        Table::BottleRow => sines(&|n| {
            let gap = 1.0 - libm::exp(-squared(n - 1.0 - 20.0 * p) / 14.0);
            odd(n) * gap / n + if n == 1.0 { 0.3 } else { 0.0 }
        }),
        Table::TinLid => only(
            &[1, 5, 6, 11, 12, 13, 19, 20, 22, 31, 33, 34, 47, 50, 51],
            &|i| libm::exp(-squared(i - 14.0 * p) / 18.0) + 0.25 * libm::exp(-0.4 * i),
        ),
        Table::StruckBar => only(&[1, 3, 5, 9, 13, 19, 25], &|i| {
            libm::exp(-i * (1.6 - 1.5 * p)) * if i == 0.0 { 1.0 - 0.6 * p } else { 1.0 }
        }),
        Table::PrimeWire => only(
            &[
                1, 2, 3, 5, 7, 11, 13, 17, 19, 23, 29, 31, 37, 41, 43, 47, 53, 59, 61,
            ],
            &|i| libm::exp(-i * (0.7 - 0.65 * p)),
        ),
        Table::NineStops => only(&[1, 2, 3, 4, 6, 8, 10, 12, 16], &|i| {
            (p * 8.0 - i + 1.0).clamp(0.0, 1.0) * (1.0 - 0.06 * i)
        }),
        Table::OctaveStack => only(&[1, 2, 4, 8, 16, 32, 64, 128], &|i| {
            libm::exp(-squared(i - 5.5 * p) / (0.6 + 6.0 * p))
        }),
        Table::Mixture => only(&[1, 2, 4, 8, 16, 3, 6, 12, 5, 10, 20, 24], &|i| {
            if i < 5.0 {
                1.0 / (1.0 + 0.6 * i)
            } else {
                0.8 * (p * 7.0 - (i - 5.0)).clamp(0.0, 1.0)
            }
        }),
        Table::StairRamp => {
            let steps = libm::round(64.0 * libm::pow(2.0 / 64.0, p));
            Spectrum::of(|t| 2.0 * ((t * steps).floor() + 0.5) / steps - 1.0)
        }
        Table::BitWeave => weave(p),
        Table::GlassGrid => sines(&|n| {
            let from_edge = (n - 1.0 - 40.0 * p) / 4.0;
            libm::exp(-squared(squared(from_edge))) + if n == 1.0 { 0.2 } else { 0.0 }
        }),
        Table::LowGrowl => sines(&|n| resonance(n * 55.0, 160.0 * libm::pow(12.0, p), 4.0) / n),
        Table::Throat => sines(&|n| {
            let hz = n * 80.0;
            let (up, down) = (300.0 * libm::pow(5.0, p), 2600.0 * libm::pow(0.25, p));
            (resonance(hz, up, 6.0) + 0.7 * resonance(hz, down, 8.0)) / n.sqrt()
        }),
        Table::FoldRasp => {
            let drive = 1.0 + 8.0 * p;
            Spectrum::of(|t| libm::sin(0.5 * PI * drive * (1.0 - (2.0 * t - 1.0).abs() * 2.0)))
        }
        Table::SmallBell => only(&[2, 4, 5, 6, 8, 11, 13, 16, 21, 26], &|i| {
            libm::exp(-i * (2.6 - 2.3 * p)) * if i == 2.0 { 0.7 } else { 1.0 }
        }),
        Table::RubbedBowl => only(&[3, 8, 15, 25, 37, 52], &|i| {
            libm::exp(-squared(i - 3.5 * p) / 1.4)
        }),
        Table::ChimeCluster => only(
            &[4, 7, 9, 11, 16, 19, 23, 29, 36, 43, 53, 61, 71, 83],
            &|i| libm::exp(-squared(i - 1.0 - 11.0 * p) / 8.0),
        ),
    }
}

type Formants = [f64; 3];
const AH: Formants = FORMANTS_HZ[0];
const EH: Formants = FORMANTS_HZ[1];
const EE: Formants = FORMANTS_HZ[2];
const OH: Formants = FORMANTS_HZ[3];
const OO: Formants = FORMANTS_HZ[4];

/// A vowel between several, sung at 110 Hz; `tilt` is how fast harmonics fall.
fn along(vowels: &[Formants], p: f64, tilt: f64) -> Spectrum {
    let place = p * (vowels.len() - 1) as f64;
    let at = (place as usize).min(vowels.len() - 2);
    let share = place - at as f64;
    let [f1, f2, f3] = formants_between(vowels[at], vowels[at + 1], share);
    Spectrum::sines(MAX_HARMONICS, |n| {
        let hz = 110.0 * n as f64;
        let voice =
            resonance(hz, f1, 7.0) + 0.6 * resonance(hz, f2, 10.0) + 0.3 * resonance(hz, f3, 12.0);
        (voice + 0.01) / libm::pow(n as f64, tilt)
    })
}

/// Gain of a resonance: 1 at its centre, falling on both sides.
fn resonance(hz: f64, centre_hz: f64, sharpness: f64) -> f64 {
    let off = sharpness * (hz / centre_hz - centre_hz / hz);
    1.0 / (1.0 + off * off).sqrt()
}

/// The same amplitudes with phases spread out, the same on every cycle (golden-ratio sequence).
fn scattered(mut spectrum: Spectrum) -> Spectrum {
    for i in 0..spectrum.sine.len() {
        let angle = TAU * (i as f64 * 0.618_033_988_749_895).fract();
        let amplitude = spectrum.sine[i];
        spectrum.cosine[i] = amplitude * libm::sin(angle);
        spectrum.sine[i] = amplitude * libm::cos(angle);
    }
    spectrum
}

/// Pulses of one width at several places, in turns.
fn gates(places: &[f64], width: f64) -> Spectrum {
    let one = shapes::pulse(width);
    let mut sum = Spectrum::sines(MAX_HARMONICS, |_| 0.0);
    for place in places {
        for i in 0..MAX_HARMONICS {
            let angle = TAU * (i + 1) as f64 * place;
            let (c, s) = (libm::cos(angle), libm::sin(angle));
            sum.cosine[i] += one.cosine[i] * c - one.sine[i] * s;
            sum.sine[i] += one.cosine[i] * s + one.sine[i] * c;
        }
    }
    sum
}

/// One to nine narrow pulses, the last one rising.
fn pickets(p: f64) -> Spectrum {
    let count = 1.0 + 8.0 * p;
    let mut sum = Spectrum::sines(MAX_HARMONICS, |_| 0.0);
    for i in 0..count.ceil() as usize {
        let mut one = gates(&[0.08 * i as f64], 0.04);
        one.scale((count - i as f64).min(1.0));
        sum = Spectrum {
            cosine: sum
                .cosine
                .iter()
                .zip(&one.cosine)
                .map(|(a, b)| a + b)
                .collect(),
            sine: sum.sine.iter().zip(&one.sine).map(|(a, b)| a + b).collect(),
        };
    }
    sum
}

/// 32 steps up or down; from cycle to cycle one more of them has changed sides.
fn weave(p: f64) -> Spectrum {
    let changed = (p * (CYCLES - 1) as f64 + 0.5) as usize;
    // which step changes when: 11 and 32 have no common divisor, so each does once
    let turned = |step: usize| (0..changed).any(|i| i * 11 % 32 == step);
    Spectrum::of(|t| {
        let step = (t * 32.0) as usize % 32;
        let up = (step / 4 + step / 7).is_multiple_of(2);
        if up != turned(step) { 1.0 } else { -1.0 }
    })
}
