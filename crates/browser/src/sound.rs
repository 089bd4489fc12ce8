//! The AudioWorklet's side: an engine, the guard, and buffers the script reads.

use std::sync::Arc;

use zolvik_engine::program::{Program, ProgramError};
use zolvik_engine::{Engine, Guard};
use zolvik_waves::bank::NoBank;
use zolvik_waves::{Bank, Recording};

use crate::bench::Shelved;

/// Most frames of one call.
pub const MAX_FRAMES: usize = 1024;

/// The playing engine.
pub struct Sound {
    engine: Engine,
    guard: Guard,
    /// Both channels of the last call.
    pub channels: [[f32; MAX_FRAMES]; 2],
    /// Lowest gain the guard used in the last call; 1 if it did nothing.
    pub guard_gain: f32,
    /// A wave or recording that is coming in.
    incoming: Vec<f32>,
    /// Keys of the waves and recordings it has, since the last was shelved.
    pub held: Vec<u64>,
    /// Notes that were let go because the machine could not keep up, since the start.
    pub let_go: u32,
    /// The quality a program asked for and the one it is computed with, while that is lower.
    lowered: Option<(usize, usize)>,
}

impl Sound {
    /// For a sample rate in hertz.
    pub fn new(rate_hz: f64) -> Self {
        // made while nothing sounds yet, not when the first recording comes in
        std::sync::LazyLock::force(&zolvik_waves::kernel::KERNELS);
        Sound {
            engine: Engine::new(rate_hz),
            guard: Guard::new(rate_hz),
            channels: [[0.0; MAX_FRAMES]; 2],
            guard_gain: 1.0,
            incoming: vec![],
            held: vec![],
            let_go: 0,
            lowered: None,
        }
    }

    /// Makes room for a wave or recording of so many bytes that is coming in, to be written where this points to; what came in before
    /// and was not shelved is forgotten. Not for the audio path.
    pub fn room(&mut self, bytes: usize) -> *mut u8 {
        self.incoming = vec![0.0; bytes.div_ceil(4)];
        self.incoming.as_mut_ptr().cast()
    }

    /// Puts what came in where programs can read it. The memory it came into is kept: nothing is copied. Not for the audio path: what it
    /// displaces is freed.
    ///
    /// # Errors
    /// If it is no wave or recording.
    pub fn shelve(&mut self) -> Result<(), NoBank> {
        let words = std::mem::take(&mut self.incoming);
        let what = words.first().ok_or(NoBank)?.to_bits();
        if what == Shelved::Bank as u32 {
            self.engine.shelve(Arc::new(Bank::from_words(words, 1)?));
        } else if what == Shelved::Recording as u32 {
            let recording = Recording::from_words(words, 1)?;
            self.engine.shelve_recording(Arc::new(recording));
        } else {
            return Err(NoBank);
        }
        self.held = self.engine.shelved().collect();
        Ok(())
    }

    /// Takes up a compiled program.
    ///
    /// # Errors
    /// If the bytes are none; the old one then goes on.
    pub fn install(&mut self, bytes: &[u8]) -> Result<(), ProgramError> {
        let mut program = Program::from_bytes(bytes)?;
        // values that change do not bring back what was too much; another quality is tried as it is
        match self.lowered {
            Some((asked, given)) if asked == program.most_oversampling() => {
                program.cap_oversampling(given)
            }
            _ => self.lowered = None,
        }
        // called between blocks; memory is only taken when a comb is added
        self.engine.make_room(&program);
        self.engine.install(&program);
        Ok(())
    }

    /// Takes a MIDI message.
    pub fn midi(&mut self, message: [u8; 3]) {
        self.engine.midi(message);
    }

    /// Renders the next frames, at most [`MAX_FRAMES`].
    ///
    /// # Real time
    /// No allocation, no lock, no panic.
    pub fn process(&mut self, frames: usize) {
        let frames = frames.min(MAX_FRAMES);
        let [left, right] = &mut self.channels;
        self.engine
            .process(&mut left[..frames], &mut right[..frames]);
        self.guard_gain = self
            .guard
            .process(&mut left[..frames], &mut right[..frames]);
    }

    /// The work takes `load` times the time there is: notes are let go, and if none can be, quality.
    pub fn relieve(&mut self, load: f64) {
        let gone = self.engine.relieve(load);
        self.let_go = self.let_go.saturating_add(gone as u32);
        if gone == 0 && self.engine.voices() > 0 && load > 1.0 {
            let before = self.engine.oversampling();
            let most = self.engine.most_oversampling();
            let asked = self.lowered.map_or(most, |(asked, _)| asked);
            if self.engine.lower_quality() {
                self.lowered = Some((asked, before / 2));
            }
        }
    }

    /// The work has fitted easily for a while: more notes may sound again.
    pub fn relax(&mut self) {
        self.engine.relax();
    }

    /// Quality it is computed with while that is lower than asked for, else 0.
    pub fn lowered_to(&self) -> usize {
        self.lowered.map_or(0, |(_, given)| given)
    }

    /// Notes that sound.
    pub fn voices(&self) -> usize {
        self.engine.voices()
    }
}
