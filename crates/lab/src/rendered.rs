//! What a render gives.

#[cfg(doc)]
use zolvik_engine::BLOCK;
use zolvik_patch::document::{EffectId, UnitId};

/// A rendered note.
#[derive(Debug, Clone, PartialEq)]
pub struct Rendered {
    /// Left channel.
    pub left: Vec<f32>,
    /// Right channel.
    pub right: Vec<f32>,
    /// Sample rate in hertz.
    pub rate_hz: f64,
    /// Units in the order of `amplitudes`.
    pub units: Vec<UnitId>,
    /// What each unit puts out before its routes, 0 to 1, every [`BLOCK`] frames.
    pub amplitudes: Vec<Vec<f32>>,
    /// Where each source of movement stands, 0 to 1, every [`BLOCK`] frames.
    pub places: Vec<Vec<f32>>,
    /// How far each link moves its value, in the value's domain, every [`BLOCK`] frames.
    pub motions: Vec<Vec<f32>>,
    /// Levels before and after each effect, in the order of the chains.
    pub effects: Vec<EffectLevels>,
    /// What stands before and after the effect that is looked at; none if none is.
    pub tapped: Option<Tapped>,
}

/// How loud a sound is before an effect and after it, over the whole of it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct EffectLevels {
    /// Which.
    pub id: EffectId,
    /// Levels of the power of both channels, in decibels below full scale.
    pub before_db: f64,
    /// The same after it.
    pub after_db: f64,
    /// Highest sample before it, in decibels.
    pub peak_before_db: f64,
    /// Highest sample after it, in decibels.
    pub peak_after_db: f64,
}

/// The sound before and after an effect.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Tapped {
    /// Both channels before it.
    pub before: [Vec<f32>; 2],
    /// Both channels after it.
    pub after: [Vec<f32>; 2],
    /// By how much it makes the sound softer or louder, in decibels, every [`BLOCK`] frames.
    pub gain_db: Vec<f32>,
}

impl Rendered {
    /// Nothing yet, at a rate in hertz.
    pub fn empty(rate_hz: f64) -> Self {
        Rendered {
            left: vec![],
            right: vec![],
            rate_hz,
            units: vec![],
            amplitudes: vec![],
            places: vec![],
            motions: vec![],
            effects: vec![],
            tapped: None,
        }
    }
}
