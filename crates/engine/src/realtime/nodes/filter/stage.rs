//! One stage with two poles: the state-variable filter with trapezoidal integrators (Zavalishin, "The Art of VA Filter Design", 2012),
//! which stays bounded however its cutoff moves (Wishnick, "Time-Varying Filters for Musical Applications", 2014).

use wide::f32x8;

use super::design::Design;
use crate::realtime::sine::Lanes;

/// What states never pass.
const HIGHEST: f32 = 32.0;
/// The band beyond which what sings is damped, as the factor of its square: half of full scale.
const SINGS: f32 = 4.0;

/// State of a stage.
#[derive(Debug, Clone, Copy)]
pub(super) struct Stage([Lanes; 2]);

impl Stage {
    pub(super) const QUIET: Stage = Stage([f32x8::ZERO; 2]);

    pub(super) fn silence(&mut self, lane: usize) {
        self.0.iter_mut().for_each(|s| s.as_mut_array()[lane] = 0.0);
    }

    /// One frame. `bite` says how hard a band that sings is held back; without it the stage is linear.
    #[inline(always)]
    pub(super) fn next(&mut self, x: Lanes, design: &Design, bite: Lanes) -> Lanes {
        let one = f32x8::ONE;
        let (g, k) = (design.g, design.k);
        let a1 = one / (one + g * (g + k));
        let a2 = g * a1;
        let [s1, s2] = self.0;
        let v3 = x - s2;
        let v1 = a1 * s1 + a2 * v3;
        let v2 = s2 + a2 * s1 + g * a2 * v3;
        let two = f32x8::splat(2.0);
        let most = f32x8::splat(HIGHEST);
        let over = (v1 * v1 * f32x8::splat(SINGS) - one).max(f32x8::ZERO);
        let held = (over * bite * g).min(f32x8::splat(0.5));
        let band = two * v1 - s1;
        self.0 = [
            (band - band * held).min(most).max(-most),
            (two * v2 - s2).min(most).max(-most),
        ];
        design.direct * x + design.band * v1 + design.low * v2
    }
}
