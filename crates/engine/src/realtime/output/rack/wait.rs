//! Ways that wait for others.

use zolvik_effects::tools::line::Line;

use crate::realtime::output::rack::stereo::Stereo;
use crate::sizes::BLOCK;

/// Lets a way wait by frames; another number of them is faded to.
pub(super) struct Wait {
    pub(super) lines: [Line; 2],
    pub(super) frames: usize,
    pub(super) from: usize,
    pub(super) share: f32,
    /// Frames there are of what came before.
    pub(super) kept: usize,
}

impl Wait {
    pub(super) fn new(longest_s: f64, rate_hz: f64) -> Self {
        let line = Line::new((longest_s * rate_hz) as usize + 128);
        Wait {
            lines: [line.clone(), line],
            frames: 0,
            from: 0,
            share: 1.0,
            kept: 0,
        }
    }

    pub(super) fn run(&mut self, way: &mut Stereo, frames: usize, at_once: bool, step: f32) {
        let frames = frames.min(self.lines[0].longest());
        if at_once {
            (self.frames, self.share) = (frames, 1.0);
        } else if self.share >= 1.0 && frames != self.frames && self.kept >= frames {
            (self.from, self.frames, self.share) = (self.frames, frames, 0.0);
        }
        self.kept = (self.kept + BLOCK).min(self.lines[0].longest());
        if self.share >= 1.0 {
            for (line, channel) in self.lines.iter_mut().zip(way) {
                line.push_all(channel);
                if self.frames > 0 {
                    *channel = line.since(self.frames + BLOCK - 1);
                }
            }
            return;
        }
        let begun = self.share;
        for (line, channel) in self.lines.iter_mut().zip(way) {
            let mut share = begun;
            for x in channel {
                line.push(*x);
                *x = line.back(self.frames);
                if share < 1.0 {
                    share += step;
                    let old = line.back(self.from);
                    *x = old + (*x - old) * share.min(1.0);
                }
            }
        }
        self.share = (begun + step * BLOCK as f32).min(1.0);
    }

    pub(super) fn clear(&mut self) {
        self.lines.iter_mut().for_each(Line::clear);
        (self.frames, self.share, self.kept) = (0, 1.0, 0);
    }
}
