//! Changes as data. Applying one gives a new document or a reason; the old one is never touched.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::address::Address;
use crate::catalogue::param;
use crate::document::{MAX_UNITS, Meta, Patch, Route, RouteId, Send, Unit, UnitId};
use crate::error::PatchError;
use crate::validate::validate;

/// Where a new operator is connected: nothing arrives silent.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case", tag = "to")]
pub enum Connect {
    /// Heard at once.
    Output,
    /// Into the phase of this unit.
    Unit {
        /// The unit it modulates.
        id: UnitId,
    },
}

/// One change of a patch.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case", tag = "do")]
pub enum Edit {
    /// Sets one value.
    SetValue {
        /// Which value.
        address: Address,
        /// In the parameter's unit.
        value: f64,
    },
    /// Adds an operator, connected gently.
    AddOperator {
        /// Where to.
        connect: Connect,
    },
    /// Removes a unit and every route from or to it.
    RemoveUnit {
        /// Which unit.
        unit: UnitId,
    },
    /// Copies a unit with all its routes, in and out.
    DuplicateUnit {
        /// Which unit.
        unit: UnitId,
    },
    /// Names a unit.
    RenameUnit {
        /// Which unit.
        unit: UnitId,
        /// The new name.
        name: String,
    },
    /// Switches a unit on or off.
    SwitchUnit {
        /// Which unit.
        unit: UnitId,
        /// Whether it takes part.
        on: bool,
    },
    /// Adds a route, gently: small index, moderate level.
    AddRoute {
        /// The source.
        from: UnitId,
        /// The unit whose phase it moves; none for the output.
        to: Option<UnitId>,
    },
    /// Removes a route.
    RemoveRoute {
        /// Which route.
        route: RouteId,
    },
    /// Switches a route on or off.
    SwitchRoute {
        /// Which route.
        route: RouteId,
        /// Whether it takes part.
        on: bool,
    },
    /// Names and describes the patch.
    SetMeta {
        /// The new name, tags and note.
        meta: Meta,
    },
    /// Puts another whole patch in place, such as an earlier version. Comes from a checked file, never over
    /// the wire.
    #[serde(skip)]
    Replace {
        /// The patch.
        patch: Box<Patch>,
    },
    /// Several changes as one.
    Together {
        /// What was done, for the undo list.
        label: String,
        /// The changes, in order.
        edits: Vec<Edit>,
    },
}

/// Applies an edit. Gives the new document and the unit that should be selected after it.
///
/// # Errors
/// If the edit does not fit the document or would make it invalid.
pub fn apply(patch: &Patch, edit: &Edit) -> Result<(Patch, Option<UnitId>), PatchError> {
    let mut next = patch.clone();
    let select = change(&mut next, edit)?;
    validate(&next)?;
    Ok((next, select))
}

fn change(patch: &mut Patch, edit: &Edit) -> Result<Option<UnitId>, PatchError> {
    match edit {
        Edit::SetValue { address, value } => address.set(patch, *value)?,
        Edit::AddOperator { connect } => return add_operator(patch, connect).map(Some),
        Edit::RemoveUnit { unit } => {
            let at = position(patch, *unit)?;
            patch.units.remove(at);
            patch
                .routes
                .retain(|r| r.from != *unit && r.send.target() != Some(*unit));
            return Ok(patch
                .units
                .get(at.min(patch.units.len().saturating_sub(1)))
                .map(|u| u.id));
        }
        Edit::DuplicateUnit { unit } => return duplicate(patch, *unit).map(Some),
        Edit::RenameUnit { unit, name } => unit_mut(patch, *unit)?.name = name.trim().into(),
        Edit::SwitchUnit { unit, on } => unit_mut(patch, *unit)?.on = *on,
        Edit::AddRoute { from, to } => {
            let send = to.map_or_else(Send::output, Send::phase);
            add_route(patch, *from, send);
        }
        Edit::RemoveRoute { route } => {
            route_mut(patch, *route)?;
            patch.routes.retain(|r| r.id != *route);
        }
        Edit::SwitchRoute { route, on } => route_mut(patch, *route)?.on = *on,
        Edit::SetMeta { meta } => patch.meta = meta.clone(),
        Edit::Replace { patch: other } => *patch = (**other).clone(),
        Edit::Together { edits, .. } => {
            let mut select = None;
            for edit in edits {
                select = change(patch, edit)?.or(select);
            }
            return Ok(select);
        }
    }
    Ok(None)
}

