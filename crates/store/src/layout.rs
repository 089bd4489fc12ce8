//! What lies in a library's folder, and the lock that keeps it to one program.

use std::fs::{File, OpenOptions};
use std::os::unix::fs::OpenOptionsExt;
use std::path::Path;

use crate::error::StoreError;

/// Name of the database in the data folder.
pub(crate) const FILE: &str = "zolvik.sqlite";
/// Held, shared, by every process that has the library open; it says how the database's file was left last.
pub(crate) const LOCK: &str = ".in-use";

/// The file whose lock says that a library is in use.
pub(crate) fn lock_file(folder: &Path) -> Result<File, StoreError> {
    own_file(&folder.join(LOCK)).map_err(|e| unusable(folder, &e))
}

/// Opens a file, made for the user alone if it is not there. SQLite gives the files beside a database its rights.
pub(crate) fn own_file(path: &Path) -> std::io::Result<File> {
    OpenOptions::new()
        .create(true)
        .truncate(false)
        .read(true)
        .write(true)
        .mode(0o600)
        .open(path)
}

pub(crate) fn unusable(folder: &Path, error: &std::io::Error) -> StoreError {
    match error.kind() {
        std::io::ErrorKind::StorageFull => StoreError::Full,
        _ => StoreError::Folder {
            path: folder.into(),
            problem: error.to_string(),
        },
    }
}
