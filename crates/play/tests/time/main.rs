//! What is played falls on its moment: phrase, beat, arpeggio and synced shapes, against theory.

mod bounds;
mod moving;
mod onsets;
mod support;