fn add_operator(patch: &mut Patch, connect: &Connect) -> Result<UnitId, PatchError> {
    if patch.units.len() >= MAX_UNITS {
        return Err(PatchError::TooMany {
            path: "units".into(),
            max: MAX_UNITS,
            actual: MAX_UNITS + 1,
        });
    }
    let unit = Unit::operator(patch.free_unit());
    let id = unit.id;
    patch.units.push(unit);
    let send = match connect {
        Connect::Output => Send::output(),
        Connect::Unit { id: to } => Send::phase(*to),
    };
    add_route(patch, id, send);
    Ok(id)
}

fn add_route(patch: &mut Patch, from: UnitId, send: Send) {
    let id = patch.free_route();
    patch.routes.push(Route {
        id,
        from,
        on: true,
        send,
    });
}

fn duplicate(patch: &mut Patch, unit: UnitId) -> Result<UnitId, PatchError> {
    let at = position(patch, unit)?;
    let mut copy = patch.units[at].clone();
    copy.id = patch.free_unit();
    let name: String = copy
        .name
        .chars()
        .take(crate::validate::MAX_UNIT_NAME - 5)
        .collect();
    copy.name = format!("{name} copy");
    let id = copy.id;
    patch.units.insert(at + 1, copy);
    for route in patch.routes.clone() {
        let into = matches!(route.send.target(), Some(to) if to == unit);
        let mut send = route.send;
        if let (true, Send::Phase { to, .. }) = (into, &mut send) {
            *to = id;
        }
        let from = if route.from == unit { id } else { route.from };
        if into || from == id {
            add_route(patch, from, send);
            if let Some(last) = patch.routes.last_mut() {
                last.on = route.on;
            }
        }
    }
    Ok(id)
}

fn position(patch: &Patch, unit: UnitId) -> Result<usize, PatchError> {
    let at = patch.units.iter().position(|u| u.id == unit);
    at.ok_or_else(|| PatchError::NoUnit {
        path: "edit".into(),
        unit,
    })
}

fn unit_mut(patch: &mut Patch, unit: UnitId) -> Result<&mut Unit, PatchError> {
    patch.unit_mut(unit).ok_or_else(|| PatchError::NoUnit {
        path: "edit".into(),
        unit,
    })
}

fn route_mut(patch: &mut Patch, route: RouteId) -> Result<&mut Route, PatchError> {
    patch
        .routes
        .iter_mut()
        .find(|r| r.id == route)
        .ok_or(PatchError::NoRoute { route })
}

impl Edit {
    /// What was done, in a few words, for the undo and redo buttons.
    pub fn label(&self, patch: &Patch) -> String {
        let name = |unit: &UnitId| {
            patch
                .unit(*unit)
                .map_or_else(|| unit.0.to_string(), |u| u.name.clone())
        };
        match self {
            Edit::SetValue { address, .. } => param(address.param).label.to_lowercase(),
            Edit::AddOperator { .. } => "add operator".into(),
            Edit::RemoveUnit { unit } => format!("remove {}", name(unit)),
            Edit::DuplicateUnit { unit } => format!("duplicate {}", name(unit)),
            Edit::RenameUnit { unit, .. } => format!("rename {}", name(unit)),
            Edit::SwitchUnit { unit, on } => {
                format!("switch {} {}", name(unit), if *on { "on" } else { "off" })
            }
            Edit::AddRoute { from, to: Some(to) } => {
                format!("route {} to {}", name(from), name(to))
            }
            Edit::AddRoute { from, to: None } => format!("route {} to the output", name(from)),
            Edit::RemoveRoute { .. } => "remove route".into(),
            Edit::SwitchRoute { on, .. } => {
                format!("switch route {}", if *on { "on" } else { "off" })
            }
            Edit::SetMeta { .. } => "description".into(),
            Edit::Replace { .. } => "bring back".into(),
            Edit::Together { label, .. } => label.clone(),
        }
    }
}
