//! Playing a recording, forwards at any speed.

use zolvik_waves::Recording;
use zolvik_waves::kernel::{CUT, FINE, KERNEL, REACH};

use super::sine::Lanes;
use crate::LANES;

/// A recording's places in eight lanes.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Player {
    /// In samples of the recording.
    place: [f64; LANES],
    /// Samples of the recording from frame to frame.
    speed: [f64; LANES],
    /// Samples of the recording a turn of modulation moves it by: a period of its root key.
    turn: [f64; LANES],
}

impl Player {
    pub(crate) const QUIET: Player = Player {
        place: [0.0; LANES],
        speed: [0.0; LANES],
        turn: [0.0; LANES],
    };

    pub(crate) fn press(&mut self, lane: usize) {
        self.place[lane % LANES] = 0.0;
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
    }

    /// The next frame of all lanes, each moved by some turns; `bend` changes the speed by a share.
    #[inline]
    pub(crate) fn next(&mut self, recording: &Recording, turns: Lanes, bend: Lanes) -> Lanes {
        let (turns, bend) = (turns.to_array(), bend.to_array());
        let mut out = [0.0f32; LANES];
        for lane in 0..LANES {
            let speed = self.speed[lane];
            let shifted = self.place[lane] + f64::from(turns[lane]) * self.turn[lane];
            out[lane] = read(recording, shifted, speed);
            let next = self.place[lane] + speed * (1.0 + f64::from(bend[lane]));
            self.place[lane] = led_back(recording, next.clamp(-1e9, 1e9));
        }
        Lanes::new(out)
    }
}

/// A place inside the recording, or behind its end.
fn led_back(recording: &Recording, place: f64) -> f64 {
    match recording.wraps_at() {
        Some(edge) if place >= edge => {
            let length = recording.looped.1 as f64;
            place - libm::ceil((place - edge + 1e-9) / length) * length
        }
        _ => place.min(recording.frames as f64 + 4096.0 + 1e6),
    }
}

/// What a recording has at a place, for a speed: nothing that would fold is let through.
fn read(recording: &Recording, place: f64, speed: f64) -> f32 {
    let place = led_back(recording, place);
    let mut speed = speed.abs();
    let mut octave = 0;
    while speed > 2.0 && octave < zolvik_waves::recording::OCTAVES - 1 {
        speed *= 0.5;
        octave += 1;
    }
    let (samples, lead) = recording.version(octave);
    let at = place / (1u32 << octave) as f64 + lead;
    let whole = libm::floor(at);
    if !(whole >= 0.0 && whole < samples.len() as f64) {
        return 0.0;
    }
    let (first, part) = (whole as usize, (at - whole) as f32);
    if speed == 1.0 && part == 0.0 && octave == 0 {
        return samples[first];
    }
    // faster means a wider kernel, with a lower cut
    let scale = (CUT / speed.max(1.0)) as f32;
    let reach = (REACH as f32 / scale) as usize;
    let kernel = KERNEL.as_slice();
    let tap = |distance: f32| {
        let x = distance * scale * FINE as f32;
        let i = x as usize;
        let share = x - i as f32;
        match kernel.get(i..i + 2) {
            Some([a, b]) => a + (b - a) * share,
            _ => 0.0,
        }
    };
    let mut sum = 0.0;
    let from = (first + 1).saturating_sub(reach);
    let left = samples.get(from..=first).unwrap_or_default();
    for (i, sample) in left.iter().rev().enumerate() {
        sum += sample * tap(i as f32 + part);
    }
    let to = (first + 1 + reach).min(samples.len());
    let right = samples.get(first + 1..to).unwrap_or_default();
    for (i, sample) in right.iter().enumerate() {
        sum += sample * tap(i as f32 + 1.0 - part);
    }
    sum * scale
}
