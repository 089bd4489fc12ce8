//! The waves of operators, from a name to samples.
//!
//! - [`spectrum`]: a cycle as harmonics; [`cycles`]: those of any wave at any position; [`bars`]: waves drawn by hand.
//! - [`bank`]: all cycles of a wave, band-limited in half-octave steps, as the engine reads them.
//! - [`cut`]: a table cut from a recording.
//! - [`recording`]: a recording cut, looped and ready to be transposed; [`ready`] synthesizes those of our own.
//!
//! Everything is computed with `libm` in a fixed order, so that browser and command line make the same bits.

pub mod bank;
pub mod bars;
mod clip;
pub mod cut;
pub mod cycles;
pub mod fourier;
pub mod kernel;
mod key;
mod memo;
pub mod ready;
pub mod recording;
mod shapes;
pub mod spectrum;
mod squared;
mod tables;
mod words;

pub use bank::{Bank, bank, key};
pub use clip::{Clip, Clips, NoClips};
pub use recording::Recording;
pub use spectrum::Spectrum;
