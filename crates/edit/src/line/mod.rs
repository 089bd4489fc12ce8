//! Strips as a line of text: `saw x0.5 -14dB 30L; sine x3.5 > 2 1.2rad`. What is typed is read here, and what is copied is written.

mod read;
mod strip;
mod write;

use zolvik_patch::Patch;
use zolvik_patch::document::UnitId;

pub use self::read::{LineError, Word, read};
pub use self::strip::{NewSend, NewStrip};
pub use self::write::write;

/// Strips of a patch as strips to be, with all they are.
pub fn copied(patch: &Patch, units: &[UnitId]) -> Vec<NewStrip> {
    patch
        .units
        .iter()
        .filter(|unit| units.contains(&unit.id))
        .map(|unit| NewStrip {
            called: Some(unit.id.0),
            unit: unit.clone(),
            sends: patch
                .sends(unit.id)
                .map(|route| NewSend {
                    to: route.send.target().map(|to| to.0),
                    send: route.send.clone(),
                })
                .collect(),
            level_db: None,
            pan: None,
        })
        .collect()
}

/// Leaves out what leads to strips that are not among them: in another patch those numbers mean others.
pub fn uprooted(strips: &mut [NewStrip]) {
    let known: Vec<u16> = strips.iter().filter_map(|strip| strip.called).collect();
    for strip in strips {
        strip
            .sends
            .retain(|send| send.to.is_none_or(|to| known.contains(&to)));
    }
}
