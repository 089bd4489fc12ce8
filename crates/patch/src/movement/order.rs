//! In which order sources and links are computed: each after all that moves it.

use crate::ids::{LinkId, SourceId, UnitId};
use crate::params::address::Address;
use crate::params::catalogue::param;
use crate::params::param::Owner;
use crate::patch::Patch;

/// A source or a link, by its position in the patch.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Item {
    /// A source.
    Source(usize),
    /// A link.
    Link(usize),
}

/// The order, or the names of what goes round in a loop.
///
/// # Errors
/// If sources and links move each other in a circle.
pub fn order(patch: &Patch) -> Result<Vec<Item>, Vec<String>> {
    let movement = &patch.movement;
    let sources = movement.sources.len();
    let count = sources + movement.links.len();
    let source = |id: SourceId| movement.sources.iter().position(|s| s.id == id);
    let link = |id: LinkId| {
        movement
            .links
            .iter()
            .position(|l| l.id == id)
            .map(|at| sources + at)
    };
    let moved = |to: Address| match param(to.param).owner {
        Owner::Source => source(SourceId(to.id)),
        Owner::Link => link(LinkId(to.id)),
        // a source's envelope stands under its number as a unit's does
        Owner::Unit | Owner::Point => UnitId(to.id).source().and_then(source),
        _ => None,
    };
    let mut edges: Vec<(usize, usize)> = vec![];
    for (at, link) in movement.links.iter().enumerate() {
        let at = sources + at;
        let sources = [Some(link.from), link.scaled_by].into_iter().flatten();
        edges.extend(sources.filter_map(source).map(|from| (from, at)));
        edges.extend(moved(link.to).map(|to| (at, to)));
    }
    let mut done = vec![false; count];
    let mut list = vec![];
    while list.len() < count {
        let ready =
            |at: &usize| !done[*at] && edges.iter().all(|(from, to)| to != at || done[*from]);
        match (0..count).find(ready) {
            Some(at) => {
                done[at] = true;
                list.push(at);
            }
            None => return Err(around(patch, &edges, &done)),
        }
    }
    let item = |at: usize| match at.checked_sub(sources) {
        None => Item::Source(at),
        Some(at) => Item::Link(at),
    };
    Ok(list.into_iter().map(item).collect())
}

/// Names of the sources of one loop, the first again at the end.
fn around(patch: &Patch, edges: &[(usize, usize)], done: &[bool]) -> Vec<String> {
    let before = |at: usize| {
        edges
            .iter()
            .find(|(from, to)| *to == at && !done[*from])
            .map(|(from, _)| *from)
    };
    let mut way = vec![];
    let mut at = done.iter().position(|d| !d);
    // against the arrows one comes to what was seen before
    while let Some(now) = at {
        if let Some(begin) = way.iter().position(|seen| *seen == now) {
            way.drain(..begin);
            break;
        }
        way.push(now);
        at = before(now);
    }
    way.reverse();
    let sources = &patch.movement.sources;
    let name = |at: &usize| sources.get(*at).map(|s| s.name.clone());
    let mut names: Vec<String> = way.iter().filter_map(name).collect();
    if names.is_empty() {
        names.push("a link's own amount".into());
    }
    names.extend(names.first().cloned());
    names
}
