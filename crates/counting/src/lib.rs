//! An allocator that counts: a binary of tests that makes it its own sees whether something takes or frees memory.
//!
//! ```
//! #[global_allocator]
//! static ALLOCATOR: zolvik_counting::Counting = zolvik_counting::Counting;
//!
//! let before = zolvik_counting::calls();
//! drop(vec![1, 2, 3]);
//! assert_eq!(zolvik_counting::calls() - before, 2);
//! ```
#![allow(unsafe_code)]

use std::alloc::{GlobalAlloc, Layout, System};
use std::cell::Cell;

thread_local! {
    /// Of this thread: what others do meanwhile, the test runner too, is not counted.
    static CALLS: Cell<usize> = const { Cell::new(0) };
    static BYTES: Cell<usize> = const { Cell::new(0) };
}

/// How often this thread took or freed memory.
pub fn calls() -> usize {
    CALLS.get()
}

/// How many bytes this thread has taken, freed ones too.
pub fn bytes() -> usize {
    BYTES.get()
}

fn count(taken: usize) {
    // a thread that ends counts no more
    let _ = CALLS.try_with(|calls| calls.set(calls.get() + 1));
    let _ = BYTES.try_with(|bytes| bytes.set(bytes.get() + taken));
}

/// The system's allocator, counted.
#[derive(Debug)]
pub struct Counting;

// SAFETY: every call is passed on unchanged to the system's allocator.
unsafe impl GlobalAlloc for Counting {
    unsafe fn alloc(&self, layout: Layout) -> *mut u8 {
        count(layout.size());
        // SAFETY: the caller keeps the contract of `alloc`.
        unsafe { System.alloc(layout) }
    }

    unsafe fn dealloc(&self, ptr: *mut u8, layout: Layout) {
        count(0);
        // SAFETY: the caller keeps the contract of `dealloc`.
        unsafe { System.dealloc(ptr, layout) }
    }
}
