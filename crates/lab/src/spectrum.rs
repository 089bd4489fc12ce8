//! What is in a sound at one moment.

use rustfft::algorithm::Radix4;
use rustfft::num_complex::Complex32;
use rustfft::{Fft, FftDirection};
use serde::{Deserialize, Serialize};

use crate::picture::pyramid::Pyramid;
use crate::picture::rows::{Looker, highest_db, length_of, power_db};

/// Lowest frequency of every picture, in hertz.
pub const LOWEST_HZ: f64 = 20.0;
/// Highest frequency of every picture, in hertz.
pub const HIGHEST_HZ: f64 = 20_000.0;

/// The frequencies that are looked at.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(default)]
pub struct Span {
    /// Lowest, in hertz.
    pub from_hz: f64,
    /// Highest, in hertz.
    pub to_hz: f64,
}

impl Default for Span {
    fn default() -> Self {
        Span {
            from_hz: LOWEST_HZ,
            to_hz: HIGHEST_HZ,
        }
    }
}

/// A span is no narrower than a third of an octave.
const NARROWEST: f64 = 1.26;

impl Span {
    /// The same within what there is to be seen.
    pub fn held(self) -> Self {
        let from_hz = self.from_hz.clamp(LOWEST_HZ, HIGHEST_HZ / NARROWEST);
        Span {
            from_hz,
            to_hz: self.to_hz.clamp(from_hz * NARROWEST, HIGHEST_HZ),
        }
    }

    /// So many times as wide, around a frequency that stays where it is.
    pub fn zoomed(self, around_hz: f64, times: f64) -> Self {
        let end = |hz: f64| around_hz * (hz / around_hz).powf(times);
        let (from_hz, to_hz) = (end(self.from_hz), end(self.to_hz));
        Span { from_hz, to_hz }.held()
    }

    /// As wide as it is, so many times higher, as far as there is something to be seen.
    pub fn moved(self, ratio: f64) -> Self {
        let ratio = ratio.clamp(LOWEST_HZ / self.from_hz, HIGHEST_HZ / self.to_hz);
        Span {
            from_hz: self.from_hz * ratio,
            to_hz: self.to_hz * ratio,
        }
    }

    /// Where a row of so many begins, in hertz; whole rows from 0 up to `count`.
    pub fn row_hz(self, row: f64, count: usize) -> f64 {
        self.from_hz * (self.to_hz / self.from_hz).powf(row / count as f64)
    }
}

