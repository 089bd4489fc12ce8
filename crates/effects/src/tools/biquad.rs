//! Filters of two poles and two zeros that meet their analog prototypes.
//!
//! The poles are those of the prototype, carried over by impulse invariance (Jackson, "A correction to impulse invariance", 2000); the
//! zeros make the gain the prototype's at nothing and at two more frequencies, 0.16 of the rate at most and 0.33 (after Vicanek, "Matched
//! Second Order Digital Filters", 2016). Only what raises is fitted: what lowers is its inverse, and a high shelf is what a low shelf
//! leaves of a plain gain. That keeps every response within 0.2 dB of its prototype up to a third of the rate.

use core::f64::consts::{PI, TAU};

use crate::process::BLOCK;

/// Where the gain is matched, as shares of the rate.
const HIGHEST_MATCH: f64 = 0.16;
const UPPER_MATCH: f64 = 0.33;
/// Highest frequency of a filter, as a share of the rate.
pub const HIGHEST: f64 = 0.46;
/// Most a shelf may overshoot.
pub const STEEPEST_SHELF: f64 = 1.5;

/// Coefficients: `(b0 + b1 z + b2 z²) / (1 + a1 z + a2 z²)`, `z` a delay by one frame.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Biquad {
    /// Of what goes in.
    pub b: [f64; 3],
    /// Of what goes out.
    pub a: [f64; 2],
}

/// An analog filter with its corner at 1: `(b2 s² + b1 s + b0) / (a2 s² + a1 s + a0)`.
#[derive(Debug, Clone, Copy)]
struct Prototype {
    b: [f64; 3],
    a: [f64; 3],
}

impl Prototype {
    /// Square of the gain at a frequency over the corner's.
    fn power(&self, w: f64) -> f64 {
        let of = |[c2, c1, c0]: [f64; 3]| {
            let even = c0 - c2 * w * w;
            even * even + c1 * c1 * w * w
        };
        of(self.b) / of(self.a)
    }
}

impl Biquad {
    /// Lets everything through.
    pub const PLAIN: Biquad = Biquad {
        b: [1.0, 0.0, 0.0],
        a: [0.0, 0.0],
    };

    /// Lets through what lies below. `turns` is the corner over the rate.
    pub fn low_pass(turns: f64, q: f64) -> Biquad {
        let proto = Prototype {
            b: [0.0, 0.0, 1.0],
            a: [1.0, 1.0 / q, 1.0],
        };
        matched(&proto, turns)
    }

    /// What lies above.
    pub fn high_pass(turns: f64, q: f64) -> Biquad {
        let proto = Prototype {
            b: [1.0, 0.0, 0.0],
            a: [1.0, 1.0 / q, 1.0],
        };
        with_zeros(&proto, turns, [1.0, -2.0, 1.0], turns.min(0.19))
    }

    /// What lies near: 1 at the corner.
    pub fn band_pass(turns: f64, q: f64) -> Biquad {
        let proto = Prototype {
            b: [0.0, 1.0 / q, 0.0],
            a: [1.0, 1.0 / q, 1.0],
        };
        matched(&proto, turns)
    }

    /// All but what lies near.
    pub fn notch(turns: f64, q: f64) -> Biquad {
        let proto = Prototype {
            b: [1.0, 0.0, 1.0],
            a: [1.0, 1.0 / q, 1.0],
        };
        let turns = turns.clamp(1e-5, HIGHEST);
        let zeros = [1.0, -2.0 * libm::cos(TAU * turns), 1.0];
        with_zeros(&proto, turns, zeros, 0.0)
    }

    /// All of it, what lies near raised as a resonance of a damping: `(s² + gain s + 1) / (s² + damping s + 1)`.
    pub fn resonance(turns: f64, damping: f64, gain: f64) -> Biquad {
        let proto = Prototype {
            b: [1.0, gain, 1.0],
            a: [1.0, damping, 1.0],
        };
        matched(&proto, turns)
    }

