//! Nothing louder than the ceiling.
//!
//! True peaks are looked for between samples as ITU-R BS.1770-4 has it, finer; the gain that holds them is the lowest within the look-ahead,
//! smoothed over it, so it is there when they come.

use zolvik_patch::finish::Limiter as Rows;

use crate::kind::{Effect, LOUDEST_DB};
use crate::process::{BLOCK, Process, Setting, Stereo};
use crate::tools::line::Line;
use crate::tools::{gain, one_pole_coefficient};

const AHEAD_S: f64 = 0.01;
/// Places between two samples that are looked at, and samples each is made from.
const PHASES: usize = 8;
const TAPS: usize = 64;
/// A peak between the places that are looked at may be higher by this factor.
const SPARE: f32 = 0.99;
/// Most frames of a look-ahead.
const MOST: usize = 2048;

pub(crate) struct Limiter {
    lines: [Line; 2],
    taps: [[f32; TAPS]; PHASES],
    recent: [[f32; TAPS]; 2],
    /// Gains asked for within the look-ahead, rising from the front of the queue on, and when.
    lowest: Box<[(u32, f32)]>,
    first: usize,
    count: usize,
    now: u32,
    /// The lowest gains of the last frames, for their mean, and their sum.
    means: Box<[f32]>,
    sum: f64,
    at: usize,
    frames: usize,
    released: f32,
    gain_db: f32,
    /// How much higher than its samples a sound can be between them at the most, and frames for which no sample was near the ceiling.
    most: f32,
    calm: usize,
}

impl Limiter {
    fn begin(&mut self, frames: usize) {
        self.frames = frames.clamp(1, MOST);
        self.means.fill(1.0);
        self.sum = self.frames as f64;
        (self.at, self.first, self.count) = (0, 0, 0);
        self.released = 1.0;
    }

    /// The highest of one channel around the sample that came half of the taps ago.
    fn true_peak(&mut self, channel: usize, x: f32) -> f32 {
        let recent = &mut self.recent[channel];
        recent.copy_within(1.., 0);
        recent[TAPS - 1] = x;
        let mut y = [0.0; PHASES + 1];
        for (taps, y) in self.taps.iter().zip(&mut y) {
            *y = dot(taps, recent).abs();
        }
        y[PHASES] = recent[TAPS / 2 - 1].abs();
        let mut most = y[0].max(y[PHASES]);
        for three in y.windows(3) {
            let [a, b, c] = [three[0], three[1], three[2]];
            most = most.max(b);
            // between the places that are looked at, a parabola
            let bow = 2.0 * b - a - c;
            if b >= a && b >= c && bow > 0.0 {
                most = most.max(b + (a - c) * (a - c) / (8.0 * bow));
            }
        }
        most
    }

    /// Keeps samples for later, and looks no closer.
    fn hold(&mut self, l: f32, r: f32) -> f32 {
        for (recent, x) in self.recent.iter_mut().zip([l, r]) {
            recent.copy_within(1.., 0);
            recent[TAPS - 1] = x;
        }
        0.0
    }

    /// The lowest gain asked for within the look-ahead.
    fn lowest_with(&mut self, asked: f32) -> f32 {
        let room = self.lowest.len();
        self.now = self.now.wrapping_add(1);
        while self.count > 0 {
            let last = (self.first + self.count - 1) % room;
            if self.lowest[last].1 < asked {
                break;
            }
            self.count -= 1;
        }
        let end = (self.first + self.count) % room;
        self.lowest[end] = (self.now, asked);
        self.count += 1;
        while self.now.wrapping_sub(self.lowest[self.first].0) > self.frames as u32 {
            self.first = (self.first + 1) % room;
            self.count -= 1;
        }
        self.lowest[self.first].1
    }
}

/// Sum of products in an order that is the same on every target.
fn dot(a: &[f32; TAPS], b: &[f32; TAPS]) -> f32 {
    let mut sums = [0.0; 8];
    for (a, b) in a.as_chunks::<8>().0.iter().zip(b.as_chunks::<8>().0) {
        for i in 0..8 {
            sums[i] += a[i] * b[i];
        }
    }
    let [a, b, c, d, e, f, g, h] = sums;
    ((a + b) + (c + d)) + ((e + f) + (g + h))
}

fn ahead_frames(set: &Setting<'_>) -> usize {
    let ahead_s = f64::from(set.value(Rows::AHEAD_S).next).clamp(0.001, AHEAD_S);
    (libm::round(ahead_s * set.rate_hz) as usize).clamp(4, MOST)
}

