//! Sources of movement, their shapes and their links.

use super::find::{link_mut, source_mut};
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::catalogue::param;
use zolvik_patch::document::{LinkId, SourceId, UnitId};
use zolvik_patch::error::PatchError;
use zolvik_patch::limits::MAX_SHAPE_POINTS;
use zolvik_patch::movement::amount::{amount_row, gentle, row_of, way, with_ends, with_way};
use zolvik_patch::movement::shape::{Turn, point, turned};
use zolvik_patch::movement::{
    Direction, Kept, Link, Macro, ShapePoint, Source, SourceKind, SourceName, Step, target,
};
use zolvik_patch::param::Owner;
use zolvik_patch::plain::clean_name;
use zolvik_patch::playing::articulation::Difference;
use zolvik_patch::playing::differing;

/// What happened in a row of points or bands, and where.
#[derive(Clone, Copy)]
pub(super) enum InRow {
    /// One came in.
    Came(usize),
    /// One went.
    Went(usize),
}

/// Lets links go on with the points or bands they moved; those to one that went go with it.
pub(super) fn links_follow(patch: &mut Patch, (owner, id): (Owner, u16), change: InRow) {
    let of_row = |l: &Link| l.to.id == id && param(l.to.param).owner == owner;
    let links = &mut patch.movement.links;
    if let InRow::Went(at) = change {
        links.retain(|l| !(of_row(l) && usize::from(l.to.point) == at));
    }
    for link in links.iter_mut().filter(|l| of_row(l)) {
        let point = usize::from(link.to.point);
        match change {
            InRow::Came(at) if point >= at => link.to.point += 1,
            InRow::Went(at) if point > at => link.to.point -= 1,
            _ => {}
        }
    }
}

/// Takes out links that lead from or to what is no longer there, and lets followers follow something there is.
pub(super) fn tidy(patch: &mut Patch) {
    if patch.movement.is_empty() {
        return;
    }
    // a link that goes may have been moved itself
    loop {
        let stays = |l: &Link| patch.source(l.from).is_some() && target::is_there(patch, l.to);
        let kept: Vec<bool> = patch.movement.links.iter().map(stays).collect();
        let before = kept.len();
        let mut kept = kept.into_iter();
        patch.movement.links.retain(|_| kept.next() == Some(true));
        if patch.movement.links.len() == before {
            break;
        }
    }
    let sources: Vec<SourceId> = patch.movement.sources.iter().map(|s| s.id).collect();
    for link in &mut patch.movement.links {
        link.scaled_by = link.scaled_by.filter(|by| sources.contains(by));
    }
    let units: Vec<UnitId> = patch.units.iter().map(|u| u.id).collect();
    for source in &mut patch.movement.sources {
        if let (SourceKind::Follower(follower), Some(first)) = (&mut source.kind, units.first())
            && !units.contains(&follower.unit)
        {
            follower.unit = *first;
        }
    }
}

pub(super) fn add(
    patch: &mut Patch,
    kind: SourceName,
    to: &[Address],
) -> Result<UnitId, PatchError> {
    let mut source = Source::new(patch.free_source(), kind);
    if let (SourceKind::Follower(follower), Some(first)) = (&mut source.kind, patch.units.first()) {
        follower.unit = first.id;
    }
    let id = source.id;
    // each kind counts by itself
    let mut names = (1..).map(|n| format!("{} {n}", kind.label()));
    source.name = names
        .find(|name| is_free(patch, name))
        .unwrap_or(source.name);
    patch.movement.sources.push(source);
    link(patch, id, to)?;
    Ok(id.into())
}

fn is_free(patch: &Patch, name: &String) -> bool {
    patch.movement.sources.iter().all(|s| s.name != *name)
}

/// Whether a source has the name it came with.
fn is_named_by_kind(source: &Source) -> bool {
    let number = source.name.strip_prefix(source.kind.name().label());
    number.is_some_and(|n| n.trim_start().parse::<u16>().is_ok())
}

/// Names sources that got their first link after what it moves, as long as nobody named them.
pub(super) fn name_after_targets(before: &Patch, next: &mut Patch) {
    let begun = |s: &&Source| {
        is_named_by_kind(s)
            && next.links_of(s.id).next().is_some()
            && before.links_of(s.id).next().is_none()
    };
    let begun: Vec<SourceId> = next
        .movement
        .sources
        .iter()
        .filter(begun)
        .map(|s| s.id)
        .collect();
    for id in begun {
        let Some(name) = name_after_target(next, id) else {
            continue;
        };
        if let Ok(source) = source_mut(next, id) {
            source.name = name;
        }
    }
}

