//! The document as a whole: opened, edited, undone, written.

use zolvik_edit::history::History;
use zolvik_edit::mend::nearest;
use zolvik_edit::{Edit, flipped, for_all, linked};
use zolvik_patch::catalogue::params;
use zolvik_patch::{Patch, json};

use super::loose::Loose;
use super::state::Page;
use super::{finish, moving};
use crate::protocol::{Answer, DocumentQuestion, Refusal, Reply};
use crate::rules::RULES;

impl Page {
    /// Answers what is asked of the document as a whole.
    pub(super) fn answer_document(&mut self, question: DocumentQuestion) -> Result<Reply, Refusal> {
        let patch = self.history.present();
        match question {
            DocumentQuestion::New => Ok(self.open(Patch::empty(), None, None)),
            DocumentQuestion::Load { text, of, steps } => {
                Ok(self.open(json::read(&text)?, of, steps.as_ref()))
            }
            DocumentQuestion::Steps { since } => Ok(Answer::Steps {
                new: since.map_or_else(Default::default, |since| self.history.since(since)),
                made: self.history.made(),
            }
            .into()),
            DocumentQuestion::Mend { text } => {
                let mended = nearest(&text)?;
                Ok(Answer::Mended {
                    text: json::write(&mended.patch),
                    left_out: mended.left_out,
                }
                .into())
            }
            DocumentQuestion::TakeUp { text } => {
                self.history.put(json::read(&text)?, "unsaved changes");
                Ok(self.document(vec![]))
            }
            DocumentQuestion::BringBack { text } => {
                let mut earlier = json::read(&text)?;
                // it comes into the state there is; the other one stays
                (earlier.slot, earlier.other) = (patch.slot, patch.other.clone());
                let patch = Box::new(earlier);
                self.edit(&Edit::Replace { patch }, None)
            }
            DocumentQuestion::Edit {
                edit,
                units,
                gesture,
            } => {
                let edit = linked::edit(patch, for_all(patch, &edit, &units))?;
                self.edit(&edit, gesture)
            }
            DocumentQuestion::View { at_rest } => {
                if at_rest {
                    self.steady = None;
                }
                // only looked at: what is heard is as it was
                Ok(self.view(vec![]).into())
            }
            DocumentQuestion::TakeBack { gesture } if !self.history.ends_with(gesture) => {
                Ok(Answer::Unchanged.into())
            }
            DocumentQuestion::Undo | DocumentQuestion::TakeBack { .. } => {
                Ok(self.step(History::undo))
            }
            DocumentQuestion::Redo => Ok(self.step(History::redo)),
            DocumentQuestion::Save => Ok(Answer::Text {
                text: json::write(patch),
            }
            .into()),
            DocumentQuestion::Sounding { other } => {
                let sounding = match other {
                    true => flipped(patch).sounding(),
                    false => patch.sounding(),
                };
                Ok(Answer::Text {
                    text: json::write(&sounding),
                }
                .into())
            }
            DocumentQuestion::Differences => Ok(self.differences().into()),
            DocumentQuestion::Rules => Ok(Answer::Rules {
                rules: RULES,
                helps: params().map(|row| (row.id, row.help)).collect(),
                sources: moving::kinds(),
                effects: finish::kinds(),
            }
            .into()),
        }
    }

    /// A step through the history, which ends what was being tried.
    fn step(&mut self, step: impl FnOnce(&mut History) -> bool) -> Reply {
        (self.trial, self.steady) = (None, None);
        self.loose = Loose::default();
        step(&mut self.history);
        self.document(vec![])
    }
}
