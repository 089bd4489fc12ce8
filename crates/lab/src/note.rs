//! What is rendered.

use zolvik_engine::program::compile;
use zolvik_patch::Patch;
use zolvik_patch::hearing::Listening;

/// What is played beside the key.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Controls {
    /// Where the wheel stands, 0 to 1.
    pub wheel: f32,
    /// How hard the keys are pressed, 0 to 1.
    pub pressure: f32,
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
            controls: Controls {
                wheel: f32::from(a.wheel) / 127.0,
                pressure: f32::from(a.pressure) / 127.0,
            },
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
