//! One program with its state in all lanes: starting and ending notes, and following changes of values. What it
//! computes is in [`super::block`].

use wide::{f32x8, i32x8};
use zolvik_patch::catalogue::param;
use zolvik_patch::document::{Harmonics, MAX_UNITS, Operator, Send, Start, VoiceSettings};
use zolvik_patch::filter::reference_hz;
use zolvik_waves::Bank;

use super::bend::Bent;
use super::block::{Block, SILENT};
use super::chance;
use super::decimate::Decimator;
use super::envelope::Envelopes;
use super::filter::Filter;
use super::noise::{Colour, Noise};
use super::partials::Partials;
use super::sample::Player;
use super::shelf::{Lines, Places, Shelf};
use super::sine::{Lanes, phase_step};
use super::smooth::{Smooth, share};
use super::voices::{State, Voice};
use super::wave::{Form, Levels};
use crate::program::{MAX_UNIT_ROUTES, Program, VALUES, kind, value};
use crate::{BLOCK, LANES, MAX_GROUPS};

/// State of one unit in one group of lanes.
#[derive(Debug, Clone, Copy)]
pub(crate) struct UnitState {
    pub(crate) phase: i32x8,
    pub(crate) step: i32x8,
    /// The last two samples, for feedback.
    pub(crate) last: [Lanes; 2],
    pub(crate) envelopes: Envelopes,
    /// Velocity and the fade near half the rate.
    pub(crate) level: [f32; LANES],
    /// Envelope times level at the end of the block.
    pub(crate) amplitude: Lanes,
    /// Which version of its wave each lane reads.
    pub(crate) waves: Levels,
    /// Of an operator how many times its frequency fits below half the rate; of a filter the key as octaves above C4.
    pub(crate) room: [f32; LANES],
}

impl UnitState {
    const IDLE: UnitState = UnitState {
        phase: i32x8::ZERO,
        step: i32x8::ZERO,
        last: [f32x8::ZERO; 2],
        envelopes: Envelopes::IDLE,
        level: [0.0; LANES],
        amplitude: f32x8::ZERO,
        waves: Levels::NONE,
        room: [1.0; LANES],
    };
}

/// What a unit keeps that is no operator, in one group of lanes.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Kept {
    pub(crate) noise: Noise,
    pub(crate) player: Player,
    pub(crate) filter: Filter,
}

impl Kept {
    const QUIET: Kept = Kept {
        noise: Noise::QUIET,
        player: Player::QUIET,
        filter: Filter::QUIET,
    };
}

/// Blocks between two looks at drifting pitches: 2.7 ms at 48 kHz.
const DRIFT_BLOCKS: u32 = 8;
/// Blocks between two looks at the partials of a wave that changes.
const LOOK_BLOCKS: u32 = 8;
/// What chance is asked for.
const START_CHANCE: u64 = 1;
const NOISE_CHANCE: u64 = 2;

/// Tuning of a unit on its way to the program's.
#[derive(Debug, Clone, Copy, Default)]
struct Tuning {
    multiple: f64,
    offset_hz: f64,
}

/// A program and its state.
#[derive(Debug, Clone)]
pub(crate) struct Graph {
    pub(crate) program: Program,
    pub(crate) units: Box<[[UnitState; MAX_UNITS]]>,
    /// What units keep that are no operators: group by group.
    pub(crate) kept: Box<[Kept]>,
    pub(crate) colours: [Colour; MAX_UNITS],
    pub(crate) partials: Box<[Partials]>,
    /// How each cycle is bent in this block, group by group, for units that are `bending`.
    pub(crate) bents: Box<[Option<Bent>]>,
    pub(crate) bending: [bool; MAX_UNITS],
    /// Units whose values have arrived.
    still: [bool; MAX_UNITS],
    /// How far above the first partial others fit below half the rate, group by group.
    pub(crate) rooms: Box<[[f32; LANES]]>,
    /// Steps of the angle between partials, and of the first one's shift, group by group.
    pub(crate) between_steps: Box<[(i32x8, i32x8)]>,
    pub(crate) lines: Lines,
    /// Which line each comb has.
    pub(crate) line_of: [usize; MAX_UNITS],
    /// Frames since the beginning, and blocks until drifting pitches are looked at again.
    time: u64,
    drift_wait: u32,
    tunings: [Tuning; MAX_UNITS],
    pub(crate) gates: [Smooth; MAX_UNITS],
    pub(crate) depths: [Smooth; MAX_UNIT_ROUTES],
    pub(crate) gains: [[Smooth; 2]; MAX_UNITS],
    /// Values of units on their way.
    pub(crate) values: [[Smooth; VALUES]; MAX_UNITS],
    pub(crate) banks: Places,
    pub(crate) trim: Smooth,
    /// What the units put out in the block at hand; kept to spare clearing it for every block.
    pub(crate) signals: [Block; MAX_UNITS],
    pub(crate) decimators: [Decimator; 2],
    /// Sample rate that leaves, and the one it is computed at.
    outer_rate_hz: f64,
    rate_hz: f64,
    pub(crate) block_s: f64,
    follow: Follow,
}

