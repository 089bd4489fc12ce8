//! The computing of one block: oscillators, what moves them, and the sum.

use wide::{f32x4, f32x8, i32x4, i32x8};
use zolvik_patch::document::{MAX_UNITS, RouteKind};

use super::graph::{Graph, UnitState};
use super::shelf::Shelf;
use super::sine::{Lanes, half_phase_turns, half_sine_turns, phase_turns};
use super::smooth::Smooth;
use super::wave::Form;
use crate::BLOCK;
use crate::program::RouteProgram;
use crate::program::{MOVES_CUTOFF, kind, value};

/// A block of eight lanes.
pub(crate) type Block = [Lanes; BLOCK];
pub(crate) const SILENT: Block = [f32x8::ZERO; BLOCK];

/// Highest a unit that is multiplied by others may get, so that loops of them stay bounded.
const CEILING: f32 = 4.0;

impl Graph {
    /// Computes one block of one group of lanes and adds it to both channels. With one half only the lower
    /// four lanes are computed; the upper ones, where nothing may sound, are silent.
    pub(crate) fn block(
        &mut self,
        group: usize,
        halves: usize,
        [left, right]: [&mut Block; 2],
        shelf: &Shelf,
    ) {
        let mut u = 0;
        while u < self.program.unit_count() {
            let size = (self.program.units[u].group_size as usize).max(1);
            for one in u..u + size {
                self.before_block(group, one, shelf);
            }
            let unit = &self.program.units[u];
            let is_more = unit.mixed != 0 || unit.kind != kind::OPERATOR || self.is_shaped(u);
            if unit.feedback == 0 && is_more {
                self.straight_mixed(group, u, shelf);
            } else if unit.feedback == 0 {
                self.straight(group, u, halves, shelf);
            } else {
                self.together(group, u, size, shelf);
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
    #[inline(never)]
    fn straight(&mut self, group: usize, u: usize, halves: usize, shelf: &Shelf) {
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
        let bank = shelf.get(self.banks[u]);
        let place = &self.values[u][value::PLACE];
        let form = Form::new(bank, unit.is_pulse != 0, state.waves, place);
        match (routes, depths) {
            ([], _) => repeat(state, ramp, &form, &mut rest[0], |_, _| f32x4::ZERO),
            ([route], [depth]) if depth.now == depth.next => {
                let source: &Halves = bytemuck::cast_ref(&before[route.from as usize]);
                let d = f32x4::splat(depth.now);
                repeat(state, ramp, &form, &mut rest[0], |frame, half| {
                    source[frame][half] * d
                });
            }
            _ => {
                let mut moved = SILENT;
                for (route, depth) in routes.iter().zip(depths) {
                    add_scaled(&mut moved, &before[route.from as usize], depth);
                }
                let moved: &Halves = bytemuck::cast_ref(&moved);
                repeat(state, ramp, &form, &mut rest[0], |frame, half| {
                    moved[frame][half]
                });
            }
        }
    }

    /// A unit that others move in more ways than its phase, or that is more than a wave.
    #[inline(never)]
    fn straight_mixed(&mut self, group: usize, u: usize, shelf: &Shelf) {
        let (mut amplitude, slope) = self.amplitudes(group, u);
        for frame in 0..BLOCK {
            self.signals[u][frame] = self.sample(group, u, frame, amplitude, shelf);
            amplitude += slope;
        }
    }

    /// Units in a loop: sample by sample. Sources that come later are heard one sample late, as the mean of
    /// their last two samples, which keeps strong feedback from flipping every sample.
    #[inline(never)]
    fn together(&mut self, group: usize, first: usize, size: usize, shelf: &Shelf) {
        let mut ramps = [(f32x8::ZERO, f32x8::ZERO); MAX_UNITS];
        for (u, ramp) in ramps.iter_mut().enumerate().skip(first).take(size) {
            *ramp = self.amplitudes(group, u);
        }
        for frame in 0..BLOCK {
            for (u, ramp) in ramps.iter_mut().enumerate().skip(first).take(size) {
                self.signals[u][frame] = self.sample(group, u, frame, ramp.0, shelf);
                ramp.0 += ramp.1;
            }
            for u in first..first + size {
                let state = &mut self.units[group][u];
                state.last = [self.signals[u][frame], state.last[0]];
            }
        }
    }

    /// One sample of a unit with everything that moves it.
    #[inline(always)]
    fn sample(
        &mut self,
        group: usize,
        u: usize,
        frame: usize,
        amplitude: Lanes,
        shelf: &Shelf,
    ) -> Lanes {
        let moves = self.moves(group, u, frame);
        let ceiling = f32x8::splat(CEILING);
        let y = match self.program.units[u].kind {
            kind::NOISE => {
                let kept = &mut self.kept[group * MAX_UNITS + u];
                kept.noise.next(&self.colours[u]) * amplitude
            }
            kind::SAMPLE => match shelf.recording(self.banks[u]) {
                Some(recording) => {
                    let kept = &mut self.kept[group * MAX_UNITS + u];
                    kept.player
                        .next(recording, moves.turns, moves.bend, amplitude)
                }
                None => f32x8::ZERO,
            },
            kind::FILTER => self.filtered(group, u, frame, &moves),
            kind::SHAPER => {
                let unit = &self.program.units[u];
                let x = moves.audio.min(ceiling).max(-ceiling);
                let kept = &mut self.kept[group * MAX_UNITS + u];
                let gate = f32x8::splat(self.gates[u].now + self.gates[u].slope() * frame as f32);
                kept.filter.shape(unit, frame, x, amplitude) * gate
            }
            _ => return self.oscillation(group, u, frame, amplitude, &moves, shelf),
        };
        (y * moves.factor).min(ceiling).max(-ceiling)
    }

    fn filtered(&mut self, group: usize, u: usize, frame: usize, moves: &Moves) -> Lanes {
        let unit = &self.program.units[u];
        let ceiling = f32x8::splat(CEILING);
        let x = moves.audio.min(ceiling).max(-ceiling);
        let line = match unit.is_comb() {
            true => self.lines.line(self.line_of[u], group),
            false => None,
        };
        let gate = f32x8::splat(self.gates[u].now + self.gates[u].slope() * frame as f32);
        if unit.is_comb() && line.is_none() {
            return x * gate;
        }
        let bend = (unit.mixed & MOVES_CUTOFF != 0).then_some(moves.bend);
        let kept = &mut self.kept[group * MAX_UNITS + u];
        kept.filter.next(unit, frame, x, bend, line) * gate
    }

    /// One sample of an operator.
    #[inline(always)]
    fn oscillation(
        &mut self,
        group: usize,
        u: usize,
        frame: usize,
        amplitude: Lanes,
        moves: &Moves,
        shelf: &Shelf,
    ) -> Lanes {
        let unit = &self.program.units[u];
        let state = &mut self.units[group][u];
        let place = &self.values[u][value::PLACE];
        let is_pulse = unit.is_pulse != 0;
        let form = || Form::new(shelf.get(self.banks[u]), is_pulse, state.waves, place);
        let turns: Lanes = phase_turns(state.phase) + moves.turns;
        let halves: [f32x4; 2] = bytemuck::cast(turns);
        let bending = self.bending[u];
        let partials = &mut self.partials[u];
        let wave: Lanes = if partials.on {
            let (spacing, shift) = (
                &self.values[u][value::SPACING],
                &self.values[u][value::SHIFT],
            );
            let between =
                phase_turns(partials.between[group]) + moves.turns * f32x8::splat(spacing.now);
            let first = turns + moves.turns * f32x8::splat(shift.now);
            let rooms: [f32x4; 2] = bytemuck::cast(f32x8::new(self.rooms[group * MAX_UNITS + u]));
            let (first, between): ([f32x4; 2], [f32x4; 2]) =
                (bytemuck::cast(first), bytemuck::cast(between));
            let steps = &mut self.between_steps[group * MAX_UNITS + u];
            let wave = std::array::from_fn::<f32x4, 2, _>(|h| {
                partials.at(first[h], between[h], rooms[h], spacing.now)
            });
            partials.between[group] += steps.0 + bent(steps.0, moves.bend);
            // the phase is that of the first partial, which a shift moves on by itself
            state.phase += steps.1 + bent(steps.1, moves.bend);
            bytemuck::cast(wave)
        } else {
            let bent = &self.bents[group * MAX_UNITS + u];
            let wave: [f32x4; 2] = match bent.as_ref().filter(|_| bending) {
                None => {
                    let form = form();
                    [form.at(halves[0], frame, 0), form.at(halves[1], frame, 1)]
                }
                Some(bent) => {
                    let form = form();
                    std::array::from_fn(|h| bent.at(halves[h], h, |t| form.at(t, frame, h)))
                }
            };
            bytemuck::cast(wave)
        };
        state.phase += state.step;
        if unit.mixed == 0 {
            return wave * amplitude;
        }
        state.phase += bent(state.step, moves.bend);
        let ceiling = f32x8::splat(CEILING);
        (wave * amplitude * moves.factor).min(ceiling).max(-ceiling)
    }

    /// What a unit's sources do to it in one frame.
    #[inline(always)]
    fn moves(&self, group: usize, u: usize, frame: usize) -> Moves {
        let unit = &self.program.units[u];
        let range = unit.first_route as usize..(unit.first_route + unit.routes) as usize;
        let mut moves = Moves::NONE;
        let mut swell = f32x8::ONE;
        for (route, depth) in self.program.routes[range.clone()]
            .iter()
            .zip(&self.depths[range])
        {
            let d = f32x8::splat(depth.now + depth.slope() * frame as f32);
            let source = self.source(group, route, frame);
            match route.kind {
                RING => moves.factor *= f32x8::ONE + (source - f32x8::ONE) * d,
                AMPLITUDE => swell += source * d,
                FREQUENCY => moves.bend += source * d,
                AUDIO => moves.audio += source * d,
                _ => moves.turns += source * d,
            }
        }
        moves.factor *= swell;
        moves
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

const RING: u32 = RouteKind::Ring as u32;
const AMPLITUDE: u32 = RouteKind::Amplitude as u32;
const FREQUENCY: u32 = RouteKind::Frequency as u32;
const AUDIO: u32 = RouteKind::Audio as u32;

/// What sources do to a unit in one frame.
struct Moves {
    /// Moves its phase.
    turns: Lanes,
    /// Moves its frequency, as a multiple of its own.
    bend: Lanes,
    /// Multiplies what it puts out.
    factor: Lanes,
    /// What goes into it.
    audio: Lanes,
}

impl Moves {
    const NONE: Moves = Moves {
        turns: f32x8::ZERO,
        bend: f32x8::ZERO,
        factor: f32x8::ONE,
        audio: f32x8::ZERO,
    };
}

/// The change of a phase by a frequency that is moved: `step * bend`, wrapped to a turn. Through zero and backwards
/// where `bend` falls below -1.
#[inline(always)]
fn bent(step: i32x8, bend: Lanes) -> i32x8 {
    const TURN: f32 = 4_294_967_296.0;
    // the largest float below half a turn, so that the whole number never overflows
    const MOST: f32 = 2_147_483_520.0;
    let turns = f32x8::from_i32x8(step) * f32x8::splat(1.0 / TURN) * bend;
    let round = f32x8::splat(super::sine::ROUND);
    let part = turns - ((turns + round) - round);
    let phase = (part * f32x8::splat(TURN))
        .min(f32x8::splat(MOST))
        .max(f32x8::splat(-MOST));
    i32x8::new(phase.to_array().map(|p| p as i32))
}

/// One block of a form, by the loop made for it.
#[inline(always)]
fn repeat(
    state: &mut UnitState,
    ramp: Ramp,
    form: &Form,
    out: &mut Block,
    moved: impl Fn(usize, usize) -> f32x4,
) {
    match form {
        Form::Sine => run(state, ramp, out, moved, |turns, _, _| {
            half_sine_turns(turns)
        }),
        Form::Table(reader) => run(state, ramp, out, moved, |turns, frame, half| {
            reader.table(turns, frame, half)
        }),
        Form::Pulse(reader) => run(state, ramp, out, moved, |turns, frame, half| {
            reader.pulse(turns, frame, half)
        }),
    }
}

/// One block of an oscillator whose phase is moved, in turns, by `moved(frame, half)`.
#[inline(always)]
fn run(
    state: &mut UnitState,
    ramp: Ramp,
    out: &mut Block,
    moved: impl Fn(usize, usize) -> f32x4,
    wave: impl Fn(f32x4, usize, usize) -> f32x4,
) {
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
            let turns = half_phase_turns(phase) + moved(frame, half);
            out[half] = wave(turns, frame, half) * amplitude;
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
