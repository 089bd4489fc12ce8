//! The stage for browser tests: the real binary on a fresh data folder, and headless Chromium before it.

mod asking;
mod browser;
mod gestures;
mod props;
mod server;
mod stage;

pub use props::Props;
pub use server::Server;
pub use stage::{InTurn, PATIENCE, Stage, stage, stage_before, stage_with};
