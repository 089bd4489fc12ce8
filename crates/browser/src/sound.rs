//! The AudioWorklet's side: an engine, the guard, and buffers the script reads.

use std::sync::Arc;

use zolvik_engine::Guard;
use zolvik_engine::program::{Program, ProgramError};
use zolvik_patch::document::MAX_SOURCES;
use zolvik_play::{NoScore, Player, Score};
use zolvik_waves::bank::NoBank;
use zolvik_waves::{Bank, Recording};

use crate::tasks::CachedTables;

/// Most frames of one call.
pub const MAX_FRAMES: usize = 1024;

/// From where on a score is played.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum PlayFrom {
    /// In place of what is played, at the same place.
    Here,
    /// Where it was stopped.
    Left,
    /// From a place in beats.
    Beats(f64),
}

/// How a score is played.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct How {
    /// From where on.
    pub from: PlayFrom,
    /// Over and over.
    pub looped: bool,
}

/// The playing engine.
pub struct Sound {
    player: Player,
    /// The beat of the last call, and its level.
    beat: [f32; MAX_FRAMES],
    beat_gain: f32,
    guard: Guard,
    /// Both channels of the last call.
    pub channels: [[f32; MAX_FRAMES]; 2],
    /// Lowest gain the guard used in the last call; 1 if it did nothing.
    pub guard_gain: f32,
    /// A wave or recording that is coming in.
    incoming: Vec<f32>,
    /// Keys of the waves and recordings it has, since the last was shelved.
    pub held: Vec<u64>,
    /// Where each source of movement stands in the newest note, 0 to 1, and how far it has come in.
    pub places: [[f32; 2]; MAX_SOURCES],
    /// Notes that were let go because the machine could not keep up, since the start.
    pub let_go: u32,
    /// The quality a program asked for and the one it is computed with, while that is lower.
    lowered: Option<(usize, usize)>,
}

impl Sound {
    /// For a sample rate in hertz.
    pub fn new(rate_hz: f64) -> Self {
        // made while nothing sounds yet, not when the first recording comes in
        zolvik_waves::kernel::make_ready();
        Sound {
            player: Player::new(rate_hz),
            beat: [0.0; MAX_FRAMES],
            beat_gain: 0.0,
            guard: Guard::new(rate_hz),
            channels: [[0.0; MAX_FRAMES]; 2],
            guard_gain: 1.0,
            incoming: vec![],
            held: vec![],
            places: [[0.0; 2]; MAX_SOURCES],
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
    pub fn cache_bank(&mut self) -> Result<(), NoBank> {
        let words = std::mem::take(&mut self.incoming);
        let what = words.first().ok_or(NoBank)?.to_bits();
        if what == CachedTables::Bank as u32 {
            self.player
                .engine
                .cache_bank(Arc::new(Bank::from_words(words, 1)?));
        } else if what == CachedTables::Recording as u32 {
            let recording = Recording::from_words(words, 1)?;
            self.player.engine.cache_recording(Arc::new(recording));
        } else {
            return Err(NoBank);
        }
        self.held = self.player.engine.shelved().collect();
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
        self.player.engine.reserve(&program);
        self.player.engine.install(&program);
        Ok(())
    }

    /// Plays what the bytes hold, from its beginning or in place of what is played; `beat_gain` is the level of the beat. Not for the audio
    /// path: what was played before is freed.
    ///
    /// # Errors
    /// If the bytes are no score; what is played then goes on.
    pub fn play(&mut self, bytes: &[u8], how: How, beat_gain: f32) -> Result<(), NoScore> {
        let score = Score::from_bytes(bytes)?;
        self.beat_gain = beat_gain.clamp(0.0, 1.0);
        let left_beats = self.player.left_beats();
        match how.from {
            PlayFrom::Here => self.player.change(score, how.looped),
            PlayFrom::Left => self.player.play_from(score, how.looped, left_beats),
            PlayFrom::Beats(at) => self.player.play_from(score, how.looped, at),
        }
        Ok(())
    }

    /// Stops playing a score.
    pub fn stop(&mut self) {
        self.player.stop();
    }

    /// Begins or ends keeping what is heard. Not for the audio path.
    pub fn record(&mut self, on: bool) {
        self.player.record(on);
    }

    /// What was heard since recording began, as bytes.
    pub fn kept(&self) -> &[u8] {
        bytemuck::cast_slice(self.player.kept())
    }

    /// Where in its score it is, in beats; below zero while it plays none.
    pub fn place_beats(&self) -> f64 {
        self.player.place_beats().unwrap_or(-1.0)
    }

    /// Takes a MIDI message.
    pub fn midi(&mut self, message: [u8; 3]) {
        self.player.midi(message);
    }

    /// Renders the next frames, at most [`MAX_FRAMES`].
    ///
    /// # Real time
    /// No allocation, no lock, no panic.
    pub fn process(&mut self, frames: usize) {
        let frames = frames.min(MAX_FRAMES);
        let [left, right] = &mut self.channels;
        self.player.process(
            &mut left[..frames],
            &mut right[..frames],
            &mut self.beat[..frames],
        );
        self.player.engine.places(&mut self.places);
        for (at, beat) in self.beat[..frames].iter().enumerate() {
            left[at] += beat * self.beat_gain;
            right[at] += beat * self.beat_gain;
        }
        self.guard_gain = self
            .guard
            .process(&mut left[..frames], &mut right[..frames]);
    }

    /// The work takes `load` times the time there is: notes are let go, and if none can be, quality.
    pub fn shed_notes(&mut self, load: f64) {
        let gone = self.player.engine.shed_notes(load);
        self.let_go = self.let_go.saturating_add(gone as u32);
        if gone == 0 && self.player.engine.voices() > 0 && load > 1.0 {
            let before = self.player.engine.oversampling();
            let most = self.player.engine.most_oversampling();
            let asked = self.lowered.map_or(most, |(asked, _)| asked);
            if self.player.engine.lower_quality() {
                self.lowered = Some((asked, before / 2));
            }
        }
    }

    /// The work has fitted easily for a while: more notes may sound again.
    pub fn allow_more_notes(&mut self) {
        self.player.engine.allow_more_notes();
    }

    /// Quality it is computed with while that is lower than asked for, else 0.
    pub fn lowered_to(&self) -> usize {
        self.lowered.map_or(0, |(_, given)| given)
    }

    /// Notes that sound.
    pub fn voices(&self) -> usize {
        self.player.engine.voices()
    }
}
