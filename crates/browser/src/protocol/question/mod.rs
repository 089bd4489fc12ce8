//! What the page asks: one enum for each subject, told apart by the field `ask` as if they were one.

mod arranging;
mod document;
mod finish;
mod hand;
mod listening;
mod movement;
mod phrase;
mod strip;
mod value;
mod wave;

use serde::Deserialize;

pub use self::arranging::ArrangingQuestion;
pub use self::document::DocumentQuestion;
pub use self::finish::FinishQuestion;
pub use self::hand::HandQuestion;
pub use self::listening::ListeningQuestion;
pub use self::movement::MovementQuestion;
pub use self::phrase::{NoteField, PhraseQuestion, ScoreOf};
pub use self::strip::StripQuestion;
pub use self::value::ValueQuestion;
pub use self::wave::{BarPart, WaveQuestion};
use crate::view::Piece;

/// An edit a hand makes while it moves. What it has hold of is told, all else is asked for when there is time ([`DocumentQuestion::View`]).
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case", remote = "Self")]
#[cfg_attr(feature = "types", ts(tag = "ask"))]
pub enum HandsEdit {
    /// While a hand moves.
    ByHand {
        /// What it has hold of.
        on: Piece,
        /// The edit.
        asks: Box<Question>,
    },
}

zolvik_json::kinds_read_in_field! {
    /// What the page asks.
    #[derive(Debug, Clone)]
    #[cfg_attr(feature = "types", derive(ts_rs::TS), ts(untagged))]
    pub enum Question in "ask" {
        /// The document as a whole: opened, edited, undone, written.
        Document(DocumentQuestion),
        /// Values: typed, dragged, stepped, compared, and put in words.
        Value(ValueQuestion),
        /// Strips: lines of text, routes, arrangements, envelopes, and what is found by name.
        Strip(StripQuestion),
        /// Arrangements of operators.
        Arranging(ArrangingQuestion),
        /// Waves, tables, recordings and scales.
        Wave(WaveQuestion),
        /// Sources of movement and their links.
        Movement(MovementQuestion),
        /// Effects.
        Finish(FinishQuestion),
        /// What hands and keyboards send.
        Hand(HandQuestion),
        /// The phrase, and what the audio thread is to play.
        Phrase(PhraseQuestion),
        /// What is heard and seen for now, without a change of the document.
        Listening(ListeningQuestion),
        /// Under a hand.
        ByHand(HandsEdit),
    }
}

impl Question {
    /// Whether a file that was put in is meant for it.
    pub fn takes_a_file(&self) -> bool {
        matches!(self, Question::Phrase(PhraseQuestion::ImportMidi { .. }))
    }
}
