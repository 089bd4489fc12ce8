//! Renders and measures, against theory and references.

mod chance;
mod demo_bits;
mod measures;
mod picture;
mod predictions;
mod takes;
