//! Noise with a colour.
//!
//! White noise from a generator in every lane (Marsaglia, "Xorshift RNGs", 2003), then poles and zeros a fixed number of
//! octaves apart, which make a straight slope of any steepness (Oustaloup's approximation of a fractional power, 1995).

use wide::{f32x8, i32x8};

use crate::LANES;
use crate::realtime::sine::Lanes;

/// Pairs of a pole and a zero.
const PAIRS: usize = 6;
/// Octaves from pair to pair.
const APART_OCT: f64 = 1.8;
/// Where the first pair lies, in hertz.
const FIRST_HZ: f64 = 20.0;
/// Root mean square of every colour.
const LEVEL: f64 = 0.3;

/// The slope, the same for all lanes.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Colour {
    /// `b0`, `b1`, `a1` of each pair.
    pairs: [[f32; 3]; PAIRS],
    gain: f32,
    of_db: f32,
}

impl Colour {
    pub(crate) const WHITE: Colour = Colour {
        pairs: [[1.0, 0.0, 0.0]; PAIRS],
        gain: 0.52,
        of_db: 0.0,
    };

    /// For a slope in decibels an octave, at a sample rate. `fine` tells how many times the rate that leaves it is: noise
    /// beyond that is lost, and made up for.
    pub(crate) fn aim(&mut self, colour_db: f32, rate_hz: f64, fine: f64) {
        if self.of_db == colour_db {
            return;
        }
        self.of_db = colour_db;
        // a pole lowers by 6 dB an octave until its zero ends that
        let wide_oct = APART_OCT * f64::from(colour_db.abs()) / 6.020_6;
        let warp = |hz: f64| libm::tan(core::f64::consts::PI * (hz / rate_hz).min(0.49));
        for (i, pair) in self.pairs.iter_mut().enumerate() {
            let low = FIRST_HZ * libm::exp2(APART_OCT * (i as f64 + 0.5) - 0.5 * wide_oct);
            let (a, b) = (warp(low), warp(low * libm::exp2(wide_oct)));
            let (pole, zero) = if colour_db < 0.0 { (a, b) } else { (b, a) };
            // (1 + s / zero) / (1 + s / pole), by the bilinear transform
            let (up, down) = (
                (1.0 + 1.0 / zero, 1.0 - 1.0 / zero),
                (1.0 + 1.0 / pole, 1.0 - 1.0 / pole),
            );
            *pair = [up.0 / down.0, up.1 / down.0, down.1 / down.0].map(|c| c as f32);
        }
        const LOOKED_AT: usize = 256;
        let edge_hz = 0.5 * rate_hz / fine;
        // closer together where dark noise has its power
        let power: f64 = (0..LOOKED_AT)
            .map(|i| (i as f64 + 0.5) / LOOKED_AT as f64)
            .map(|u| 2.0 * u * self.power(u * u * edge_hz / rate_hz))
            .sum::<f64>()
            / LOOKED_AT as f64;
        // evenly spread between -1 and 1 it has a power of a third
        self.gain = (LEVEL * libm::sqrt(3.0 * fine / power)) as f32;
    }

    /// Makes the next [`Colour::aim`] count, at another rate.
    pub(crate) fn forget(&mut self) {
        self.of_db = f32::NAN;
    }

    fn power(&self, share_of_rate: f64) -> f64 {
        let (s, c) = (
            libm::sin(core::f64::consts::TAU * share_of_rate),
            libm::cos(core::f64::consts::TAU * share_of_rate),
        );
        let size = |x: f64, y: f64| (x + y * c) * (x + y * c) + y * s * y * s;
        self.pairs.iter().fold(1.0, |power, [b0, b1, a1]| {
            power * size((*b0).into(), (*b1).into()) / size(1.0, (*a1).into())
        })
    }
}

/// Noise in eight lanes.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Noise {
    state: i32x8,
    before: [Lanes; PAIRS],
    after: [Lanes; PAIRS],
}

impl Noise {
    pub(crate) const QUIET: Noise = Noise {
        state: i32x8::ZERO,
        before: [f32x8::ZERO; PAIRS],
        after: [f32x8::ZERO; PAIRS],
    };

    /// Begins in a lane.
    pub(crate) fn note_on(&mut self, lane: usize, seed: u32) {
        let lane = lane % LANES;
        // no generator of this kind leaves zero
        self.state.as_mut_array()[lane] = seed.max(1) as i32;
        for list in [&mut self.before, &mut self.after] {
            list.iter_mut().for_each(|x| x.as_mut_array()[lane] = 0.0);
        }
    }

    #[inline(always)]
    pub(crate) fn sample(&mut self, colour: &Colour) -> Lanes {
        let mut x = self.state.to_array().map(|s| s as u32);
        for s in &mut x {
            *s ^= *s << 13;
            *s ^= *s >> 17;
            *s ^= *s << 5;
        }
        self.state = i32x8::new(x.map(|s| s as i32));
        let mut y = f32x8::from_i32x8(self.state) * f32x8::splat(colour.gain / 2_147_483_648.0);
        if colour.of_db != 0.0 {
            for (i, [b0, b1, a1]) in colour.pairs.iter().enumerate() {
                let next = y * f32x8::splat(*b0) + self.before[i] * f32x8::splat(*b1)
                    - self.after[i] * f32x8::splat(*a1);
                self.before[i] = y;
                self.after[i] = next;
                y = next;
            }
        }
        y
    }
}
