//! Noise with a colour.
//!
//! White noise from a generator in every lane (Marsaglia, "Xorshift RNGs", 2003), then poles and zeros a fixed number of
//! octaves apart, which make a straight slope of any steepness (Oustaloup's approximation of a fractional power, 1995). All of it at
//! one rate of its own, whatever the engine's, and read in between: so it is the same noise everywhere.

use wide::{f32x8, i32x8};
use zolvik_waves::kernel::{SHORT_KERNEL, SHORT_TAPS};

use crate::realtime::sine::Lanes;
use crate::sizes::LANES;

/// The rate noise is made at, in hertz.
const OWN_RATE_HZ: f64 = 48_000.0;
/// Pairs of a pole and a zero.
const PAIRS: usize = 7;
/// With one more that straightens the slope.
const SECTIONS: usize = PAIRS + 1;
/// Octaves from pair to pair.
const APART_OCT: f64 = 1.8;
/// Where the first pair lies, in hertz: low enough that the slope is straight from 30 Hz.
const FIRST_HZ: f64 = 7.0;
/// Where one more zero brings the slope back onto its line, in hertz.
const UPPER_HZ: f64 = 16_000.0;
/// Root mean square of every colour.
const LEVEL: f64 = 0.3;

/// The slope, the same for all lanes.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Colour {
    /// `b0`, `b1`, `a1` of each pair, and of what straightens the slope.
    sections: [[f32; 3]; SECTIONS],
    gain: f32,
    of_db: f32,
}

impl Colour {
    pub(crate) const WHITE: Colour = Colour {
        sections: [[1.0, 0.0, 0.0]; SECTIONS],
        gain: 0.52,
        of_db: 0.0,
    };

    /// For a slope in decibels an octave.
    pub(crate) fn set_target(&mut self, colour_db: f32) {
        if self.of_db == colour_db {
            return;
        }
        self.of_db = colour_db;
        // a pole lowers by 6 dB an octave until its zero ends that
        let wide_oct = APART_OCT * f64::from(colour_db.abs()) / 6.020_6;
        for (i, pair) in self.sections.iter_mut().take(PAIRS).enumerate() {
            let low = FIRST_HZ * libm::exp2(APART_OCT * (i as f64 + 0.5) - 0.5 * wide_oct);
            let high = low * libm::exp2(wide_oct);
            let (pole, zero) = if colour_db < 0.0 {
                (low, high)
            } else {
                (high, low)
            };
            // each where it decays alike (the matched z-transform), as strong as it was at nothing
            let at = |hz: f64| libm::exp(-core::f64::consts::TAU * hz / OWN_RATE_HZ);
            let (pole, zero) = (at(pole), at(zero));
            let gain = (1.0 - pole) / (1.0 - zero);
            *pair = [gain, -gain * zero, -pole].map(|c| c as f32);
        }
        self.sections[PAIRS] = self.straightened();
        const LOOKED_AT: usize = 256;
        // closer together where dark noise has its power
        let power: f64 = (0..LOOKED_AT)
            .map(|i| (i as f64 + 0.5) / LOOKED_AT as f64)
            .map(|u| 4.0 * u * u * u * self.power(0.5 * u * u * u * u))
            .sum::<f64>()
            / LOOKED_AT as f64;
        // evenly spread between -1 and 1 it has a power of a third
        self.gain = (LEVEL * (3.0 / power).sqrt()) as f32;
    }

    /// The zero that takes away what the slope is off far up.
    fn straightened(&self) -> [f32; 3] {
        const PLAIN: [f32; 3] = [1.0, 0.0, 0.0];
        const MIDDLE_HZ: f64 = 1_000.0;
        let bare = Colour {
            sections: core::array::from_fn(|i| if i < PAIRS { self.sections[i] } else { PLAIN }),
            ..*self
        };
        let octaves = libm::log2(UPPER_HZ / MIDDLE_HZ);
        let line = libm::pow(10.0, f64::from(self.of_db) * octaves / 10.0);
        let has = bare.power(UPPER_HZ / OWN_RATE_HZ) / bare.power(MIDDLE_HZ / OWN_RATE_HZ);
        let wanted = line / has;
        // |1 + c z|^2 / (1 + c)^2 has that power there
        let cosine = libm::cos(core::f64::consts::TAU * UPPER_HZ / OWN_RATE_HZ);
        let (a, b) = (1.0 - wanted, 2.0 * cosine - 2.0 * wanted);
        if a.abs() < 1e-9 {
            return PLAIN;
        }
        let c = (-b - libm::copysign((b * b - 4.0 * a * a).max(0.0).sqrt(), b)) / (2.0 * a);
        // the other solution lies inside the circle
        let c = 1.0 / c;
        [1.0 / (1.0 + c), c / (1.0 + c), 0.0].map(|c| c as f32)
    }

