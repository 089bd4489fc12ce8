//! Trying arrangements: one after the other takes the place of the first, and all of it is one step.

use zolvik_edit::arrangement::{Layout, Place, operators};
use zolvik_edit::{Edit, apply};
use zolvik_patch::Patch;
use zolvik_patch::any_json;

use super::state::{Page, TRIALS};
use crate::inspect::laid;
use crate::protocol::Answer;

impl Page {
    pub(super) fn lay_arrangement(&mut self, text: &str) -> Result<Answer, String> {
        let layout: Layout = any_json::read(text).map_err(|e| e.to_string())?;
        let patch = self.before_trial();
        let (needs, has) = (layout.0.len(), operators(patch).len());
        let view = laid(patch, &layout);
        let view =
            view.ok_or_else(|| format!("it is for {needs} operators, this patch has {has}"))?;
        self.try_arrangement(view.places)
    }

    /// The document arrangements are laid on: as it was before the first was tried.
    pub(super) fn before_trial(&self) -> &Patch {
        match &self.trial {
            Some((_, patch)) => patch,
            None => self.history.present(),
        }
    }

    pub(super) fn try_arrangement(&mut self, places: Vec<Place>) -> Result<Answer, String> {
        let base = self.before_trial().clone();
        let (next, _) = apply(&base, &Edit::Arrange { places }).map_err(|e| e.to_string())?;
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
