//! Algorithms: the distinct useful ways to arrange a number of operators.
//!
//! An arrangement is useful if nobody is idle, nothing runs in a circle (feedback is added by hand), an operator
//! is either heard or moves others, and no operator moves both another and what that one leads to, since such
//! a shortcut is heard as little more than a deeper index. Two arrangements are the same if they differ only
//! in which operator stands where. What is left are the partial orders of n things: 2, 5, 16, 63 and 318 for two to
//! six operators (Sloane, On-Line Encyclopedia of Integer Sequences, A000112). With seven and eight only those remain
//! in which every operator leads to one place; with more, regular families, since nobody looks through thousands.

use std::collections::BTreeSet;
use zolvik_patch::Patch;
use zolvik_patch::document::UnitId;
use zolvik_patch::document::{Route, RouteKind, Send};

use serde::{Deserialize, Serialize};

use zolvik_patch::error::PatchError;
use zolvik_patch::graph::rows;

/// Most arrangements offered.
pub const MAX_LAYOUTS: usize = 400;
/// From so many operators on, each leads to one place only.
const TREES_FROM: usize = 7;
/// From so many operators on, only regular families are offered.
const FAMILIES_FROM: usize = 9;

/// Where a unit leads.
#[derive(Debug, Clone, PartialEq)]
pub struct Place {
    /// The unit.
    pub unit: UnitId,
    /// The units it moves; empty if it is heard.
    pub to: Vec<UnitId>,
}

/// An arrangement without names: for each place the places it moves, all of them with lower numbers; empty for
/// a place that is heard.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
pub struct Layout(pub Vec<Vec<usize>>);

impl Layout {
    /// Places that are heard.
    pub fn carriers(&self) -> usize {
        self.0.iter().filter(|to| to.is_empty()).count()
    }

    /// Distance of each place from the output: 0 for those that are heard, else one more than the farthest
    /// place it moves.
    pub fn depths(&self) -> Vec<usize> {
        let mut depths: Vec<usize> = Vec::with_capacity(self.0.len());
        for to in &self.0 {
            let depth = to.iter().map(|t| depths[*t] + 1).max().unwrap_or(0);
            depths.push(depth);
        }
        depths
    }
}

/// The useful arrangements of a number of operators: most carriers first, then the shallowest.
pub fn layouts(operators: usize) -> Vec<Layout> {
    let mut all: Vec<Layout> = if operators >= FAMILIES_FROM {
        families(operators)
    } else {
        every(operators)
    };
    all.sort_by_key(|s| {
        let depths = s.depths();
        let deepest = depths.iter().max().copied().unwrap_or(0);
        (
            operators - s.carriers(),
            deepest,
            depths.iter().sum::<usize>(),
        )
    });
    all.truncate(MAX_LAYOUTS);
    all
}

/// For each number of carriers: stacks, carriers with modulators beside each other, and all modulators, one by one
/// or in a chain, into every carrier.
fn families(operators: usize) -> Vec<Layout> {
    let mut found: Vec<Layout> = vec![];
    for carriers in 1..=operators {
        let all: Vec<usize> = (0..carriers).collect();
        let kinds: [&dyn Fn(usize) -> Vec<usize>; 4] = [
            &|i| vec![i - carriers],
            &|i| vec![i % carriers],
            &|_| all.clone(),
            &|i| {
                if i == carriers {
                    all.clone()
                } else {
                    vec![i - 1]
                }
            },
        ];
        for kind in kinds {
            let to = |i| if i < carriers { vec![] } else { kind(i) };
            let layout = Layout((0..operators).map(to).collect());
            if !found.contains(&layout) {
                found.push(layout);
            }
        }
    }
    found
}

