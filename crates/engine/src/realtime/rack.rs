//! Where the ways out come together: two chains of effects, a common one after both, and the clean way past all.
//!
//! Effects have names (their numbers), so that they keep what they have heard while the patch around them is changed. One that comes, goes
//! or is put elsewhere fades within 20 ms; parallel ways wait for the latest of them.

use zolvik_effects::tools::gain;
use zolvik_effects::tools::line::Line;
use zolvik_effects::{Process, Value, make};
use zolvik_patch::document::EffectId;
use zolvik_patch::finish::effect::MAX_EFFECT_PARAMS;
use zolvik_patch::finish::{CHAINS, Effect, EffectName, MAX_CHAIN_EFFECTS, MAX_EFFECTS};

use super::decimate::Decimator;
use super::values::Values;
use crate::program::Program;
use crate::program::rack::EffectProgram;
use crate::{BLOCK, BUSES, SILENT_WAY};

/// Both channels of one block at the rate that leaves.
pub(crate) type Stereo = [[f32; BLOCK]; 2];

/// Effects there is room for: those of a program, and as many that fade out.
const SLOTS: usize = 2 * MAX_EFFECTS;
/// Effects in a chain, those that fade out included.
const CHAIN_SLOTS: usize = 2 * MAX_CHAIN_EFFECTS;
/// Time in which an effect comes in or goes out.
const FADE_S: f64 = 0.02;
/// Time in which what is left of a change that jumps is gone.
const REST_S: f64 = 0.01;
/// Time in which what has sounded out is faded.
const END_S: f64 = 0.05;
/// Time in which the beat's kick falls to a third.
const KICK_S: f64 = 0.06;
/// Longest time a way waits for another.
const WAIT_S: f64 = 0.25;
/// Share of an effect from which on the sound as it came has the effect's phases.
const PHASED: f32 = 0.05;

/// Sums the ways out that are taken, in their order.
fn sum(taken: impl Iterator<Item = usize>, ways: &[Stereo; BUSES]) -> Stereo {
    let mut all = [[0.0; BLOCK]; 2];
    let mut begun = false;
    for way in taken.map(|bus| &ways[bus]) {
        if !begun {
            all = *way;
            begun = true;
            continue;
        }
        add(&mut all, way);
    }
    all
}

fn add(to: &mut Stereo, way: &Stereo) {
    for (sum, channel) in to.iter_mut().zip(way) {
        sum.iter_mut().zip(channel).for_each(|(s, x)| *s += x);
    }
}

fn scale(way: &mut Stereo, by: Value) {
    if by.now == 1.0 && by.next == 1.0 {
        return;
    }
    for channel in way {
        for (frame, x) in channel.iter_mut().enumerate() {
            *x *= by.at(frame);
        }
    }
}

fn is_silent(way: &Stereo) -> bool {
    way.iter().flatten().all(|x| *x == 0.0)
}

/// Brings both channels of a way out down to the rate that leaves.
pub(crate) fn bring_down(
    decimators: &mut [Decimator; 2],
    fine: &mut [[f32; BLOCK * super::decimate::MAX_OVERSAMPLING]; 2],
    oversampling: usize,
) -> Stereo {
    let mut coarse = [[0.0; BLOCK]; 2];
    for channel in 0..2 {
        decimators[channel].run(&mut fine[channel], oversampling);
        coarse[channel].copy_from_slice(&fine[channel][..BLOCK]);
    }
    coarse
}

/// How loud a sound is before an effect and after it, in a block.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct EffectMeter {
    /// Mean square of both channels.
    pub before: f32,
    /// Highest of both channels.
    pub peak_before: f32,
    /// Mean square of both channels.
    pub after: f32,
    /// Highest of both channels.
    pub peak_after: f32,
    /// By how much it makes the sound softer or louder, in decibels; 0 where it is no matter of level.
    pub gain_db: f32,
}

fn heard(way: &Stereo) -> (f32, f32) {
    let power: f32 = way.iter().flatten().map(|x| x * x).sum();
    let peak = way.iter().flatten().fold(0.0f32, |a, x| a.max(x.abs()));
    (power / (2 * BLOCK) as f32, peak)
}

