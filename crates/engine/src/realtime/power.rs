//! Powers of two with the same bits on every target, fast enough for what moves in every block.

use wide::{f32x8, i32x8};

use crate::realtime::sine::{Lanes, ROUND};

/// `ln(2)^n / n!`: the series of `2^x`, used for half a step either way; the rest is below 5e-9.
const SERIES: [f64; 8] = [
    1.0,
    core::f64::consts::LN_2,
    0.240_226_506_959_100_7,
    0.055_504_108_664_821_58,
    0.009_618_129_107_628_477,
    0.001_333_355_814_642_844_3,
    0.000_154_035_303_933_816_1,
    1.525_273_380_405_984e-5,
];

/// `2^x` in each lane, exact to 3e-7 of its value from -126 to 126 (`powers_are_accurate`).
#[inline(always)]
pub(crate) fn exp2(x: Lanes) -> Lanes {
    let x = x.max(f32x8::splat(-126.0)).min(f32x8::splat(126.0));
    let round = f32x8::splat(ROUND);
    let whole = (x + round) - round;
    let rest = x - whole;
    let mut sum = f32x8::splat(SERIES[SERIES.len() - 1] as f32);
    for term in SERIES[..SERIES.len() - 1].iter().rev() {
        sum = sum * rest + f32x8::splat(*term as f32);
    }
    // the exponent of a number is its own bits
    let scale: Lanes = bytemuck::cast((whole.trunc_int() + i32x8::splat(127)) << 23);
    sum * scale
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn powers_are_accurate() {
        for i in -12_600..12_600 {
            let x = f64::from(i) / 100.0;
            let ours = exp2(f32x8::splat(x as f32)).to_array()[5];
            let theirs = libm::exp2(f64::from(x as f32));
            assert!((f64::from(ours) / theirs - 1.0).abs() < 3e-7, "{x}: {ours}");
        }
        assert_eq!(
            exp2(f32x8::ZERO).to_array(),
            [1.0; 8],
            "nothing moves nothing"
        );
    }
}
