//! What is in a sound at one moment.

use rustfft::algorithm::Radix4;
use rustfft::num_complex::Complex32;
use rustfft::{Fft, FftDirection};
use serde::Serialize;

/// Lowest frequency of every picture, in hertz.
pub const LOWEST_HZ: f64 = 30.0;
/// Highest frequency of every picture, in hertz.
pub const HIGHEST_HZ: f64 = 18_000.0;

/// A transform of fixed size with its window, ready to be used many times. It looks at two moments at once:
/// one as real, one as imaginary part, told apart by symmetry (Cooley, Lewis, Welch, 1970).
///
/// The radix is chosen here instead of by the library's planner, which would bring a hundred kernels into the
/// browser module.
pub struct Transform {
    plan: Radix4<f32>,
    window: Vec<f32>,
    points: Vec<Complex32>,
    scratch: Vec<Complex32>,
}

impl Transform {
    /// A transform of `size` samples (a power of two) under a Hann window, scaled so that a full-scale sine
    /// reads 1.
    pub fn new(size: usize) -> Self {
        let plan = Radix4::new(size, FftDirection::Forward);
        let hann = |i: usize| {
            (1.0 - (2.0 * std::f64::consts::PI * i as f64 / size as f64).cos()) * 2.0 / size as f64
        };
        Transform {
            window: (0..size).map(|i| hann(i) as f32).collect(),
            points: vec![Complex32::default(); size],
            scratch: vec![Complex32::default(); plan.get_inplace_scratch_len()],
            plan,
        }
    }

    /// Number of samples it looks at.
    pub fn size(&self) -> usize {
        self.window.len()
    }

    /// Amplitudes from 0 Hz to half the rate around two frames of the mean of both channels, into `bins`;
    /// frames outside count as silence.
    pub fn amplitudes(
        &mut self,
        left: &[f32],
        right: &[f32],
        centres: [usize; 2],
        bins: &mut [Vec<f32>; 2],
    ) {
        let size = self.size();
        let sample = |centre: usize, i: usize| {
            let at = (centre + i).checked_sub(size / 2).unwrap_or(usize::MAX);
            left.get(at)
                .zip(right.get(at))
                .map_or(0.0, |(l, r)| 0.5 * (l + r))
        };
        for (i, (point, window)) in self.points.iter_mut().zip(&self.window).enumerate() {
            *point = Complex32::new(
                sample(centres[0], i) * window,
                sample(centres[1], i) * window,
            );
        }
        self.plan
            .process_with_scratch(&mut self.points, &mut self.scratch);
        bins.iter_mut().for_each(Vec::clear);
        for k in 0..=size / 2 {
            let (here, mirrored) = (self.points[k], self.points[(size - k) % size].conj());
            bins[0].push((here + mirrored).norm() * 0.5);
            bins[1].push((here - mirrored).norm() * 0.5);
        }
    }
}

/// Which bins make up each row of a picture with logarithmic frequency, lowest first.
pub struct Rows {
    ranges: Vec<(usize, usize, f32)>,
}

impl Rows {
    /// `count` rows from [`LOWEST_HZ`] to [`HIGHEST_HZ`] of a transform of `size` at `rate_hz`.
    pub fn new(count: usize, size: usize, rate_hz: f64) -> Self {
        let hz = |row: f64| LOWEST_HZ * (HIGHEST_HZ / LOWEST_HZ).powf(row / count as f64);
        let bin = |hz: f64| hz / rate_hz * size as f64;
        let last = size / 2;
        let range = |row: usize| {
            let (from, to) = (bin(hz(row as f64)), bin(hz(row as f64 + 1.0)));
            let low = (from.ceil() as usize).min(last);
            let high = (to.ceil() as usize).min(last + 1);
            // narrow rows lie between two bins: read off the line between them
            if high > low {
                (low, high, 0.0)
            } else {
                (
                    low.saturating_sub(1),
                    low,
                    ((from + to) / 2.0).fract() as f32,
                )
            }
        };
        Rows {
            ranges: (0..count).map(range).collect(),
        }
    }

    /// Strongest amplitude in each row.
    pub fn strongest<'a>(&'a self, bins: &'a [f32]) -> impl Iterator<Item = f32> + 'a {
        let at = |i: usize| bins.get(i).copied().unwrap_or(0.0);
        self.ranges.iter().map(move |(low, high, between)| {
            if *between > 0.0 {
                at(*low) * (1.0 - between) + at(*high) * between
            } else {
                (*low..*high).map(at).fold(0.0, f32::max)
            }
        })
    }
}

/// A partial of a sound.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Partial {
    /// Frequency in hertz.
    pub hz: f64,
    /// Level in dB of full scale.
    pub db: f64,
}

/// What is heard around one moment.
#[derive(Debug, Clone, PartialEq)]
pub struct Spectrum {
    /// Rows of logarithmic frequency, lowest first, in dB, -120 at least.
    pub rows_db: Vec<f32>,
    /// The strongest partials, loudest first, at most [`MAX_PARTIALS`].
    pub partials: Vec<Partial>,
}

/// Most partials named.
pub const MAX_PARTIALS: usize = 40;
/// What is this much weaker than the strongest is not named.
const NAMED_RANGE_DB: f64 = 60.0;

/// Spectrum around one moment in `rows` rows.
pub fn spectrum_at(
    left: &[f32],
    right: &[f32],
    rate_hz: f64,
    time_s: f64,
    rows: usize,
) -> Spectrum {
    const SIZE: usize = 8192;
    let mut transform = Transform::new(SIZE);
    let mut bins = [vec![], vec![]];
    let frame = (time_s.max(0.0) * rate_hz) as usize;
    transform.amplitudes(left, right, [frame; 2], &mut bins);
    let rows = Rows::new(rows, SIZE, rate_hz);
    Spectrum {
        rows_db: rows.strongest(&bins[0]).map(decibels).collect(),
        partials: partials(&bins[0], rate_hz / SIZE as f64),
    }
}

fn decibels(amplitude: f32) -> f32 {
    20.0 * amplitude.max(1e-6).log10()
}

/// Peaks of a spectrum, placed between bins by a parabola through three levels in dB (Smith and Serra,
/// "PARSHL", 1987). Under a Hann window this is within a twentieth of a bin for partials that stand apart.
fn partials(bins: &[f32], bin_hz: f64) -> Vec<Partial> {
    let db = |i: usize| f64::from(decibels(bins[i]));
    let peak = |i: usize| {
        let (a, b, c) = (db(i - 1), db(i), db(i + 1));
        let shift = 0.5 * (a - c) / (a - 2.0 * b + c);
        Partial {
            hz: (i as f64 + shift) * bin_hz,
            db: b - 0.25 * (a - c) * shift,
        }
    };
    let is_peak = |i: &usize| bins[*i] > bins[i - 1] && bins[*i] >= bins[i + 1] && bins[*i] > 1e-5;
    let mut found: Vec<Partial> = (1..bins.len().saturating_sub(1))
        .filter(is_peak)
        .map(peak)
        .collect();
    found.sort_by(|a, b| b.db.total_cmp(&a.db));
    let floor_db = found.first().map_or(0.0, |p| p.db) - NAMED_RANGE_DB;
    found.retain(|p| p.db > floor_db);
    found.truncate(MAX_PARTIALS);
    found
}