    /// Raises or lowers what lies near (Bristow-Johnson's prototype, as in Orfanidis, "Introduction to Signal Processing", 1996).
    pub fn bell(turns: f64, q: f64, gain_db: f64) -> Biquad {
        let a = libm::pow(10.0, gain_db.abs() / 40.0);
        let proto = Prototype {
            b: [1.0, a / q, 1.0],
            a: [1.0, 1.0 / (a * q), 1.0],
        };
        let raised = matched(&proto, turns);
        if gain_db < 0.0 {
            raised.inverse()
        } else {
            raised
        }
    }

    /// Raises or lowers what lies below. `q` is held below [`STEEPEST_SHELF`].
    pub fn low_shelf(turns: f64, q: f64, gain_db: f64) -> Biquad {
        let raised = raised_low_shelf(turns, q, gain_db.abs());
        if gain_db < 0.0 {
            raised.inverse()
        } else {
            raised
        }
    }

    /// Raises or lowers what lies above.
    pub fn high_shelf(turns: f64, q: f64, gain_db: f64) -> Biquad {
        let raised = raised_low_shelf(turns, q, gain_db.abs());
        let all = libm::pow(10.0, gain_db / 20.0);
        if gain_db < 0.0 {
            raised.times(all)
        } else {
            raised.inverse().times(all)
        }
    }

    /// One pole that lets through what lies below.
    pub fn low_pass_6(turns: f64) -> Biquad {
        let proto = Prototype {
            b: [0.0, 0.0, 1.0],
            a: [0.0, 1.0, 1.0],
        };
        matched(&proto, turns)
    }

    /// One pole that lets through what lies above.
    pub fn high_pass_6(turns: f64) -> Biquad {
        let proto = Prototype {
            b: [0.0, 1.0, 0.0],
            a: [0.0, 1.0, 1.0],
        };
        matched(&proto, turns)
    }

    /// Raises what lies above and lowers what lies below by as much.
    pub fn tilt(turns: f64, gain_db: f64) -> Biquad {
        let a = libm::pow(10.0, gain_db.abs() / 20.0);
        // what lowers the highs is fitted; the other one is its inverse
        let proto = Prototype {
            b: [0.0, 1.0, a],
            a: [0.0, a, 1.0],
        };
        let fall = matched(&proto, turns);
        if gain_db < 0.0 { fall } else { fall.inverse() }
    }

    /// Passes all and turns phases, as two crossovers of Linkwitz and Riley added up do.
    pub fn all_pass(turns: f64, q: f64) -> Biquad {
        let turns = turns.clamp(1e-5, HIGHEST);
        let g = libm::tan(PI * turns);
        let k = 1.0 / q;
        let below = 1.0 / (1.0 + k * g + g * g);
        let a = [2.0 * (g * g - 1.0) * below, (1.0 - k * g + g * g) * below];
        Biquad {
            b: [a[1], a[0], 1.0],
            a,
        }
    }

    /// The other way round: what it raises is lowered. Zeros on the rim are taken a little inside.
    pub fn inverse(&self) -> Biquad {
        let first = self.b[0];
        Biquad {
            b: [1.0 / first, self.a[0] / first, self.a[1] / first],
            a: [self.b[1] / first, self.b[2] / first],
        }
    }

    /// Louder by a factor.
    pub fn times(&self, gain: f64) -> Biquad {
        Biquad {
            b: self.b.map(|b| b * gain),
            a: self.a,
        }
    }

    /// Distance from the middle of the pole that falls slowest: what is left of it after each frame. 0 where nothing rings.
    pub fn slowest_pole(&self) -> f64 {
        let [a1, a2] = self.a;
        let under = 0.25 * a1 * a1 - a2;
        match under < 0.0 {
            true => a2.sqrt(),
            false => 0.5 * a1.abs() + under.sqrt(),
        }
    }

