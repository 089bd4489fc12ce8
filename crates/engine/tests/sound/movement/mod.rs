//! Movement, by theory.

mod envelopes;
mod loops;
mod sources;
mod targets;
