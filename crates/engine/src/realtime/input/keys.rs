//! What the player does: keys, wheels, pedals.

use zolvik_patch::document::Mode;
use zolvik_patch::playing::controllers::PEDAL_HOLDS;

use crate::realtime::engine::Engine;
use crate::realtime::voices::Taken;
use crate::realtime::voices::lanes::LaneState;
use crate::sizes::{BLOCK, LANES};

/// A wheel or pedal beside bend and sustain.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Control {
    /// The modulation wheel.
    Wheel,
    /// Pressure on all keys.
    Pressure,
    /// The expression pedal.
    Expression,
    /// How far the sustain pedal is down; whether it holds is told by [`Engine::pedal`].
    Pedal,
    /// Pressure on one key.
    KeyPressure(u8),
    /// The third way of moving on one key, such as up and down.
    KeyTimbre(u8),
    /// How fast a key is let go.
    Lift(u8),
}

impl Engine {
    /// Starts a note. `velocity` 0 counts as letting go, as in MIDI.
    ///
    /// # Real time
    /// No allocation, no lock, no panic.
    pub fn note_on(&mut self, key: u8, velocity: u8) {
        self.note_on_within(key, velocity, 0);
    }

    /// Starts a note that begins so many frames into the block that comes next; beyond its end counts as its last.
    ///
    /// # Real time
    /// No allocation, no lock, no panic.
    pub fn note_on_within(&mut self, key: u8, velocity: u8, frames: usize) {
        let wait = frames.min(BLOCK - 1) as u8;
        let (key, velocity) = (key & 127, velocity.min(127));
        if velocity == 0 {
            return self.note_off(key);
        }
        let hz = self.key_hz(key);
        if hz <= 0.0 {
            return; // the scale leaves this key silent
        }
        self.begin_key(key);
        let overlaps = self.voices.press(key, velocity);
        self.count_held();
        let voice = self.graphs[self.current].program.voice;
        if voice.mode == Mode::Poly as u32 {
            self.note_off_held(key);
        } else {
            match self.voices.take_over(key, hz, (overlaps, true), &voice) {
                Taken::Strike => {}
                Taken::Over { anew } => return self.hand_over(anew, wait),
                Taken::Not => return,
            }
        }
        let Some(age) = self.voices.start((key, velocity), hz, overlaps, &voice) else {
            return;
        };
        let both = self.fading > 0 && self.alike;
        for (which, graph) in self.graphs.iter_mut().enumerate() {
            if which != self.current && !both {
                continue;
            }
            for (lane, voice) in self.voices.lanes.iter().enumerate() {
                if voice.age == age && voice.state == LaneState::Held {
                    graph.within.begin(lane / LANES, lane % LANES, wait);
                    graph.note_on(lane, voice, &self.bank_cache);
                }
            }
        }
    }

    fn count_held(&mut self) {
        let held = self.voices.pressed.iter().filter(|at| **at > 0).count() as u32;
        for graph in self.graphs.iter_mut() {
            graph.controls.held = held;
        }
    }

    fn key_hz(&self, key: u8) -> f64 {
        self.graphs[self.current].program.keys_hz[usize::from(key & 127)]
    }

    /// Lets the sounding note follow the key it was taken over by. One that begins anew out of silence does so on its frame; what still
    /// sounds goes on with the wait it has, since another would tear it.
    fn hand_over(&mut self, anew: bool, wait: u8) {
        let graph = &mut self.graphs[self.current];
        for (lane, voice) in self.voices.lanes.iter().enumerate() {
            if voice.state == LaneState::Held {
                if anew && graph.is_silent(lane) {
                    graph.within.begin(lane / LANES, lane % LANES, wait);
                }
                graph.take_over(lane, voice, anew, &self.bank_cache);
            }
        }
    }

