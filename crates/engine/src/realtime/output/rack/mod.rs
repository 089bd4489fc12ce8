//! Where the ways out come together: two chains of effects, a common one after both, and the clean way past all.
//!
//! Effects have names (their numbers), so that they keep what they have heard while the patch around them is changed. One that comes, goes
//! or is put elsewhere fades within 20 ms; parallel ways wait for the latest of them.

mod fade_out;
mod moment;
mod order;
mod placing;
mod slot;
mod stereo;
mod wait;

use zolvik_effects::Value;
use zolvik_effects::tools::gain;
use zolvik_patch::document::EffectId;
use zolvik_patch::finish::CHAINS;
use zolvik_patch::finish::effect::MAX_EFFECT_PARAMS;

use self::fade_out::FadeOut;
pub(crate) use self::moment::Moment;
use self::order::Order;
use self::slot::{Frame, Slot};
pub use self::stereo::EffectMeter;
pub(crate) use self::stereo::{Stereo, bring_down};
use self::stereo::{add, heard, is_silent, scale, sum};
use self::wait::Wait;
use crate::program::Program;
use crate::realtime::modulation::values::Values;
use crate::sizes::{BLOCK, BUSES, SILENT_WAY};

/// The lowest level of a chain and of what it sends is silence, in decibels.
const OFF_DB: f32 = -60.0;
/// Time in which an effect comes in or goes out.
const FADE_S: f64 = 0.02;
/// Time in which what is left of a change that jumps is gone.
const REST_S: f64 = 0.01;
/// Time in which what has sounded out is faded.
const END_S: f64 = 0.05;
/// Time in which all that rings is faded when it is silenced.
const FADE_OUT_S: f64 = 0.01;
/// Time in which the beat's kick falls to a third.
const KICK_S: f64 = 0.06;
/// Longest time a way waits for another.
const WAIT_S: f64 = 0.25;

/// The chains, and all they have heard.
pub(crate) struct Rack {
    slots: Vec<Slot>,
    /// In which slots are heard.
    order: Order,
    /// Of chains and the clean way.
    gates: [f32; CHAINS + 1],
    levels: [[f32; 2]; CHAINS],
    waits: Vec<Wait>,
    /// Frames for which something may still be heard.
    awake: usize,
    /// What is left of being silenced.
    fade_out: FadeOut,
    jumps: bool,
    kick: f32,
    kick_at: Option<(usize, f32)>,
    key_hz: f32,
    trim: f32,
    tap: Option<u32>,
    tapped: [Stereo; 2],
    /// What is left of a jump after a block.
    rest_share: f32,
    rate_hz: f64,
}

