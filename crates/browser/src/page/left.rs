//! Documents that were left, with their steps of undo, for when one comes back to them.

use zolvik_edit::history::{History, KeptSteps};
use zolvik_patch::Patch;

/// How many are kept.
const KEPT: usize = 4;

/// The documents left last, the newest one last, each by its number in the library.
#[derive(Default)]
pub(super) struct Left(Vec<(i32, History)>);

impl Left {
    /// Keeps a document that is left. What is in no library, or has no steps, need not be kept.
    pub(super) fn leave(&mut self, of: Option<i32>, history: History) {
        let Some(of) = of else { return };
        self.0.retain(|(other, _)| *other != of);
        if history.undo_label().is_some() || history.redo_label().is_some() {
            self.0.push((of, history));
            let surplus = self.0.len().saturating_sub(KEPT);
            self.0.drain(..surplus);
        }
    }

    /// The history of a document that is opened: its own if it is as it was left, the one that is kept beside it if it was changed elsewhere.
    pub(super) fn come_back(
        &mut self,
        of: Option<i32>,
        patch: Patch,
        steps: Option<&KeptSteps>,
    ) -> History {
        let at = self.0.iter().position(|(other, _)| Some(*other) == of);
        let kept = at.map(|at| self.0.remove(at).1);
        kept.filter(|history| *history.present() == patch)
            .unwrap_or_else(|| match steps {
                Some(steps) => History::with_kept(patch, steps),
                None => History::new(patch),
            })
    }
}
