//! Shapers: a curve bends the sound's own waveform.

use wide::f32x8;
use zolvik_patch::document::ShaperCurve;

use super::context::Context;
use super::curve::Bend;
use super::drive::Drive;
use super::finer::{Down, Up};
use crate::program::UnitProgram;
use crate::realtime::sine::Lanes;
use crate::realtime::values::LaneRamp;
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
    /// To where the curve bends it, and back: the sound as it is, and bent.
    up: Up,
    dry: Down,
    wet: Down,
    bend: Bend,
    /// What came in last, to be as late as what is bent.
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
        bend: Bend::QUIET,
        last: f32x8::ZERO,
    };

    /// Begins in a lane, in silence.
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
        let bent = fine.map(|x| self.bend.next(unit.variant, x * self.drive.times));
        let rectified = unit.variant == ShaperCurve::Rectify as u32;
        let late = f32x8::splat(if rectified { 1.0 } else { 0.5 });
        let straight = fine.map(|x| {
            let last = core::mem::replace(&mut self.last, x);
            x + (last - x) * late
        });
        let dry = self.dry.one(straight);
        let mut bent = self.wet.one(bent);
        if rectified {
            self.mean += (bent - self.mean) * f32x8::splat(self.mean_share);
            bent -= self.mean;
        }
        let y = self.drive.kept(dry, bent, frames);
        dry + (y - dry) * mix
    }
}
