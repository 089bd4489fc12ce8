//! The browser module: one WebAssembly file with three homes.
//!
//! - The page asks [`page`] for edits, values and words: a JSON question in, a JSON answer out.
//! - The worker asks [`tasks`] to unfold, measure and render.
//! - The AudioWorklet plays through [`sound`]; nothing there allocates after the start.
//!
//! The functions with a C interface are in [`interface`]; everything behind them is plain Rust and tested
//! natively.

pub mod described;
pub mod explain;
pub mod gestures;
pub mod inspect;
mod interface;
pub mod page;
pub mod protocol;
pub mod rules;
pub mod shared;
pub mod sound;
pub mod tasks;
pub mod view;
