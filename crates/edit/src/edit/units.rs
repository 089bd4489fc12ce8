//! Adding, copying and removing units with their routes: nothing arrives silent, and nothing that leaves takes others with it.

use super::edits::Connect;
use super::find::{position, route_mut, unit_mut};
use super::routing::{add as add_route, usual};
use super::{envelopes, groups};
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::catalogue::param;
use zolvik_patch::document::Unit;
use zolvik_patch::document::{Bus, Route, RouteKind, Send};
use zolvik_patch::document::{KindName, UnitKind};
use zolvik_patch::document::{RouteId, UnitId};
use zolvik_patch::error::PatchError;
use zolvik_patch::limits::{MAX_LINKS, MAX_UNIT_NAME, MAX_UNITS};
use zolvik_patch::movement::Link;
use zolvik_patch::param::{Owner, ParamId};
use zolvik_patch::plain::{clean_name, named_after};
use zolvik_patch::sound::Sound;

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
    let mut unit = Unit::new(patch.free_unit(), kind);
    let id = unit.id;
    let ends: &[UnitId] = match connect {
        Connect::Unit { id } => core::slice::from_ref(id),
        Connect::Units { ids } => ids,
        _ => &[],
    };
    for end in ends {
        position(patch, *end)?;
    }
    // what moves another one begins and ends with it
    let shape = ends.first().and_then(|first| patch.unit(*first));
    if let Some(first) = shape.filter(|u| kind.is_source() && u.kind.name().is_source()) {
        unit.envelope = first.envelope.clone();
    }
    // what was imported last is what one more sample is wanted for
    let imported = patch.units.iter().rev().find_map(Unit::own_sound).cloned();
    if let (UnitKind::Sample(sample), Some(own)) = (&mut unit.kind, imported) {
        sample.take(&Sound::Own(own));
    }
    patch.units.push(unit);
    match connect {
        Connect::Output if !kind.is_source() => take_through(patch, id)?,
        Connect::Unit { id: after } if !kind.is_source() => put_after(patch, id, *after)?,
        Connect::Units { ids } if !kind.is_source() => put_after_all(patch, id, ids),
        Connect::Group { id: group } if !kind.is_source() => {
            let units = groups::group_mut(patch, *group)?.units.clone();
            lead_through(patch, id, &|from| units.contains(&from))?;
        }
        Connect::Through { id: after } if !kind.is_source() => put_after(patch, id, *after)?,
        Connect::Group { id: group } => {
            groups::group_mut(patch, *group)?.units.push(id);
            add_route(patch, id, way_out(kind));
        }
        Connect::Output => add_route(patch, id, way_out(kind)),
        Connect::Through { id: filter } => {
            position(patch, *filter)?;
            let way = Send::Audio {
                to: *filter,
                pass_db: arriving_db(kind),
                pass_pan: 0.0,
            };
            add_route(patch, id, way);
        }
        Connect::Unit { .. } | Connect::Units { .. } => {
            for end in ends {
                add_route(patch, id, moving(patch, *end));
            }
        }
    }
    Ok(id)
}

/// How loudly noise arrives, in dB: it is heard at all pitches at once.
const NOISE_DB: f64 = -30.0;
/// How far a new modulator moves a cutoff, as a multiple of it.
const GENTLE: f64 = 0.1;

/// The way of a new source: straight out. Into a filter it goes where that is asked for.
pub(super) fn way_out(kind: KindName) -> Send {
    Send::Output {
        level_db: arriving_db(kind),
        pan: 0.0,
        bus: Bus::Main,
    }
}

/// How loudly a source arrives, in dB.
fn arriving_db(kind: KindName) -> f64 {
    match kind {
        KindName::Noise => NOISE_DB,
        _ => param(Send::LEVEL_DB).default,
    }
}

/// The filter, shaper or level strip that everything goes through that is heard, the first of a row of them; what goes out clean is left
/// out of account, and so is one unit.
pub(crate) fn common_way(patch: &Patch, besides: UnitId) -> Option<UnitId> {
    let outs = patch.routes.iter().filter(|r| {
        let clean = matches!(
            r.send,
            Send::Output {
                bus: Bus::Clean,
                ..
            }
        );
        r.send.target().is_none() && !clean && r.from != besides
    });
    let mut ends: Vec<UnitId> = outs.map(|r| r.from).collect();
    ends.dedup();
    let [mut end] = ends[..] else { return None };
    let passes = |id: UnitId| patch.unit(id).is_some_and(|u| !u.kind.name().is_source());
    if !passes(end) {
        return None;
    }
    for _ in 0..MAX_UNITS {
        let mut into = patch
            .routes
            .iter()
            .filter(|r| r.send.target() == Some(end) && r.send.kind() == Some(RouteKind::Audio));
        match (into.next(), into.next()) {
            (Some(only), None) if passes(only.from) && only.from != end => end = only.from,
            _ => break,
        }
    }
    Some(end)
}

