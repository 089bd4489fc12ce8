//! Notes of one graph: beginning, tuning, releasing, ending.

use zolvik_patch::document::Start;
use zolvik_patch::filter::reference_hz;

use crate::program::kind;
use crate::realtime::graph::Graph;
use crate::realtime::modulation::envelope::Begin;
use crate::realtime::modulation::random;
use crate::realtime::nodes::Pitch;
use crate::realtime::sine::{Lanes, phase_step};
use crate::realtime::tables::bank_cache::BankCache;
use crate::realtime::voices::lanes::{Lane, LaneState};
use crate::sizes::LANES;
use zolvik_patch::document::MAX_UNITS;

/// What chance is asked for.
const START_CHANCE: u64 = 1;
const NOISE_CHANCE: u64 = 2;

impl Graph {
    /// A note begins in a lane.
    pub(crate) fn note_on(&mut self, lane: usize, note: &Lane, bank_cache: &BankCache) {
        self.modulation
            .note_on(&self.program, lane, note, self.block_s);
        for u in 0..self.program.unit_count() {
            self.begin_unit(lane / LANES, lane % LANES, u, note, bank_cache);
        }
    }

    pub(in crate::realtime) fn begin_unit(
        &mut self,
        set: usize,
        lane: usize,
        u: usize,
        note: &Lane,
        bank_cache: &BankCache,
    ) {
        let unit = &self.program.units[u];
        let start = match unit.kind {
            kind::OPERATOR => self.start_phase(u, note, self.hz(u, note).max(0.0)),
            _ => 0,
        };
        let (copy, _) = note.copy_of(unit.copies);
        let seed = self.chance_of(u, (note.age, copy as u8), NOISE_CHANCE);
        self.nodes[set][u].note_on(lane, start, seed);
        if unit.stereo != 0 {
            self.right.nodes[set][u].note_on(lane, start, seed);
        }
        self.values.begin(set, lane);
        self.begins.begin(set, lane, Begin::Note);
        if unit.feedback != 0 {
            self.late.begin(set, u, lane);
            self.right.late.begin(set, u, lane);
        }
        let strip = &mut self.strips[set][u];
        strip.moved.begin(lane);
        set_lane(&mut strip.amplitude, lane, 0.0);
        let times = unit.times_scale(note.key, note.velocity);
        strip
            .envelopes
            .note_on(lane, &unit.envelope, times, self.block_s);
        self.weigh(set, lane, u, note, bank_cache);
        self.ringing.begin(set, lane);
        self.place_copy(set, lane, u, note);
        self.strips[set][u].sides.jump(lane);
    }

    /// Sets a lane's level from velocity and key, and tunes it.
    fn weigh(&mut self, set: usize, lane: usize, u: usize, note: &Lane, bank_cache: &BankCache) {
        let level = self.tune(set, lane, u, note, bank_cache);
        let unit = &self.program.units[u];
        let struck = f32::from(note.velocity) * (1.0 / 127.0);
        let softness = 1.0 - unit.velocity * (1.0 - struck * struck);
        let of_key = match unit.kind {
            kind::FILTER | kind::SHAPER | kind::LEVEL => 1.0,
            _ => level * unit.key_gain(note.key),
        };
        self.strips[set][u].level[lane] = softness * of_key;
    }

    /// Where in its cycle a unit begins in a note.
    fn start_phase(&self, u: usize, note: &Lane, hz: f64) -> u32 {
        let unit = &self.program.units[u];
        let own = self.start_of(unit.variant, unit.start, u, note, 0, hz);
        let (copy, _) = note.copy_of(unit.copies);
        if copy == 0 {
            return own;
        }
        let start = self.program.voice.copies_start;
        let apart = match start == Start::Fixed as u32 {
            true => self.alike(u, copy, hz, note),
            false => self.start_of(start, 0, u, note, copy as u8, hz),
        };
        own.wrapping_add(apart)
    }

    /// How much later a copy begins where all begin the same every time: so that they are together as strong as one, whatever the
    /// detune (phases that rise with the square; Chu, "Polyphase codes with good periodic correlation properties", 1972). All
    /// operators of a copy are shifted by the same time.
    fn alike(&self, u: usize, copy: u32, hz: f64, note: &Lane) -> u32 {
        let copies = f64::from(self.program.units[u].copies.min(note.copies.into()).max(1));
        let copy = f64::from(copy);
        let odd = copies % 2.0;
        let turns = copy * (copy + odd) / (2.0 * copies);
        let times = match self.lowest_hz(note) {
            lowest if lowest > 0.0 => hz / lowest,
            _ => 1.0,
        };
        let turns = turns * times;
        ((turns - turns.floor()) * 4_294_967_296.0) as u64 as u32
    }

