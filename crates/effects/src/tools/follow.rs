//! Followers of level.

use super::{decibels, flush_denormal};

/// The peak of the last moments: exact for what repeats within them.
#[derive(Debug, Clone, Copy, Default)]
pub struct Peak {
    /// Peaks of the last pieces of the moment, the present one first.
    pieces: [f32; PIECES],
    in_piece: u32,
}

const PIECES: usize = 8;

impl Peak {
    /// The peak with one sample more; the moment has so many frames.
    #[inline(always)]
    pub fn next(&mut self, x: f32, frames: u32) -> f32 {
        let piece = (frames / (PIECES as u32 - 1)).max(1);
        if self.in_piece >= piece {
            self.pieces.copy_within(0..PIECES - 1, 1);
            self.pieces[0] = 0.0;
            self.in_piece = 0;
        }
        self.in_piece += 1;
        self.pieces[0] = self.pieces[0].max(x.abs());
        self.pieces.iter().fold(0.0, |a: f32, b| a.max(*b))
    }
}

/// A value that goes up and down at its own speeds.
#[derive(Debug, Clone, Copy, Default)]
pub struct Slope {
    /// Where it is.
    pub state: f32,
}

impl Slope {
    /// One frame on the way to a goal, with shares of the rest by direction.
    #[inline(always)]
    pub fn toward(&mut self, goal: f32, (up, down): (f32, f32)) -> f32 {
        let share = if goal > self.state { up } else { down };
        self.state += (goal - self.state) * share;
        self.state
    }

    /// Lets go of what no longer counts.
    pub fn settle(&mut self) {
        self.state = flush_denormal(self.state);
    }
}

/// How far a level above a threshold is pressed, in decibels (at most nothing), by a ratio, within a knee (Giannoulis, Massberg and Reiss,
/// "Digital Dynamic Range Compressor Design", 2012).
pub fn gain_reduction_db(level_db: f32, threshold_db: f32, ratio: f32, knee_db: f32) -> f32 {
    let over = level_db - threshold_db;
    let slope = 1.0 / ratio - 1.0;
    if 2.0 * over <= -knee_db {
        0.0
    } else if 2.0 * over.abs() < knee_db {
        let into = over + 0.5 * knee_db;
        slope * into * into / (2.0 * knee_db)
    } else {
        slope * over
    }
}

/// Level of a power, where that of a full sine is 0 dB.
pub fn power_db(power: f32) -> f32 {
    0.5 * decibels(2.0 * power)
}
