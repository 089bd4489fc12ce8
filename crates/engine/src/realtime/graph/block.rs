//! The computing of one block: units in their order, what moves them, and the sums of the ways out.

use wide::{f32x4, f32x8};
use zolvik_patch::document::{MAX_UNITS, RouteKind};

use crate::program::params::NO_SLOT;
use crate::program::{MOVES_FREQUENCY, OutProgram, RouteProgram};
use crate::realtime::graph::{Graph, context};
use crate::realtime::modulation::smooth::Smooth;
use crate::realtime::modulation::values::LaneRamp;
use crate::realtime::nodes::operator::Ramp;
use crate::realtime::nodes::{Inputs, Node};
use crate::realtime::sine::Lanes;
use crate::realtime::tables::bank_cache::BankCache;
use crate::realtime::{Block, Buses, Halves, SILENT};
use crate::sizes::LANES;
use crate::sizes::{BLOCK, BUSES};

impl Graph {
    /// Computes one block of one set of lanes and adds it to the ways out. With one half only the lower
    /// four lanes are computed; the upper ones, where nothing may sound, are silent.
    pub(crate) fn block(
        &mut self,
        set: usize,
        halves: usize,
        buses: &mut Buses,
        bank_cache: &BankCache,
    ) {
        self.move_set(set);
        self.begin_envelopes(set);
        let mut u = 0;
        while u < self.program.unit_count() {
            let size = (self.program.units[u].component_size as usize).max(1);
            for one in u..u + size {
                self.begin_block(set, one, bank_cache);
            }
            let unit = &self.program.units[u];
            let is_more = unit.mixed != 0
                || match &self.nodes[set][u] {
                    Node::Operator(oscillator) => oscillator.is_more(&self.shared[u]),
                    _ => true,
                };
            if unit.feedback == 0 && is_more {
                self.straight_mixed(set, u, bank_cache);
            } else if unit.feedback == 0 {
                self.straight(set, u, halves, bank_cache);
            } else {
                self.together(set, u, size, bank_cache);
            }
            u += size;
        }
        let rings = self.program.rings();
        self.ringing.begin_block(set);
        for (at, out) in self.program.outs[..self.program.out_count as usize]
            .iter()
            .enumerate()
        {
            let from = out.from as usize;
            let stereo = self.program.units[from].stereo != 0;
            let signals = match stereo {
                true => [&self.signals[from], &self.right.signals[from]],
                false => [&self.signals[from]; 2],
            };
            let moved = self.moved_out(set, out);
            let apart = (self.program.voice.own_copies != 0)
                .then(|| self.strips[set][from].sides.advance(self.follow.level));
            for (side, sum) in buses[out.bus as usize % BUSES].iter_mut().enumerate() {
                let gain = &self.gains[at][side];
                match (&moved, &apart) {
                    (None, None) => add_scaled(sum, signals[side], gain),
                    (Some(gains), None) => add_ramped(sum, signals[side], &gains[side]),
                    (None, Some(sides)) => {
                        add_ramped(sum, signals[side], &sides[side].times(&LaneRamp::of(gain)));
                    }
                    (Some(gains), Some(sides)) => {
                        add_ramped(sum, signals[side], &sides[side].times(&gains[side]));
                    }
                }
                if rings && (side == 0 || stereo) {
                    let loudest = self.gains[at].iter().map(|g| g.next).fold(0.0, f32::max);
                    self.ringing.hear(set, signals[side], loudest);
                }
            }
        }
        self.ringing.end_block(set);
        self.values.begun(set);
    }

    /// Factors of both channels for each lane, where level or pan are moved.
    fn moved_out(&self, set: usize, out: &OutProgram) -> Option<[LaneRamp; 2]> {
        let slots = [out.level, out.level + 1].map(|at| self.program.params[at as usize].slot);
        if slots == [NO_SLOT; 2] {
            return None;
        }
        let ramp = |i: usize| match self.values.lanes(set, slots[i]) {
            Some(ramp) => *ramp,
            None => LaneRamp::of(self.values.at(out.level as usize + i)),
        };
        let (level, pan) = (ramp(0), ramp(1));
        let gains = |pan: Lanes, level: Lanes| {
            let pans = pan.to_array();
            let gains = |pan: f32| zolvik_patch::levels::pan_gains(pan.into());
            // most stand where they were put, in all lanes
            let sides = match pans.iter().all(|pan| *pan == pans[0]) {
                true => [gains(pans[0]); LANES],
                false => pans.map(gains),
            };
            [0, 1].map(|side| f32x8::new(sides.map(|s| s[side] as f32)) * level)
        };
        let (now, next) = (gains(pan.now, level.now), gains(pan.next, level.next));
        Some([0, 1].map(|side| LaneRamp {
            now: now[side],
            next: next[side],
        }))
    }

