//! Patches and their versions in one SQLite file.
//!
//! A write is on disk when the call returns: WAL with `synchronous = FULL` survives a kill and a power cut.
//! Every save names the revision it is based on, so that two windows cannot silently overwrite each other.

mod connection;
mod error;
mod schema;
mod store;

pub use error::StoreError;
pub use store::{Entry, Recording, Store, Version};
