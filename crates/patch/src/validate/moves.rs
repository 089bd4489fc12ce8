//! Sources, what is drawn of them, and links.

use super::bounds::{MAX_UNIT_NAME, at_most, named};
use crate::error::PatchError;
use crate::ids::SourceId;
use crate::movement::order::order;
use crate::movement::target::{linkable_at, name};
use crate::movement::{Movement, ShapePoint, Source, SourceKind};
use crate::params::limits::{MAX_LINKS, MAX_SHAPE_POINTS, MAX_SOURCES, MAX_UNITS};
use crate::params::param::Linked;
use crate::patch::Patch;
use std::collections::HashSet;

pub(super) fn movement(patch: &Patch) -> Result<(), PatchError> {
    let Movement { sources, links } = &patch.movement;
    at_most("movement.sources", MAX_SOURCES, sources.len())?;
    at_most("movement.links", MAX_LINKS, links.len())?;
    let mut seen = HashSet::new();
    for (i, source) in sources.iter().enumerate() {
        let path = |rest: &str| format!("movement.sources[{i}].{rest}");
        if source.id.0 < SourceId::FIRST || source.id.0 > SourceId::LAST {
            return Err(PatchError::Range {
                path: path("id"),
                min: SourceId::FIRST.into(),
                max: SourceId::LAST.into(),
                actual: source.id.0.into(),
            });
        }
        if !seen.insert(source.id.0) {
            return Err(PatchError::Twice {
                path: path("id"),
                actual: source.id.0,
            });
        }
        named(&path("name"), &source.name, MAX_UNIT_NAME)?;
        source_kind(patch, source, path)?;
    }
    seen.clear();
    for (i, link) in links.iter().enumerate() {
        let path = |rest: &str| format!("movement.links[{i}].{rest}");
        if !seen.insert(link.id.0) {
            return Err(PatchError::Twice {
                path: path("id"),
                actual: link.id.0,
            });
        }
        for id in [Some(link.from), link.scaled_by].into_iter().flatten() {
            if patch.source(id).is_none() {
                return Err(PatchError::NoSource { source_id: id }.within(&path("from")));
            }
        }
        link.to.get(patch).map_err(|e| e.within(&path("to")))?;
        if linkable_at(patch, link.to) == Linked::Never {
            return Err(PatchError::Unmoved {
                path: path("to"),
                name: name(patch, link.to),
            });
        }
    }
    match order(patch) {
        Ok(_) => Ok(()),
        Err(around) => Err(PatchError::Loop {
            path: "movement.links".into(),
            around,
        }),
    }
}

/// What is drawn goes from a point at 0 to one at 1, and never back.
pub(super) fn drawn(path: &str, points: &[ShapePoint], most: usize) -> Result<(), PatchError> {
    at_most(path, most, points.len())?;
    let ends = (points.first(), points.last());
    let whole = matches!(ends, (Some(a), Some(b)) if a.at == 0.0 && b.at == 1.0);
    let shape = |path: String, problem: &str| {
        Err(PatchError::Shape {
            path,
            problem: problem.into(),
        })
    };
    if points.len() < 2 || !whole {
        return shape(path.into(), "goes from a point at 0 to one at 1");
    }
    let inside = |v: f64, low: f64| (low..=1.0).contains(&v);
    let wrong = points
        .iter()
        .position(|p| !(inside(p.at, 0.0) && inside(p.level, 0.0) && inside(p.curve, -1.0)));
    if let Some(at) = wrong {
        return shape(
            format!("{path}[{at}]"),
            "lies outside 0 to 1, or its curve outside -1 to 1",
        );
    }
    match points.windows(2).position(|two| two[0].at > two[1].at) {
        Some(at) => shape(
            format!("{path}[{}].at", at + 1),
            "lies before the point before it",
        ),
        None => Ok(()),
    }
}

fn source_kind(
    patch: &Patch,
    source: &Source,
    path: impl Fn(&str) -> String,
) -> Result<(), PatchError> {
    let shape = |rest: &str, problem: String| {
        Err(PatchError::Shape {
            path: path(rest),
            problem,
        })
    };
    match &source.kind {
        SourceKind::Lfo(lfo) => {
            drawn(&path("kind.lfo.points"), &lfo.points, MAX_SHAPE_POINTS)?;
        }
        SourceKind::Steps(steps) => {
            at_most(
                &path("kind.steps.steps"),
                MAX_SHAPE_POINTS,
                steps.steps.len(),
            )?;
            if steps.steps.is_empty() {
                return shape("kind.steps.steps", "is empty; one step is the least".into());
            }
        }
        SourceKind::Envelope(envelope) => envelope.check(&path("kind.envelope"))?,
        SourceKind::Follower(follower) if patch.unit(follower.unit).is_none() => {
            return Err(PatchError::NoUnit {
                path: path("kind.follower.unit"),
                unit: follower.unit,
            });
        }
        _ => {}
    }
    Ok(())
}

pub(super) fn links(patch: &Patch) -> Result<(), PatchError> {
    at_most("links", MAX_UNITS, patch.envelope_links.len())?;
    let mut members = HashSet::new();
    for (i, link) in patch.envelope_links.iter().enumerate() {
        let path = format!("links[{i}].units");
        if link.units.len() < 2 {
            return Err(PatchError::Shape {
                path,
                problem: "links fewer than two units".into(),
            });
        }
        for unit in &link.units {
            let path = path.clone();
            if patch.unit(*unit).is_none() {
                return Err(PatchError::NoUnit { path, unit: *unit });
            }
            if !members.insert(*unit) {
                let actual = unit.0;
                return Err(PatchError::Twice { path, actual });
            }
        }
    }
    Ok(())
}