    /// Its gain at a frequency over the rate.
    pub fn gain(&self, turns: f64) -> f64 {
        let (s, c) = (libm::sin(TAU * turns), libm::cos(TAU * turns));
        let (s2, c2) = (libm::sin(2.0 * TAU * turns), libm::cos(2.0 * TAU * turns));
        let of = |x: [f64; 3]| {
            let re = x[0] + x[1] * c + x[2] * c2;
            let im = x[1] * s + x[2] * s2;
            re * re + im * im
        };
        (of(self.b) / of([1.0, self.a[0], self.a[1]])).sqrt()
    }
}

/// Quality of each stage of a Butterworth filter with so many poles.
pub fn butterworth(poles: usize, stage: usize) -> f64 {
    let angle = PI * (2 * stage + 1) as f64 / (2 * poles) as f64;
    0.5 / libm::sin(angle)
}

fn raised_low_shelf(turns: f64, q: f64, gain_db: f64) -> Biquad {
    let a = libm::pow(10.0, gain_db / 40.0);
    let s = a.sqrt() / q.min(STEEPEST_SHELF);
    let proto = Prototype {
        b: [a, a * s, a * a],
        a: [a, s, 1.0],
    };
    matched_at(&proto, turns, [turns.clamp(0.0625, 0.1875), 0.3125])
}

/// Coefficients of what stands below, from the poles of the prototype.
fn poles(a: [f64; 3], turns: f64) -> [f64; 2] {
    let [a2, a1, a0] = a;
    let omega = TAU * turns;
    if a2 == 0.0 {
        return [-libm::exp(-omega * a0 / a1), 0.0];
    }
    let sigma = omega * a1 / (2.0 * a2);
    let swing2 = omega * omega * a0 / a2 - sigma * sigma;
    let fall = libm::exp(-sigma);
    let middle = match swing2 >= 0.0 {
        true => libm::cos(swing2.sqrt()),
        false => libm::cosh((-swing2).sqrt()),
    };
    [-2.0 * fall * middle, fall * fall]
}

/// `|1 + a1 z + a2 z²|²` where `sin²` of half the angle is so much.
fn below(a: [f64; 2], s: f64) -> f64 {
    let [a1, a2] = a;
    let (plus, minus) = (1.0 + a1 + a2, 1.0 - a1 + a2);
    plus * plus * (1.0 - s) + minus * minus * s - 16.0 * a2 * s * (1.0 - s)
}

/// Fits two zeros, see the head of the file.
fn matched(proto: &Prototype, turns: f64) -> Biquad {
    matched_at(proto, turns, [turns.min(HIGHEST_MATCH), UPPER_MATCH])
}

/// The same with both places where the gain is matched beside nothing.
fn matched_at(proto: &Prototype, turns: f64, at: [f64; 2]) -> Biquad {
    let turns = turns.clamp(1e-6, HIGHEST);
    let a = poles(proto.a, turns);
    let target = |at: f64| {
        let s = libm::sin(PI * at);
        let s2 = s * s;
        (s2, proto.power(at / turns) * below(a, s2))
    };
    let nothing = proto.power(0.0) * below(a, 0.0);
    let (s1, t1) = target(at[0].max(1e-6));
    let (s2, t2) = target(at[1]);
    // B0 (1 - s) + B1 s + 4 B2 s (1 - s)
    let (r1, r2) = (t1 - nothing * (1.0 - s1), t2 - nothing * (1.0 - s2));
    let (p1, p2) = (4.0 * s1 * (1.0 - s1), 4.0 * s2 * (1.0 - s2));
    let half = (r1 * p2 - r2 * p1) / (s1 * p2 - s2 * p1);
    let third = (r2 - half * s2) / p2;
    let (even, odd) = (nothing.max(0.0).sqrt(), half.max(0.0).sqrt());
    let w = 0.5 * (even + odd);
    let b0 = 0.5 * (w + (w * w + third).max(0.0).sqrt());
    let b1 = 0.5 * (even - odd);
    let b2 = if b0 > 0.0 { -third / (4.0 * b0) } else { 0.0 };
    Biquad { b: [b0, b1, b2], a }
}

