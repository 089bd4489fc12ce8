//! Harmonics of the plain cycles, in closed form where there is one (any textbook of Fourier series).

use std::f64::consts::{PI, TAU};

use zolvik_patch::wave::{MAX_HARMONICS, Shape};

use crate::spectrum::Spectrum;
use crate::squared::squared;

/// Harmonics of a shape. Those of the pulse are those of the saw it is made of; see [`pulse`] for its own.
pub(crate) fn spectrum(shape: Shape) -> Spectrum {
    let odd = |n: usize, value: f64| if n % 2 == 1 { value } else { 0.0 };
    let sines = |amplitude: &dyn Fn(usize) -> f64| Spectrum::sines(MAX_HARMONICS, amplitude);
    match shape {
        Shape::Sine => Spectrum::sines(1, |_| 1.0),
        Shape::Triangle => sines(&|n| odd(n, sign(n / 2) * 8.0 / squared(PI * n as f64))),
        Shape::Saw | Shape::Pulse => sines(&saw),
        Shape::Square => sines(&|n| odd(n, 4.0 / (PI * n as f64))),
        Shape::HalfSine => Spectrum::of(|t| libm::sin(TAU * t).max(0.0)),
        Shape::FoldedSine => Spectrum::of(|t| libm::sin(TAU * t).abs()).to_full(),
        Shape::ShortSine => Spectrum::of(|t| {
            if t < 0.5 {
                libm::sin(2.0 * TAU * t)
            } else {
                0.0
            }
        }),
        Shape::LowFormant => burst(3.0),
        Shape::MidFormant => burst(6.0),
        Shape::HighFormant => burst(12.0),
    }
}

/// A pulse that is up for a share of its cycle, 2 from foot to top, without constant part: the difference of
/// two saws, as the engine makes it.
pub(crate) fn pulse(width: f64) -> Spectrum {
    let late = |n: usize, turns: f64| TAU * n as f64 * turns;
    let part = |f: &dyn Fn(f64) -> f64| {
        (1..=MAX_HARMONICS)
            .map(|n| saw(n) * (f(late(n, 0.5 - width)) - f(late(n, 0.5))))
            .collect()
    };
    Spectrum {
        cosine: part(&|x| libm::sin(x)),
        sine: part(&|x| libm::cos(x)),
    }
}

/// `2 t` between -1/2 and 1/2 turns: rises through zero at the start of the cycle.
fn saw(n: usize) -> f64 {
    sign(n + 1) * 2.0 / (PI * n as f64)
}

fn sign(n: usize) -> f64 {
    if n.is_multiple_of(2) { 1.0 } else { -1.0 }
}

fn burst(ripples: f64) -> Spectrum {
    Spectrum::of(|t| libm::sin(TAU * ripples * t) * (1.0 - t) * (1.0 - t)).to_full()
}
