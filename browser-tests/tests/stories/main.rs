//! What a sound designer does, on the real screen, with the real engine.

mod access;
mod algorithms;
mod bell;
mod comparing;
mod envelopes;
mod explaining;
mod fields;
mod filters;
mod groups;
mod hand;
mod hands;
mod jobs;
mod keeping;
mod library;
mod losing;
mod measure;
mod measures;
mod moving;
mod overload;
mod playing;
mod routing;
mod same_bits;
mod samples;
mod tuning;
mod waves;
mod wide;
