//! Why something that was asked is not done, in words for the screen.

use thiserror::Error;
use zolvik_edit::line::LineError;
use zolvik_files::midi::MidiError;
use zolvik_files::scala::ScalaError;
use zolvik_files::wav::{ReadError, WavError};
use zolvik_json::Misread;
use zolvik_lab::piece::NoPiece;
use zolvik_patch::error::PatchError;
use zolvik_patch::text::TextError;
use zolvik_play::recorder::NoPhrase;
use zolvik_waves::cut::CutError;

/// Why it is not done; nothing was changed.
#[derive(Debug, Error)]
pub enum Refusal {
    /// It is there no longer.
    #[error("this {0} is gone")]
    Gone(&'static str),
    /// A list has nothing at that place.
    #[error("there is no such {0}")]
    NoSuch(&'static str),
    /// It cannot be done as things are; the words say why, and what to do.
    #[error("{0}")]
    Cannot(&'static str),
    /// An arrangement of another number of operators.
    #[error("it is for {needs} operators, this patch has {has}")]
    Operators {
        /// Those of the arrangement.
        needs: usize,
        /// Those of the patch.
        has: usize,
    },
    /// What was copied or kept cannot be read.
    #[error("{what} cannot be read: {why}; {hint}")]
    Kept {
        /// What.
        what: String,
        /// Why.
        why: Misread,
        /// What may have happened.
        hint: &'static str,
    },
    /// A setting of another kind of effect.
    #[error("“{name}” is for {of}, not for {wanted}")]
    OtherKind {
        /// Its name.
        name: String,
        /// Its kind.
        of: &'static str,
        /// The kind that is there.
        wanted: &'static str,
    },
    /// Files are not rendered at that rate.
    #[error("a rate of {0} Hz is not rendered; choose 8000 to 192000")]
    Rate(u32),
    /// The document does not take it.
    #[error(transparent)]
    Patch(#[from] PatchError),
    /// A typed value cannot be read.
    #[error(transparent)]
    Text(#[from] TextError),
    /// A typed line cannot be read.
    #[error(transparent)]
    Line(#[from] LineError),
    /// No JSON of what it should be.
    #[error(transparent)]
    Json(#[from] Misread),
    /// No MIDI file a phrase can be made of.
    #[error(transparent)]
    Midi(#[from] MidiError),
    /// What was played makes no phrase.
    #[error(transparent)]
    Played(#[from] NoPhrase),
    /// No piece of a rendered sound.
    #[error(transparent)]
    Piece(#[from] NoPiece),
    /// No scale or map.
    #[error(transparent)]
    Scale(#[from] ScalaError),
    /// Audio that cannot be read.
    #[error(transparent)]
    Audio(#[from] ReadError),
    /// Audio that cannot be written.
    #[error(transparent)]
    Wav(#[from] WavError),
    /// No table can be cut from it.
    #[error(transparent)]
    Table(#[from] CutError),
}
