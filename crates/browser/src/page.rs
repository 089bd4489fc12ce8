//! The page's side: one document, its history, and what is muted or soloed for now.

use zolvik_engine::program::compile;
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::catalogue::{ParamId, param};
use zolvik_patch::document::UnitId;
use zolvik_patch::edit::Edit;
use zolvik_patch::hearing::Listening;
use zolvik_patch::history::History;
use zolvik_patch::{json, shape, text};

use crate::phrase::phrase;
use crate::protocol::{Answer, Question};
use crate::view::{document_view, words};

/// An open document.
pub struct Page {
    history: History,
    listening: Listening,
}

impl Default for Page {
    fn default() -> Self {
        Page {
            history: History::new(Patch::empty()),
            listening: Listening::default(),
        }
    }
}

impl Page {
    /// Answers a question; none if it is one for the worker.
    pub fn answer(&mut self, question: Question) -> Option<Answer> {
        Some(match self.try_answer(question)? {
            Ok(answer) => answer,
            Err(why) => Answer::Refused { why },
        })
    }

    /// The compiled program of the document as it is heard now.
    pub fn program(&self) -> Vec<u8> {
        compile(self.history.present(), &self.listening)
            .bytes()
            .to_vec()
    }

    fn try_answer(&mut self, question: Question) -> Option<Result<Answer, String>> {
        let patch = self.history.present();
        Some(match question {
            Question::New => Ok(self.open(Patch::empty())),
            Question::Load { text } => json::read(&text)
                .map(|patch| self.open(patch))
                .map_err(|e| e.to_string()),
            Question::BringBack { text } => {
                json::read(&text)
                    .map_err(|e| e.to_string())
                    .and_then(|patch| {
                        self.edit(
                            &Edit::Replace {
                                patch: Box::new(patch),
                            },
                            None,
                        )
                    })
            }
            Question::Edit { edit, gesture } => self.edit(&edit, gesture),
            Question::Type { address, text } => self.current(address).and_then(|now| {
                let value = text::read(address.param, &text, now).map_err(|e| e.to_string())?;
                self.set(address, value, None)
            }),
            Question::Nudge {
                address,
                steps,
                fine,
                gesture,
            } => self.current(address).and_then(|now| {
                self.set(
                    address,
                    param(address.param).nudge(now, steps, fine),
                    gesture,
                )
            }),
            Question::Drag {
                address,
                start,
                moved,
                fine,
                gesture,
            } => self.set(
                address,
                param(address.param).drag(start, moved, fine),
                Some(gesture),
            ),
            Question::Reset { address } => self.set(address, param(address.param).default, None),
            Question::DragHandle {
                unit,
                handle,
                time_s,
                level,
                gesture,
            } => match shape::drag(patch, unit, handle, time_s, level) {
                Some(edit) => self.edit(&edit, Some(gesture)),
                None => Err("this operator is gone".into()),
            },
            Question::TrimTo { true_peak_db } => self.trim(true_peak_db),
            Question::Undo => {
                self.history.undo();
                Ok(self.document(None))
            }
            Question::Redo => {
                self.history.redo();
                Ok(self.document(None))
            }
            Question::Listen { listening } => {
                self.listening = listening;
                Ok(self.document(None))
            }
            Question::Save => Ok(Answer::Text {
                text: json::write(patch),
            }),
            Question::Words { amplitudes, sends } => Ok(self.words(&amplitudes, &sends)),
            Question::Phrase => Ok(Answer::Phrase {
                messages: phrase(patch.audition.note),
            }),
            Question::Unfold { .. } | Question::Spectrum { .. } | Question::Wav { .. } => {
                return None;
            }
        })
    }

    fn open(&mut self, patch: Patch) -> Answer {
        *self = Page {
            history: History::new(patch),
            listening: Listening::default(),
        };
        let first = self.history.present().units.first().map(|u| u.id);
        self.document(first)
    }

    fn document(&self, select: Option<UnitId>) -> Answer {
        Answer::Document {
            view: Box::new(document_view(&self.history, &self.listening)),
            select,
        }
    }

    fn edit(&mut self, edit: &Edit, gesture: Option<u32>) -> Result<Answer, String> {
        let select = self
            .history
            .edit(edit, gesture)
            .map_err(|e| e.to_string())?;
        let known = |id: &UnitId| self.history.present().unit(*id).is_some();
        self.listening.muted.retain(known);
        self.listening.soloed.retain(known);
        Ok(self.document(select))
    }

    fn current(&self, address: Address) -> Result<f64, String> {
        address
            .get(self.history.present())
            .map_err(|e| e.to_string())
    }

    fn set(
        &mut self,
        address: Address,
        value: f64,
        gesture: Option<u32>,
    ) -> Result<Answer, String> {
        self.edit(&Edit::SetValue { address, value }, gesture)
    }

    fn trim(&mut self, true_peak_db: f64) -> Result<Answer, String> {
        const GOAL_DB: f64 = -1.0;
        if true_peak_db < -150.0 {
            return Err("the note is silent; there is nothing to trim".into());
        }
        let (address, row) = (
            Address::patch(ParamId::VoiceTrimDb),
            param(ParamId::VoiceTrimDb),
        );
        let now = self.current(address)?;
        let goal = ((now + GOAL_DB - true_peak_db) * 10.0).floor() / 10.0;
        self.set(address, goal.clamp(row.min, row.max), None)
    }

    fn words(&self, amplitudes: &[f64], sends: &[usize]) -> Answer {
        let patch = self.history.present();
        let rows = zolvik_patch::arrange::rows(patch);
        let each = rows.iter().zip(amplitudes).zip(sends);
        Answer::Words {
            words: each
                .map(|((unit, a), send)| words(patch, *unit, *send, *a))
                .collect(),
        }
    }
}
