//! Musical time, for all that follows the tempo.

use crate::sizes::BLOCK;

/// Time since the engine was made, on the grid of its blocks.
#[derive(Debug, Clone, Copy, Default)]
pub(crate) struct Clock {
    /// Blocks begun.
    pub(crate) block: u64,
    /// Beats at the begin of the block; the tempo may have changed on the way.
    pub(crate) beats: f64,
}

impl Clock {
    /// One block further, at a tempo in beats a minute.
    pub(crate) fn advance(&mut self, tempo_bpm: f64, rate_hz: f64) {
        self.block += 1;
        self.beats += BLOCK as f64 / rate_hz * tempo_bpm / 60.0;
    }

    /// Beats at the end of a part of the block at hand, at a tempo, where a block is computed in so many parts.
    pub(crate) fn beats_at(&self, tempo_bpm: f64, part_s: f64, part: usize, parts: usize) -> f64 {
        let left = (parts - 1 - part) as f64;
        self.beats - left * part_s * tempo_bpm / 60.0
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn beats_follow_the_tempo_through_changes() {
        let mut clock = Clock::default();
        // two seconds at 120, then three at 90
        (0..6_000).for_each(|_| clock.advance(120.0, 48_000.0));
        (0..9_000).for_each(|_| clock.advance(90.0, 48_000.0));
        assert_eq!(clock.block, 15_000);
        assert!((clock.beats - 8.5).abs() < 1e-9, "{}", clock.beats);
    }
}
