//! Movement: sources that change with time, chance or playing, and links that let them move values.
//!
//! A source gives a place from 0 to 1. A link takes that upward from the value (0 to 1), downward (0 to -1) or both ways (-1 to 1, 0.5
//! being rest), times its amount, in the domain of the value it moves: octaves for frequencies and ratios, decibels for levels, else the
//! value's own unit.

pub mod amount;
pub mod kinds;
pub mod link;
pub mod order;
pub mod shape;
pub mod source;
pub mod target;

use serde::{Deserialize, Serialize};

pub use self::kinds::{
    Chance, Follower, Kept, Lfo, Macro, Played, PlayedWhat, Random, SourceKind, SourceName, Step,
    Steps,
};
pub use self::link::{Direction, Link};
pub use self::shape::ShapePoint;
pub use self::source::{Clock, Runs, Scope, Source, Timing};

/// What moves, and what it moves.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields, default)]
pub struct Movement {
    /// Up to 32 sources, in the order the user made them.
    pub sources: Vec<Source>,
    /// Up to 64 links.
    pub links: Vec<Link>,
}

impl Movement {
    /// Whether nothing moves.
    pub fn is_empty(&self) -> bool {
        self.sources.is_empty() && self.links.is_empty()
    }
}
