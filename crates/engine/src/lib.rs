//! Patch to sound.
//!
//! - [`program`]: a patch compiled into a flat, fixed-size [`Program`](program::Program), off the audio path.
//! - [`Engine`]: plays a program. Everything under `realtime` runs on the audio path: after
//!   [`Engine::new`] nothing allocates, locks, logs or panics (`tests/no_allocation.rs`).
//!
//! Lanes are voices: eight notes are computed side by side. Time advances in blocks of
//! [`BLOCK`] frames on a fixed grid, so the same events give the same bits however the caller cuts its buffers.
//!
//! ```
//! use zolvik_engine::{Engine, program::prepare};
//! use zolvik_patch::{Patch, hearing::Listening};
//! let mut engine = Engine::new(48_000.0);
//! engine.take(&prepare(&Patch::empty(), &Listening::default()));
//! engine.note_on(57, 96);
//! let (mut left, mut right) = ([0.0; 480], [0.0; 480]);
//! engine.process(&mut left, &mut right);
//! assert!(left.iter().any(|s| s.abs() > 0.1));
//! ```

pub mod cost;
pub mod picture;
pub mod program;
mod realtime;
mod sizes;

/// How much of what a patch asks for can be had.
pub mod limits {
    pub use crate::realtime::nodes::cycle::had as cycle_had;
}

pub use realtime::engine::Engine;
pub use realtime::input::keys::Control;
pub use realtime::output::capture::VoiceCapture;
pub use realtime::output::guard::Guard;
pub use realtime::output::rack::EffectMeter;
pub use realtime::sine::{Lanes, sine_turns};
pub use sizes::{BLOCK, BUSES, LANES, MAX_SETS};

const _: () = assert!(BLOCK == zolvik_effects::BLOCK);
