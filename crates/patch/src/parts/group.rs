//! Units that are handled together: groups of strips, and sets of linked envelopes.

use serde::{Deserialize, Serialize};

use crate::ids::{GroupId, UnitId};
use crate::params::param::Quantity as Q;
use crate::params::part::part;
use crate::params::section::SectionId as S;
use crate::parts::look::look;

part! {
    /// Units that are named, folded, muted, soloed and levelled together. A unit is in one group at most.
    pub struct Group: Group "group" in "" {
        also {
            /// Stable number.
            id: GroupId = GroupId(1),
            /// The user's name for it, 1 to 40 characters.
            name: String = String::new(),
            /// Who belongs to it.
            units: Vec<UnitId> = vec![],
            /// Whether its strips are drawn as one.
            folded: bool = false,
        }
        values {
            LEVEL_DB level_db: f64 = 0.0, -72.0..12.0, look("Level", Q::Level, S::Group).step(1.0, 0.1).decimals(1),
                "Level of all that the group's operators send to the output. The lowest value is silence.";
        }
    }
}

impl Group {
    /// Its level as a factor.
    pub fn gain(&self) -> f64 {
        Group::ROWS.params[Group::LEVEL_DB.at()].gain(self.level_db)
    }
}

/// Units whose envelopes are edited as one. A unit is in one such set at most.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct EnvelopeLink {
    /// At least two.
    pub units: Vec<UnitId>,
    /// Whether all are made alike; else each keeps its difference.
    pub equal: bool,
}
