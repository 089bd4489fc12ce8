//! Patches, their versions and recordings in one SQLite file.
//!
//! A write is on disk when the call returns: it stands in a transaction whose commit is checked, and WAL with
//! `synchronous = FULL` survives a kill and a power cut. Every save names the revision it is based on, so that two windows cannot
//! silently overwrite each other. Reading never waits for writing.

mod backup;
mod beside;
mod check;
mod connection;
mod error;
mod faults;
mod kept;
mod layout;
mod looked;
mod migrations;
mod patches;
mod recording;
mod recordings;
mod schema;
mod sealed;
mod steps;
mod store;
mod versions;

pub use backup::{
    BackedUp, Backup, BackupKind, MOST_BYTES, all_backups, backups, contents, count_in, patch_in,
    restore, set_aside,
};
pub use beside::Beside;
pub use check::check;
pub use error::StoreError;
pub use faults::Report;
pub use kept::Kept;
pub use patches::{Entry, Listed, Summary};
pub use recording::Recording;
pub use store::Store;
pub use versions::Version;
