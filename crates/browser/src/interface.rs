//! The C interface. The host is single-threaded: each home instantiates the module for itself.
#![allow(unsafe_code)]

use std::cell::RefCell;

use serde::de::DeserializeOwned;
use zolvik_json::Form;

use crate::page::Page;
use crate::protocol::{Answer, Question, Reply, Task};
#[cfg(doc)]
use crate::shared::Shared;
use crate::sound::{How, PlayFrom, Sound};
use crate::tasks::Tasks;
use crate::view::Memory;

#[derive(Default)]
struct Home {
    page: Page,
    tasks: Tasks,
    answer: Vec<u8>,
    /// What the page knows of the view.
    told: Memory,
}

thread_local! {
    static HOME: RefCell<Home> = RefCell::default();
    static SOUND: RefCell<Option<Box<Sound>>> = const { RefCell::new(None) };
}

/// Gives `length` bytes of memory, owned by the caller until [`zolvik_free`].
#[unsafe(no_mangle)]
pub extern "C" fn zolvik_alloc(length: usize) -> *mut u8 {
    Box::into_raw(vec![0u8; length].into_boxed_slice()).cast()
}

/// Takes back memory from [`zolvik_alloc`].
///
/// # Safety
/// `pointer` and `length` must be those of one call to [`zolvik_alloc`], not freed before.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn zolvik_free(pointer: *mut u8, length: usize) {
    // SAFETY: per contract this is the box `zolvik_alloc` let go of.
    drop(unsafe { Box::from_raw(std::ptr::slice_from_raw_parts_mut(pointer, length)) });
}

/// Answers a question: JSON of [`Question`] in UTF-8. Gives the length of the answer in bytes, to be read at [`zolvik_answer`]. The question stays
/// the caller's.
///
/// # Safety
/// `pointer` must point to `length` readable bytes.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn zolvik_ask(pointer: *const u8, length: usize) -> usize {
    // SAFETY: per contract.
    let question = unsafe { std::slice::from_raw_parts(pointer, length) };
    HOME.with_borrow_mut(|home| home.answer(question, Home::ask))
}

/// Does a task: JSON of [`Task`], otherwise as [`zolvik_ask`].
///
/// # Safety
/// `pointer` must point to `length` readable bytes.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn zolvik_do(pointer: *const u8, length: usize) -> usize {
    // SAFETY: per contract.
    let task = unsafe { std::slice::from_raw_parts(pointer, length) };
    HOME.with_borrow_mut(|home| home.answer(task, |home, task: Task| home.tasks.answer(task)))
}

impl Home {
    /// Reads what was asked and writes the answer; gives its length.
    fn answer<T: DeserializeOwned>(
        &mut self,
        asked: &[u8],
        act: impl FnOnce(&mut Home, T) -> Answer,
    ) -> usize {
        self.tasks.begin();
        let text = std::str::from_utf8(asked).unwrap_or_default();
        let answer = match zolvik_json::read(text) {
            Ok(asked) => act(self, asked),
            Err(error) => Answer::Refused {
                why: format!("this is no question: {error}"),
            },
        };
        self.answer = zolvik_json::write(&answer, Form::Dense);
        self.answer.len()
    }

    fn ask(&mut self, question: Question) -> Answer {
        if question.takes_a_file() {
            self.page.take_file(self.tasks.take_input());
        }
        let Reply { answer, beside } = self.page.answer(question);
        if let Some(bytes) = beside {
            self.tasks.give(bytes);
        }
        let Answer::Document { view, select, said } = answer else {
            return answer;
        };
        let view = Box::new(view.told(&mut self.told));
        Answer::Document { view, select, said }
    }
}

/// The last answer; valid until the next call.
#[unsafe(no_mangle)]
pub extern "C" fn zolvik_answer() -> *const u8 {
    HOME.with_borrow(|home| home.answer.as_ptr())
}

/// How many parts go with the last answer, in bytes of their own.
#[unsafe(no_mangle)]
pub extern "C" fn zolvik_parts() -> usize {
    HOME.with_borrow(|home| home.tasks.parts().len())
}

/// One of them; valid until the next call.
#[unsafe(no_mangle)]
pub extern "C" fn zolvik_part(which: usize) -> *const u8 {
    HOME.with_borrow(|home| {
        home.tasks
            .parts()
            .get(which)
            .map_or(std::ptr::null(), Vec::as_ptr)
    })
}

/// Its length in bytes.
#[unsafe(no_mangle)]
pub extern "C" fn zolvik_part_length(which: usize) -> usize {
    HOME.with_borrow(|home| home.tasks.parts().get(which).map_or(0, Vec::len))
}

/// Takes a file in, for the next question.
///
/// # Safety
/// `pointer` must point to `length` readable bytes.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn zolvik_put(pointer: *const u8, length: usize) {
    // SAFETY: per contract.
    let bytes = unsafe { std::slice::from_raw_parts(pointer, length) };
    HOME.with_borrow_mut(|home| home.tasks.put(bytes));
}

/// Makes the engine of an AudioWorklet for a sample rate in hertz.
#[unsafe(no_mangle)]
pub extern "C" fn zolvik_sound_start(rate_hz: f64) {
    SOUND.set(Some(Box::new(Sound::new(rate_hz))));
}

fn with_sound<T: Default>(act: impl FnOnce(&mut Sound) -> T) -> T {
    SOUND.with_borrow_mut(|sound| sound.as_mut().map_or_else(T::default, |sound| act(sound)))
}

