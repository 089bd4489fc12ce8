//! Routes and the places of units in the routing.

use super::find::{position, route_mut};
use zolvik_patch::Patch;
use zolvik_patch::catalogue::param;
use zolvik_patch::document::{Bus, Route, RouteKind, Send};
use zolvik_patch::document::{RouteId, UnitId};
use zolvik_patch::error::PatchError;

/// Adds a route.
pub(super) fn add(patch: &mut Patch, from: UnitId, send: Send) {
    let id = patch.free_route();
    patch.routes.push(Route {
        id,
        from,
        on: true,
        send,
    });
}

/// What a route to a unit does there: as wished where the unit can take it, else the usual.
pub(super) fn usual(patch: &Patch, to: UnitId, wished: RouteKind) -> RouteKind {
    let takes = patch.unit(to).map_or(&[][..], |u| u.kind.name().takes());
    match takes.first() {
        Some(first) if !takes.contains(&wished) => *first,
        _ => wished,
    }
}

pub(super) fn connect(patch: &mut Patch, from: UnitId, to: Option<UnitId>, kind: RouteKind) {
    let send = match to {
        Some(to) => Send::to_unit(usual(patch, to, kind), to),
        None => Send::output(),
    };
    add(patch, from, send);
}

pub(super) fn set_kind(
    patch: &mut Patch,
    route: RouteId,
    kind: RouteKind,
) -> Result<(), PatchError> {
    let send = &mut route_mut(patch, route)?.send;
    if let (Some(to), true) = (send.target(), send.kind() != Some(kind)) {
        *send = Send::to_unit(kind, to);
    }
    Ok(())
}

pub(super) fn set_bus(patch: &mut Patch, route: RouteId, chosen: Bus) -> Result<(), PatchError> {
    let send = &mut route_mut(patch, route)?.send;
    match send {
        Send::Output { bus, .. } => *bus = chosen,
        // out of what it went through, as loudly and at the same place
        Send::Audio {
            pass_db, pass_pan, ..
        } => {
            let row = param(Send::LEVEL_DB);
            *send = Send::Output {
                level_db: pass_db.clamp(row.min, row.max),
                pan: *pass_pan,
                bus: chosen,
            };
        }
        _ => {}
    }
    Ok(())
}

pub(super) fn remove(patch: &mut Patch, route: RouteId) -> Result<(), PatchError> {
    route_mut(patch, route)?;
    patch.routes.retain(|r| r.id != route);
    Ok(())
}

pub(super) fn swap(patch: &mut Patch, a: UnitId, b: UnitId) -> Result<(), PatchError> {
    position(patch, a)?;
    position(patch, b)?;
    let other = |id: UnitId| match id {
        id if id == a => b,
        id if id == b => a,
        id => id,
    };
    for route in &mut patch.routes {
        route.from = other(route.from);
        if let Some(to) = route.send.target() {
            route.send.redirect(other(to));
        }
    }
    Ok(())
}

pub(super) fn make_modulator(
    patch: &mut Patch,
    unit: UnitId,
    of: UnitId,
) -> Result<UnitId, PatchError> {
    position(patch, unit)?;
    position(patch, of)?;
    // what leads to filters and shapers is a way out too; into another one it goes as loudly, from the same place
    let row = param(Send::PASS_DB);
    let was = patch.sends(unit).find_map(|r| match r.send {
        Send::Output { level_db, pan, .. } => Some((level_db, pan)),
        Send::Audio {
            pass_db, pass_pan, ..
        } => Some((pass_db, pass_pan)),
        _ => None,
    });
    patch
        .routes
        .retain(|r| r.from != unit || !r.send.is_way_out());
    if !patch.sends(unit).any(|r| r.send.target() == Some(of)) {
        let mut send = Send::to_unit(usual(patch, of, RouteKind::Phase), of);
        if let (
            Send::Audio {
                pass_db, pass_pan, ..
            },
            Some((level_db, pan)),
        ) = (&mut send, was)
        {
            (*pass_db, *pass_pan) = (level_db.clamp(row.min, row.max), pan);
        }
        add(patch, unit, send);
    }
    Ok(unit)
}

pub(super) fn make_carrier(patch: &mut Patch, unit: UnitId) -> Result<UnitId, PatchError> {
    position(patch, unit)?;
    let audio = |r: &Route| r.send.kind() == Some(RouteKind::Audio);
    patch
        .routes
        .retain(|r| r.from != unit || audio(r) || r.send.target().is_none_or(|to| to == unit));
    if !patch.sounds(unit) {
        add(patch, unit, Send::output());
    }
    Ok(unit)
}
