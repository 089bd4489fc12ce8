//! The document as a whole: opened, edited, undone, written.

use serde::Deserialize;
use zolvik_edit::Edit;
use zolvik_edit::history::KeptSteps;
use zolvik_patch::document::UnitId;

/// The document as a whole: opened, edited, undone, written.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case", remote = "Self")]
#[cfg_attr(feature = "types", ts(tag = "ask"))]
pub enum DocumentQuestion {
    /// Starts with an empty patch.
    New,
    /// Starts with a patch file's text.
    Load {
        /// JSON of the patch.
        text: String,
        /// Its number in the library. One that was open before, and is as it was left, has its steps of undo again.
        of: Option<i32>,
        /// The steps of undo that are kept beside it.
        steps: Option<KeptSteps>,
    },
    /// What is new in its steps of undo since the one with this number; without a number only which one was made last.
    Steps {
        /// The number.
        since: Option<u64>,
    },
    /// The nearest valid patch to a text that is none; changes nothing.
    Mend {
        /// The text.
        text: String,
    },
    /// Puts another patch file's patch in place of the present one, both states, as one step: unsaved changes that were kept.
    TakeUp {
        /// JSON of the patch.
        text: String,
    },
    /// Puts another patch file's patch in place of the present one, as an edit that can be undone.
    BringBack {
        /// JSON of the patch.
        text: String,
    },
    /// Makes an edit; those with the same gesture in a row are one step of undo.
    Edit {
        /// The edit.
        edit: Edit,
        /// The selected units: where it is an edit of one of them it is meant for all.
        #[serde(default)]
        units: Vec<UnitId>,
        /// Number of the gesture, if it is one.
        gesture: Option<u32>,
    },
    /// All the screen shows of the document as it is.
    View {
        /// Whether no hand moves anything: scales of strips that were held for it are as they would be.
        #[serde(default)]
        at_rest: bool,
    },
    /// One step back.
    Undo,
    /// Takes back what a gesture did, if that was the last thing done.
    TakeBack { gesture: u32 },
    /// One step forward.
    Redo,
    /// The patch file's text.
    Save,
    /// The text of what sounds, in this state or the other of two: patches that sound alike have the same.
    Sounding {
        /// Whether that of the other state.
        #[serde(default)]
        other: bool,
    },
    /// What is different in the articulations, side by side.
    Differences,
    /// Limits and laws, and what each parameter does.
    Rules,
}
