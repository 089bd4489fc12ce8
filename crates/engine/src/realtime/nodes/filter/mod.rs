//! Filters, eight lanes at a time: stages with two poles, one to three of them, and combs.

mod comb;
mod design;
mod stage;

use wide::f32x8;
use zolvik_patch::choice::Options;
use zolvik_patch::document::{FilterType, Slope};
use zolvik_patch::filter::{
    FORMANT_GAINS, PEAK_GAIN, band_gain, dampings, formant_damping, formants,
};

use self::comb::Comb;
pub(crate) use self::comb::line_frames;
use self::design::Design;
use self::stage::{Hold, Solved, Stage};
use crate::program::UnitProgram;
use crate::realtime::modulation::values::LaneRamp;
use crate::realtime::nodes::context::Context;
use crate::realtime::nodes::drive::Drive;
use crate::realtime::sine::Lanes;
use crate::sizes::{BLOCK, LANES};

/// Positions of the parameters read here, among those of their unit.
mod at {
    use zolvik_patch::catalogue::position;
    use zolvik_patch::document;

    pub(super) const CUTOFF_OCT: usize = position(document::Filter::CUTOFF_HZ);
    pub(super) const FILTER_DRIVE_DB: usize = position(document::Filter::DRIVE_DB);
    pub(super) const FILTER_MIX: usize = position(document::Filter::MIX);
    pub(super) const RESONANCE: usize = position(document::Filter::RESONANCE);
    pub(super) const VOWEL: usize = position(document::Filter::VOWEL);
}

/// Highest cutoff, as a share of the rate.
const HIGHEST: f32 = 0.46;
/// Most stages, those of a vowel.
const STAGES: usize = 3;

/// All that the design of a filter follows from.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Seen {
    cutoff_oct: Lanes,
    resonance: Lanes,
    vowel: Lanes,
    form: (u32, u32),
    rate_hz: f64,
}

impl Seen {
    /// Whether they differ by their cutoff alone.
    fn differs_by_cutoff(&self, other: &Seen) -> bool {
        let cutoff_oct = other.cutoff_oct;
        *other
            == Seen {
                cutoff_oct,
                ..*self
            }
    }

    const NOTHING: Seen = Seen {
        cutoff_oct: f32x8::ZERO,
        resonance: f32x8::ZERO,
        vowel: f32x8::ZERO,
        form: (0, 0),
        rate_hz: 0.0,
    };
}

/// State of a filter in eight lanes, and what holds for the block at hand.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Filter {
    stages: [Stage; STAGES],
    /// What the stages are at the block's start, and their change a frame.
    designs: [Design; STAGES],
    slopes: [Design; STAGES],
    /// Half the cutoff in turns a frame, at the block's start and its change a frame.
    turns: Lanes,
    slope: Lanes,
    /// Damping of each stage, the gain of its band and its place above the cutoff.
    damp: [Lanes; STAGES],
    gain: [Lanes; STAGES],
    times: [Lanes; STAGES],
    hold: Hold,
    /// What the stages go to, and what that was made from.
    goal: Lanes,
    goals: [Design; STAGES],
    seen: Seen,
    /// They have come there and stand: what they are solved with.
    solved: [Solved; STAGES],
    is_still: bool,
    comb: Comb,
    drive: Drive,
    mix: LaneRamp,
}

impl Filter {
    pub(crate) const QUIET: Filter = Filter {
        stages: [Stage::QUIET; STAGES],
        designs: [Design::ZERO; STAGES],
        slopes: [Design::ZERO; STAGES],
        turns: f32x8::ZERO,
        slope: f32x8::ZERO,
        damp: [f32x8::ZERO; STAGES],
        gain: [f32x8::ONE; STAGES],
        times: [f32x8::ONE; STAGES],
        hold: Hold::NONE,
        goal: f32x8::ZERO,
        goals: [Design::ZERO; STAGES],
        seen: Seen::NOTHING,
        solved: [Solved::NONE; STAGES],
        is_still: false,
        comb: Comb::QUIET,
        drive: Drive::NONE,
        mix: LaneRamp::ZERO,
    };

    /// Onsets in a lane, in silence.
    pub(crate) fn note_on(&mut self, lane: usize) {
        let lane = lane % LANES;
        self.stages.iter_mut().for_each(|s| s.silence(lane));
        // the cutoff of this note does not glide from that of the last
        self.turns.as_mut_array()[lane] = -1.0;
        self.comb.note_on(lane);
        self.drive.note_on(lane);
    }

    /// Takes up a block.
    pub(crate) fn begin_block(&mut self, context: &Context<'_>) {
        let ramp = |at: usize| context.ramp(at).next;
        let seen = Seen {
            cutoff_oct: ramp(at::CUTOFF_OCT),
            resonance: ramp(at::RESONANCE),
            vowel: ramp(at::VOWEL),
            form: (context.unit.variant, context.unit.steep),
            rate_hz: context.rate_hz,
        };
        // a lane that begins is there at once
        let fresh = self.turns.simd_lt(f32x8::ZERO);
        match seen == self.seen && !fresh.any() {
            true => self.stand(context),
            false => self.go(context, fresh, &seen),
        }
        self.seen = seen;
        self.stages.iter_mut().for_each(Stage::settle);
        self.drive.begin_block(context, at::FILTER_DRIVE_DB);
        self.mix = context.ramp(at::FILTER_MIX);
    }

    /// Nothing has changed since the block before: all stands where that was going to.
    fn stand(&mut self, context: &Context<'_>) {
        if self.is_still {
            return;
        }
        self.is_still = true;
        (self.turns, self.slope) = (self.goal, f32x8::ZERO);
        self.designs = self.goals;
        self.slopes = [Design::ZERO; STAGES];
        self.solved = self.goals.map(|goal| Solved::new(&goal));
        self.comb.stand(context.unit);
    }

