//! Pressing a sound into a curve without making it louder, for filters and shapers.

use wide::f32x8;
use zolvik_effects::tools::bounds::Bounds;

use crate::realtime::nodes::context::Context;
use crate::realtime::sine::Lanes;
use crate::sizes::{BLOCK, LANES};

/// How long the loudness of what goes in and of what comes out is averaged, twice one after the other, in seconds: so long that the gain does
/// not follow single cycles, which would be heard as tones of their own.
const FOLLOW_S: f64 = 0.02;
/// Where nothing is left to follow: far below the last bit of a file.
const NOTHING: f32 = 1e-20;
/// Most a curve that gives little is made up for.
const MOST: f32 = 64.0;

/// A curve like the hyperbolic tangent, by a fraction; 1 at the most.
#[inline(always)]
pub(super) fn soft(x: Lanes) -> Lanes {
    let three = f32x8::splat(3.0);
    let x = x.at_most(three).at_least(-three);
    let z = x * x;
    x * (f32x8::splat(27.0) + z) / (f32x8::splat(27.0) + z * f32x8::splat(9.0))
}

/// How far the ear of the compensation is closed near half the rate: pairs of tones up there beat against the rate, slowly enough to be followed.
const CLOSED: f32 = 0.6;

/// The mean square of a sound, averaged twice.
#[derive(Debug, Clone, Copy)]
struct RunningPower {
    /// What came last, as it was and without what is near half the rate.
    last: [Lanes; 2],
    once: Lanes,
    twice: Lanes,
}

impl RunningPower {
    const NOTHING: RunningPower = RunningPower {
        last: [f32x8::ZERO; 2],
        once: f32x8::ZERO,
        twice: f32x8::ZERO,
    };

    fn note_on(&mut self, lane: usize) {
        let [a, b] = &mut self.last;
        for value in [a, b, &mut self.once, &mut self.twice] {
            value.as_mut_array()[lane] = 0.0;
        }
    }

    #[inline(always)]
    fn hear(&mut self, x: Lanes, share: Lanes) {
        let both = (x + self.last[0]) * f32x8::splat(0.5 + 0.5 * CLOSED);
        let heard = both - self.last[1] * f32x8::splat(CLOSED);
        self.last = [x, heard];
        self.once += (heard * heard - self.once) * share;
        self.twice += (self.once - self.twice) * share;
    }
}

/// Keeps what comes out of a curve as loud as what went in: both are averaged, and the gain follows from block to block.
#[derive(Debug, Clone, Copy)]
pub(super) struct LoudnessCompensation {
    /// What goes in and what the curve gives.
    before: RunningPower,
    after: RunningPower,
    /// The gain at the block's start and its change a frame.
    gain: Lanes,
    slope: Lanes,
    share: f32,
    /// Lanes that begin: there is nothing to come from.
    fresh: [bool; LANES],
}

impl LoudnessCompensation {
    pub(super) const QUIET: LoudnessCompensation = LoudnessCompensation {
        before: RunningPower::NOTHING,
        after: RunningPower::NOTHING,
        gain: f32x8::ZERO,
        slope: f32x8::ZERO,
        share: 0.0,
        fresh: [true; LANES],
    };

    pub(super) fn note_on(&mut self, lane: usize) {
        self.before.note_on(lane);
        self.after.note_on(lane);
        self.fresh[lane] = true;
    }

    /// Takes up a block; `quiet` is the gain for what is so quiet that the curve does not bend it.
    pub(super) fn begin_block(&mut self, quiet: Lanes, rate_hz: f64) {
        self.share = (1.0 - libm::exp(-1.0 / (FOLLOW_S * rate_hz))) as f32;
        let nothing = f32x8::splat(NOTHING);
        let [before, after] = [self.before.twice, self.after.twice];
        let heard = (before.max(nothing) / after.max(nothing)).sqrt();
        let from = self.gain + self.slope * f32x8::splat(BLOCK as f32);
        let known = after.simd_gt(nothing);
        let goal = known.select(heard, quiet).min(f32x8::splat(MOST));
        let fresh = f32x8::new(self.fresh.map(|f| if f { -1.0 } else { 1.0 }));
        self.gain = fresh.simd_lt(f32x8::ZERO).select(goal, from);
        self.slope = (goal - self.gain) * f32x8::splat(1.0 / BLOCK as f32);
        self.fresh = [false; LANES];
    }

    /// What comes out: `shaped` is what the curve made of `x`.
    #[inline(always)]
    pub(super) fn compensate(&mut self, x: Lanes, shaped: Lanes, frames: Lanes) -> Lanes {
        let share = f32x8::splat(self.share);
        self.before.hear(x, share);
        self.after.hear(shaped, share);
        shaped * (self.gain + self.slope * frames)
    }
}

/// How hard a sound is pressed, in each lane, for the block at hand.
#[derive(Debug, Clone, Copy)]
pub(super) struct Drive {
    /// Factor on the way in.
    pub(super) times: Lanes,
    compensation: LoudnessCompensation,
    /// How far it is faded in.
    share: Lanes,
    on: bool,
}

impl Drive {
    pub(super) const NONE: Drive = Drive {
        times: f32x8::ONE,
        compensation: LoudnessCompensation::QUIET,
        share: f32x8::ZERO,
        on: false,
    };

    pub(super) fn note_on(&mut self, lane: usize) {
        self.compensation.note_on(lane);
    }

    /// Takes up a block, by a parameter in decibels.
    pub(super) fn begin_block(&mut self, context: &Context<'_>, drive_db: usize) {
        let [times, share] = context.each(drive_db, |drive_db| {
            [libm::powf(10.0, drive_db / 20.0), (drive_db / 6.0).min(1.0)]
        });
        (self.times, self.share) = (times, share);
        self.on = share.to_array().iter().any(|s| *s > 0.0);
        self.compensation
            .begin_block(f32x8::ONE / times, context.rate_hz);
    }

    /// A sound pressed into the soft curve, as far as it is faded in.
    #[inline(always)]
    pub(super) fn eased(&mut self, x: Lanes, frames: Lanes) -> Lanes {
        if !self.on {
            return x;
        }
        let hot = self
            .compensation
            .compensate(x, soft(x * self.times), frames);
        x + (hot - x) * self.share
    }

    /// What a curve makes of a sound, as loud as it was.
    #[inline(always)]
    pub(super) fn kept(&mut self, x: Lanes, shaped: Lanes, frames: Lanes) -> Lanes {
        self.compensation.compensate(x, shaped, frames)
    }
}