    /// Lets a key go; with the pedal down its note goes on.
    pub fn note_off(&mut self, key: u8) {
        let key = key & 127;
        self.voices.lift(key);
        self.count_held();
        let voice = self.graphs[self.current].program.voice;
        if voice.mode != Mode::Poly as u32 && self.voices.holds(key) {
            // back to another key that is still down
            if let Some(next) = self.voices.winner(voice.priority) {
                let hz = self.key_hz(next);
                self.voices.take_over(next, hz, (true, false), &voice);
                return self.hand_over(false, 0);
            }
        }
        let graph = &mut self.graphs[self.current];
        let slower = self.voices.slower;
        self.voices.key_up(key, |lane| graph.release(lane, slower));
    }

    /// Turns the wheel of the pitch bend: -1 to 1.
    pub fn pitch_bend(&mut self, wheel: f64) {
        for graph in self.graphs.iter_mut() {
            graph.controls.bend = (0.5 + 0.5 * wheel.clamp(-1.0, 1.0)) as f32;
        }
        self.voices.pitch_bend(wheel.clamp(-1.0, 1.0));
    }

    /// As [`Engine::pitch_bend`], at once: the next note begins with the wheel where it stands.
    pub fn stand_bent(&mut self, wheel: f64) {
        self.pitch_bend(wheel);
        let program = &self.graphs[self.current].program.voice;
        self.voices.stand_bent(wheel.clamp(-1.0, 1.0), program);
    }

    /// Tells what the player does with a wheel or pedal, 0 to 1.
    pub fn control(&mut self, control: Control, value: f32) {
        let value = value.clamp(0.0, 1.0);
        for graph in self.graphs.iter_mut() {
            let controls = &mut graph.controls;
            match control {
                Control::Wheel => controls.wheel = value,
                Control::Pressure => controls.pressure = value,
                Control::Expression => controls.expression = value,
                Control::Pedal => controls.pedal = value,
                Control::KeyPressure(key) => {
                    controls.key_pressure[usize::from(key & 127)] = value;
                }
                Control::KeyTimbre(key) => {
                    controls.key_timbre[usize::from(key & 127)] = value;
                }
                Control::Lift(key) => controls.lifted[usize::from(key & 127)] = value,
            }
        }
    }

    /// The same key struck again: its old note sounds out, whatever the pedal does.
    fn note_off_held(&mut self, key: u8) {
        for lane in 0..self.voices.lanes.len() {
            let voice = &mut self.voices.lanes[lane];
            if voice.key == key && matches!(voice.state, LaneState::Held | LaneState::Pedalled) {
                voice.state = LaneState::Released;
                voice.slower = 1.0;
                self.graphs[self.current].release(lane, 1.0);
            }
        }
    }

    /// Sustain pedal down or up.
    pub fn pedal(&mut self, down: bool) {
        for graph in self.graphs.iter_mut() {
            graph.controls.pedal = f32::from(u8::from(down));
        }
        let graph = &mut self.graphs[self.current];
        let slower = self.voices.slower;
        self.voices.pedal(down, |lane| graph.release(lane, slower));
    }

    /// Sustain pedal as far down as it goes from 0 to 127: from 64 on it holds, below that notes end the more slowly the deeper it is.
    pub fn pedal_at(&mut self, value: u8) {
        const MOST: f64 = 16.0;
        let up = 1.0 - f64::from(value) / f64::from(PEDAL_HOLDS);
        if value < PEDAL_HOLDS {
            self.half_pedal((1.0 / up).min(MOST));
        }
        self.pedal(value >= PEDAL_HOLDS);
    }

    /// The dampers touch the strings lightly: what was let go, and what will be, ends so many times as slowly.
    fn half_pedal(&mut self, slower: f64) {
        let graph = &mut self.graphs[self.current];
        self.voices.slower = slower;
        for (lane, voice) in self.voices.lanes.iter_mut().enumerate() {
            if voice.state == LaneState::Released && voice.slower != slower {
                graph.slow(lane, slower / voice.slower);
                voice.slower = slower;
            }
        }
    }

    /// Lets every note go and lifts the pedal.
    pub fn all_notes_off(&mut self) {
        let graph = &mut self.graphs[self.current];
        self.voices.all_up(|lane| graph.release(lane, 1.0));
        self.half_pedal(1.0);
    }

    /// Fades everything out within milliseconds.
    pub fn silence(&mut self) {
        self.rack.silence(self.voices.sounding() > 0);
        self.voices.silence();
    }
}
