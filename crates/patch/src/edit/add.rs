//! Adding and removing units with their routes: nothing arrives silent, and nothing that leaves takes others with it.

use super::{Connect, position, usual};
use crate::catalogue::{ParamId, param};
use crate::document::{Bus, KindName, MAX_UNITS, Patch, Route, RouteKind, Send, Unit, UnitId};
use crate::error::PatchError;

/// Adds a route.
pub(super) fn route(patch: &mut Patch, from: UnitId, send: Send) {
    let id = patch.free_route();
    patch.routes.push(Route {
        id,
        from,
        on: true,
        send,
    });
}

/// Adds a unit, connected.
pub(super) fn unit(
    patch: &mut Patch,
    kind: KindName,
    connect: &Connect,
) -> Result<UnitId, PatchError> {
    if patch.units.len() >= MAX_UNITS {
        return Err(PatchError::TooMany {
            path: "units".into(),
            max: MAX_UNITS,
            actual: MAX_UNITS + 1,
        });
    }
    let unit = Unit::new(patch.free_unit(), kind);
    let id = unit.id;
    patch.units.push(unit);
    match connect {
        _ if !kind.is_source() => match connect {
            Connect::Output => take_through(patch, id)?,
            Connect::Unit { id: behind } => put_behind(patch, id, *behind)?,
        },
        Connect::Output => route(patch, id, Send::output()),
        Connect::Unit { id: to } => {
            let send = Send::to_unit(usual(patch, *to, RouteKind::Phase), *to);
            route(patch, id, send);
        }
    }
    Ok(id)
}

/// Puts a filter or shaper between a unit and its way out.
fn put_behind(patch: &mut Patch, id: UnitId, source: UnitId) -> Result<(), PatchError> {
    position(patch, source)?;
    let is_out = |r: &Route| matches!(r.send.kind(), None | Some(RouteKind::Audio));
    let mut found = false;
    for route in &mut patch.routes {
        if route.from == source && is_out(route) {
            route.from = id;
            found = true;
        }
    }
    if !found {
        route(patch, id, Send::output());
    }
    route(patch, source, Send::to_unit(RouteKind::Audio, id));
    Ok(())
}

/// Leads everything that is heard through a unit; what goes out clean stays so.
pub(super) fn take_through(patch: &mut Patch, id: UnitId) -> Result<(), PatchError> {
    position(patch, id)?;
    let row = param(ParamId::RoutePassDb);
    for route in &mut patch.routes {
        match route.send {
            Send::Output {
                bus: Bus::Clean, ..
            } => {}
            Send::Output { level_db, .. } if route.from != id => {
                let pass_db = level_db.clamp(row.min, row.max);
                route.send = Send::Audio { to: id, pass_db };
            }
            _ => {}
        }
    }
    if !patch.sends(id).any(|r| r.send.target().is_none()) {
        // the sources' own levels are kept on the way in
        let (pan, bus) = (0.0, Bus::Main);
        let level_db = 0.0;
        route(patch, id, Send::Output { level_db, pan, bus });
    }
    Ok(())
}

/// What went through a unit goes on where that led, as loudly.
pub(super) fn lead_past(patch: &mut Patch, id: UnitId) {
    let within = |id: ParamId, db: f64| db.clamp(param(id).min, param(id).max);
    let fed: Vec<(UnitId, f64)> = patch
        .routes
        .iter()
        .filter(|r| r.from != id)
        .filter_map(|r| match r.send {
            Send::Audio { to, pass_db } if to == id => Some((r.from, pass_db)),
            _ => None,
        })
        .collect();
    let leads: Vec<Send> = patch
        .sends(id)
        .filter(|r| r.send.target() != Some(id))
        .map(|r| r.send.clone())
        .collect();
    for (source, by_db) in fed {
        for send in &leads {
            let same = |r: &Route| (r.send.target(), r.send.kind()) == (send.target(), send.kind());
            if patch.sends(source).any(same) {
                continue;
            }
            let mut send = send.clone();
            match &mut send {
                Send::Output { level_db, .. } => {
                    *level_db = within(ParamId::RouteLevelDb, *level_db + by_db);
                }
                Send::Audio { pass_db, .. } => {
                    *pass_db = within(ParamId::RoutePassDb, *pass_db + by_db);
                }
                _ => {}
            }
            route(patch, source, send);
        }
    }
}
