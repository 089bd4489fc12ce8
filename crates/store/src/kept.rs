//! What is kept beside patches: phrases, learnt controllers.

use diesel::prelude::*;

use crate::error::StoreError;
use crate::schema::kept;
use crate::sealed::{KEPT, Row};
use crate::store::{Store, now};

/// Something that is kept.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Kept {
    /// Its name, one of its kind.
    pub name: String,
    /// JSON.
    pub document: String,
    /// Whether it is as it was kept.
    pub is_whole: bool,
}

impl Store {
    /// All of a kind, by name.
    ///
    /// # Errors
    /// If the database cannot be read.
    pub fn kept(&self, kind: &str) -> Result<Vec<Kept>, StoreError> {
        self.read(|connection| {
            let rows = KEPT.rows(connection, "WHERE kind = ? ORDER BY name", &[kind])?;
            let one = |row: &Row| Kept {
                name: row.text(1),
                document: row.text(3),
                is_whole: row.is_whole,
            };
            Ok(rows.iter().map(one).collect())
        })
    }

    /// Keeps something under a name, in place of what had it. Gives how many of its kind there are then.
    ///
    /// # Errors
    /// If it cannot be written.
    pub fn keep(&self, kind: &str, name: &str, document: &str) -> Result<i64, StoreError> {
        self.write(|connection| {
            let row = (
                kept::kind.eq(kind),
                kept::name.eq(name),
                kept::document.eq(document),
                kept::changed_at.eq(now()),
            );
            diesel::replace_into(kept::table)
                .values(row)
                .execute(connection)?;
            KEPT.seal(connection, "WHERE kind = ? AND name = ?", &[kind, name])?;
            let all = kept::table.filter(kept::kind.eq(kind));
            Ok(all.count().get_result(connection)?)
        })
    }

    /// Forgets something. Gives whether it was there.
    ///
    /// # Errors
    /// If it cannot be written.
    pub fn forget(&self, kind: &str, name: &str) -> Result<bool, StoreError> {
        self.write(|connection| {
            let one = kept::table
                .filter(kept::kind.eq(kind))
                .filter(kept::name.eq(name));
            Ok(diesel::delete(one).execute(connection)? > 0)
        })
    }
}
