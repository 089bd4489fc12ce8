//! Level strips: what goes through one rises and falls with its envelope.

use wide::f32x8;

use crate::realtime::modulation::values::LaneRamp;
use crate::realtime::nodes::context::Context;
use crate::realtime::sine::Lanes;

/// Positions of the parameters read here, among those of their unit.
mod at {
    use zolvik_patch::catalogue::position;
    use zolvik_patch::document;

    pub(super) const LEVEL_DB: usize = position(document::Level::LEVEL_DB);
    pub(super) const MIX: usize = position(document::Level::MIX);
}

/// What holds for the block at hand.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Leveller {
    gain: LaneRamp,
    mix: LaneRamp,
}

impl Leveller {
    pub(crate) const QUIET: Leveller = Leveller {
        gain: LaneRamp::ZERO,
        mix: LaneRamp::ZERO,
    };

    /// Takes up a block.
    pub(crate) fn begin_block(&mut self, context: &Context<'_>) {
        self.gain = context.ramp(at::LEVEL_DB);
        self.mix = context.ramp(at::MIX);
    }

    /// One frame; `envelope` is its envelope's level.
    #[inline(always)]
    pub(crate) fn sample(&self, frame: usize, x: Lanes, envelope: Lanes) -> Lanes {
        let frame = f32x8::splat(frame as f32);
        let gain = (self.gain.now + self.gain.slope() * frame) * envelope;
        let mix = self.mix.now + self.mix.slope() * frame;
        x + (x * gain - x) * mix
    }
}