/// Lets a way wait by frames; another number of them is faded to.
struct Wait {
    lines: [Line; 2],
    frames: usize,
    from: usize,
    share: f32,
}

impl Wait {
    fn new(rate_hz: f64) -> Self {
        let line = Line::new((WAIT_S * rate_hz) as usize);
        Wait {
            lines: [line.clone(), line],
            frames: 0,
            from: 0,
            share: 1.0,
        }
    }

    fn run(&mut self, way: &mut Stereo, frames: usize, at_once: bool, step: f32) {
        let frames = frames.min(self.lines[0].longest());
        if at_once {
            (self.frames, self.share) = (frames, 1.0);
        } else if self.share >= 1.0 && frames != self.frames {
            (self.from, self.frames, self.share) = (self.frames, frames, 0.0);
        }
        let begun = self.share;
        for (line, channel) in self.lines.iter_mut().zip(way) {
            let mut share = begun;
            for x in channel {
                line.push(*x);
                *x = line.back(self.frames);
                if share < 1.0 {
                    share += step;
                    let old = line.back(self.from);
                    *x = old + (*x - old) * share.min(1.0);
                }
            }
        }
        self.share = (begun + step * BLOCK as f32).min(1.0);
    }

    fn clear(&mut self) {
        self.lines.iter_mut().for_each(Line::clear);
    }
}

/// One effect.
struct Slot {
    id: u32,
    kind: u32,
    node: Option<Box<dyn Process>>,
    /// Where in the program it is; none if it is on its way out.
    at: Option<usize>,
    /// How far it is in, 0 to 1, and where that goes.
    fade: f32,
    in_place: bool,
    /// Its values at the end of the last block, and what is left of jumps.
    last: [f32; MAX_EFFECT_PARAMS],
    rest: [f32; MAX_EFFECT_PARAMS],
    begun: bool,
    dry: [Line; 2],
    latency: usize,
    meter: EffectMeter,
    rate_hz: f64,
}

/// The chains, and all they have heard.
pub(crate) struct Rack {
    slots: Vec<Slot>,
    /// Slots in the order they are heard, chain by chain.
    order: [[u8; CHAIN_SLOTS]; CHAINS],
    counts: [usize; CHAINS],
    /// The order there is to be.
    goal: [[u8; CHAIN_SLOTS]; CHAINS],
    goal_counts: [usize; CHAINS],
    settled: bool,
    /// Of chains and the clean way.
    gates: [f32; CHAINS + 1],
    levels: [[f32; 2]; CHAINS],
    waits: Vec<Wait>,
    /// Frames for which something may still be heard.
    awake: usize,
    jumps: bool,
    kick: f32,
    kick_at: Option<(usize, f32)>,
    key_hz: f32,
    trim: f32,
    tap: Option<u32>,
    tapped: [Stereo; 2],
    rate_hz: f64,
}

/// What a block is computed with.
pub(crate) struct Moment<'a> {
    pub(crate) program: &'a Program,
    pub(crate) values: &'a Values,
    pub(crate) beats: f64,
    /// Frequency of the newest note, if one sounds.
    pub(crate) key_hz: Option<f64>,
    /// The output's gain at the end of the block.
    pub(crate) trim: f32,
}

impl Rack {
    pub(crate) fn new(rate_hz: f64) -> Self {
        Rack {
            slots: vec![],
            order: [[0; CHAIN_SLOTS]; CHAINS],
            counts: [0; CHAINS],
            goal: [[0; CHAIN_SLOTS]; CHAINS],
            goal_counts: [0; CHAINS],
            settled: true,
            gates: [1.0; CHAINS + 1],
            levels: [[0.0; 2]; CHAINS],
            waits: vec![],
            awake: 0,
            jumps: true,
            kick: 0.0,
            kick_at: None,
            key_hz: 261.63,
            trim: 1.0,
            tap: None,
            tapped: [SILENT_WAY; 2],
            rate_hz,
        }
    }

