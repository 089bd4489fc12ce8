//! Each kind of effect against theory.
#![allow(clippy::disallowed_methods)] // references are reckoned in their own way

mod bench;
mod drives;
mod dynamics;
mod echoes;
mod filters;
mod places;
mod rooms;
mod tails;
