//! What the patch document promises.
#![allow(clippy::disallowed_methods)] // references are reckoned in their own way

mod beats;
mod catalogue;
mod effects;
mod files;
mod levels;
mod phrases;
mod pitch;
mod plain;
mod ready_effects;
mod ready_phrases;
mod swing;
mod values;
