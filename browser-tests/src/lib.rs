//! The stage for browser tests: the real binary on a fresh data folder, and headless Chromium before it.

mod browser;
mod server;
mod stage;

pub use server::Server;
pub use stage::{PATIENCE, Stage, stage, stage_before, stage_with};
