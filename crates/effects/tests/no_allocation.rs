//! A binary of its own: it replaces the process-wide allocator by one that counts.
#![allow(unsafe_code)]

use std::alloc::{GlobalAlloc, Layout, System};
use std::cell::Cell;

use zolvik_effects::{SILENT, Still, kind};
use zolvik_patch::document::EffectId;
use zolvik_patch::finish::{Effect, EffectName};

struct Counting;
thread_local! {
    /// Of this thread alone: what runs tests takes memory as well.
    static COUNT: Cell<usize> = const { Cell::new(0) };
}

fn count() {
    // while a thread ends there is nothing left to count in
    let _ = COUNT.try_with(|count| count.set(count.get() + 1));
}

// SAFETY: every call is passed on unchanged to the system's allocator.
unsafe impl GlobalAlloc for Counting {
    unsafe fn alloc(&self, layout: Layout) -> *mut u8 {
        count();
        // SAFETY: the caller keeps the contract of `alloc`.
        unsafe { System.alloc(layout) }
    }
    unsafe fn dealloc(&self, ptr: *mut u8, layout: Layout) {
        count();
        // SAFETY: the caller keeps the contract of `dealloc`.
        unsafe { System.dealloc(ptr, layout) }
    }
}

#[global_allocator]
static ALLOCATOR: Counting = Counting;

/// Every kind, with each of its choices, while it sounds, is set anew, and forgets.
#[test]
fn no_effect_allocates_while_it_sounds() {
    for name in EffectName::ALL {
        let about = kind(*name);
        let choices = name.rows().iter().flat_map(|row| row.choices);
        let options = choices.map(|row| row.options.len()).max().unwrap_or(1);
        for option in 0..options {
            let mut effect = Effect::new(EffectId(EffectId::FIRST), *name);
            for row in name.rows().iter().flat_map(|row| row.choices) {
                let chosen = effect.choose_of(row.id, option % row.options.len());
                assert_eq!(chosen, Some(()));
            }
            let (still, plain) = (
                Still::of(&effect),
                Still::of(&Effect::new(effect.id, *name)),
            );
            let mut node = (about.make)(48_000.0);
            let before = COUNT.get();
            for n in 0..600 {
                let mut block = SILENT;
                block[0][n % 16] = 1.0;
                let set = if n % 100 < 50 { &still } else { &plain };
                node.run(&mut block, &set.setting(48_000.0));
            }
            node.clear();
            let _ = (
                about.tail_s(&still.setting(48_000.0), 80.0),
                (about.load)(&still.setting(48_000.0)),
            );
            let after = COUNT.get();
            assert_eq!(after - before, 0, "{name:?}, {option}: allocated or freed");
        }
    }
}
