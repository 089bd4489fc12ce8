//! The curves of shapers, each as its mean between one sample and the next.
//!
//! The mean over a straight line between both is the difference of the antiderivative by that of the samples (Parker, Zavalishin and
//! Le Bivic, "Reducing the Aliasing of Nonlinear Waveshaping Using Continuous-Time Convolution", 2016). It is written here so that no
//! two large numbers are taken from each other. What has a corner where it is steepest, the rectifier, is weighed by a triangle over
//! both neighbours instead.

use wide::f32x8;
use zolvik_effects::tools::bounds::Bounds;
use zolvik_patch::document::ShaperCurve;

use crate::realtime::nodes::drive::soft;
use crate::realtime::sine::{Lanes, sine_turns};
use crate::sizes::LANES;

/// Below this distance two samples count as one.
const ONE: f32 = 1e-6;
/// Furthest a fold goes: 1,270 turns, where single precision still knows the place.
const FURTHEST: f32 = 8_000.0;

/// What a curve makes of a sound, from sample to sample.
#[derive(Debug, Clone, Copy)]
pub(super) struct ShapedCurve {
    /// What came last.
    last: Lanes,
    /// What the way to it counts for, seen from it.
    way: Lanes,
}

impl ShapedCurve {
    pub(super) const QUIET: ShapedCurve = ShapedCurve {
        last: f32x8::ZERO,
        way: f32x8::ZERO,
    };

    /// Onsets in a lane, in silence.
    pub(super) fn silence(&mut self, lane: usize) {
        self.last.as_mut_array()[lane % LANES] = 0.0;
        self.way.as_mut_array()[lane % LANES] = 0.0;
    }

    /// The next sample of a curve by its number in a program: half a sample late, rectified a whole one.
    #[inline(always)]
    pub(super) fn next(&mut self, variant: u32, x: Lanes) -> Lanes {
        let last = core::mem::replace(&mut self.last, x);
        match variant {
            v if v == ShaperCurve::Hard as u32 => hard(last, x),
            v if v == ShaperCurve::Fold as u32 => fold(last, x),
            v if v == ShaperCurve::Rectify as u32 => {
                let [mean, moment] = rectify(last, x);
                core::mem::replace(&mut self.way, moment) + mean - moment
            }
            _ => simpson(soft, last, x),
        }
    }
}

/// The mean of a smooth curve (Simpson's rule).
#[inline(always)]
fn simpson(curve: impl Fn(Lanes) -> Lanes, a: Lanes, b: Lanes) -> Lanes {
    let middle = curve((a + b) * f32x8::splat(0.5));
    (curve(a) + curve(b) + middle * f32x8::splat(4.0)) * f32x8::splat(1.0 / 6.0)
}

/// Cut at -1 and 1: what lies between, a trapezium, and what lies beyond, at 1.
#[inline(always)]
fn hard(a: Lanes, b: Lanes) -> Lanes {
    let one = f32x8::ONE;
    let cut = |x: Lanes| x.at_most(one).at_least(-one);
    let (low, high) = (cut(a), cut(b));
    let between = (high - low) * (high + low) * f32x8::splat(0.5);
    let above = b.at_least(one) - a.at_least(one);
    let below = b.at_most(-one) - a.at_most(-one);
    let step = b - a;
    let far = step.abs().simd_gt(f32x8::splat(ONE));
    let mean = (between + above - below) / far.select(step, one);
    far.select(mean, (low + high) * f32x8::splat(0.5))
}

/// A sine of the sound: its mean is the sine of the middle by `sin d / d`, where `d` is half the step.
#[inline(always)]
fn fold(a: Lanes, b: Lanes) -> Lanes {
    const TURNS: f32 = 0.5 / core::f32::consts::PI;
    let furthest = f32x8::splat(FURTHEST);
    let within = |x: Lanes| x.at_most(furthest).at_least(-furthest);
    let (a, b) = (within(a), within(b));
    let half = f32x8::splat(0.5);
    let sine = |x: Lanes| sine_turns(x * f32x8::splat(TURNS));
    let d = (b - a) * half;
    // below, the sine of the table is less exact than the series
    let far = d.abs().simd_gt(f32x8::splat(0.05));
    let near = f32x8::ONE - d * d * f32x8::splat(1.0 / 6.0);
    let share = far.select(sine(d) / far.select(d, f32x8::ONE), near);
    sine((a + b) * half) * share
}

