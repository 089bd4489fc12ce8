//! Whether a patch is whole. Everything after this check may trust it: ranges hold, numbers are finite,
//! ids are unique and every route leads somewhere.

mod bounds;
mod moves;
mod waves;

pub use self::bounds::{MAX_NAME, MAX_NOTE, MAX_TAGS, MAX_UNIT_NAME, SHORTEST_STRETCH};
use self::bounds::{at_most, named};

use crate::finish::{Chain, EffectKind, MAX_CHAIN_EFFECTS, MAX_EFFECT_POINTS, MAX_EQ_BANDS};
use crate::ids::{ChainId, EffectId};
use crate::movement::SourceKind;
use crate::params::catalogue::{param, params};
use crate::params::limits::{MAX_ARTICULATIONS, MAX_MACROS, MAX_ROUTES, MAX_UNITS};
use crate::patch::{FORMAT, Patch};
use std::collections::HashSet;

use crate::error::PatchError;
use crate::params::values;
use crate::playing::differing;

/// Checks a patch.
///
/// # Errors
/// The first thing found wrong, with its path in the file.
pub fn validate(patch: &Patch) -> Result<(), PatchError> {
    if patch.format != FORMAT {
        return Err(PatchError::Newer {
            expected: FORMAT,
            actual: patch.format.into(),
        });
    }
    texts(patch)?;
    at_most("units", MAX_UNITS, patch.units.len())?;
    at_most("routes", MAX_ROUTES, patch.routes.len())?;
    ids(patch)?;
    ends(patch)?;
    if let Some(other) = &patch.other {
        if other.other.is_some() {
            return Err(PatchError::Shape {
                path: "other.other".into(),
                problem: "a kept state holds no other".into(),
            });
        }
        validate(other).map_err(|e| e.within("other"))?;
    }
    groups(patch)?;
    moves::links(patch)?;
    for (i, unit) in patch.units.iter().enumerate() {
        unit.envelope.check(&format!("units[{i}].envelope"))?;
    }
    moves::movement(patch)?;
    playing(patch)?;
    finish(patch)?;
    waves::tables(patch)?;
    waves::waves(patch)?;
    waves::samples(patch)?;
    if let Some(scale) = &patch.scale {
        scale.check()?;
    }
    let mut fault = None;
    values::visit(patch, |address, row, within| {
        if fault.is_some() {
            return;
        }
        match address.get(patch) {
            Ok(actual) if (row.min..=row.max).contains(&actual) => {}
            Ok(actual) => {
                fault = Some(PatchError::Range {
                    path: format!("{within}{}{}", row.path, row.field),
                    min: row.min,
                    max: row.max,
                    actual,
                });
            }
            Err(error) => fault = Some(error),
        }
    });
    match fault {
        Some(fault) => Err(fault),
        None => Ok(()),
    }
}

/// Checks what a patch, as a file has it, becomes in each of its articulations, and its other state in each of that one's.
///
/// # Errors
/// As [`validate`], with the path of the articulation.
pub(crate) fn states(patch: &Patch) -> Result<(), PatchError> {
    differing::check(patch)?;
    for at in 0..patch.playing.articulations.len() {
        validate(&heard_in(patch, at))
            .map_err(|e| e.within(&format!("playing.articulations[{at}]")))?;
    }
    match &patch.other {
        Some(other) => states(other).map_err(|e| e.within("other")),
        None => Ok(()),
    }
}

/// A patch as if nothing were heard of it and it had no other state.
fn alone(patch: &Patch) -> Patch {
    let mut alone = Patch {
        other: None,
        ..patch.clone()
    };
    alone.playing.articulation = None;
    alone
}

/// What a patch, as a file has it, becomes in one of its articulations.
fn heard_in(patch: &Patch, at: usize) -> Patch {
    let mut there = alone(patch);
    differing::switch(&mut there, Some(at as u8));
    there.playing.articulations.clear();
    there.playing.articulation = None;
    there
}