/// Makes room for a wave or recording of so many bytes; gives where it is to be written. Not inside of processing: it allocates.
#[unsafe(no_mangle)]
pub extern "C" fn zolvik_sound_room(length: usize) -> *mut u8 {
    SOUND.with_borrow_mut(|sound| {
        let room = |sound: &mut Box<Sound>| sound.room(length);
        sound.as_mut().map_or(std::ptr::null_mut(), room)
    })
}

/// Puts what was written there where programs can read it. Gives 1 if it was taken, 0 if it is no wave. Not inside of
/// processing: what it displaces is freed.
#[unsafe(no_mangle)]
pub extern "C" fn zolvik_sound_shelve() -> u32 {
    with_sound(|sound| u32::from(sound.cache_bank().is_ok()))
}

/// Keys of the waves and recordings the engine has: 64 bit whole numbers, valid until the next is shelved.
#[unsafe(no_mangle)]
pub extern "C" fn zolvik_sound_held() -> *const u64 {
    SOUND.with_borrow(|sound| sound.as_ref().map_or(std::ptr::null(), |s| s.held.as_ptr()))
}

/// How many keys [`zolvik_sound_held`] gives.
#[unsafe(no_mangle)]
pub extern "C" fn zolvik_sound_held_count() -> usize {
    with_sound(|sound| sound.held.len())
}

/// Bytes of a compiled program.
#[unsafe(no_mangle)]
pub extern "C" fn zolvik_sound_program_length() -> usize {
    size_of::<zolvik_engine::program::Program>()
}

/// Takes up a compiled program. Gives 1 if it was taken, 0 if the bytes are none.
///
/// # Safety
/// `pointer` must point to `length` readable bytes.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn zolvik_sound_install(pointer: *const u8, length: usize) -> u32 {
    // SAFETY: per contract.
    let bytes = unsafe { std::slice::from_raw_parts(pointer, length) };
    with_sound(|sound| u32::from(sound.install(bytes).is_ok()))
}

/// Plays a score: in place of what is played (`from` 0), from where that was stopped (1), or from a place in beats (2); `looped` 1 plays
/// it over and over; `beat_gain` is the level of the beat. Gives 1 if it was taken. Not inside of processing.
///
/// # Safety
/// `pointer` must point to `length` readable bytes.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn zolvik_sound_play(
    pointer: *const u8,
    length: usize,
    from: u32,
    from_beats: f64,
    looped: u32,
    beat_gain: f32,
) -> u32 {
    // SAFETY: per contract.
    let bytes = unsafe { std::slice::from_raw_parts(pointer, length) };
    let how = How {
        from: match from {
            0 => PlayFrom::Here,
            1 => PlayFrom::Left,
            _ => PlayFrom::Beats(from_beats),
        },
        looped: looped != 0,
    };
    with_sound(|sound| u32::from(sound.play(bytes, how, beat_gain).is_ok()))
}

/// Stops playing a score.
#[unsafe(no_mangle)]
pub extern "C" fn zolvik_sound_stop() {
    with_sound(Sound::stop);
}

/// Begins (1) or ends (0) keeping what is heard. Not inside of processing.
#[unsafe(no_mangle)]
pub extern "C" fn zolvik_sound_record(on: u32) {
    with_sound(|sound| sound.record(on != 0));
}

/// What was kept: 16 bytes each, valid until recording begins again.
#[unsafe(no_mangle)]
pub extern "C" fn zolvik_sound_kept() -> *const u8 {
    SOUND.with_borrow(|sound| {
        sound
            .as_ref()
            .map_or(std::ptr::null(), |s| s.kept().as_ptr())
    })
}

/// How many bytes [`zolvik_sound_kept`] gives.
#[unsafe(no_mangle)]
pub extern "C" fn zolvik_sound_kept_length() -> usize {
    with_sound(|sound| sound.kept().len())
}

/// Takes a MIDI message.
#[unsafe(no_mangle)]
pub extern "C" fn zolvik_sound_midi(status: u8, first: u8, second: u8) {
    with_sound(|sound| sound.midi([status, first, second]));
}

/// Renders frames.
#[unsafe(no_mangle)]
pub extern "C" fn zolvik_sound_process(frames: usize) {
    with_sound(|sound| sound.process(frames));
}

/// Tells how long those took, in milliseconds: less is computed where the machine cannot keep up.
#[unsafe(no_mangle)]
pub extern "C" fn zolvik_sound_watch(spent_ms: f64, frames: usize) {
    with_sound(|sound| sound.watch(spent_ms, frames));
}

/// What is told of the last frames: `f32` at the places of [`Shared`], valid for the engine's life.
#[unsafe(no_mangle)]
pub extern "C" fn zolvik_sound_told() -> *const f32 {
    SOUND.with_borrow(|sound| sound.as_ref().map_or(std::ptr::null(), |s| s.told.as_ptr()))
}

/// Left (0) or right (1) channel of the last call: 1024 `f32`, valid for the engine's life.
#[unsafe(no_mangle)]
pub extern "C" fn zolvik_sound_channel(channel: usize) -> *const f32 {
    SOUND.with_borrow(|sound| {
        sound
            .as_ref()
            .map_or(std::ptr::null(), |s| s.channels[channel.min(1)].as_ptr())
    })
}
