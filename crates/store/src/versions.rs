//! Named versions of patches, kept for good.

use diesel::prelude::*;
use zolvik_patch::plain::clean_name;

use crate::error::StoreError;
use crate::schema::{patches, versions};
use crate::store::{Store, now};

/// A named version of a patch, kept for good.
#[derive(Debug, Clone, PartialEq, Eq, Queryable, Selectable)]
#[diesel(table_name = versions)]
pub struct Version {
    /// Number.
    pub id: i32,
    /// Whose version.
    pub patch_id: i32,
    /// Name given by the user.
    pub name: String,
    /// The patch file as it was.
    pub document: String,
    /// When it was kept, RFC 3339 in UTC.
    pub created_at: String,
}

impl Store {
    /// Keeps the present state of a patch under a name, for good.
    ///
    /// # Errors
    /// If there is no such patch or it cannot be written.
    pub fn keep_version(&self, id: i32, name: &str) -> Result<Version, StoreError> {
        self.write(|connection| {
            let document: Option<String> = patches::table
                .find(id)
                .select(patches::document)
                .first(connection)
                .optional()?;
            let document = document.ok_or(StoreError::NoPatch { id })?;
            let row = (
                versions::patch_id.eq(id),
                versions::name.eq(clean_name(name)),
                versions::document.eq(document),
                versions::created_at.eq(now()),
            );
            Ok(diesel::insert_into(versions::table)
                .values(row)
                .returning(Version::as_returning())
                .get_result(connection)?)
        })
    }

    /// The versions of a patch, newest first.
    ///
    /// # Errors
    /// If there is no such patch.
    pub fn versions(&self, id: i32) -> Result<Vec<Version>, StoreError> {
        self.read(|connection| {
            let known: i64 = patches::table.find(id).count().get_result(connection)?;
            if known == 0 {
                return Err(StoreError::NoPatch { id });
            }
            Ok(versions::table
                .filter(versions::patch_id.eq(id))
                .order(versions::id.desc())
                .select(Version::as_select())
                .load(connection)?)
        })
    }

    /// One version of a patch.
    ///
    /// # Errors
    /// If there is none.
    pub fn version(&self, id: i32, version: i32) -> Result<Version, StoreError> {
        self.read(|connection| {
            let found = versions::table
                .find(version)
                .filter(versions::patch_id.eq(id))
                .select(Version::as_select())
                .first(connection)
                .optional()?;
            found.ok_or(StoreError::NoVersion { id: version })
        })
    }

    /// Gives a version another name.
    ///
    /// # Errors
    /// If there is none or it cannot be written.
    pub fn rename_version(&self, id: i32, version: i32, name: &str) -> Result<Version, StoreError> {
        self.write(|connection| {
            let of_patch = versions::table
                .find(version)
                .filter(versions::patch_id.eq(id));
            let changed = diesel::update(of_patch)
                .set(versions::name.eq(clean_name(name)))
                .returning(Version::as_returning())
                .get_result(connection)
                .optional()?;
            changed.ok_or(StoreError::NoVersion { id: version })
        })
    }

    /// Deletes a version for good. The recordings it plays stay: a step of undo may bring them back.
    ///
    /// # Errors
    /// If there is none or it cannot be written.
    pub fn delete_version(&self, id: i32, version: i32) -> Result<(), StoreError> {
        self.write(|connection| {
            let of_patch = versions::table
                .find(version)
                .filter(versions::patch_id.eq(id));
            match diesel::delete(of_patch).execute(connection)? {
                0 => Err(StoreError::NoVersion { id: version }),
                _ => Ok(()),
            }
        })
    }
}
