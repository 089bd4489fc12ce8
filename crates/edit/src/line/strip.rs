//! Strips that are still to be.

use zolvik_patch::document::Unit;
use zolvik_patch::document::{Bus, Send};

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

/// A way out as it is before anything is said of it.
pub(super) fn plain_out() -> Send {
    Send::Output {
        level_db: -12.0,
        pan: 0.0,
        bus: Bus::Main,
    }
}
