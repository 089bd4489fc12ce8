//! What a kind of effect says of itself, beside its sound: one trait, with each kind in its file.

use crate::process::{Process, Setting};

/// Longest tail in seconds: what would go on for ever ends then.
pub const LONGEST_TAIL_S: f64 = 30.0;
/// So far below its peak nothing of a sound is missed, in decibels.
pub const FAINT_DB: f64 = 80.0;

/// As loud a sound is reckoned with where what is loud is held down, in decibels of full scale.
pub const LOUDEST_DB: f64 = 6.0;

/// A kind of effect.
pub trait Effect: Process + Sized + 'static {
    /// Share of the engine's time it takes in the browser, 0 to 1, as `browser-tests/tests/stories/measures.rs` found it at 48 kHz.
    fn load(set: &Setting<'_>) -> f64;

    /// Longest time it may be late by, in seconds.
    const LATEST_S: f64 = 0.0;

    /// A new one for a rate. Allocates.
    fn new(rate_hz: f64) -> Self;

    /// Seconds until what it makes is so many decibels below its peak, once nothing goes in any more. Reckoned from what rings in it: delays,
    /// feedback, poles.
    fn tail_s(set: &Setting<'_>, down_db: f64) -> f64;

    /// By how many decibels more it may raise what is faint than what is loud: what fades into it is heard longer by that.
    fn lift_db(_set: &Setting<'_>) -> f64 {
        0.0
    }

    /// How much later what it makes leaves, in frames.
    fn latency_frames(_set: &Setting<'_>) -> usize {
        0
    }
}

/// A kind of effect, as a value.
#[derive(Debug, Clone, Copy)]
pub struct Kind {
    /// Share of the engine's time, see [`Effect::load`].
    pub load: fn(&Setting<'_>) -> f64,
    /// Longest latency in seconds.
    pub latest_s: f64,
    /// A new one for a rate. Allocates; not for the audio path.
    pub make: fn(f64) -> Box<dyn Process>,
    /// See [`Effect::lift_db`].
    pub lift_db: fn(&Setting<'_>) -> f64,
    /// Latency in frames.
    pub latency_frames: fn(&Setting<'_>) -> usize,
    tail_s: fn(&Setting<'_>, f64) -> f64,
}

impl Kind {
    pub(crate) const fn of<E: Effect>() -> Kind {
        Kind {
            load: E::load,
            latest_s: E::LATEST_S,
            make: |rate_hz| Box::new(E::new(rate_hz)),
            lift_db: E::lift_db,
            latency_frames: E::latency_frames,
            tail_s: E::tail_s,
        }
    }

    /// Seconds until it is so many decibels down, at most [`LONGEST_TAIL_S`]; see [`Effect::tail_s`].
    pub fn tail_s(&self, set: &Setting<'_>, down_db: f64) -> f64 {
        (self.tail_s)(set, down_db).min(LONGEST_TAIL_S)
    }
}