    /// Makes the effects of a program that are not there yet, and lets go of those that are heard no more. Not for the audio path.
    pub(crate) fn make_room(&mut self, program: &Program) {
        if self.slots.is_empty() && program.rack.plain != 0 {
            return;
        }
        if self.waits.is_empty() {
            self.waits = (0..4).map(|_| Wait::new(self.rate_hz)).collect();
        }
        let heard: Vec<bool> = (0..self.slots.len()).map(|s| self.is_heard(s)).collect();
        let wanted = |slot: &Slot| {
            let effects = program.rack.effects().iter();
            effects
                .clone()
                .any(|e| (e.id, e.kind) == (slot.id, slot.kind))
        };
        for (slot, heard) in self.slots.iter_mut().zip(&heard) {
            if !heard && !wanted(slot) {
                slot.node = None;
            }
        }
        for effect in program.rack.effects() {
            let same = |s: &Slot| s.node.is_some() && (s.id, s.kind) == (effect.id, effect.kind);
            if self.slots.iter().any(same) {
                continue;
            }
            let made = Slot::new(effect, self.rate_hz);
            match self.slots.iter().position(|s| s.node.is_none()) {
                Some(free) => self.slots[free] = made,
                None if self.slots.len() < SLOTS => self.slots.push(made),
                None => {}
            }
        }
    }

    fn is_heard(&self, slot: usize) -> bool {
        let all = self.order.iter().zip(self.counts);
        all.into_iter()
            .any(|(order, count)| order[..count].iter().any(|s| usize::from(*s) == slot))
    }

    /// Takes up the chains of a program, whose effects must have been made.
    pub(crate) fn install(&mut self, program: &Program) {
        for slot in &mut self.slots {
            slot.at = None;
        }
        self.goal_counts = [0; CHAINS];
        let mut at = 0;
        for chain in 0..CHAINS {
            for effect in program.rack.chain(chain) {
                let same =
                    |s: &Slot| s.node.is_some() && (s.id, s.kind) == (effect.id, effect.kind);
                if let Some(slot) = self.slots.iter().position(same) {
                    self.slots[slot].at = Some(at);
                    self.goal[chain][self.goal_counts[chain]] = slot as u8;
                    self.goal_counts[chain] += 1;
                }
                at += 1;
            }
        }
        for slot in &mut self.slots {
            slot.in_place = false;
        }
        for chain in 0..CHAINS {
            self.keep_longest_row(chain);
        }
        self.settled = false;
        if self.awake == 0 {
            // nothing sounds: all is as it is to be at once
            self.adopt();
            for slot in &mut self.slots {
                let on = slot.at.map(|at| program.rack.effects[at].on != 0);
                slot.fade = f32::from(u8::from(on == Some(true)));
                slot.begun = false;
            }
            self.jumps = true;
        }
    }

    /// Marks the effects of a chain that need not move: the longest row that both orders have (Wagner and Fischer, "The String-to-String
    /// Correction Problem", 1974).
    fn keep_longest_row(&mut self, chain: usize) {
        let (a, b) = (
            &self.order[chain][..self.counts[chain]],
            &self.goal[chain][..self.goal_counts[chain]],
        );
        let mut table = [[0u8; CHAIN_SLOTS + 1]; CHAIN_SLOTS + 1];
        for i in (0..a.len()).rev() {
            for j in (0..b.len()).rev() {
                table[i][j] = match a[i] == b[j] {
                    true => table[i + 1][j + 1] + 1,
                    false => table[i + 1][j].max(table[i][j + 1]),
                };
            }
        }
        let (mut i, mut j) = (0, 0);
        while i < a.len() && j < b.len() {
            if a[i] == b[j] {
                self.slots[usize::from(a[i])].in_place = true;
                (i, j) = (i + 1, j + 1);
            } else if table[i + 1][j] >= table[i][j + 1] {
                i += 1;
            } else {
                j += 1;
            }
        }
    }

