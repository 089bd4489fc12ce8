//! Movement: sources that change with time, chance or playing, and links that let them move values.
//!
//! A source gives a place from 0 to 1. A link takes that upward from the value (0 to 1), downward (0 to -1) or both ways (-1 to 1, 0.5
//! being rest), times its amount, in the domain of the value it moves: octaves for frequencies and ratios, decibels for levels, else the
//! value's own unit.

pub mod kinds;
pub mod link;
pub mod order;
pub mod shape;
pub mod source;
pub mod target;

use serde::{Deserialize, Serialize};

pub use self::kinds::{
    Chance, Follower, Kept, Lfo, Macro, Played, PlayedWhat, Random, ShapePoint, SourceKind,
    SourceName, Step, Steps,
};
pub use self::link::{Direction, Link};
pub use self::source::{Clock, Runs, Scope, Source, Timing};
use crate::ids::{LinkId, SourceId};
use crate::patch::Patch;

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

impl Patch {
    /// The source with this number.
    pub fn source(&self, id: SourceId) -> Option<&Source> {
        self.movement.sources.iter().find(|s| s.id == id)
    }

    /// The source with this number, for changing.
    pub fn source_mut(&mut self, id: SourceId) -> Option<&mut Source> {
        self.movement.sources.iter_mut().find(|s| s.id == id)
    }

    /// The link with this number.
    pub fn link(&self, id: LinkId) -> Option<&Link> {
        self.movement.links.iter().find(|l| l.id == id)
    }

    /// The link with this number, for changing.
    pub fn link_mut(&mut self, id: LinkId) -> Option<&mut Link> {
        self.movement.links.iter_mut().find(|l| l.id == id)
    }

    /// The links that begin at a source.
    pub fn links_of(&self, id: SourceId) -> impl Iterator<Item = &Link> {
        self.movement.links.iter().filter(move |l| l.from == id)
    }

    /// The lowest free number of a source.
    pub fn free_source(&self) -> SourceId {
        let free = |n: &u16| self.source(SourceId(*n)).is_none();
        let found = (SourceId::FIRST..=SourceId::LAST).find(free);
        SourceId(found.unwrap_or(SourceId::FIRST))
    }

    /// The number of a new link, above all others.
    pub fn free_link(&self) -> LinkId {
        let last = self.movement.links.iter().map(|l| l.id.0).max();
        let lowest = || (1..).find(|n| self.link(LinkId(*n)).is_none());
        let next = last.unwrap_or(0).checked_add(1);
        LinkId(next.or_else(lowest).unwrap_or(1))
    }
}
