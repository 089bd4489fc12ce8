//! Where a parameter's value stands in the document; [`crate::params::values`] reads and writes it there.

use serde::{Deserialize, Serialize};

use crate::ids::{EffectId, RouteId, UnitId};
use crate::params::param::ParamId;

/// One value of one thing: a parameter and the number of the unit or route that has it (0 for the patch).
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Address {
    /// Which parameter.
    pub param: ParamId,
    /// Number of the unit, source, route, group, link, effect or chain; 0 where the patch as a whole is meant. Values of envelopes may be those of a source.
    pub id: u16,
    /// Position of a point of the envelope or drawn cycle, of a step or of a band; 0 elsewhere.
    #[serde(default)]
    pub point: u8,
}

impl Address {
    /// A value of the thing with a number.
    pub fn new(param: ParamId, id: u16) -> Self {
        Address {
            param,
            id,
            point: 0,
        }
    }

    /// A value of a point of a unit's envelope.
    pub fn point(unit: UnitId, at: usize, param: ParamId) -> Self {
        Address {
            param,
            id: unit.0,
            point: at.min(255) as u8,
        }
    }

    /// A value of the patch as a whole.
    pub fn patch(param: ParamId) -> Self {
        Address::new(param, 0)
    }

    /// A value of a band of an EQ.
    pub fn band(effect: EffectId, at: usize, param: ParamId) -> Self {
        Address {
            param,
            id: effect.0,
            point: at.min(255) as u8,
        }
    }

    /// A value of a unit.
    pub fn unit(unit: UnitId, param: ParamId) -> Self {
        Address::new(param, unit.0)
    }

    /// A value of a route.
    pub fn route(route: RouteId, param: ParamId) -> Self {
        Address::new(param, route.0)
    }
}
