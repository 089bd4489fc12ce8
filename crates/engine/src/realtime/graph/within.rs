//! Notes that begin within a block. All that is computed begins with one; a note of a phrase that is to begin some frames later is
//! heard that much later, so that it falls on its sample.

use wide::f32x8;

use crate::realtime::Buses;
use crate::realtime::output::decimate::MAX_OVERSAMPLING;
use crate::realtime::sine::Lanes;
use crate::sizes::{BLOCK, BUSES, LANES, MAX_SETS};

/// Frames kept: the most a note waits, and a block.
const ROOM: usize = (BLOCK * MAX_OVERSAMPLING * 2).next_power_of_two();

/// What the lanes of notes that begin within a block put out last.
#[derive(Debug, Clone)]
pub(crate) struct Within {
    /// Set by set, way out by way out, side by side.
    frames: Box<[[Lanes; ROOM]]>,
    at: [usize; MAX_SETS],
    /// How much later each lane is heard, in frames at the rate that leaves.
    waits: [[u8; LANES]; MAX_SETS],
    /// Whether a set has a lane that waits.
    any: [bool; MAX_SETS],
}

impl Within {
    pub(crate) fn new() -> Self {
        Within {
            frames: vec![[f32x8::ZERO; ROOM]; MAX_SETS * BUSES * 2].into(),
            at: [0; MAX_SETS],
            waits: [[0; LANES]; MAX_SETS],
            any: [false; MAX_SETS],
        }
    }

    /// No lane waits.
    pub(crate) fn clear(&mut self) {
        self.at = [0; MAX_SETS];
        self.waits = [[0; LANES]; MAX_SETS];
        self.any = [false; MAX_SETS];
    }

    /// Whether some lane of a set waits.
    pub(crate) fn waits(&self, set: usize) -> bool {
        self.any[set]
    }

    /// Whether a lane waits.
    pub(crate) fn waits_in(&self, set: usize, lane: usize) -> bool {
        self.waits[set][lane] > 0
    }

    /// A note begins in a lane, so many frames after the block.
    pub(crate) fn begin(&mut self, set: usize, lane: usize, frames: u8) {
        if frames == 0 && !self.any[set] {
            return;
        }
        self.waits[set][lane] = frames.min(BLOCK as u8 - 1);
        self.any[set] = self.waits[set] != [0; LANES];
        let rings = &mut self.frames[set * BUSES * 2..(set + 1) * BUSES * 2];
        for frame in rings.as_flattened_mut() {
            frame.as_mut_array()[lane] = 0.0;
        }
    }

    /// The same waits as another one's, with nothing kept yet.
    pub(crate) fn take(&mut self, other: &Within) {
        for set in 0..MAX_SETS {
            if self.any[set] || other.any[set] {
                let rings = &mut self.frames[set * BUSES * 2..(set + 1) * BUSES * 2];
                rings.as_flattened_mut().fill(f32x8::ZERO);
            }
        }
        (self.waits, self.any) = (other.waits, other.any);
    }

    /// Lets the lanes of a set that wait be heard later, computed at so many times the rate.
    pub(crate) fn run(
        &mut self,
        set: usize,
        buses: impl Iterator<Item = usize>,
        times: usize,
        block: &mut Buses,
    ) {
        let from = self.at[set];
        for bus in buses {
            for (side, block) in block[bus].iter_mut().enumerate() {
                let ring = &mut self.frames[(set * BUSES + bus) * 2 + side];
                for (frame, sample) in block.iter().enumerate() {
                    ring[(from + frame) % ROOM] = *sample;
                }
                for (lane, wait) in self.waits[set].iter().enumerate().filter(|w| *w.1 > 0) {
                    let first = from + ROOM - usize::from(*wait) * times;
                    for (frame, sample) in block.iter_mut().enumerate() {
                        let then = ring[(first + frame) % ROOM].as_array()[lane];
                        sample.as_mut_array()[lane] = then;
                    }
                }
            }
        }
        self.at[set] = (from + BLOCK) % ROOM;
    }
}