/// Share of the rest a change covers in one block, from the catalogue's smoothing times.
#[derive(Debug, Clone, Copy)]
struct Follow {
    tuning: f32,
    index: f32,
    level: f32,
    trim: f32,
    place: f32,
    partials: f32,
}

impl Follow {
    fn new(block_s: f64) -> Self {
        let of = |id| share(param(id).smoothing_s, block_s);
        Follow {
            tuning: of(Operator::RATIO),
            index: of(Send::INDEX_RAD),
            level: of(Send::LEVEL_DB),
            trim: of(VoiceSettings::TRIM_DB),
            place: of(Operator::POSITION),
            partials: share(0.5 * param(Harmonics::TILT_DB).smoothing_s, block_s),
        }
    }
}

impl Graph {
    pub(crate) fn new(program: Program, rate_hz: f64) -> Self {
        let block_s = BLOCK as f64 / rate_hz;
        let mut graph = Graph {
            program,
            units: vec![[UnitState::IDLE; MAX_UNITS]; MAX_GROUPS].into(),
            kept: vec![Kept::QUIET; MAX_GROUPS * MAX_UNITS].into(),
            colours: [Colour::WHITE; MAX_UNITS],
            partials: vec![Partials::new(MAX_GROUPS); MAX_UNITS].into(),
            bents: vec![None; MAX_GROUPS * MAX_UNITS].into(),
            bending: [false; MAX_UNITS],
            still: [false; MAX_UNITS],
            rooms: vec![[1.0; LANES]; MAX_GROUPS * MAX_UNITS].into(),
            between_steps: vec![(i32x8::ZERO, i32x8::ZERO); MAX_GROUPS * MAX_UNITS].into(),
            lines: Lines::default(),
            line_of: [0; MAX_UNITS],
            time: 0,
            drift_wait: 0,
            tunings: [Tuning::default(); MAX_UNITS],
            gates: [Smooth::default(); MAX_UNITS],
            depths: [Smooth::default(); MAX_UNIT_ROUTES],
            gains: [[Smooth::default(); 2]; MAX_UNITS],
            values: [[Smooth::default(); VALUES]; MAX_UNITS],
            banks: [None; MAX_UNITS],
            trim: Smooth::default(),
            signals: [SILENT; MAX_UNITS],
            decimators: [Decimator::new(), Decimator::new()],
            outer_rate_hz: rate_hz,
            rate_hz,
            block_s,
            follow: Follow::new(block_s),
        };
        graph.jump();
        graph
    }

    /// Takes up a program of the same shape; values glide.
    pub(crate) fn follow(&mut self, program: &Program) {
        self.program = *program;
        self.aim(Smooth::aim);
        for u in 0..program.unit_count() {
            for group in &mut self.units {
                group[u]
                    .envelopes
                    .retarget(&program.units[u].envelope, self.block_s);
            }
        }
    }