    fn adopt(&mut self) {
        self.order = self.goal;
        self.counts = self.goal_counts;
        self.settled = true;
        for chain in 0..CHAINS {
            for slot in &self.order[chain][..self.counts[chain]] {
                self.slots[usize::from(*slot)].in_place = true;
            }
        }
    }

    /// A kick of the beat falls on a frame of the block that comes next, or on one after it.
    pub(crate) fn kick(&mut self, frame: usize, level: f32) {
        self.kick_at = Some((frame, level));
    }

    /// Lets the sound before and after an effect be looked at.
    pub(crate) fn tap(&mut self, effect: Option<EffectId>) {
        self.tap = effect.map(|id| id.0.into());
    }

    /// The last block before and after the effect that is looked at.
    pub(crate) fn tapped(&self) -> &[Stereo; 2] {
        &self.tapped
    }

    /// How loud it is before and after each effect of a program.
    pub(crate) fn meters(&self, program: &Program, into: &mut [EffectMeter]) {
        for (effect, into) in program.rack.effects().iter().zip(into) {
            let same = |s: &&Slot| s.node.is_some() && (s.id, s.kind) == (effect.id, effect.kind);
            *into = self
                .slots
                .iter()
                .find(same)
                .map_or(EffectMeter::default(), |s| s.meter);
        }
    }

    /// How late what leaves is because of the effects, in frames.
    pub(crate) fn latency_frames(&self, program: &Program) -> usize {
        if program.rack.plain != 0 {
            return 0;
        }
        let own = |chain: usize| -> usize {
            let list = program.rack.chain(chain).iter();
            list.map(|effect| {
                let same =
                    |s: &&Slot| s.node.is_some() && (s.id, s.kind) == (effect.id, effect.kind);
                self.slots
                    .iter()
                    .find(same)
                    .map_or(0, |s| s.latency_of(program, effect))
            })
            .sum()
        };
        let [first, second, common] = [own(0), own(1), own(2)];
        match sends(program) {
            true => first + second + common,
            false => first.max(second) + common,
        }
    }

    /// Falls silent, and forgets.
    pub(crate) fn silence(&mut self) {
        self.awake = self.awake.min((END_S * self.rate_hz) as usize);
    }

