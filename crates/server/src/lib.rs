//! The server behind the `zolvik` binary: handlers parse, call the core and map the result.
//!
//! [`app::router`] is the whole application; [`cli`] is the command line around it.

pub mod api;
pub mod app;
mod assets;
pub mod cli;
pub mod demo;
mod gate;
mod picture;
pub mod problem;
pub mod sounds;
