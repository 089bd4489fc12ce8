//! The phrase, and what the audio thread is to play.

use serde::Deserialize;

/// The phrase, and what the audio thread is to play.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case", remote = "Self")]
#[cfg_attr(feature = "types", ts(tag = "ask"))]
pub enum PhraseQuestion {
    /// Phrases to choose from.
    Phrases,
    /// Gives the patch one of them.
    TakePhrase {
        /// Its place in the list.
        at: usize,
        /// Also moves the auditioned note to where it sounds good.
        from_its_key: bool,
    },
    /// Gives the patch a phrase as text, as [`PhraseQuestion::PhraseText`] gave it.
    GivePhrase { text: String },
    /// The phrase as text.
    PhraseText,
    /// Plays the auditioned note by itself again.
    NoPhrase,
    /// Sets the length of the phrase from a typed number of bars.
    TypeBars {
        /// As typed.
        text: String,
    },
    /// Makes a phrase of the MIDI file that was put in.
    ImportMidi {
        /// Name of the file.
        name: String,
    },
    /// The phrase as a MIDI file.
    ExportMidi,
    /// What the audio thread is to play, with the beat.
    Score {
        /// What.
        of: ScoreOf,
    },
    /// Makes a phrase of what was recorded.
    Recorded {
        /// Beats and messages, in time.
        events: Vec<(f64, [u8; 3])>,
        /// Beats the begins are put on; 0 for none.
        grid_beats: f64,
    },
    /// Puts notes of the phrase elsewhere.
    MoveNotes {
        /// Positions of the notes.
        notes: Vec<usize>,
        /// How far, in beats and semitones.
        by_beats: f64,
        by_semitones: i16,
        /// How much longer, in beats.
        longer_beats: f64,
        /// Beats the begins are put on; 0 for none.
        grid_beats: f64,
        /// Number of the gesture.
        gesture: u32,
    },
    /// Strikes notes harder or softer than they were when the gesture began.
    StrikeNotes {
        /// Positions of the notes.
        notes: Vec<usize>,
        /// By how much, in steps of velocity.
        by_velocity: f64,
        /// Number of the gesture.
        gesture: u32,
    },
    /// The velocities of a typed list.
    VelocitiesOf { text: String },
    /// Sets one value of notes from typed text.
    TypeNote {
        notes: Vec<usize>,
        field: NoteField,
        text: String,
    },
}

/// What the audio thread is to play.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum ScoreOf {
    /// The auditioned note.
    Note,
    /// The phrase, or the note where there is none.
    Phrase,
    /// Only the beat.
    Beat,
}

/// A value of a note of a phrase.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum NoteField {
    Pitch,
    Starts,
    Length,
    Velocity,
}
