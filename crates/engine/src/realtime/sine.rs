//! The sine, eight lanes at a time, with the same bits on every target.

use wide::{f32x4, f32x8, i32x4, i32x8};

/// Eight lanes of samples.
pub type Lanes = f32x8;

/// Adding and taking away 1.5 * 2^23 rounds to the nearest whole number, on every target alike.
pub(crate) const ROUND: f32 = 12_582_912.0;

/// Chebyshev fit of `sin(2 pi x) / (x (x^2 - 1/4))` in `x^2` over half a turn either way; its error of 4e-9
/// is below the rounding of `f32`.
const FIT: [f32; 6] = [
    -25.132_741,
    64.835_82,
    -67.076_62,
    38.495_83,
    -14.049_443,
    3.161_249_8,
];

/// Sine of an angle in turns (one turn is a full cycle). Exact to 3e-7 for angles below 1000 turns
/// (`sine_is_accurate`).
#[inline(always)]
pub fn sine_turns(turns: Lanes) -> Lanes {
    let halves: [f32x4; 2] = bytemuck::cast(turns);
    bytemuck::cast(halves.map(half_sine_turns))
}

/// [`sine_turns`] of four lanes: as wide as the registers of the targets we build for.
#[inline(always)]
pub(crate) fn half_sine_turns(turns: f32x4) -> f32x4 {
    let round = f32x4::splat(ROUND);
    let x = turns - ((turns + round) - round);
    let z = x * x;
    let mut q = f32x4::splat(FIT[5]);
    q = q * z + f32x4::splat(FIT[4]);
    q = q * z + f32x4::splat(FIT[3]);
    q = q * z + f32x4::splat(FIT[2]);
    q = q * z + f32x4::splat(FIT[1]);
    q = q * z + f32x4::splat(FIT[0]);
    x * (z - f32x4::splat(0.25)) * q
}

/// What is left of an angle in turns beyond whole ones, 0 to 1.
#[inline(always)]
pub(crate) fn part_of_turn(turns: f32x4) -> f32x4 {
    let round = f32x4::splat(ROUND);
    let part = turns - ((turns + round) - round);
    part + part.simd_lt(f32x4::ZERO).select(f32x4::ONE, f32x4::ZERO)
}

/// A phase kept as whole number (2^32 is a turn) as turns, -0.5 to 0.5. Whole numbers wrap without drift.
#[inline(always)]
pub(crate) fn phase_turns(phase: i32x8) -> Lanes {
    f32x8::from_i32x8(phase) * f32x8::splat(1.0 / 4_294_967_296.0)
}

/// [`phase_turns`] of four lanes.
#[inline(always)]
pub(crate) fn half_phase_turns(phase: i32x4) -> f32x4 {
    f32x4::from_i32x4(phase) * f32x4::splat(1.0 / 4_294_967_296.0)
}

/// Step of a phase for a frequency, as whole number; the frequency may be up to half the rate.
pub(crate) fn phase_step(hz: f64, rate_hz: f64) -> i32 {
    (hz / rate_hz * 4_294_967_296.0).clamp(0.0, 2_147_483_647.0) as i32
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn sine_is_accurate() {
        for i in -40_000..40_000i32 {
            let turns = i as f32 / 8192.0;
            let ours = sine_turns(f32x8::splat(turns)).to_array()[3];
            let exact = libm::sin(f64::from(turns) * 2.0 * core::f64::consts::PI);
            assert!(
                (f64::from(ours) - exact).abs() < 3e-7,
                "sin of {turns} turns: {ours}, should be {exact}"
            );
        }
    }
}