/// As [`Span::row_hz`], of all there is to be seen.
pub fn row_hz(row: f64, count: usize) -> f64 {
    Span::default().row_hz(row, count)
}

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
        self.mixed([left, right], 1.0, centres, bins);
    }

    /// As [`Transform::amplitudes`], of half the difference of both channels.
    pub fn side_amplitudes(
        &mut self,
        left: &[f32],
        right: &[f32],
        centres: [usize; 2],
        bins: &mut [Vec<f32>; 2],
    ) {
        self.mixed([left, right], -1.0, centres, bins);
    }

    fn mixed(
        &mut self,
        [left, right]: [&[f32]; 2],
        right_gain: f32,
        centres: [usize; 2],
        bins: &mut [Vec<f32>; 2],
    ) {
        let size = self.size();
        let sample = |centre: usize, i: usize| {
            let at = (centre + i).checked_sub(size / 2).unwrap_or(usize::MAX);
            left.get(at)
                .zip(right.get(at))
                .map_or(0.0, |(l, r)| 0.5 * (l + right_gain * r))
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
            bins[0].push((here + mirrored).norm_sqr().sqrt() * 0.5);
            bins[1].push((here - mirrored).norm_sqr().sqrt() * 0.5);
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
        let hz = |row: f64| row_hz(row, count);
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
    /// Where each row stands: -1 is left, 1 is right.
    pub rows_place: Vec<f32>,
    /// The strongest partials, loudest first, at most [`MAX_PARTIALS`].
    pub partials: Vec<Partial>,
    /// How far partials must stand apart to be seen as two, in hertz: below [`LOW_HZ`], and above.
    apart_hz: [f64; 2],
}

impl Spectrum {
    /// How far partials around a frequency must stand apart to be seen as two, in hertz.
    pub fn apart_hz(&self, hz: f64) -> f64 {
        self.apart_hz[usize::from(hz >= LOW_HZ)]
    }
}

/// Most partials named.
pub const MAX_PARTIALS: usize = 40;
/// What is this much weaker than the strongest is not named.
const NAMED_RANGE_DB: f64 = 60.0;

/// Below this lows are looked at through a longer window, in hertz.
const LOW_HZ: f64 = 200.0;
/// How often the rate is halved for that.
const LOW_STEP: usize = 5;
/// Windows for what is below, in samples of the slower rate, longest first: 1.8 s, 0.9 s, 0.44 s, 0.22 s at 48 kHz.
const LOW_WINDOWS: [usize; 4] = [2048, 1024, 512, 256];
/// A window is too long where one half of it is this much stronger than the other: what is seen then is over, or not yet there.
const UNEVEN: f32 = 3.0;

/// Powers of left and right in the bins of one transform.
struct Look {
    powers: [Vec<f32>; 2],
    db: Vec<f32>,
    bins_a_hz: f64,
    /// How far two partials must stand apart to be seen as two: the main lobe of Hann's window, from its top to its foot.
    apart_hz: f64,
}

impl Look {
    fn new(size: usize, rate_hz: f64, sides: [&[f32]; 2], centre: usize) -> Self {
        let mut looker = Looker::new(size);
        let mut powers = [vec![], vec![]];
        looker.look(sides, centre, &mut powers, size);
        let both = powers[0].iter().zip(&powers[1]);
        Look {
            db: both.map(|(l, r)| power_db(0.5 * (l + r))).collect(),
            powers,
            bins_a_hz: looker.bins_a_hz(rate_hz),
            apart_hz: 2.0 * rate_hz / size as f64,
        }
    }

    /// Level and place of what stands between two frequencies.
    fn row(&self, from_hz: f64, to_hz: f64) -> (f32, f32) {
        let (from, to) = (from_hz * self.bins_a_hz, to_hz * self.bins_a_hz);
        let sum = |side: &[f32]| -> f32 {
            let range = from as usize..(to as usize + 2).min(side.len());
            side.get(range).unwrap_or(&[]).iter().sum()
        };
        let [left, right] = [sum(&self.powers[0]), sum(&self.powers[1])];
        let place = (right - left) / (left + right).max(1e-12);
        (highest_db(&self.db, from as f32, to as f32), place)
    }
}

/// Spectrum around one moment in `rows` rows: through 0.22 s, and for lows through as much more as stays as it is.
pub fn spectrum_at(
    left: &[f32],
    right: &[f32],
    rate_hz: f64,
    time_s: f64,
    rows: usize,
) -> Spectrum {
    spectrum_within([left, right], rate_hz, time_s, rows, Span::default())
}

/// The same with the rows of a part of the frequencies.
pub fn spectrum_within(
    sides: [&[f32]; 2],
    rate_hz: f64,
    time_s: f64,
    rows: usize,
    span: Span,
) -> Spectrum {
    const SIZE: usize = 8192;
    let frame = (time_s.max(0.0) * rate_hz) as usize;
    let look = Look::new(SIZE, rate_hz, sides, frame);
    let low = look_low(sides, rate_hz, frame);
    let at = |row: usize| {
        let (from, to) = (
            span.row_hz(row as f64, rows),
            span.row_hz(row as f64 + 1.0, rows),
        );
        let which = if to < LOW_HZ { &low } else { &look };
        let (db, place) = which.row(from, to.min(0.5 * rate_hz));
        (db.max(-120.0), place)
    };
    let (rows_db, rows_place) = (0..rows).map(at).unzip();
    let mut partials = peaks(&low);
    partials.retain(|p| p.hz < LOW_HZ);
    partials.extend(peaks(&look).into_iter().filter(|p| p.hz >= LOW_HZ));
    Spectrum {
        rows_db,
        rows_place,
        partials: strongest(partials),
        apart_hz: [low.apart_hz, look.apart_hz],
    }
}

fn look_low(sides: [&[f32]; 2], rate_hz: f64, frame: usize) -> Look {
    let slow = 1 << LOW_STEP;
    let half = length_of(LOW_WINDOWS[0]) / 2 * slow;
    // only what the longest window looks at, and what the filters reach
    let begin = frame.saturating_sub(half + 64 * slow) / slow * slow;
    let end = (frame + half + 64 * slow).min(sides[0].len());
    let mut pyramid = Pyramid::new(LOW_STEP);
    let part = |side: &'_ [f32]| -> Vec<f32> {
        let mut part = side.get(begin..end.max(begin)).unwrap_or(&[]).to_vec();
        part.resize(part.len() + 64 * slow, 0.0);
        part
    };
    pyramid.hear(&part(sides[0]), &part(sides[1]));
    let centre = (frame.saturating_sub(begin)) / slow;
    let slow_sides = pyramid.sides(LOW_STEP);
    let power = |from: usize, to: usize| -> f32 {
        let of = |side: &[f32]| -> f32 {
            let part = side.get(from..to.min(side.len())).unwrap_or(&[]);
            part.iter().map(|x| x * x).sum()
        };
        of(slow_sides[0]) + of(slow_sides[1]) + 1e-12
    };
    let steady = |size: &&usize| {
        let half = length_of(**size) / 2;
        // before the press and beyond the end there is nothing to be seen, and a sound that begins is not even
        let reach = half * slow;
        if frame < reach || frame + reach > sides[0].len() {
            return false;
        }
        let before = power(centre.saturating_sub(half), centre);
        let after = power(centre, centre + half);
        before < UNEVEN * after && after < UNEVEN * before
    };
    let size = LOW_WINDOWS.iter().find(steady);
    let size = *size.unwrap_or(&LOW_WINDOWS[LOW_WINDOWS.len() - 1]);
    Look::new(size, rate_hz / slow as f64, slow_sides, centre)
}

/// Peaks of a spectrum, placed between bins by a parabola through three levels in dB (Smith and Serra,
/// "PARSHL", 1987). Under a Hann window this is within a twentieth of a bin for partials that stand apart.
fn peaks(look: &Look) -> Vec<Partial> {
    let db = |i: usize| f64::from(look.db[i]);
    let is_peak = |i: &usize| db(*i) > db(*i - 1) && db(*i) >= db(*i + 1) && db(*i) > -100.0;
    let found = (1..look.db.len().saturating_sub(1)).filter(is_peak);
    found
        .map(|i| {
            let (a, b, c) = (db(i - 1), db(i), db(i + 1));
            let shift = 0.5 * (a - c) / (a - 2.0 * b + c);
            Partial {
                hz: (i as f64 + shift) / look.bins_a_hz,
                db: b - 0.25 * (a - c) * shift,
            }
        })
        .collect()
}

fn strongest(mut found: Vec<Partial>) -> Vec<Partial> {
    found.sort_by(|a, b| b.db.total_cmp(&a.db));
    let floor_db = found.first().map_or(0.0, |p| p.db) - NAMED_RANGE_DB;
    found.retain(|p| p.db > floor_db);
    found.truncate(MAX_PARTIALS);
    found
}
