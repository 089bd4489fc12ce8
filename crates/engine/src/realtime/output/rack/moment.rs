//! What a block of effects is computed with.

use crate::program::Program;
use crate::realtime::modulation::values::Values;

/// All of it.
pub(crate) struct Moment<'a> {
    pub(crate) program: &'a Program,
    pub(crate) values: &'a Values,
    pub(crate) beats: f64,
    /// Frequency of the newest note, if one sounds.
    pub(crate) key_hz: Option<f64>,
    /// The output's gain at the end of the block.
    pub(crate) trim: f32,
}
