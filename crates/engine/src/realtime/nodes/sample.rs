//! Playing a recording, forwards at any speed.

use wide::{f32x4, f32x8};
use zolvik_waves::Recording;
use zolvik_waves::kernel::{CLOSE, CLOSE_TAPS, CloseKernel, FANS, KERNELS, fan_for};
use zolvik_waves::recording::{GUARD, OCTAVES};

use crate::realtime::nodes::context::Context;
use crate::realtime::nodes::looping::{Loops, crossed};
use crate::realtime::sine::Lanes;
use crate::sizes::LANES;

/// A recording's places in eight lanes.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Player {
    /// In samples of the recording.
    place: [f64; LANES],
    /// Samples of the recording from frame to frame.
    speed: [f64; LANES],
    /// Samples of the recording a turn of modulation moves it by: a period of its root key.
    turn: [f64; LANES],
    /// Which version is read, and by which kernel: nothing that would fold is let through.
    octave: [u8; LANES],
    fan: [u8; LANES],
    /// No faster than recorded: read from the version at twice the rate.
    slow: [bool; LANES],
    /// Played at the rate it was recorded at.
    as_recorded: [bool; LANES],
    /// As fast as the lane before.
    twin: [bool; LANES],
    /// Samples of the version that is read, for one of the recording.
    scale: [f64; LANES],
    /// How much later lanes are to begin, as a share of what is played.
    later: [f32; LANES],
    is_later: bool,
    /// Where the loop moves while it sounds.
    loops: Loops,
}

/// Positions of the parameters read here.
mod at {
    use zolvik_patch::catalogue::position;
    use zolvik_patch::document::Sample;

    pub(super) const LOOP_START: usize = position(Sample::LOOP_START);
    pub(super) const LOOP_END: usize = position(Sample::LOOP_END);
}

impl Player {
    pub(crate) const QUIET: Player = Player {
        place: [0.0; LANES],
        speed: [0.0; LANES],
        turn: [0.0; LANES],
        octave: [0; LANES],
        fan: [0; LANES],
        slow: [false; LANES],
        as_recorded: [false; LANES],
        twin: [false; LANES],
        scale: [1.0; LANES],
        later: [0.0; LANES],
        is_later: false,
        loops: Loops::NONE,
    };

    pub(crate) fn note_on(&mut self, lane: usize) {
        self.place[lane % LANES] = 0.0;
    }

    /// Onsets later by a share of what is played; never earlier.
    pub(crate) fn begin_later(&mut self, lane: usize, share: f32) {
        self.later[lane % LANES] = share.clamp(0.0, 1.0);
        self.is_later = true;
    }

    /// Takes up where a loop that moves begins and ends.
    pub(crate) fn begin_block(&mut self, context: &Context<'_>) {
        if let Some(recording) = context.recording
            && let Some(moving) = &recording.moving
        {
            let ends = [at::LOOP_START, at::LOOP_END].map(|at| context.ramp(at).next);
            self.loops
                .set_target((moving, recording.frames), ends, &self.place);
        }
    }

    /// `times` is the speed beside that of the recording; `key_hz` what it sounds at.
    pub(crate) fn tune(
        &mut self,
        lane: usize,
        recording: Option<&Recording>,
        times: f64,
        key_hz: f64,
        rate_hz: f64,
    ) {
        let own_hz = recording.map_or(rate_hz, |r| r.rate_hz);
        let speed = own_hz / rate_hz * times;
        // as recorded it is passed on sample by sample
        self.speed[lane] = if (speed - 1.0).abs() < 1e-12 {
            1.0
        } else {
            speed
        };
        self.as_recorded[lane] = self.speed[lane] == 1.0;
        self.twin = core::array::from_fn(|n| n > 0 && self.speed[n] == self.speed[n - 1]);
        self.turn[lane] = own_hz * times / key_hz.max(1.0);
        let (mut rest, mut octave) = (speed, 0);
        while rest > 2.0 && octave + 1 < OCTAVES {
            rest *= 0.5;
            octave += 1;
        }
        let doubled = recording.is_some_and(|r| r.doubled().is_some());
        self.slow[lane] = doubled && speed <= 1.0;
        self.scale[lane] = match self.slow[lane] {
            true => 2.0,
            false => 1.0 / (1u32 << octave) as f64,
        };
        self.octave[lane] = octave as u8;
        self.fan[lane] = fan_for(rest) as u8;
    }

