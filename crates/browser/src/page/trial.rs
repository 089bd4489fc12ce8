//! Trying arrangements: one after the other takes the place of the first, and all of it is one step.

use zolvik_edit::arrangement::{Layout, Place, operators, present_layout};
use zolvik_edit::{Edit, apply};
use zolvik_json::Form;
use zolvik_patch::Patch;

use super::loose::Loose;
use super::state::{Page, TRIALS};
use crate::inspect::{arrangements, laid};
use crate::protocol::{Answer, ArrangingQuestion, Refusal, Reply};

impl Page {
    /// Answers what is asked of arrangements.
    pub(super) fn answer_arranging(
        &mut self,
        question: ArrangingQuestion,
    ) -> Result<Reply, Refusal> {
        let patch = self.history.present();
        match question {
            ArrangingQuestion::Arrangements => {
                self.offered = arrangements(self.before_trial());
                Ok(Answer::Arrangements {
                    list: self.offered.clone(),
                    operators: operators(self.before_trial()).len(),
                }
                .into())
            }
            ArrangingQuestion::TryArrangement { at } => match self.offered.get(at) {
                Some(offered) => self.try_arrangement(offered.places.clone()),
                None => Err(Refusal::NoSuch("arrangement")),
            },
            ArrangingQuestion::EndTrial { keep } => {
                let base = self.trial.take().map(|(_, patch)| patch);
                // trying what was there already leaves nothing to take back
                if base.is_some_and(|b| !keep && *b != *self.history.present()) {
                    self.history.take_back();
                    self.loose = Loose::default();
                }
                Ok(self.document(vec![]))
            }
            ArrangingQuestion::KeepArrangement => Ok(Answer::Text {
                text: zolvik_json::text(&present_layout(patch), Form::Dense),
            }
            .into()),
            ArrangingQuestion::LayArrangement { text } => self.lay_arrangement(&text),
        }
    }

    pub(super) fn lay_arrangement(&mut self, text: &str) -> Result<Reply, Refusal> {
        let layout: Layout = zolvik_json::read(text)?;
        let patch = self.before_trial();
        let (needs, has) = (layout.0.len(), operators(patch).len());
        let view = laid(patch, &layout);
        let view = view.ok_or(Refusal::Operators { needs, has })?;
        self.try_arrangement(view.places)
    }

    /// The document arrangements are laid on: as it was before the first was tried.
    pub(super) fn before_trial(&self) -> &Patch {
        match &self.trial {
            Some((_, patch)) => patch,
            None => self.history.present(),
        }
    }

    pub(super) fn try_arrangement(&mut self, places: Vec<Place>) -> Result<Reply, Refusal> {
        let base = self.before_trial().clone();
        let (next, _) = apply(&base, &Edit::Arrange { places })?;
        let gesture = match &self.trial {
            Some((gesture, _)) => *gesture,
            None => {
                self.trials = self.trials.wrapping_add(1).max(TRIALS);
                self.trials
            }
        };
        self.trial = Some((gesture, Box::new(base)));
        let patch = Box::new(next);
        let label = "algorithm".into();
        self.edit(
            &Edit::Together {
                label,
                edits: vec![Edit::Replace { patch }],
            },
            Some(gesture),
        )
    }
}
