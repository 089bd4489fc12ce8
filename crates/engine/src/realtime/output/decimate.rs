//! Back from a higher rate: low-pass filters that keep every second sample, one for each halving.
//!
//! All are windowed sines (Kaiser, "Nonrecursive Digital Filter Design Using the I0-sinh Window Function", 1974) with
//! 105 dB of damping. The last one is steep: it passes 20.2 kHz of 48 kHz and leaves nothing above 24 kHz, so that
//! nothing folds.

use zolvik_effects::tools::mirrored::mirrored;
use zolvik_waves::kernel::windowed_sine;

use crate::sizes::BLOCK;

/// Most times the sample rate.
pub(crate) const MAX_OVERSAMPLING: usize = 8;
/// Half of the taps.
const STEEP: usize = 96;
const WIDE: usize = 24;
const MOST_IN: usize = BLOCK * MAX_OVERSAMPLING;
const MOST_OUT: usize = MOST_IN / 2;

/// One halving of the rate of one channel. `HALF` is half of its taps, `ROOM` is for as many samples of both kinds and half of those that come.
#[derive(Debug, Clone)]
struct Halver<const HALF: usize, const ROOM: usize> {
    /// Every second tap, the outermost of one end first: the others are the same from the other end.
    taps: [f32; HALF],
    /// Samples by turns, the last `HALF` of each, then room for those that come.
    turns: [[f32; ROOM]; 2],
}

impl<const HALF: usize, const ROOM: usize> Halver<HALF, ROOM> {
    /// `cut` is the middle of the slope, as a share of the higher rate.
    fn new(cut: f64) -> Self {
        const BETA: f64 = 10.6;
        let taps = 2 * HALF;
        let middle = (taps - 1) as f64 / 2.0;
        let tap = |i: usize| {
            let x = i as f64 - middle;
            let angle = 2.0 * core::f64::consts::PI * cut * x;
            windowed_sine(2.0 * cut, angle, x / middle, BETA)
        };
        let sum: f64 = (0..taps).map(tap).sum();
        Halver {
            taps: std::array::from_fn(|i| (tap(2 * i) / sum) as f32),
            turns: [[0.0; ROOM]; 2],
        }
    }

    /// Takes samples from the front of `signal` and leaves half as many there.
    fn halve(&mut self, signal: &mut [f32]) {
        let count = (signal.len() / 2).min(ROOM - HALF);
        for (at, pair) in signal.as_chunks::<2>().0.iter().take(count).enumerate() {
            for (turn, x) in self.turns.iter_mut().zip(pair) {
                turn[HALF + at] = *x;
            }
        }
        let [even, odd] = &self.turns;
        mirrored(&self.taps, &even[1..], &odd[1..], &mut signal[..count]);
        for turn in &mut self.turns {
            turn.copy_within(count..count + HALF, 0);
        }
    }

    fn clear(&mut self) {
        self.turns = [[0.0; ROOM]; 2];
    }
}

/// All halvings of one channel.
#[derive(Debug, Clone)]
pub(crate) struct Decimator {
    from_eight: Halver<WIDE, { WIDE + MOST_OUT }>,
    from_four: Halver<WIDE, { WIDE + MOST_OUT }>,
    from_two: Halver<STEEP, { STEEP + MOST_OUT }>,
}

impl Decimator {
    pub(crate) fn new() -> Self {
        Decimator {
            from_eight: Halver::new(0.25),
            from_four: Halver::new(0.25),
            // half-way between 20.2 and 24 kHz at 96 kHz
            from_two: Halver::new(0.230_2),
        }
    }

    /// Forgets what came before.
    pub(crate) fn clear(&mut self) {
        self.from_eight.clear();
        self.from_four.clear();
        self.from_two.clear();
    }

    /// Brings the samples of one block, `oversampling` times as many, down to the block.
    pub(crate) fn run(&mut self, signal: &mut [f32; MOST_IN], oversampling: usize) {
        if oversampling >= 8 {
            self.from_eight.halve(&mut signal[..8 * BLOCK]);
        }
        if oversampling >= 4 {
            self.from_four.halve(&mut signal[..4 * BLOCK]);
        }
        if oversampling >= 2 {
            self.from_two.halve(&mut signal[..2 * BLOCK]);
        }
    }
}

/// Frames by which four times the rate is late here, and by which others have to wait for it: the middles of the filters above.
pub(crate) fn wait_frames(oversampling: usize) -> usize {
    match oversampling {
        1 => 53,
        2 => 6,
        _ => 0,
    }
}

