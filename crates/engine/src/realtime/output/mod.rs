//! What becomes of what leaves the voices.

pub(crate) mod capture;
mod capturing;
pub(crate) mod decimate;
pub(crate) mod guard;
pub(crate) mod quality;
pub mod rack;
pub(in crate::realtime) mod summing;
