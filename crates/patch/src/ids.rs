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
    /// The source it names; none if it names a unit.
    pub fn source(self) -> Option<SourceId> {
        (SourceId::FIRST..=SourceId::LAST)
            .contains(&self.0)
            .then_some(SourceId(self.0))
    }
}
