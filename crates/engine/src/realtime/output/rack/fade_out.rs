//! Being silenced.

use zolvik_effects::Value;

use crate::sizes::BLOCK;

/// Being silenced: all that leaves the chains falls to nothing and is forgotten, and what sounds then comes up from nothing.
#[derive(Debug, Clone, Copy)]
pub(super) struct FadeOut {
    /// Frames in which it still falls, and how far it has.
    pub(super) left: usize,
    gain: f32,
    /// How far what sounds after it has come up.
    risen: f32,
}

impl Default for FadeOut {
    fn default() -> Self {
        FadeOut {
            left: 0,
            gain: 1.0,
            risen: 1.0,
        }
    }
}

impl FadeOut {
    /// Onsets to fall, over so many frames, from wherever it is.
    pub(super) fn begin(&mut self, frames: usize) {
        self.left = frames;
    }

    /// What sounds now, though all was silenced, comes up from the next block on.
    pub(super) fn come_up(&mut self) {
        self.risen = 0.0;
    }

    /// A block in which nothing goes through the chains.
    pub(super) fn pass(&mut self) {
        *self = FadeOut {
            left: self.left.saturating_sub(BLOCK),
            ..FadeOut::default()
        };
    }

    /// The gain of a block in which it falls.
    pub(super) fn fall(&mut self) -> Value {
        let left = self.left.saturating_sub(BLOCK);
        let now = self.gain;
        let next = now * left as f32 / self.left.max(1) as f32;
        // what comes after begins from rest
        self.gain = if left == 0 { 1.0 } else { next };
        self.left = left;
        Value { now, next }
    }

    /// The gain of a block in which what sounds comes up.
    pub(super) fn rise(&mut self, step: f32) -> Option<Value> {
        if self.risen >= 1.0 {
            return None;
        }
        let now = self.risen;
        self.risen = (now + step).min(1.0);
        Some(Value {
            now,
            next: self.risen,
        })
    }
}
