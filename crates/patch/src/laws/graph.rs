//! The routing as a graph: which units feed each other, and in which order they can be computed.

use crate::ids::UnitId;
use crate::patch::Patch;

/// Components of units in an order in which every one only needs those before it. A component of several units,
/// or of one that feeds itself, is a loop; inside it the user's order stays.
///
/// Found by depth-first search from the units in the user's order, sources first (Tarjan, "Depth-first
/// search and linear graph algorithms", 1972).
pub fn components(patch: &Patch) -> Vec<Vec<UnitId>> {
    let mut search = Search {
        patch,
        index: vec![None; patch.units.len()],
        low: vec![0; patch.units.len()],
        ..Search::empty(patch)
    };
    for at in carriers_first(patch) {
        if search.index[at].is_none() {
            search.visit(at);
        }
    }
    search
        .found
        .iter()
        .map(|component| component.iter().map(|at| patch.units[*at].id).collect())
        .collect()
}

/// Whether this component needs sample-by-sample work.
pub fn is_feedback(patch: &Patch, component: &[UnitId]) -> bool {
    component.len() > 1
        || patch
            .routes
            .iter()
            .any(|r| Some(r.from) == r.send.target() && component.contains(&r.from))
}

/// Positions of the units, those with a way to the output first: their sources are then found, and placed,
/// right before them.
fn carriers_first(patch: &Patch) -> Vec<usize> {
    let heard = |at: &usize| patch.sounds(patch.units[*at].id);
    let (mut order, rest): (Vec<usize>, Vec<usize>) = (0..patch.units.len()).partition(heard);
    order.extend(rest);
    order
}

struct Search<'a> {
    patch: &'a Patch,
    index: Vec<Option<usize>>,
    low: Vec<usize>,
    stack: Vec<usize>,
    counter: usize,
    found: Vec<Vec<usize>>,
}

impl<'a> Search<'a> {
    fn empty(patch: &'a Patch) -> Self {
        Search {
            patch,
            index: vec![],
            low: vec![],
            stack: vec![],
            counter: 0,
            found: vec![],
        }
    }

    fn sources(&self, at: usize) -> Vec<usize> {
        let id = self.patch.units[at].id;
        let feeds = |u: UnitId| self.patch.sends(u).any(|r| r.send.target() == Some(id));
        (0..self.patch.units.len())
            .filter(|s| *s != at && feeds(self.patch.units[*s].id))
            .collect()
    }

    /// Recursion is at most 16 deep: one level per unit.
    fn visit(&mut self, at: usize) {
        self.index[at] = Some(self.counter);
        self.low[at] = self.counter;
        self.counter += 1;
        self.stack.push(at);
        for source in self.sources(at) {
            match self.index[source] {
                None => {
                    self.visit(source);
                    self.low[at] = self.low[at].min(self.low[source]);
                }
                Some(index) if self.stack.contains(&source) => {
                    self.low[at] = self.low[at].min(index)
                }
                Some(_) => {}
            }
        }
        if Some(self.low[at]) == self.index[at] {
            let from = self.stack.iter().position(|s| *s == at).unwrap_or(0);
            let mut component = self.stack.split_off(from);
            component.sort_unstable();
            self.found.push(component);
        }
    }
}

/// The strips from top to bottom: sources above their targets, numbers untouched.
pub fn rows(patch: &Patch) -> Vec<UnitId> {
    components(patch).concat()
}