/// Given zeros, and the gain matched at one place.
fn with_zeros(proto: &Prototype, turns: f64, b: [f64; 3], at: f64) -> Biquad {
    let turns = turns.clamp(1e-5, HIGHEST);
    let plain = Biquad {
        b,
        a: poles(proto.a, turns),
    };
    let should = proto.power(at / turns).sqrt();
    plain.times(should / plain.gain(at))
}

/// A filter of both channels whose coefficients may move: along a straight line over each block.
#[derive(Debug, Clone, Copy)]
pub struct Filter {
    now: Biquad,
    slope: Biquad,
    moves: bool,
    begun: bool,
    state: [[f64; 2]; 2],
}

impl Filter {
    /// One that has heard nothing.
    pub const QUIET: Filter = Filter {
        now: Biquad::PLAIN,
        slope: Biquad::PLAIN,
        moves: false,
        begun: false,
        state: [[0.0; 2]; 2],
    };

    /// Forgets what it has heard.
    pub fn clear(&mut self) {
        *self = Filter::QUIET;
    }

    /// Moves to other coefficients over the block at hand.
    pub fn set_target(&mut self, to: Biquad) {
        if self.moves {
            // where the last block ended
            let on = |now: f64, slope: f64| now + slope * BLOCK as f64;
            for i in 0..3 {
                self.now.b[i] = on(self.now.b[i], self.slope.b[i]);
            }
            for i in 0..2 {
                self.now.a[i] = on(self.now.a[i], self.slope.a[i]);
            }
        }
        if !self.begun {
            self.now = to;
            self.begun = true;
        }
        self.moves = self.now != to;
        let step = |now: f64, to: f64| (to - now) / BLOCK as f64;
        for i in 0..3 {
            self.slope.b[i] = step(self.now.b[i], to.b[i]);
        }
        for i in 0..2 {
            self.slope.a[i] = step(self.now.a[i], to.a[i]);
        }
    }

    /// Whether it does nothing, and has nothing left to give.
    pub fn is_plain(&self) -> bool {
        !self.moves && self.now == Biquad::PLAIN && self.state == [[0.0; 2]; 2]
    }

    /// Lets one channel of a block through.
    pub fn run(&mut self, channel: usize, block: &mut [f32; BLOCK]) {
        let [mut s1, mut s2] = self.state[channel];
        let Biquad { mut b, mut a } = self.now;
        for x in block.iter_mut() {
            let input = f64::from(*x);
            let y = b[0] * input + s1;
            s1 = b[1] * input - a[0] * y + s2;
            s2 = b[2] * input - a[1] * y;
            *x = y as f32;
            if self.moves {
                for (b, step) in b.iter_mut().zip(&self.slope.b) {
                    *b += step;
                }
                for (a, step) in a.iter_mut().zip(&self.slope.a) {
                    *a += step;
                }
            }
        }
        let flush_denormal = |x: f64| {
            if x.abs() < 1e-30 || !x.is_finite() {
                0.0
            } else {
                x
            }
        };
        self.state[channel] = [flush_denormal(s1), flush_denormal(s2)];
    }

    /// Lets both channels through.
    pub fn both(&mut self, block: &mut [[f32; BLOCK]; 2]) {
        for (channel, block) in block.iter_mut().enumerate() {
            self.run(channel, block);
        }
    }

    /// One sample of one channel, without moving.
    #[inline(always)]
    pub fn one(&mut self, channel: usize, x: f32) -> f32 {
        let [s1, s2] = &mut self.state[channel];
        let Biquad { b, a } = &self.now;
        let input = f64::from(x);
        let y = b[0] * input + *s1;
        *s1 = b[1] * input - a[0] * y + *s2;
        *s2 = b[2] * input - a[1] * y;
        if s1.abs() < 1e-30 {
            *s1 = 0.0;
        }
        if s2.abs() < 1e-30 {
            *s2 = 0.0;
        }
        y as f32
    }
}
