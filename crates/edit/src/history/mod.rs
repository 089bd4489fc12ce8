//! Undo and redo without limit, exact: every step keeps the whole document as it was.
//!
//! Nothing has to be inverted and nothing can drift. What a step has in common with its neighbour is kept once
//! ([`crate::history::packed`]), so thousands of steps stay within a few megabytes. Steps that were kept elsewhere come back as differences, which are
//! applied when one goes to them.

pub mod difference;
mod packed;

use std::cell::OnceCell;

use serde::{Deserialize, Serialize};

use crate::edit::{Edit, apply};
use crate::history::difference::Difference;
use crate::history::packed::Packed;
use zolvik_patch::Patch;
use zolvik_patch::document::UnitId;
use zolvik_patch::error::PatchError;
use zolvik_patch::json;

/// Most steps that are kept beside a patch, of each side.
pub const MAX_KEPT_STEPS: usize = 500;
/// Most bytes of all steps that are kept beside a patch.
pub const MAX_KEPT_BYTES: usize = 4 << 20;

/// A step as it is kept.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct KeptStep {
    /// What it did, in words.
    pub label: String,
    /// How to come from the document nearer to the present to the one behind the step, see [`Difference`].
    pub difference: String,
}

/// The steps of a document as they are kept, those farthest from the present first.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct KeptSteps {
    /// How many steps of the past were made before the first of these.
    pub before: u64,
    /// To go back to.
    pub past: Vec<KeptStep>,
    /// To go forward to again.
    pub future: Vec<KeptStep>,
}

/// What is new in the steps of a document since they were kept last.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct NewSteps {
    /// So many steps of the past, counted from the first ever made, are as they were kept; what is kept behind them is no more.
    pub same: u64,
    /// The steps after those.
    pub past: Vec<KeptStep>,
    /// All steps of the future.
    pub future: Vec<KeptStep>,
}

/// A document with its past and future.
#[derive(Debug, Clone)]
pub struct History {
    present: Patch,
    past: Vec<Step>,
    future: Vec<Step>,
    changes: u64,
    /// Steps of the past that were made before the first that is here.
    before: u64,
    /// Number of the step that was made last.
    made: u64,
}

#[derive(Debug, Clone)]
struct Step {
    label: String,
    /// Edits of one gesture (a drag) share its number and are one step.
    gesture: Option<u32>,
    document: Behind,
    /// Rises with every step that is made, undone or done again: along the past it rises.
    number: u64,
    /// The step as it is kept; there once it was asked for.
    kept: OnceCell<KeptStep>,
}

/// The document behind a step.
#[derive(Debug, Clone)]
enum Behind {
    Packed(Packed),
    /// How to come to it from the one nearer to the present.
    Kept(Difference),
}

impl Behind {
    fn packed(&self) -> Option<&Packed> {
        match self {
            Behind::Packed(packed) => Some(packed),
            Behind::Kept(_) => None,
        }
    }

    /// The document, from the one nearer to the present; none if what was kept does not lead to one.
    fn unpack(&self, nearer: &Patch) -> Option<Patch> {
        match self {
            Behind::Packed(packed) => Some(packed.unpack()),
            Behind::Kept(difference) => json::read(&difference.apply(&json::write(nearer))?).ok(),
        }
    }
}

impl History {
    /// A document without past.
    pub fn new(patch: Patch) -> Self {
        History {
            present: patch,
            past: vec![],
            future: vec![],
            changes: 0,
            before: 0,
            made: 0,
        }
    }

    /// A document with the steps that were kept of it. What cannot be read of them, and what lies behind, is left out.
    pub fn with_kept(patch: Patch, steps: &KeptSteps) -> Self {
        let mut history = History::new(patch);
        let mut side = |kept: &[KeptStep]| {
            let read = |step: &KeptStep| Some((step.clone(), Difference::read(&step.difference)?));
            let near = kept.iter().rev().map_while(read);
            let mut near: Vec<_> = near.collect();
            near.reverse();
            let step = |(kept, difference): (KeptStep, Difference)| {
                history.made += 1;
                Step {
                    label: kept.label.clone(),
                    gesture: None,
                    document: Behind::Kept(difference),
                    number: history.made,
                    kept: OnceCell::from(kept),
                }
            };
            near.into_iter().map(step).collect::<Vec<Step>>()
        };
        let (future, past) = (side(&steps.future), side(&steps.past));
        history.before = steps.before + (steps.past.len() - past.len()) as u64;
        (history.past, history.future) = (past, future);
        history
    }

    /// The number of the step that was made last: what is made from now on is new since then.
    pub fn made(&self) -> u64 {
        self.made
    }

    /// What is new in its steps since the one with this number, for keeping them: no more than are kept.
    pub fn since(&self, number: u64) -> NewSteps {
        let same = self.past.partition_point(|step| step.number <= number);
        let first = same.max(self.past.len().saturating_sub(MAX_KEPT_STEPS));
        let past = Self::kept(&self.past, first, &self.present);
        let first_future = self.future.len().saturating_sub(MAX_KEPT_STEPS);
        let future = Self::kept(&self.future, first_future, &self.present);
        NewSteps {
            // where some between are left out, none before them are kept
            same: match first == same && past.len() == self.past.len() - first {
                true => self.before + same as u64,
                false => self.before + (self.past.len() - past.len()) as u64,
            },
            past,
            future,
        }
    }