impl Rack {
    pub(crate) fn new(rate_hz: f64) -> Self {
        Rack {
            slots: vec![],
            order: Order::default(),
            gates: [1.0; CHAINS + 1],
            levels: [[0.0; 2]; CHAINS],
            waits: vec![],
            awake: 0,
            fade_out: FadeOut::default(),
            jumps: true,
            kick: 0.0,
            kick_at: None,
            key_hz: 261.63,
            trim: 1.0,
            tap: None,
            tapped: [SILENT_WAY; 2],
            rest_share: libm::exp(-(BLOCK as f64) / (REST_S * rate_hz)) as f32,
            rate_hz,
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
        Self::late_by(program, own)
    }

    /// How late what leaves is, if each chain is late by so much.
    fn late_by(program: &Program, of_chain: impl Fn(usize) -> usize) -> usize {
        let [first, second, common] = [0, 1, 2].map(of_chain);
        match sends(program) {
            true => first + second + common,
            false => first.max(second) + common,
        }
    }

    /// Falls silent, and forgets: what rings, and what the notes that still sound would let ring while they fade.
    pub(crate) fn silence(&mut self, notes_sound: bool) {
        if self.awake > 0 || notes_sound {
            self.fade_out.begin(self.fade_out_frames());
        }
    }

    fn fade_out_frames(&self) -> usize {
        (FADE_OUT_S * self.rate_hz) as usize / BLOCK * BLOCK + BLOCK
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
        if rack.plain != 0 && self.order.is_empty() {
            self.gates = [1.0; CHAINS + 1];
            self.levels = [[1.0, 0.0]; CHAINS];
            // an effect that is put in while something sounds fades in
            let came = ways.iter().any(|way| !is_silent(way));
            self.awake = if came { end } else { 0 };
            self.jumps = !came;
            self.fade_out.pass();
            return sum(taken, ways);
        }
        let came = ways.iter().any(|way| !is_silent(way));
        let tail = (f64::from(rack.tail_s) * self.rate_hz) as usize;
        if came {
            self.awake = tail + Self::late_by(moment.program, |c| self.latency_of_chain(c)) + end;
        } else if self.awake == 0 {
            self.fade_out.pass();
            return SILENT_WAY;
        }
        let step = (BLOCK as f64 / (FADE_S * self.rate_hz)) as f32;
        self.settle();
        let gates = self.gates_of_block(moment.program, step);
        let levels = self.levels_of_block(moment);
        let mut first = self.run_ways(ways, moment, (&kick, step), (&gates, &levels));
        if rack.plain == 0 {
            scale(&mut first, trim);
        }
        self.jumps = false;
        if self.fade_out.left > 0 {
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

    /// How far each chain and the clean way are open over the block.
    fn gates_of_block(&mut self, program: &Program, step: f32) -> [Value; CHAINS + 1] {
        let mut gates = [Value::default(); CHAINS + 1];
        for (at, gate) in gates.iter_mut().enumerate() {
            let on = match at {
                CHAINS => program.rack.clean != 0,
                at => program.rack.chains[at].on != 0,
            };
            let goal = f32::from(u8::from(on));
            let now = if self.jumps { goal } else { self.gates[at] };
            let next = now + (goal - now).clamp(-2.0 * step, 2.0 * step);
            *gate = Value { now, next };
            self.gates[at] = next;
        }
        gates
    }

    /// The levels behind the chains over the block: of each what goes on, and what the first sends to the second.
    fn levels_of_block(&mut self, moment: &Moment<'_>) -> [[Value; 2]; CHAINS] {
        let mut levels = [[Value::default(); 2]; CHAINS];
        for (chain, levels) in levels.iter_mut().enumerate() {
            for (n, level) in levels.iter_mut().enumerate() {
                let at = moment.program.rack.chains[chain].level as usize + n;
                let db = moment.values.at(at).next;
                let next = if db <= OFF_DB { 0.0 } else { gain(db) };
                let now = if self.jumps {
                    next
                } else {
                    self.levels[chain][n]
                };
                *level = Value { now, next };
                self.levels[chain][n] = next;
            }
        }
        levels
    }

    /// The ways out through their chains, brought to one time and summed up.
    fn run_ways(
        &mut self,
        ways: &[Stereo; BUSES],
        moment: &Moment<'_>,
        (kick, step): (&[f32; BLOCK], f32),
        (gates, levels): (&[Value; CHAINS + 1], &[[Value; 2]; CHAINS]),
    ) -> Stereo {
        let latency = [0, 1, 2].map(|chain| self.latency_of_chain(chain));
        let sends = sends(moment.program);
        let (wait_second, before_common) = match sends {
            true => (latency[0], latency[0] + latency[1]),
            false => (0, latency[0].max(latency[1])),
        };
        let [mut first, mut second, mut clean] = *ways;
        let step_up = BLOCK as f32 / self.fade_out_frames() as f32;
        if let Some(rise) = self.fade_out.rise(step_up) {
            for way in [&mut first, &mut second, &mut clean] {
                scale(way, rise);
            }
        }
        let jumps = self.jumps;
        let wait = (1.0 / (FADE_S * self.rate_hz)) as f32;
        self.run_chain(0, &mut first, moment, kick, step);
        scale(&mut first, gates[0]);
        self.waits[0].run(&mut second, wait_second, jumps, wait);
        let mut sent = first;
        scale(&mut sent, levels[0][1]);
        if sends {
            add(&mut second, &sent);
        }
        self.run_chain(1, &mut second, moment, kick, step);
        scale(&mut second, gates[1]);
        let late = before_common - latency[0];
        self.waits[1].run(&mut first, late, jumps, wait);
        let late = before_common - wait_second - latency[1];
        self.waits[2].run(&mut second, late, jumps, wait);
        scale(&mut first, levels[0][0]);
        scale(&mut second, levels[1][0]);
        add(&mut first, &second);
        self.run_chain(2, &mut first, moment, kick, step);
        scale(&mut first, gates[2]);
        scale(&mut first, levels[2][0]);
        self.waits[3].run(&mut clean, before_common + latency[2], jumps, wait);
        scale(&mut clean, gates[3]);
        add(&mut first, &clean);
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

    fn latency_of_chain(&self, chain: usize) -> usize {
        let order = self.order.of(chain).iter();
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
        if self.order.of(chain).is_empty() {
            return;
        }
        let mut level = heard(way);
        for slot in self.order.of(chain) {
            let slot = &mut self.slots[usize::from(*slot)];
            let looked_at = self.tap == Some(slot.id);
            if looked_at {
                self.tapped[0] = *way;
            }
            let frame = Frame {
                moment,
                kick,
                step,
                rest: self.rest_share,
                key_hz: self.key_hz,
                rate_hz: self.rate_hz,
                jumps: self.jumps,
            };
            slot.run(way, level, &frame);
            level = slot.meter.level_after();
            if looked_at {
                self.tapped[1] = *way;
            }
        }
    }

    /// Fades all there is, and forgets it.
    fn fall_silent(&mut self, way: &mut Stereo, came: bool) {
        scale(way, self.fade_out.fall());
        if self.fade_out.left == 0 {
            self.rest();
            if came {
                self.fade_out.come_up();
            }
        }
    }

    /// Forgets all it has heard.
    fn rest(&mut self) {
        self.slots.iter_mut().for_each(Slot::forget);
        self.waits.iter_mut().for_each(Wait::clear);
        if !self.order.is_settled() {
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
        .is_some_and(|p| p.value > OFF_DB || p.shared != crate::program::params::NO_SLOT)
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
