//! Parameters as the engine has them: one flat array for the whole program. Those of a unit stand in a row, in the order of
//! the catalogue, so that positions are its constants.

use bytemuck::{Pod, Zeroable};
use zolvik_patch::catalogue::position;
use zolvik_patch::document::{MAX_UNITS, Operator};
use zolvik_patch::levels::db_gain;

use super::MAX_UNIT_ROUTES;

/// Most parameters of a unit.
const MAX_UNIT_PARAMS: usize = 32;
/// Most parameters of a program: those of units, depth and pan of each route, level and pan of each way out, and the trim.
pub(crate) const MAX_PARAMS: usize = MAX_UNITS * (MAX_UNIT_PARAMS + 2) + 2 * MAX_UNIT_ROUTES + 2;
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

/// What the pitch of an operator is made from.
pub(crate) const PITCH: [usize; 5] = [
    position(Operator::RATIO),
    position(Operator::SEMITONES),
    position(Operator::FIXED_HZ),
    position(Operator::DETUNE_CENTS),
    position(Operator::OFFSET_HZ),
];
