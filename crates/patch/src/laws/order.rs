//! The order units are computed in, and which routes are heard one sample late. Both follow from the numbers of units and routes
//! alone, never from how the file lists them.
//!
//! Routes are taken up one by one, the oldest (the lowest number) first. One that would close a loop with those taken up before is late; all others
//! are heard at once. So a route that is added later, or made deeper, never changes how the others are computed.

use std::collections::BTreeSet;

use crate::ids::{RouteId, UnitId};
use crate::patch::Patch;

/// How a patch is computed.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Order {
    /// Units in loops together, all others alone; each needs only those before it. Inside a loop every unit stands after
    /// those it hears at once.
    pub components: Vec<Vec<UnitId>>,
    /// Routes that are heard one sample late.
    pub late: BTreeSet<RouteId>,
}

/// A set of at most 64 units by position.
type Set = u64;

fn has(set: Set, at: usize) -> bool {
    set >> at & 1 == 1
}

/// For each unit all that can be reached from it.
fn closure(edges: &[Set]) -> Vec<Set> {
    let mut reach = edges.to_vec();
    for through in 0..reach.len() {
        for from in 0..reach.len() {
            if has(reach[from], through) {
                reach[from] |= reach[through];
            }
        }
    }
    reach
}

/// Positions from sources to targets; of those that could come next the lowest.
fn sorted(members: Set, sources: &[Set]) -> Vec<usize> {
    let mut rest = members;
    let mut list = vec![];
    while rest != 0 {
        let ready = (0..sources.len()).find(|at| has(rest, *at) && sources[*at] & rest == 0);
        // without loops there always is one
        let next = ready.unwrap_or(rest.trailing_zeros() as usize);
        list.push(next);
        rest &= !(1 << next);
    }
    list
}

/// The order of a patch.
pub fn order(patch: &Patch) -> Order {
    let mut ids: Vec<UnitId> = patch.units.iter().map(|u| u.id).collect();
    ids.sort_unstable();
    let place = |id: UnitId| ids.binary_search(&id).ok();
    let mut routes: Vec<(RouteId, usize, usize)> = patch
        .routes
        .iter()
        .filter_map(|r| Some((r.id, place(r.from)?, place(r.send.target()?)?)))
        .collect();
    routes.sort_unstable();
    let (mut at_once, mut all) = (vec![0; ids.len()], vec![0; ids.len()]);
    let mut late = BTreeSet::new();
    for (route, from, to) in routes {
        all[from] |= 1 << to;
        if from == to || has(closure(&at_once)[to], from) {
            late.insert(route);
        } else {
            at_once[from] |= 1 << to;
        }
    }
    let turned = |edges: &[Set]| -> Vec<Set> {
        let into = |to: usize| (0..edges.len()).filter(move |from| has(edges[*from], to));
        (0..edges.len())
            .map(|to| into(to).fold(0, |set, from| set | 1 << from))
            .collect()
    };
    let (reach, sources) = (closure(&all), turned(&at_once));
    let both_ways = |a: usize, b: usize| a == b || has(reach[a], b) && has(reach[b], a);
    let loop_of = |a: usize| (0..ids.len()).filter(move |b| both_ways(a, *b));
    let first = |a: usize| loop_of(a).next().unwrap_or(a);
    // loops by their first unit, and what feeds them from outside
    let loops: Vec<usize> = (0..ids.len()).filter(|a| first(*a) == *a).collect();
    let members = loops.iter().fold(0, |set, a| set | 1 << a);
    let mut outer = vec![0; ids.len()];
    for (from, edges) in all.iter().enumerate() {
        for to in (0..ids.len()).filter(|to| has(*edges, *to) && !both_ways(from, *to)) {
            outer[first(to)] |= 1 << first(from);
        }
    }
    let components = sorted(members, &outer)
        .into_iter()
        .map(|a| {
            let members = loop_of(a).fold(0, |set, b| set | 1 << b);
            let units = sorted(members, &sources).into_iter();
            units.map(|at| ids[at]).collect()
        })
        .collect();
    Order { components, late }
}
