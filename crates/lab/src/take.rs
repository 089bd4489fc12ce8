//! A note whose voices were kept: with other effects, or at another level, only what comes after them is computed again.

use zolvik_engine::program::{Prepared, Program};
use zolvik_engine::{BLOCK, VoiceCapture};

use crate::note::Note;
use crate::rendered::Rendered;

/// Blocks of the longest note that is kept: 13 s at 48 kHz, 16 MB.
const MOST_BLOCKS: usize = 40_000;

/// What left the voices of a note, and what is drawn of them.
pub struct Take {
    of: VoicesOf,
    capture: VoiceCapture,
    amplitudes: Vec<Vec<f32>>,
    places: Vec<Vec<f32>>,
    motions: Vec<Vec<f32>>,
}

/// What voices follow from.
#[derive(PartialEq)]
pub(crate) struct VoicesOf {
    program: Box<Program>,
    /// Keys of all waves and recordings that are there.
    reads: Vec<u64>,
    note: Note,
}

impl VoicesOf {
    /// None where voices are not kept.
    pub(crate) fn new(prepared: &Prepared, note: &Note) -> Option<VoicesOf> {
        if note.length_s * note.rate_hz > (MOST_BLOCKS * BLOCK) as f64 {
            return None;
        }
        let banks = prepared.banks.iter().map(|bank| bank.key);
        let recordings = prepared.recordings.iter().map(|recording| recording.key);
        Some(VoicesOf {
            program: prepared.program.of_voices()?,
            reads: banks.chain(recordings).collect(),
            note: *note,
        })
    }
}

impl Take {
    pub(crate) fn new(of: VoicesOf, capture: VoiceCapture, sound: &Rendered) -> Take {
        Take {
            of,
            capture,
            amplitudes: sound.amplitudes.clone(),
            places: sound.places.clone(),
            motions: sound.motions.clone(),
        }
    }

    /// Whether a note of a patch has the same voices.
    pub fn fits(&self, prepared: &Prepared, note: &Note) -> bool {
        VoicesOf::new(prepared, note).is_some_and(|of| self.of == of)
    }

    /// Whether it has so many frames.
    pub(crate) fn has(&self, frames: usize) -> bool {
        self.capture.blocks() * BLOCK >= frames
    }

    /// Its capture, to be played.
    pub(crate) fn capture(&mut self) -> VoiceCapture {
        std::mem::take(&mut self.capture)
    }

    /// The capture comes back.
    pub(crate) fn wind(&mut self, capture: VoiceCapture) {
        self.capture = capture;
    }

    /// Adds what is drawn of a block.
    pub(crate) fn draw(&self, block: usize, sound: &mut Rendered) {
        let all = [
            (&self.amplitudes, &mut sound.amplitudes),
            (&self.places, &mut sound.places),
            (&self.motions, &mut sound.motions),
        ];
        for (own, to) in all {
            for (own, curve) in own.iter().zip(to) {
                curve.extend(own.get(block));
            }
        }
    }
}
