//! A document kept beside one that is almost the same: the parts they have in common are held once.

use std::sync::Arc;
use zolvik_patch::Patch;
use zolvik_patch::document::Route;
use zolvik_patch::document::Unit;

/// A whole document, its parts shared with the neighbour it was packed beside.
#[derive(Debug, Clone)]
pub struct Packed {
    /// Everything but units and routes.
    rest: Arc<Patch>,
    units: Vec<Arc<Unit>>,
    routes: Arc<Vec<Route>>,
}

impl Packed {
    /// Packs a document. Parts equal to the neighbour's are taken from there.
    pub fn new(mut patch: Patch, neighbour: Option<&Packed>) -> Self {
        let units = std::mem::take(&mut patch.units);
        let routes = std::mem::take(&mut patch.routes);
        Packed {
            units: units
                .into_iter()
                .map(|unit| {
                    let known = neighbour.and_then(|n| n.units.iter().find(|k| ***k == unit));
                    known.cloned().unwrap_or_else(|| Arc::new(unit))
                })
                .collect(),
            routes: shared(routes, neighbour.map(|n| &n.routes)),
            rest: shared(patch, neighbour.map(|n| &n.rest)),
        }
    }

    /// The document again.
    pub fn unpack(&self) -> Patch {
        let mut patch = Patch::clone(&self.rest);
        patch.units = self.units.iter().map(|unit| Unit::clone(unit)).collect();
        patch.routes = Vec::clone(&self.routes);
        patch
    }

    /// Whether this is exactly that document.
    pub fn is(&self, patch: &Patch) -> bool {
        self.units.len() == patch.units.len()
            && self.units.iter().zip(&patch.units).all(|(a, b)| **a == *b)
            && *self.routes == patch.routes
            && self.unpack() == *patch
    }
}

fn shared<T: PartialEq>(part: T, neighbour: Option<&Arc<T>>) -> Arc<T> {
    match neighbour {
        Some(known) if **known == part => Arc::clone(known),
        _ => Arc::new(part),
    }
}
