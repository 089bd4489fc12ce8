//! The design of a stage with two poles: as near to its analog prototype as two poles and two zeros get.
//!
//! The poles are those of the prototype, carried over so that what rings rings alike (impulse invariance; Jackson, "A correction to
//! impulse invariance", 2000). The zeros make the gain the prototype's at nothing and at two more places (after Vicanek, "Matched
//! Second Order Digital Filters", 2016). Both are expressed as the two coefficients of a state-variable stage with trapezoidal
//! integrators and the share of what it takes, its band and its low it gives, which may move while it sounds.
//!
//! Everything is reckoned by polynomials, in eight lanes at a time, with the same bits everywhere.

use core::f32::consts::TAU;

use wide::f32x8;
use zolvik_patch::document::FilterType;

use crate::realtime::sine::Lanes;

/// Above this share of the rate the gain is matched here and not at the cutoff: what is heard lies below.
const HIGHEST_MATCH: f32 = 0.16;
/// The second place where it is matched, as a share of the rate, and as the integrators see it: the squared tangent of half of it.
const UPPER_MATCH: f32 = 0.33;
const UPPER_SEEN: f32 = 2.859_168_7;

/// Coefficients of a stage.
#[derive(Debug, Clone, Copy)]
pub(super) struct Design {
    /// Cutoff, as the integrators see it, and damping.
    pub(super) g: Lanes,
    pub(super) k: Lanes,
    /// What goes out: shares of what goes in, of the band and of the low.
    pub(super) direct: Lanes,
    pub(super) band: Lanes,
    pub(super) low: Lanes,
}

impl Design {
    pub(super) const ZERO: Design = Design {
        g: f32x8::ZERO,
        k: f32x8::ZERO,
        direct: f32x8::ZERO,
        band: f32x8::ZERO,
        low: f32x8::ZERO,
    };

    /// Designs a stage. `turns` is half the cutoff in turns a frame, `damping` the prototype's, `gain` that of what is taken from its
    /// band: the prototype is `(1, gain s, s²) / (s² + damping s + 1)` by what the response has of these.
    #[inline(always)]
    pub(super) fn new(response: u32, turns: Lanes, damping: Lanes, gain: Lanes) -> Self {
        let one = f32x8::ONE;
        let quarter = f32x8::splat(0.25);
        let omega = turns * f32x8::splat(2.0 * TAU);
        // poles
        let sigma = omega * damping * f32x8::splat(0.5);
        let sigma2 = sigma * sigma;
        let swing2 = omega * omega * (one - damping * damping * quarter);
        let (fall, swing) = (-half_sine_squared(-sigma2), half_sine_squared(swing2));
        let below = one / (one + fall - swing);
        let g2 = (fall + swing) * below;
        let g = g2.sqrt();
        let k = hyperbolic_sine(sigma, sigma2) * below / g;
        // the places where the gain is matched, as the prototype and as the stage see them
        let at = omega.min(f32x8::splat(HIGHEST_MATCH * TAU));
        let seen = |omega2: Lanes| {
            let s = half_sine_squared(omega2);
            s / ((one - s) * g2)
        };
        let squared = |x: Lanes| x * x;
        let (w2, u2) = (squared(at / omega), seen(at * at));
        match response {
            r if r == FilterType::High as u32 => {
                let matched = power(u2, k) / power(w2, damping);
                let direct = w2 * matched.sqrt() / u2;
                Design::mixed(g, k, direct, f32x8::ZERO, f32x8::ZERO)
            }
            r if r == FilterType::Notch as u32 => {
                let direct = one / seen(omega * omega);
                Design::mixed(g, k, direct, one, f32x8::ZERO)
            }
            r => {
                let (plain, square, linear) = match r {
                    r if r == FilterType::Low as u32 => (one, f32x8::ZERO, f32x8::ZERO),
                    r if r == FilterType::Peak as u32 => (one, one, gain),
                    _ => (f32x8::ZERO, f32x8::ZERO, gain),
                };
                // the square of what stands above the stage's poles, over that of the frequency as it sees it
                let above = |w2: Lanes, u2: Lanes| {
                    let even = plain - square * w2;
                    let target = (even * even + linear * linear * w2) / power(w2, damping);
                    target * power(u2, k) / u2
                };
                let upper_w2 = squared(f32x8::splat(UPPER_MATCH * TAU) / omega);
                let upper_u2 = f32x8::splat(UPPER_SEEN) / g2;
                let (here, there) = (above(w2, u2), above(upper_w2, upper_u2));
                let between = plain * plain * (one / upper_u2 - one / u2);
                let direct2 = (there - here - between) / (upper_u2 - u2);
                let direct = direct2.max(f32x8::ZERO).sqrt();
                let odd2 = here - squared(plain - direct * u2) / u2;
                Design::mixed(g, k, direct, plain, odd2.max(f32x8::ZERO).sqrt())
            }
        }
    }

    /// From the gains at half the rate and at nothing, and the factor of what goes with the frequency.
    #[inline(always)]
    fn mixed(g: Lanes, k: Lanes, direct: Lanes, at_nothing: Lanes, odd: Lanes) -> Self {
        Design {
            g,
            k,
            direct,
            band: odd - direct * k,
            low: at_nothing - direct,
        }
    }

    /// The change a frame on the way to another over `1 / share` frames.
    #[inline(always)]
    pub(super) fn toward(&self, goal: &Design, share: f32) -> Design {
        let share = f32x8::splat(share);
        Design {
            g: (goal.g - self.g) * share,
            k: (goal.k - self.k) * share,
            direct: (goal.direct - self.direct) * share,
            band: (goal.band - self.band) * share,
            low: (goal.low - self.low) * share,
        }
    }

    /// Some frames on.
    #[inline(always)]
    pub(super) fn after(&self, slope: &Design, frames: Lanes) -> Design {
        Design {
            g: self.g + slope.g * frames,
            k: self.k + slope.k * frames,
            direct: self.direct + slope.direct * frames,
            band: self.band + slope.band * frames,
            low: self.low + slope.low * frames,
        }
    }

    /// This one, or another in the lanes a mask chooses.
    pub(super) fn or(&self, other: &Design, mask: Lanes) -> Design {
        Design {
            g: mask.select(other.g, self.g),
            k: mask.select(other.k, self.k),
            direct: mask.select(other.direct, self.direct),
            band: mask.select(other.band, self.band),
            low: mask.select(other.low, self.low),
        }
    }
}

/// `|1 - w² + j k w|²`.
#[inline(always)]
fn power(w2: Lanes, k: Lanes) -> Lanes {
    let even = f32x8::ONE - w2;
    even * even + k * k * w2
}

/// `sin²(√y / 2)`, for negative `y` `-sinh²(√-y / 2)`: its series (Euler, 1748), good to the last bit up to 9.
#[inline(always)]
fn half_sine_squared(y: Lanes) -> Lanes {
    let one = f32x8::ONE;
    let mut sum = one;
    for below in [306.0, 240.0, 182.0, 132.0, 90.0, 56.0, 30.0, 12.0f32] {
        sum = one - y * f32x8::splat(1.0 / below) * sum;
    }
    y * f32x8::splat(0.25) * sum
}

/// `sinh x` by its series, `x2` being the square.
#[inline(always)]
fn hyperbolic_sine(x: Lanes, x2: Lanes) -> Lanes {
    let one = f32x8::ONE;
    let mut sum = one;
    for below in [272.0, 210.0, 156.0, 110.0, 72.0, 42.0, 20.0, 6.0f32] {
        sum = one + x2 * f32x8::splat(1.0 / below) * sum;
    }
    x * sum
}
