//! Questions and answers between TypeScript and Rust. The TypeScript side is generated from here.

use serde::{Deserialize, Serialize};
use zolvik_lab::Detail;
use zolvik_lab::level::Level;
use zolvik_lab::predict::Explanation;
use zolvik_lab::spectrum::Partial;
use zolvik_patch::address::Address;
use zolvik_patch::catalogue::ParamId;
use zolvik_patch::document::UnitId;
use zolvik_patch::edit::Edit;
use zolvik_patch::hearing::Listening;

use crate::inspect::{ArrangementView, InspectView, ReadyView, SoundChoice, WaveChoice};
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
        /// Other units of which the same value is meant too.
        #[serde(default)]
        also: Vec<u16>,
        /// As typed.
        text: String,
    },
    /// Moves a value by steps, as arrow keys and the wheel do.
    Nudge {
        /// Which value.
        address: Address,
        /// Other units of which the same value is meant too.
        #[serde(default)]
        also: Vec<u16>,
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
        /// Other units of which the same value is meant too.
        #[serde(default)]
        also: Vec<u16>,
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
        /// Other units of which the same value is meant too.
        #[serde(default)]
        also: Vec<u16>,
    },
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
    CopyEnvelope {
        /// Whose.
        unit: UnitId,
    },
    /// Gives units the envelope remembered last.
    PasteEnvelope {
        /// Which units.
        units: Vec<UnitId>,
    },
    /// The envelopes that come with the application.
    ReadyEnvelopes,
    /// Gives units one of them.
    TakeReady {
        /// Which units.
        units: Vec<UnitId>,
        /// Its place in the list.
        at: usize,
    },
    /// What the inspector shows of a unit beside its values.
    Inspect {
        /// Which unit.
        unit: UnitId,
    },
    /// Gives units the wave some steps further in the list.
    StepWave {
        /// Which units; each steps from its own wave.
        units: Vec<UnitId>,
        /// How many, with sign.
        steps: i32,
    },
    /// Draws one of a unit's bars.
    DrawBar {
        /// Which unit; its wave becomes bars if it is none.
        unit: UnitId,
        /// Which harmonic, from 1.
        harmonic: usize,
        /// 0 to 1; as it is if none.
        amplitude: Option<f64>,
        /// In turns; as it is if none.
        phase_turns: Option<f64>,
        /// Number of the gesture, if it is one.
        gesture: Option<u32>,
    },
    /// Gives units a wave.
    ChooseWave {
        /// Which units.
        units: Vec<UnitId>,
        /// Its place in the list of [`Answer::Waves`].
        at: usize,
    },
    /// Adds an imported table and gives it to units.
    AddTable {
        /// Which units.
        units: Vec<UnitId>,
        /// JSON of the table, as [`Answer::Text`] gave it; its number is chosen here.
        table: String,
    },
    /// The recordings samples can play: those of the application and those the patch has.
    Sounds,
    /// Gives samples something to play.
    ChooseSound {
        /// Which units.
        units: Vec<UnitId>,
        /// Its place in the list of [`Answer::Sounds`].
        at: usize,
    },
    /// Gives samples a recording that was brought in.
    AddSound {
        /// Which units.
        units: Vec<UnitId>,
        /// JSON of the recording's description, as the store gave it.
        sound: String,
    },
    /// Tells which recordings the store does not have.
    Missing {
        /// Their contents.
        contents: Vec<String>,
    },
    /// Takes the file that was put in as the recording with a content.
    PutClip {
        /// SHA-256 of the file.
        content: String,
    },
    /// Highest and lowest sample of each of many stretches of what a sample plays, fetched as a binary.
    Waveform {
        /// JSON of the patch.
        text: String,
        /// Which unit.
        unit: UnitId,
        /// How many stretches.
        columns: usize,
    },
    /// What each parameter does, in words.
    Helps,
    /// All waves there are.
    Waves,
    /// Tunes the keys by the text of a Scala file: a scale, or a map for the scale that is there.
    LoadScale {
        /// Name of the file; its ending tells scales from maps.
        file_name: String,
        /// What it holds.
        text: String,
    },
    /// Back to equal temperament.
    ClearScale,
    /// The useful arrangements of the operators there are.
    Arrangements,
    /// Tries an arrangement in place of the one there was when the first was tried.
    TryArrangement {
        /// Its place in the list of [`Answer::Arrangements`] given last.
        at: usize,
    },
    /// Ends trying.
    EndTrial {
        /// Whether the arrangement tried last stays.
        keep: bool,
    },
    /// The arrangement there is, as text to be kept for other patches.
    KeepArrangement,
    /// An arrangement kept before, laid on the operators there are.
    LayArrangement {
        /// As [`Question::KeepArrangement`] gave it.
        text: String,
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
    /// The text of the other of two states.
    OtherText,
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
        /// A filter whose response is wanted too.
        #[serde(default)]
        filter: Option<UnitId>,
    },
    /// How loud the auditioned note of a patch is.
    Measure {
        /// JSON of the patch.
        text: String,
    },
    /// Bytes of a wave for the audio thread, fetched as a binary.
    Bank {
        /// JSON of the patch.
        text: String,
        /// Which, as [`crate::view::DocumentView::banks`] names it.
        key: String,
    },
    /// Looks at the beginning of a recording that was put in.
    LookRecording,
    /// Cuts a table from the recording that was put in; gives JSON of the table.
    CutTable {
        /// A name for it.
        name: String,
        /// Samples of a cycle; by pitch if none.
        cycle: Option<usize>,
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
        level: Level,
    },
    /// How loud a note is.
    Measured {
        /// Levels of the note.
        level: Level,
    },
    /// A spectrum waits as a binary.
    Spectrum {
        /// Its strongest partials.
        partials: Vec<Partial>,
        /// What makes them, by theory.
        explanation: Explanation,
        /// Gain of the filter asked for, in dB, evenly over the rows' frequencies; empty if there is none.
        response: Vec<f64>,
    },
    /// What the inspector shows of a unit beside its values.
    Inspected {
        /// All of it.
        view: Box<InspectView>,
    },
    /// What each parameter does, in words.
    Helps {
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
