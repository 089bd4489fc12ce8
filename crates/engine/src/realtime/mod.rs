//! The audio path. Nothing here allocates, locks, logs or panics once an engine is made.
#![deny(clippy::unwrap_used, clippy::expect_used, clippy::panic)]

pub(crate) mod bend;
mod block;
mod chance;
pub(crate) mod decimate;
pub(crate) mod engine;
pub(crate) mod envelope;
mod filter;
pub(crate) mod graph;
pub(crate) mod guard;
mod noise;
pub(crate) mod partials;
mod relief;
mod sample;
pub(crate) mod shelf;
pub(crate) mod sine;
pub(crate) mod smooth;
pub(crate) mod voices;
pub(crate) mod wave;
