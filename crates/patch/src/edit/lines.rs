//! Adding strips that were typed as a line or copied.

use super::routing::add as add_route;
use super::units::way_out;
use crate::error::PatchError;
use crate::ids::UnitId;
use crate::limits::MAX_UNITS;
use crate::line::NewStrip;
use crate::patch::Patch;
use crate::route::{RouteKind, Send};
use crate::unit::Unit;

/// Adds strips; gives their numbers.
pub(super) fn add(patch: &mut Patch, strips: &[NewStrip]) -> Result<Vec<UnitId>, PatchError> {
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
    for (strip, (_, id)) in strips.iter().zip(&added) {
        let mut out = strip.sends.is_empty();
        for new in &strip.sends {
            let Some(called) = new.to else {
                match strip.level_db.or(strip.pan) {
                    Some(_) => out = true,
                    None => add_route(patch, *id, new.send.clone()),
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
            let mut send = way_out(patch, *id, strip.unit.kind.name());
            let (level_db, pan) = (strip.level_db, strip.pan);
            match &mut send {
                Send::Audio {
                    pass_db, pass_pan, ..
                } => {
                    *pass_db = level_db.unwrap_or(*pass_db);
                    *pass_pan = pan.unwrap_or(*pass_pan);
                }
                Send::Output {
                    level_db: level,
                    pan: place,
                    ..
                } => {
                    *level = level_db.unwrap_or(*level);
                    *place = pan.unwrap_or(*place);
                }
                _ => {}
            }
            add_route(patch, *id, send);
        }
    }
    Ok(added.into_iter().map(|(_, id)| id).collect())
}
