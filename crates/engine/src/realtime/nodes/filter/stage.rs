//! One stage with two poles: the state-variable filter with trapezoidal integrators (Zavalishin, "The Art of VA Filter Design", 2012),
//! which stays bounded however its cutoff moves (Wishnick, "Time-Varying Filters for Musical Applications", 2014).

use wide::f32x8;
use zolvik_effects::tools::bounds::Bounds;

use crate::realtime::nodes::filter::design::Design;
use crate::realtime::sine::Lanes;

/// What states never pass.
const HIGHEST: f32 = 32.0;

/// How a band that sings is held back, so that resonance does not get loud: by more damping while it is strong.
#[derive(Debug, Clone, Copy)]
pub(super) struct Hold {
    /// From which band on: its square times this is one.
    from: Lanes,
    /// How hard; without it the stage is linear.
    bite: Lanes,
    is_none: bool,
}

impl Hold {
    pub(super) const NONE: Hold = Hold {
        from: f32x8::ZERO,
        bite: f32x8::ZERO,
        is_none: true,
    };

    /// What follows from a resonance: with little of it only what is beyond full scale is held back, and gently.
    pub(super) fn by_resonance(resonance: f32) -> [f32; 2] {
        const BITE: f32 = 6.0;
        const FROM: f32 = 5.0;
        let fourth = resonance * resonance * resonance * resonance;
        let eighth = fourth * fourth;
        [1.0 + (FROM - 1.0) * eighth, BITE * eighth]
    }

    pub(super) fn new([from, bite]: [Lanes; 2]) -> Self {
        let is_none = bite == f32x8::ZERO;
        Hold {
            from,
            bite,
            is_none,
        }
    }

    /// Whether it holds nothing back.
    pub(super) fn is_none(&self) -> bool {
        self.is_none
    }

    /// How much of a band is taken away, where the cutoff stands at `g` as the integrators see it.
    #[inline(always)]
    fn held(&self, band: Lanes, g: Lanes) -> Lanes {
        let over = (band * band * self.from - f32x8::ONE).at_least(f32x8::ZERO);
        (over * self.bite * g).at_most(f32x8::splat(0.5))
    }
}

/// What a stage is solved with: for each frame, or once for a block where its design stands still.
#[derive(Debug, Clone, Copy)]
pub(super) struct Solved([Lanes; 3]);

impl Solved {
    pub(super) const NONE: Solved = Solved([f32x8::ZERO; 3]);

    #[inline(always)]
    pub(super) fn new(design: &Design) -> Self {
        let (g, k) = (design.g, design.k);
        let a1 = f32x8::ONE / (f32x8::ONE + g * (g + k));
        let a2 = g * a1;
        Solved([a1, a2, g * a2])
    }
}

/// State of a stage.
#[derive(Debug, Clone, Copy)]
pub(super) struct Stage([Lanes; 2]);

impl Stage {
    pub(super) const QUIET: Stage = Stage([f32x8::ZERO; 2]);

    pub(super) fn silence(&mut self, lane: usize) {
        self.0.iter_mut().for_each(|s| s.as_mut_array()[lane] = 0.0);
    }

    /// Takes up a block: what is next to nothing becomes nothing. Processors are slow with the smallest numbers there are.
    pub(super) fn settle(&mut self) {
        const NOTHING: f32 = 1e-18;
        for state in &mut self.0 {
            let heard = state.abs().simd_gt(f32x8::splat(NOTHING));
            *state = heard.select(*state, f32x8::ZERO);
        }
    }

    /// One frame. `hold` says how a band that sings is held back, where one is.
    #[inline(always)]
    pub(super) fn next(
        &mut self,
        x: Lanes,
        design: &Design,
        Solved([a1, a2, a3]): Solved,
        hold: Option<&Hold>,
    ) -> Lanes {
        let [s1, s2] = self.0;
        let v3 = x - s2;
        let v1 = a1 * s1 + a2 * v3;
        let v2 = s2 + a2 * s1 + a3 * v3;
        let two = f32x8::splat(2.0);
        let most = f32x8::splat(HIGHEST);
        let mut band = two * v1 - s1;
        if let Some(hold) = hold {
            band -= band * hold.held(v1, design.g);
        }
        self.0 = [
            band.at_most(most).at_least(-most),
            (two * v2 - s2).at_most(most).at_least(-most),
        ];
        design.direct * x + design.band * v1 + design.low * v2
    }
}