fn every(operators: usize) -> Vec<Layout> {
    let mut found: BTreeSet<Vec<u32>> = BTreeSet::from([vec![]]);
    for n in 0..operators {
        let mut next = BTreeSet::new();
        for below in &found {
            for to in choices(below, n, operators >= TREES_FROM) {
                let mut grown = below.clone();
                grown.push(to);
                next.insert(canonical(&grown));
            }
        }
        found = next;
    }
    let list = |to: &u32| (0..32).filter(|i| to >> i & 1 == 1).collect();
    found
        .iter()
        .map(|f| Layout(f.iter().map(list).collect()))
        .collect()
}

/// Sets of places, as bits, that a new place above `below` may move without a shortcut.
fn choices(below: &[u32], n: usize, one_only: bool) -> Vec<u32> {
    let reach = reaches(below);
    let no_shortcut = |set: u32| (0..n).all(|i| set >> i & 1 == 0 || reach[i] & set == 0);
    if one_only {
        return std::iter::once(0).chain((0..n).map(|i| 1 << i)).collect();
    }
    (0..1u32 << n).filter(|set| no_shortcut(*set)).collect()
}

/// For each place, all that lie between it and the output.
fn reaches(to: &[u32]) -> Vec<u32> {
    let mut reach: Vec<u32> = Vec::with_capacity(to.len());
    for set in to {
        let beyond = (0..reach.len()).filter(|i| set >> i & 1 == 1);
        let all = beyond.map(|i| reach[i]).fold(*set, |a, b| a | b);
        reach.push(all);
    }
    reach
}

/// One form for all arrangements that differ only in who stands where: places are sorted by what sets them
/// apart, and among those that still look alike the order with the smallest form is taken.
fn canonical(to: &[u32]) -> Vec<u32> {
    let classes = classes(to);
    let mut order: Vec<usize> = (0..to.len()).collect();
    order.sort_by_key(|i| classes[*i]);
    let mut best = None;
    permute(to, &classes, &mut order, 0, &mut best);
    best.unwrap_or_default()
}

/// A number for each place that says as much as can be said about it without names: its depth, then what it
/// moves and what moves it, looked at again and again until nothing more tells two places apart.
fn classes(to: &[u32]) -> Vec<usize> {
    let n = to.len();
    let mut class: Vec<usize> = Layout(
        to.iter()
            .map(|set| (0..n).filter(|i| set >> i & 1 == 1).collect())
            .collect(),
    )
    .depths();
    for _ in 0..n {
        let look = |i: usize| {
            let mut down: Vec<usize> = (0..n)
                .filter(|j| to[i] >> j & 1 == 1)
                .map(|j| class[j])
                .collect();
            let mut up: Vec<usize> = (0..n)
                .filter(|j| to[*j] >> i & 1 == 1)
                .map(|j| class[j])
                .collect();
            down.sort_unstable();
            up.sort_unstable();
            (class[i], down, up)
        };
        let looks: Vec<_> = (0..n).map(look).collect();
        let mut sorted = looks.clone();
        sorted.sort();
        sorted.dedup();
        let next: Vec<usize> = looks
            .iter()
            .map(|l| sorted.binary_search(l).unwrap_or(0))
            .collect();
        if next == class {
            break;
        }
        class = next;
    }
    class
}

/// Tries all orders inside each class; keeps the smallest form.
fn permute(
    to: &[u32],
    classes: &[usize],
    order: &mut Vec<usize>,
    at: usize,
    best: &mut Option<Vec<u32>>,
) {
    if at == order.len() {
        let mut place = vec![0; order.len()];
        for (new, old) in order.iter().enumerate() {
            place[*old] = new;
        }
        let renamed = |old: &usize| {
            (0..to.len())
                .filter(|j| to[*old] >> j & 1 == 1)
                .fold(0u32, |set, j| set | 1 << place[j])
        };
        let form: Vec<u32> = order.iter().map(renamed).collect();
        if best.as_ref().is_none_or(|b| form < *b) {
            *best = Some(form);
        }
        return;
    }
    // places that lead to the same and are moved by the same need not be tried twice
    let moved_by = |i: usize| {
        (0..to.len())
            .filter(|j| to[*j] >> i & 1 == 1)
            .fold(0u32, |set, j| set | 1 << j)
    };
    let twins = |a: usize, b: usize| to[a] == to[b] && moved_by(a) == moved_by(b);
    for other in at..order.len() {
        if classes[order[other]] != classes[order[at]] {
            break;
        }
        if (at..other).any(|tried| twins(order[tried], order[other])) {
            continue;
        }
        order.swap(at, other);
        permute(to, classes, order, at + 1, best);
        order.swap(at, other);
    }
}

