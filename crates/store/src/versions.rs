//! Named versions of patches, kept for good.

use diesel::prelude::*;
use zolvik_patch::plain::clean_name;

use crate::error::StoreError;
use crate::patches::entry_of;
use crate::schema::{patches, versions};
use crate::sealed::{Row, VERSIONS};
use crate::store::{Store, now};

/// A named version of a patch, kept for good.
#[derive(Debug, Clone, PartialEq, Eq)]
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
    /// What is wrong with it; none if it is as it was kept.
    pub damage: Option<String>,
}

impl From<&Row> for Version {
    fn from(row: &Row) -> Self {
        Version {
            id: row.number(0),
            patch_id: row.number(1),
            name: row.text(2),
            created_at: row.moment(3),
            document: row.text(4),
            damage: (!row.is_whole).then(|| CHANGED.into()),
        }
    }
}

fn one_of(connection: &mut SqliteConnection, id: i32, version: i32) -> Result<Version, StoreError> {
    let which = format!("WHERE id = {version} AND patch_id = {id}");
    let rows = VERSIONS.rows(connection, &which, &[])?;
    let found = rows.first().map(Version::from);
    found.ok_or(StoreError::NoVersion { id: version })
}

/// What is said of a version that is not as it was kept.
const CHANGED: &str =
    "it was changed on the disk or by another program; take the patch from a backup";

impl Store {
    /// Keeps the present state of a patch under a name, for good.
    ///
    /// # Errors
    /// If there is no such patch, it is damaged, or it cannot be written.
    pub fn keep_version(&self, id: i32, name: &str) -> Result<Version, StoreError> {
        self.write(|connection| {
            let entry = entry_of(connection, id)?;
            if let Some(problem) = entry.summary.damage {
                return Err(StoreError::Unreadable { id, problem });
            }
            let row = (
                versions::patch_id.eq(id),
                versions::name.eq(clean_name(name)),
                versions::document.eq(entry.document),
                versions::created_at.eq(now()),
            );
            let version = diesel::insert_into(versions::table)
                .values(row)
                .returning(versions::id)
                .get_result(connection)?;
            VERSIONS.seal(connection, &format!("WHERE id = {version}"), &[])?;
            one_of(connection, id, version)
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
            let which = format!("WHERE patch_id = {id} ORDER BY id DESC");
            let rows = VERSIONS.rows(connection, &which, &[])?;
            Ok(rows.iter().map(Version::from).collect())
        })
    }

    /// One version of a patch that is as it was kept.
    ///
    /// # Errors
    /// If there is none, or it is damaged.
    pub fn version(&self, id: i32, version: i32) -> Result<Version, StoreError> {
        let found = self.read(|connection| one_of(connection, id, version))?;
        match found.damage {
            Some(problem) => Err(StoreError::FaultyVersion {
                id: version,
                problem,
            }),
            None => Ok(found),
        }
    }

    /// Gives a version another name.
    ///
    /// # Errors
    /// If there is none or it cannot be written.
    pub fn rename_version(&self, id: i32, version: i32, name: &str) -> Result<Version, StoreError> {
        self.write(|connection| {
            let was_whole = one_of(connection, id, version)?.damage.is_none();
            diesel::update(versions::table.find(version))
                .set(versions::name.eq(clean_name(name)))
                .execute(connection)?;
            if was_whole {
                VERSIONS.seal(connection, &format!("WHERE id = {version}"), &[])?;
            }
            one_of(connection, id, version)
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
