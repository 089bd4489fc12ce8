//! Combs: a delay fed back, read between samples by a polynomial through the six around the place, or fewer where it is short
//! (Lagrange, 1795).

use wide::{f32x4, f32x8};
use zolvik_effects::tools::bounds::Bounds;
use zolvik_patch::document::FilterType;
use zolvik_patch::filter::comb_feedback;

use crate::program::UnitProgram;
use crate::realtime::sine::Lanes;
use crate::sizes::{BLOCK, LANES};

/// Longest delay, in seconds: a period of the lowest key.
const LONGEST_S: f64 = 0.125;
/// Shortest delay in frames: between the last two samples.
const SHORTEST: f32 = 1.0;
/// Up to this length a delay is corrected for what the polynomial turns its tone too little or too much.
const CORRECTED: f64 = 24.0;
/// Samples a place is read from.
const POINTS: usize = 6;
/// Where what comes round begins to be held back, and half of what it never passes.
const CALM: f32 = 4.0;

/// Frames of a delay line at a rate.
pub(crate) fn line_frames(rate_hz: f64) -> usize {
    ((LONGEST_S * rate_hz).ceil() as usize + 2 * POINTS).next_power_of_two()
}

/// A place in the line: how many frames back its first sample lies, and the weights of all.
type Place = (usize, [f32; POINTS]);

/// What a comb keeps, its delay line left out.
#[derive(Debug, Clone, Copy)]
pub(super) struct Comb {
    /// Feedback, and what keeps it as loud as it came.
    back: Lanes,
    norm: Lanes,
    /// Delay in frames at the block's start, and its change a frame.
    delay: Lanes,
    slope: Lanes,
    /// Half the cutoff in turns a frame the delay was last made for.
    turns: Lanes,
    /// Where each lane is read while its delay stands still.
    places: [Place; LANES],
    is_still: bool,
    /// Where the delay line is written next; backward, so that what lies together in time is read in a row. Each lane has a part of it.
    at: usize,
    /// Frames written since each lane began.
    age: [i32; LANES],
}

impl Comb {
    pub(super) const QUIET: Comb = Comb {
        back: f32x8::ZERO,
        norm: f32x8::ONE,
        delay: f32x8::ZERO,
        slope: f32x8::ZERO,
        turns: f32x8::ZERO,
        places: [(1, [0.0; POINTS]); LANES],
        is_still: false,
        at: 0,
        age: [0; LANES],
    };

    pub(super) fn note_on(&mut self, lane: usize) {
        self.age[lane] = 0;
        // the delay of this note does not glide from that of the last
        self.delay.as_mut_array()[lane] = 0.0;
        self.slope.as_mut_array()[lane] = 0.0;
        self.turns.as_mut_array()[lane] = 0.0;
    }

    /// What follows from a resonance: feedback, and the factor that leaves noise as strong as it came.
    pub(super) fn by_resonance(resonance: f32) -> [f32; 2] {
        let back = comb_feedback(resonance.into()) as f32;
        [back, (1.0 - back * back).sqrt()]
    }

    /// Takes up a block: feedback and level, and half the cutoff in turns a frame at its end.
    pub(super) fn begin_block(&mut self, unit: &UnitProgram, back: [Lanes; 2], turns: Lanes) {
        [self.back, self.norm] = back;
        let was = self.delay + self.slope * f32x8::splat(BLOCK as f32);
        let minus = is_minus(unit);
        let mut goal = was;
        for lane in 0..LANES {
            let turns = turns.as_array()[lane];
            if turns != self.turns.as_array()[lane] {
                goal.as_mut_array()[lane] = delay(turns, minus);
            }
        }
        self.turns = turns;
        let from = was.simd_gt(f32x8::ZERO).select(was, goal);
        self.delay = from;
        self.slope = (goal - from) * f32x8::splat(1.0 / BLOCK as f32);
        self.is_still = self.slope.to_array() == [0.0; LANES];
        if self.is_still {
            self.places = from.to_array().map(place);
        }
    }

    /// Nothing has changed since the block before: the delay stands where that was going to.
    pub(super) fn stand(&mut self, unit: &UnitProgram) {
        self.begin_block(unit, [self.back, self.norm], self.turns);
        self.slope = f32x8::ZERO;
        self.is_still = true;
        self.places = self.delay.to_array().map(place);
    }

    /// One frame; `moved` is the share by which the cutoff is moved, if it is.
    #[inline(always)]
    pub(super) fn next(
        &mut self,
        unit: &UnitProgram,
        x: Lanes,
        frames: Lanes,
        moved: Option<Lanes>,
        line: &mut [Lanes],
    ) -> Lanes {
        let still = self.is_still && moved.is_none();
        let delay = match still {
            true => [0.0; LANES],
            false => self.delay_now(frames, moved, line.len()).to_array(),
        };
        let length = line.len();
        let mask = length.wrapping_sub(1);
        let flat: &mut [f32] = bytemuck::cast_slice_mut(line);
        let now = self.at & mask;
        let mut sums = [f32x4::ZERO; LANES];
        for (lane, sums) in sums.iter_mut().enumerate() {
            let (first, weights) = match still {
                true => self.places[lane],
                false => place(delay[lane]),
            };
            let own = flat.get(lane * length..(lane + 1) * length).unwrap_or(&[]);
            *sums = read(own, (now, first), &weights, self.age[lane]);
            self.age[lane] = (self.age[lane] + 1).min(length as i32);
        }
        let [a, b, c, d, e, f, g, h] = sums;
        let late: Lanes = bytemuck::cast([[a, b, c, d], [e, f, g, h]].map(|half| {
            let [a, b, c, d] = f32x4::transpose(half);
            (a + b) + (c + d)
        }));
        let back = if is_minus(unit) {
            -self.back
        } else {
            self.back
        };
        // with room for what builds up
        let y = flush_denormal(x * self.norm + late * back);
        // what is next to nothing becomes nothing: processors are slow with the smallest numbers there are
        let faint = f32x8::splat(1e-18);
        let y = (y + faint) - faint;
        for (lane, y) in y.to_array().iter().enumerate() {
            if let Some(place) = flat.get_mut(lane * length + now) {
                *place = *y;
            }
        }
        self.at = now.wrapping_sub(1) & mask;
        y
    }
}

