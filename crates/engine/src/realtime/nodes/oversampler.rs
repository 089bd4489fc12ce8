//! Four times the rate inside one unit: what a curve bends there does not fold back.
//!
//! Half-band filters from two chains of all-pass sections (Valenzuela and Constantinides, "Digital Signal Processing Schemes for
//! Efficient Interpolation and Decimation", 1983) go up and come down again. They pass what is below 20 kHz of 48 and
//! damp what is above 28, 100 dB on the way up and 75 on the way down, and are late by three to four frames.

use wide::f32x8;

use crate::realtime::sine::Lanes;
use crate::sizes::LANES;

/// How many times the rate.
pub(super) const TIMES: usize = 4;

/// Coefficients of the sections, in turn of the one chain and of the other: between the rate and twice the rate, from 0.417 of the rate
/// on, and between twice and four times the rate. Going up needs more of them: what is left of a mirrored tone moves the moments at which
/// a hard pressed sound crosses nothing, and they make most of what is heard.
const NEAR_UP: [f32; 8] = [
    0.039_714, 0.147_382, 0.295_353, 0.454_002, 0.602_655, 0.732_672, 0.845_267, 0.948_281,
];
const FAR_UP: [f32; 5] = [0.041_737, 0.159_323, 0.335_719, 0.557_983, 0.832_155];
const NEAR_DOWN: [f32; 6] = [
    0.066_692, 0.235_677, 0.441_965, 0.634_402, 0.795_089, 0.932_6,
];
const FAR_DOWN: [f32; 4] = [0.061_846, 0.231_495, 0.478_981, 0.798_234];

/// Where what is left in a chain counts as nothing, long before numbers get so small that they are slow.
const NOTHING: f32 = 1e-15;

/// Two chains of all-pass sections: what each section was given and gave last.
#[derive(Debug, Clone, Copy)]
struct Chains<const SECTIONS: usize> {
    came: [Lanes; SECTIONS],
    gave: [Lanes; SECTIONS],
}

impl<const SECTIONS: usize> Chains<SECTIONS> {
    const QUIET: Self = Chains {
        came: [f32x8::ZERO; SECTIONS],
        gave: [f32x8::ZERO; SECTIONS],
    };

    /// What both chains give for one sample each.
    #[inline(always)]
    fn run(&mut self, coefficients: &[f32; SECTIONS], mut x: [Lanes; 2]) -> [Lanes; 2] {
        for (i, coefficient) in coefficients.iter().enumerate() {
            let chain = &mut x[i % 2];
            let y = (*chain - self.gave[i]) * f32x8::splat(*coefficient) + self.came[i];
            self.came[i] = *chain;
            self.gave[i] = y;
            *chain = y;
        }
        x
    }

    /// Two samples at twice the rate.
    #[inline(always)]
    fn up(&mut self, coefficients: &[f32; SECTIONS], x: Lanes) -> [Lanes; 2] {
        self.run(coefficients, [x; 2])
    }

    /// One sample of two.
    #[inline(always)]
    fn down(&mut self, coefficients: &[f32; SECTIONS], [first, second]: [Lanes; 2]) -> Lanes {
        let [a, b] = self.run(coefficients, [second, first]);
        (a + b) * f32x8::splat(0.5)
    }

    fn silence(&mut self, lane: usize) {
        for value in self.came.iter_mut().chain(&mut self.gave) {
            value.as_mut_array()[lane % LANES] = 0.0;
        }
    }

    fn settle(&mut self) {
        for value in self.came.iter_mut().chain(&mut self.gave) {
            let heard = value.abs().simd_gt(f32x8::splat(NOTHING));
            *value = heard.select(*value, f32x8::ZERO);
        }
    }
}

/// Both halvings or doublings of the rate, with so many sections each.
#[derive(Debug, Clone, Copy)]
pub(super) struct Stages<const NEAR: usize, const FAR: usize> {
    near: Chains<NEAR>,
    far: Chains<FAR>,
}

/// To four times the rate.
pub(super) type Up = Stages<8, 5>;
/// Down from four times the rate.
pub(super) type Down = Stages<6, 4>;

impl<const NEAR: usize, const FAR: usize> Stages<NEAR, FAR> {
    pub(super) const QUIET: Self = Stages {
        near: Chains::QUIET,
        far: Chains::QUIET,
    };

    /// Leaves nothing in a lane.
    pub(super) fn silence(&mut self, lane: usize) {
        self.near.silence(lane);
        self.far.silence(lane);
    }

    /// Lets go of what is no longer heard; once a block.
    pub(super) fn settle(&mut self) {
        self.near.settle();
        self.far.settle();
    }
}

impl Up {
    /// Four samples of one.
    #[inline(always)]
    pub(super) fn four(&mut self, x: Lanes) -> [Lanes; TIMES] {
        let [first, second] = self.near.up(&NEAR_UP, x);
        let [a, b] = self.far.up(&FAR_UP, first);
        let [c, d] = self.far.up(&FAR_UP, second);
        [a, b, c, d]
    }
}

impl Down {
    /// One sample of four.
    #[inline(always)]
    pub(super) fn one(&mut self, [a, b, c, d]: [Lanes; TIMES]) -> Lanes {
        let first = self.far.down(&FAR_DOWN, [a, b]);
        let second = self.far.down(&FAR_DOWN, [c, d]);
        self.near.down(&NEAR_DOWN, [first, second])
    }
}

#[cfg(test)]
#[allow(clippy::disallowed_methods)] // references are reckoned in their own way
mod tests {
    use core::f64::consts::{PI, TAU};

    use rstest::rstest;

    use super::*;