    /// The lowest operator that is heard straight.
    fn lowest_hz(&self, note: &Lane) -> f64 {
        let outs = &self.program.outs[..self.program.out_count as usize];
        let heard = outs.iter().map(|out| out.from as usize);
        let lowest = heard
            .filter(|u| self.program.units[*u].kind == kind::OPERATOR)
            .map(|u| self.hz(u, note))
            .filter(|hz| *hz > 1.0)
            .fold(f64::INFINITY, f64::min);
        if lowest.is_finite() { lowest } else { 0.0 }
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
        random::bits([seed, unit, note, copy.into()])
    }

    /// Takes a sounding lane to another key: levels and times are the new ones; with `anew` envelopes begin again, from where they
    /// are.
    pub(crate) fn take_over(
        &mut self,
        lane: usize,
        note: &Lane,
        anew: bool,
        bank_cache: &BankCache,
    ) {
        self.modulation
            .take_over(&self.program, lane, note, anew, self.block_s);
        let (set, lane) = (lane / LANES, lane % LANES);
        if anew {
            self.begins.begin(set, lane, Begin::Again);
        }
        for u in 0..self.program.unit_count() {
            self.weigh(set, lane, u, note, bank_cache);
            if anew {
                let unit = &self.program.units[u];
                let times = unit.times_scale(note.key, note.velocity);
                let envelopes = &mut self.strips[set][u].envelopes;
                envelopes.note_again(lane, &unit.envelope, times, self.block_s);
                self.nodes[set][u].note_again(lane);
            }
        }
    }

    /// A note is let go; its units end so many times as slowly.
    pub(crate) fn release(&mut self, lane: usize, slower: f64) {
        self.modulation
            .release(&self.program, lane, slower, self.block_s);
        for u in 0..self.program.unit_count() {
            let unit = &self.program.units[u];
            let courses = self.own.of_unit(unit, lane / LANES, u);
            let env = courses.of(lane % LANES);
            self.strips[lane / LANES][u]
                .envelopes
                .release(lane % LANES, env, slower, self.block_s);
        }
    }

    /// What the units of a note that was let go still have to go takes so many times as long.
    pub(crate) fn slow(&mut self, lane: usize, times: f64) {
        self.modulation.slow(&self.program, lane, times);
        for strip in &mut self.strips[lane / LANES] {
            strip.envelopes.slow(lane % LANES, times);
        }
    }

    /// Leaves a lane silent, whatever it was doing.
    pub(crate) fn silence(&mut self, lane: usize) {
        let (set, lane) = (lane / LANES, lane % LANES);
        for strip in &mut self.strips[set] {
            strip.envelopes.silence(lane);
            set_lane(&mut strip.amplitude, lane, 0.0);
        }
        let right = self.right.nodes[set].iter_mut();
        for node in self.nodes[set].iter_mut().chain(right) {
            node.silence(lane);
        }
    }

    /// Whether nothing is heard of a lane, neither by itself nor ringing on.
    pub(crate) fn is_silent(&self, lane: usize) -> bool {
        let rings = self.program.rings() && !self.ringing.is_faint(lane / LANES, lane);
        self.is_done(lane) && !rings
    }

    /// Whether everything heard of a lane has ended: its sources, or the level strips they go through.
    pub(crate) fn is_done(&self, lane: usize) -> bool {
        let strips = &self.strips[lane / LANES];
        let goes_on = |u: usize| {
            let unit = &self.program.units[u];
            let courses = self.own.of_unit(unit, lane / LANES, u);
            let own = courses.of(lane % LANES);
            !strips[u].envelopes.is_over(lane % LANES, own)
        };
        let mut heard = [false; MAX_UNITS];
        for (u, unit) in self.program.units[..self.program.unit_count()]
            .iter()
            .enumerate()
        {
            let fed = || self.program.audio_in(unit).any(|from| heard[from]);
            heard[u] = match unit.kind {
                kind::LEVEL if unit.ends_sound(&self.program) => goes_on(u) && fed(),
                kind::FILTER | kind::SHAPER | kind::LEVEL => fed(),
                _ => goes_on(u),
            };
        }
        let outs = &self.program.outs[..self.program.out_count as usize];
        !outs.iter().any(|out| heard[out.from as usize])
    }