/// Checks that a patch that is heard can be written: its base, and every articulation of it, are whole too.
///
/// # Errors
/// Which of them is not, and why, in words of the screen.
pub fn savable(patch: &Patch) -> Result<(), PatchError> {
    let list = &patch.playing.articulations;
    if list.is_empty() {
        return Ok(());
    }
    let heard = patch.playing.articulation;
    let name = |at: Option<usize>| match at.and_then(|at| list.get(at)) {
        Some(articulation) => articulation.name.clone(),
        None => "Base".into(),
    };
    let only_here = |there: Option<usize>, problem: PatchError| PatchError::OnlyHere {
        here: name(heard.map(usize::from)),
        there: name(there),
        problem: said(&problem),
    };
    let base = differing::for_file(patch);
    if heard.is_some() {
        validate(&alone(&base)).map_err(|e| only_here(None, e))?;
    }
    differing::check(&base).map_err(|e| only_here(None, e))?;
    for at in (0..list.len()).filter(|at| heard.map(usize::from) != Some(*at)) {
        validate(&heard_in(&base, at)).map_err(|e| only_here(Some(at), e))?;
    }
    Ok(())
}

/// What is wrong, without the place in the file, for those who see the screen.
fn said(problem: &PatchError) -> String {
    match problem {
        PatchError::Within { problem, .. } => said(problem),
        PatchError::Shape { problem, .. } => problem.clone(),
        PatchError::NotThere { param, owner } => {
            let row = params().find(|row| row.name == *param);
            let label = row.map_or(*param, |row| row.label);
            format!("{owner} has no {}", label.to_lowercase())
        }
        other => other.to_string(),
    }
}

fn texts(patch: &Patch) -> Result<(), PatchError> {
    let meta = &patch.meta;
    named("meta.name", &meta.name, MAX_NAME)?;
    at_most("meta.note", MAX_NOTE, meta.note.chars().count())?;
    at_most("meta.tags", MAX_TAGS, meta.tags.len())?;
    for (i, tag) in meta.tags.iter().enumerate() {
        named(&format!("meta.tags[{i}]"), tag, MAX_UNIT_NAME)?;
    }
    for (i, unit) in patch.units.iter().enumerate() {
        named(&format!("units[{i}].name"), &unit.name, MAX_UNIT_NAME)?;
    }
    Ok(())
}

fn ids(patch: &Patch) -> Result<(), PatchError> {
    let mut seen = HashSet::new();
    for (i, unit) in patch.units.iter().enumerate() {
        let path = format!("units[{i}].id");
        if !(1..=999).contains(&unit.id.0) {
            return Err(PatchError::Range {
                path,
                min: 1.0,
                max: 999.0,
                actual: unit.id.0.into(),
            });
        }
        if !seen.insert(unit.id.0) {
            return Err(PatchError::Twice {
                path,
                actual: unit.id.0,
            });
        }
    }
    seen.clear();
    for (i, route) in patch.routes.iter().enumerate() {
        if !seen.insert(route.id.0) {
            return Err(PatchError::Twice {
                path: format!("routes[{i}].id"),
                actual: route.id.0,
            });
        }
    }
    Ok(())
}

fn ends(patch: &Patch) -> Result<(), PatchError> {
    let mut seen = HashSet::new();
    for (i, route) in patch.routes.iter().enumerate() {
        let known = |unit, end: &str| match patch.unit(unit) {
            Some(_) => Ok(()),
            None => Err(PatchError::NoUnit {
                path: format!("routes[{i}].{end}"),
                unit,
            }),
        };
        known(route.from, "from")?;
        if let Some(to) = route.send.target() {
            known(to, "send.to")?;
        }
        let target = route.send.target().and_then(|to| patch.unit(to));
        if let (Some(target), Some(kind)) = (target, route.send.kind())
            && !target.kind.name().takes().contains(&kind)
        {
            return Err(PatchError::NoSuchInput {
                path: format!("routes[{i}].send"),
                name: target.name.clone(),
                kind: kind.label(),
            });
        }
        if !seen.insert((route.from, route.send.target(), route.send.kind())) {
            return Err(PatchError::SameRoute {
                path: format!("routes[{i}]"),
                from: route.from,
            });
        }
    }
    Ok(())
}

