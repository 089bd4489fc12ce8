//! What the engine promises, measured.
#![allow(clippy::disallowed_methods)] // references are reckoned in their own way

mod accuracy;
mod bounds;
mod ends;
mod envelopes;
mod filters;
mod laws;
mod loops;
mod movement;
mod notes;
mod quality;
mod rack;
mod routes;
mod same_bits;
mod samples;
mod shaping;
mod support;
mod voice;
mod waves;
mod wide;
