//! One program with its state in all lanes, computed block by block.

use wide::{f32x4, f32x8, i32x4, i32x8};
use zolvik_patch::catalogue::{ParamId, param};
use zolvik_patch::document::MAX_UNITS;
use zolvik_patch::pitch::key_hz;

use super::envelope::Envelopes;
use super::sine::{Lanes, half_phase_turns, half_sine_turns, phase_step, phase_turns, sine_turns};
use super::smooth::{Smooth, share};
use super::voices::Voice;
use crate::program::{MAX_PHASE_ROUTES, Program, RouteProgram};
use crate::{BLOCK, LANES, MAX_GROUPS};

/// A block of eight lanes.
pub(crate) type Block = [Lanes; BLOCK];
const SILENT: Block = [f32x8::ZERO; BLOCK];

/// State of one unit in one group of lanes.
#[derive(Debug, Clone, Copy)]
struct UnitState {
    phase: i32x8,
    step: i32x8,
    /// The last two samples, for feedback.
    last: [Lanes; 2],
    envelopes: Envelopes,
    /// Velocity and the fade near half the rate.
    level: [f32; LANES],
    /// Envelope times level at the end of the block.
    amplitude: Lanes,
}

impl UnitState {
    const IDLE: UnitState = UnitState {
        phase: i32x8::ZERO,
        step: i32x8::ZERO,
        last: [f32x8::ZERO; 2],
        envelopes: Envelopes::IDLE,
        level: [0.0; LANES],
        amplitude: f32x8::ZERO,
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
    units: [[UnitState; MAX_UNITS]; MAX_GROUPS],
    tunings: [Tuning; MAX_UNITS],
    gates: [Smooth; MAX_UNITS],
    depths: [Smooth; MAX_PHASE_ROUTES],
    gains: [[Smooth; 2]; MAX_UNITS],
    pub(crate) trim: Smooth,
    /// What the units put out in the block at hand; kept to spare clearing it for every block.
    signals: [Block; MAX_UNITS],
    rate_hz: f64,
    block_s: f64,
    follow: Follow,
}

/// Share of the rest a change covers in one block, from the catalogue's smoothing times.
#[derive(Debug, Clone, Copy)]
struct Follow {
    tuning: f32,
    index: f32,
    level: f32,
    trim: f32,
}

impl Follow {
    fn new(block_s: f64) -> Self {
        let of = |id| share(param(id).smoothing_s, block_s);
        Follow {
            tuning: of(ParamId::OperatorRatio),
            index: of(ParamId::RouteIndexRad),
            level: of(ParamId::RouteLevelDb),
            trim: of(ParamId::VoiceTrimDb),
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
            depths: [Smooth::default(); MAX_PHASE_ROUTES],
            gains: [[Smooth::default(); 2]; MAX_UNITS],
            trim: Smooth::default(),
            signals: [SILENT; MAX_UNITS],
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
    pub(crate) fn replace(&mut self, old: &Graph, program: &Program, voices: &[Voice]) {
        self.program = *program;
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
                        self.units[group][u]
                            .envelopes
                            .retarget(&program.units[u].envelope, self.block_s);
                    }
                    None => {
                        self.units[group][u] = UnitState::IDLE;
                        for lane in 0..LANES {
                            let voice = &voices[group * LANES + lane];
                            if voice.state == super::voices::State::Held {
                                self.press_unit(group, lane, u, voice);
                            }
                        }
                    }
                }
            }
        }
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
            set(depth, route.turns);
        }
        for (gain, out) in self.gains.iter_mut().zip(&p.outs) {
            set(&mut gain[0], out.left);
            set(&mut gain[1], out.right);
        }
        set(&mut self.trim, p.trim);
    }

    pub(crate) fn press(&mut self, lane: usize, voice: &Voice) {
        for u in 0..self.program.unit_count() {
            self.press_unit(lane / LANES, lane % LANES, u, voice);
        }
    }

    fn press_unit(&mut self, group: usize, lane: usize, u: usize, voice: &Voice) {
        let unit = &self.program.units[u];
        let state = &mut self.units[group][u];
        set_lane(&mut state.phase, lane, 0);
        for last in &mut state.last {
            set_float(last, lane, 0.0);
        }
        set_float(&mut state.amplitude, lane, 0.0);
        state.envelopes.press(lane, &unit.envelope, self.block_s);
        let struck = f32::from(voice.velocity) * (1.0 / 127.0);
        let softness = 1.0 - unit.velocity * (1.0 - struck * struck);
        let level = tune(state, lane, &self.tunings[u], voice.key, self.rate_hz);
        state.level[lane] = softness * level;
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
    pub(crate) fn advance(&mut self, voices: &[Voice]) {
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
        self.trim.advance(follow.trim);
        for u in 0..units {
            self.advance_tuning(u, voices);
        }
    }

    fn advance_tuning(&mut self, u: usize, voices: &[Voice]) {
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
        for (lane, voice) in voices.iter().enumerate() {
            if voice.state != super::voices::State::Free {
                tune(
                    &mut self.units[lane / LANES][u],
                    lane % LANES,
                    tuning,
                    voice.key,
                    self.rate_hz,
                );
            }
        }
    }

    /// Computes one block of one group of lanes and adds it to both channels. With one half only the lower
    /// four lanes are computed; the upper ones, where nothing may sound, are silent.
    pub(crate) fn block(
        &mut self,
        group: usize,
        halves: usize,
        left: &mut Block,
        right: &mut Block,
    ) {
        let mut u = 0;
        while u < self.program.unit_count() {
            let size = (self.program.units[u].group_size as usize).max(1);
            if self.program.units[u].feedback == 0 {
                self.straight(group, u, halves);
            } else {
                self.together(group, u, size);
            }
            u += size;
        }
        let outs = &self.program.outs[..self.program.out_count as usize];
        for (out, gain) in outs.iter().zip(&self.gains) {
            let signal = &self.signals[out.from as usize];
            add_scaled(left, signal, &gain[0]);
            add_scaled(right, signal, &gain[1]);
        }
    }

    /// A unit whose sources are all computed: the whole block at once.
    fn straight(&mut self, group: usize, u: usize, halves: usize) {
        let (amplitude, slope) = self.amplitudes(group, u);
        let unit = &self.program.units[u];
        let range = unit.first_route as usize..(unit.first_route + unit.routes) as usize;
        let routes = &self.program.routes[range.clone()];
        let depths = &self.depths[range];
        // a unit reads only units before it, so its own signal can be taken out of the way
        let (before, rest) = self.signals.split_at_mut(u);
        let state = &mut self.units[group][u];
        let ramp = Ramp {
            amplitude,
            slope,
            halves,
        };
        match (routes, depths) {
            ([], _) => run(state, ramp, &mut rest[0], |_, _| f32x4::ZERO),
            ([route], [depth]) if depth.now == depth.next => {
                let source: &Halves = bytemuck::cast_ref(&before[route.from as usize]);
                let d = f32x4::splat(depth.now);
                run(state, ramp, &mut rest[0], |frame, half| {
                    source[frame][half] * d
                });
            }
            _ => {
                let mut moved = SILENT;
                for (route, depth) in routes.iter().zip(depths) {
                    add_scaled(&mut moved, &before[route.from as usize], depth);
                }
                let moved: &Halves = bytemuck::cast_ref(&moved);
                run(state, ramp, &mut rest[0], |frame, half| moved[frame][half]);
            }
        }
    }

    /// Units in a loop: sample by sample. Sources that come later are heard one sample late, as the mean of
    /// their last two samples, which keeps strong feedback from flipping every sample.
    fn together(&mut self, group: usize, first: usize, size: usize) {
        let mut ramps = [(f32x8::ZERO, f32x8::ZERO); MAX_UNITS];
        for (u, ramp) in ramps.iter_mut().enumerate().skip(first).take(size) {
            *ramp = self.amplitudes(group, u);
        }
        for frame in 0..BLOCK {
            for (u, ramp) in ramps.iter_mut().enumerate().skip(first).take(size) {
                let moved = self.moved(group, u, frame);
                let state = &mut self.units[group][u];
                self.signals[u][frame] = sine_turns(phase_turns(state.phase) + moved) * ramp.0;
                state.phase += state.step;
                ramp.0 += ramp.1;
            }
            for u in first..first + size {
                let state = &mut self.units[group][u];
                state.last = [self.signals[u][frame], state.last[0]];
            }
        }
    }

    /// How far a unit's sources move its phase in one frame, in turns.
    #[inline(always)]
    fn moved(&self, group: usize, u: usize, frame: usize) -> Lanes {
        let unit = &self.program.units[u];
        let range = unit.first_route as usize..(unit.first_route + unit.routes) as usize;
        let mut moved = f32x8::ZERO;
        for (route, depth) in self.program.routes[range.clone()]
            .iter()
            .zip(&self.depths[range])
        {
            let d = depth.now + depth.slope() * frame as f32;
            moved += self.source(group, route, frame) * f32x8::splat(d);
        }
        moved
    }

    #[inline(always)]
    fn source(&self, group: usize, route: &RouteProgram, frame: usize) -> Lanes {
        let from = route.from as usize;
        if route.back == 0 {
            return self.signals[from][frame];
        }
        let last = &self.units[group][from].last;
        (last[0] + last[1]) * f32x8::splat(0.5)
    }

    /// Advances a unit's envelopes; gives its amplitude at the block's start and the change per frame.
    fn amplitudes(&mut self, group: usize, u: usize) -> (Lanes, Lanes) {
        let gate = self.gates[u].next;
        let state = &mut self.units[group][u];
        state
            .envelopes
            .advance(&self.program.units[u].envelope, self.block_s);
        let value = f32x8::new(state.envelopes.value.map(|v| v as f32));
        let (start, end) = (
            state.amplitude,
            value * f32x8::new(state.level) * f32x8::splat(gate),
        );
        state.amplitude = end;
        (start, (end - start) * f32x8::splat(1.0 / BLOCK as f32))
    }
}