/// The patch's operators in the order of their strips; other units are not arranged.
pub fn operators(patch: &Patch) -> Vec<UnitId> {
    let is_operator = |id: &UnitId| patch.unit(*id).is_some_and(|u| u.oscillator().is_some());
    rows(patch).into_iter().filter(is_operator).collect()
}

/// Gives a layout's places to the patch's operators: those nearest to the output now stay nearest.
pub fn assign(patch: &Patch, layout: &Layout) -> Vec<Place> {
    let mut units = operators(patch);
    units.reverse();
    // carriers first, as in the layout; what is heard now should stay heard
    let heard = |id: &UnitId| patch.sounds(*id);
    units.sort_by_key(|id| !heard(id));
    let depths = layout.depths();
    let mut places: Vec<usize> = (0..layout.0.len()).collect();
    places.sort_by_key(|p| depths[*p]);
    let unit_at = |place: usize| {
        let at = places.iter().position(|p| *p == place).unwrap_or(0);
        units.get(at).copied()
    };
    (0..layout.0.len())
        .filter_map(|place| {
            Some(Place {
                unit: unit_at(place)?,
                to: layout.0[place].iter().filter_map(|t| unit_at(*t)).collect(),
            })
        })
        .collect()
}

/// Routes units anew. Routes that stay keep their values; feedback of a unit on itself stays.
///
/// # Errors
/// If a unit is named that the patch does not have.
pub(crate) fn route(patch: &mut Patch, places: &[Place]) -> Result<(), PatchError> {
    for id in places.iter().flat_map(|p| p.to.iter().chain([&p.unit])) {
        if patch.unit(*id).is_none() {
            return Err(PatchError::NoUnit {
                path: "arrangement".into(),
                unit: *id,
            });
        }
    }
    let place = |id: UnitId| places.iter().find(|p| p.unit == id);
    patch.routes.retain(|r| match place(r.from) {
        None => true,
        Some(p) => match r.send.target() {
            // into filters and shapers, as on the way out
            Some(_) if r.send.kind() == Some(RouteKind::Audio) => p.to.is_empty(),
            Some(to) => to == r.from || p.to.contains(&to) || place(to).is_none(),
            None => p.to.is_empty(),
        },
    });
    for p in places {
        let has =
            |patch: &Patch, to: UnitId| patch.sends(p.unit).any(|r| r.send.target() == Some(to));
        let add = |patch: &mut Patch, send: Send| {
            let id = patch.free_route();
            patch.routes.push(Route {
                id,
                from: p.unit,
                on: true,
                send,
            });
        };
        if p.to.is_empty() && !patch.sounds(p.unit) {
            add(patch, Send::output());
        }
        for to in &p.to {
            if !has(patch, *to) {
                add(patch, Send::phase(*to));
            }
        }
    }
    Ok(())
}

/// How the patch's operators are arranged now, so that it can be kept: operators are counted from the output
/// up, as [`assign`] takes them.
pub fn present_layout(patch: &Patch) -> Layout {
    let mut units = operators(patch);
    units.reverse();
    let at = |id: UnitId| units.iter().position(|u| *u == id);
    let to = |id: &UnitId| {
        let mut list: Vec<usize> = patch
            .sends(*id)
            .filter_map(|r| r.send.target().and_then(at))
            .filter(|t| Some(*t) < at(*id))
            .collect();
        list.sort_unstable();
        list.dedup();
        list
    };
    Layout(units.iter().map(to).collect())
}