    /// The next frame of all lanes that are heard, each moved by some turns; `frequency_mod` changes the speed by a share.
    #[inline]
    pub(crate) fn sample(
        &mut self,
        recording: &Recording,
        turns: Lanes,
        frequency_mod: Lanes,
        amplitude: Lanes,
    ) -> Lanes {
        if std::mem::take(&mut self.is_later) {
            let later = std::mem::replace(&mut self.later, [0.0; LANES]);
            for (place, later) in self.place.iter_mut().zip(later) {
                *place += f64::from(later) * recording.frames as f64;
            }
        }
        match recording.moving {
            None => self.sample_still(recording, [turns, frequency_mod, amplitude]),
            Some(_) => self.sample_moving(recording, [turns, frequency_mod, amplitude]),
        }
    }

    /// The same of a recording whose loop moves, which each lane goes round by itself.
    fn sample_moving(
        &mut self,
        recording: &Recording,
        [turns, frequency_mod, amplitude]: [Lanes; 3],
    ) -> Lanes {
        let (turns, amplitude) = (turns.to_array(), amplitude.to_array());
        let frequency_mod = frequency_mod.to_array();
        let mut out = [0.0f32; LANES];
        for lane in 0..LANES {
            if amplitude[lane] != 0.0 {
                let place = self.place[lane] + f64::from(turns[lane]) * self.turn[lane];
                let place = self.loops.led_back(lane, place);
                let heard = self.read(recording, place, lane);
                let heard = match self.loops.other(lane, place) {
                    Some((other, share)) => {
                        crossed(heard, self.read(recording, other, lane), share)
                    }
                    None => heard,
                };
                out[lane] = amplitude[lane] * heard;
            }
            let next = self.place[lane] + self.speed[lane] * (1.0 + f64::from(frequency_mod[lane]));
            self.place[lane] = self.loops.go_on(lane, next.clamp(-1e9, 1e9));
        }
        Lanes::new(out)
    }

    /// The same of one whose loop, where it has any, stands still.
    fn sample_still(
        &mut self,
        recording: &Recording,
        [turns, frequency_mod, amplitude]: [Lanes; 3],
    ) -> Lanes {
        let (turns, frequency_mod) = (turns.to_array(), frequency_mod.to_array());
        let mut at = self.place;
        for lane in 0..LANES {
            at[lane] += f64::from(turns[lane]) * self.turn[lane];
            let next = self.place[lane] + self.speed[lane] * (1.0 + f64::from(frequency_mod[lane]));
            self.place[lane] = next.clamp(-1e9, 1e9);
        }
        lead_back(recording, &mut at);
        lead_back(recording, &mut self.place);
        let (whole, part) = split(core::array::from_fn(|lane| {
            (at[lane] + LEAD) * self.scale[lane]
        }));
        let doubled = recording.doubled().map(|samples| (samples, &*CLOSE));
        let rows = CloseKernel::places(part);
        let part = part.to_array();
        let mut sums = [f32x4::ZERO; LANES];
        let heard = amplitude.to_array().map(|amplitude| amplitude != 0.0);
        for lane in 0..LANES {
            if !heard[lane] {
                continue;
            }
            // of a unit with fewer copies than the note several lanes have the same
            if self.twin[lane] && heard[lane - 1] && at[lane] == at[lane - 1] {
                sums[lane] = sums[lane - 1];
                continue;
            }
            sums[lane] = match doubled {
                Some((samples, kernel)) if self.slow[lane] && !self.as_recorded[lane] => {
                    let (row, share) = (rows.0[lane], rows.1[lane]);
                    read_close(kernel.from_row(row), samples, whole[lane], share)
                }
                _ => self.read_at(recording, doubled, lane, (whole[lane], part[lane])),
            };
        }
        let [a, b, c, d, e, f, g, h] = sums;
        let halves = [[a, b, c, d], [e, f, g, h]].map(|half| {
            let [a, b, c, d] = f32x4::transpose(half);
            (a + b) + (c + d)
        });
        bytemuck::cast::<_, Lanes>(halves) * amplitude
    }

    /// What a recording has at a place.
    fn read(&self, recording: &Recording, place: f64, lane: usize) -> f32 {
        let place = ((place + LEAD) * self.scale[lane]).max(0.0);
        let whole = place as i32;
        let part = (place - f64::from(whole)) as f32;
        let doubled = recording.doubled().map(|samples| (samples, &*CLOSE));
        let sums = self.read_at(recording, doubled, lane, (whole, part));
        let [a, b, c, d] = sums.to_array();
        (a + b) + (c + d)
    }

