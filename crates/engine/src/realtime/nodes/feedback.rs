//! A sine that moves its own phase: `y = sin(phase + index y)`, whose partials are `2 J_n(n index) / (n index)` (Tomisawa, "Tone
//! production method for an electronic musical instrument", 1981). Up to an index of 0.85 that is solved in each frame, so that no
//! delay dulls it; beyond, where it has more than one answer, the sound of a little earlier takes over step by step.

use core::f32::consts::TAU;

use wide::f32x8;
use zolvik_effects::tools::bounds::Bounds;

use crate::realtime::nodes::context::Inputs;
use crate::realtime::sine::{Lanes, sine_turns};

/// Index up to which it is solved, in radians.
const SOLVED_RAD: f32 = 0.85;
/// Index from which on only what was put out earlier counts.
const LATE_RAD: f32 = 1.6;

/// How far the phase is moved by itself, in turns; `phase` is where it is otherwise.
#[inline(always)]
pub(super) fn turns(phase: Lanes, inputs: &Inputs, amplitude: Lanes) -> Lanes {
    let (zero, one) = (f32x8::ZERO, f32x8::ONE);
    let index = inputs.into_itself * amplitude * inputs.factor * f32x8::splat(TAU);
    let over =
        (index.abs() - f32x8::splat(SOLVED_RAD)) * f32x8::splat(1.0 / (LATE_RAD - SOLVED_RAD));
    let over = over.at_least(zero).at_most(one);
    let late = over * over * (f32x8::splat(3.0) - over * f32x8::splat(2.0));
    let by_late = inputs.into_itself * inputs.itself * late;
    let index = index * (one - late);
    by_late + solved(phase + by_late, index) * f32x8::splat(1.0 / TAU)
}

/// `x` of `x = index sin(phase + x)`, in radians: Kepler's equation, by a close first guess and two steps of Halley's
/// (Danby, Burkardt, "The solution of Kepler's equation", 1983).
#[inline(always)]
fn solved(phase: Lanes, index: Lanes) -> Lanes {
    let per_turn = f32x8::splat(1.0 / TAU);
    let (one, half) = (f32x8::ONE, f32x8::splat(0.5));
    let quarter = f32x8::splat(0.25);
    let (sine, cosine) = (sine_turns(phase), sine_turns(phase + quarter));
    let flat = one - index * cosine * f32x8::splat(2.0) + index * index;
    let mut x = index * sine / flat.sqrt();
    for _ in 0..2 {
        let angle = phase + x * per_turn;
        let (sine, cosine) = (sine_turns(angle), sine_turns(angle + quarter));
        let bent = index * sine;
        let (off, slope) = (x - bent, one - index * cosine);
        x -= off * slope / (slope * slope - half * off * bent);
    }
    x
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_equation_is_solved() {
        for index in [-0.9f64, -0.4, 0.1, 0.5, 0.8, 0.9] {
            for step in 0..1000 {
                let phase = f64::from(step) / 1000.0;
                let x = solved(f32x8::splat(phase as f32), f32x8::splat(index as f32));
                let x = f64::from(x.to_array()[5]);
                let again = index * libm::sin(core::f64::consts::TAU * phase + x);
                assert!((x - again).abs() < 2e-6, "{index}, {phase}: {x}, {again}");
            }
        }
    }
}
