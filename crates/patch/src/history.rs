//! Undo and redo without limit, exact: every step keeps the whole document as it was.
//!
//! Nothing has to be inverted and nothing can drift. What a step has in common with its neighbour is kept once
//! ([`crate::packed`]), so thousands of steps stay within a few megabytes.

use crate::edit::{Edit, apply};
use crate::error::PatchError;
use crate::ids::UnitId;
use crate::packed::Packed;
use crate::patch::Patch;

/// A document with its past and future.
#[derive(Debug, Clone)]
pub struct History {
    present: Patch,
    past: Vec<Step>,
    future: Vec<Step>,
    changes: u64,
}

#[derive(Debug, Clone)]
struct Step {
    label: String,
    /// Edits of one gesture (a drag) share its number and are one step.
    gesture: Option<u32>,
    document: Packed,
}

impl History {
    /// A document without past.
    pub fn new(patch: Patch) -> Self {
        History {
            present: patch,
            past: vec![],
            future: vec![],
            changes: 0,
        }
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
            return Ok(select);
        }
        self.future.clear();
        let continues =
            gesture.is_some() && self.past.last().is_some_and(|step| step.gesture == gesture);
        if !continues {
            let label = edit.label(&before);
            let neighbour = self.past.last().map(|step| &step.document);
            self.past.push(Step {
                label,
                gesture,
                document: Packed::new(before, neighbour),
            });
        } else if self
            .past
            .last()
            .is_some_and(|step| step.document.is(&self.present))
        {
            self.past.pop(); // dragged back to where it began: nothing was done
        }
        Ok(select)
    }

    /// Goes one step back; false if there is none.
    pub fn undo(&mut self) -> bool {
        Self::step(&mut self.past, &mut self.present, &mut self.future)
    }

    /// Goes one step forward again; false if there is none.
    pub fn redo(&mut self) -> bool {
        Self::step(&mut self.future, &mut self.present, &mut self.past)
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

    fn step(from: &mut Vec<Step>, present: &mut Patch, onto: &mut Vec<Step>) -> bool {
        let Some(step) = from.pop() else { return false };
        let left = std::mem::replace(present, step.document.unpack());
        onto.push(Step {
            label: step.label,
            gesture: None,
            document: Packed::new(left, Some(&step.document)),
        });
        true
    }
}
