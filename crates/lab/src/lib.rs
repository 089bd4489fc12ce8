//! Renders sounds and measures them. No real time, no screen.
//!
//! - [`render`]: a note of a patch as samples, the same in browser and on the command line.
//! - [`unfold`]: everything the screen draws of that note.
//! - [`take`]: the voices of a note, kept for other effects.
//! - [`picture`]: its spectrogram, painted while it comes.
//! - [`spectrum`]: what partials are in it at one moment.
//! - [`level`]: true peak and loudness.

pub mod axis;
pub mod bands;
pub mod batch;
pub mod chance;
pub mod level;
pub mod note;
pub mod picture;
pub mod piece;
pub mod predict;
pub mod render;
pub mod rendered;
pub mod response;
pub mod spectrum;
pub mod take;
pub mod thumbnail;
mod true_peak;
pub mod unfold;

pub use note::{Controls, Note};
pub use render::render;
pub use rendered::Rendered;
pub use unfold::{Detail, Unfolded, unfold};
