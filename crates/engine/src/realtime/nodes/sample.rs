//! Playing a recording, forwards at any speed.

use wide::f32x8;
use zolvik_waves::Recording;
use zolvik_waves::kernel::{FANS, KERNELS, fan_for};
use zolvik_waves::recording::OCTAVES;

use super::Context;
use super::looping::{Loops, crossed};
use crate::LANES;
use crate::realtime::sine::Lanes;

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
        later: [0.0; LANES],
        is_later: false,
        loops: Loops::NONE,
    };

    pub(crate) fn note_on(&mut self, lane: usize) {
        self.place[lane % LANES] = 0.0;
    }

    /// Begins later by a share of what is played; never earlier.
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
                .aim((moving, recording.frames), ends, &self.place);
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
        self.turn[lane] = own_hz * times / key_hz.max(1.0);
        let (mut rest, mut octave) = (speed, 0);
        while rest > 2.0 && octave + 1 < OCTAVES {
            rest *= 0.5;
            octave += 1;
        }
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
        let (turns, amplitude) = (turns.to_array(), amplitude.to_array());
        let frequency_mod = frequency_mod.to_array();
        let mut out = [0.0f32; LANES];
        for lane in 0..LANES {
            let speed = self.speed[lane];
            if amplitude[lane] != 0.0 {
                let moved = self.place[lane] + f64::from(turns[lane]) * self.turn[lane];
                let sample = match recording.moving {
                    None => self.read(recording, moved, lane),
                    Some(_) => self.read_moving(recording, moved, lane),
                };
                out[lane] = amplitude[lane] * sample;
            }
            let next = self.place[lane] + speed * (1.0 + f64::from(frequency_mod[lane]));
            let next = next.clamp(-1e9, 1e9);
            self.place[lane] = match recording.moving {
                None => led_back(recording, next),
                Some(_) => self.loops.go_on(lane, next),
            };
        }
        Lanes::new(out)
    }

    /// What a recording whose loop moves has at a place.
    fn read_moving(&self, recording: &Recording, place: f64, lane: usize) -> f32 {
        let place = self.loops.led_back(lane, place);
        let out = self.read(recording, place, lane);
        match self.loops.other(lane, place) {
            Some((other, share)) => crossed(out, self.read(recording, other, lane), share),
            None => out,
        }
    }

    /// What a recording has at a place.
    #[inline]
    fn read(&self, recording: &Recording, place: f64, lane: usize) -> f32 {
        let place = led_back(recording, place);
        let octave = usize::from(self.octave[lane]);
        let (samples, lead) = recording.version(octave);
        let at = place / (1u32 << octave) as f64 + lead;
        let whole = at as usize;
        let part = (at - whole as f64) as f32;
        if at < 0.0 || whole >= samples.len() {
            return 0.0;
        }
        if part == 0.0 && octave == 0 && self.speed[lane] == 1.0 {
            return samples[whole];
        }
        let Some(fan) = KERNELS.get(usize::from(self.fan[lane]).min(FANS)) else {
            return 0.0;
        };
        let first = (whole + 1).wrapping_sub(fan.taps() / 2);
        let Some(samples) = samples.get(first..first.saturating_add(fan.taps())) else {
            return 0.0;
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
        let [a, b, c, d, e, f, g, h] = both.to_array();
        ((a + b) + (c + d)) + ((e + f) + (g + h))
    }
}

/// A place inside the recording, or after its end.
#[inline]
fn led_back(recording: &Recording, place: f64) -> f64 {
    match recording.wraps_at() {
        Some(edge) if place >= edge => {
            let length = recording.looped.1 as f64;
            place - libm::ceil((place - edge + 1e-9) / length) * length
        }
        Some(_) => place,
        // far enough after the end to be silent
        None => place.min((recording.frames + 16_384) as f64),
    }
}