    /// Lets a block of all ways out go through.
    ///
    /// # Real time
    /// No allocation, no lock, no panic.
    pub(crate) fn run(
        &mut self,
        ways: &[Stereo; BUSES],
        taken: impl Iterator<Item = usize>,
        moment: &Moment<'_>,
    ) -> Stereo {
        let rack = &moment.program.rack;
        let trim = Value {
            now: if self.jumps { moment.trim } else { self.trim },
            next: moment.trim,
        };
        self.trim = moment.trim;
        if let Some(hz) = moment.key_hz {
            self.key_hz = hz as f32;
        }
        let kick = self.kicked();
        if rack.plain != 0 && self.counts == [0; CHAINS] {
            self.jumps = false;
            self.gates = [1.0; CHAINS + 1];
            return sum(taken, ways);
        }
        let came = ways.iter().any(|way| !is_silent(way));
        let tail = (f64::from(rack.tail_s) * self.rate_hz) as usize;
        let end = (END_S * self.rate_hz) as usize;
        if came {
            self.awake = tail + end;
        } else if self.awake == 0 {
            return SILENT_WAY;
        }
        let step = (BLOCK as f64 / (FADE_S * self.rate_hz)) as f32;
        self.settle();
        let mut gates = [Value::default(); CHAINS + 1];
        for (at, gate) in gates.iter_mut().enumerate() {
            let on = match at {
                CHAINS => rack.clean != 0,
                at => rack.chains[at].on != 0,
            };
            let goal = f32::from(u8::from(on));
            let now = if self.jumps { goal } else { self.gates[at] };
            let next = now + (goal - now).clamp(-2.0 * step, 2.0 * step);
            *gate = Value { now, next };
            self.gates[at] = next;
        }
        let mut levels = [[Value::default(); 2]; CHAINS];
        for (chain, levels) in levels.iter_mut().enumerate() {
            for (n, level) in levels.iter_mut().enumerate() {
                let at = rack.chains[chain].level as usize + n;
                let db = moment.values.at(at).next;
                let next = if db <= -60.0 { 0.0 } else { gain(db) };
                let now = if self.jumps {
                    next
                } else {
                    self.levels[chain][n]
                };
                *level = Value { now, next };
                self.levels[chain][n] = next;
            }
        }
        let latency = [0, 1, 2].map(|chain| self.latency_of_chain(chain));
        let sends = sends(moment.program);
        let (wait_second, before_common) = match sends {
            true => (latency[0], latency[0] + latency[1]),
            false => (0, latency[0].max(latency[1])),
        };
        let [mut first, mut second, mut clean] = *ways;
        let jumps = self.jumps;
        let wait = (1.0 / (FADE_S * self.rate_hz)) as f32;
        self.run_chain(0, &mut first, moment, &kick, step);
        scale(&mut first, gates[0]);
        self.waits[0].run(&mut second, wait_second, jumps, wait);
        let mut sent = first;
        scale(&mut sent, levels[0][1]);
        if sends {
            add(&mut second, &sent);
        }
        self.run_chain(1, &mut second, moment, &kick, step);
        scale(&mut second, gates[1]);
        let late = before_common - latency[0];
        self.waits[1].run(&mut first, late, jumps, wait);
        let late = before_common - wait_second - latency[1];
        self.waits[2].run(&mut second, late, jumps, wait);
        scale(&mut first, levels[0][0]);
        scale(&mut second, levels[1][0]);
        add(&mut first, &second);
        self.run_chain(2, &mut first, moment, &kick, step);
        scale(&mut first, gates[2]);
        scale(&mut first, levels[2][0]);
        self.waits[3].run(&mut clean, before_common + latency[2], jumps, wait);
        scale(&mut clean, gates[3]);
        add(&mut first, &clean);
        if rack.plain == 0 {
            scale(&mut first, trim);
        }
        self.jumps = false;
        if !came {
            self.sound_out(&mut first, end);
        }
        // what is no number, or beyond all measure, goes no further
        for x in first.iter_mut().flatten() {
            if !x.is_finite() {
                *x = 0.0;
            }
        }
        first
    }

    /// The kick's level over the block.
    fn kicked(&mut self) -> [f32; BLOCK] {
        let mut all = [0.0; BLOCK];
        let struck = self.kick_at;
        if self.kick < 1e-6 && struck.is_none() {
            self.kick = 0.0;
            return all;
        }
        let fall = libm::exp(-1.0 / (KICK_S * self.rate_hz)) as f32;
        for (frame, level) in all.iter_mut().enumerate() {
            if let Some((at, loud)) = struck
                && at == frame
            {
                self.kick = self.kick.max(loud);
            }
            *level = self.kick;
            self.kick *= fall;
        }
        self.kick_at = struck
            .filter(|(at, _)| *at >= BLOCK)
            .map(|(at, loud)| (at - BLOCK, loud));
        all
    }

    /// Puts effects where they are to be, once all that go or move are faded out.
    fn settle(&mut self) {
        if self.settled {
            return;
        }
        let waits = (0..CHAINS).any(|chain| {
            let order = &self.order[chain][..self.counts[chain]];
            order.iter().any(|slot| {
                let slot = &self.slots[usize::from(*slot)];
                !slot.in_place && slot.fade > 0.0
            })
        });
        if !waits {
            for chain in 0..CHAINS {
                for i in 0..self.counts[chain] {
                    let slot = &mut self.slots[usize::from(self.order[chain][i])];
                    if slot.at.is_none() {
                        slot.forget();
                    }
                }
            }
            self.adopt();
        }
    }

    fn latency_of_chain(&self, chain: usize) -> usize {
        let order = self.order[chain][..self.counts[chain]].iter();
        order
            .map(|slot| self.slots[usize::from(*slot)].latency)
            .sum()
    }