    /// Takes up a program of another shape. Units that were there before keep phase and envelope; new ones
    /// begin their envelope in the notes that sound.
    pub(crate) fn replace(
        &mut self,
        old: &Graph,
        program: &Program,
        voices: &[Voice],
        shelf: &Shelf,
    ) {
        self.program = *program;
        let old_block_s = old.block_s;
        self.rate_hz = self.outer_rate_hz * f64::from(program.oversampling.max(1));
        self.block_s = BLOCK as f64 / self.rate_hz;
        self.follow = Follow::new(self.block_s);
        self.decimators.iter_mut().for_each(Decimator::clear);
        self.banks = shelf.places(program);
        self.jump();
        self.time = old.time / u64::from(old.program.oversampling.max(1))
            * u64::from(program.oversampling.max(1));
        self.colours.iter_mut().for_each(Colour::forget);
        self.drift_wait = 0;
        let mut combs = 0;
        for u in 0..program.unit_count() {
            self.line_of[u] = combs;
            combs += usize::from(program.units[u].is_comb());
        }
        for u in 0..program.unit_count() {
            let id = program.units[u].id;
            let before = old.program.units[..old.program.unit_count()]
                .iter()
                .position(|o| o.id == id);
            match before {
                Some(b) => {
                    self.partials[u].take(&old.partials[b]);
                    if program.units[u].is_comb() && old.program.units[b].is_comb() {
                        self.lines.take(self.line_of[u], &old.lines, old.line_of[b]);
                    }
                }
                None => self.partials[u].on = false,
            }
            for group in 0..MAX_GROUPS {
                match before {
                    Some(b) => {
                        self.units[group][u] = old.units[group][b];
                        self.kept[group * MAX_UNITS + u] = old.kept[group * MAX_UNITS + b];
                        let envelopes = &mut self.units[group][u].envelopes;
                        envelopes.rescale(self.block_s / old_block_s);
                        envelopes.retarget(&program.units[u].envelope, self.block_s);
                    }
                    None => {
                        self.units[group][u] = UnitState::IDLE;
                        self.kept[group * MAX_UNITS + u] = Kept::QUIET;
                        for lane in 0..LANES {
                            let voice = &voices[group * LANES + lane];
                            if voice.state == State::Held {
                                self.press_unit(group, lane, u, voice, shelf);
                            }
                        }
                    }
                }
            }
            self.retune(u, voices, shelf);
        }
    }

    /// Finds the banks again after the shelf has changed.
    pub(crate) fn find_banks(&mut self, shelf: &Shelf) {
        self.banks = shelf.places(&self.program);
    }

    /// Sets every smoothed value where the program wants it.
    fn jump(&mut self) {
        self.aim(Smooth::jump);
        for (tuning, unit) in self.tunings.iter_mut().zip(&self.program.units) {
            *tuning = Tuning {
                multiple: unit.multiple,
                offset_hz: unit.offset_hz,
            };
        }
    }

    fn aim(&mut self, set: impl Fn(&mut Smooth, f32)) {
        self.still = [false; MAX_UNITS];
        let p = &self.program;
        for (gate, unit) in self.gates.iter_mut().zip(&p.units) {
            set(gate, unit.gate);
        }
        for (depth, route) in self.depths.iter_mut().zip(&p.routes) {
            set(depth, route.depth);
        }
        for (gain, out) in self.gains.iter_mut().zip(&p.outs) {
            set(&mut gain[0], out.left);
            set(&mut gain[1], out.right);
        }
        for (values, unit) in self.values.iter_mut().zip(&p.units) {
            for (value, goal) in values.iter_mut().zip(unit.values) {
                set(value, goal);
            }
        }
        set(&mut self.trim, p.trim);
    }

    pub(crate) fn press(&mut self, lane: usize, voice: &Voice, shelf: &Shelf) {
        for u in 0..self.program.unit_count() {
            self.press_unit(lane / LANES, lane % LANES, u, voice, shelf);
        }
    }

    fn press_unit(&mut self, group: usize, lane: usize, u: usize, voice: &Voice, shelf: &Shelf) {
        let unit = &self.program.units[u];
        let pitch = self.pitch(u, voice, shelf.get(self.banks[u]));
        let start = self.start_phase(u, voice, pitch.hz);
        let seed = self.chance_of(u, (voice.age, voice.copy), NOISE_CHANCE);
        let kept = &mut self.kept[group * MAX_UNITS + u];
        kept.noise.press(lane, seed);
        kept.player.press(lane);
        kept.filter.press(lane);
        let state = &mut self.units[group][u];
        set_lane(&mut state.phase, lane, start as i32);
        set_lane(&mut self.partials[u].between[group], lane, start as i32);
        for last in &mut state.last {
            set_float(last, lane, 0.0);
        }
        set_float(&mut state.amplitude, lane, 0.0);
        let times = unit.times_scale(voice.key, voice.velocity);
        state
            .envelopes
            .press(lane, &unit.envelope, times, self.block_s);
        self.weigh(group, lane, u, voice, shelf);
    }

    /// Sets a lane's level from velocity and key, and tunes it.
    fn weigh(&mut self, group: usize, lane: usize, u: usize, voice: &Voice, shelf: &Shelf) {
        let unit = &self.program.units[u];
        let struck = f32::from(voice.velocity) * (1.0 / 127.0);
        let softness = 1.0 - unit.velocity * (1.0 - struck * struck);
        let level = self.tune(group, lane, u, voice, shelf);
        let unit = &self.program.units[u];
        let of_key = match unit.kind {
            kind::FILTER | kind::SHAPER => 1.0,
            _ => level * unit.key_gain(voice.key),
        };
        self.units[group][u].level[lane] = softness * of_key;
    }

