//! A cycle shaped: leaned, repeated, folded, drawn to steps. Every way is smooth, so that its partials end; where they would
//! reach too far it eases off.

use wide::f32x4;
use zolvik_effects::tools::bounds::Bounds;
use zolvik_patch::document::CycleShape;
use zolvik_patch::param::ParamId;

use crate::realtime::modulation::smooth::Smooth;
use crate::realtime::sine::{half_sine_turns, part_of_turn};
use crate::sizes::LANES;

/// Positions of the parameters read here, among those of their unit.
mod at {
    use zolvik_patch::catalogue::position;
    use zolvik_patch::document;

    pub(super) const FOLD: usize = position(document::CycleShape::FOLD);
    pub(super) const LEAN: usize = position(document::CycleShape::LEAN);
    pub(super) const LEVELS: usize = position(document::CycleShape::LEVELS);
    pub(super) const REPEAT: usize = position(document::CycleShape::REPEAT);
    pub(super) const STEPS: usize = position(document::CycleShape::STEPS);
}

/// The values that shape it.
pub(super) const SHAPED_BY: [ParamId; 5] = [
    CycleShape::FOLD,
    CycleShape::LEAN,
    CycleShape::LEVELS,
    CycleShape::REPEAT,
    CycleShape::STEPS,
];

/// How a cycle is shaped, for one block and all lanes.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Shaped {
    /// Lean, in turns of greatest shift.
    lean: [f32; LANES],
    repeat: [f32; LANES],
    /// Depth of the fold in turns, and what brings its peak back to one.
    fold: [f32; LANES],
    fold_gain: [f32; LANES],
    /// Turns of staircase from zero to the peak, and how far it is drawn there.
    levels: f32,
    steps: [f32; LANES],
    /// How many times as high as before its partials may reach, for choosing a level of its wave.
    pub(crate) reach: [f32; LANES],
}

/// How far its partials may reach, in hertz: what is heard, and the same at every rate.
pub(super) const REACH_HZ: f64 = 20_000.0;
/// Lean at its most: beyond it the cycle would run backwards.
const MOST_LEAN: f32 = 0.95;
/// Fold at its most, in radians.
const MOST_FOLD_RAD: f32 = 8.0;
/// Share of the cycle over which a repeat that does not fit is faded into the next one.
const EDGE: f32 = 0.3;
/// A wave gives up no more of its harmonics than this factor for being shaped.
const MOST_REACH: f32 = 6.0;

/// Orders a sine modulated by this index reaches to -80 dB or so, beyond the index itself.
fn beyond(index: f32) -> f32 {
    2.2 * libm::cbrtf(index) * index.min(1.0)
}

/// How a cycle is to be bent, each way as its parameter has it.
#[derive(Debug, Clone, Copy)]
struct CycleShaping {
    lean: f32,
    repeat: f32,
    fold: f32,
    steps: f32,
    levels: f32,
}

impl CycleShaping {
    fn is_plain(&self) -> bool {
        self.lean == 0.0 && self.repeat == 1.0 && self.fold == 0.0 && self.steps == 0.0
    }

    /// As much of it as keeps its partials within so many times its frequency, and how far they then reach.
    fn within(&self, room: f32) -> (CycleShaping, f32) {
        let room = room.max(1.0);
        let mut eased = *self;
        // each way multiplies how far the partials reach; what is left limits the next
        let lean = (self.lean * MOST_LEAN).abs();
        let mut reach = 1.0 + lean + beyond(lean);
        if reach > room {
            eased.lean *= ((room - 1.0) / (reach - 1.0)).clamp(0.0, 1.0);
            reach = room;
        }
        eased.repeat = self.repeat.min(((room / reach - 4.0) * 0.8).max(1.0));
        reach *= eased.repeat;
        let most = ((room / reach - 2.5) * 0.75).max(0.0);
        let depth = (self.fold * MOST_FOLD_RAD).min(most);
        eased.fold = depth / MOST_FOLD_RAD;
        reach *= 1.0 + depth + beyond(depth);
        let index = core::f32::consts::TAU * self.levels;
        let needs = reach * (index + beyond(index) + 1.0);
        eased.steps = self.steps * ((room / needs - 1.0) * 4.0).clamp(0.0, 1.0);
        reach *= 1.0 + eased.steps * 2.0;
        (eased, reach)
    }
}

