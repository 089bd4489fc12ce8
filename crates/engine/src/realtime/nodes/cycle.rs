//! A cycle shaped: leaned, repeated, folded, drawn to steps. Every way is smooth, so that its partials end; where they would
//! reach too far it eases off.

use wide::f32x4;

use crate::LANES;
use crate::realtime::sine::half_sine_turns;
use crate::realtime::smooth::Smooth;

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
        let (lean, repeat) = (of(at::LEAN) * MOST_LEAN, of(at::REPEAT));
        let (fold, steps) = (of(at::FOLD) * MOST_FOLD_RAD, of(at::STEPS));
        if lean == 0.0 && repeat == 1.0 && fold == 0.0 && steps == 0.0 {
            return None;
        }
        let levels = of(at::LEVELS);
        let mut shaped = Shaped {
            lean: [lean * (0.5 / core::f32::consts::PI); LANES],
            repeat: [1.0; LANES],
            fold: [0.0; LANES],
            fold_gain: [1.0; LANES],
            levels,
            steps: [0.0; LANES],
            reach: [1.0; LANES],
        };
        for (lane, room) in room.iter().enumerate() {
            let room = room.max(1.0);
            // each way multiplies how far the partials reach; what is left limits the next
            let mut reach = 1.0 + lean.abs() + beyond(lean.abs());
            if reach > room {
                shaped.lean[lane] *= ((room - 1.0) / (reach - 1.0)).clamp(0.0, 1.0);
                reach = room;
            }
            let most = ((room / reach - 4.0) * 0.8).max(1.0);
            shaped.repeat[lane] = repeat.min(most);
            reach *= shaped.repeat[lane];
            let most = ((room / reach - 2.5) * 0.75).max(0.0);
            let depth = fold.min(most);
            shaped.fold[lane] = depth * (0.5 / core::f32::consts::PI);
            shaped.fold_gain[lane] = match depth {
                d if d < 1e-3 => 1.0,
                d => 1.0 / libm::sinf(d.min(core::f32::consts::FRAC_PI_2)),
            };
            if depth < 1e-3 {
                shaped.fold[lane] = 0.0;
            }
            reach *= 1.0 + depth + beyond(depth);
            let index = core::f32::consts::TAU * levels;
            let needs = reach * (index + beyond(index) + 1.0);
            shaped.steps[lane] = steps * ((room / needs - 1.0) * 4.0).clamp(0.0, 1.0);
            reach *= 1.0 + shaped.steps[lane] * 2.0;
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
            let place = leaned - leaned.floor();
            let now = wave(place * repeat);
            let next = wave((place - f32x4::ONE) * repeat);
            let t =
                ((place - f32x4::splat(1.0 - EDGE)) * f32x4::splat(1.0 / EDGE)).max(f32x4::ZERO);
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
