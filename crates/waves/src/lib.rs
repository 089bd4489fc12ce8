//! The waves of operators, from a name to samples.
//!
//! - [`spectrum`]: the harmonics of any wave at any position.
//! - [`bank`]: all cycles of a wave, band-limited in half-octave steps, as the engine reads them.
//! - [`cut`]: a table cut from a recording.
//! - [`recording`]: a recording cut, looped and ready to be transposed; [`ready`] synthesizes those of our own.
//!
//! Everything is computed with `libm` in a fixed order, so that browser and command line make the same bits.

pub mod bank;
pub mod cut;
pub mod fourier;
pub mod kernel;
pub mod ready;
pub mod recording;
mod shapes;
pub mod spectrum;
mod tables;

pub use bank::{Bank, bank, key};
pub use recording::{Clip, Clips, NoClips, Recording};
pub use spectrum::Spectrum;
