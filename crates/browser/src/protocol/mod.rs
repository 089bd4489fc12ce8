//! Questions, tasks and answers between TypeScript and Rust. The TypeScript side is generated from here.

mod question;
mod task;

use serde::Serialize;
use zolvik_patch::document::UnitId;
use zolvik_patch::offers::Offers;
use zolvik_patch::param::ParamId;

pub use self::question::Question;
pub use self::task::Task;
use crate::explain::{ExplanationView, LevelView, PartialView};
use crate::inspect::{ArrangementView, InspectView, ReadyView, SoundChoice, WaveChoice};
use crate::phrase::Timed;
use crate::rules::Rules;
use crate::view::DocumentView;

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
    /// A text that was asked for.
    Text {
        /// JSON.
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
        level: LevelView,
    },
    /// How loud a note is.
    Measured {
        /// Levels of the note.
        level: LevelView,
    },
    /// A spectrum waits as a binary.
    Spectrum {
        /// Its strongest partials.
        partials: Vec<PartialView>,
        /// What makes them, by theory.
        explanation: ExplanationView,
        /// Gain of the filter asked for, in dB, evenly over the rows' frequencies; empty if there is none.
        response: Vec<f64>,
    },
    /// What the inspector shows of a unit beside its values.
    Inspected {
        /// All of it.
        view: Box<InspectView>,
    },
    /// What is offered.
    Offers {
        /// Under their titles.
        groups: Vec<Offers>,
    },
    /// How far a state is turned down.
    Match {
        /// In decibels.
        lowered_db: f64,
        /// As a factor.
        gain: f64,
    },
    /// Limits and laws, and what each parameter does.
    Rules {
        /// Limits and laws.
        rules: Rules,
        /// Each parameter with its sentence.
        helps: Vec<(ParamId, &'static str)>,
    },
    /// All waves there are, family by family.
    Waves {
        /// In the order they are stepped through.
        waves: Vec<WaveChoice>,
    },
    /// Recordings to choose from.
    Sounds {
        /// Attacks, textures, then those of the patch.
        list: Vec<SoundChoice>,
    },
    /// The waveform of a recording waits as a binary.
    Waveform {
        /// Its length in seconds.
        length_s: f64,
    },
    /// Envelopes to choose from.
    Envelopes {
        /// Each as a small picture.
        list: Vec<ReadyView>,
    },
    /// Arrangements to choose from.
    Arrangements {
        /// Each for the operators there are.
        list: Vec<ArrangementView>,
        /// How many operators there are.
        operators: usize,
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
    /// A wave or recording for the audio thread.
    Bank = 6,
    /// Highest and lowest samples of a recording, in turn, `f32`.
    Waveform = 7,
}

/// How many kinds of binaries there are.
pub const BINARIES: usize = 8;
