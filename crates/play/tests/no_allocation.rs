//! A binary of its own: it replaces the process-wide allocator by one that counts.
#![allow(unsafe_code)]

use std::alloc::{GlobalAlloc, Layout, System};
use std::sync::atomic::{AtomicUsize, Ordering};

use zolvik_engine::program::prepare;
use zolvik_patch::hearing::Listening;
use zolvik_patch::playing::ready::READY_PHRASES;
use zolvik_patch::playing::{Beat, Order};
use zolvik_patch::testing::any_patch;
use zolvik_play::{Player, Score};

struct Counting;
static COUNT: AtomicUsize = AtomicUsize::new(0);

// SAFETY: every call is passed on unchanged to the system's allocator.
unsafe impl GlobalAlloc for Counting {
    unsafe fn alloc(&self, layout: Layout) -> *mut u8 {
        COUNT.fetch_add(1, Ordering::Relaxed);
        // SAFETY: the caller keeps the contract of `alloc`.
        unsafe { System.alloc(layout) }
    }
    unsafe fn dealloc(&self, ptr: *mut u8, layout: Layout) {
        COUNT.fetch_add(1, Ordering::Relaxed);
        // SAFETY: the caller keeps the contract of `dealloc`.
        unsafe { System.dealloc(ptr, layout) }
    }
}

#[global_allocator]
static ALLOCATOR: Counting = Counting;

#[test]
fn playing_a_phrase_with_beat_and_arpeggio_never_allocates() {
    let mut player = Player::new(48_000.0);
    let (mut left, mut right, mut beat) = ([0.0; 128], [0.0; 128], [0.0; 128]);
    for seed in 0..8u64 {
        let mut patch = any_patch(seed);
        patch.playing.phrase = Some(READY_PHRASES[seed as usize].phrase().into());
        patch.playing.beat = Beat::ALL[seed as usize % Beat::ALL.len()];
        patch.playing.arpeggio.order = Order::ALL[seed as usize % Order::ALL.len()];
        player.engine.take(&prepare(&patch, &Listening::default()));
        player.play(Score::of(&patch), true);
        player.record(true);
        let before = COUNT.load(Ordering::Relaxed);
        for block in 0..300u16 {
            if block % 50 == 10 {
                player.midi([0x90, 40 + (block / 10) as u8, 100]);
                player.midi([0xB0, 1, 40]);
            }
            player.process(&mut left, &mut right, &mut beat);
        }
        let after = COUNT.load(Ordering::Relaxed);
        assert_eq!(after, before, "patch {seed}");
        assert!(!player.kept().is_empty());
    }
}
