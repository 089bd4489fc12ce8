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
    /// Longest time it may be late by, in seconds.
    const LATEST_S: f64 = 0.0;
    /// It is waited for so long in any case, in seconds: files made before tails were reckoned are as long.
    const SHORTEST_TAIL_S: f64 = 0.0;

    /// A new one for a rate. Allocates.
    fn new(rate_hz: f64) -> Self;

    /// Share of the engine's time it takes in the browser, 0 to 1, as `browser-tests/tests/stories/measures.rs` found it at 48 kHz.
    fn load(set: &Setting<'_>) -> f64;

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
    /// Longest latency in seconds.
    pub latest_s: f64,
    shortest_tail_s: f64,
    new: fn(f64) -> Box<dyn Process>,
    load: fn(&Setting<'_>) -> f64,
    tail_s: fn(&Setting<'_>, f64) -> f64,
    lift_db: fn(&Setting<'_>) -> f64,
    latency_frames: fn(&Setting<'_>) -> usize,
}

impl Kind {
    pub(crate) const fn of<E: Effect>() -> Kind {
        Kind {
            latest_s: E::LATEST_S,
            shortest_tail_s: E::SHORTEST_TAIL_S,
            new: |rate_hz| Box::new(E::new(rate_hz)),
            load: E::load,
            tail_s: E::tail_s,
            lift_db: E::lift_db,
            latency_frames: E::latency_frames,
        }
    }

    /// A new one for a rate. Allocates; not for the audio path.
    pub fn make(&self, rate_hz: f64) -> Box<dyn Process> {
        (self.new)(rate_hz)
    }

    /// See [`Effect::load`].
    pub fn load(&self, set: &Setting<'_>) -> f64 {
        (self.load)(set)
    }

    /// See [`Effect::tail_s`]; at least the shortest, at most [`LONGEST_TAIL_S`].
    pub fn tail_s(&self, set: &Setting<'_>, down_db: f64) -> f64 {
        let rings_s = (self.tail_s)(set, down_db);
        rings_s.max(self.shortest_tail_s).min(LONGEST_TAIL_S)
    }

    /// See [`Effect::lift_db`].
    pub fn lift_db(&self, set: &Setting<'_>) -> f64 {
        (self.lift_db)(set)
    }

    /// See [`Effect::latency_frames`].
    pub fn latency_frames(&self, set: &Setting<'_>) -> usize {
        (self.latency_frames)(set)
    }
}
