//! Values that follow a change instead of jumping, one step a block, straight inside the block.

/// A value on its way to a target.
#[derive(Debug, Clone, Copy, Default)]
pub(crate) struct Smooth {
    pub(crate) now: f32,
    pub(crate) next: f32,
    target: f32,
}

impl Smooth {
    /// A value that stands still.
    pub(crate) fn at(value: f32) -> Smooth {
        Smooth {
            now: value,
            next: value,
            target: value,
        }
    }

    pub(crate) fn jump(&mut self, target: f32) {
        *self = Smooth {
            now: target,
            next: target,
            target,
        };
    }

    pub(crate) fn set_target(&mut self, target: f32) {
        self.target = target;
    }

    /// Whether it stands at its target.
    pub(crate) fn has_arrived(&self) -> bool {
        self.now == self.target && self.next == self.target
    }

    /// Whether it stands still in this block.
    #[inline(always)]
    pub(crate) fn is_still(&self) -> bool {
        self.now == self.next
    }

    /// Moves on by one block; `share` of the rest is covered.
    pub(crate) fn advance(&mut self, share: f32) {
        self.now = self.next;
        let rest = self.target - self.now;
        self.next = if rest.abs() < 1e-6 {
            self.target
        } else {
            self.now + rest * share
        };
    }

    /// Change per frame inside this block.
    pub(crate) fn slope(&self) -> f32 {
        (self.next - self.now) * (1.0 / crate::sizes::BLOCK as f32)
    }
}

/// Share of the rest covered in one block, so that a change is done to 95 percent after `time_s`.
pub(crate) fn share(time_s: f64, block_s: f64) -> f32 {
    (1.0 - libm::exp(-3.0 * block_s / time_s)) as f32
}
