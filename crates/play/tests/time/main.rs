//! What is played falls on its moment: phrase, beat, arpeggio and synced shapes, against theory.
#![allow(clippy::disallowed_methods)] // tests may

mod bounds;
mod hands;
mod inlet;
mod moving;
mod onsets;
mod overload;
mod support;
