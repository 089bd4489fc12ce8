//! A binary of its own: it replaces the process-wide allocator by one that counts. Waves and recordings come to the audio thread
//! in memory that is made between blocks and then kept; while blocks are computed nothing is taken or freed.
#![allow(unsafe_code)]

use zolvik_browser::sound::Sound;
use zolvik_browser::tasks::{CachedTables, shelved};
use zolvik_counting::{Counting, bytes, calls};
use zolvik_engine::program::prepare;
use zolvik_patch::Patch;
use zolvik_patch::document::{KindName, Unit, UnitId};
use zolvik_patch::hearing::Listening;
use zolvik_patch::wave::{Table, Wave};

#[global_allocator]
static ALLOCATOR: Counting = Counting;

#[test]
fn waves_come_in_without_being_copied_and_playing_takes_no_memory() {
    let mut patch = Patch::empty();
    if let Some(operator) = patch.units[0].oscillator_mut() {
        operator.wave = Wave::Table(Table::ALL[0]);
    }
    patch.units.push(Unit::new(UnitId(2), KindName::Sample));
    let prepared = prepare(&patch, &Listening::default());
    let banks = prepared
        .banks
        .iter()
        .map(|b| shelved(CachedTables::Bank, &b.bytes()));
    let recordings = prepared
        .recordings
        .iter()
        .map(|r| shelved(CachedTables::Recording, &r.bytes()));
    let waves: Vec<Vec<u8>> = banks.chain(recordings).collect();
    assert_eq!(waves.len(), 2);
    assert!(waves.iter().all(|w| w.len() > 100_000), "large ones");

    let mut sound = Sound::new(48_000.0);
    for wave in &waves {
        let room = sound.room(wave.len());
        // SAFETY: the room was made for just so many bytes.
        unsafe { std::ptr::copy_nonoverlapping(wave.as_ptr(), room, wave.len()) };
        let before = bytes();
        sound.cache_bank().expect("a wave");
        let taken = bytes() - before;
        assert!(taken < 20_000, "{taken} bytes taken for one that is there");
    }
    assert_eq!(sound.held.len(), 2);
    sound.install(prepared.program.bytes()).expect("a program");
    let before = calls();
    for block in 0..200u8 {
        if block % 20 == 0 {
            sound.midi([0x90, 40 + block / 4, 100]);
        }
        sound.process(128);
    }
    assert_eq!(calls(), before, "while it plays");
    let peak = sound.channels[0].iter().fold(0.0f32, |a, b| a.max(b.abs()));
    assert!(peak > 0.01, "{peak}: both waves sound");
    sound.room(64);
    assert!(sound.cache_bank().is_err(), "64 zeros are no wave");
}
