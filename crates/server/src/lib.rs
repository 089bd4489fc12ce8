//! The server behind the `zolvik` binary: handlers parse, call the core and map the result.
//!
//! [`router::router`] is the whole application, [`serve`] keeps its connections, [`cli`] is the command line around it.

pub mod api;
mod assets;
pub mod atomic;
pub mod cli;
pub mod clips;
pub mod demo;
mod drawing;
pub mod extract;
mod gate;
pub mod pictures;
pub mod problem;
pub mod renders;
pub mod router;
mod sending;
pub mod serve;
pub mod state;
