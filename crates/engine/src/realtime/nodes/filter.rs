//! Filters, eight lanes at a time.
//!
//! Low, high, band, notch and peak are the state-variable filter with trapezoidal integrators (Zavalishin, "The Art of VA Filter
//! Design", 2012), which stays bounded however its cutoff moves (Wishnick, "Time-Varying Filters for Musical Applications", 2014).
//! Combs feed a delay back, read between samples by a polynomial through six (Lagrange, 1795). Vowels are three
//! band-passes.

use wide::f32x8;
use zolvik_patch::choice::Options;
use zolvik_patch::document::{FilterType, Slope};
use zolvik_patch::filter::{
    FORMANT_GAINS, PEAK_GAIN, comb_feedback, dampings, formant_damping, formants,
};

use super::Context;
use super::drive::Drive;
use crate::program::UnitProgram;
use crate::realtime::sine::{Lanes, sine_turns};
use crate::realtime::values::LaneRamp;
use crate::{BLOCK, LANES};

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

/// Frames of a delay line.
pub(crate) const LINE: usize = 8192;
/// Shortest delay, so that six samples lie around every place.
const SHORTEST: f32 = 4.0;
/// Highest cutoff, as a share of the rate.
const HIGHEST: f32 = 0.46;
/// Where the states of a filter begin to be held back, and what they never pass.
const CALM: f32 = 2.0;

/// One state-variable filter.
#[derive(Debug, Clone, Copy)]
struct Stage([Lanes; 2]);

/// What a stage gives: low, band, high.
type Parts = [Lanes; 3];

impl Stage {
    #[inline(always)]
    fn next(&mut self, x: Lanes, g: Lanes, k: Lanes) -> Parts {
        let one = f32x8::ONE;
        let a1 = one / (one + g * (g + k));
        let a2 = g * a1;
        let a3 = g * a2;
        let [s1, s2] = self.0;
        let v3 = x - s2;
        let v1 = a1 * s1 + a2 * v3;
        let v2 = s2 + a2 * s1 + a3 * v3;
        let two = f32x8::splat(2.0);
        self.0 = [calm(two * v1 - s1), calm(two * v2 - s2)];
        [v2, v1, x - k * v1 - v2]
    }
}

/// Leaves what is moderate as it is and bends the rest toward twice [`CALM`], so that even singing filters stay bounded.
#[inline(always)]
fn calm(x: Lanes) -> Lanes {
    let edge = f32x8::splat(CALM);
    let over = (x.abs() - edge).max(f32x8::ZERO);
    let held = over / (f32x8::ONE + over * f32x8::splat(1.0 / CALM));
    let kept = x.min(edge).max(-edge);
    kept + x.simd_lt(f32x8::ZERO).select(-held, held)
}

/// [`calm`] for what builds up over many periods.
#[inline(always)]
fn roomy(x: Lanes) -> Lanes {
    let half = f32x8::splat(0.5);
    calm(x * half) * f32x8::splat(2.0)
}

/// State of a filter in eight lanes, and what holds for the block at hand.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Filter {
    stages: [Stage; 3],
    /// Half the cutoff in turns a frame, at the block's start and its change a frame.
    turns: Lanes,
    slope: Lanes,
    /// Damping of both stages; of vowels of all.
    damp: [Lanes; 2],
    /// Feedback of a comb, and what keeps it as loud as it came.
    back: Lanes,
    norm: Lanes,
    drive: Drive,
    mix: LaneRamp,
    formants: [Lanes; 3],
    /// Where the delay line is written next.
    at: usize,
    /// Frames written since each lane began.
    age: [i32; LANES],
}

impl Filter {
    pub(crate) const QUIET: Filter = Filter {
        stages: [Stage([f32x8::ZERO; 2]); 3],
        turns: f32x8::ZERO,
        slope: f32x8::ZERO,
        damp: [f32x8::ONE; 2],
        back: f32x8::ZERO,
        norm: f32x8::ONE,
        drive: Drive::NONE,
        mix: LaneRamp::ZERO,
        formants: [f32x8::ZERO; 3],
        at: 0,
        age: [0; LANES],
    };

    /// Begins in a lane, in silence.
    pub(crate) fn note_on(&mut self, lane: usize) {
        let lane = lane % LANES;
        for stage in &mut self.stages {
            stage
                .0
                .iter_mut()
                .for_each(|s| s.as_mut_array()[lane] = 0.0);
        }
        // the cutoff of this note does not glide from that of the last
        self.turns.as_mut_array()[lane] = -1.0;
        self.age[lane] = 0;
    }

