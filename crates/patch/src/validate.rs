//! Whether a patch is whole. Everything behind this check may trust it: ranges hold, numbers are finite,
//! ids are unique and every route leads somewhere.

use std::collections::HashSet;

use crate::address;
use crate::catalogue::param;
use crate::document::{FORMAT, MAX_ROUTES, MAX_UNITS, Patch};
use crate::error::PatchError;

/// Most characters of a patch name.
pub const MAX_NAME: usize = 80;
/// Most characters of a unit name or tag.
pub const MAX_UNIT_NAME: usize = 40;
/// Most tags.
pub const MAX_TAGS: usize = 16;
/// Most characters of the note.
pub const MAX_NOTE: usize = 2000;

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
    for (address, path) in address::all(patch) {
        let (row, actual) = (param(address.param), address.get(patch)?);
        if !(row.min..=row.max).contains(&actual) {
            return Err(PatchError::Range {
                path,
                min: row.min,
                max: row.max,
                actual,
            });
        }
    }
    Ok(())
}

fn at_most(path: &str, max: usize, actual: usize) -> Result<(), PatchError> {
    if actual > max {
        Err(PatchError::TooMany {
            path: path.into(),
            max,
            actual,
        })
    } else {
        Ok(())
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

fn named(path: &str, text: &str, max: usize) -> Result<(), PatchError> {
    if text.trim().is_empty() {
        return Err(PatchError::Shape {
            path: path.into(),
            problem: "is empty; give it a name".into(),
        });
    }
    at_most(path, max, text.chars().count())
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
            known(to, "send.phase.to")?;
        }
        if !seen.insert((route.from, route.send.target())) {
            return Err(PatchError::SameRoute { from: route.from });
        }
    }
    Ok(())
}
