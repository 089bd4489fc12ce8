//! What a player gives: wheels, pedals, keys, and what each note has of its own.

use crate::sizes::LANES;

/// What the player does with wheels and pedals, 0 to 1.
#[derive(Debug, Clone)]
pub(crate) struct Controls {
    pub(crate) wheel: f32,
    /// 0.5 is rest.
    pub(crate) bend: f32,
    pub(crate) pressure: f32,
    pub(crate) expression: f32,
    pub(crate) pedal: f32,
    /// Pressure of each key.
    pub(crate) key_pressure: [f32; 128],
    /// How far each key was moved the third way.
    pub(crate) key_timbre: [f32; 128],
    /// How fast each key was let go last.
    pub(crate) lifted: [f32; 128],
    /// Keys that are down.
    pub(crate) held: u32,
}

impl Default for Controls {
    fn default() -> Self {
        Controls {
            wheel: 0.0,
            bend: 0.5,
            pressure: 0.0,
            expression: 1.0,
            pedal: 0.0,
            key_pressure: [0.0; 128],
            key_timbre: [0.5; 128],
            lifted: [0.5; 128],
            held: 0,
        }
    }
}

/// What notes in eight lanes have of their own: number, key, velocity and copy.
#[derive(Debug, Clone, Copy)]
pub(in crate::realtime) struct Given {
    pub(in crate::realtime) nth: [u32; LANES],
    pub(in crate::realtime) key: [u8; LANES],
    pub(in crate::realtime) velocity: [f32; LANES],
    pub(in crate::realtime) copy: [f32; LANES],
}

impl Given {
    /// No note was struck yet.
    pub(in crate::realtime) const NONE: Given = Given {
        nth: [0; LANES],
        key: [60; LANES],
        velocity: [0.0; LANES],
        copy: [0.5; LANES],
    };
}
