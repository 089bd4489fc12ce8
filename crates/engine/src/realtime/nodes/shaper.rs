//! Shapers: a curve bends the sound's own waveform.

use wide::f32x8;
use zolvik_patch::document::ShaperCurve;

use super::Context;
use super::drive::{Drive, soft};
use crate::LANES;
use crate::program::UnitProgram;
use crate::realtime::sine::{Lanes, sine_turns};
use crate::realtime::values::LaneRamp;

/// Positions of the parameters read here, among those of their unit.
mod at {
    use zolvik_patch::catalogue::position;
    use zolvik_patch::document;

    pub(super) const SHAPER_DRIVE_DB: usize = position(document::Shaper::DRIVE_DB);
    pub(super) const SHAPER_MIX: usize = position(document::Shaper::MIX);
}

/// State of a shaper in eight lanes, and what holds for the block at hand.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Shaper {
    drive: Drive,
    mix: LaneRamp,
    /// Slow mean, for taking away what does not move.
    mean: Lanes,
    mean_share: f32,
}

impl Shaper {
    pub(crate) const QUIET: Shaper = Shaper {
        drive: Drive::NONE,
        mix: LaneRamp::ZERO,
        mean: f32x8::ZERO,
        mean_share: 0.0,
    };

    /// Begins in a lane, in silence.
    pub(crate) fn note_on(&mut self, lane: usize) {
        self.mean.as_mut_array()[lane % LANES] = 0.0;
        self.drive.note_on(lane % LANES);
    }

    /// Takes up a block.
    pub(crate) fn begin_block(&mut self, context: &Context<'_>) {
        self.drive.begin_block(context, at::SHAPER_DRIVE_DB);
        self.mix = context.ramp(at::SHAPER_MIX);
        self.mean_share = (1.0 - libm::exp(-core::f64::consts::TAU * 8.0 / context.rate_hz)) as f32;
    }

    /// One frame; `envelope` is its envelope's level.
    #[inline(always)]
    pub(crate) fn sample(
        &mut self,
        unit: &UnitProgram,
        frame: usize,
        x: Lanes,
        envelope: Lanes,
    ) -> Lanes {
        let frames = f32x8::splat(frame as f32);
        let mix = (self.mix.now + self.mix.slope() * frames) * envelope;
        let hot = x * self.drive.times;
        let one = f32x8::ONE;
        let bent = match unit.variant {
            v if v == ShaperCurve::Hard as u32 => hot.min(one).max(-one),
            v if v == ShaperCurve::Fold as u32 => {
                const TURNS: f32 = 0.5 / core::f32::consts::PI;
                let hot = hot.min(f32x8::splat(8000.0)).max(f32x8::splat(-8000.0));
                sine_turns(hot * f32x8::splat(TURNS))
            }
            v if v == ShaperCurve::Rectify as u32 => {
                let up = soft(hot.abs());
                self.mean += (up - self.mean) * f32x8::splat(self.mean_share);
                up - self.mean
            }
            _ => soft(hot),
        };
        let y = self.drive.kept(x, bent, frames);
        x + (y - x) * mix
    }
}
