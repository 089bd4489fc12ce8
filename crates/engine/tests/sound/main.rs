//! What the engine promises, measured.

mod accuracy;
mod bounds;
mod notes;
mod same_bits;
mod support;
