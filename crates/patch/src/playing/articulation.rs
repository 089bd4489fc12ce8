//! Articulations: variants of a patch that keep only what is different in them.
//!
//! In memory the patch is as the one that is heard has it, and that one's list holds what the base has instead; so everything that
//! reads a patch reads what is heard. In files the patch is the base and every list holds what is different; [`crate::json`] goes from
//! one to the other.

use serde::{Deserialize, Serialize};

use crate::ids::{EffectId, LinkId, SourceId, UnitId};
use crate::movement::SourceKind;
use crate::params::address::Address;
use crate::parts::envelope::Envelope;

/// A variant of a patch.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Articulation {
    /// Its name, 1 to 40 characters.
    pub name: String,
    /// A key that switches to it instead of sounding.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub key: Option<u8>,
    /// What is different.
    #[serde(default)]
    pub differences: Vec<Difference>,
}

/// One thing that is different.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum Difference {
    /// A value.
    Value {
        /// Which.
        address: Address,
        /// What it is.
        value: f64,
    },
    /// An envelope, of a unit or of a source that is one.
    Envelope {
        /// Whose.
        unit: UnitId,
        /// The envelope.
        envelope: Box<Envelope>,
    },
    /// The shape or the steps of a source.
    Shape {
        /// Whose.
        source: SourceId,
        /// The source's kind with its shape.
        kind: Box<SourceKind>,
    },
    /// Whether a unit takes part.
    Unit {
        /// Which.
        unit: UnitId,
        /// Whether it does.
        on: bool,
    },
    /// Whether a source moves anything.
    Source {
        /// Which.
        source: SourceId,
        /// Whether it does.
        on: bool,
    },
    /// Whether a link moves anything.
    Link {
        /// Which.
        link: LinkId,
        /// Whether it does.
        on: bool,
    },
    /// Whether an effect is switched on.
    Effect {
        /// Which.
        effect: EffectId,
        /// Whether it is.
        on: bool,
    },
}

impl Difference {
    /// Whether two are about the same thing.
    pub fn same_place(&self, other: &Difference) -> bool {
        use Difference as D;
        match (self, other) {
            (D::Value { address: a, .. }, D::Value { address: b, .. }) => a == b,
            (D::Envelope { unit: a, .. }, D::Envelope { unit: b, .. }) => a == b,
            (D::Shape { source: a, .. }, D::Shape { source: b, .. }) => a == b,
            (D::Unit { unit: a, .. }, D::Unit { unit: b, .. }) => a == b,
            (D::Source { source: a, .. }, D::Source { source: b, .. }) => a == b,
            (D::Link { link: a, .. }, D::Link { link: b, .. }) => a == b,
            (D::Effect { effect: a, .. }, D::Effect { effect: b, .. }) => a == b,
            _ => false,
        }
    }
}
