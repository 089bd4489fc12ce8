//! What left the voices, kept block by block, so that effects can be heard over it again without computing the voices. For pictures and
//! files; not for the audio path, where nothing is kept.

use wide::f32x8;
use zolvik_patch::document::MAX_LINKS;

use super::engine::Engine;
use super::rack::Stereo;
use super::sine::Lanes;
use crate::BUSES;
use crate::program::Program;

/// What left the voices of an engine since it began anew.
#[derive(Debug, Clone, Default)]
pub struct Tape {
    blocks: Vec<Taped>,
    /// How far links moved what all notes share, block by block.
    motions: Vec<f32>,
}

/// A block.
#[derive(Debug, Clone, Copy)]
pub(super) struct Taped {
    pub(super) ways: [Stereo; BUSES],
    /// The ways that are taken, one bit each.
    pub(super) buses: u32,
    /// Frequency of the newest note, if any sounds.
    pub(super) key_hz: Option<f64>,
}

/// What is done with a tape.
#[derive(Debug)]
pub(super) enum Taping {
    Records(Tape),
    /// From so many blocks on.
    Plays(Tape, usize),
}

impl Tape {
    /// Blocks on it.
    pub fn blocks(&self) -> usize {
        self.blocks.len()
    }

    /// Bytes it takes.
    pub fn bytes(&self) -> usize {
        size_of_val(&*self.blocks) + size_of_val(&*self.motions)
    }

    pub(super) fn push(&mut self, block: Taped, motions: &[f32]) {
        self.blocks.push(block);
        self.motions.extend_from_slice(motions);
    }

    /// A block, and how far so many links moved what all notes share then.
    pub(super) fn at(&self, block: usize, links: usize) -> Option<(Taped, [Lanes; MAX_LINKS])> {
        let mut motions = [f32x8::ZERO; MAX_LINKS];
        let own = self.motions.get(block * links..(block + 1) * links)?;
        for (motion, own) in motions.iter_mut().zip(own) {
            *motion = f32x8::splat(*own);
        }
        Some((*self.blocks.get(block)?, motions))
    }
}

impl Engine {
    /// Keeps what leaves the voices from now on, until [`Engine::tape`]. Not for the audio path: it allocates.
    pub fn record_voices(&mut self) {
        self.taping = Some(Box::new(Taping::Records(Tape::default())));
    }

    /// Lets the effects hear a tape in place of the voices, from its begin; what is played is not computed. The program must be one with the
    /// same voices as that of the tape ([`Program::of_voices`]). Not for the audio path.
    pub fn play_voices(&mut self, tape: Tape) {
        self.taping = Some(Box::new(Taping::Plays(tape, 0)));
    }

    /// Takes out the tape that was recorded or played.
    pub fn tape(&mut self) -> Option<Tape> {
        self.taping.take().map(|taping| match *taping {
            Taping::Records(tape) | Taping::Plays(tape, _) => tape,
        })
    }

    /// The next block of a tape, if one is played.
    pub(super) fn next_taped_block(&mut self) -> bool {
        let Some(Taping::Plays(tape, at)) = self.taping.as_deref_mut() else {
            return false;
        };
        let graph = &mut self.graphs[self.current];
        let links = graph.program.movement.links().len();
        let Some((block, motions)) = tape.at(*at, links) else {
            return false;
        };
        *at += 1;
        graph.values.move_all(&graph.program, &motions);
        self.clock
            .advance(graph.program.tempo_bpm, graph.outer_rate_hz);
        self.finish(&block);
        true
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
