//! The waves of operators, from a name to samples.
//!
//! - [`spectrum`]: the harmonics of any wave at any position.
//! - [`bank`]: all cycles of a wave, band-limited in half-octave steps, as the engine reads them.
//! - [`cut`]: a table cut from a recording.
//!
//! Everything is computed with `libm` in a fixed order, so that browser and command line make the same bits.

pub mod bank;
pub mod cut;
mod fourier;
mod shapes;
pub mod spectrum;
mod tables;

pub use bank::{Bank, bank, key};
pub use spectrum::Spectrum;
