//! Notes that ring on after all that feeds them has ended: until nothing is heard of them.

use wide::f32x8;

use crate::realtime::Block;
use crate::realtime::sine::Lanes;
use crate::sizes::{LANES, MAX_SETS};

/// What has fallen to this share of its peak has rung out: -80 dB.
const FAINT: f32 = 1e-4;

/// How loud each lane was and is.
#[derive(Debug, Clone)]
pub(crate) struct Ringing {
    peaks: [Lanes; MAX_SETS],
    now: [Lanes; MAX_SETS],
}

impl Ringing {
    pub(crate) fn new() -> Self {
        Ringing {
            peaks: [f32x8::ZERO; MAX_SETS],
            now: [f32x8::ZERO; MAX_SETS],
        }
    }

    /// A note begins in a lane.
    pub(crate) fn begin(&mut self, set: usize, lane: usize) {
        self.peaks[set].as_mut_array()[lane] = 0.0;
        self.now[set].as_mut_array()[lane] = 0.0;
    }

    /// A new block of a set begins.
    pub(crate) fn begin_block(&mut self, set: usize) {
        self.now[set] = f32x8::ZERO;
    }

    /// Hears what goes out in a set; `gain` is the stronger of both channels'.
    #[inline(always)]
    pub(crate) fn hear(&mut self, set: usize, signal: &Block, gain: f32) {
        let mut most = f32x8::ZERO;
        for frame in signal {
            most = most.max(frame.abs());
        }
        self.now[set] = self.now[set].max(most * f32x8::splat(gain));
    }

    /// The block of a set has been heard.
    pub(crate) fn end_block(&mut self, set: usize) {
        self.peaks[set] = self.peaks[set].max(self.now[set]);
    }

    /// Whether a lane is faint now, beside its loudest.
    pub(crate) fn is_faint(&self, set: usize, lane: usize) -> bool {
        let (peak, now) = (
            self.peaks[set].as_array()[lane % LANES],
            self.now[set].as_array()[lane % LANES],
        );
        now <= peak * FAINT
    }
}
