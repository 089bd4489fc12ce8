//! Combs: a delay fed back, read between samples by a polynomial through six (Lagrange, 1795).

use wide::f32x8;
use zolvik_patch::document::FilterType;
use zolvik_patch::filter::comb_feedback;

use crate::LANES;
use crate::program::UnitProgram;
use crate::realtime::sine::Lanes;

/// Frames of a delay line.
pub(crate) const LINE: usize = 8192;
/// Shortest delay, so that six samples lie around every place.
const SHORTEST: f32 = 4.0;
/// Where what comes round begins to be held back, and half of what it never passes.
const CALM: f32 = 4.0;

/// What a comb keeps, its delay line left out.
#[derive(Debug, Clone, Copy)]
pub(super) struct Comb {
    /// Feedback, and what keeps it as loud as it came.
    back: Lanes,
    norm: Lanes,
    /// Where the delay line is written next.
    at: usize,
    /// Frames written since each lane began.
    age: [i32; LANES],
}

impl Comb {
    pub(super) const QUIET: Comb = Comb {
        back: f32x8::ZERO,
        norm: f32x8::ONE,
        at: 0,
        age: [0; LANES],
    };

    pub(super) fn note_on(&mut self, lane: usize) {
        self.age[lane] = 0;
    }

    /// What follows from a resonance: feedback, and the factor that leaves noise as strong as it came.
    pub(super) fn by_resonance(resonance: f32) -> [f32; 2] {
        let back = comb_feedback(resonance.into()) as f32;
        [back, libm::sqrtf(1.0 - back * back)]
    }

    pub(super) fn set(&mut self, [back, norm]: [Lanes; 2]) {
        (self.back, self.norm) = (back, norm);
    }

    #[inline(always)]
    pub(super) fn next(
        &mut self,
        unit: &UnitProgram,
        x: Lanes,
        turns: Lanes,
        line: &mut [Lanes],
    ) -> Lanes {
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
        let y = calm(x * self.norm + f32x8::new(late) * back);
        if let Some(place) = line.get_mut(self.at) {
            *place = y;
        }
        self.at = (self.at + 1) % LINE;
        y
    }
}

/// Leaves what is moderate as it is and bends the rest toward twice [`CALM`]: with room for what builds up over many periods.
#[inline(always)]
fn calm(x: Lanes) -> Lanes {
    let edge = f32x8::splat(CALM);
    let over = (x.abs() - edge).max(f32x8::ZERO);
    let held = over / (f32x8::ONE + over * f32x8::splat(1.0 / CALM));
    let kept = x.min(edge).max(-edge);
    kept + x.simd_lt(f32x8::ZERO).select(-held, held)
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
