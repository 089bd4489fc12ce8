//! How much is computed at once, and how much there can be of it.

/// Frames computed at once; events and envelopes are on this grid (a third of a millisecond at 48 kHz).
pub const BLOCK: usize = 16;
/// Voices computed side by side.
pub const LANES: usize = 8;
/// Most sets of lanes: more than the polyphony, so that stolen notes can fade while new ones begin, and room for copies.
pub const MAX_SETS: usize = 16;
/// Ways out of the voices: main, second, clean.
pub const BUSES: usize = 3;
/// A way on which nothing is.
pub(crate) const SILENT_WAY: [[f32; BLOCK]; 2] = [[0.0; BLOCK]; 2];
