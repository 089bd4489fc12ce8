//! Strips: lines of text, routes, arrangements, envelopes, and what is found by name.

use serde::Deserialize;
use zolvik_edit::offers::OfferKind;
use zolvik_patch::document::UnitId;

/// Strips: lines of text, routes, arrangements, envelopes, and what is found by name.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case", remote = "Self")]
#[cfg_attr(feature = "types", ts(tag = "ask"))]
pub enum StripQuestion {
    /// What the inspector shows of a unit beside its values.
    Inspect { unit: UnitId },
    /// Drags a point of an envelope.
    DragHandle {
        /// Whose envelope.
        unit: UnitId,
        /// Position of the point.
        at: usize,
        /// Whether the segment that leads there is bent.
        bend: bool,
        /// Without snapping to the beat grid.
        free: bool,
        /// Where to, in seconds from the press.
        time_s: f64,
        /// Where to, 0 to 1.
        level: f64,
        /// Number of the gesture.
        gesture: u32,
    },
    /// Remembers an envelope, to be pasted.
    CopyEnvelope { unit: UnitId },
    /// Gives units the envelope remembered last.
    PasteEnvelope { units: Vec<UnitId> },
    /// The envelopes that come with the application.
    ReadyEnvelopes,
    /// Gives units one of them.
    TakeReady {
        units: Vec<UnitId>,
        /// Its place in the list.
        at: usize,
    },
    /// Drops a unit's number onto another one, or the output.
    Drop {
        unit: UnitId,
        /// Onto which; none for the output.
        onto: Option<UnitId>,
        /// Whether it changes its role instead of getting one more route.
        only: bool,
    },
    /// What that would do, in words.
    DropWords {
        unit: UnitId,
        /// Onto which; none for the output.
        onto: Option<UnitId>,
    },
    /// What a typed line of strips would make; nothing is made.
    Line { text: String },
    /// Makes the strips of a typed line; a line that was copied brings all its strips were.
    TakeLine {
        /// As typed.
        text: String,
        /// The selected units: they go through a filter of which no more is said.
        #[serde(default)]
        units: Vec<UnitId>,
    },
    /// Strips as a line, which is remembered with all they are.
    CopyStrips { units: Vec<UnitId> },
    /// Strips, and values of strips and of the patch, by their names.
    Find { text: String },
    /// How well names fit what was typed into Find.
    Ranked {
        /// As typed.
        text: String,
        /// Names of what can be done.
        names: Vec<String>,
    },
    /// What may be added, connected or moved where.
    Offers {
        /// Which of it.
        kind: OfferKind,
        /// For which unit; none while none is selected.
        unit: Option<UnitId>,
    },
}
