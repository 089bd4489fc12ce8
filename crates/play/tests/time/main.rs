//! What is played falls on its moment: phrase, beat, arpeggio and synced shapes, against theory.
#![allow(clippy::disallowed_methods)] // tests may

mod bounds;
mod hands;
mod moving;
mod onsets;
mod support;
