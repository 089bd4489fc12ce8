//! Numbers of things in a patch, stable for its life.

use serde::{Deserialize, Serialize};

macro_rules! id {
    ($(#[$meta:meta])* $Name:ident) => {
        $(#[$meta])*
        #[derive(
            Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize,
        )]
        #[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
        #[cfg_attr(feature = "types", derive(ts_rs::TS))]
        pub struct $Name(pub u16);
    };
}

id! {
    /// Number of a unit, 1 to 999. Shown on the strip.
    UnitId
}
id! {
    /// Number of a route.
    RouteId
}
id! {
    /// Number of a group.
    GroupId
}
id! {
    /// Number of a source of movement, from [`SourceId::FIRST`] on, so that no number means both a unit and a source.
    SourceId
}
id! {
    /// Number of a link.
    LinkId
}

id! {
    /// Number of an effect, from [`EffectId::FIRST`] on, so that no number means both a strip and an effect.
    EffectId
}

/// A chain of effects.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum ChainId {
    /// Where the main way out leads.
    First,
    /// Where the second way out leads.
    Second,
    /// Where both run into.
    Common,
}

impl ChainId {
    /// All chains, in the order they are computed.
    pub const ALL: [ChainId; 3] = [ChainId::First, ChainId::Second, ChainId::Common];
    /// The number of the first one in addresses; the others follow.
    const BASE: u16 = 3001;

    /// Its number in addresses.
    pub fn number(self) -> u16 {
        ChainId::BASE + self as u16
    }

    /// The chain with a number in addresses.
    pub fn of_number(number: u16) -> Option<ChainId> {
        ChainId::ALL.into_iter().find(|id| id.number() == number)
    }
}

impl EffectId {
    /// The lowest number of an effect.
    pub const FIRST: u16 = 2001;
    /// The highest.
    pub const LAST: u16 = 2999;
}

/// Where things are chosen for, one number names a strip or an effect.
impl From<EffectId> for UnitId {
    fn from(id: EffectId) -> UnitId {
        UnitId(id.0)
    }
}

impl SourceId {
    /// The lowest number of a source.
    pub const FIRST: u16 = 1001;
    /// The highest.
    pub const LAST: u16 = 1999;
}

/// Sources are strips as well: where strips are selected or envelopes edited, one number names either.
impl From<SourceId> for UnitId {
    fn from(id: SourceId) -> UnitId {
        UnitId(id.0)
    }
}

impl UnitId {
    /// The effect it names; none if it names a strip.
    pub fn effect(self) -> Option<EffectId> {
        (EffectId::FIRST..=EffectId::LAST)
            .contains(&self.0)
            .then_some(EffectId(self.0))
    }

    /// The source it names; none if it names a unit.
    pub fn source(self) -> Option<SourceId> {
        (SourceId::FIRST..=SourceId::LAST)
            .contains(&self.0)
            .then_some(SourceId(self.0))
    }
}