    /// Goes to where values are at the block's end.
    fn go(&mut self, context: &Context<'_>, fresh: f32x8, seen: &Seen) {
        self.is_still = false;
        let half = (0.5 / context.rate_hz) as f32;
        let turns = |oct: f32| (libm::exp2f(oct) * half).clamp(1e-6, 0.5 * HIGHEST);
        let goal = f32x8::new(seen.cutoff_oct.to_array().map(turns));
        let from = fresh.select(goal, self.turns + self.slope * f32x8::splat(BLOCK as f32));
        self.turns = from;
        self.slope = (goal - from) * f32x8::splat(1.0 / BLOCK as f32);
        self.goal = goal;
        match FilterType::at(context.unit.variant) {
            kind if kind.is_comb() => {
                let back = context.each(at::RESONANCE, Comb::by_resonance);
                return self.comb.begin_block(context.unit, back, goal);
            }
            // where only the cutoff moves all else is as it was
            _ if seen.differs_by_cutoff(&self.seen) => {}
            FilterType::Vowel => self.begin_vowel(context),
            kind => self.begin_poles(context, kind),
        }
        for stage in 0..stages_of(context.unit) {
            let goal = self.design(stage, context.unit.variant, goal);
            let from = self.designs[stage].after(&self.slopes[stage], f32x8::splat(BLOCK as f32));
            let from = from.or(&goal, fresh);
            self.slopes[stage] = from.toward(&goal, 1.0 / BLOCK as f32);
            self.designs[stage] = from;
            self.goals[stage] = goal;
        }
    }

    fn begin_poles(&mut self, context: &Context<'_>, filter_type: FilterType) {
        let slope = Slope::at(context.unit.steep);
        // the others' bands have no more than the sound itself
        let sings = matches!(
            filter_type,
            FilterType::Low | FilterType::High | FilterType::Band
        );
        let [first, second, gain] = context.each(at::RESONANCE, |resonance| {
            let [first, second] = dampings(filter_type, slope, resonance.into());
            let gain = match filter_type {
                FilterType::Peak => PEAK_GAIN * first,
                _ => band_gain(resonance.into()),
            };
            [first, second, gain].map(|x| x as f32)
        });
        self.hold = match sings {
            true => Hold::new(context.each(at::RESONANCE, Hold::by_resonance)),
            false => Hold::NONE,
        };
        self.damp = [first, second, second];
        self.gain = [gain; STAGES];
        self.times = [f32x8::ONE; STAGES];
    }

    fn begin_vowel(&mut self, context: &Context<'_>) {
        self.times = context.each(at::VOWEL, |v| formants(v.into()).map(|f| f as f32));
        let [damp] = context.each(at::RESONANCE, |r| [formant_damping(r.into()) as f32]);
        self.damp = [damp; STAGES];
        self.gain = FORMANT_GAINS.map(|gain| damp * f32x8::splat(gain as f32));
        self.hold = Hold::NONE;
    }

    /// The design of a stage for half a cutoff in turns a frame.
    #[inline(always)]
    fn design(&self, stage: usize, variant: u32, turns: Lanes) -> Design {
        let turns = (turns * self.times[stage]).min(f32x8::splat(0.5 * HIGHEST));
        Design::new(variant, turns, self.damp[stage], self.gain[stage])
    }

    /// One frame. `frequency_mod` moves the cutoff, as a multiple of its own; `line` is a comb's delay line.
    #[inline(always)]
    pub(crate) fn sample(
        &mut self,
        unit: &UnitProgram,
        frame: usize,
        x: Lanes,
        frequency_mod: Option<Lanes>,
        line: Option<&mut [Lanes]>,
    ) -> Lanes {
        let frames = f32x8::splat(frame as f32);
        let mix = self.mix.now + self.mix.slope() * frames;
        let driven = self.drive.eased(x, frames);
        let y = match line {
            Some(line) => self.comb.next(unit, driven, frames, frequency_mod, line),
            None => self.poles(unit, driven, frames, frequency_mod),
        };
        x + (y - x) * mix
    }

    #[inline(always)]
    fn poles(
        &mut self,
        unit: &UnitProgram,
        x: Lanes,
        frames: Lanes,
        moved: Option<Lanes>,
    ) -> Lanes {
        let beside = unit.variant == FilterType::Vowel as u32;
        let moved = moved.map(|by| {
            let turns = self.turns + self.slope * frames;
            (turns * (f32x8::ONE + by))
                .max(f32x8::splat(1e-5))
                .min(f32x8::splat(0.5 * HIGHEST))
        });
        let hold = (!self.hold.is_none()).then_some(&self.hold);
        let (mut y, mut sum) = (x, f32x8::ZERO);
        for stage in 0..stages_of(unit) {
            let (design, solved) = match moved {
                None if self.is_still => (self.designs[stage], self.solved[stage]),
                None => {
                    let design = self.designs[stage].after(&self.slopes[stage], frames);
                    (design, Solved::new(&design))
                }
                Some(turns) => {
                    let design = self.design(stage, unit.variant, turns);
                    (design, Solved::new(&design))
                }
            };
            y = self.stages[stage].next(y, &design, solved, hold);
            if beside {
                sum += y;
                y = x;
            }
        }
        if beside { sum } else { y }
    }
}

/// How many stages a unit's response has: in a row, those of a vowel beside each other.
#[inline(always)]
fn stages_of(unit: &UnitProgram) -> usize {
    match unit.variant {
        v if v == FilterType::Vowel as u32 => STAGES,
        _ => 1 + unit.steep as usize,
    }
}
