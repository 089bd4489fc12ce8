//! The audio path. Nothing here allocates, locks, logs or panics once an engine is made.
#![deny(clippy::unwrap_used, clippy::expect_used, clippy::panic)]

pub(crate) mod block;
pub(crate) mod decimate;
pub(crate) mod engine;
pub(crate) mod envelope;
pub(crate) mod graph;
pub(crate) mod guard;
pub(crate) mod shelf;
pub(crate) mod sine;
pub(crate) mod smooth;
pub(crate) mod voices;
pub(crate) mod wave;