/// A macro is called by what it moves, another source by its kind too; where that is taken it is counted.
fn name_after_target(patch: &Patch, id: SourceId) -> Option<String> {
    let source = patch.source(id)?;
    let to = patch.links_of(id).next()?.to;
    let value = param(to.param).label;
    let name = match source.kind.name() {
        SourceName::Macro => value.to_owned(),
        SourceName::Lfo => format!("{value} LFO"),
        kind => format!("{value} {}", kind.label().to_lowercase()),
    };
    let counted = (2..).map(|n| format!("{name} {n}"));
    let mut names = core::iter::once(name.clone()).chain(counted);
    names.find(|name| is_free(patch, name))
}

pub(super) fn remove(patch: &mut Patch, source: SourceId) -> Result<(), PatchError> {
    source_mut(patch, source)?;
    patch.movement.sources.retain(|s| s.id != source);
    Ok(())
}

pub(super) fn duplicate(patch: &mut Patch, source: SourceId) -> Result<UnitId, PatchError> {
    let mut copy = source_mut(patch, source)?.clone();
    copy.id = patch.free_source();
    let new = copy.id;
    patch.movement.sources.push(copy);
    let links: Vec<Link> = patch.links_of(source).cloned().collect();
    for link in links {
        let id = patch.free_link();
        patch.movement.links.push(Link {
            id,
            from: new,
            ..link
        });
    }
    Ok(new.into())
}

pub(super) fn rename(patch: &mut Patch, source: SourceId, name: &str) -> Result<(), PatchError> {
    source_mut(patch, source)?.name = clean_name(name);
    Ok(())
}

pub(super) fn follow(patch: &mut Patch, source: SourceId, unit: UnitId) -> Result<(), PatchError> {
    match &mut source_mut(patch, source)?.kind {
        SourceKind::Follower(follower) => follower.unit = unit,
        _ => return Err(other_kind("it follows nothing")),
    }
    Ok(())
}

fn other_kind(problem: &str) -> PatchError {
    PatchError::Shape {
        path: "source.kind".into(),
        problem: problem.into(),
    }
}

pub(super) fn link(patch: &mut Patch, from: SourceId, to: &[Address]) -> Result<(), PatchError> {
    source_mut(patch, from)?;
    for to in to {
        if patch.links_of(from).any(|l| l.to == *to) {
            continue;
        }
        if !target::is_there(patch, *to) {
            return Err(PatchError::Unmoved {
                path: "link".into(),
                name: target::name(patch, *to),
            });
        }
        let link = gentle(patch, from, *to);
        patch.movement.links.push(link);
    }
    Ok(())
}

pub(super) fn unlink(patch: &mut Patch, link: LinkId) -> Result<(), PatchError> {
    link_mut(patch, link)?;
    patch.movement.links.retain(|l| l.id != link);
    Ok(())
}

/// Turns all that a source moves round; a macro so that what was at one end is at the other.
pub(super) fn turn_source(patch: &mut Patch, source: SourceId) -> Result<(), PatchError> {
    let is_macro = matches!(source_mut(patch, source)?.kind, SourceKind::Macro(_));
    let links: Vec<Link> = patch.links_of(source).cloned().collect();
    for link in links {
        match way(patch, &link).filter(|_| is_macro) {
            Some((low, high)) => set_way(patch, link.id, (high, low))?,
            None => link_mut(patch, link.id)?.turn(),
        }
    }
    Ok(())
}

pub(super) fn set_ends(
    patch: &mut Patch,
    link: LinkId,
    ends: (f64, f64),
) -> Result<(), PatchError> {
    let found = link_mut(patch, link)?.clone();
    let (base, amount) = with_ends(patch, &found, ends);
    found.to.set(patch, base)?;
    link_mut(patch, link)?.amount = amount;
    Ok(())
}

pub(super) fn set_way(patch: &mut Patch, link: LinkId, ends: (f64, f64)) -> Result<(), PatchError> {
    let found = link_mut(patch, link)?.clone();
    let (base, amount) = with_way(patch, &found, ends);
    found.to.set(patch, base)?;
    link_mut(patch, link)?.amount = amount;
    Ok(())
}

