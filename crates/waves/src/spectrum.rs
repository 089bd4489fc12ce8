//! A cycle as harmonics.

use std::f64::consts::TAU;

use zolvik_patch::wave::MAX_HARMONICS;

use crate::fourier::Fourier;

/// Harmonics of one cycle: `sum cosine[n-1] cos(2 pi n t) + sine[n-1] sin(2 pi n t)`, t in turns. There is no
/// constant part.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Spectrum {
    /// Cosine parts, from the first harmonic.
    pub cosine: Vec<f64>,
    /// Sine parts, from the first harmonic; as many.
    pub sine: Vec<f64>,
}

/// Points a cycle is sampled at where its harmonics have no closed form: far more than harmonics, so that what
/// folds back stays 40 dB below each of them.
const SAMPLED: usize = 1 << 13;

impl Spectrum {
    /// Sine parts only, from a function of the harmonic's number.
    pub fn sines(harmonics: usize, amplitude: impl Fn(usize) -> f64) -> Self {
        Spectrum {
            cosine: vec![0.0; harmonics],
            sine: (1..=harmonics).map(amplitude).collect(),
        }
    }

    /// Harmonics of a cycle given as a function of the time in turns, 0 to 1.
    pub fn of(cycle: impl Fn(f64) -> f64) -> Self {
        let mut re: Vec<f64> = (0..SAMPLED)
            .map(|i| cycle((i as f64 + 0.5) / SAMPLED as f64))
            .collect();
        let mut im = vec![0.0; SAMPLED];
        Fourier::new(SAMPLED).turn(&mut re, &mut im);
        let scale = 2.0 / SAMPLED as f64;
        let mut spectrum = Spectrum::default();
        for n in 1..=MAX_HARMONICS {
            // samples lie half a step late; e^(+i..) gives the sine part with its sign
            let late = TAU * n as f64 * 0.5 / SAMPLED as f64;
            let (c, s) = (libm::cos(late), libm::sin(late));
            spectrum.cosine.push((re[n] * c - im[n] * s) * scale);
            spectrum.sine.push((im[n] * c + re[n] * s) * scale);
        }
        spectrum
    }

    /// The number of its highest harmonic that is more than rounding.
    pub fn reach(&self) -> usize {
        let strongest = (1..=self.cosine.len())
            .map(|n| self.amplitude(n))
            .fold(0.0, f64::max);
        (1..=self.cosine.len())
            .rev()
            .find(|n| self.amplitude(*n) > strongest * 1e-6)
            .unwrap_or(0)
    }

    /// Amplitude of a harmonic, counted from 1.
    pub fn amplitude(&self, n: usize) -> f64 {
        match (self.cosine.get(n - 1), self.sine.get(n - 1)) {
            (Some(a), Some(b)) => (a * a + b * b).sqrt(),
            _ => 0.0,
        }
    }

    /// Points of the cycle, evenly spaced from its start; a power of two of them. Harmonics that do not fit
    /// into them, or above `most`, are left out.
    pub fn cycle(&self, points: usize, most: usize) -> Vec<f64> {
        self.cycle_with(&Fourier::new(points), points, most)
    }

    pub(crate) fn cycle_with(&self, fourier: &Fourier, points: usize, most: usize) -> Vec<f64> {
        let (mut re, mut im) = (vec![0.0; points], vec![0.0; points]);
        let harmonics = self.cosine.len().min(most).min(points / 2 - 1);
        re[1..=harmonics].copy_from_slice(&self.cosine[..harmonics]);
        for (im, sine) in im[1..].iter_mut().zip(&self.sine[..harmonics]) {
            *im = -sine;
        }
        fourier.turn(&mut re, &mut im);
        re
    }

    /// The same cycle, as loud as its highest point allows.
    pub fn to_full(mut self) -> Self {
        let peak = self
            .cycle(2048, MAX_HARMONICS)
            .iter()
            .fold(0.0f64, |peak, x| peak.max(x.abs()));
        if peak > 1e-9 {
            self.scale(1.0 / peak);
        }
        self
    }

    pub(crate) fn scale(&mut self, factor: f64) {
        let parts = self.cosine.iter_mut().chain(&mut self.sine);
        parts.for_each(|part| *part *= factor);
    }

    /// This and another one, mixed: `share` 0 is this one alone.
    pub fn mixed(&self, other: &Spectrum, share: f64) -> Spectrum {
        let mix = |a: &[f64], b: &[f64]| {
            let of = |list: &[f64], i: usize| list.get(i).copied().unwrap_or(0.0);
            (0..a.len().max(b.len()))
                .map(|i| of(a, i) + share * (of(b, i) - of(a, i)))
                .collect()
        };
        Spectrum {
            cosine: mix(&self.cosine, &other.cosine),
            sine: mix(&self.sine, &other.sine),
        }
    }
}