impl Comb {
    /// The delay so many frames into the block, in frames.
    fn delay_now(&self, frames: Lanes, moved: Option<Lanes>, room: usize) -> Lanes {
        let shortest = f32x8::splat(SHORTEST);
        let delay = (self.delay + self.slope * frames).max(shortest);
        let delay = match moved {
            None => delay,
            Some(by) => delay / (f32x8::ONE + by).max(f32x8::splat(1e-3)),
        };
        let longest = room.saturating_sub(2 * POINTS) as f32;
        delay.max(shortest).min(f32x8::splat(longest))
    }
}

/// Reads a lane's line, whose frames follow each other from the newest to the oldest: four sums that are to be added.
#[inline(always)]
fn read(line: &[f32], (now, first): (usize, usize), weights: &[f32; POINTS], age: i32) -> f32x4 {
    const MOST: usize = 8;
    let from = (now + first) & (line.len().wrapping_sub(1));
    let all = line.get(from..).and_then(|rest| rest.first_chunk::<MOST>());
    let [a, b, c, d, e, f] = *weights;
    match all {
        Some(all) if first + MOST <= age as usize => {
            f32x4::new([all[0], all[1], all[2], all[3]]) * f32x4::new([a, b, c, d])
                + f32x4::new([all[4], all[5], all[6], all[7]]) * f32x4::new([e, f, 0.0, 0.0])
        }
        // nothing was written yet so long ago, or the line begins again
        _ => {
            let mut parts = [0.0; MOST];
            for (i, (part, weight)) in parts.iter_mut().zip(weights).enumerate() {
                let there = line.get((from + i) & (line.len().wrapping_sub(1)));
                if (first + i) as i32 <= age {
                    *part = there.copied().unwrap_or(0.0) * weight;
                }
            }
            let [a, b, c, d, e, f, ..] = parts;
            f32x4::new([a + e, b + f, c, d])
        }
    }
}

fn is_minus(unit: &UnitProgram) -> bool {
    unit.variant == FilterType::CombMinus as u32
}

/// The delay in frames at which what comes round meets itself: after a period, or turned round after half of one. Short ones are
/// corrected, until the polynomial turns the tone by just that.
fn delay(half_turns: f32, minus: bool) -> f32 {
    let turns = f64::from(half_turns) * 2.0;
    let round = if minus { 0.5 } else { 1.0 };
    let wanted = round / turns.max(1e-9);
    let mut delay = wanted;
    if wanted < CORRECTED {
        for _ in 0..4 {
            delay += wanted - turned(delay, turns, round) / turns;
            delay = delay.max(1.0);
        }
    }
    delay as f32
}

/// By how many turns a delay turns a tone of so many turns a frame; next to what is expected.
fn turned(delay: f64, turns: f64, expected: f64) -> f64 {
    let (first, weights) = place(delay as f32);
    let (mut x, mut y) = (0.0, 0.0);
    for (i, weight) in weights.iter().enumerate() {
        let angle = core::f64::consts::TAU * turns * (first + i) as f64;
        x += f64::from(*weight) * libm::cos(angle);
        y += f64::from(*weight) * libm::sin(angle);
    }
    let found = libm::atan2(y, x) / core::f64::consts::TAU;
    found + libm::round(expected - found)
}

/// Where a delay is read: six samples around the place, four or two where there are no more.
#[inline(always)]
fn place(delay: f32) -> Place {
    let whole = (delay as usize).max(1);
    let part = delay - whole as f32;
    let mut weights = [0.0; POINTS];
    match whole {
        1 => {
            (weights[0], weights[1]) = (1.0 - part, part);
            (1, weights)
        }
        2 => {
            polynomial(&mut weights[..4], 1.0 + part, &[-6.0, 2.0, -2.0, 6.0]);
            (1, weights)
        }
        _ => {
            const BELOW: [f32; POINTS] = [-120.0, 24.0, -12.0, 12.0, -24.0, 120.0];
            polynomial(&mut weights, 2.0 + part, &BELOW);
            (whole - 2, weights)
        }
    }
}

/// Weights of samples at 0, 1, 2 and so on for a place among them; `below` are the products of the distances of each to the others.
#[inline(always)]
fn polynomial(weights: &mut [f32], x: f32, below: &[f32]) {
    for (i, below) in below.iter().enumerate() {
        let mut product = 1.0 / below;
        for j in 0..weights.len() {
            if j != i {
                product *= x - j as f32;
            }
        }
        weights[i] = product;
    }
}

/// Leaves what is moderate as it is and bends the rest toward twice [`CALM`]: with room for what builds up over many periods.
#[inline(always)]
fn flush_denormal(x: Lanes) -> Lanes {
    let edge = f32x8::splat(CALM);
    let over = (x.abs() - edge).at_least(f32x8::ZERO);
    let held = over / (f32x8::ONE + over * f32x8::splat(1.0 / CALM));
    let kept = x.at_most(edge).at_least(-edge);
    kept + x.simd_lt(f32x8::ZERO).select(-held, held)
}
