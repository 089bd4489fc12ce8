//! The picture of a sound, painted while it comes: long windows below, short ones above.

pub mod pace;
mod painter;
pub(crate) mod pyramid;
pub(crate) mod rows;

pub use painter::{Grid, Painter};
