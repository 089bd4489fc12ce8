//! Adding strips that were typed as a line or copied.

use super::routing::add as add_route;
use super::units::{put_after, put_after_all, take_through, way_out};
use crate::line::NewStrip;
use zolvik_patch::Patch;
use zolvik_patch::document::Unit;
use zolvik_patch::document::UnitId;
use zolvik_patch::document::{RouteKind, Send};
use zolvik_patch::error::PatchError;
use zolvik_patch::limits::MAX_UNITS;

/// Adds strips; gives their numbers. Through a filter of which no more is said goes what stands before it in the line, else what is selected,
/// else everything; two of them in a row stand in series.
pub(super) fn add(
    patch: &mut Patch,
    strips: &[NewStrip],
    selected: Option<&[UnitId]>,
) -> Result<Vec<UnitId>, PatchError> {
    let actual = patch.units.len() + strips.len();
    if actual > MAX_UNITS {
        return Err(PatchError::TooMany {
            path: "units".into(),
            max: MAX_UNITS,
            actual,
        });
    }
    let mut added: Vec<(Option<u16>, UnitId)> = vec![];
    for strip in strips {
        let mut unit = strip.unit.clone();
        unit.id = patch.free_unit();
        if unit.name.is_empty() {
            unit.name = Unit::new(unit.id, unit.kind.name()).name;
        }
        added.push((strip.called, unit.id));
        patch.units.push(unit);
    }
    let numbers = || strips.iter().zip(&added);
    for (at, (strip, (called, id))) in numbers().enumerate() {
        let is_passer = |n: usize| !strips[n].unit.kind.name().is_source();
        let names =
            |s: &NewStrip| called.is_some() && s.sends.iter().any(|send| send.to == *called);
        let alone = strip.sends.is_empty() && !strips.iter().any(names);
        if let (true, true, Some(selected)) = (is_passer(at), alone, selected) {
            // what stands between the filter before and this one
            let from = (0..at).rev().find(|n| is_passer(*n)).map_or(0, |n| n + 1);
            let sources = (from..at).filter(|n| strips[*n].sends.is_empty());
            let before: Vec<UnitId> = sources.map(|n| added[n].1).collect();
            match at.checked_sub(1).filter(|n| is_passer(*n)) {
                Some(last) => put_after(patch, *id, added[last].1)?,
                None if !before.is_empty() => put_after_all(patch, *id, &before),
                None if !selected.is_empty() => put_after_all(patch, *id, selected),
                None => take_through(patch, *id)?,
            }
            say_level(patch, *id, strip);
            continue;
        }
        // a level or a place is that of a way out
        let out = strip.sends.is_empty() || strip.level_db.or(strip.pan).is_some();
        for new in &strip.sends {
            let Some(called) = new.to else {
                if !out {
                    add_route(patch, *id, new.send.clone());
                }
                continue;
            };
            let own = added.iter().find(|(name, _)| *name == Some(called));
            let to = match own {
                Some((_, to)) => *to,
                None if patch.unit(UnitId(called)).is_some() => UnitId(called),
                None => {
                    return Err(PatchError::NoUnit {
                        path: "line".into(),
                        unit: UnitId(called),
                    });
                }
            };
            let mut send = new.send.clone();
            let takes = patch.unit(to).map_or(&[][..], |u| u.kind.name().takes());
            if send.kind().is_some_and(|kind| !takes.contains(&kind)) {
                send = Send::to_unit(takes.first().copied().unwrap_or(RouteKind::Phase), to);
            }
            send.redirect(to);
            if !patch
                .sends(*id)
                .any(|r| (r.send.target(), r.send.kind()) == (send.target(), send.kind()))
            {
                add_route(patch, *id, send);
            }
        }
        if out {
            add_route(patch, *id, way_out(strip.unit.kind.name()));
            say_level(patch, *id, strip);
        }
    }
    Ok(added.into_iter().map(|(_, id)| id).collect())
}

/// Gives a strip's way out the level and place that were said.
fn say_level(patch: &mut Patch, id: UnitId, strip: &NewStrip) {
    let mut outs = patch
        .routes
        .iter_mut()
        .filter(|r| r.from == id && r.send.is_way_out());
    let Some(route) = outs.next_back() else {
        return;
    };
    let (level, place) = match &mut route.send {
        Send::Output { level_db, pan, .. } => (level_db, pan),
        Send::Audio {
            pass_db, pass_pan, ..
        } => (pass_db, pass_pan),
        _ => return,
    };
    *level = strip.level_db.unwrap_or(*level);
    *place = strip.pan.unwrap_or(*place);
}
