//! A state of a patch that could not be saved as one, kept as it is beside the good one.

use diesel::prelude::*;

use crate::error::StoreError;
use crate::patches::entry_of;
use crate::schema::beside;
use crate::sealed::BESIDE;
use crate::store::{Store, now};

/// A state that could not be saved.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Beside {
    /// Why not, in words.
    pub why: String,
    /// When it was kept, RFC 3339 in UTC.
    pub kept_at: String,
    /// Its text, whatever it is.
    pub document: String,
}

impl Store {
    /// Keeps a state that cannot be saved beside a patch, in place of the one before.
    ///
    /// # Errors
    /// If there is no such patch or it cannot be written.
    pub fn keep_beside(&self, id: i32, why: &str, document: &str) -> Result<(), StoreError> {
        self.write(|connection| {
            entry_of(connection, id)?;
            let row = (
                beside::patch_id.eq(id),
                beside::why.eq(why),
                beside::kept_at.eq(now()),
                beside::document.eq(document),
            );
            diesel::replace_into(beside::table)
                .values(row)
                .execute(connection)?;
            BESIDE.seal(connection, &format!("WHERE patch_id = {id}"), &[])
        })
    }

    /// The state kept beside a patch, if there is one.
    ///
    /// # Errors
    /// If the database fails.
    pub fn beside(&self, id: i32) -> Result<Option<Beside>, StoreError> {
        self.read(|connection| {
            let rows = BESIDE.rows(connection, &format!("WHERE patch_id = {id}"), &[])?;
            Ok(rows.first().map(|row| Beside {
                why: row.text(1),
                kept_at: row.moment(2),
                document: row.text(3),
            }))
        })
    }

    /// Lets the state kept beside a patch go. Gives whether there was one.
    ///
    /// # Errors
    /// If it cannot be written.
    pub fn drop_beside(&self, id: i32) -> Result<bool, StoreError> {
        self.write(|connection| Ok(diesel::delete(beside::table.find(id)).execute(connection)? > 0))
    }
}
