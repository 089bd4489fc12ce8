//! What is rendered.

use zolvik_engine::program::compile;
use zolvik_engine::{Control, Engine};
use zolvik_patch::Patch;
use zolvik_patch::document::Audition;
use zolvik_patch::hearing::Listening;

/// What is played beside the key.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Controls {
    /// Where the wheel stands, 0 to 1.
    pub wheel: f32,
    /// How hard the keys are pressed, 0 to 1.
    pub pressure: f32,
    /// Where the pitch bend stands, -1 to 1.
    pub bend: f64,
    /// Where the expression pedal stands, 0 to 1.
    pub expression: f32,
    /// How far the sustain pedal is down for what it moves, 0 to 1.
    pub pedal: f32,
    /// How far the key is slid, 0 to 1, at rest in the middle.
    pub timbre: f32,
    /// How fast the key is let go, 0 to 1.
    pub lift: f32,
}

impl Controls {
    /// Those the auditioned note is played with.
    pub fn auditioned(a: &Audition) -> Self {
        let place = |of: u8| f32::from(of) / 127.0;
        Controls {
            wheel: place(a.wheel),
            pressure: place(a.pressure),
            bend: a.bend,
            expression: place(a.expression),
            pedal: place(a.pedal),
            timbre: a.timbre as f32,
            lift: a.lift as f32,
        }
    }

    /// Gives them to an engine before the note of a key begins.
    pub(crate) fn give(&self, engine: &mut Engine, key: u8) {
        let all = [
            (Control::Wheel, self.wheel),
            (Control::Pressure, self.pressure),
            (Control::Expression, self.expression),
            (Control::Pedal, self.pedal),
            (Control::KeyTimbre(key), self.timbre),
            (Control::Lift(key), self.lift),
        ];
        for (control, place) in all {
            engine.control(control, place);
        }
        engine.stand_bent(self.bend);
    }
}

impl Default for Controls {
    fn default() -> Self {
        Controls::auditioned(&Audition::default())
    }
}

/// A note to render.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Note {
    /// MIDI key, 0 to 127.
    pub key: u8,
    /// 1 to 127.
    pub velocity: u8,
    /// Time until it is let go, in seconds.
    pub hold_s: f64,
    /// Length of the result, in seconds.
    pub length_s: f64,
    /// Sample rate in hertz.
    pub rate_hz: f64,
    /// What is played beside it.
    pub controls: Controls,
}

/// Shortest and longest render, in seconds.
pub const LENGTH_RANGE_S: (f64, f64) = (0.01, 120.0);

impl Note {
    /// The note the patch is auditioned with, drawn over its window.
    pub fn auditioned(patch: &Patch, rate_hz: f64) -> Self {
        let a = &patch.audition;
        Note {
            key: a.note,
            velocity: a.velocity,
            hold_s: a.hold_s,
            length_s: a.window_s,
            rate_hz,
            controls: Controls::auditioned(a),
        }
    }

    /// The same note, long enough to sound out fully.
    pub fn to_its_end(self, patch: &Patch) -> Self {
        let program = compile(patch, &Listening::default());
        let tail_s = program.tail_of_s(self.key, self.velocity);
        Note {
            length_s: (self.hold_s + tail_s + 0.02).clamp(LENGTH_RANGE_S.0, LENGTH_RANGE_S.1),
            ..self
        }
    }
}
