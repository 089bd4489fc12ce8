//! What of a spectrum falls into each row of a picture.

use rustfft::algorithm::Radix4;
use rustfft::num_complex::Complex32;
use rustfft::{Fft, FftDirection};

/// Decibels of a power, within 0.001, by a polynomial on the mantissa; what is below -150 counts as that.
pub fn power_db(power: f32) -> f32 {
    let bits = power.max(1e-15).to_bits();
    let exponent = (bits >> 23) as i32 - 127;
    let m = f32::from_bits(bits & 0x007F_FFFF | 0x3F80_0000);
    // log2 of 1 to 2: odd powers of (m - 1) / (m + 1), as the series of artanh has them
    let t = (m - 1.0) / (m + 1.0);
    let square = t * t;
    let series = 1.0 + square * (1.0 / 3.0 + square * (0.2 + square * (1.0 / 7.0 + square / 9.0)));
    let log2 = exponent as f32 + 2.0 / std::f32::consts::LN_2 * t * series;
    3.010_3 * log2
}

/// A transform that looks at both channels at once, one as real, one as imaginary part, told apart by symmetry (Cooley, Lewis, Welch,
/// 1970). Its window is the one of three cosines whose side lobes are lowest, 71 dB down (Nuttall, "Some windows with very good sidelobe
/// behavior", 1981); 1.3 times as long as Hann's it tells partials apart nearly as well as that, without the lines beside each that this would draw.
pub struct Looker {
    plan: Radix4<f32>,
    window: Vec<f32>,
    points: Vec<Complex32>,
    scratch: Vec<Complex32>,
}

impl Looker {
    /// As sharp in frequency as `size` samples (a power of two) under a Hann window, scaled so that a full-scale sine reads 1.
    pub fn new(size: usize) -> Self {
        let plan = Radix4::new(2 * size, FftDirection::Forward);
        let length = length_of(size);
        let turn = 2.0 * std::f64::consts::PI / length as f64;
        let window = |i: usize| {
            let at = turn * (i as f64 + 0.5);
            let sum = 0.424_380_1 - 0.497_340_6 * libm::cos(at) + 0.078_279_3 * libm::cos(2.0 * at);
            sum / 0.424_380_1 * 2.0 / length as f64
        };
        Looker {
            window: (0..length).map(|i| window(i) as f32).collect(),
            points: vec![Complex32::default(); 2 * size],
            scratch: vec![Complex32::default(); plan.get_inplace_scratch_len()],
            plan,
        }
    }

    /// Samples it looks at.
    pub fn length(&self) -> usize {
        self.window.len()
    }

    /// Bins of a hertz, at a rate.
    pub fn bins_a_hz(&self, rate_hz: f64) -> f64 {
        self.points.len() as f64 / rate_hz
    }

    /// Powers of left and right in the bins up to `last`, around a sample; what lies outside of the sound counts as silence.
    pub fn look(
        &mut self,
        [left, right]: [&[f32]; 2],
        centre: usize,
        powers: &mut [Vec<f32>; 2],
        last: usize,
    ) {
        let (size, length) = (self.points.len() / 2, self.window.len());
        for (i, (point, window)) in self.points.iter_mut().zip(&self.window).enumerate() {
            let at = (centre + i).wrapping_sub(length / 2);
            let sample = |side: &[f32]| side.get(at).copied().unwrap_or(0.0) * window;
            *point = Complex32::new(sample(left), sample(right));
        }
        self.points[length..].fill(Complex32::default());
        self.plan
            .process_with_scratch(&mut self.points, &mut self.scratch);
        powers.iter_mut().for_each(Vec::clear);
        for k in 0..=last.min(size) {
            let (here, mirrored) = (
                self.points[k],
                self.points[(2 * size - k) % (2 * size)].conj(),
            );
            powers[0].push((here + mirrored).norm_sqr() * 0.25);
            powers[1].push((here - mirrored).norm_sqr() * 0.25);
        }
    }
}

/// Samples a looker of a size looks at.
pub fn length_of(size: usize) -> usize {
    size * 13 / 10
}

/// The highest level of a spectrum between two places, in bins: of what stands there, of peaks between bins (by a parabola through three levels
/// in dB; Smith and Serra, "PARSHL", 1987), and of its flanks at both ends.
pub fn highest_db(db: &[f32], from: f32, to: f32) -> f32 {
    let last = db.len() - 1;
    let at = |place: f32| {
        let low = (place as usize).min(last);
        let share = (place - low as f32).clamp(0.0, 1.0);
        db[low] + (db[(low + 1).min(last)] - db[low]) * share
    };
    let mut highest = at(from).max(at(to));
    for k in (from as usize).max(1)..=(to as usize + 1).min(last.saturating_sub(1)) {
        let (a, b, c) = (db[k - 1], db[k], db[k + 1]);
        let inside = |place: f32| place >= from && place <= to;
        if inside(k as f32) {
            highest = highest.max(b);
        }
        if b > a && b >= c {
            let shift = 0.5 * (a - c) / (a - 2.0 * b + c);
            if inside(k as f32 + shift) {
                highest = highest.max(b - 0.25 * (a - c) * shift);
            }
        }
    }
    highest
}

#[cfg(test)]
#[allow(clippy::disallowed_methods)] // references are reckoned in their own way
mod tests {
    use super::*;

    #[test]
    fn decibels_are_those_of_the_logarithm() {
        for n in -1400..400 {
            let power = 10f64.powf(f64::from(n) * 0.01);
            let error = f64::from(power_db(power as f32)) - 10.0 * power.log10();
            assert!(error.abs() < 0.001, "{n}: {error}");
        }
        assert!((power_db(0.0) + 150.0).abs() < 0.01);
    }
}
