//! Parameters as the engine has them: one flat array for the whole program. Those of a unit stand in a row, in the order of
//! the catalogue, so that positions are its constants.

use bytemuck::{Pod, Zeroable};
use zolvik_patch::catalogue::position;
use zolvik_patch::document::{MAX_LINKS, MAX_ROUTES, MAX_SOURCES, MAX_UNITS, Operator};
use zolvik_patch::finish::effect::MAX_EFFECT_PARAMS;
use zolvik_patch::finish::{CHAINS, MAX_EFFECTS};
use zolvik_patch::levels::db_gain;
use zolvik_patch::param::{Domain, Param, Quantity};

/// Most routes from unit to unit.
pub const MAX_UNIT_ROUTES: usize = MAX_ROUTES;
/// Most parameters of a unit.
const MAX_UNIT_PARAMS: usize = 32;
/// Most parameters of a source.
const MAX_SOURCE_PARAMS: usize = 12;
/// Most parameters of the voice.
const MAX_VOICE_PARAMS: usize = 8;
/// Most parameters of the rack: those of effects, level and send of each chain.
pub(super) const MAX_RACK_PARAMS: usize = MAX_EFFECTS * MAX_EFFECT_PARAMS + 2 * CHAINS;
/// Most parameters of a program: those of units, depth and pan of each route, level and pan of each way out, those of the voice and of
/// sources, the amount of each link, and those of the rack.
pub(crate) const MAX_PARAMS: usize = MAX_UNITS * (MAX_UNIT_PARAMS + 2)
    + 2 * MAX_UNIT_ROUTES
    + MAX_VOICE_PARAMS
    + MAX_SOURCES * MAX_SOURCE_PARAMS
    + MAX_LINKS
    + MAX_RACK_PARAMS;
/// Most moves: those of links, of which one of a group's level moves all that leaves it; key and envelope of each filter.
pub(crate) const MAX_MOVES: usize = 8 * MAX_LINKS + 2 * MAX_UNITS;
/// Most parameters that have a value for each lane.
pub(crate) const MAX_SLOTS: usize = MAX_LINKS + 2 * MAX_UNITS;
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
    /// Where a silent level begins as it is brought in; 0 where there is no such thing.
    pub(crate) floor: f32,
    /// Time in which a change is followed, in seconds.
    pub(crate) smoothing_s: f32,
    /// Where its values for each lane are kept; [`NO_SLOT`] if all lanes share one.
    pub(crate) slot: u32,
    /// Where its value is kept while links move it for all lanes alike; [`NO_SLOT`] if none does.
    pub(crate) shared: u32,
}

impl ParamProgram {
    /// Its value moved by an amount in its domain.
    pub(crate) fn moved(&self, value: f32, amount: f32) -> f32 {
        self.added(value, amount).clamp(self.low, self.high)
    }

    /// The same, whatever its range.
    pub(crate) fn added(&self, value: f32, amount: f32) -> f32 {
        match self.law {
            _ if amount == 0.0 => value,
            law if law == Law::Octaves as u32 => value * libm::exp2f(amount),
            law if law == Law::Decibels as u32 => {
                let is_brought_in = value <= 0.0 && amount > 0.0;
                let from = if is_brought_in { self.floor } else { value };
                from * db_gain(amount.into()) as f32
            }
            _ => value + amount * self.scale,
        }
    }
}

/// What moves a parameter away from its value: for each lane by itself where it has a slot, else for all alike.
#[derive(Debug, Clone, Copy, PartialEq, Pod, Zeroable)]
#[repr(C)]
pub(crate) struct MoveProgram {
    /// The parameter moved.
    pub(crate) to: u32,
    /// A [`Source`] as number; from [`LINK`] on a link.
    pub(crate) source: u32,
    /// The parameter that says how far, in the domain of the one moved; of no account for links, which know.
    pub(crate) depth: u32,
    /// The unit whose parameter it is; [`NO_SLOT`] for none.
    pub(crate) unit: u32,
}

/// The first number of a link as what moves a parameter.
pub(crate) const LINK: u32 = 16;

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

/// A parameter that is moved in its own terms.
pub(crate) fn plain(row: &Param) -> ParamProgram {
    ParamProgram {
        value: row.default as f32,
        law: match row.domain {
            Domain::Plain => Law::Plain,
            Domain::Octaves => Law::Octaves,
        } as u32,
        scale: 1.0,
        low: row.min as f32,
        high: row.max as f32,
        floor: match row.quantity {
            Quantity::Level => db_gain(row.min) as f32,
            _ => 0.0,
        },
        smoothing_s: row.smoothing_s as f32,
        slot: NO_SLOT,
        shared: NO_SLOT,
    }
}
