//! What follows from a patch: order, reach, pitch, levels, times.

pub mod expression;
pub mod graph;
pub mod hearing;
pub mod levels;
pub mod order;
pub mod pitch;
pub mod reach;
pub mod timing;