/// What a new modulator does to a unit, gently: a filter's cutoff and a level move by little.
fn moving(patch: &Patch, to: UnitId) -> Send {
    let takes = patch.unit(to).map_or(&[][..], |u| u.kind.name().takes());
    let moves = [RouteKind::Phase, RouteKind::Frequency, RouteKind::Amplitude];
    let kind = moves.into_iter().find(|kind| takes.contains(kind));
    match kind.unwrap_or_else(|| usual(patch, to, RouteKind::Phase)) {
        RouteKind::Frequency => Send::Frequency {
            to,
            deviation: GENTLE,
        },
        kind => Send::to_unit(kind, to),
    }
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

pub(super) fn duplicate(patch: &mut Patch, units: &[UnitId]) -> Result<Vec<UnitId>, PatchError> {
    let mut places = vec![];
    for unit in units {
        places.push(position(patch, *unit)?);
    }
    // copies stand together, after the last of what they are copied from, in the order that has
    places.sort_unstable();
    places.dedup();
    let actual = patch.units.len() + places.len();
    if actual > MAX_UNITS {
        return Err(PatchError::TooMany {
            path: "units".into(),
            max: MAX_UNITS,
            actual,
        });
    }
    if let [at] = places[..]
        && !patch.units[at].kind.name().is_source()
    {
        return duplicate_in_series(patch, at);
    }
    let after = places.last().map_or(0, |last| last + 1);
    let mut copies: Vec<(UnitId, UnitId)> = vec![];
    for (n, at) in places.iter().enumerate() {
        let mut copy = patch.units[*at].clone();
        let old = copy.id;
        copy.id = patch.free_unit();
        copy.name = named_after(&copy.name, "copy", MAX_UNIT_NAME);
        copies.push((old, copy.id));
        patch.units.insert(after + n, copy);
        let [from, id] = [old, patch.units[after + n].id];
        if let Some(group) = patch.groups.iter_mut().find(|g| g.units.contains(&from)) {
            group.units.push(id);
        }
    }
    let copy_of = |id: UnitId| {
        copies
            .iter()
            .find(|(old, _)| *old == id)
            .map(|(_, copy)| *copy)
    };
    let mut routes = vec![];
    for route in patch.routes.clone() {
        let (from, to) = (copy_of(route.from), route.send.target().and_then(copy_of));
        if from.is_none() && to.is_none() {
            continue;
        }
        routes.push((route.id, patch.free_route()));
        let mut send = route.send;
        if let Some(to) = to {
            send.redirect(to);
        }
        add_route(patch, from.unwrap_or(route.from), send);
        if let Some(last) = patch.routes.last_mut() {
            last.on = route.on;
        }
    }
    move_copies(patch, &copies, &routes);
    Ok(copies.into_iter().map(|(_, copy)| copy).collect())
}

/// A filter, shaper or level once more, behind itself: what goes through it goes through both.
fn duplicate_in_series(patch: &mut Patch, at: usize) -> Result<Vec<UnitId>, PatchError> {
    let mut copy = patch.units[at].clone();
    let old = copy.id;
    copy.id = patch.free_unit();
    copy.name = named_after(&copy.name, "copy", MAX_UNIT_NAME);
    let id = copy.id;
    patch.units.insert(at + 1, copy);
    if let Some(group) = patch.groups.iter_mut().find(|g| g.units.contains(&old)) {
        group.units.push(id);
    }
    put_after(patch, id, old)?;
    move_copies(patch, &[(old, id)], &[]);
    Ok(vec![id])
}

/// What moves a value of a unit or route moves that of its copy as well, as far as there is room for links.
fn move_copies(patch: &mut Patch, units: &[(UnitId, UnitId)], routes: &[(RouteId, RouteId)]) {
    for link in patch.movement.links.clone() {
        let id = link.to.id;
        let copy = match param(link.to.param).owner {
            Owner::Unit | Owner::Point => units
                .iter()
                .find(|(old, _)| old.0 == id)
                .map(|(_, new)| new.0),
            Owner::Route => routes
                .iter()
                .find(|(old, _)| old.0 == id)
                .map(|(_, new)| new.0),
            _ => None,
        };
        if let (Some(id), true) = (copy, patch.movement.links.len() < MAX_LINKS) {
            let to = Address { id, ..link.to };
            let new = patch.free_link();
            patch.movement.links.push(Link {
                id: new,
                to,
                ..link
            });
        }
    }
}

/// Puts a filter or shaper between a unit and its way out; between a modulator and what it moves, which hears it filtered.
pub(super) fn put_after(patch: &mut Patch, id: UnitId, source: UnitId) -> Result<(), PatchError> {
    position(patch, source)?;
    let leads = |r: &Route| r.from == source && r.send.target() != Some(source);
    let out = patch.routes.iter().any(|r| leads(r) && r.send.is_way_out());
    let mut found = false;
    for route in &mut patch.routes {
        if leads(route) && (!out || route.send.is_way_out()) {
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

/// Puts a unit that sound goes through on a route. The route goes on from it as it was; the way into it is whole, and a sound's place is
/// kept where it was.
pub(super) fn insert(
    patch: &mut Patch,
    route: RouteId,
    kind: KindName,
    unit: Option<UnitId>,
) -> Result<UnitId, PatchError> {
    let source = route_mut(patch, route)?.from;
    let id = match unit {
        Some(unit) => unit,
        None if patch.units.len() >= MAX_UNITS => {
            return Err(PatchError::TooMany {
                path: "units".into(),
                max: MAX_UNITS,
                actual: MAX_UNITS + 1,
            });
        }
        None => {
            let new = Unit::new(patch.free_unit(), kind);
            let id = new.id;
            patch.units.push(new);
            id
        }
    };
    let at = position(patch, id)?;
    let takes = patch.units[at].kind.name().takes();
    let onto_itself = source == id || route_mut(patch, route)?.send.target() == Some(id);
    if !takes.contains(&RouteKind::Audio) || onto_itself {
        return Err(PatchError::Shape {
            path: "insert".into(),
            problem: "only a filter, shaper or level strip can stand between two others".into(),
        });
    }
    if unit.is_some() {
        patch
            .routes
            .retain(|r| r.from != id || !r.send.is_way_out());
    }
    route_mut(patch, route)?.from = id;
    // what it fed already, once is enough
    let send = route_mut(patch, route)?.send.clone();
    let twin = |r: &Route| {
        r.id != route
            && r.from == id
            && (r.send.target(), r.send.kind()) == (send.target(), send.kind())
    };
    patch.routes.retain(|r| !twin(r));
    let fed = |r: &Route| {
        r.from == source && r.send.target() == Some(id) && r.send.kind() == Some(RouteKind::Audio)
    };
    if !patch.routes.iter().any(fed) {
        add_route(patch, source, Send::to_unit(RouteKind::Audio, id));
    }
    Ok(id)
}

/// Puts a filter or shaper after several units: each keeps its level and place on the way in, and it leads where they led. What only
/// moves others goes on doing so, heard through it.
pub(super) fn put_after_all(patch: &mut Patch, id: UnitId, sources: &[UnitId]) {
    let row = param(Send::PASS_DB);
    let out = patch
        .routes
        .iter()
        .any(|r| sources.contains(&r.from) && r.send.is_way_out());
    let mut leads: Vec<Send> = vec![];
    let mut led: Vec<UnitId> = vec![];
    let mut routes = core::mem::take(&mut patch.routes);
    routes.retain_mut(|route| {
        let inside = route.send.target().is_some_and(|to| sources.contains(&to));
        let goes = sources.contains(&route.from) && !inside && (!out || route.send.is_way_out());
        if !goes {
            return true;
        }
        let mut onward = route.send.clone();
        let (pass_db, pass_pan) = match &mut onward {
            Send::Output { level_db, pan, .. } => (core::mem::take(level_db), core::mem::take(pan)),
            Send::Audio {
                pass_db, pass_pan, ..
            } => (core::mem::take(pass_db), core::mem::take(pass_pan)),
            _ => (0.0, 0.0),
        };
        let alike = |s: &Send| (s.target(), s.kind()) == (onward.target(), onward.kind());
        if !leads.iter().any(alike) {
            leads.push(onward);
        }
        route.send = Send::Audio {
            to: id,
            pass_db: pass_db.clamp(row.min, row.max),
            pass_pan,
        };
        let first = !led.contains(&route.from);
        led.push(route.from);
        first
    });
    patch.routes = routes;
    if leads.is_empty() {
        leads.push(Send::output());
    }
    for send in leads {
        add_route(patch, id, send);
    }
    for source in sources {
        if patch.sends(*source).next().is_none() {
            add_route(patch, *source, Send::to_unit(RouteKind::Audio, id));
        }
    }
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
    let fed = |r: &Route| r.send.target() == Some(id) && r.send.kind() == Some(RouteKind::Audio);
    if !patch.routes.iter().any(fed) {
        // nothing was heard of it: what now goes through is as loud as it was
        let own = patch.routes.iter_mut().filter(|r| r.from == id);
        for route in own {
            if let Send::Output { level_db, .. } = &mut route.send {
                *level_db = 0.0;
            }
        }
    }
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
