//! Notes of one graph: beginning, tuning, releasing, ending.

use zolvik_patch::document::Start;
use zolvik_patch::filter::reference_hz;

use super::chance;
use super::graph::Graph;
use super::lanes::{Lane, LaneState};
use super::nodes::Pitch;
use super::shelf::Shelf;
use super::sine::{Lanes, phase_step};
use crate::LANES;
use crate::program::kind;

/// What chance is asked for.
const START_CHANCE: u64 = 1;
const NOISE_CHANCE: u64 = 2;

impl Graph {
    /// A note begins in a lane.
    pub(crate) fn note_on(&mut self, lane: usize, note: &Lane, shelf: &Shelf) {
        for u in 0..self.program.unit_count() {
            self.begin_unit(lane / LANES, lane % LANES, u, note, shelf);
        }
    }

    pub(super) fn begin_unit(
        &mut self,
        set: usize,
        lane: usize,
        u: usize,
        note: &Lane,
        shelf: &Shelf,
    ) {
        let unit = &self.program.units[u];
        let start = match unit.kind {
            kind::OPERATOR => self.start_phase(u, note, self.hz(u, note).max(0.0)),
            _ => 0,
        };
        let seed = self.chance_of(u, (note.age, note.copy), NOISE_CHANCE);
        self.nodes[set][u].note_on(lane, start, seed);
        self.values.begin(set, lane);
        if unit.feedback != 0 {
            self.late.begin(set, u, lane);
        }
        let strip = &mut self.strips[set][u];
        strip.moved.begin(lane);
        set_lane(&mut strip.amplitude, lane, 0.0);
        let times = unit.times_scale(note.key, note.velocity);
        strip
            .envelopes
            .note_on(lane, &unit.envelope, times, self.block_s);
        self.weigh(set, lane, u, note, shelf);
    }

    /// Sets a lane's level from velocity and key, and tunes it.
    fn weigh(&mut self, set: usize, lane: usize, u: usize, note: &Lane, shelf: &Shelf) {
        let level = self.tune(set, lane, u, note, shelf);
        let unit = &self.program.units[u];
        let struck = f32::from(note.velocity) * (1.0 / 127.0);
        let softness = 1.0 - unit.velocity * (1.0 - struck * struck);
        let of_key = match unit.kind {
            kind::FILTER | kind::SHAPER => 1.0,
            _ => level * unit.key_gain(note.key),
        };
        self.strips[set][u].level[lane] = softness * of_key;
    }

    /// Where in its cycle a unit begins in a note.
    fn start_phase(&self, u: usize, note: &Lane, hz: f64) -> u32 {
        let unit = &self.program.units[u];
        let own = self.start_of(unit.variant, unit.start, u, note, 0, hz);
        if note.copy == 0 {
            return own;
        }
        let copies = self.program.voice.copies_start;
        match copies == Start::Fixed as u32 {
            true => own,
            false => own.wrapping_add(self.start_of(copies, 0, u, note, note.copy, hz)),
        }
    }

    fn start_of(&self, start: u32, fixed: u32, u: usize, note: &Lane, copy: u8, hz: f64) -> u32 {
        if start == Start::Random as u32 {
            return self.chance_of(u, (note.age, copy), START_CHANCE);
        }
        if start == Start::Free as u32 {
            // as if it had run on since the beginning
            let step = phase_step(hz.min(0.5 * self.rate_hz), self.rate_hz);
            let place = (self.time as u32).wrapping_mul(step as u32);
            return place.wrapping_add(self.chance_of(u, (0, copy), START_CHANCE));
        }
        fixed
    }

    fn chance_of(&self, u: usize, (note, copy): (u64, u8), what: u64) -> u32 {
        let seed = u64::from(self.program.voice.seed) | what << 32;
        let unit = u64::from(self.program.units[u].id);
        chance::bits([seed, unit, note, copy.into()])
    }