/// How much of each way of bending a cycle is had at a frequency in hertz, 0 to 1: lean, repeat, fold and steps.
pub fn had(cycle: &CycleShape, hz: f64) -> [f64; 4] {
    let wanted = CycleShaping {
        lean: cycle.lean as f32,
        repeat: cycle.repeat as f32,
        fold: cycle.fold as f32,
        steps: cycle.steps as f32,
        levels: cycle.levels as f32,
    };
    let (had, _) = wanted.within((REACH_HZ / hz.max(1e-3)) as f32);
    let share = |had: f32, wanted: f32| match wanted == 0.0 {
        true => 1.0,
        false => f64::from(had / wanted),
    };
    [
        share(had.lean, wanted.lean),
        share(had.repeat, wanted.repeat),
        share(had.fold, wanted.fold),
        share(had.steps, wanted.steps),
    ]
}

impl Shaped {
    /// Whether a unit's values bend its cycle at all.
    pub(crate) fn wanted(values: &[Smooth]) -> bool {
        let rest = [
            (at::LEAN, 0.0),
            (at::REPEAT, 1.0),
            (at::FOLD, 0.0),
            (at::STEPS, 0.0),
        ];
        rest.iter()
            .any(|(at, rest)| values[*at].now != *rest || values[*at].next != *rest)
    }

    /// From a unit's values, and how many times its frequency fits below [`REACH_HZ`] in each lane; none where the cycle stays
    /// as it is.
    pub(crate) fn new(values: &[Smooth], room: &[f32; LANES]) -> Option<Shaped> {
        let of = |at: usize| (values[at].now + values[at].next) * 0.5;
        let wanted = CycleShaping {
            lean: of(at::LEAN),
            repeat: of(at::REPEAT),
            fold: of(at::FOLD),
            steps: of(at::STEPS),
            levels: of(at::LEVELS),
        };
        if wanted.is_plain() {
            return None;
        }
        let mut shaped = Shaped {
            lean: [0.0; LANES],
            repeat: [1.0; LANES],
            fold: [0.0; LANES],
            fold_gain: [1.0; LANES],
            levels: wanted.levels,
            steps: [0.0; LANES],
            reach: [1.0; LANES],
        };
        for (lane, room) in room.iter().enumerate() {
            let (bend, reach) = wanted.within(*room);
            shaped.lean[lane] = bend.lean * MOST_LEAN * (0.5 / core::f32::consts::PI);
            shaped.repeat[lane] = bend.repeat;
            let depth = bend.fold * MOST_FOLD_RAD;
            if depth >= 1e-3 {
                shaped.fold[lane] = depth * (0.5 / core::f32::consts::PI);
                shaped.fold_gain[lane] = 1.0 / libm::sinf(depth.min(core::f32::consts::FRAC_PI_2));
            }
            shaped.steps[lane] = bend.steps;
            shaped.reach[lane] = reach.min(MOST_REACH);
        }
        Some(shaped)
    }

    /// The shaped wave of four lanes at an angle in turns.
    #[inline(always)]
    pub(crate) fn at(&self, turns: f32x4, half: usize, wave: impl Fn(f32x4) -> f32x4) -> f32x4 {
        let pick = |list: &[f32; LANES]| {
            let lanes: &[f32; 4] = if half == 0 {
                list.first_chunk().unwrap_or(&[0.0; 4])
            } else {
                list.last_chunk().unwrap_or(&[0.0; 4])
            };
            f32x4::new(*lanes)
        };
        let leaned = turns + half_sine_turns(turns) * pick(&self.lean);
        let repeat = pick(&self.repeat);
        let mut y = if self.repeat[4 * half..4 * half + 4] == [1.0; 4] {
            wave(leaned)
        } else {
            // near the end of the period it is faded into the run that leads to the next one's start
            let place = part_of_turn(leaned);
            let now = wave(place * repeat);
            let next = wave((place - f32x4::ONE) * repeat);
            let t = ((place - f32x4::splat(1.0 - EDGE)) * f32x4::splat(1.0 / EDGE))
                .at_least(f32x4::ZERO);
            let ease =
                t * t * t * (t * (t * f32x4::splat(6.0) - f32x4::splat(15.0)) + f32x4::splat(10.0));
            now + (next - now) * ease
        };
        if self.fold[4 * half..4 * half + 4] != [0.0; 4] {
            let fold = pick(&self.fold);
            let folded = half_sine_turns(y * fold) * pick(&self.fold_gain);
            y = fold.simd_gt(f32x4::ZERO).select(folded, y);
        }
        if self.steps[4 * half..4 * half + 4] != [0.0; 4] {
            let levels = f32x4::splat(self.levels);
            let size = f32x4::splat(0.5 / (core::f32::consts::PI * self.levels));
            y -= half_sine_turns(y * levels) * pick(&self.steps) * size;
        }
        y
    }
}