/// Amplitude at the start of a block, its change per frame, and for how many lanes.
#[derive(Clone, Copy)]
struct Ramp {
    amplitude: Lanes,
    slope: Lanes,
    /// Halves of the group that sound.
    halves: usize,
}

/// A block as halves: four lanes fill a register of the targets we build for, so that all a half needs stays
/// in registers over the whole block.
type Halves = [[f32x4; 2]; BLOCK];

/// One block of an oscillator whose phase is moved, in turns, by `moved(frame, half)`.
#[inline(always)]
fn run(state: &mut UnitState, ramp: Ramp, out: &mut Block, moved: impl Fn(usize, usize) -> f32x4) {
    let out: &mut Halves = bytemuck::cast_mut(out);
    let mut phases: [i32x4; 2] = bytemuck::cast(state.phase);
    let steps: [i32x4; 2] = bytemuck::cast(state.step);
    let amplitudes: [f32x4; 2] = bytemuck::cast(ramp.amplitude);
    let slopes: [f32x4; 2] = bytemuck::cast(ramp.slope);
    if ramp.halves == 1 {
        out.iter_mut().for_each(|frame| frame[1] = f32x4::ZERO);
    }
    for half in 0..ramp.halves {
        let (mut phase, mut amplitude) = (phases[half], amplitudes[half]);
        for (frame, out) in out.iter_mut().enumerate() {
            out[half] = half_sine_turns(half_phase_turns(phase) + moved(frame, half)) * amplitude;
            phase += steps[half];
            amplitude += slopes[half];
        }
        phases[half] = phase;
    }
    state.phase = bytemuck::cast(phases);
}

