//! The nearest valid patch to a text that is none: what is wrong is left out, piece by piece, until the rest holds.

use std::collections::HashSet;

use serde_json::Value;

use zolvik_patch::Patch;
use zolvik_patch::error::PatchError;
use zolvik_patch::json;
use zolvik_patch::validate::savable;

/// Pieces that are left out at most.
const MOST: usize = 400;
/// What is left out as a whole where nothing says which piece of it is wrong, the dearest last.
const WHOLES: [&[&str]; 6] = [
    &["other"],
    &["playing", "articulations"],
    &["movement", "links"],
    &["playing", "phrase"],
    &["playing"],
    &["movement"],
];

/// A patch, and what was left out of it to be one.
#[derive(Debug, Clone, PartialEq)]
pub struct Mended {
    /// The patch.
    pub patch: Patch,
    /// What was left out, and why, in words.
    pub left_out: Vec<String>,
}

/// The nearest valid patch.
///
/// # Errors
/// If the text is no JSON, or nothing of it can be kept.
pub fn nearest(text: &str) -> Result<Mended, PatchError> {
    let checked = |text: &str| -> Result<Patch, PatchError> {
        let patch = json::read(text)?;
        savable(&patch)?;
        Ok(patch)
    };
    let mut problem = match checked(text) {
        Ok(patch) => {
            let left_out = vec![];
            return Ok(Mended { patch, left_out });
        }
        Err(problem) => problem,
    };
    let mut tree: Value = serde_json::from_str(text).map_err(|_| problem.clone())?;
    let mut left_out = vec![];
    // entries in which a field was tried already: the next time they go as a whole
    let mut tried = HashSet::new();
    for _ in 0..MOST {
        let place = &problem.place().unwrap_or_default();
        let gone = match &problem {
            PatchError::Range {
                min, max, actual, ..
            } => {
                let near = if actual.is_finite() {
                    actual.clamp(*min, *max)
                } else {
                    *min
                };
                set(&mut tree, place, near.into(), &mut tried)
            }
            _ => None,
        };
        let gone = gone
            .or_else(|| leave_out(&mut tree, place, &mut tried))
            .or_else(|| leave_a_whole(&mut tree));
        let Some(gone) = gone else { break };
        left_out.push(format!("{gone}: {problem}"));
        match checked(&zolvik_json::text(&tree, zolvik_json::Form::Dense)) {
            Ok(patch) => return Ok(Mended { patch, left_out }),
            Err(next) => problem = next,
        }
    }
    Err(problem)
}

/// One step of a path: a field, or a place in a list.
enum Step<'a> {
    Field(&'a str),
    At(usize),
}

/// The steps of a path such as `units[2].envelope.points[1].time_s`.
fn steps(path: &str) -> Vec<Step<'_>> {
    let mut list = vec![];
    for part in path.split('.') {
        let (field, places) = part.split_at(part.find('[').unwrap_or(part.len()));
        if !field.is_empty() {
            list.push(Step::Field(field));
        }
        let places = places
            .split('[')
            .filter_map(|p| p.strip_suffix(']')?.parse().ok());
        list.extend(places.map(Step::At));
    }
    list
}

fn inside<'a>(tree: &'a mut Value, path: &[Step]) -> Option<&'a mut Value> {
    path.iter().try_fold(tree, |at, step| match step {
        Step::Field(field) => at.get_mut(*field),
        Step::At(place) => at.get_mut(*place),
    })
}

/// Sets the number a path leads to, once. Gives where.
fn set(tree: &mut Value, path: &str, to: Value, tried: &mut HashSet<String>) -> Option<String> {
    let all = steps(path);
    let there = inside(tree, &all).filter(|value| value.is_number())?;
    tried.insert(told(&all)).then(|| *there = to)?;
    Some(told(&all))
}

/// Leaves out what a path leads to: the innermost field there is, or, where that was tried already, the innermost entry of a list. Gives what
/// it was.
fn leave_out(tree: &mut Value, path: &str, tried: &mut HashSet<String>) -> Option<String> {
    let all = steps(path);
    // how far there is something
    let is_there = |end: &usize| inside(tree, &all[..*end]).is_some();
    let there = (0..=all.len()).rev().find(is_there)?;
    let is_entry = |step: &Step| matches!(step, Step::At(_));
    let entry = all[..there].iter().rposition(is_entry).map(|at| at + 1);
    let ends_in_field = matches!(all[..there].last(), Some(Step::Field(_)));
    let end = match entry {
        Some(entry) if !ends_in_field || !tried.insert(told(&all[..entry])) => entry,
        _ => there,
    };
    let (last, before) = all[..end].split_last()?;
    let holder = inside(tree, before)?;
    match last {
        Step::Field(field) => drop(holder.as_object_mut()?.remove(*field)?),
        Step::At(place) => {
            holder.as_array_mut()?.remove(*place);
            // those behind have other places now
            tried.clear();
        }
    }
    Some(told(&all[..end]))
}

fn told(steps: &[Step]) -> String {
    let mut path = String::new();
    for step in steps {
        match step {
            Step::Field(field) if path.is_empty() => path.push_str(field),
            Step::Field(field) => path.extend([".", field]),
            Step::At(place) => path.push_str(&format!("[{place}]")),
        }
    }
    path
}

fn leave_a_whole(tree: &mut Value) -> Option<String> {
    WHOLES.iter().find_map(|path| {
        let (last, before) = path.split_last()?;
        let mut holder = &mut *tree;
        for field in before {
            holder = holder.get_mut(*field)?;
        }
        let gone = holder.as_object_mut()?.remove(*last)?;
        let is_something = !gone.is_null() && gone.as_array().is_none_or(|list| !list.is_empty());
        is_something.then(|| path.join("."))
    })
}