/// The soft curve of the height above or below nothing, by Simpson's rule: its mean from `a` to `b`, and the mean of the same by the
/// share of the way covered. Where the sound crosses nothing, each side counts for as long as it lasts.
#[inline(always)]
fn rectify(a: Lanes, b: Lanes) -> [Lanes; 2] {
    let (six, two) = (f32x8::splat(1.0 / 6.0), f32x8::splat(2.0));
    let half = f32x8::splat(0.5);
    let (high_a, high_b) = (a.abs(), b.abs());
    let (at_a, at_b) = (soft(high_a), soft(high_b));
    let twice = soft((high_a + high_b) * half) * two;
    let whole = [(at_a + twice * two + at_b) * six, (twice + at_b) * six];
    let crosses = (a * b).simd_lt(f32x8::ZERO);
    if crosses.to_bitmask() == 0 {
        return whole;
    }
    let both = crosses.select(high_a + high_b, f32x8::ONE);
    let (down, up) = (high_a / both, high_b / both);
    let (twice_a, twice_b) = (soft(high_a * half) * two, soft(high_b * half) * two);
    let (mean_a, moment_a) = ((at_a + twice_a * two) * six, twice_a * six);
    let (mean_b, moment_b) = ((twice_b * two + at_b) * six, (twice_b + at_b) * six);
    let mean = mean_a * down + mean_b * up;
    let moment = moment_a * down * down + (mean_b * down + moment_b * up) * up;
    [
        crosses.select(mean, whole[0]),
        crosses.select(moment, whole[1]),
    ]
}

#[cfg(test)]
#[allow(clippy::disallowed_methods)] // references are reckoned in their own way
mod tests {
    use proptest::prelude::*;

    use super::*;

    fn at(curve: ShaperCurve, x: f64) -> f64 {
        let rational = |x: f64| {
            let x = x.clamp(-3.0, 3.0);
            x * (27.0 + x * x) / (27.0 + 9.0 * x * x)
        };
        match curve {
            ShaperCurve::Soft => rational(x),
            ShaperCurve::Hard => x.clamp(-1.0, 1.0),
            ShaperCurve::Fold => x.sin(),
            ShaperCurve::Rectify => rational(x.abs()),
        }
    }

    /// The mean of ten thousand places between, each by a weight of the share of the way.
    fn added_up(curve: ShaperCurve, a: f32, b: f32, weight: impl Fn(f64) -> f64) -> f64 {
        let (a, b) = (f64::from(a), f64::from(b));
        let share = |i: i32| (f64::from(i) + 0.5) / 10_000.0;
        (0..10_000)
            .map(|i| at(curve, a + (b - a) * share(i)) * weight(share(i)))
            .sum::<f64>()
            / 10_000.0
    }

    /// What comes out for a sample, after those before.
    fn last_of(curve: ShaperCurve, samples: &[f32]) -> f64 {
        let mut bend = ShapedCurve::QUIET;
        let all = samples
            .iter()
            .map(|x| bend.next(curve as u32, f32x8::splat(*x)));
        all.last().map_or(f64::NAN, |x| x.to_array()[0].into())
    }

    fn step() -> impl Strategy<Value = f32> {
        prop_oneof![-1.0f32..1.0, -1e-3f32..1e-3, -1e-7f32..1e-7, Just(0.0)]
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(64))]
        #[test]
        fn a_mean_is_the_sum_of_what_lies_between(a in -16.0f32..16.0, (to_b, to_c) in (step(), step())) {
            let (b, c) = (a + to_b, a + to_b + to_c);
            let near = |step: f32| 2e-3 * f64::from(step.abs()) + 3e-5;
            for curve in [ShaperCurve::Soft, ShaperCurve::Hard, ShaperCurve::Fold] {
                let (is, should) = (last_of(curve, &[a, b]), added_up(curve, a, b, |_| 1.0));
                prop_assert!((is - should).abs() < near(to_b), "{curve:?} {a} {b}: {is} {should}");
            }
            let curve = ShaperCurve::Rectify;
            let is = last_of(curve, &[a, b, c]);
            let should = added_up(curve, a, b, |way| way) + added_up(curve, b, c, |way| 1.0 - way);
            prop_assert!((is - should).abs() < near(to_b) + near(to_c), "{a} {b} {c}: {is} {should}");
        }

        #[test]
        fn nothing_is_more_than_one(a in -4e3f32..4e3, b in -4e3f32..4e3, c in -4e3f32..4e3) {
            for curve in [ShaperCurve::Soft, ShaperCurve::Hard, ShaperCurve::Fold, ShaperCurve::Rectify] {
                let is = last_of(curve, &[a, b, c]);
                prop_assert!(is.abs() <= 1.000_1, "{curve:?} {a} {b} {c}: {is}");
            }
        }
    }
}