    /// Steps from one on as they are kept, as many of those nearest to the present as there is room for.
    fn kept(steps: &[Step], first: usize, present: &Patch) -> Vec<KeptStep> {
        let (mut room, mut list) = (MAX_KEPT_BYTES, vec![]);
        for at in (first..steps.len()).rev() {
            let step = &steps[at];
            let make = || {
                let nearer = match steps.get(at + 1) {
                    Some(next) => next.document.packed().map(Packed::unpack)?,
                    None => present.clone(),
                };
                let behind = step.document.packed()?.unpack();
                let difference = Difference::between(&json::write(&nearer), &json::write(&behind));
                Some(KeptStep {
                    label: step.label.clone(),
                    difference: difference.text(),
                })
            };
            let known = step.kept.get().cloned().or_else(make);
            let Some(kept) = known else { break };
            let bytes = kept.difference.len() + kept.label.len();
            if bytes > room {
                break;
            }
            room -= bytes;
            let _ = step.kept.set(kept.clone());
            list.push(kept);
        }
        list.reverse();
        list
    }

    /// How often an edit made the document another one: the same number twice says that none did meanwhile.
    pub fn changes(&self) -> u64 {
        self.changes
    }

    /// The document as it is now.
    pub fn present(&self) -> &Patch {
        &self.present
    }

    /// Whether the last step is of this gesture; one that came back to where it began is none.
    pub fn ends_with(&self, gesture: u32) -> bool {
        let last = self.past.last();
        last.is_some_and(|step| step.gesture == Some(gesture))
    }

    /// Applies an edit. Edits with the same `gesture` number in a row become one step.
    ///
    /// # Errors
    /// As [`apply`]; document and history are then unchanged.
    pub fn edit(&mut self, edit: &Edit, gesture: Option<u32>) -> Result<Vec<UnitId>, PatchError> {
        let (next, select) = apply(&self.present, edit)?;
        if next == self.present {
            return Ok(select);
        }
        self.changes += 1;
        let before = std::mem::replace(&mut self.present, next);
        // a way of looking at it is nothing to take back
        let only_folds = match edit {
            Edit::FoldGroup { .. } => true,
            Edit::CopyToOther => self.present.unfolded() == before.unfolded(),
            _ => false,
        };
        if only_folds {
            self.lead_from_here(&before);
            return Ok(select);
        }
        self.future.clear();
        let continues =
            gesture.is_some() && self.past.last().is_some_and(|step| step.gesture == gesture);
        if !continues {
            let label = edit.label(&before);
            self.push(label, gesture, before);
        } else if self
            .past
            .last()
            .is_some_and(|step| step.document.packed().is_some_and(|d| d.is(&self.present)))
        {
            self.past.pop(); // dragged back to where it began: nothing was done
        } else if let Some(step) = self.past.last_mut() {
            // it leads back from somewhere else now
            self.made += 1;
            step.number = self.made;
            step.kept = OnceCell::new();
        }
        Ok(select)
    }

    /// The present became another one without a step: those next to it lead from there now.
    fn lead_from_here(&mut self, before: &Patch) {
        for steps in [&mut self.past, &mut self.future] {
            let Some(step) = steps.last_mut() else {
                continue;
            };
            if let Some(document) = step.document.unpack(before) {
                step.document = Behind::Packed(Packed::new(document, None));
                self.made += 1;
                step.number = self.made;
                step.kept = OnceCell::new();
            }
        }
    }

    fn push(&mut self, label: String, gesture: Option<u32>, before: Patch) {
        let neighbour = self.past.last().and_then(|step| step.document.packed());
        self.made += 1;
        self.past.push(Step {
            label,
            gesture,
            document: Behind::Packed(Packed::new(before, neighbour)),
            number: self.made,
            kept: OnceCell::new(),
        });
    }

    /// Puts another document in place, as one step.
    pub fn put(&mut self, patch: Patch, label: &str) {
        if patch == self.present {
            return;
        }
        self.changes += 1;
        self.future.clear();
        let before = std::mem::replace(&mut self.present, patch);
        self.push(label.into(), None, before);
    }

    /// Goes one step back; false if there is none.
    pub fn undo(&mut self) -> bool {
        Self::step(
            &mut self.past,
            &mut self.present,
            &mut self.future,
            &mut self.made,
        )
    }

    /// Goes one step forward again; false if there is none.
    pub fn redo(&mut self) -> bool {
        Self::step(
            &mut self.future,
            &mut self.present,
            &mut self.past,
            &mut self.made,
        )
    }

    /// Goes one step back and forgets it, as if it had never been tried; false if there is none.
    pub fn take_back(&mut self) -> bool {
        let undone = self.undo();
        if undone {
            self.future.pop();
        }
        undone
    }

    /// What undo would take back.
    pub fn undo_label(&self) -> Option<&str> {
        self.past.last().map(|step| step.label.as_str())
    }

    /// What redo would do again.
    pub fn redo_label(&self) -> Option<&str> {
        self.future.last().map(|step| step.label.as_str())
    }

    fn step(
        from: &mut Vec<Step>,
        present: &mut Patch,
        onto: &mut Vec<Step>,
        made: &mut u64,
    ) -> bool {
        let Some(step) = from.pop() else { return false };
        let Some(document) = step.document.unpack(present) else {
            // what was kept leads nowhere, and nothing behind it does
            from.clear();
            return false;
        };
        let packed = match &step.document {
            Behind::Packed(packed) => packed.clone(),
            Behind::Kept(_) => Packed::new(document.clone(), None),
        };
        let left = std::mem::replace(present, document);
        *made += 1;
        onto.push(Step {
            label: step.label,
            gesture: None,
            document: Behind::Packed(Packed::new(left, Some(&packed))),
            number: *made,
            kept: OnceCell::new(),
        });
        true
    }
}