pub(super) fn like_link(patch: &mut Patch, link: LinkId, like: LinkId) -> Result<(), PatchError> {
    let (own, other) = (
        link_mut(patch, link)?.clone(),
        link_mut(patch, like)?.clone(),
    );
    // as far in its own range as the other one in its
    let reach = |to: Address| amount_row(param(to.param)).max;
    let amount = match own.to.param == other.to.param {
        true => other.amount,
        false => other.amount / reach(other.to) * reach(own.to),
    };
    *link_mut(patch, link)? = Link {
        id: own.id,
        from: own.from,
        to: own.to,
        on: own.on,
        amount,
        ..other
    };
    Ok(())
}

/// Keeps what the targets of a macro are, as it is turned up from its low end.
pub(super) fn keep_low(patch: &mut Patch, source: SourceId) {
    let now = |l: &Link| {
        let value = l.to.get(patch).ok()?;
        Some(Kept {
            address: l.to,
            value,
        })
    };
    let kept: Vec<Kept> = patch.links_of(source).filter_map(now).collect();
    if let Some(SourceKind::Macro(own)) = patch.source_mut(source).map(|s| &mut s.kind) {
        own.kept = kept;
    }
}

fn macro_mut(patch: &mut Patch, source: SourceId) -> Result<&mut Macro, PatchError> {
    match &mut source_mut(patch, source)?.kind {
        SourceKind::Macro(own) => Ok(own),
        _ => Err(other_kind("it is no macro")),
    }
}

pub(super) fn take_end(patch: &mut Patch, source: SourceId, high: bool) -> Result<(), PatchError> {
    let (place, kept) = {
        let own = macro_mut(patch, source)?;
        (own.place, own.kept.clone())
    };
    let links: Vec<Link> = patch.links_of(source).cloned().collect();
    for link in links {
        let row = row_of(patch, link.to);
        let base = link.to.get(patch)?;
        let heard = row
            .domain
            .leave(row.domain.enter(base) + link.motion(place))
            .clamp(row.min, row.max);
        let (low, top) = way(patch, &link).unwrap_or((base, base));
        let ends = match high {
            true => {
                let kept = kept.iter().find(|k| k.address == link.to);
                (kept.map_or(low, |k| k.value), heard)
            }
            false => (heard, top),
        };
        set_way(patch, link.id, ends)?;
    }
    macro_mut(patch, source)?.place = if high { 1.0 } else { 0.0 };
    if !high {
        keep_low(patch, source);
    }
    Ok(())
}

pub(super) fn morph(patch: &mut Patch, source: SourceId) -> Result<(), PatchError> {
    macro_mut(patch, source)?;
    let Some(other) = patch.other.clone() else {
        return Err(other_kind(
            "there is no other state to lead to; keep one as B first",
        ));
    };
    let changed = differing::differences(patch, &other);
    let values = changed.into_iter().filter_map(|d| match d {
        Difference::Value { address, value } => Some((address, value)),
        _ => None,
    });
    let values: Vec<(Address, f64)> = values
        .filter(|(address, _)| {
            target::is_there(patch, *address) && UnitId(address.id).source() != Some(source)
        })
        .collect();
    if values.is_empty() {
        return Err(other_kind(
            "nothing that can be moved is different in the other state",
        ));
    }
    for (address, there) in values {
        link(patch, source, &[address])?;
        let own = patch
            .links_of(source)
            .find(|l| l.to == address)
            .map(|l| l.id);
        if let Some(id) = own {
            link_mut(patch, id)?.direction = Direction::Up;
            let here = address.get(patch)?;
            set_way(patch, id, (here, there))?;
        }
    }
    macro_mut(patch, source)?.place = 0.0;
    keep_low(patch, source);
    Ok(())
}

fn points_mut(patch: &mut Patch, source: SourceId) -> Result<&mut Vec<ShapePoint>, PatchError> {
    // what is drawn in an effect is drawn as a cycle is
    if let Some(effect) = UnitId(source.0).effect() {
        let found = patch.effect_mut(effect);
        let found = found.ok_or(PatchError::NoEffect { effect })?;
        return found
            .points_mut()
            .ok_or_else(|| other_kind("it has no drawn curve"));
    }
    match &mut source_mut(patch, source)?.kind {
        SourceKind::Lfo(lfo) => Ok(&mut lfo.points),
        _ => Err(other_kind("it has no drawn cycle")),
    }
}

