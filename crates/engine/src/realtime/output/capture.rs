//! What left the voices, kept block by block, so that effects can be heard over it again without computing the voices. For pictures and
//! files; not for the audio path, where nothing is kept.

use wide::f32x8;
use zolvik_patch::document::MAX_LINKS;

use crate::program::Program;
use crate::realtime::output::rack::Stereo;
use crate::realtime::sine::Lanes;
use crate::sizes::BUSES;

/// What left the voices of an engine since it began anew.
#[derive(Debug, Clone, Default)]
pub struct VoiceCapture {
    blocks: Vec<CapturedBlock>,
    /// How far links moved what all notes share, block by block.
    motions: Vec<f32>,
}

/// A block.
#[derive(Debug, Clone, Copy)]
pub(in crate::realtime) struct CapturedBlock {
    pub(in crate::realtime) ways: [Stereo; BUSES],
    /// The ways that are taken, one bit each.
    pub(in crate::realtime) buses: u32,
    /// Frequency of the newest note, if any sounds.
    pub(in crate::realtime) key_hz: Option<f64>,
}

/// What is done with a capture.
#[derive(Debug)]
pub(in crate::realtime) enum Capturing {
    Records(VoiceCapture),
    /// From so many blocks on.
    Plays(VoiceCapture, usize),
}

impl VoiceCapture {
    /// Blocks on it.
    pub fn blocks(&self) -> usize {
        self.blocks.len()
    }

    /// Bytes it takes.
    pub fn bytes(&self) -> usize {
        size_of_val(&*self.blocks) + size_of_val(&*self.motions)
    }

    pub(in crate::realtime) fn push(&mut self, block: CapturedBlock, motions: &[f32]) {
        self.blocks.push(block);
        self.motions.extend_from_slice(motions);
    }

    /// A block, and how far so many links moved what all notes share then.
    pub(in crate::realtime) fn at(
        &self,
        block: usize,
        links: usize,
    ) -> Option<(CapturedBlock, [Lanes; MAX_LINKS])> {
        let mut motions = [f32x8::ZERO; MAX_LINKS];
        let own = self.motions.get(block * links..(block + 1) * links)?;
        for (motion, own) in motions.iter_mut().zip(own) {
            *motion = f32x8::splat(*own);
        }
        Some((*self.blocks.get(block)?, motions))
    }
}

impl Program {
    /// What its voices follow from: two programs with the same differ in their effects, or the level after them, alone. None where the
    /// level stands before what leaves the voices.
    pub fn of_voices(&self) -> Option<Box<Program>> {
        if self.rack.plain != 0 {
            return None;
        }
        let mut own = Box::new(*self);
        own.rack = bytemuck::Zeroable::zeroed();
        own.rack.first_param = self.rack.first_param;
        let first = (self.rack.first_param as usize).min(own.params.len());
        own.params[first..].fill(bytemuck::Zeroable::zeroed());
        own.param_count = self.rack.first_param;
        own.params[self.trim as usize].value = 0.0;
        Some(own)
    }
}
