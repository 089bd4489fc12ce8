//! What came a little earlier: the output of units that a loop leads back to, and what moved a frequency.

use std::ops::Range;

use wide::f32x8;
use zolvik_patch::document::MAX_UNITS;

use crate::realtime::Block;
use crate::realtime::output::decimate::MAX_OVERSAMPLING;
use crate::realtime::sine::Lanes;
use crate::sizes::{BLOCK, LANES, MAX_SETS};

/// What closes a loop is heard as the mean of two moments, this long ago and twice as long, in seconds, at every rate. The mean keeps
/// strong feedback from flipping.
const LATE_S: f64 = 1.0 / 48_000.0;
/// Moments read for the mean: four samples around each.
const MOST_TAPS: usize = 8;

/// What units in loops put out in the last frames.
#[derive(Debug, Clone)]
pub(crate) struct Late {
    /// Set by set and unit by unit; a power of two of frames each.
    frames: Box<[Lanes]>,
    room: usize,
    /// Where the block at hand begins.
    at: Box<[[usize; MAX_UNITS]]>,
    /// How many frames ago, and what it counts for.
    taps: [(usize, f32); MOST_TAPS],
    used: usize,
}

impl Late {
    /// For a rate in hertz, and as many times that as there may be.
    pub(crate) fn new(rate_hz: f64) -> Self {
        let longest = 2.0 * LATE_S * rate_hz * MAX_OVERSAMPLING as f64;
        let room = (longest as usize + 4).next_power_of_two();
        let mut late = Late {
            frames: vec![f32x8::ZERO; room * MAX_UNITS * MAX_SETS].into(),
            room,
            at: vec![[0; MAX_UNITS]; MAX_SETS].into(),
            taps: [(1, 0.0); MOST_TAPS],
            used: 0,
        };
        late.set_target(rate_hz);
        late
    }

    /// As it was made, for a rate in hertz.
    pub(crate) fn clear(&mut self, rate_hz: f64) {
        self.frames.fill(f32x8::ZERO);
        self.at.fill([0; MAX_UNITS]);
        self.set_target(rate_hz);
    }

    /// Reads at the same moments at another rate.
    pub(crate) fn set_target(&mut self, rate_hz: f64) {
        self.used = 0;
        for moment in [LATE_S * rate_hz, 2.0 * LATE_S * rate_hz] {
            let whole = libm::round(moment);
            if (moment - whole).abs() < 1e-6 {
                self.add(whole as usize, 0.5);
                continue;
            }
            // through the four samples around it (Lagrange, 1795), none of which may be in the future
            let first = (moment as usize).saturating_sub(1).max(1);
            for one in first..first + 4 {
                let product = (first..first + 4)
                    .filter(|other| *other != one)
                    .map(|other| (moment - other as f64) / (one as f64 - other as f64))
                    .product::<f64>();
                self.add(one, 0.5 * product);
            }
        }
    }

    fn add(&mut self, ago: usize, weight: f64) {
        let weight = weight as f32;
        if let Some(tap) = self.taps[..self.used].iter_mut().find(|t| t.0 == ago) {
            tap.1 += weight;
        } else if self.used < MOST_TAPS && ago < self.room {
            self.taps[self.used] = (ago, weight);
            self.used += 1;
        }
    }

    fn place(&self, set: usize, unit: usize) -> usize {
        (set * MAX_UNITS + unit) * self.room
    }

    /// What a unit put out a little earlier than in a frame of the block at hand.
    #[inline(always)]
    pub(crate) fn read(&self, set: usize, unit: usize, frame: usize) -> Lanes {
        let (from, now) = (self.place(set, unit), self.at[set][unit] + frame);
        let mut sum = f32x8::ZERO;
        for (ago, weight) in &self.taps[..self.used] {
            let at = from + (now.wrapping_sub(*ago) & (self.room - 1));
            let then = self.frames.get(at).copied().unwrap_or(f32x8::ZERO);
            sum += then * f32x8::splat(*weight);
        }
        sum
    }

    /// Keeps a frame of units that stand in a row.
    #[inline(always)]
    pub(crate) fn keep(&mut self, set: usize, first: usize, frame: usize, signals: &[Block]) {
        for (u, signal) in signals.iter().enumerate() {
            let unit = first + u;
            let at = (self.at[set][unit] + frame) & (self.room - 1);
            let place = self.place(set, unit) + at;
            if let Some(kept) = self.frames.get_mut(place) {
                *kept = signal[frame];
            }
        }
    }

    /// The block at hand has been computed.
    pub(crate) fn end_block(&mut self, set: usize, units: Range<usize>) {
        for at in &mut self.at[set][units] {
            *at = (*at + BLOCK) & (self.room - 1);
        }
    }

    /// A note begins in a lane of a unit.
    pub(crate) fn begin(&mut self, set: usize, unit: usize, lane: usize) {
        let from = self.place(set, unit);
        for frame in &mut self.frames[from..from + self.room] {
            frame.as_mut_array()[lane % LANES] = 0.0;
        }
    }

    /// Takes over what another one holds of a unit in a set.
    pub(crate) fn take(&mut self, set: usize, unit: usize, other: &Late, theirs: usize) {
        let (to, from) = (self.place(set, unit), other.place(set, theirs));
        if self.room == other.room {
            let kept = &other.frames[from..from + self.room];
            self.frames[to..to + self.room].copy_from_slice(kept);
            self.at[set][unit] = other.at[set][theirs];
        }
    }
}

/// What moved a frequency in the last two frames. A sum over frames makes fast movement too large by `x / sin x` with `x = pi f / rate`;
/// a small share of the frames around takes that back, to 0.03 dB at 10 kHz of 48.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Moved([Lanes; 2]);

/// Share of each neighbour: makes up for `x / sin x` at 8.4 kHz of 48, and nearly so all the way there.
const NEIGHBOUR: f32 = 0.045_44;

impl Moved {
    pub(crate) const NONE: Moved = Moved([f32x8::ZERO; 2]);

    /// Onsets in a lane.
    pub(crate) fn begin(&mut self, lane: usize) {
        for frame in &mut self.0 {
            frame.as_mut_array()[lane % LANES] = 0.0;
        }
    }

    /// Puts what is to be summed in the place of what moves the frequency now.
    #[inline(always)]
    pub(crate) fn even(&mut self, by: &mut Lanes) {
        let [before, earlier] = self.0;
        self.0 = [*by, before];
        let beside = *by + earlier - before - before;
        *by = before + beside * f32x8::splat(NEIGHBOUR);
    }
}
