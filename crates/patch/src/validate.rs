//! Whether a patch is whole. Everything after this check may trust it: ranges hold, numbers are finite,
//! ids are unique and every route leads somewhere.

use crate::catalogue::{param, params};
use crate::finish::{Chain, EffectKind, MAX_CHAIN_EFFECTS, MAX_EFFECT_POINTS, MAX_EQ_BANDS};
use crate::ids::SourceId;
use crate::ids::{ChainId, EffectId};
use crate::kinds::UnitKind;
use crate::limits::{
    MAX_ARTICULATIONS, MAX_LINKS, MAX_MACROS, MAX_ROUTES, MAX_SHAPE_POINTS, MAX_SOURCES, MAX_UNITS,
};
use crate::movement::order::order;
use crate::movement::target::{linkable_at, name};
use crate::movement::{Movement, ShapePoint, Source, SourceKind};
use crate::param::Linked;
use crate::patch::{FORMAT, Patch};
use std::collections::HashSet;

use crate::error::PatchError;
use crate::plain::clean_name;
use crate::playing::differing;
use crate::sound::Sound;
use crate::values;
use crate::wave::{MAX_BARS, MAX_CYCLES, MAX_HARMONICS, MAX_TABLE_POINTS, MAX_TABLES, Wave};

/// Most characters of a patch name.
pub const MAX_NAME: usize = 80;
/// Most characters of a unit name or tag.
pub const MAX_UNIT_NAME: usize = 40;
/// Most tags.
pub const MAX_TAGS: usize = 16;
/// Most characters of the note.
pub const MAX_NOTE: usize = 2000;

/// Shortest stretch of a recording that can be played or looped, as a share of it.
pub const SHORTEST_STRETCH: f64 = 0.0005;

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
    links(patch)?;
    for (i, unit) in patch.units.iter().enumerate() {
        unit.envelope.check(&format!("units[{i}].envelope"))?;
    }
    movement(patch)?;
    playing(patch)?;
    finish(patch)?;
    tables(patch)?;
    waves(patch)?;
    samples(patch)?;
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
    if clean_name(text).is_empty() {
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

fn movement(patch: &Patch) -> Result<(), PatchError> {
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
                drawn(&path(name), effect.points(), MAX_EFFECT_POINTS)?;
            }
        }
    }
    Ok(())
}

/// What is drawn goes from a point at 0 to one at 1, and never back.
fn drawn(path: &str, points: &[ShapePoint], most: usize) -> Result<(), PatchError> {
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

fn links(patch: &Patch) -> Result<(), PatchError> {
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

fn tables(patch: &Patch) -> Result<(), PatchError> {
    at_most("tables", MAX_TABLES, patch.tables.len())?;
    let mut seen = HashSet::new();
    for (i, table) in patch.tables.iter().enumerate() {
        if !seen.insert(table.id) {
            return Err(PatchError::Twice {
                path: format!("tables[{i}].id"),
                actual: table.id.0,
            });
        }
        named(&format!("tables[{i}].name"), &table.name, MAX_UNIT_NAME)?;
        if !(1..=MAX_HARMONICS).contains(&table.harmonics.into()) {
            return Err(PatchError::Range {
                path: format!("tables[{i}].harmonics"),
                min: 1.0,
                max: MAX_HARMONICS as f64,
                actual: table.harmonics.into(),
            });
        }
        let (points, path) = (table.cycles.0.len(), format!("tables[{i}].cycles"));
        if points == 0 || !points.is_multiple_of(2 * usize::from(table.harmonics)) {
            return Err(PatchError::Shape {
                path,
                problem: "does not hold whole cycles; import the table again".into(),
            });
        }
        at_most(&path, MAX_CYCLES, table.cycle_count())?;
        at_most(&path, MAX_TABLE_POINTS, points / 2)?;
    }
    Ok(())
}

fn waves(patch: &Patch) -> Result<(), PatchError> {
    for (i, unit) in patch.units.iter().enumerate() {
        let path = |rest: &str| format!("units[{i}].kind.operator.wave{rest}");
        let Some(operator) = unit.oscillator() else {
            continue;
        };
        match &operator.wave {
            Wave::Own(id) if patch.table(*id).is_none() => {
                return Err(PatchError::Shape {
                    path: path(".own"),
                    problem: format!("the patch has no table {}", id.0),
                });
            }
            Wave::Bars(bars) => {
                for (name, list) in [
                    ("amplitudes", &bars.amplitudes),
                    ("phases_turns", &bars.phases_turns),
                ] {
                    at_most(&path(&format!(".bars.{name}")), MAX_BARS, list.len())?;
                    for (n, value) in list.iter().enumerate() {
                        if !(0.0..=1.0).contains(value) {
                            return Err(PatchError::Range {
                                path: path(&format!(".bars.{name}[{n}]")),
                                min: 0.0,
                                max: 1.0,
                                actual: *value,
                            });
                        }
                    }
                }
            }
            _ => {}
        }
    }
    Ok(())
}

fn samples(patch: &Patch) -> Result<(), PatchError> {
    for (i, unit) in patch.units.iter().enumerate() {
        let UnitKind::Sample(sample) = &unit.kind else {
            continue;
        };
        let path = |rest: &str| format!("units[{i}].kind.sample.{rest}");
        if let Sound::Own(own) = &sample.sound {
            named(&path("sound.own.name"), &own.name, MAX_UNIT_NAME)?;
            own.check(&path("sound.own"))?;
        }
        for (from, to, name) in [
            (sample.start, sample.end, "end"),
            (sample.loop_start, sample.loop_end, "loop_end"),
        ] {
            // numbers that are none are found with the ranges
            if from + SHORTEST_STRETCH > to + 1e-9 {
                return Err(PatchError::Shape {
                    path: path(name),
                    problem: "lies before its start; exchange the two".into(),
                });
            }
        }
    }
    Ok(())
}
