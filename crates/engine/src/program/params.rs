//! Parameters as the engine has them: one flat array for the whole program. Those of a unit stand in a row, in the order of
//! the catalogue, so that positions are its constants.

use bytemuck::{Pod, Zeroable};
use zolvik_patch::catalogue::position;
use zolvik_patch::document::{CycleShape, Filter, Harmonics, MAX_UNITS, Noise, Operator, Shaper};
use zolvik_patch::levels::db_gain;

use super::MAX_UNIT_ROUTES;

/// Most parameters of a unit.
const MAX_UNIT_PARAMS: usize = 32;
/// Most parameters of a program: those of units, one for each route, level and pan of each way out, and the trim.
pub(crate) const MAX_PARAMS: usize = MAX_UNITS * (MAX_UNIT_PARAMS + 2) + MAX_UNIT_ROUTES + 2;
/// Most parameters that have a value for each lane.
pub(crate) const MAX_SLOTS: usize = 64;
/// Of a parameter that has the same value in all lanes.
pub(crate) const NO_SLOT: u32 = u32::MAX;

/// How a parameter is moved away from its value, by an amount in its own domain.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[repr(u32)]
pub(crate) enum Law {
    /// The amount is added, times the parameter's scale.
    Plain = 0,
    /// Octaves: multiplied by `2^amount`.
    Octaves = 1,
    /// Decibels: multiplied by `10^(amount / 20)`.
    Decibels = 2,
}

/// One parameter.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub(crate) struct ParamProgram {
    /// Its value in the engine's own terms.
    pub(crate) value: f32,
    /// A [`Law`] as number.
    pub(crate) law: u32,
    /// What amounts are multiplied by under [`Law::Plain`].
    pub(crate) scale: f32,
    /// The range it stays in however it is moved.
    pub(crate) low: f32,
    pub(crate) high: f32,
    /// Time in which a change is followed, in seconds.
    pub(crate) smoothing_s: f32,
    /// Where its values for each lane are kept; [`NO_SLOT`] if all lanes share one.
    pub(crate) slot: u32,
}

impl ParamProgram {
    /// Its value moved by an amount in its domain.
    pub(crate) fn moved(&self, value: f32, amount: f32) -> f32 {
        let there = match self.law {
            law if law == Law::Octaves as u32 => value * libm::exp2f(amount),
            law if law == Law::Decibels as u32 => value * db_gain(amount.into()) as f32,
            _ => value + amount * self.scale,
        };
        there.clamp(self.low, self.high)
    }
}

/// What moves a parameter away from its value, for each lane by itself.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub(crate) struct MoveProgram {
    /// The parameter moved; it has a slot.
    pub(crate) to: u32,
    /// A [`Source`] as number.
    pub(crate) source: u32,
    /// The parameter that says how far, in the domain of the one moved.
    pub(crate) depth: u32,
    pub(crate) reserved: u32,
}

/// What may move a parameter of a unit.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[repr(u32)]
pub(crate) enum Source {
    /// The note's pitch, in octaves above C4.
    Key = 0,
    /// The unit's own envelope, 0 to 1.
    Envelope = 1,
}

/// Positions of the parameters the engine reads, among those of their unit.
pub(crate) mod at {
    use super::*;

    pub(crate) const RATIO: usize = position(Operator::RATIO);
    pub(crate) const SEMITONES: usize = position(Operator::SEMITONES);
    pub(crate) const FIXED_HZ: usize = position(Operator::FIXED_HZ);
    pub(crate) const DETUNE_CENTS: usize = position(Operator::DETUNE_CENTS);
    pub(crate) const OFFSET_HZ: usize = position(Operator::OFFSET_HZ);
    pub(crate) const POSITION: usize = position(Operator::POSITION);
    pub(crate) const WIDTH: usize = position(Operator::WIDTH);
    pub(crate) const LEAN: usize = position(CycleShape::LEAN);
    pub(crate) const REPEAT: usize = position(CycleShape::REPEAT);
    pub(crate) const FOLD: usize = position(CycleShape::FOLD);
    pub(crate) const STEPS: usize = position(CycleShape::STEPS);
    pub(crate) const LEVELS: usize = position(CycleShape::LEVELS);
    pub(crate) const SPACING: usize = position(Harmonics::SPACING);
    pub(crate) const SHIFT: usize = position(Harmonics::SHIFT);
    pub(crate) const TILT_DB: usize = position(Harmonics::TILT_DB);
    pub(crate) const BALANCE: usize = position(Harmonics::BALANCE);
    pub(crate) const LOW: usize = position(Harmonics::LOW);
    pub(crate) const HIGH: usize = position(Harmonics::HIGH);
    pub(crate) const COLOUR_DB: usize = position(Noise::COLOUR_DB);
    /// In octaves above 1 Hz.
    pub(crate) const CUTOFF_OCT: usize = position(Filter::CUTOFF_HZ);
    pub(crate) const RESONANCE: usize = position(Filter::RESONANCE);
    pub(crate) const FILTER_DRIVE_DB: usize = position(Filter::DRIVE_DB);
    pub(crate) const FILTER_MIX: usize = position(Filter::MIX);
    pub(crate) const SWEEP_OCT: usize = position(Filter::SWEEP_OCT);
    pub(crate) const VOWEL: usize = position(Filter::VOWEL);
    pub(crate) const KEY_FOLLOW: usize = position(Filter::KEY_FOLLOW);
    pub(crate) const SHAPER_DRIVE_DB: usize = position(Shaper::DRIVE_DB);
    pub(crate) const SHAPER_MIX: usize = position(Shaper::MIX);
}

/// Whether the pitch of an operator is made from this parameter.
pub(crate) const PITCH: [usize; 5] = [
    at::RATIO,
    at::SEMITONES,
    at::FIXED_HZ,
    at::DETUNE_CENTS,
    at::OFFSET_HZ,
];