    /// Takes a sounding lane to another key: levels and times are the new ones; with `anew` envelopes begin again, from where they
    /// are.
    pub(crate) fn take_over(&mut self, lane: usize, note: &Lane, anew: bool, shelf: &Shelf) {
        let (set, lane) = (lane / LANES, lane % LANES);
        for u in 0..self.program.unit_count() {
            self.weigh(set, lane, u, note, shelf);
            if anew {
                let unit = &self.program.units[u];
                let times = unit.times_scale(note.key, note.velocity);
                let envelopes = &mut self.strips[set][u].envelopes;
                envelopes.note_again(lane, &unit.envelope, times, self.block_s);
                self.nodes[set][u].note_again(lane);
            }
        }
    }

    /// A note is let go.
    pub(crate) fn release(&mut self, lane: usize) {
        for u in 0..self.program.unit_count() {
            let env = &self.program.units[u].envelope;
            self.strips[lane / LANES][u]
                .envelopes
                .release(lane % LANES, env, self.block_s);
        }
    }

    /// Leaves a lane silent, whatever it was doing.
    pub(crate) fn silence(&mut self, lane: usize) {
        let (set, lane) = (lane / LANES, lane % LANES);
        for (strip, node) in self.strips[set].iter_mut().zip(&mut self.nodes[set]) {
            strip.envelopes.silence(lane);
            set_lane(&mut strip.amplitude, lane, 0.0);
            node.silence(lane);
        }
    }

    /// Whether everything heard of a lane has ended.
    pub(crate) fn is_done(&self, lane: usize) -> bool {
        let strips = &self.strips[lane / LANES];
        let units = &self.program.units[..self.program.unit_count()];
        units
            .iter()
            .zip(strips)
            .all(|(unit, strip)| unit.sounds == 0 || strip.envelopes.is_done(lane % LANES))
    }

    /// Brings every sounding lane of a unit to its frequency, and to the version of its wave that fits it. For
    /// notes whose unit was there before, since another wave has other versions.
    pub(crate) fn retune(&mut self, u: usize, lanes: &[Lane], shelf: &Shelf) {
        for (lane, note) in lanes.iter().enumerate() {
            if note.state != LaneState::Free {
                self.tune(lane / LANES, lane % LANES, u, note, shelf);
            }
        }
    }

    /// Brings a lane of a unit to its frequency. Gives its level: 1, less where nothing of it can be represented.
    fn tune(&mut self, set: usize, lane: usize, u: usize, note: &Lane, shelf: &Shelf) -> f32 {
        let strip = &mut self.strips[set][u];
        let octaves = libm::log2(note.hz.max(1.0) / reference_hz());
        (strip.key_oct[lane], strip.key_hz[lane]) = (octaves as f32, note.hz);
        let pitch = self.pitch(self.hz(u, note), note.hz);
        let place = self.banks[u];
        let recording = match self.program.units[u].kind {
            kind::SAMPLE => shelf.recording(place),
            _ => None,
        };
        self.nodes[set][u].tune(lane, &pitch, shelf.get(place), recording)
    }

    /// A unit's own frequency in a note.
    fn hz(&self, u: usize, note: &Lane) -> f64 {
        let tuning = &self.tunings[u];
        (note.hz * tuning.multiple + tuning.offset_hz) * self.drift(u, note)
    }

    pub(super) fn pitch(&self, hz: f64, key_hz: f64) -> Pitch {
        // harmonics just beyond half the rate are taken out by the filters on the way down
        let reach = if self.program.oversampling > 1 {
            0.7
        } else {
            0.5
        };
        Pitch {
            hz,
            key_hz,
            rate_hz: self.rate_hz,
            limit_hz: reach * self.outer_rate_hz,
        }
    }

    /// Factor of a unit's pitch that wanders.
    fn drift(&self, u: usize, note: &Lane) -> f64 {
        let cents = f64::from(self.program.voice.drift_cents);
        if cents <= 0.0 {
            return 1.0;
        }
        let of = [
            self.program.voice.seed.into(),
            note.age * 16 + u64::from(note.copy),
            self.program.units[u].id.into(),
        ];
        let time_s = self.time as f64 / self.rate_hz;
        libm::exp2(cents * chance::drift(of, time_s) / 1200.0)
    }
}

fn set_lane(lanes: &mut Lanes, lane: usize, value: f32) {
    lanes.as_mut_array()[lane] = value;
}