    fn run_chain(
        &mut self,
        chain: usize,
        way: &mut Stereo,
        moment: &Moment<'_>,
        kick: &[f32; BLOCK],
        step: f32,
    ) {
        let rest = libm::exp(-(BLOCK as f64) / (REST_S * self.rate_hz)) as f32;
        for i in 0..self.counts[chain] {
            let slot = &mut self.slots[usize::from(self.order[chain][i])];
            let looked_at = self.tap == Some(slot.id);
            if looked_at {
                self.tapped[0] = *way;
            }
            let frame = Frame {
                moment,
                kick,
                step,
                rest,
                key_hz: self.key_hz,
                rate_hz: self.rate_hz,
            };
            slot.run(way, &frame);
            if looked_at {
                self.tapped[1] = *way;
            }
        }
    }

    /// Fades what has gone on for as long as it may.
    fn sound_out(&mut self, way: &mut Stereo, end: usize) {
        for frame in 0..BLOCK {
            let left = self.awake.saturating_sub(frame);
            if left < end {
                let share = left as f32 / end as f32;
                way[0][frame] *= share;
                way[1][frame] *= share;
            }
        }
        self.awake = self.awake.saturating_sub(BLOCK);
        if self.awake == 0 {
            self.slots.iter_mut().for_each(Slot::forget);
            self.waits.iter_mut().for_each(Wait::clear);
            if !self.settled {
                self.adopt();
            }
            self.jumps = true;
        }
    }
}

/// Whether the first chain is heard in the second one too.
fn sends(program: &Program) -> bool {
    let at = program.rack.chains[0].level as usize + 1;
    program
        .params()
        .get(at)
        .is_some_and(|p| p.value > -60.0 || p.shared != crate::program::params::NO_SLOT)
}

/// What an effect is computed with.
struct Frame<'a> {
    moment: &'a Moment<'a>,
    kick: &'a [f32; BLOCK],
    step: f32,
    rest: f32,
    key_hz: f32,
    rate_hz: f64,
}

impl Slot {
    fn new(effect: &EffectProgram, rate_hz: f64) -> Self {
        let kind = effect.name();
        let line = Line::new(if late(kind) {
            (0.02 * rate_hz) as usize + 128
        } else {
            0
        });
        Slot {
            id: effect.id,
            kind: effect.kind,
            node: Some(make(kind, rate_hz)),
            at: None,
            fade: 0.0,
            in_place: false,
            last: [0.0; MAX_EFFECT_PARAMS],
            rest: [0.0; MAX_EFFECT_PARAMS],
            begun: false,
            dry: [line.clone(), line],
            latency: 0,
            meter: EffectMeter::default(),
            rate_hz,
        }
    }

    fn forget(&mut self) {
        if let Some(node) = &mut self.node {
            node.clear();
        }
        self.dry.iter_mut().for_each(Line::clear);
        self.begun = false;
        self.meter = EffectMeter::default();
    }

    /// How late it is as it is set in a program.
    fn latency_of(&self, program: &Program, effect: &EffectProgram) -> usize {
        let first = effect.first_param as usize;
        let all = &program.params[first..first + effect.params as usize];
        let mut values = [Value::default(); MAX_EFFECT_PARAMS];
        for (to, param) in values.iter_mut().zip(all) {
            *to = Value::still(param.value.into());
        }
        let points = effect.drawn();
        let mut set = effect.setting(&values, &points);
        set.rate_hz = self.rate_hz;
        self.node.as_ref().map_or(0, |n| n.latency_frames(&set))
    }

