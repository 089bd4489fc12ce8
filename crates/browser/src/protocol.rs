//! Questions and answers between TypeScript and Rust. The TypeScript side is generated from here.

use serde::{Deserialize, Serialize};
use zolvik_lab::Detail;
use zolvik_lab::level::Level;
use zolvik_lab::spectrum::Partial;
use zolvik_patch::address::Address;
use zolvik_patch::document::UnitId;
use zolvik_patch::edit::Edit;
use zolvik_patch::hearing::Listening;
use zolvik_patch::shape::HandleKind;

use crate::phrase::Timed;
use crate::view::DocumentView;

/// What the page or the worker asks.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case", tag = "ask")]
pub enum Question {
    /// Starts with an empty patch.
    New,
    /// Starts with a patch file's text.
    Load {
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
        /// Number of the gesture, if it is one.
        gesture: Option<u32>,
    },
    /// Sets a value from typed text.
    Type {
        /// Which value.
        address: Address,
        /// As typed.
        text: String,
    },
    /// Moves a value by steps, as arrow keys and the wheel do.
    Nudge {
        /// Which value.
        address: Address,
        /// How many, with sign.
        steps: f64,
        /// Fine steps.
        fine: bool,
        /// Number of the gesture, if it is one.
        gesture: Option<u32>,
    },
    /// Moves a value by a share of its bar from where the drag began.
    Drag {
        /// Which value.
        address: Address,
        /// Value at the drag's begin.
        start: f64,
        /// Share of the bar, with sign.
        moved: f64,
        /// A tenth as far.
        fine: bool,
        /// Number of the gesture.
        gesture: u32,
    },
    /// Puts a value back to its default.
    Reset {
        /// Which value.
        address: Address,
    },
    /// Drags a point of an envelope.
    DragHandle {
        /// Whose envelope.
        unit: UnitId,
        /// Which point.
        handle: HandleKind,
        /// Where to, in seconds from the press.
        time_s: f64,
        /// Where to, 0 to 1.
        level: f64,
        /// Number of the gesture.
        gesture: u32,
    },
    /// Lowers or raises the trim so that the true peak comes to lie at -1 dB.
    TrimTo {
        /// The measured true peak.
        true_peak_db: f64,
    },
    /// One step back.
    Undo,
    /// One step forward.
    Redo,
    /// Mutes and solos for now.
    Listen {
        /// What is muted and soloed.
        listening: Listening,
    },
    /// The patch file's text.
    Save,
    /// What the strips put out, in words, for amplitudes in the order of the rows.
    Words {
        /// 0 to 1, one for each row.
        amplitudes: Vec<f64>,
        /// Position of the send shown, one for each row.
        sends: Vec<usize>,
    },
    /// The phrase the simulated keyboard plays.
    Phrase,
    /// Renders and draws the note of a patch. The pictures are fetched as binaries.
    Unfold {
        /// JSON of the patch.
        text: String,
        /// What is muted and soloed.
        listening: Listening,
        /// Shape of the time axis.
        exponent: f64,
        /// How fine.
        detail: Detail,
    },
    /// Spectrum of the note last unfolded around a moment.
    Spectrum {
        /// In seconds from the press.
        time_s: f64,
        /// Rows of logarithmic frequency.
        rows: usize,
    },
    /// Renders the note of a patch as a WAV file.
    Wav {
        /// JSON of the patch.
        text: String,
        /// 16, 24 or 32.
        bits: u32,
        /// Sample rate in hertz.
        rate_hz: u32,
        /// Until it has sounded out, instead of the length of the window.
        to_its_end: bool,
    },
}

/// What comes back.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case", tag = "is")]
pub enum Answer {
    /// The document after the question.
    Document {
        /// All the screen shows of it.
        view: Box<DocumentView>,
        /// The unit an edit would have selected.
        select: Option<UnitId>,
    },
    /// A patch file's text.
    Text {
        /// JSON of the patch.
        text: String,
    },
    /// Words, one for each row.
    Words {
        /// In the order of the rows.
        words: Vec<String>,
    },
    /// A phrase.
    Phrase {
        /// In order of time.
        messages: Vec<Timed>,
    },
    /// A note was drawn; its pictures wait as binaries.
    Unfolded {
        /// Columns of all pictures.
        columns: usize,
        /// Rows of the spectrogram.
        rows: usize,
        /// Units in the order of the curves.
        units: Vec<UnitId>,
        /// Levels of the note.
        level: Level,
    },
    /// A spectrum waits as a binary.
    Spectrum {
        /// Its strongest partials.
        partials: Vec<Partial>,
    },
    /// Something waits as a binary.
    Ready {
        /// A fitting file name.
        file_name: String,
    },
    /// Nothing was changed; this is why.
    Refused {
        /// In words, with what to do.
        why: String,
    },
}

/// What can be fetched as bytes after an answer.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[repr(u32)]
pub enum Binary {
    /// The compiled program, after any answer with a document.
    Program = 0,
    /// Spectrogram, one byte a point, rows from the lowest frequency.
    Spectrogram = 1,
    /// Loudness of each column, `f32`.
    Loudness = 2,
    /// Curves of all units one behind the other, `f32`.
    Curves = 3,
    /// Spectrum at a moment, `f32`.
    Spectrum = 4,
    /// A rendered file.
    File = 5,
}

/// How many kinds of binaries there are.
pub const BINARIES: usize = 6;
