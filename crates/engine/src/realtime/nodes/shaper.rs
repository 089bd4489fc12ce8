//! Shapers: a curve bends the sound's own waveform.

use wide::f32x8;
use zolvik_patch::document::ShaperCurve;

use crate::program::UnitProgram;
use crate::realtime::modulation::values::LaneRamp;
use crate::realtime::nodes::context::Context;
use crate::realtime::nodes::curve::ShapedCurve;
use crate::realtime::nodes::drive::Drive;
use crate::realtime::nodes::oversampler::{Down, Up};
use crate::realtime::sine::Lanes;
use crate::sizes::LANES;

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
    /// To where the curve bends it, and back: the sound as it is, and shaped.
    up: Up,
    dry: Down,
    wet: Down,
    bend: ShapedCurve,
    /// What came in last, to be as late as what is shaped.
    last: Lanes,
}

impl Shaper {
    pub(crate) const QUIET: Shaper = Shaper {
        drive: Drive::NONE,
        mix: LaneRamp::ZERO,
        mean: f32x8::ZERO,
        mean_share: 0.0,
        up: Up::QUIET,
        dry: Down::QUIET,
        wet: Down::QUIET,
        bend: ShapedCurve::QUIET,
        last: f32x8::ZERO,
    };

    /// Onsets in a lane, in silence.
    pub(crate) fn note_on(&mut self, lane: usize) {
        self.mean.as_mut_array()[lane % LANES] = 0.0;
        self.last.as_mut_array()[lane % LANES] = 0.0;
        self.bend.silence(lane);
        self.up.silence(lane);
        self.dry.silence(lane);
        self.wet.silence(lane);
        self.drive.note_on(lane % LANES);
    }

    /// Takes up a block.
    pub(crate) fn begin_block(&mut self, context: &Context<'_>) {
        self.drive.begin_block(context, at::SHAPER_DRIVE_DB);
        self.mix = context.ramp(at::SHAPER_MIX);
        self.up.settle();
        self.dry.settle();
        self.wet.settle();
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
        let fine = self.up.four(x);
        let shaped = fine.map(|x| self.bend.next(unit.variant, x * self.drive.times));
        let rectified = unit.variant == ShaperCurve::Rectify as u32;
        let late = f32x8::splat(if rectified { 1.0 } else { 0.5 });
        let straight = fine.map(|x| {
            let last = core::mem::replace(&mut self.last, x);
            x + (last - x) * late
        });
        let dry = self.dry.one(straight);
        let mut shaped = self.wet.one(shaped);
        if rectified {
            self.mean += (shaped - self.mean) * f32x8::splat(self.mean_share);
            shaped -= self.mean;
        }
        let y = self.drive.kept(dry, shaped, frames);
        dry + (y - dry) * mix
    }
}