    fn run(&mut self, way: &mut Stereo, frame: &Frame<'_>) {
        let (power, peak) = heard(way);
        (self.meter.before, self.meter.peak_before) = (power, peak);
        (self.meter.after, self.meter.peak_after) = (power, peak);
        self.meter.gain_db = 0.0;
        let program = frame.moment.program;
        let effect = self.at.and_then(|at| program.rack.effects().get(at));
        let wanted = effect.is_some_and(|e| e.on != 0) && self.in_place;
        let goal = f32::from(u8::from(wanted));
        let fade = Value {
            now: self.fade,
            next: self.fade + (goal - self.fade).clamp(-frame.step, frame.step),
        };
        self.fade = fade.next;
        let mut values = [Value::default(); MAX_EFFECT_PARAMS];
        if let Some(effect) = effect {
            for n in 0..(effect.params as usize).min(MAX_EFFECT_PARAMS) {
                let plain = frame.moment.values.at(effect.first_param as usize + n).next;
                if !self.begun {
                    (self.last[n], self.rest[n]) = (plain, 0.0);
                }
                self.rest[n] *= frame.rest;
                let next = plain + self.rest[n];
                values[n] = Value {
                    now: self.last[n],
                    next,
                };
                self.last[n] = next;
            }
            self.begun = true;
        } else {
            for (to, last) in values.iter_mut().zip(self.last) {
                *to = Value {
                    now: last,
                    next: last,
                };
            }
        }
        let Some(node) = &mut self.node else { return };
        let still: EffectProgram = bytemuck::Zeroable::zeroed();
        let points = effect.unwrap_or(&still).drawn();
        let mut set = effect.unwrap_or(&still).setting(&values, &points);
        let count = effect.map_or(0, |e| e.point_count as usize);
        set.points = &points[..count];
        set.rate_hz = frame.rate_hz;
        set.tempo_bpm = program.tempo_bpm;
        set.beats = frame.moment.beats;
        set.key_hz = frame.key_hz;
        set.kick = frame.kick;
        if effect.is_some() {
            self.latency = node.latency_frames(&set);
        }
        let mut dry = *way;
        if self.latency > 0 {
            for (line, channel) in self.dry.iter_mut().zip(&mut dry) {
                for x in channel {
                    line.push(*x);
                    *x = line.back(self.latency);
                }
            }
        }
        if fade.now == 0.0 && fade.next == 0.0 {
            if self.begun {
                node.clear();
                self.begun = false;
            }
            *way = dry;
            return;
        }
        let [mix, into, out] = [Effect::MIX, Effect::IN_DB, Effect::OUT_DB].map(|id| set.value(id));
        let mut wet = *way;
        scale(&mut wet, into.map(gain));
        node.run(&mut wet, &set);
        scale(&mut wet, out.map(gain));
        let mix = Value {
            now: mix.now * fade.now,
            next: mix.next * fade.next,
        };
        if let Some(phased) = node.phased() {
            for channel in 0..2 {
                for n in 0..BLOCK {
                    let share = (mix.at(n) / PHASED).min(1.0);
                    dry[channel][n] += (phased[channel][n] - dry[channel][n]) * share;
                }
            }
        }
        if mix.now == 1.0 && mix.next == 1.0 {
            *way = wet;
        } else if mix.now == 0.0 && mix.next == 0.0 {
            *way = dry;
        } else {
            for channel in 0..2 {
                for n in 0..BLOCK {
                    let (d, w) = (dry[channel][n], wet[channel][n]);
                    way[channel][n] = d + (w - d) * mix.at(n);
                }
            }
        }
        (self.meter.after, self.meter.peak_after) = heard(way);
        self.meter.gain_db = node.gain_db().unwrap_or(0.0);
    }
}

/// Whether an effect of a kind may be late.
fn late(kind: EffectName) -> bool {
    matches!(
        kind,
        EffectName::Drive | EffectName::Compressor | EffectName::Limiter
    )
}

/// Keeps what was where it was when the places of values change, and lets the rest of the jump die away.
impl Rack {
    pub(crate) fn jumped(&mut self, values: &Values, program: &Program) {
        for slot in &mut self.slots {
            let Some(effect) = slot.at.and_then(|at| program.rack.effects().get(at)) else {
                continue;
            };
            if !slot.begun {
                continue;
            }
            for n in 0..(effect.params as usize).min(MAX_EFFECT_PARAMS) {
                let there = values.at(effect.first_param as usize + n).next;
                slot.rest[n] = slot.last[n] - there;
            }
        }
    }
}