pub(super) fn set_shape(
    patch: &mut Patch,
    source: SourceId,
    points: &[ShapePoint],
) -> Result<(), PatchError> {
    *points_mut(patch, source)? = points.to_vec();
    Ok(())
}

pub(super) fn add_point(
    patch: &mut Patch,
    source: SourceId,
    at: f64,
    level: f64,
) -> Result<(), PatchError> {
    let points = points_mut(patch, source)?;
    let at = tidy_place(at.clamp(0.0, 1.0));
    let after = points
        .partition_point(|p| p.at <= at)
        .clamp(1, points.len() - 1);
    points.insert(after, point(at, tidy_place(level.clamp(0.0, 1.0)), 0.0));
    Ok(())
}

pub(super) fn remove_point(
    patch: &mut Patch,
    source: SourceId,
    at: usize,
) -> Result<(), PatchError> {
    let points = points_mut(patch, source)?;
    if at == 0 || at + 1 >= points.len() {
        return Err(PatchError::Shape {
            path: "shape".into(),
            problem: "a cycle keeps its first and last point".into(),
        });
    }
    points.remove(at);
    Ok(())
}

pub(super) fn move_point(
    patch: &mut Patch,
    source: SourceId,
    at: usize,
    to: (f64, f64),
) -> Result<(), PatchError> {
    let points = points_mut(patch, source)?;
    let last = points.len() - 1;
    // the ends stay at the ends, the others between their neighbours
    let (from, until) = match at {
        0 => (0.0, 0.0),
        at if at >= last => (1.0, 1.0),
        at => (points[at - 1].at, points[at + 1].at),
    };
    let point = &mut points[at.min(last)];
    point.at = tidy_place(to.0.clamp(from, until));
    point.level = tidy_place(to.1.clamp(0.0, 1.0));
    Ok(())
}

fn tidy_place(value: f64) -> f64 {
    libm::round(value * 1e4) / 1e4
}

pub(super) fn turn_shape(patch: &mut Patch, source: SourceId, how: Turn) -> Result<(), PatchError> {
    if UnitId(source.0).effect().is_some() {
        let points = points_mut(patch, source)?;
        *points = turned(points, how);
        return Ok(());
    }
    match &mut source_mut(patch, source)?.kind {
        SourceKind::Lfo(lfo) if how == Turn::Double && 2 * lfo.points.len() > MAX_SHAPE_POINTS => {
            return Err(PatchError::TooMany {
                path: "shape points".into(),
                max: MAX_SHAPE_POINTS,
                actual: 2 * lfo.points.len(),
            });
        }
        SourceKind::Lfo(lfo) => lfo.points = turned(&lfo.points, how),
        SourceKind::Steps(steps) => turn_steps(&mut steps.steps, how)?,
        _ => return Err(other_kind("it has nothing to be turned")),
    }
    Ok(())
}

fn turn_steps(steps: &mut Vec<Step>, how: Turn) -> Result<(), PatchError> {
    match how {
        Turn::Flip => steps.iter_mut().for_each(|s| s.level = 1.0 - s.level),
        Turn::Reverse => steps.reverse(),
        Turn::Halve => steps.truncate(steps.len().div_ceil(2)),
        Turn::Double if 2 * steps.len() > MAX_SHAPE_POINTS => {
            return Err(PatchError::TooMany {
                path: "steps".into(),
                max: MAX_SHAPE_POINTS,
                actual: 2 * steps.len(),
            });
        }
        Turn::Double => steps.extend_from_within(..),
    }
    Ok(())
}

pub(super) fn set_step_count(
    patch: &mut Patch,
    source: SourceId,
    count: usize,
) -> Result<(), PatchError> {
    let SourceKind::Steps(steps) = &mut source_mut(patch, source)?.kind else {
        return Err(other_kind("it has no steps"));
    };
    let before = steps.steps.clone();
    let repeated = before.iter().cycle().copied();
    steps.steps = repeated.take(count.clamp(1, MAX_SHAPE_POINTS)).collect();
    Ok(())
}
