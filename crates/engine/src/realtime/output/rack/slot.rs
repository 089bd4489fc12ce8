//! One effect in its place: what it is set to, how far it is in, and the sound as it came beside it.

use zolvik_effects::tools::gain;
use zolvik_effects::{Kind, Process, Value, kind};
use zolvik_patch::finish::Effect;
use zolvik_patch::finish::effect::MAX_EFFECT_PARAMS;

use crate::program::Program;
use crate::program::rack::EffectProgram;
use crate::realtime::output::rack::moment::Moment;
use crate::realtime::output::rack::stereo::{EffectMeter, Stereo, heard, scale};
use crate::realtime::output::rack::wait::Wait;
use crate::sizes::BLOCK;

/// Share of an effect from which on the sound as it came has the effect's phases.
const PHASED: f32 = 0.05;

/// One effect.
pub(super) struct Slot {
    pub(super) id: u32,
    pub(super) kind: u32,
    pub(super) node: Option<Box<dyn Process>>,
    about: Kind,
    /// Where in the program it is; none if it is on its way out.
    pub(super) at: Option<usize>,
    /// How far it is in, 0 to 1, and where that goes.
    pub(super) fade: f32,
    pub(super) in_place: bool,
    /// What it was in the program it was in last.
    pub(super) known: EffectProgram,
    /// Its values at the end of the last block, and what is left of jumps.
    pub(super) last: [f32; MAX_EFFECT_PARAMS],
    pub(super) rest: [f32; MAX_EFFECT_PARAMS],
    pub(super) begun: bool,
    /// Whether the node has heard anything since it last forgot. Forgetting may mean clearing seconds of a line.
    heard: bool,
    /// The sound as it came, as late as what the effect makes.
    pub(super) dry: Wait,
    pub(super) latency: usize,
    pub(super) meter: EffectMeter,
    pub(super) rate_hz: f64,
}

/// What an effect is computed with.
pub(super) struct Frame<'a> {
    pub(super) moment: &'a Moment<'a>,
    pub(super) kick: &'a [f32; BLOCK],
    pub(super) step: f32,
    pub(super) rest: f32,
    pub(super) key_hz: f32,
    pub(super) rate_hz: f64,
    /// Whether all is as it is to be at once.
    pub(super) jumps: bool,
}

impl Slot {
    /// Whether nothing of it is heard, and the sound goes through it without waiting.
    pub(super) fn is_out(&self) -> bool {
        self.fade == 0.0 && self.dry.frames == 0 && self.dry.share >= 1.0
    }

    pub(super) fn new(effect: &EffectProgram, rate_hz: f64) -> Self {
        let about = kind(effect.name());
        Slot {
            id: effect.id,
            kind: effect.kind,
            node: Some(about.make(rate_hz)),
            about,
            at: None,
            fade: 0.0,
            in_place: false,
            known: *effect,
            last: [0.0; MAX_EFFECT_PARAMS],
            rest: [0.0; MAX_EFFECT_PARAMS],
            begun: false,
            heard: false,
            dry: Wait::new(about.latest_s, rate_hz),
            latency: 0,
            meter: EffectMeter::default(),
            rate_hz,
        }
    }

    pub(super) fn forget(&mut self) {
        if let Some(node) = &mut self.node {
            node.clear();
        }
        self.dry.clear();
        (self.begun, self.heard) = (false, false);
        self.meter = EffectMeter::default();
    }

    /// How late it is as it is set in a program.
    pub(super) fn latency_of(&self, program: &Program, effect: &EffectProgram) -> usize {
        let first = effect.first_param as usize;
        let all = &program.params[first..first + effect.params as usize];
        let mut values = [Value::default(); MAX_EFFECT_PARAMS];
        for (to, param) in values.iter_mut().zip(all) {
            *to = Value::still(param.value.into());
        }
        let points = effect.drawn();
        let mut set = effect.setting(&values, &points);
        set.rate_hz = self.rate_hz;
        self.about.latency_frames(&set)
    }