    /// An operator whose sources are all computed and only move its phase: the whole block at once.
    #[inline(never)]
    fn straight(&mut self, set: usize, u: usize, halves: usize, bank_cache: &BankCache) {
        let (amplitude, slope) = self.amplitudes(set, u);
        let ramp = Ramp {
            amplitude,
            slope,
            halves,
        };
        let context = context!(self, set, u, bank_cache);
        let unit = context.unit;
        let range = unit.first_route as usize..(unit.first_route + unit.routes) as usize;
        let routes = &self.program.routes[range];
        // a unit reads only units before it, so its own signal can be taken out of the way
        let (before, rest) = self.signals.split_at_mut(u);
        let out = &mut rest[0];
        let Node::Operator(oscillator) = &mut self.nodes[set][u] else {
            return;
        };
        let depth = |route: &RouteProgram| self.values.at(route.depth as usize);
        let moved = |route: &RouteProgram| {
            let slot = self.program.params[route.depth as usize].slot;
            self.values.lanes(set, slot)
        };
        match routes {
            [] => oscillator.block(&context, ramp, out, |_, _| f32x4::ZERO),
            [route] if depth(route).is_still() && moved(route).is_none() => {
                let source: &Halves = bytemuck::cast_ref(&before[route.from as usize]);
                let d = f32x4::splat(depth(route).now);
                oscillator.block(&context, ramp, out, |frame, half| source[frame][half] * d);
            }
            _ => {
                let mut turns = SILENT;
                for route in routes {
                    let source = &before[route.from as usize];
                    match moved(route) {
                        None => add_scaled(&mut turns, source, depth(route)),
                        Some(ramp) => add_ramped(&mut turns, source, ramp),
                    }
                }
                let turns: &Halves = bytemuck::cast_ref(&turns);
                oscillator.block(&context, ramp, out, |frame, half| turns[frame][half]);
            }
        }
    }

    /// A unit that others move in more ways than its phase, or that is more than a wave.
    #[inline(never)]
    fn straight_mixed(&mut self, set: usize, u: usize, bank_cache: &BankCache) {
        let (mut amplitude, slope) = self.amplitudes(set, u);
        for frame in 0..BLOCK {
            self.sample(set, u, frame, amplitude, bank_cache);
            amplitude += slope;
        }
    }

    /// Units in a loop: sample by sample. What closes a loop is heard late, see [`crate::realtime::graph::late`].
    #[inline(never)]
    fn together(&mut self, set: usize, first: usize, size: usize, bank_cache: &BankCache) {
        let mut ramps = [(f32x8::ZERO, f32x8::ZERO); MAX_UNITS];
        for (u, ramp) in ramps.iter_mut().enumerate().skip(first).take(size) {
            *ramp = self.amplitudes(set, u);
        }
        let units = &self.program.units[first..first + size];
        let wide = units.iter().any(|u| u.stereo != 0);
        for frame in 0..BLOCK {
            for (u, ramp) in ramps.iter_mut().enumerate().skip(first).take(size) {
                self.sample(set, u, frame, ramp.0, bank_cache);
                ramp.0 += ramp.1;
            }
            let range = first..first + size;
            self.late
                .keep(set, first, frame, &self.signals[range.clone()]);
            if wide {
                let right = &mut self.right;
                right.late.keep(set, first, frame, &right.signals[range]);
            }
        }
        self.late.end_block(set, first..first + size);
        self.right.late.end_block(set, first..first + size);
    }

    /// One sample of a unit with everything that moves it.
    #[inline(always)]
    fn sample(
        &mut self,
        set: usize,
        u: usize,
        frame: usize,
        amplitude: Lanes,
        bank_cache: &BankCache,
    ) {
        let mut inputs = self.inputs(set, u, frame);
        if self.program.units[u].mixed & MOVES_FREQUENCY != 0 {
            self.strips[set][u].moved.even(&mut inputs.frequency_mod);
        }
        let context = context!(self, set, u, bank_cache);
        let comb = context.unit.is_comb();
        let place = context.shared.line;
        let line = comb.then(|| self.lines.line(place, set)).flatten();
        self.signals[u][frame] =
            self.nodes[set][u].sample(frame, amplitude, &inputs, &context, line);
        if context.unit.stereo != 0 {
            let line = comb.then(|| self.lines.line(place + 1, set)).flatten();
            inputs.audio = inputs.right;
            self.right.signals[u][frame] =
                self.right.nodes[set][u].sample(frame, amplitude, &inputs, &context, line);
        }
    }

