//! Adding, copying and removing units with their routes: nothing arrives silent, and nothing that leaves takes others with it.

use super::routing::{add as add_route, usual};
use super::{Connect, envelopes, groups, position, unit_mut};
use crate::catalogue::param;
use crate::error::PatchError;
use crate::ids::UnitId;
use crate::kinds::KindName;
use crate::limits::{MAX_UNIT_NAME, MAX_UNITS};
use crate::param::ParamId;
use crate::patch::Patch;
use crate::plain::{clean_name, named_after};
use crate::route::{Bus, Route, RouteKind, Send};
use crate::unit::Unit;

/// Adds a unit, connected.
pub(super) fn add(
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
            Connect::Unit { id: after } => put_after(patch, id, *after)?,
            Connect::Group { id: group } => {
                let units = groups::group_mut(patch, *group)?.units.clone();
                lead_through(patch, id, &|from| units.contains(&from))?;
            }
        },
        Connect::Group { id: group } => {
            groups::group_mut(patch, *group)?.units.push(id);
            add_route(patch, id, Send::output());
        }
        Connect::Output => add_route(patch, id, Send::output()),
        Connect::Unit { id: to } => {
            let send = Send::to_unit(usual(patch, *to, RouteKind::Phase), *to);
            add_route(patch, id, send);
        }
    }
    Ok(id)
}

pub(super) fn remove(patch: &mut Patch, unit: UnitId) -> Result<Option<UnitId>, PatchError> {
    let at = position(patch, unit)?;
    lead_past(patch, unit);
    patch.units.remove(at);
    patch
        .routes
        .retain(|r| r.from != unit && r.send.target() != Some(unit));
    groups::leave(patch, &[unit]);
    envelopes::unlink(patch, &[unit]);
    let next = patch.units.get(at.min(patch.units.len().saturating_sub(1)));
    Ok(next.map(|u| u.id))
}

pub(super) fn rename(patch: &mut Patch, unit: UnitId, name: &str) -> Result<(), PatchError> {
    unit_mut(patch, unit)?.name = clean_name(name);
    Ok(())
}

pub(super) fn duplicate(patch: &mut Patch, unit: UnitId) -> Result<UnitId, PatchError> {
    let at = position(patch, unit)?;
    let mut copy = patch.units[at].clone();
    copy.id = patch.free_unit();
    copy.name = named_after(&copy.name, "copy", MAX_UNIT_NAME);
    let id = copy.id;
    patch.units.insert(at + 1, copy);
    if let Some(group) = patch.groups.iter_mut().find(|g| g.units.contains(&unit)) {
        group.units.push(id);
    }
    for route in patch.routes.clone() {
        let into = matches!(route.send.target(), Some(to) if to == unit);
        let mut send = route.send;
        if into {
            send.redirect(id);
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

/// Puts a filter or shaper between a unit and its way out.
fn put_after(patch: &mut Patch, id: UnitId, source: UnitId) -> Result<(), PatchError> {
    position(patch, source)?;
    let mut found = false;
    for route in &mut patch.routes {
        if route.from == source && route.send.is_way_out() {
            route.from = id;
            found = true;
        }
    }
    if !found {
        add_route(patch, id, Send::output());
    }
    add_route(patch, source, Send::to_unit(RouteKind::Audio, id));
    Ok(())
}

/// Leads everything that is heard through a unit; what goes out clean stays so.
pub(super) fn take_through(patch: &mut Patch, id: UnitId) -> Result<(), PatchError> {
    lead_through(patch, id, &|_| true)
}

/// Leads what is heard of some units through one.
fn lead_through(
    patch: &mut Patch,
    id: UnitId,
    leads: &dyn Fn(UnitId) -> bool,
) -> Result<(), PatchError> {
    position(patch, id)?;
    let row = param(Send::PASS_DB);
    for route in &mut patch.routes {
        match route.send {
            Send::Output {
                bus: Bus::Clean, ..
            } => {}
            Send::Output { level_db, pan, .. } if route.from != id && leads(route.from) => {
                route.send = Send::Audio {
                    to: id,
                    pass_db: level_db.clamp(row.min, row.max),
                    pass_pan: pan,
                };
            }
            _ => {}
        }
    }
    if !patch.sends(id).any(|r| r.send.target().is_none()) {
        // the sources' own levels are kept on the way in
        let (pan, bus) = (0.0, Bus::Main);
        let level_db = 0.0;
        add_route(patch, id, Send::Output { level_db, pan, bus });
    }
    Ok(())
}

/// What went through a unit goes on where that led, as loudly.
fn lead_past(patch: &mut Patch, id: UnitId) {
    let within = |id: ParamId, value: f64| value.clamp(param(id).min, param(id).max);
    let fed: Vec<(UnitId, f64, f64)> = patch
        .routes
        .iter()
        .filter(|r| r.from != id)
        .filter_map(|r| match r.send {
            Send::Audio {
                to,
                pass_db,
                pass_pan,
            } if to == id => Some((r.from, pass_db, pass_pan)),
            _ => None,
        })
        .collect();
    let leads: Vec<Send> = patch
        .sends(id)
        .filter(|r| r.send.target() != Some(id))
        .map(|r| r.send.clone())
        .collect();
    for (source, by_db, by_pan) in fed {
        for send in &leads {
            let same = |r: &Route| (r.send.target(), r.send.kind()) == (send.target(), send.kind());
            if patch.sends(source).any(same) {
                continue;
            }
            let mut send = send.clone();
            match &mut send {
                Send::Output { level_db, pan, .. } => {
                    *level_db = within(Send::LEVEL_DB, *level_db + by_db);
                    *pan = within(Send::PAN, *pan + by_pan);
                }
                Send::Audio {
                    pass_db, pass_pan, ..
                } => {
                    *pass_db = within(Send::PASS_DB, *pass_db + by_db);
                    *pass_pan = within(Send::PASS_PAN, *pass_pan + by_pan);
                }
                _ => {}
            }
            add_route(patch, source, send);
        }
    }
}
