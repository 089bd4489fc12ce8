//! What a node is given: what it may look at, what others do to it, what it is tuned to.

use wide::f32x8;
use zolvik_waves::{Bank, Recording};

use crate::program::params::NO_SLOT;
use crate::program::{Program, UnitProgram};
use crate::realtime::modulation::smooth::Smooth;
use crate::realtime::modulation::values::{LaneRamp, Values};
use crate::realtime::nodes::noise::Colour;
use crate::realtime::nodes::partials::Partials;
use crate::realtime::sine::Lanes;
use crate::sizes::LANES;

/// Highest a unit that is multiplied by others may get, so that loops of them stay bounded.
pub(crate) const CEILING: f32 = 4.0;
/// The same for what sound goes through: all that a patch puts into it passes as it is.
pub(crate) const PASSING_CEILING: f32 = 16.0;

/// What all lanes of a unit share.
#[derive(Debug, Clone)]
pub(crate) struct Shared {
    pub(crate) colour: Colour,
    pub(crate) partials: Partials,
    /// Whether an operator's cycle is shaped.
    pub(crate) shaped: bool,
    /// Which delay line a comb has.
    pub(crate) line: usize,
}

impl Shared {
    pub(crate) fn new() -> Self {
        Shared {
            colour: Colour::WHITE,
            partials: Partials::new(),
            shaped: false,
            line: 0,
        }
    }
}

/// What a node may look at.
pub(crate) struct Context<'a> {
    pub(crate) program: &'a Program,
    pub(crate) unit: &'a UnitProgram,
    /// The unit's parameters, and among all.
    pub(crate) own: &'a [Smooth],
    pub(crate) values: &'a Values,
    pub(crate) set: usize,
    pub(crate) shared: &'a Shared,
    /// How open the unit is: on, not muted.
    pub(crate) gate: &'a Smooth,
    pub(crate) bank: Option<&'a Bank>,
    pub(crate) recording: Option<&'a Recording>,
    pub(crate) rate_hz: f64,
}

impl Context<'_> {
    /// A parameter of the unit over the block, in each lane.
    pub(crate) fn ramp(&self, at: usize) -> LaneRamp {
        match self.lanes(at) {
            Some(ramp) => *ramp,
            None => LaneRamp::of(&self.own[at]),
        }
    }

    fn lanes(&self, at: usize) -> Option<&LaneRamp> {
        let slot = self.program.params[self.unit.first_param as usize + at].slot;
        match slot {
            NO_SLOT => None,
            slot => self.values.lanes(self.set, slot),
        }
    }

    /// What follows from a parameter at the block's end: once where all lanes share it, else for each.
    pub(crate) fn each<const N: usize>(
        &self,
        at: usize,
        from: impl Fn(f32) -> [f32; N],
    ) -> [Lanes; N] {
        match self.lanes(at) {
            None => from(self.own[at].next).map(f32x8::splat),
            Some(ramp) => {
                let lanes = ramp.next.to_array().map(from);
                std::array::from_fn(|n| {
                    f32x8::new(std::array::from_fn::<f32, LANES, _>(|lane| lanes[lane][n]))
                })
            }
        }
    }
}

/// What sources do to a unit in one frame.
pub(crate) struct Inputs {
    /// Moves its phase.
    pub(crate) turns: Lanes,
    /// How far it moves its own phase, in turns, and what it put out a little earlier.
    pub(crate) into_itself: Lanes,
    pub(crate) itself: Lanes,
    /// Moves its frequency, as a multiple of its own.
    pub(crate) frequency_mod: Lanes,
    /// Multiplies what it puts out.
    pub(crate) factor: Lanes,
    /// What goes into it, on the left where it works in stereo, and on the right.
    pub(crate) audio: Lanes,
    pub(crate) right: Lanes,
}

impl Inputs {
    pub(crate) const NONE: Inputs = Inputs {
        turns: f32x8::ZERO,
        into_itself: f32x8::ZERO,
        itself: f32x8::ZERO,
        frequency_mod: f32x8::ZERO,
        factor: f32x8::ONE,
        audio: f32x8::ZERO,
        right: f32x8::ZERO,
    };

    /// What moves its phase, itself included as it was a little earlier.
    #[inline(always)]
    pub(crate) fn late_turns(&self) -> Lanes {
        self.turns + self.into_itself * self.itself
    }
}

/// A frequency on its way into a lane.
pub(crate) struct Pitch {
    /// The unit's own frequency; of a sample, recordings a second.
    pub(crate) hz: f64,
    /// The key's.
    pub(crate) key_hz: f64,
    pub(crate) rate_hz: f64,
    /// No harmonic of a wave may lie above.
    pub(crate) limit_hz: f64,
}