/// Adds a block times a gliding factor.
#[inline(always)]
fn add_scaled(sum: &mut Block, signal: &Block, factor: &Smooth) {
    let mut f = f32x8::splat(factor.now);
    if factor.now == factor.next {
        sum.iter_mut()
            .zip(signal)
            .for_each(|(sum, sample)| *sum += *sample * f);
        return;
    }
    let slope = f32x8::splat(factor.slope());
    for (sum, sample) in sum.iter_mut().zip(signal) {
        *sum += *sample * f;
        f += slope;
    }
}

/// Sets a lane's phase step. Gives its level: 1, falling to 0 as the frequency nears half the rate, since
/// nothing above can be represented.
fn tune(state: &mut UnitState, lane: usize, tuning: &Tuning, key: u8, rate_hz: f64) -> f32 {
    let hz = (key_hz(key.into()) * tuning.multiple + tuning.offset_hz).max(0.0);
    let step = phase_step(hz.min(0.5 * rate_hz), rate_hz);
    set_lane(&mut state.step, lane, step);
    ((0.5 - hz / rate_hz) / 0.03).clamp(0.0, 1.0) as f32
}

fn set_lane(lanes: &mut i32x8, lane: usize, value: i32) {
    lanes.as_mut_array()[lane] = value;
}

fn set_float(lanes: &mut Lanes, lane: usize, value: f32) {
    lanes.as_mut_array()[lane] = value;
}
