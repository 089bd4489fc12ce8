//! The sound at another pitch: pieces of it, read faster or slower, one fading into the next. Each piece begins where the line is like what
//! sounds at that moment, so that they fit (after Verhelst and Roelands, "An Overlap-Add Technique Based on Waveform Similarity", 1993).

use super::line::Line;
use super::wave::sine;

/// Places looked at for the next piece.
const TRIED: usize = 24;
/// Samples compared at each.
const COMPARED: usize = 24;

/// Shifts one channel.
#[derive(Debug, Clone)]
pub struct Grains {
    line: Line,
    /// How far back each of both pieces is read, in frames.
    back: [f32; 2],
    /// Where the fade between both stands; 0 to 1.
    share: f32,
    /// Which of both comes in.
    comes: usize,
}

impl Grains {
    /// For pieces of at most so many seconds. Allocates.
    pub fn new(longest_s: f64, rate_hz: f64) -> Self {
        Grains {
            line: Line::new((longest_s * rate_hz) as usize * 6 + 64),
            back: [64.0; 2],
            share: 0.0,
            comes: 0,
        }
    }

    /// One sample, `ratio` times as high, in pieces of so many frames.
    pub fn next(&mut self, x: f32, ratio: f32, frames: f32) -> f32 {
        self.line.push(x);
        let drift = 1.0 - ratio;
        for back in &mut self.back {
            *back = (*back + drift).clamp(2.0, self.line.longest() as f32);
        }
        self.share += 2.0 / frames.max(16.0);
        if self.share >= 1.0 {
            self.share -= 1.0;
            self.comes = 1 - self.comes;
            // as far back as it takes not to run into what has not come yet, or out of what is kept
            let room = (frames * drift).abs() + 4.0;
            let start = if drift < 0.0 { room } else { 4.0 };
            self.back[self.comes] = self.fitting(start, 0.5 * frames);
        }
        let up = 0.5 - 0.5 * sine(0.25 + 0.5 * self.share);
        let (comes, goes) = (self.back[self.comes], self.back[1 - self.comes]);
        self.line.between(goes) + (self.line.between(comes) - self.line.between(goes)) * up
    }

    /// How far back from `start`, within a piece of it, the line is most like what goes out now.
    fn fitting(&self, start: f32, within: f32) -> f32 {
        let goes = self.back[1 - self.comes];
        let span = (0.5 * within).min(self.line.longest() as f32 * 0.25);
        let step = 3.0 * (span / 256.0).max(1.0);
        let (mut best, mut most) = (start, f32::MIN);
        for i in 0..TRIED {
            let from = start + span * i as f32 / TRIED as f32;
            let (mut product, mut power) = (0.0, 1e-9);
            for n in 0..COMPARED {
                let at = n as f32 * step;
                let (a, b) = (
                    self.line.back((goes + at) as usize & 0xFFFF_FFFF),
                    self.line.back((from + at) as usize & 0xFFFF_FFFF),
                );
                product += a * b;
                power += b * b;
            }
            let like = product / power.sqrt();
            if like > most {
                (best, most) = (from, like);
            }
        }
        best
    }

    /// Forgets everything.
    pub fn clear(&mut self) {
        self.line.clear();
    }
}