fn groups(patch: &Patch) -> Result<(), PatchError> {
    at_most("groups", MAX_UNITS, patch.groups.len())?;
    let (mut ids, mut members) = (HashSet::new(), HashSet::new());
    for (i, group) in patch.groups.iter().enumerate() {
        let twice = |path: String, actual| Err(PatchError::Twice { path, actual });
        if !ids.insert(group.id) {
            return twice(format!("groups[{i}].id"), group.id.0);
        }
        named(&format!("groups[{i}].name"), &group.name, MAX_UNIT_NAME)?;
        for unit in &group.units {
            let path = format!("groups[{i}].units");
            if patch.unit(*unit).is_none() {
                return Err(PatchError::NoUnit { path, unit: *unit });
            }
            if !members.insert(*unit) {
                return twice(path, unit.0);
            }
        }
    }
    Ok(())
}

fn playing(patch: &Patch) -> Result<(), PatchError> {
    let macros = patch.movement.sources.iter();
    let macros = macros.filter(|s| matches!(s.kind, SourceKind::Macro(_)));
    at_most("movement.sources (macros)", MAX_MACROS, macros.count())?;
    let list = &patch.playing.articulations;
    at_most("playing.articulations", MAX_ARTICULATIONS, list.len())?;
    for (i, articulation) in list.iter().enumerate() {
        let path = format!("playing.articulations[{i}].name");
        named(&path, &articulation.name, MAX_UNIT_NAME)?;
    }
    match &patch.playing.phrase {
        Some(phrase) => phrase.check("playing.phrase"),
        None => Ok(()),
    }
}

fn finish(patch: &Patch) -> Result<(), PatchError> {
    let mut seen = HashSet::new();
    for (id, chain) in patch.finish.chains() {
        let within = format!("finish.{}", id.field());
        named(&format!("{within}.name"), &chain.name, MAX_UNIT_NAME)?;
        at_most(
            &format!("{within}.effects"),
            MAX_CHAIN_EFFECTS,
            chain.effects.len(),
        )?;
        if id != ChainId::First && chain.second_db > param(Chain::SECOND_DB).min {
            return Err(PatchError::Shape {
                path: format!("{within}.second_db"),
                problem: "leads to itself or back; only the first chain can be sent to the second"
                    .into(),
            });
        }
        for (i, effect) in chain.effects.iter().enumerate() {
            let path = |rest: &str| format!("{within}.effects[{i}].{rest}");
            if !(EffectId::FIRST..=EffectId::LAST).contains(&effect.id.0) {
                return Err(PatchError::Range {
                    path: path("id"),
                    min: EffectId::FIRST.into(),
                    max: EffectId::LAST.into(),
                    actual: effect.id.0.into(),
                });
            }
            if !seen.insert(effect.id) {
                return Err(PatchError::Twice {
                    path: path("id"),
                    actual: effect.id.0,
                });
            }
            at_most(&path("name"), MAX_UNIT_NAME, effect.name.chars().count())?;
            if let EffectKind::Eq(eq) = &effect.kind {
                at_most(&path("kind.eq.bands"), MAX_EQ_BANDS, eq.bands.len())?;
                if eq.bands.is_empty() {
                    return Err(PatchError::Shape {
                        path: path("kind.eq.bands"),
                        problem: "is empty; one band is the least".into(),
                    });
                }
            }
            if matches!(effect.kind, EffectKind::Drive(_) | EffectKind::Ducker(_)) {
                let name = match effect.kind {
                    EffectKind::Drive(_) => "kind.drive.points",
                    _ => "kind.ducker.points",
                };
                moves::drawn(&path(name), effect.points(), MAX_EFFECT_POINTS)?;
            }
        }
    }
    Ok(())
}