    fn power(&self, share_of_rate: f64) -> f64 {
        let (s, c) = (
            libm::sin(core::f64::consts::TAU * share_of_rate),
            libm::cos(core::f64::consts::TAU * share_of_rate),
        );
        let size = |x: f64, y: f64| (x + y * c) * (x + y * c) + y * s * y * s;
        self.sections.iter().fold(1.0, |power, [b0, b1, a1]| {
            power * size((*b0).into(), (*b1).into()) / size(1.0, (*a1).into())
        })
    }
}

/// Noise in eight lanes.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Noise {
    state: i32x8,
    before: [Lanes; SECTIONS],
    after: [Lanes; SECTIONS],
    /// The last samples of its own, round and round, and where the next is put.
    made: [Lanes; SHORT_TAPS],
    next: usize,
    /// How far the place at hand lies after a sample of its own.
    part: f64,
    /// Samples of its own from frame to frame; 1 takes them as they are.
    step: f64,
    /// Lanes whose first samples are still to be made.
    fresh: [bool; LANES],
}

impl Noise {
    pub(crate) const QUIET: Noise = Noise {
        state: i32x8::ZERO,
        before: [f32x8::ZERO; SECTIONS],
        after: [f32x8::ZERO; SECTIONS],
        made: [f32x8::ZERO; SHORT_TAPS],
        next: 0,
        part: 0.0,
        step: 1.0,
        fresh: [false; LANES],
    };

    /// Onsets in a lane.
    pub(crate) fn note_on(&mut self, lane: usize, seed: u32) {
        let lane = lane % LANES;
        // no generator of this kind leaves zero
        self.state.as_mut_array()[lane] = seed.max(1) as i32;
        for list in [&mut self.before, &mut self.after] {
            list.iter_mut().for_each(|x| x.as_mut_array()[lane] = 0.0);
        }
        self.fresh[lane] = true;
    }

    /// Takes up a block.
    pub(crate) fn begin_block(&mut self, colour: &Colour, rate_hz: f64) {
        self.step = OWN_RATE_HZ / rate_hz;
        if self.fresh == [false; LANES] {
            return;
        }
        // a lane that begins has its kernel's worth of samples at once: nothing comes late
        let (was, fresh) = (*self, self.fresh);
        for _ in 0..SHORT_TAPS {
            self.make(colour);
        }
        let keep = |now: &mut Lanes, was: &Lanes| {
            for (lane, fresh) in fresh.iter().enumerate() {
                if !fresh {
                    now.as_mut_array()[lane] = was.as_array()[lane];
                }
            }
        };
        let pairs = [
            (&mut self.before[..], &was.before[..]),
            (&mut self.after[..], &was.after[..]),
            (&mut self.made[..], &was.made[..]),
        ];
        for (now, was) in pairs {
            now.iter_mut()
                .zip(was)
                .for_each(|(now, was)| keep(now, was));
        }
        for (lane, fresh) in fresh.iter().enumerate() {
            if !fresh {
                self.state.as_mut_array()[lane] = was.state.as_array()[lane];
            }
        }
        self.fresh = [false; LANES];
    }

    /// The next frame.
    #[inline(always)]
    pub(crate) fn sample(&mut self, colour: &Colour) -> Lanes {
        if self.step == 1.0 && self.part == 0.0 {
            let at = (self.next + SHORT_TAPS / 2 - 1) % SHORT_TAPS;
            let now = self.made[at];
            self.make(colour);
            return now;
        }
        let weights = SHORT_KERNEL.weights(self.part as f32);
        let mut sum = f32x8::ZERO;
        for (tap, weight) in weights.iter().enumerate() {
            sum += self.made[(self.next + tap) % SHORT_TAPS] * f32x8::splat(*weight);
        }
        self.part += self.step;
        while self.part >= 1.0 {
            self.part -= 1.0;
            self.make(colour);
        }
        sum
    }

    /// Makes one more sample of its own.
    #[inline(always)]
    fn make(&mut self, colour: &Colour) {
        let mut x = self.state.to_array().map(|s| s as u32);
        for s in &mut x {
            *s ^= *s << 13;
            *s ^= *s >> 17;
            *s ^= *s << 5;
        }
        self.state = i32x8::new(x.map(|s| s as i32));
        let mut y = f32x8::from_i32x8(self.state) * f32x8::splat(colour.gain / 2_147_483_648.0);
        if colour.of_db != 0.0 {
            for (i, [b0, b1, a1]) in colour.sections.iter().enumerate() {
                let next = y * f32x8::splat(*b0) + self.before[i] * f32x8::splat(*b1)
                    - self.after[i] * f32x8::splat(*a1);
                self.before[i] = y;
                self.after[i] = next;
                y = next;
            }
        }
        self.made[self.next] = y;
        self.next = (self.next + 1) % SHORT_TAPS;
    }
}
