//! Crossovers of Linkwitz and Riley, 24 dB an octave: what lies below and what lies above add up to all of it, phases turned ("Active
//! Crossover Networks for Noncoincident Drivers", 1976). Made by the bilinear transform, so that the sum is flat at every rate.

use core::f64::consts::{FRAC_1_SQRT_2, PI};

use super::biquad::{Biquad, Filter, HIGHEST};
use super::ringing::stages_s;
use crate::process::Stereo;

/// Splits a sound at a frequency.
#[derive(Debug, Clone, Copy)]
pub struct Crossover {
    low: [Filter; 2],
    high: [Filter; 2],
}

/// A Butterworth stage by the bilinear transform.
fn stage(turns: f64, high: bool) -> Biquad {
    let g = libm::tan(PI * turns.clamp(1e-5, HIGHEST));
    let k = 1.0 / FRAC_1_SQRT_2;
    let below = 1.0 / (1.0 + k * g + g * g);
    let a = [2.0 * (g * g - 1.0) * below, (1.0 - k * g + g * g) * below];
    let b = match high {
        true => [below, -2.0 * below, below],
        false => [g * g * below, 2.0 * g * g * below, g * g * below],
    };
    Biquad { b, a }
}

impl Crossover {
    /// One that has heard nothing.
    pub const QUIET: Crossover = Crossover {
        low: [Filter::QUIET; 2],
        high: [Filter::QUIET; 2],
    };

    /// Until it is so many decibels down at a frequency, in seconds.
    pub fn ring_s(hz: f64, rate_hz: f64, down_db: f64) -> f64 {
        stages_s([stage(hz / rate_hz, false); 2], rate_hz, down_db)
    }

    /// Moves to a frequency over the rate, within the block at hand.
    pub fn set_target(&mut self, turns: f64) {
        let (low, high) = (stage(turns, false), stage(turns, true));
        self.low.iter_mut().for_each(|f| f.set_target(low));
        self.high.iter_mut().for_each(|f| f.set_target(high));
    }

    /// What lies below; what is given is left with what lies above.
    pub fn split(&mut self, block: &mut Stereo) -> Stereo {
        let mut low = *block;
        for (l, h) in self.low.iter_mut().zip(&mut self.high) {
            l.both(&mut low);
            h.both(block);
        }
        low
    }

    /// Forgets what it has heard.
    pub fn clear(&mut self) {
        *self = Crossover::QUIET;
    }
}

/// Turns phases as both sides of a crossover added up do.
#[derive(Debug, Clone, Copy)]
pub struct Turned(Filter);

impl Turned {
    /// One that has heard nothing.
    pub const QUIET: Turned = Turned(Filter::QUIET);

    /// Moves to a frequency over the rate.
    pub fn set_target(&mut self, turns: f64) {
        self.0.set_target(Biquad::all_pass(turns, FRAC_1_SQRT_2));
    }

    /// Lets a block through.
    pub fn run(&mut self, block: &mut Stereo) {
        self.0.both(block);
    }

    /// Forgets what it has heard.
    pub fn clear(&mut self) {
        self.0.clear();
    }
}
