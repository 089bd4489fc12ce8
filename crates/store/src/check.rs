//! Looking a whole library over.

use std::path::Path;

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
    look_over(&mut look_at(folder)?)
}