    /// Where in its cycle a unit begins in a voice.
    fn start_phase(&self, u: usize, voice: &Voice, hz: f64) -> u32 {
        let unit = &self.program.units[u];
        if unit.kind != kind::OPERATOR {
            return 0;
        }
        let own = self.start_of(unit.variant, unit.start, u, voice, 0, hz);
        if voice.copy == 0 {
            return own;
        }
        let copies = self.program.voice.copies_start;
        match copies == Start::Fixed as u32 {
            true => own,
            false => own.wrapping_add(self.start_of(copies, 0, u, voice, voice.copy, hz)),
        }
    }

    fn start_of(&self, start: u32, fixed: u32, u: usize, voice: &Voice, copy: u8, hz: f64) -> u32 {
        if start == Start::Random as u32 {
            return self.chance_of(u, (voice.age, copy), START_CHANCE);
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
    pub(crate) fn take_over(&mut self, lane: usize, voice: &Voice, anew: bool, shelf: &Shelf) {
        let (group, lane) = (lane / LANES, lane % LANES);
        for u in 0..self.program.unit_count() {
            self.weigh(group, lane, u, voice, shelf);
            if anew {
                let unit = &self.program.units[u];
                let times = unit.times_scale(voice.key, voice.velocity);
                let envelopes = &mut self.units[group][u].envelopes;
                envelopes.press_on(lane, &unit.envelope, times, self.block_s);
                if unit.kind == kind::SAMPLE {
                    self.kept[group * MAX_UNITS + u].player.press(lane);
                }
            }
        }
    }

    pub(crate) fn let_go(&mut self, lane: usize) {
        for u in 0..self.program.unit_count() {
            let env = &self.program.units[u].envelope;
            self.units[lane / LANES][u]
                .envelopes
                .let_go(lane % LANES, env, self.block_s);
        }
    }

    /// Leaves a lane silent, whatever it was doing.
    pub(crate) fn quiet(&mut self, lane: usize) {
        for u in 0..MAX_UNITS {
            let state = &mut self.units[lane / LANES][u];
            state.envelopes.quiet(lane % LANES);
            set_float(&mut state.amplitude, lane % LANES, 0.0);
            self.kept[lane / LANES * MAX_UNITS + u].filter.press(lane);
        }
    }

    /// Whether everything heard of a lane has ended.
    pub(crate) fn is_done(&self, lane: usize) -> bool {
        let states = &self.units[lane / LANES];
        let units = &self.program.units[..self.program.unit_count()];
        units
            .iter()
            .zip(states)
            .all(|(unit, state)| unit.sounds == 0 || state.envelopes.is_done(lane % LANES))
    }

    /// What a unit puts out in a lane at the end of the block, before its routes: 0 to 1.
    pub(crate) fn amplitude(&self, u: usize, lane: usize) -> f32 {
        self.units[lane / LANES][u].amplitude.as_array()[lane % LANES]
    }

    /// Moves smoothed values on by one block. Call once a block, before [`Graph::block`].
    pub(crate) fn advance(&mut self, voices: &[Voice], shelf: &Shelf) {
        let (units, routes, outs) = (
            self.program.unit_count(),
            self.program.route_count,
            self.program.out_count,
        );
        let follow = self.follow;
        self.gates[..units]
            .iter_mut()
            .for_each(|s| s.advance(follow.level));
        self.depths[..routes as usize]
            .iter_mut()
            .for_each(|s| s.advance(follow.index));
        self.gains[..outs as usize]
            .iter_mut()
            .flatten()
            .for_each(|s| s.advance(follow.level));
        for u in 0..units {
            if !self.still[u] {
                let values = &mut self.values[u];
                values.iter_mut().for_each(|s| s.advance(follow.place));
                self.still[u] = values.iter().all(Smooth::has_arrived);
                self.bending[u] =
                    self.program.units[u].kind == kind::OPERATOR && Bent::wanted(values);
            }
        }
        self.trim.advance(follow.trim);
        self.time += BLOCK as u64;
        for u in 0..units {
            self.advance_tuning(u, voices, shelf);
            if self.program.units[u].kind == kind::NOISE {
                let fine = f64::from(self.program.oversampling.max(1));
                let colour = self.values[u][value::COLOUR_DB].next;
                self.colours[u].aim(colour, self.rate_hz, fine);
            }
            if self.program.units[u].kind == kind::OPERATOR {
                self.advance_partials(u, shelf);
            }
        }
        if self.program.voice.drift_cents > 0.0 {
            if self.drift_wait == 0 {
                self.drift_wait = DRIFT_BLOCKS * self.program.oversampling.max(1);
                (0..units).for_each(|u| self.retune(u, voices, shelf));
            }
            self.drift_wait -= 1;
        }
    }

    /// Looks at a wave's partials where they are asked for.
    fn advance_partials(&mut self, u: usize, shelf: &Shelf) {
        let values = &self.values[u];
        let begins = !self.partials[u].on && Partials::wanted(values);
        if !begins && !self.partials[u].on {
            return;
        }
        if begins {
            self.partials[u].on = true;
            for group in 0..MAX_GROUPS {
                self.partials[u].between[group] = self.units[group][u].phase;
            }
        }
        let unit = &self.program.units[u];
        let bank = shelf.get(self.banks[u]);
        let mut levels = Levels::NONE;
        if let Some(bank) = bank {
            // the whole wave: what has no room is left out partial by partial
            levels.choose(0, bank, 1.0, 512.0);
            levels = levels.like(0);
        }
        let place = Smooth::at(values[value::PLACE].next);
        let form = Form::new(bank, unit.is_pulse != 0, levels, &place);
        let bent = Bent::new(values, &[1e6; LANES]);
        let every = LOOK_BLOCKS * self.program.oversampling.max(1);
        let share = self.follow.partials;
        self.partials[u].advance(
            (values, self.still[u]),
            every,
            share,
            begins,
            |turns| match &bent {
                None => form.at(turns, 0, 0),
                Some(bent) => bent.at(turns, 0, |t| form.at(t, 0, 0)),
            },
        );
    }

    /// What is to be known of a unit before a block of a group of lanes is computed.
    pub(crate) fn before_block(&mut self, group: usize, u: usize, shelf: &Shelf) {
        let at = group * MAX_UNITS + u;
        let unit = &self.program.units[u];
        match unit.kind {
            kind::OPERATOR => {
                if self.partials[u].on {
                    let (spacing, shift) = (
                        self.values[u][value::SPACING].now,
                        self.values[u][value::SHIFT].now,
                    );
                    let step = self.units[group][u].step.to_array();
                    let times = |by: f32| {
                        i32x8::new(step.map(|s| {
                            let turns = f64::from(s) * f64::from(by);
                            // wraps as the phase does
                            (turns as i64) as i32
                        }))
                    };
                    self.between_steps[at] = (times(spacing), times(shift));
                    self.rooms[at] = self.units[group][u].room.map(|room| room - 1.0 - shift);
                } else if self.bending[u]
                    && let Some(bent) = Bent::new(&self.values[u], &self.units[group][u].room)
                {
                    if let Some(bank) = shelf.get(self.banks[u]) {
                        let state = &mut self.units[group][u];
                        for lane in 0..LANES {
                            let room = f64::from(state.room[lane] / bent.reach[lane]);
                            state.waves.choose(lane, bank, 1.0, room);
                        }
                    }
                    self.bents[at] = Some(bent);
                }
            }
            kind::FILTER => {
                let values = &self.values[u];
                let sweep = values[value::SWEEP_OCT].next;
                let (base, follow) = (values[value::CUTOFF_OCT].next, values[value::FOLLOW].next);
                let state = &self.units[group][u];
                // the envelope of the block at hand, which is advanced a little later: a block behind
                let level = state.amplitude.to_array();
                let cutoffs = std::array::from_fn(|lane| {
                    base + follow * state.room[lane] + sweep * level[lane]
                });
                self.kept[at]
                    .filter
                    .block(unit, values, cutoffs, self.rate_hz);
            }
            kind::SHAPER => self.kept[at]
                .filter
                .shaper_block(&self.values[u], self.rate_hz),
            _ => {}
        }
    }

    /// Whether an operator is more than its wave in this block.
    pub(crate) fn is_shaped(&self, u: usize) -> bool {
        self.partials[u].on || self.bending[u]
    }

    fn advance_tuning(&mut self, u: usize, voices: &[Voice], shelf: &Shelf) {
        let (unit, tuning) = (&self.program.units[u], &mut self.tunings[u]);
        if tuning.multiple == unit.multiple && tuning.offset_hz == unit.offset_hz {
            return;
        }
        let glide = |now: f64, goal: f64| {
            let next = now + (goal - now) * f64::from(self.follow.tuning);
            if (next - goal).abs() < 1e-7 * (1.0 + goal.abs()) {
                goal
            } else {
                next
            }
        };
        tuning.multiple = glide(tuning.multiple, unit.multiple);
        tuning.offset_hz = glide(tuning.offset_hz, unit.offset_hz);
        self.retune(u, voices, shelf);
    }

    /// Brings every sounding lane of a unit to its frequency, and to the version of its wave that fits it. For
    /// notes whose unit was there before, since another wave has other versions.
    pub(crate) fn retune(&mut self, u: usize, voices: &[Voice], shelf: &Shelf) {
        for (lane, voice) in voices.iter().enumerate() {
            if voice.state != State::Free {
                self.tune(lane / LANES, lane % LANES, u, voice, shelf);
            }
        }
    }

    /// Brings a lane of a unit to its frequency. Gives its level, see [`Pitch::tune`].
    fn tune(&mut self, group: usize, lane: usize, u: usize, voice: &Voice, shelf: &Shelf) -> f32 {
        let unit = &self.program.units[u];
        match unit.kind {
            kind::OPERATOR => {
                let pitch = self.pitch(u, voice, shelf.get(self.banks[u]));
                pitch.tune(&mut self.units[group][u], lane)
            }
            kind::SAMPLE => {
                let tuning = &self.tunings[u];
                let times = voice.hz * tuning.multiple + tuning.offset_hz;
                let times = times * self.drift(u, voice);
                let kept = &mut self.kept[group * MAX_UNITS + u];
                let recording = shelf.recording(self.banks[u]);
                kept.player
                    .tune(lane, recording, times, voice.hz, self.rate_hz);
                1.0
            }
            _ => {
                // a filter keeps the key as octaves above C4
                let octaves = libm::log2(voice.hz.max(1.0) / reference_hz());
                self.units[group][u].room[lane] = octaves as f32;
                1.0
            }
        }
    }

    /// Factor of a unit's pitch that wanders.
    fn drift(&self, u: usize, voice: &Voice) -> f64 {
        let cents = f64::from(self.program.voice.drift_cents);
        if cents <= 0.0 {
            return 1.0;
        }
        let of = [
            self.program.voice.seed.into(),
            voice.age * 16 + u64::from(voice.copy),
            self.program.units[u].id.into(),
        ];
        let time_s = self.time as f64 / self.rate_hz;
        libm::exp2(cents * chance::drift(of, time_s) / 1200.0)
    }

    fn pitch<'a>(&self, u: usize, voice: &Voice, bank: Option<&'a Bank>) -> Pitch<'a> {
        let tuning = &self.tunings[u];
        let hz = (voice.hz * tuning.multiple + tuning.offset_hz) * self.drift(u, voice);
        // harmonics just beyond half the rate are taken out by the filters on the way down
        let reach = if self.program.oversampling > 1 {
            0.7
        } else {
            0.5
        };
        Pitch {
            hz: hz.max(0.0),
            rate_hz: self.rate_hz,
            limit_hz: reach * self.outer_rate_hz,
            bank,
        }
    }
}

/// A frequency on its way into a lane.
struct Pitch<'a> {
    hz: f64,
    rate_hz: f64,
    /// No harmonic of the wave may lie above.
    limit_hz: f64,
    bank: Option<&'a Bank>,
}

impl Pitch<'_> {
    /// Sets a lane's phase step and the version of its wave. Gives its level: 1, falling to 0 as the frequency
    /// nears half the rate, since nothing above can be represented.
    fn tune(&self, state: &mut UnitState, lane: usize) -> f32 {
        let step = phase_step(self.hz.min(0.5 * self.rate_hz), self.rate_hz);
        set_lane(&mut state.step, lane, step);
        state.room[lane] = (self.limit_hz / self.hz.max(1e-3)).min(1e6) as f32;
        if let Some(bank) = self.bank {
            state.waves.choose(lane, bank, self.hz, self.limit_hz);
        }
        ((0.5 - self.hz / self.rate_hz) / 0.03).clamp(0.0, 1.0) as f32
    }
}

fn set_lane(lanes: &mut i32x8, lane: usize, value: i32) {
    lanes.as_mut_array()[lane] = value;
}

fn set_float(lanes: &mut Lanes, lane: usize, value: f32) {
    lanes.as_mut_array()[lane] = value;
}