    /// Takes up a block.
    pub(crate) fn begin_block(&mut self, context: &Context<'_>) {
        let half = (0.5 / context.rate_hz) as f32;
        let cutoffs_oct = context.ramp(at::CUTOFF_OCT).next.to_array();
        let goal =
            f32x8::new(cutoffs_oct.map(|oct| (libm::exp2f(oct) * half).clamp(1e-6, 0.5 * HIGHEST)));
        // a lane that begins is there at once
        let fresh = self.turns.simd_lt(f32x8::ZERO);
        let from = fresh.select(goal, self.turns + self.slope * f32x8::splat(BLOCK as f32));
        self.turns = from;
        self.slope = (goal - from) * f32x8::splat(1.0 / BLOCK as f32);
        let filter_type = FilterType::at(context.unit.variant);
        let slope = Slope::at(context.unit.steep);
        self.damp = context.each(at::RESONANCE, |resonance| {
            dampings(filter_type, slope, resonance.into()).map(|k| k as f32)
        });
        if filter_type.is_comb() {
            [self.back, self.norm] = context.each(at::RESONANCE, |resonance| {
                let back = comb_feedback(resonance.into()) as f32;
                // as strong as it came, for noise
                [back, libm::sqrtf(1.0 - back * back)]
            });
        }
        if filter_type == FilterType::Vowel {
            self.formants = context.each(at::VOWEL, |v| formants(v.into()).map(|f| f as f32));
            let [damp] = context.each(at::RESONANCE, |r| [formant_damping(r.into()) as f32]);
            self.damp = [damp; 2];
        }
        self.drive = Drive::new(context, at::FILTER_DRIVE_DB);
        self.mix = context.ramp(at::FILTER_MIX);
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
        let mix = self.mix.now + self.mix.slope() * f32x8::splat(frame as f32);
        let mut turns = self.turns + self.slope * f32x8::splat(frame as f32);
        if let Some(by) = frequency_mod {
            turns = (turns * (f32x8::ONE + by))
                .max(f32x8::splat(1e-5))
                .min(f32x8::splat(0.5 * HIGHEST));
        }
        let driven = self.drive.eased(x);
        let y = match line {
            Some(line) => self.comb(unit, driven, turns, line),
            None if unit.variant == FilterType::Vowel as u32 => self.vowel(driven, turns),
            None => self.two_poles(unit, driven, turns),
        };
        x + (y - x) * mix
    }

    #[inline(always)]
    fn two_poles(&mut self, unit: &UnitProgram, x: Lanes, turns: Lanes) -> Lanes {
        let g = sine_turns(turns) / sine_turns(turns + f32x8::splat(0.25));
        let [k1, k2] = self.damp;
        let parts = self.stages[0].next(x, g, k1);
        let y = pick(unit.variant, x, parts, k1);
        if unit.steep == 0 {
            return y;
        }
        let parts = self.stages[1].next(y, g, k2);
        pick(unit.variant, y, parts, k2)
    }

    #[inline(always)]
    fn vowel(&mut self, x: Lanes, turns: Lanes) -> Lanes {
        let k = self.damp[0];
        let mut sum = f32x8::ZERO;
        for (i, gain) in FORMANT_GAINS.iter().enumerate() {
            let at = (turns * self.formants[i]).min(f32x8::splat(0.5 * HIGHEST));
            let g = sine_turns(at) / sine_turns(at + f32x8::splat(0.25));
            let [_, band, _] = self.stages[i].next(x, g, k);
            sum += band * k * f32x8::splat(*gain as f32);
        }
        sum
    }

    #[inline(always)]
    fn comb(&mut self, unit: &UnitProgram, x: Lanes, turns: Lanes, line: &mut [Lanes]) -> Lanes {
        let minus = unit.variant == FilterType::CombMinus as u32;
        let half = if minus { 0.5 } else { 1.0 };
        let longest = (LINE - 8) as f32;
        let delay = (f32x8::splat(0.5 * half) / turns)
            .max(f32x8::splat(SHORTEST))
            .min(f32x8::splat(longest))
            .to_array();
        let mut late = [0.0f32; LANES];
        for lane in 0..LANES {
            let whole = delay[lane] as usize;
            let part = delay[lane] - whole as f32;
            // the sample `whole` frames back, and five around it
            let taps: [f32; 6] = std::array::from_fn(|i| {
                let back = whole + i - 2;
                if back as i32 > self.age[lane] {
                    return 0.0;
                }
                let at = (self.at + LINE - back) % LINE;
                line.get(at).map_or(0.0, |frame| frame.as_array()[lane])
            });
            late[lane] = between(&taps, part);
            self.age[lane] = (self.age[lane] + 1).min(LINE as i32);
        }
        let back = if minus { -self.back } else { self.back };
        // with room for what builds up
        let y = roomy(x * self.norm + f32x8::new(late) * back);
        if let Some(place) = line.get_mut(self.at) {
            *place = y;
        }
        self.at = (self.at + 1) % LINE;
        y
    }
}

#[inline(always)]
fn pick(response: u32, x: Lanes, [low, band, high]: Parts, k: Lanes) -> Lanes {
    match response {
        r if r == FilterType::High as u32 => high,
        r if r == FilterType::Band as u32 => band * k,
        r if r == FilterType::Notch as u32 => x - band * k,
        r if r == FilterType::Peak as u32 => x + band * k * f32x8::splat(PEAK_GAIN as f32 - 1.0),
        _ => low,
    }
}

/// The polynomial through six samples, `part` after the third.
#[inline(always)]
fn between(y: &[f32; 6], part: f32) -> f32 {
    // places 0 to 5, read at 2 + part
    let x = 2.0 + part;
    let mut sum = 0.0;
    const BELOW: [f32; 6] = [-120.0, 24.0, -12.0, 12.0, -24.0, 120.0];
    for i in 0..6 {
        let mut product = y[i] / BELOW[i];
        for j in 0..6 {
            if j != i {
                product *= x - j as f32;
            }
        }
        sum += product;
    }
    sum
}
