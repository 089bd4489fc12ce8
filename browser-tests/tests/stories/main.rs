//! What a sound designer does, on the real screen, with the real engine.

mod algorithms;
mod bell;
mod comparing;
mod envelopes;
mod fields;
mod groups;
mod keeping;
mod measures;
mod playing;
mod routing;
mod same_bits;
mod tuning;
mod waves;
