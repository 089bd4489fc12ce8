//! What the patch document promises.
#![allow(clippy::disallowed_methods)] // references are reckoned in their own way

mod any_edits;
mod arrangements;
mod arranging;
mod comparing;
mod editing;
mod files;
mod finishing;
mod golden;
mod groups;
mod hearing;
mod inlet;
mod lines;
mod movement;
mod offers;
mod playing;
mod several;
mod shapes;
mod tuning;
mod units;
mod values;
