//! The AudioWorklet's side: an engine, the guard, and buffers the script reads.

use std::sync::Arc;

use zolvik_engine::Guard;
use zolvik_engine::program::{Program, ProgramError};
use zolvik_patch::document::MAX_SOURCES;
use zolvik_patch::levels::meter_place;
use zolvik_play::overload::{LoadWatch, Verdict};
use zolvik_play::{NoScore, Player, Score};
use zolvik_waves::bank::NoBank;
use zolvik_waves::{Bank, Recording};

use crate::shared::Shared;
use crate::tasks::CachedTables;

/// Most frames of one call.
pub const MAX_FRAMES: usize = 1024;

/// Below this nothing is heard: -120 dB.
const FAINT: f32 = 1e-6;

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
    /// What is told of the last call, each at its place ([`Shared`]).
    pub told: [f32; Shared::TOLD],
    /// A wave or recording that is coming in.
    incoming: Vec<f32>,
    /// Keys of the waves and recordings it has, since the last was shelved.
    pub held: Vec<u64>,
    rate_hz: f64,
    /// Frames since the start.
    frames: u64,
    /// Whether the last call was silent.
    is_silent: bool,
    /// The frame at which a key was struck in silence, until it is heard.
    struck: Option<u64>,
    watch: LoadWatch,
    /// Notes that were let go because the machine could not keep up, since the start.
    let_go: u32,
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
            told: [0.0; Shared::TOLD],
            incoming: vec![],
            held: vec![],
            rate_hz,
            frames: 0,
            is_silent: true,
            struck: None,
            watch: LoadWatch::default(),
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

    /// Takes a MIDI message.
    pub fn midi(&mut self, message: [u8; 3]) {
        let strikes = message[0] & 0xf0 == 0x90 && message[2] > 0;
        if strikes && self.is_silent && self.struck.is_none() {
            self.struck = Some(self.frames);
        }
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
        for (at, beat) in self.beat[..frames].iter().enumerate() {
            left[at] += beat * self.beat_gain;
            right[at] += beat * self.beat_gain;
        }
        let guard_gain = self
            .guard
            .process(&mut left[..frames], &mut right[..frames]);
        self.tell(frames, guard_gain);
    }

    /// Puts in place what is told of the frames that were rendered.
    fn tell(&mut self, frames: usize, guard_gain: f32) {
        let [left, right] = &self.channels;
        let peak = |channel: &[f32]| channel.iter().fold(0.0f32, |peak, s| peak.max(s.abs()));
        let (left, right) = (&left[..frames], &right[..frames]);
        let peaks = (peak(left), peak(right));
        let heard = |(l, r): (&f32, &f32)| l.abs() > FAINT || r.abs() > FAINT;
        let first = left.iter().zip(right).position(heard);
        self.is_silent = first.is_none();
        let mut places = [[0.0; 2]; MAX_SOURCES];
        self.player.engine.places(&mut places);
        let told = &mut self.told;
        if let (Some(first), Some(struck)) = (first, self.struck) {
            let waited = self.frames + first as u64 - struck;
            told[Shared::KeyToSoundS as usize] = (waited as f64 / self.rate_hz) as f32;
            self.struck = None;
        }
        self.frames += frames as u64;
        told[Shared::PeakLeft as usize] = peaks.0;
        told[Shared::PeakRight as usize] = peaks.1;
        told[Shared::MeterLeft as usize] = meter_place(peaks.0.into()) as f32;
        told[Shared::MeterRight as usize] = meter_place(peaks.1.into()) as f32;
        told[Shared::Guard as usize] = guard_gain;
        told[Shared::Voices as usize] = self.player.engine.voices() as f32;
        told[Shared::PlaceBeats as usize] = self.player.place_beats().unwrap_or(-1.0) as f32;
        let sources = &mut told[Shared::Sources as usize..];
        for (told, [place, _]) in sources.iter_mut().zip(places) {
            *told = place;
        }
    }

    /// The last call took `spent_ms`: where the machine cannot keep up, notes are let go, and if none can be, quality.
    pub fn watch(&mut self, spent_ms: f64, frames: usize) {
        let there_ms = frames as f64 * 1000.0 / self.rate_hz;
        match self.watch.take(spent_ms, there_ms) {
            Verdict::Goes => {}
            Verdict::TooMuch(load) => self.shed_notes(load),
            Verdict::Easy => self.player.engine.allow_more_notes(),
        }
        self.told[Shared::Load as usize] = self.watch.load as f32;
        self.told[Shared::Late as usize] = self.watch.late_blocks as f32;
        self.told[Shared::LetGo as usize] = self.let_go as f32;
        let lowered_to = self.lowered.map_or(0, |(_, given)| given);
        self.told[Shared::Lowered as usize] = lowered_to as f32;
    }

    fn shed_notes(&mut self, load: f64) {
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
}
