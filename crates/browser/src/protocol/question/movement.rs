//! Sources of movement and their links.

use serde::Deserialize;
use zolvik_patch::document::{LinkId, SourceId, UnitId};

/// Sources of movement and their links.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case", remote = "Self")]
#[cfg_attr(feature = "types", ts(tag = "ask"))]
pub enum MovementQuestion {
    /// The drawn cycles that come with the application.
    ReadyShapes,
    /// Gives a source one of them.
    TakeShape {
        source: SourceId,
        /// Its place in the list.
        at: usize,
    },
    /// Gives a source a cycle drawn freehand.
    DrawShape {
        source: SourceId,
        /// Levels evenly over the cycle, 0 to 1.
        levels: Vec<f64>,
        /// Number of the gesture.
        gesture: u32,
    },
    /// Values that may be moved, by their names.
    Targets {
        text: String,
        /// For which source: its own values are left out.
        source: SourceId,
    },
    /// A source as text, with its shape and links.
    CopySource { source: SourceId },
    /// Gives a source the kind, clock and shape of one that was copied.
    PasteSource {
        source: SourceId,
        /// As [`MovementQuestion::CopySource`] gave it.
        text: String,
    },
    /// Sets one end of a link from typed text; the other stays.
    TypeEnd {
        link: LinkId,
        /// The upper one of both.
        high: bool,
        /// As typed, in the unit of what is moved.
        text: String,
    },
    /// Sets one end of a macro's target from typed text.
    TypeWay {
        link: LinkId,
        /// The end at 100 %.
        high: bool,
        /// As typed, in the unit of what is moved.
        text: String,
    },
    /// Links a source with the value that is meant by each of these strips.
    LinkStrips {
        from: SourceId,
        /// Units or sources.
        strips: Vec<UnitId>,
    },
    /// Sets how many steps a source has from typed text.
    TypeStepCount { source: SourceId, text: String },
    /// The patch file's text with a macro at one of its ends, to be looked at.
    AtEnd {
        source: SourceId,
        /// At 100 %.
        high: bool,
    },
    /// Tells no more of links of a source that went with their routes.
    ForgetLoose { source: SourceId },
}