impl Effect for Limiter {
    const LATEST_S: f64 = 0.02;
    const SHORTEST_TAIL_S: f64 = 0.05;

    fn new(rate_hz: f64) -> Self {
        let line = Line::new((AHEAD_S * rate_hz) as usize + TAPS + 8);
        let mut taps = [[0.0; TAPS]; PHASES];
        for (phase, taps) in taps.iter_mut().enumerate() {
            let mut sum = 0.0;
            for (i, tap) in taps.iter_mut().enumerate() {
                let x = i as f64 - (TAPS / 2) as f64 + phase as f64 / PHASES as f64;
                let angle = core::f64::consts::PI * x;
                let window = 0.5 + 0.5 * libm::cos(angle / (TAPS / 2 + 1) as f64);
                let sinc = if x == 0.0 {
                    1.0
                } else {
                    libm::sin(angle) / angle
                };
                *tap = (sinc * window) as f32;
                sum += *tap;
            }
            taps.iter_mut().for_each(|t| *t /= sum);
        }
        let sums = taps.iter().map(|t| t.iter().map(|t| t.abs()).sum::<f32>());
        let most = 1.1 * sums.fold(1.0, f32::max);
        let mut limiter = Limiter {
            most,
            calm: 0,
            lines: [line.clone(), line],
            taps,
            recent: [[0.0; TAPS]; 2],
            lowest: vec![(0, 1.0); MOST + 1].into(),
            first: 0,
            count: 0,
            now: 0,
            means: vec![1.0; MOST].into(),
            sum: 0.0,
            at: 0,
            frames: 0,
            released: 1.0,
            gain_db: 0.0,
        };
        limiter.begin(1);
        limiter
    }

    fn latency_frames(set: &Setting<'_>) -> usize {
        ahead_frames(set) + TAPS / 2 - 1
    }

    fn load(_set: &Setting<'_>) -> f64 {
        // as long as something comes near its ceiling; else a quarter of it
        0.02
    }

    fn tail_s(_set: &Setting<'_>, _down_db: f64) -> f64 {
        0.0
    }

    fn lift_db(set: &Setting<'_>) -> f64 {
        (LOUDEST_DB - set.end(Rows::CEILING_DB)).max(0.0)
    }
}

impl Process for Limiter {
    fn run(&mut self, block: &mut Stereo, set: &Setting<'_>) {
        let frames = ahead_frames(set);
        if frames != self.frames {
            self.begin(frames);
        }
        let back = one_pole_coefficient(set.value(Rows::RELEASE_S).next.into(), set.rate_hz);
        let ceiling = set.value(Rows::CEILING_DB).map(|db| gain(db) * SPARE);
        for frame in 0..BLOCK {
            let (l, r) = (block[0][frame], block[1][frame]);
            let ceiling = ceiling.at(frame);
            // where no sample is near it nothing between them can be above it
            match l.abs().max(r.abs()) * self.most < ceiling {
                true => self.calm += 1,
                false => self.calm = 0,
            }
            let peak = match self.calm > TAPS {
                true => self.hold(l, r),
                false => self.true_peak(0, l).max(self.true_peak(1, r)),
            };
            let asked = if peak > ceiling { ceiling / peak } else { 1.0 };
            let lowest = self.lowest_with(asked);
            // at once down, slowly back
            self.released = match lowest < self.released {
                true => lowest,
                false => self.released + (lowest - self.released) * back,
            };
            let old = core::mem::replace(&mut self.means[self.at], self.released);
            self.sum += f64::from(self.released) - f64::from(old);
            self.at = (self.at + 1) % self.frames;
            let gain = (self.sum / self.frames as f64) as f32;
            self.lines[0].push(l);
            self.lines[1].push(r);
            let late = self.frames + TAPS / 2 - 1;
            block[0][frame] = self.lines[0].back(late) * gain;
            block[1][frame] = self.lines[1].back(late) * gain;
            self.gain_db = gain;
        }
        self.gain_db = crate::tools::decibels(self.gain_db);
    }

    fn clear(&mut self) {
        self.lines.iter_mut().for_each(Line::clear);
        self.recent = [[0.0; TAPS]; 2];
        self.begin(self.frames);
    }

    fn gain_db(&self) -> Option<f32> {
        Some(self.gain_db)
    }
}