    /// What a lane's version of a recording has at a place between two of its samples: four sums that are to be added. There is silence
    /// for a while before the first and after the last.
    #[inline(always)]
    fn read_at(
        &self,
        recording: &Recording,
        doubled: Option<(&[f32], &CloseKernel)>,
        lane: usize,
        (whole, part): (i32, f32),
    ) -> f32x4 {
        let is_exact = part == 0.0 && self.as_recorded[lane];
        if is_exact && (!self.slow[lane] || whole % 2 == 0) {
            let at = whole as usize / if self.slow[lane] { 2 } else { 1 };
            let sample = recording.version(0).0.get(at).copied().unwrap_or(0.0);
            return f32x4::new([sample, 0.0, 0.0, 0.0]);
        }
        match doubled {
            Some((samples, kernel)) if self.slow[lane] => {
                let (rows, share) = kernel.rows(part);
                read_close(rows, samples, whole, share)
            }
            _ => {
                let (samples, _) = recording.version(self.octave[lane].into());
                read_steep(samples, self.fan[lane].into(), whole, part)
            }
        }
    }
}

/// Samples of the first version before the recording begins.
const LEAD: f64 = (GUARD << (OCTAVES - 1)) as f64;
/// Samples of a version at twice the rate that lie before the place its kernel is laid at.
const BEFORE: usize = CLOSE_TAPS / 2 - 1;

/// Reads a version at twice the rate by the kernel's rows before and after a place, which lies a share of their distance after the first.
#[inline(always)]
fn read_close(rows: &[f32; 2 * CLOSE_TAPS], samples: &[f32], whole: i32, share: f32) -> f32x4 {
    let around = (whole as usize)
        .checked_sub(BEFORE)
        .and_then(|first| samples.get(first..)?.first_chunk::<CLOSE_TAPS>());
    let Some(samples) = around else {
        return f32x4::ZERO;
    };
    let quarter = |of: &[f32], at: usize| f32x4::new([of[at], of[at + 1], of[at + 2], of[at + 3]]);
    let share = f32x4::splat(share);
    let product = |at: usize| {
        let (near, far) = (quarter(rows, at), quarter(rows, at + CLOSE_TAPS));
        quarter(samples, at) * (near + (far - near) * share)
    };
    (product(0) + product(4)) + (product(8) + product(12))
}

/// Reads a version through a steep slope, so that nothing of it folds.
#[inline(always)]
fn read_steep(samples: &[f32], fan: usize, whole: i32, part: f32) -> f32x4 {
    let Some(fan) = KERNELS.get(fan.min(FANS)) else {
        return f32x4::ZERO;
    };
    let first = (whole as usize + 1).wrapping_sub(fan.taps() / 2);
    let Some(samples) = samples.get(first..first.saturating_add(fan.taps())) else {
        return f32x4::ZERO;
    };
    let (near, far, share) = fan.rows(part);
    let (mut sum, mut next) = (f32x8::ZERO, f32x8::ZERO);
    let rows = near.as_chunks::<8>().0.iter().zip(far.as_chunks::<8>().0);
    for (sample, (near, far)) in samples.as_chunks::<8>().0.iter().zip(rows) {
        let sample = f32x8::new(*sample);
        sum += sample * f32x8::new(*near);
        next += sample * f32x8::new(*far);
    }
    let both = sum + (next - sum) * f32x8::splat(share);
    let [low, high] = bytemuck::cast::<_, [f32x4; 2]>(both);
    low + high
}

/// Places inside the recording, or after its end.
#[inline(always)]
fn lead_back(recording: &Recording, places: &mut [f64; LANES]) {
    match recording.wraps_at() {
        Some(edge) => {
            if places
                .iter()
                .fold(false, |any, place| any | (*place >= edge))
            {
                let length = recording.looped.1 as f64;
                for place in places.iter_mut().filter(|place| **place >= edge) {
                    *place -= ((*place - edge + 1e-9) / length).ceil() * length;
                }
            }
        }
        None => {
            // far enough after the end to be silent
            let silent = (recording.frames + 16_384) as f64;
            places
                .iter_mut()
                .for_each(|place| *place = place.min(silent));
        }
    }
}

/// Places, none below 0, as whole samples and the part beyond them, 0 to 1.
#[inline(always)]
fn split(places: [f64; LANES]) -> ([i32; LANES], Lanes) {
    /// Added to a number below 2^31 it leaves its nearest whole number in the lowest bits.
    const NEAREST: f64 = 6_755_399_441_055_744.0;
    let (mut whole, mut part) = ([0; LANES], [0.0; LANES]);
    for lane in 0..LANES {
        let place = places[lane].max(0.0);
        let near = (place + NEAREST) - NEAREST;
        let below = near - if near > place { 1.0 } else { 0.0 };
        whole[lane] = (below + NEAREST).to_bits() as i32;
        part[lane] = (place - below) as f32;
    }
    (whole, Lanes::new(part))
}
