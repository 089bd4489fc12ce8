//! Looking a whole library over.

use std::path::Path;

use diesel::Connection;

use crate::connection::look_at;
use crate::error::StoreError;
use crate::faults::{Report, look_over};
use crate::store::Store;

impl Store {
    /// Looks over everything: the file, every row, every document, every recording. Changes nothing.
    ///
    /// # Errors
    /// If the database cannot be read at all.
    pub fn look_over(&self) -> Result<Report, StoreError> {
        self.read(look_over)
    }
}

/// Looks over the library of a folder, whether it is in use or not. Changes nothing.
///
/// # Errors
/// If there is none, or it cannot be read at all.
pub fn check(folder: &Path) -> Result<Report, StoreError> {
    // one moment for all of it: it may be saved to meanwhile
    look_at(folder)?.transaction(look_over)
}
