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
