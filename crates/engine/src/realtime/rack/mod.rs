//! Where the ways out come together: two chains of effects, a common one after both, and the clean way past all.
//!
//! Effects have names (their numbers), so that they keep what they have heard while the patch around them is changed. One that comes, goes
//! or is put elsewhere fades within 20 ms; parallel ways wait for the latest of them.

mod hush;
mod slot;
mod wait;

use zolvik_effects::Value;
use zolvik_effects::tools::gain;
use zolvik_patch::document::EffectId;
use zolvik_patch::finish::effect::MAX_EFFECT_PARAMS;
use zolvik_patch::finish::{CHAINS, MAX_CHAIN_EFFECTS, MAX_EFFECTS};

use self::hush::Hush;
use self::slot::{Frame, Slot};
use self::wait::Wait;
use super::decimate::Decimator;
use super::values::Values;
use crate::program::Program;
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
/// Time in which all that rings is faded when it is silenced.
const HUSH_S: f64 = 0.01;
/// Time in which the beat's kick falls to a third.
const KICK_S: f64 = 0.06;
/// Longest time a way waits for another.
const WAIT_S: f64 = 0.25;

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
    fine: &mut [[f32; BLOCK * crate::realtime::decimate::MAX_OVERSAMPLING]; 2],
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
    /// What is left of being silenced.
    hush: Hush,
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
            hush: Hush::default(),
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
            self.waits = (0..4).map(|_| Wait::new(WAIT_S, self.rate_hz)).collect();
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
                let effect = slot.at.map(|at| &program.rack.effects[at]);
                slot.fade = f32::from(u8::from(effect.is_some_and(|e| e.on != 0)));
                slot.latency = effect.map_or(0, |e| slot.latency_of(program, e));
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

    /// Falls silent, and forgets: what rings, and what the notes that still sound would let ring while they fade.
    pub(crate) fn silence(&mut self, notes_sound: bool) {
        if self.awake > 0 || notes_sound {
            self.hush.begin(self.hush_frames());
        }
    }

    fn hush_frames(&self) -> usize {
        (HUSH_S * self.rate_hz) as usize / BLOCK * BLOCK + BLOCK
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
        let end = (END_S * self.rate_hz) as usize;
        if rack.plain != 0 && self.counts == [0; CHAINS] {
            self.gates = [1.0; CHAINS + 1];
            self.levels = [[1.0, 0.0]; CHAINS];
            // an effect that is put in while something sounds fades in
            let came = ways.iter().any(|way| !is_silent(way));
            self.awake = if came { end } else { 0 };
            self.jumps = !came;
            self.hush.pass();
            return sum(taken, ways);
        }
        let came = ways.iter().any(|way| !is_silent(way));
        let tail = (f64::from(rack.tail_s) * self.rate_hz) as usize;
        if came {
            self.awake = tail + self.latency_frames(moment.program) + end;
        } else if self.awake == 0 {
            self.hush.pass();
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
        let step_up = BLOCK as f32 / self.hush_frames() as f32;
        if let Some(rise) = self.hush.rise(step_up) {
            for way in [&mut first, &mut second, &mut clean] {
                scale(way, rise);
            }
        }
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
        if self.hush.left > 0 {
            self.fall_silent(&mut first, came);
        } else if !came {
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
                !slot.in_place && !slot.is_out()
            })
        });
        if !waits {
            for chain in 0..CHAINS {
                for i in 0..self.counts[chain] {
                    let slot = &mut self.slots[usize::from(self.order[chain][i])];
                    // what goes, and what begins anew elsewhere
                    if !slot.in_place {
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
                jumps: self.jumps,
            };
            slot.run(way, &frame);
            if looked_at {
                self.tapped[1] = *way;
            }
        }
    }

    /// Fades all there is, and forgets it.
    fn fall_silent(&mut self, way: &mut Stereo, came: bool) {
        scale(way, self.hush.fall());
        if self.hush.left == 0 {
            self.rest();
            if came {
                self.hush.come_up();
            }
        }
    }

    /// Forgets all it has heard.
    fn rest(&mut self) {
        self.slots.iter_mut().for_each(Slot::forget);
        self.waits.iter_mut().for_each(Wait::clear);
        if !self.settled {
            self.adopt();
        }
        (self.awake, self.jumps) = (0, true);
    }

    /// Fades what has gone on for as long as it may.
    fn sound_out(&mut self, way: &mut Stereo, end: usize) {
        for channel in way {
            for (frame, x) in channel.iter_mut().enumerate() {
                let left = self.awake.saturating_sub(frame);
                if left < end {
                    *x *= left as f32 / end as f32;
                }
            }
        }
        self.awake = self.awake.saturating_sub(BLOCK);
        if self.awake == 0 {
            self.rest();
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

impl Rack {
    /// Keeps what was where it was when the places of values change, and lets the rest of the jump die away.
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
