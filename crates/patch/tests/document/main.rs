//! What the patch document promises.
#![allow(clippy::disallowed_methods)] // references are reckoned in their own way

mod any_edits;
mod any_json;
mod arrangements;
mod arranging;
mod beats;
mod catalogue;
mod comparing;
mod editing;
mod effects;
mod files;
mod finishing;
mod following;
mod golden;
mod groups;
mod hearing;
mod inlet;
mod levels;
mod lines;
mod mending;
mod movement;
mod offers;
mod pitch;
mod plain;
mod playing;
mod reach;
mod ready_effects;
mod ready_phrases;
mod several;
mod shapes;
mod steps;
mod swing;
mod tuning;
mod units;
mod values;
