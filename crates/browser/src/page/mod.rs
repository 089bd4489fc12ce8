//! The page's side: one document, its history, and what is muted or soloed for now.

mod articulations;
mod documents;
mod drawn;
mod finding;
mod finish;
mod hands;
mod left;
mod listening;
mod loose;
mod moving;
mod naming;
mod phrases;
mod state;
mod strips;
mod synonyms;
mod trial;
mod values;
mod waves;

use zolvik_engine::program::compile;

pub use self::state::Page;
use crate::protocol::{Answer, HandsEdit, Question, Refusal, Reply};

impl Page {
    /// Answers a question.
    pub fn answer(&mut self, question: Question) -> Reply {
        self.try_answer(question).unwrap_or_else(|why| {
            let why = why.to_string();
            Answer::Refused { why }.into()
        })
    }

    /// The compiled program of the document as it is heard now.
    pub fn program(&self) -> Vec<u8> {
        compile(self.history.present(), &self.listening)
            .bytes()
            .to_vec()
    }

    fn try_answer(&mut self, question: Question) -> Result<Reply, Refusal> {
        match question {
            Question::Document(asked) => self.answer_document(asked),
            Question::Value(asked) => self.answer_value(asked),
            Question::Strip(asked) => self.answer_strip(asked),
            Question::Arranging(asked) => self.answer_arranging(asked),
            Question::Wave(asked) => self.answer_wave(asked),
            Question::Movement(asked) => self.answer_movement(asked),
            Question::Finish(asked) => self.answer_finish(asked),
            Question::Hand(asked) => self.answer_hand(asked),
            Question::Phrase(asked) => self.answer_phrase(asked),
            Question::Listening(asked) => self.answer_listening(asked),
            Question::ByHand(HandsEdit::ByHand { on, asks }) => {
                self.held = Some(on);
                let answer = self.try_answer(*asks);
                self.held = None;
                answer
            }
        }
    }
}
