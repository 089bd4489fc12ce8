//! What is different in a text that is almost another one, by lines (Eugene W. Myers, An O(ND) Difference Algorithm and Its Variations, 1986).

use serde::{Deserialize, Serialize};
use similar::DiffOp;
use similar::algorithms::{Capture, myers};

/// How to come from a text to another.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Difference(Vec<Hunk>);

/// Lines that give way to others: the first of them, counted from 0, how many, and what comes in their place.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
struct Hunk(usize, usize, String);

fn lines(text: &str) -> Vec<&str> {
    text.split_inclusive('\n').collect()
}

impl Difference {
    /// From a text to another.
    pub fn between(from: &str, to: &str) -> Self {
        let (from, to) = (lines(from), lines(to));
        let mut found = Capture::new();
        let Ok(()) = myers::diff(&mut found, &from[..], 0..from.len(), &to[..], 0..to.len());
        let hunk = |op: &DiffOp| match op {
            DiffOp::Equal { .. } => None,
            other => Some(Hunk(
                other.old_range().start,
                other.old_range().len(),
                to[other.new_range()].concat(),
            )),
        };
        Difference(found.ops().iter().filter_map(hunk).collect())
    }

    /// The other text; none if this is no difference from the one given.
    pub fn apply(&self, from: &str) -> Option<String> {
        let from = lines(from);
        let mut to = String::new();
        let mut at = 0;
        for Hunk(first, gone, come) in &self.0 {
            to.extend(from.get(at..*first)?.iter().copied());
            to.push_str(come);
            at = first.checked_add(*gone)?;
        }
        to.extend(from.get(at..)?.iter().copied());
        Some(to)
    }

    /// As it is kept.
    pub fn text(&self) -> String {
        zolvik_json::text(self, zolvik_json::Form::Dense)
    }

    /// Reads what [`Difference::text`] wrote; none if it is none.
    pub fn read(text: &str) -> Option<Self> {
        zolvik_json::read(text).ok()
    }
}
