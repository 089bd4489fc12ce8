//! Looking a whole library over.

use crate::error::StoreError;
use crate::faults::{Report, look_over};
use crate::store::Store;

impl Store {
    /// Looks over everything: the file, every document, every version, every recording. Changes nothing.
    ///
    /// # Errors
    /// If the database cannot be read at all.
    pub fn look_over(&self) -> Result<Report, StoreError> {
        self.read(look_over)
    }
}