    /// Coefficients of a half-band filter that passes what is below a quarter less `slope` of the higher rate, by the formulas for
    /// elliptic ones in Valenzuela and Constantinides, 1983.
    fn half_band<const N: usize>(slope: f64) -> [f64; N] {
        let k = (PI / 4.0 * (1.0 - 2.0 * slope)).tan().powi(2);
        let root = (1.0 - k * k).powf(0.25);
        let e = 0.5 * (1.0 - root) / (1.0 + root);
        let q = e * (1.0 + e.powi(4) * (2.0 + e.powi(4) * (15.0 + 150.0 * e.powi(4))));
        let order = (2 * N + 1) as f64;
        std::array::from_fn(|n| {
            let c = (n + 1) as f64;
            let sign = |i: i32| f64::from(1 - 2 * (i % 2));
            let above: f64 = (0..12)
                .map(|i| {
                    let angle = f64::from(2 * i + 1) * c * PI / order;
                    sign(i) * q.powi(i * (i + 1)) * angle.sin()
                })
                .sum();
            let below: f64 = (1..12)
                .map(|i| sign(i) * q.powi(i * i) * (f64::from(2 * i) * c * PI / order).cos())
                .sum();
            let w = (above * q.powf(0.25) / (0.5 + below)).powi(2);
            let x = ((1.0 - w * k) * (1.0 - w / k)).sqrt() / (1.0 + w);
            (1.0 - x) / (1.0 + x)
        })
    }

    #[test]
    fn the_coefficients_are_those_of_the_formula() {
        fn compare<const N: usize>(all: &[f32; N], slope: f64) {
            for (is, should) in all.iter().zip(half_band::<N>(slope)) {
                assert!((f64::from(*is) - should).abs() < 1e-6, "{is} {should}");
            }
        }
        compare(&NEAR_UP, 0.0417);
        compare(&FAR_UP, 0.146);
        compare(&NEAR_DOWN, 0.0417);
        compare(&FAR_DOWN, 0.146);
    }

    /// What is left of the mirrored tones of a sine on the way up, against the sine, in dB.
    #[rstest]
    fn up_mirrors_nothing(#[values(100.0, 1_000.0, 10_000.0, 19_000.0)] hz: f64) {
        let mut up = Up::QUIET;
        let mut sums = [[0.0; 2]; 4];
        for frame in 0..9_600 {
            let x = (TAU * hz * f64::from(frame) / 48_000.0).sin() as f32;
            for (part, y) in up.four(f32x8::splat(x)).iter().enumerate() {
                let at = f64::from(frame * 4 + part as i32) / 192_000.0;
                let tones = [hz, 48_000.0 - hz, 48_000.0 + hz, 96_000.0 - hz];
                for (sum, tone) in sums.iter_mut().zip(tones) {
                    if frame >= 4_800 {
                        let y = f64::from(y.to_array()[0]) / 9_600.0;
                        sum[0] += y * (TAU * tone * at).cos();
                        sum[1] += y * (TAU * tone * at).sin();
                    }
                }
            }
        }
        let db = |sum: &[f64; 2]| 20.0 * sum[0].hypot(sum[1]).max(1e-12).log10();
        assert!(db(&sums[0]).abs() < 0.01, "{hz} Hz: {}", db(&sums[0]));
        for sum in &sums[1..] {
            assert!(db(sum) < -99.0, "{hz} Hz: {} dB", db(sum));
        }
    }

    /// Level in dB of a sine at four times 48 kHz after coming down.
    fn down_db(hz: f64) -> f64 {
        let mut down = Down::QUIET;
        let mut power = 0.0;
        for frame in 0..6_000 {
            let four = std::array::from_fn(|part| {
                let at = (frame * 4 + part) as f64 / 192_000.0;
                f32x8::splat((TAU * hz * at).sin() as f32)
            });
            let y = down.one(four).to_array()[0];
            if frame >= 1_200 {
                power += f64::from(y * y);
            }
        }
        10.0 * (2.0 * power / 4_800.0).max(1e-24).log10()
    }

    #[rstest]
    #[case::what_is_heard_stays(&[50.0, 1_000.0, 10_000.0, 20_000.0], -0.01, 0.01)]
    #[case::what_would_fold_goes(&[28_000.0, 40_000.0, 47_000.0, 77_000.0, 95_000.0], -200.0, -74.0)]
    fn down_passes(#[case] at: &[f64], #[case] least_db: f64, #[case] most_db: f64) {
        for hz in at {
            let db = down_db(*hz);
            assert!((least_db..most_db).contains(&db), "{hz} Hz: {db} dB");
        }
    }

    /// Up and down again, a tone comes out as it was, three to four frames late.
    #[test]
    fn up_and_down_is_late_and_no_more() {
        for hz in [100.0, 1_000.0, 4_000.0] {
            let (mut up, mut down) = (Up::QUIET, Down::QUIET);
            let (mut c, mut s) = (0.0, 0.0);
            for frame in 0..9_600 {
                let angle = TAU * hz * f64::from(frame) / 48_000.0;
                let x = f32x8::splat(angle.sin() as f32);
                let y = f64::from(down.one(up.four(x)).to_array()[0]);
                if frame >= 4_800 {
                    c += y * angle.cos() / 2_400.0;
                    s += y * angle.sin() / 2_400.0;
                }
            }
            let level = c.hypot(s);
            let late = -c.atan2(s) / TAU / hz * 48_000.0;
            assert!((level - 1.0).abs() < 1e-4, "{hz} Hz: {level}");
            assert!((3.0..4.0).contains(&late), "{hz} Hz: {late} frames late");
        }
    }
}
