//! One program with its state in all lanes: starting and ending notes, and following changes of values. What it
//! computes is in [`super::block`].

use wide::{f32x8, i32x8};
use zolvik_patch::catalogue::{ParamId, param};
use zolvik_patch::document::MAX_UNITS;
use zolvik_waves::Bank;

use super::block::{Block, SILENT};
use super::decimate::Decimator;
use super::envelope::Envelopes;
use super::shelf::{Places, Shelf};
use super::sine::{Lanes, phase_step};
use super::smooth::{Smooth, share};
use super::voices::Voice;
use super::wave::Levels;
use crate::program::{MAX_UNIT_ROUTES, Program};
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
    };
}

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
    pub(crate) units: [[UnitState; MAX_UNITS]; MAX_GROUPS],
    tunings: [Tuning; MAX_UNITS],
    pub(crate) gates: [Smooth; MAX_UNITS],
    pub(crate) depths: [Smooth; MAX_UNIT_ROUTES],
    pub(crate) gains: [[Smooth; 2]; MAX_UNITS],
    /// Positions in tables and widths of pulses.
    pub(crate) places: [Smooth; MAX_UNITS],
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
}

impl Follow {
    fn new(block_s: f64) -> Self {
        let of = |id| share(param(id).smoothing_s, block_s);
        Follow {
            tuning: of(ParamId::OperatorRatio),
            index: of(ParamId::RouteIndexRad),
            level: of(ParamId::RouteLevelDb),
            trim: of(ParamId::VoiceTrimDb),
            place: of(ParamId::OperatorPosition),
        }
    }
}

impl Graph {
    pub(crate) fn new(program: Program, rate_hz: f64) -> Self {
        let block_s = BLOCK as f64 / rate_hz;
        let mut graph = Graph {
            program,
            units: [[UnitState::IDLE; MAX_UNITS]; MAX_GROUPS],
            tunings: [Tuning::default(); MAX_UNITS],
            gates: [Smooth::default(); MAX_UNITS],
            depths: [Smooth::default(); MAX_UNIT_ROUTES],
            gains: [[Smooth::default(); 2]; MAX_UNITS],
            places: [Smooth::default(); MAX_UNITS],
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
        for u in 0..program.unit_count() {
            let id = program.units[u].id;
            let before = old.program.units[..old.program.unit_count()]
                .iter()
                .position(|o| o.id == id);
            for group in 0..MAX_GROUPS {
                match before {
                    Some(b) => {
                        self.units[group][u] = old.units[group][b];
                        let envelopes = &mut self.units[group][u].envelopes;
                        envelopes.rescale(self.block_s / old_block_s);
                        envelopes.retarget(&program.units[u].envelope, self.block_s);
                    }
                    None => {
                        self.units[group][u] = UnitState::IDLE;
                        for lane in 0..LANES {
                            let voice = &voices[group * LANES + lane];
                            if voice.state == super::voices::State::Held {
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
        for (place, unit) in self.places.iter_mut().zip(&p.units) {
            set(place, unit.wave_place);
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
        let pitch = self.pitch(u, voice.key, shelf.get(self.banks[u]));
        let state = &mut self.units[group][u];
        set_lane(&mut state.phase, lane, 0);
        for last in &mut state.last {
            set_float(last, lane, 0.0);
        }
        set_float(&mut state.amplitude, lane, 0.0);
        let times = unit.times_scale(voice.key, voice.velocity);
        state
            .envelopes
            .press(lane, &unit.envelope, times, self.block_s);
        let struck = f32::from(voice.velocity) * (1.0 / 127.0);
        let softness = 1.0 - unit.velocity * (1.0 - struck * struck);
        let level = pitch.tune(state, lane);
        state.level[lane] = softness * level * unit.key_gain(voice.key);
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
        for state in &mut self.units[lane / LANES] {
            state.envelopes.quiet(lane % LANES);
            set_float(&mut state.amplitude, lane % LANES, 0.0);
        }
    }

    /// Whether everything heard of a lane has ended.
    pub(crate) fn is_done(&self, lane: usize) -> bool {
        let outs = &self.program.outs[..self.program.out_count as usize];
        outs.iter().all(|o| {
            self.units[lane / LANES][o.from as usize]
                .envelopes
                .is_done(lane % LANES)
        })
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
        self.places[..units]
            .iter_mut()
            .for_each(|s| s.advance(follow.place));
        self.trim.advance(follow.trim);
        for u in 0..units {
            self.advance_tuning(u, voices, shelf);
        }
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
            if voice.state != super::voices::State::Free {
                let pitch = self.pitch(u, voice.key, shelf.get(self.banks[u]));
                pitch.tune(&mut self.units[lane / LANES][u], lane % LANES);
            }
        }
    }

    fn pitch<'a>(&self, u: usize, key: u8, bank: Option<&'a Bank>) -> Pitch<'a> {
        let tuning = &self.tunings[u];
        let hz = self.program.keys_hz[usize::from(key & 127)] * tuning.multiple + tuning.offset_hz;
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