    /// Its values over the block: what jumped goes on from where it was.
    fn values(
        &mut self,
        effect: Option<&EffectProgram>,
        frame: &Frame<'_>,
    ) -> [Value; MAX_EFFECT_PARAMS] {
        let mut values = [Value::default(); MAX_EFFECT_PARAMS];
        if let Some(effect) = effect {
            for (n, value) in values.iter_mut().enumerate().take(effect.params as usize) {
                let plain = frame.moment.values.at(effect.first_param as usize + n).next;
                if !self.begun {
                    (self.last[n], self.rest[n]) = (plain, 0.0);
                }
                self.rest[n] *= frame.rest;
                let next = plain + self.rest[n];
                *value = Value {
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
        values
    }

    /// Lets a way go through that is so loud: mean square, and highest.
    pub(super) fn run(&mut self, way: &mut Stereo, level: (f32, f32), frame: &Frame<'_>) {
        let (power, peak) = level;
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
        let values = self.values(effect, frame);
        let Some(node) = &mut self.node else { return };
        if let Some(effect) = effect {
            self.known = *effect;
        }
        let points = self.known.drawn();
        let mut set = self.known.setting(&values, &points);
        let count = self.known.point_count as usize;
        set.points = &points[..count];
        set.rate_hz = frame.rate_hz;
        set.tempo_bpm = program.tempo_bpm;
        set.beats = frame.moment.beats;
        set.key_hz = frame.key_hz;
        set.kick = frame.kick;
        // what is on its way out comes back to its time
        self.latency = match effect.is_some() && self.in_place {
            true => self.about.latency_frames(&set),
            false => 0,
        };
        let mut dry = *way;
        let frame_step = frame.step / BLOCK as f32;
        self.dry
            .run(&mut dry, self.latency, frame.jumps, frame_step);
        if fade.now == 0.0 && fade.next == 0.0 {
            if self.heard {
                node.clear();
            }
            (self.begun, self.heard) = (false, false);
            *way = dry;
            return;
        }
        let [mix, into, out] = [Effect::MIX, Effect::IN_DB, Effect::OUT_DB].map(|id| set.value(id));
        let mut wet = *way;
        scale(&mut wet, into.map(gain));
        if fade.next > fade.now {
            // what comes in hears the sound come in, so that no echo begins with a step
            scale(&mut wet, fade);
        }
        self.heard = true;
        node.run(&mut wet, &set);
        scale(&mut wet, out.map(gain));
        let amount = mix;
        let mix = Value {
            now: mix.now * fade.now,
            next: mix.next * fade.next,
        };
        if let Some(phased) = node.phased() {
            for channel in 0..2 {
                for n in 0..BLOCK {
                    let share = (amount.at(n) / PHASED).min(1.0) * fade.at(n);
                    dry[channel][n] += (phased[channel][n] - dry[channel][n]) * share;
                }
            }
        }
        blend(way, &dry, &wet, mix);
        (self.meter.after, self.meter.peak_after) = heard(way);
        self.meter.gain_db = node.gain_db().unwrap_or(0.0);
    }
}

/// What goes on: so much of what the effect made, the rest as it came.
fn blend(way: &mut Stereo, dry: &Stereo, wet: &Stereo, mix: Value) {
    if mix.now == 1.0 && mix.next == 1.0 {
        *way = *wet;
    } else if mix.now == 0.0 && mix.next == 0.0 {
        *way = *dry;
    } else {
        for channel in 0..2 {
            for n in 0..BLOCK {
                let (d, w) = (dry[channel][n], wet[channel][n]);
                way[channel][n] = d + (w - d) * mix.at(n);
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use std::sync::Arc;
    use std::sync::atomic::{AtomicUsize, Ordering::Relaxed};

    use zolvik_effects::Setting;
    use zolvik_patch::Patch;
    use zolvik_patch::finish::EffectName;
    use zolvik_patch::finish::ready::ready_for;
    use zolvik_patch::hearing::Listening;

    use super::*;
    use crate::program::compile;
    use crate::realtime::modulation::values::Values;
    use crate::sizes::SILENT_WAY;

    /// Counts what is asked of it: blocks, and to forget.
    #[derive(Default)]
    struct Asked {
        blocks: AtomicUsize,
        clears: AtomicUsize,
    }
    struct Counting(Arc<Asked>);

    impl Process for Counting {
        fn run(&mut self, _block: &mut Stereo, _set: &Setting<'_>) {
            self.0.blocks.fetch_add(1, Relaxed);
        }
        fn clear(&mut self) {
            self.0.clears.fetch_add(1, Relaxed);
        }
    }

    #[test]
    fn what_is_switched_off_forgets_once_and_is_left_alone() {
        let mut patch = Patch::empty();
        let delay = ready_for(EffectName::Delay)
            .next()
            .map(|ready| ready.make());
        patch.finish.common.effects.extend(delay);
        let mut program = compile(&patch, &Listening::default());
        let asked = Arc::new(Asked::default());
        let mut slot = Slot::new(&program.rack.effects()[0], 48_000.0);
        slot.node = Some(Box::new(Counting(asked.clone())));
        (slot.at, slot.in_place) = (Some(0), true);
        let mut pass = |on: bool, blocks: usize| {
            program.rack.effects[0].on = u32::from(on);
            let values = Values::new();
            let moment = Moment {
                program: &program,
                values: &values,
                beats: 0.0,
                key_hz: None,
                trim: 1.0,
            };
            let frame = Frame {
                moment: &moment,
                kick: &[0.0; BLOCK],
                step: 0.25,
                rest: 0.9,
                key_hz: 440.0,
                rate_hz: 48_000.0,
                jumps: false,
            };
            let mut way = SILENT_WAY;
            (0..blocks).for_each(|_| slot.run(&mut way, (0.0, 0.0), &frame));
            [&asked.blocks, &asked.clears].map(|n| n.swap(0, Relaxed))
        };
        assert_eq!(pass(false, 100), [0, 0], "off from the beginning");
        assert_eq!(pass(true, 100), [100, 0], "on");
        assert_eq!(pass(false, 100), [4, 1], "it fades, forgets, and rests");
        assert_eq!(pass(false, 100), [0, 0], "and goes on resting");
        assert_eq!(pass(true, 8), [8, 0], "on again");
    }
}
