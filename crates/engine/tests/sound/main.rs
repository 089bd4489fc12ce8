//! What the engine promises, measured.

mod accuracy;
mod bounds;
mod envelopes;
mod filters;
mod notes;
mod relief;
mod routes;
mod same_bits;
mod samples;
mod shaping;
mod support;
mod voice;
mod waves;
