//! What the page's side keeps, and what all answers come down to: an edit, and the document after it.

use std::collections::BTreeSet;

use zolvik_edit::Edit;
use zolvik_edit::history::{History, KeptSteps};
use zolvik_edit::line::{NewStrip, uprooted};
use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::document::{Envelope, UnitId};
use zolvik_patch::hearing::Listening;
use zolvik_play::Hands;
use zolvik_play::inlet::Inlet;

use super::left::Left;
use super::loose::Loose;
use crate::inspect::ArrangementView;
use crate::protocol::{Answer, Refusal, Reply};
use crate::view::{Piece, Tops, banks, document_view, seen};

/// Gestures of trying are counted from here, out of the way of those the page counts.
pub(super) const TRIALS: u32 = 1 << 31;

/// An open document.
pub struct Page {
    pub(super) history: History,
    /// Its number in the library, and what was open before it.
    pub(super) of: Option<i32>,
    pub(super) left: Left,
    /// What is known of keyboards and controllers.
    pub(super) inlet: Inlet,
    /// Who holds which keys.
    pub(super) hands: Hands,
    pub(super) listening: Listening,
    /// What several values were when a gesture that moves them together began.
    pub(super) start: Option<(u32, Box<Patch>)>,
    /// What a hand has hold of, while its edit is made: then no more is told than that.
    pub(super) held: Option<Piece>,
    /// The scales of strips as a hand found them, and its gesture: under it they stand still.
    pub(super) steady: Option<(u32, Tops)>,
    /// The document before arrangements were tried, and the gesture that tries them.
    pub(super) trial: Option<(u32, Box<Patch>)>,
    pub(super) trials: u32,
    /// The arrangements offered last.
    pub(super) offered: Vec<ArrangementView>,
    /// The envelope copied last.
    pub(super) copied: Option<Envelope>,
    /// The strips copied last, and their line.
    pub(super) copied_strips: Option<(String, Vec<NewStrip>)>,
    /// Contents of recordings the store does not have.
    pub(super) missing: Vec<String>,
    /// Something to be told with the next document.
    pub(super) said: Option<String>,
    /// Links that went with their routes.
    pub(super) loose: Loose,
    /// Units muted or bypassed for as long as a key is held.
    pub(super) without: BTreeSet<UnitId>,
    /// A file that came with a question.
    pub(super) file: Vec<u8>,
}

impl Default for Page {
    fn default() -> Self {
        Page {
            history: History::new(Patch::empty()),
            of: None,
            left: Left::default(),
            inlet: Inlet::default(),
            hands: Hands::default(),
            listening: Listening::default(),
            start: None,
            held: None,
            steady: None,
            trial: None,
            trials: TRIALS,
            offered: vec![],
            copied: None,
            copied_strips: None,
            missing: vec![],
            said: None,
            loose: Loose::default(),
            without: BTreeSet::new(),
            file: vec![],
        }
    }
}

impl Page {
    pub(super) fn open(
        &mut self,
        patch: Patch,
        of: Option<i32>,
        steps: Option<&KeptSteps>,
    ) -> Reply {
        let empty = History::new(Patch::empty());
        let left = std::mem::replace(&mut self.history, empty);
        self.left.leave(self.of, left);
        *self = Page {
            history: self.left.come_back(of, patch, steps),
            of,
            left: std::mem::take(&mut self.left),
            inlet: std::mem::take(&mut self.inlet),
            hands: std::mem::take(&mut self.hands),
            copied: self.copied.take(),
            copied_strips: self.copied_strips.take().map(|(line, mut strips)| {
                uprooted(&mut strips);
                (line, strips)
            }),
            ..Page::default()
        };
        let first = self.history.present().units.first().map(|u| u.id);
        self.document(first.into_iter().collect())
    }

    /// The document as it is now, with the program of it.
    pub(super) fn document(&mut self, select: Vec<UnitId>) -> Reply {
        Reply::with(self.view(select), self.program())
    }

    /// All the screen shows of the document.
    pub(super) fn view(&mut self, select: Vec<UnitId>) -> Answer {
        let patch = self.history.present();
        let at_rest;
        let tops = match &mut self.steady {
            Some((_, tops)) => {
                tops.follow(patch);
                tops
            }
            None => {
                at_rest = Tops::of(patch);
                &at_rest
            }
        };
        let mut view = document_view(&self.history, &self.listening, tops, &self.missing);
        view.trying = self.trial.is_some();
        view.loose = self.loose.list().to_vec();
        Answer::Document {
            view: Box::new(view),
            select,
            said: self.said.take(),
        }
    }

    pub(super) fn edit(&mut self, edit: &Edit, gesture: Option<u32>) -> Result<Reply, Refusal> {
        let before = self.history.changes();
        let select = self.apply(edit, gesture)?;
        let Some(held) = self.held else {
            return Ok(self.document(select));
        };
        if self.history.changes() == before {
            return Ok(Answer::Unchanged.into());
        }
        let patch = self.history.present();
        let changed = Answer::Changed {
            pieces: seen(patch, &self.listening, held),
            banks: banks(patch),
        };
        Ok(Reply::with(changed, self.program()))
    }

    /// Makes an edit; gives the units it would select.
    fn apply(&mut self, edit: &Edit, gesture: Option<u32>) -> Result<Vec<UnitId>, Refusal> {
        // trying is no hand that moves
        let hand = gesture.filter(|gesture| *gesture < TRIALS);
        if hand != self.steady.as_ref().map(|(hand, _)| *hand) {
            self.steady = hand.map(|hand| (hand, Tops::of(self.history.present())));
        }
        // a hand that moves a value leaves routes as they are; what is tried takes the place of what was tried before
        let trying = hand != gesture;
        let before = if trying {
            self.before_trial()
        } else {
            self.history.present()
        };
        let held = hand.is_none().then(|| Loose::held(before));
        let select = self.history.edit(edit, gesture)?;
        // any other edit takes what was tried
        let is_other = |(trial, _): &(u32, Box<Patch>)| Some(*trial) != gesture;
        if self.trial.as_ref().is_some_and(is_other) {
            self.trial = None;
        }
        self.listening.keep_known(self.history.present());
        if let Some(held) = held {
            if trying {
                self.loose = Loose::default();
            }
            self.loose.after(held, self.history.present());
        }
        Ok(select)
    }

    pub(super) fn current(&self, address: Address) -> Result<f64, Refusal> {
        Ok(address.get(self.history.present())?)
    }

    pub(super) fn set(
        &mut self,
        address: Address,
        value: f64,
        gesture: Option<u32>,
    ) -> Result<Reply, Refusal> {
        self.edit(&Edit::SetValue { address, value }, gesture)
    }

    pub(super) fn together(
        &mut self,
        label: &str,
        edits: Vec<Edit>,
        gesture: Option<u32>,
    ) -> Result<Reply, Refusal> {
        self.edit(&as_one(label, edits), gesture)
    }
}

/// Several edits as one.
pub(super) fn as_one(label: &str, mut edits: Vec<Edit>) -> Edit {
    if edits.len() == 1 {
        return edits.remove(0);
    }
    let label = label.into();
    Edit::Together { label, edits }
}

/// What is asked of is there no longer.
pub(super) const GONE: Refusal = Refusal::Gone("operator");
