//! What is heard and seen for now, without a change of the document.

use zolvik_lab::level::{evened_db, lowered_db};
use zolvik_patch::graph::rows;
use zolvik_patch::levels::db_gain;

use super::state::Page;
use crate::protocol::{Answer, ListeningQuestion, Refusal, Reply};
use crate::view::words;

impl Page {
    /// Answers what is asked of what is heard and seen for now.
    pub(super) fn answer_listening(
        &mut self,
        question: ListeningQuestion,
    ) -> Result<Reply, Refusal> {
        let patch = self.history.present();
        match question {
            ListeningQuestion::Listen { listening } => {
                self.listening = *listening;
                Ok(self.document(vec![]))
            }
            ListeningQuestion::HearWithout { units } => {
                let gone = std::mem::take(&mut self.without);
                self.listening.again(&gone);
                (self.listening, self.without) = self.listening.without(patch, &units);
                Ok(self.document(vec![]))
            }
            ListeningQuestion::Match {
                here_lufs,
                there_lufs,
            } => {
                let lowered_db = lowered_db(here_lufs, there_lufs);
                let gain = db_gain(-lowered_db);
                let evened = db_gain(evened_db(here_lufs, there_lufs));
                Ok(Answer::Match {
                    lowered_db,
                    gain,
                    evened,
                }
                .into())
            }
            ListeningQuestion::Words { amplitudes, sends } => {
                let rows = rows(patch);
                let each = rows.iter().zip(amplitudes).zip(sends);
                let each = each.map(|((unit, a), send)| words(patch, *unit, send, a));
                let words = each.collect();
                Ok(Answer::Words { words }.into())
            }
            ListeningQuestion::ZoomSpan {
                span,
                around_hz,
                times,
            } => Ok(Answer::Span {
                span: span.held().zoomed(around_hz, times),
            }
            .into()),
            ListeningQuestion::MoveSpan { span, ratio } => Ok(Answer::Span {
                span: span.held().moved(ratio),
            }
            .into()),
        }
    }
}
