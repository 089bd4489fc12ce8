//! Places between left and right: the right channel of units that work in stereo, and where copies stand.

use core::f32::consts::SQRT_2;

use wide::f32x8;
use zolvik_patch::document::{MAX_UNITS, RouteKind};
use zolvik_patch::levels::pan_gains;

use crate::program::{MAX_UNIT_ROUTES, Program};
use crate::realtime::graph::late::Late;
use crate::realtime::modulation::values::{LaneRamp, Values};
use crate::realtime::nodes::Node;
use crate::realtime::sine::Lanes;
use crate::realtime::{Block, SILENT};
use crate::sizes::{LANES, MAX_SETS};

/// What units that work in stereo have besides: the channel they share with all others is the left one.
#[derive(Debug, Clone)]
pub(crate) struct Right {
    pub(crate) nodes: Box<[[Node; MAX_UNITS]]>,
    pub(crate) signals: Box<[Block]>,
    pub(crate) late: Late,
    /// Factors of left and right of each sound that goes into them, for the block and set at hand.
    pans: Box<[[LaneRamp; 2]]>,
}

impl Right {
    pub(crate) fn new(rate_hz: f64) -> Self {
        Right {
            nodes: vec![[Node::IDLE; MAX_UNITS]; MAX_SETS].into(),
            signals: vec![SILENT; MAX_UNITS].into(),
            late: Late::new(rate_hz),
            pans: vec![[LaneRamp::ZERO; 2]; MAX_UNIT_ROUTES].into(),
        }
    }

    /// Takes over what a unit of another graph has in a set.
    pub(in crate::realtime) fn take(
        &mut self,
        set: usize,
        unit: usize,
        (node, late): (Node, &Late),
        theirs: usize,
    ) {
        self.nodes[set][unit] = node;
        self.late.take(set, unit, late, theirs);
    }

    /// Looks at the places of what goes into a unit, for the block at hand.
    pub(in crate::realtime) fn begin_block(
        &mut self,
        program: &Program,
        values: &Values,
        set: usize,
        unit: usize,
    ) {
        let unit = &program.units[unit];
        let range = unit.first_route as usize..(unit.first_route + unit.routes) as usize;
        for at in range {
            let route = &program.routes[at];
            if route.kind != RouteKind::Audio as u32 {
                continue;
            }
            let slot = program.params[route.pan as usize].slot;
            self.pans[at] = match values.lanes(set, slot) {
                Some(ramp) => ramps(|time| [ramp.now, ramp.next][time].to_array().map(gains)),
                None => {
                    let pan = values.at(route.pan as usize);
                    let now = gains(pan.now);
                    let next = if pan.is_still() { now } else { gains(pan.next) };
                    ramps(|time| [[now, next][time]; LANES])
                }
            };
        }
    }

    /// Factors of left and right of a route in a frame.
    #[inline(always)]
    pub(in crate::realtime) fn pan(&self, route: usize, frame: usize) -> [Lanes; 2] {
        let frame = f32x8::splat(frame as f32);
        self.pans[route].map(|ramp| ramp.now + ramp.slope() * frame)
    }
}

/// Factors of both channels for a place: in the middle exactly 1.
fn gains(pan: f32) -> [f32; 2] {
    match pan {
        0.0 => [1.0; 2],
        pan => pan_gains(pan.into()).map(|gain| SQRT_2 * gain as f32),
    }
}

/// Ramps of both sides from what they are at the block's start (0) and end (1).
fn ramps(at: impl Fn(usize) -> [[f32; 2]; LANES]) -> [LaneRamp; 2] {
    let (now, next) = (at(0), at(1));
    let side = |of: &[[f32; 2]; LANES], side: usize| f32x8::new(of.map(|gains| gains[side]));
    [0, 1].map(|s| LaneRamp {
        now: side(&now, s),
        next: side(&next, s),
    })
}

/// Factors of both channels in eight lanes, and where they go.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Sides {
    now: [Lanes; 2],
    goal: [Lanes; 2],
}

impl Sides {
    pub(crate) const MIDDLE: Sides = Sides {
        now: [f32x8::ONE; 2],
        goal: [f32x8::ONE; 2],
    };

    /// Sends a lane there.
    pub(crate) fn set_target(&mut self, lane: usize, sides: [f32; 2]) {
        for (goal, side) in self.goal.iter_mut().zip(sides) {
            goal.as_mut_array()[lane % LANES] = side;
        }
    }

    /// Puts a lane there at once.
    pub(crate) fn jump(&mut self, lane: usize) {
        let lane = lane % LANES;
        for (now, goal) in self.now.iter_mut().zip(&self.goal) {
            now.as_mut_array()[lane] = goal.as_array()[lane];
        }
    }

    /// One block on its way: what both channels begin and end with. `share` is how much of the rest a block covers.
    pub(crate) fn advance(&mut self, share: f32) -> [LaneRamp; 2] {
        [0, 1].map(|side| {
            let now = self.now[side];
            let next = now + (self.goal[side] - now) * f32x8::splat(share);
            self.now[side] = next;
            LaneRamp { now, next }
        })
    }
}