    /// Says where in space a unit's copy in a lane stands.
    pub(in crate::realtime) fn place_copy(
        &mut self,
        set: usize,
        lane: usize,
        u: usize,
        note: &Lane,
    ) {
        let unit = &self.program.units[u];
        let sides = match self.program.voice.own_copies {
            0 => [1.0; 2],
            _ => note.sides_as(unit.copies, unit.spread_share, &self.program.voice),
        };
        self.strips[set][u].sides.set_target(lane, sides);
    }

    /// The same for every lane that sounds, after the program has changed.
    pub(in crate::realtime) fn place_copies(&mut self, lanes: &[Lane]) {
        for (lane, note) in lanes.iter().enumerate() {
            if note.state != LaneState::Free {
                for u in 0..self.program.unit_count() {
                    self.place_copy(lane / LANES, lane % LANES, u, note);
                }
            }
        }
    }

    /// Brings every sounding lane of a unit to its frequency, and to the version of its wave that fits it. For
    /// notes whose unit was there before, since another wave has other versions.
    pub(crate) fn retune(&mut self, u: usize, lanes: &[Lane], bank_cache: &BankCache) {
        for (lane, note) in lanes.iter().enumerate() {
            if note.state != LaneState::Free {
                self.tune(lane / LANES, lane % LANES, u, note, bank_cache);
            }
        }
    }

    /// Brings a lane of a unit to its frequency. Gives its level: 1, less where nothing of it can be represented.
    fn tune(
        &mut self,
        set: usize,
        lane: usize,
        u: usize,
        note: &Lane,
        bank_cache: &BankCache,
    ) -> f32 {
        let key_hz = self.key_hz(u, note);
        let strip = &mut self.strips[set][u];
        let octaves = libm::log2(key_hz.max(1.0) / reference_hz());
        (strip.key_oct[lane], strip.key_hz[lane]) = (octaves as f32, key_hz);
        set_lane(&mut strip.key_hz_lanes, lane, key_hz as f32);
        let drift = self.drift(u, note);
        let strip = &mut self.strips[set][u];
        strip.drift[lane] = drift;
        set_lane(&mut strip.drift_lanes, lane, drift as f32);
        let pitch = self.pitch(self.hz(u, note), key_hz);
        let place = self.banks[u];
        let recording = match self.program.units[u].kind {
            kind::SAMPLE => bank_cache.recording(place),
            _ => None,
        };
        self.nodes[set][u].tune(lane, &pitch, bank_cache.get(place), recording)
    }

    /// A unit's own frequency in a note.
    fn hz(&self, u: usize, note: &Lane) -> f64 {
        let tuning = &self.tunings[u];
        (self.key_hz(u, note) * tuning.multiple + tuning.offset_hz) * self.drift(u, note)
    }

    /// The key's frequency for a unit's copy in a note, bending included.
    fn key_hz(&self, u: usize, note: &Lane) -> f64 {
        let unit = &self.program.units[u];
        let as_voice = unit.copies == self.program.voice.copies && unit.detune_share == 1.0;
        // while a glide begins the pitch is not known before the next block
        if as_voice || note.copies <= 1 || note.oct.is_nan() {
            return note.hz;
        }
        let share = unit.detune_share.into();
        libm::exp2(note.oct_as(unit.copies, share, &self.program.voice))
    }

    pub(in crate::realtime) fn pitch(&self, hz: f64, key_hz: f64) -> Pitch {
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
        let unit = &self.program.units[u];
        let cents = f64::from(self.program.voice.drift_cents * unit.drift_share);
        if cents <= 0.0 {
            return 1.0;
        }
        let of = [
            self.program.voice.seed.into(),
            note.age * 16 + u64::from(note.copy_of(unit.copies).0),
            self.program.units[u].id.into(),
        ];
        let time_s = self.time as f64 / self.rate_hz;
        libm::exp2(cents * random::drift(of, time_s) / 1200.0)
    }
}

fn set_lane(lanes: &mut Lanes, lane: usize, value: f32) {
    lanes.as_mut_array()[lane] = value;
}
