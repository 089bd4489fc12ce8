//! Strips as a line of text: `saw x0.5 -14dB 30L; sine x3.5 > 2 1.2rad`. What is typed is read here, and what is copied is written.

mod read;
mod write;

use crate::ids::UnitId;
use crate::patch::Patch;
use crate::route::{Bus, Send};
use crate::unit::Unit;

pub use self::read::{LineError, Word, read};
pub use self::write::write;

/// A strip to be: it has no number yet.
#[derive(Debug, Clone, PartialEq)]
pub struct NewStrip {
    /// How the other strips of the line call it.
    pub called: Option<u16>,
    /// What it will be; its number is given when it is added, and its name too if it has none.
    pub unit: Unit,
    /// Where it leads; nowhere in particular means out, as new strips do.
    pub sends: Vec<NewSend>,
    /// Level and place on its usual way out, where they were said.
    pub level_db: Option<f64>,
    pub pan: Option<f64>,
}

/// Where a strip to be leads.
#[derive(Debug, Clone, PartialEq)]
pub struct NewSend {
    /// Another strip of the line, by how that is called there, else one of the patch, by its number; none is out.
    pub to: Option<u16>,
    /// What it does there; its end is of no account.
    pub send: Send,
}

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

/// A way out as it is before anything is said of it.
fn plain_out() -> Send {
    Send::Output {
        level_db: -12.0,
        pan: 0.0,
        bus: Bus::Main,
    }
}