/// How late what comes down from so many times the rate is, in frames.
pub(crate) fn latency_frames(oversampling: usize) -> usize {
    match oversampling {
        1 => 0,
        2 | 4 => wait_frames(1) - wait_frames(oversampling),
        // its first filter works on samples half as long
        _ => wait_frames(1) + wait_frames(2) / 2,
    }
}

/// Holds one channel back by some frames.
#[derive(Debug, Clone)]
pub(crate) struct Wait {
    frames: [f32; 64],
    at: usize,
}

impl Wait {
    pub(crate) const EMPTY: Wait = Wait {
        frames: [0.0; 64],
        at: 0,
    };

    /// Puts a block in the place of the one that came so many frames before, 63 at the most.
    pub(crate) fn run(&mut self, block: &mut [f32; BLOCK], frames: usize) {
        for sample in block {
            self.frames[self.at % 64] = *sample;
            *sample = self.frames[(self.at + 64 - frames.min(63)) % 64];
            self.at = (self.at + 1) % 64;
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Level of a sine at the higher rate after halving, in dB.
    fn gain_db<const T: usize, const R: usize>(mut halver: Halver<T, R>, share: f64) -> f64 {
        let angle = |i: usize| 2.0 * core::f64::consts::PI * share * i as f64;
        let mut power = 0.0;
        for block in 0..200 {
            let mut signal: [f32; 32] =
                std::array::from_fn(|i| libm::sin(angle(block * 32 + i)) as f32);
            halver.halve(&mut signal);
            if block >= 20 {
                power += signal[..16].iter().map(|s| f64::from(s * s)).sum::<f64>();
            }
        }
        10.0 * libm::log10((2.0 * power / (180.0 * 16.0)).max(1e-24))
    }

    /// A tone comes at the same moment whatever it was computed at, to a third of a frame.
    #[test]
    fn every_quality_is_as_late_as_four_times_the_rate() {
        let late_frames = |times: usize| {
            let (mut decimator, mut wait) = (Decimator::new(), Wait::EMPTY);
            let hz = 100.0;
            let (mut c, mut s) = (0.0, 0.0);
            for block in 0..600 {
                let mut fine = [0.0; MOST_IN];
                for (i, x) in fine[..BLOCK * times].iter_mut().enumerate() {
                    let at = (block * BLOCK * times + i) as f64 / (48_000.0 * times as f64);
                    *x = libm::sin(core::f64::consts::TAU * hz * at) as f32;
                }
                decimator.run(&mut fine, times);
                let mut out = [0.0; BLOCK];
                out.copy_from_slice(&fine[..BLOCK]);
                wait.run(&mut out, wait_frames(times));
                for (i, y) in out.iter().enumerate().filter(|_| block >= 30 * 10) {
                    let angle = core::f64::consts::TAU * hz * (block * BLOCK + i) as f64 / 48_000.0;
                    c += f64::from(*y) * libm::cos(angle);
                    s += f64::from(*y) * libm::sin(angle);
                }
            }
            -libm::atan2(c, s) / core::f64::consts::TAU / hz * 48_000.0
        };
        let four = late_frames(4);
        for times in [1, 2] {
            let own = late_frames(times);
            assert!((own - four).abs() < 0.4, "{times}: {own} beside {four}");
        }
    }

    #[test]
    fn the_steep_one_passes_what_is_heard_and_nothing_that_folds() {
        let steep = || Halver::<STEEP, { STEEP + MOST_IN }>::new(0.230_2);
        for hz in [100.0, 5_000.0, 15_000.0, 20_000.0] {
            let db = gain_db(steep(), hz / 96_000.0);
            assert!(db.abs() < 0.05, "{hz} Hz: {db} dB");
        }
        for hz in [24_050.0, 26_000.0, 33_000.0, 47_000.0] {
            let db = gain_db(steep(), hz / 96_000.0);
            assert!(db < -98.0, "{hz} Hz: {db} dB");
        }
    }

    #[test]
    fn the_wide_ones_keep_what_would_fold_into_the_band_away() {
        let wide = || Halver::<WIDE, { WIDE + MOST_IN }>::new(0.25);
        for share in [0.01, 0.1, 0.125] {
            let db = gain_db(wide(), share);
            assert!(db.abs() < 0.05, "{share}: {db} dB");
        }
        for share in [0.375, 0.4, 0.49] {
            let db = gain_db(wide(), share);
            assert!(db < -98.0, "{share}: {db} dB");
        }
    }
}
