//! Waves drawn as bars.

use std::f64::consts::TAU;

use zolvik_patch::wave::{Bars, MAX_BARS};

use crate::spectrum::Spectrum;

/// Bars that sound like a spectrum's first 64 harmonics; the strongest is drawn full.
pub fn to_bars(spectrum: &Spectrum) -> Bars {
    let strongest = (1..=MAX_BARS)
        .map(|n| spectrum.amplitude(n))
        .fold(1e-9, f64::max);
    let mut bars = Bars {
        amplitudes: vec![],
        phases_turns: vec![],
    };
    let rounded = |value: f64| libm::round(value * 10_000.0) / 10_000.0;
    for n in 1..=MAX_BARS.min(spectrum.cosine.len()) {
        let amplitude = rounded(spectrum.amplitude(n) / strongest);
        if amplitude > 0.0 {
            let angle = libm::atan2(spectrum.cosine[n - 1], spectrum.sine[n - 1]);
            bars.set(n, amplitude, rounded(angle / TAU));
        }
    }
    bars
}

/// Harmonics of bars.
pub(crate) fn of_bars(bars: &Bars) -> Spectrum {
    let parts = |part: &dyn Fn(f64, f64) -> f64| {
        (1..=bars.amplitudes.len())
            .map(|n| {
                let (amplitude, phase) = bars.harmonic(n);
                part(amplitude, TAU * phase)
            })
            .collect()
    };
    Spectrum {
        cosine: parts(&|a, angle| a * libm::sin(angle)),
        sine: parts(&|a, angle| a * libm::cos(angle)),
    }
}
