//! Pressing a sound into a curve without making it louder, for filters and shapers.

use wide::f32x8;

use super::Context;
use crate::realtime::sine::Lanes;

/// A curve like the hyperbolic tangent, by a fraction; 1 at the most.
#[inline(always)]
pub(super) fn soft(x: Lanes) -> Lanes {
    let three = f32x8::splat(3.0);
    let x = x.min(three).max(-three);
    let z = x * x;
    x * (f32x8::splat(27.0) + z) / (f32x8::splat(27.0) + z * f32x8::splat(9.0))
}

fn soft_of(x: f32) -> f32 {
    let x = x.min(3.0);
    x * (27.0 + x * x) / (27.0 + 9.0 * x * x)
}

/// How hard, in each lane, for the block at hand.
#[derive(Debug, Clone, Copy)]
pub(super) struct Drive {
    /// Factor on the way in.
    pub(super) times: Lanes,
    /// Factor on the way out: half of full scale stays as loud as it was.
    pub(super) gain: Lanes,
    /// How far it is faded in.
    share: Lanes,
    on: bool,
}

impl Drive {
    pub(super) const NONE: Drive = Drive {
        times: f32x8::ONE,
        gain: f32x8::ONE,
        share: f32x8::ZERO,
        on: false,
    };

    /// By a parameter in decibels.
    pub(super) fn new(context: &Context<'_>, drive_db: usize) -> Self {
        let [times, gain, share] = context.each(drive_db, |drive_db| {
            let times = libm::powf(10.0, drive_db / 20.0);
            [times, 0.5 / soft_of(0.5 * times), (drive_db / 6.0).min(1.0)]
        });
        Drive {
            times,
            gain,
            share,
            on: share.to_array().iter().any(|s| *s > 0.0),
        }
    }

    /// A sound pressed into the soft curve, as far as it is faded in.
    #[inline(always)]
    pub(super) fn eased(&self, x: Lanes) -> Lanes {
        if !self.on {
            return x;
        }
        let hot = soft(x * self.times) * self.gain;
        x + (hot - x) * self.share
    }
}
