//! What edits promise.
#![allow(clippy::disallowed_methods)] // references are reckoned in their own way

mod any;
mod arrangements;
mod articulations;
mod comparing;
mod editing;
mod finishing;
mod following;
mod golden;
mod groups;
mod hearing;
mod lines;
mod mending;
mod movement;
mod offers;
mod playing;
mod reach;
mod several;
mod steps;
mod tuning;
mod units;