    /// What a unit's sources do to it in one frame.
    #[inline(always)]
    fn inputs(&self, set: usize, u: usize, frame: usize) -> Inputs {
        let unit = &self.program.units[u];
        let range = unit.first_route as usize..(unit.first_route + unit.routes) as usize;
        let mut inputs = Inputs::NONE;
        let mut swell = f32x8::ONE;
        for (place, route) in range.clone().zip(&self.program.routes[range]) {
            let at = route.depth as usize;
            let d = match self.program.params[at].slot {
                NO_SLOT => {
                    let depth = self.values.at(at);
                    f32x8::splat(depth.now + depth.slope() * frame as f32)
                }
                slot => self.values.lanes(set, slot).map_or(f32x8::ZERO, |ramp| {
                    ramp.now + ramp.slope() * f32x8::splat(frame as f32)
                }),
            };
            let mut source = self.source(set, route, frame);
            let from_wide = self.program.units[route.from as usize].stereo != 0;
            if unit.stereo != 0 && route.kind == AUDIO {
                let [left, right] = self.right.pan(place, frame);
                let other = match from_wide {
                    true => self.source_right(set, route, frame),
                    false => source,
                };
                inputs.audio += source * d * left;
                inputs.right += other * d * right;
                continue;
            }
            if from_wide {
                // what is moved has no sides
                let both = source + self.source_right(set, route, frame);
                source = both * f32x8::splat(0.5);
            }
            if route.from as usize == u && route.kind == PHASE {
                inputs.into_itself += d;
                inputs.itself = source;
                continue;
            }
            match route.kind {
                RING => inputs.factor *= f32x8::ONE + (source - f32x8::ONE) * d,
                AMPLITUDE => swell += source * d,
                FREQUENCY => inputs.frequency_mod += source * d,
                AUDIO => inputs.audio += source * d,
                _ => inputs.turns += source * d,
            }
        }
        inputs.factor *= swell;
        inputs
    }

    #[inline(always)]
    fn source(&self, set: usize, route: &RouteProgram, frame: usize) -> Lanes {
        let from = route.from as usize;
        if route.late == 0 {
            return self.signals[from][frame];
        }
        self.late.read(set, from, frame)
    }

    /// The right channel of a source that works in stereo.
    #[inline(always)]
    fn source_right(&self, set: usize, route: &RouteProgram, frame: usize) -> Lanes {
        let from = route.from as usize;
        match route.late {
            0 => self.right.signals[from][frame],
            _ => self.right.late.read(set, from, frame),
        }
    }

    /// Advances a unit's envelopes; gives its amplitude at the block's start and the change per frame.
    fn amplitudes(&mut self, set: usize, u: usize) -> (Lanes, Lanes) {
        let gate = self.gates[u].next;
        let courses = self.own.of_unit(&self.program.units[u], set, u);
        let strip = &mut self.strips[set][u];
        strip.envelopes.advance(courses, self.block_s);
        let value = f32x8::new(strip.envelopes.value.map(|v| v as f32));
        let (start, end) = (
            strip.amplitude,
            value * f32x8::new(strip.level) * f32x8::splat(gate),
        );
        strip.amplitude = end;
        (start, (end - start) * f32x8::splat(1.0 / BLOCK as f32))
    }
}

const PHASE: u32 = RouteKind::Phase as u32;
const RING: u32 = RouteKind::Ring as u32;
const AMPLITUDE: u32 = RouteKind::Amplitude as u32;
const FREQUENCY: u32 = RouteKind::Frequency as u32;
const AUDIO: u32 = RouteKind::Audio as u32;

/// Adds a block times a gliding factor.
#[inline(always)]
fn add_scaled(sum: &mut Block, signal: &Block, factor: &Smooth) {
    let mut f = f32x8::splat(factor.now);
    if factor.is_still() {
        sum.iter_mut()
            .zip(signal)
            .for_each(|(sum, sample)| *sum += *sample * f);
        return;
    }
    add(sum, signal, &mut f, f32x8::splat(factor.slope()));
}

/// Adds a block times a factor of each lane.
fn add_ramped(sum: &mut Block, signal: &Block, ramp: &LaneRamp) {
    add(sum, signal, &mut { ramp.now }, ramp.slope());
}

#[inline(always)]
fn add(sum: &mut Block, signal: &Block, factor: &mut Lanes, slope: Lanes) {
    for (sum, sample) in sum.iter_mut().zip(signal) {
        *sum += *sample * *factor;
        *factor += slope;
    }
}
