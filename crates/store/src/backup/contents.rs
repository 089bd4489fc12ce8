//! What is in a backup, without putting it in place.

use std::path::Path;

use diesel::connection::SimpleConnection;
use diesel::prelude::*;
use diesel::sql_types::{BigInt, Binary, Nullable};
use zolvik_patch::{Patch, json};

use super::listing::{no_backup, path_of};
use crate::error::StoreError;
use crate::migrations::is_known;
use crate::recording::Recording;
use crate::sealed::sha256;

/// A patch in a backup.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct BackedUp {
    /// Its number, the same as in the library.
    pub id: i32,
    /// Its name then.
    pub name: String,
    /// When it was last saved before, RFC 3339 in UTC.
    pub changed_at: String,
    /// SHA-256 of its document.
    pub content: String,
    /// Whether its document can be read.
    pub is_readable: bool,
}

#[derive(QueryableByName)]
struct Found {
    #[diesel(sql_type = BigInt)]
    id: i64,
    #[diesel(sql_type = Nullable<Binary>)]
    name: Option<Vec<u8>>,
    #[diesel(sql_type = Nullable<Binary>)]
    changed_at: Option<Vec<u8>>,
    #[diesel(sql_type = Nullable<Binary>)]
    document: Option<Vec<u8>>,
}

const COLUMNS: &str = "id, CAST(name AS BLOB) AS name, CAST(changed_at AS BLOB) AS changed_at, CAST(document AS BLOB) AS document FROM patches";

impl Found {
    fn text(bytes: Option<&Vec<u8>>) -> String {
        String::from_utf8_lossy(bytes.map_or(&[][..], |b| b)).into_owned()
    }

    fn backed_up(self) -> BackedUp {
        let document = self.document.unwrap_or_default();
        let changed_at = Found::text(self.changed_at.as_ref());
        let is_moment = chrono::DateTime::parse_from_rfc3339(&changed_at).is_ok();
        BackedUp {
            id: self.id.try_into().unwrap_or_default(),
            name: Found::text(self.name.as_ref()),
            changed_at: if is_moment { changed_at } else { String::new() },
            content: sha256(&document),
            is_readable: json::read_bytes(&document).is_ok(),
        }
    }
}

/// Opens the database of a backup to look into it, of whichever version it is.
fn open(data: &Path, name: &str) -> Result<SqliteConnection, StoreError> {
    let path = path_of(data, name).ok_or_else(|| no_backup(data, name))?;
    let no_library = |problem: String| StoreError::NoLibrary {
        name: name.into(),
        problem,
    };
    let mut backup = SqliteConnection::establish(&path.to_string_lossy())
        .map_err(|e| no_library(e.to_string()))?;
    backup
        .batch_execute("PRAGMA query_only = ON;")
        .map_err(|e| no_library(e.to_string()))?;
    is_known(&mut backup).map_err(|problem| no_library(problem.into()))?;
    Ok(backup)
}

/// What is in a backup, or in what was set aside: its patches, those in the bin too, by name.
///
/// # Errors
/// If there is no such, or it cannot be read.
pub fn contents(data: &Path, name: &str) -> Result<Vec<BackedUp>, StoreError> {
    let mut backup = open(data, name)?;
    let question = format!("SELECT {COLUMNS} ORDER BY patches.name, id");
    let found: Vec<Found> = diesel::sql_query(question).load(&mut backup)?;
    Ok(found.into_iter().map(Found::backed_up).collect())
}

#[derive(QueryableByName)]
struct Count {
    #[diesel(sql_type = BigInt)]
    count: i64,
}

/// How many patches are in a backup, those in its bin too.
///
/// # Errors
/// As [`contents`].
pub fn count_in(data: &Path, name: &str) -> Result<usize, StoreError> {
    let mut backup = open(data, name)?;
    let question = "SELECT count(*) AS count FROM patches";
    let found: Count = diesel::sql_query(question).get_result(&mut backup)?;
    Ok(found.count.try_into().unwrap_or_default())
}

#[derive(QueryableByName)]
struct Sound {
    #[diesel(sql_type = Nullable<Binary>)]
    wav: Option<Vec<u8>>,
}

/// One patch of a backup, with those of its recordings that are there.
///
/// # Errors
/// If there is none, or it cannot be read.
pub fn patch_in(data: &Path, name: &str, id: i32) -> Result<(Patch, Vec<Recording>), StoreError> {
    let mut backup = open(data, name)?;
    let question = format!("SELECT {COLUMNS} WHERE id = {id}");
    let found: Option<Found> = diesel::sql_query(question)
        .get_result(&mut backup)
        .optional()?;
    let document = found.ok_or(StoreError::NoPatch { id })?.document;
    let patch = json::read_bytes(&document.unwrap_or_default())?;
    let mut recordings = vec![];
    for sound in patch.own_sounds() {
        // hexadecimal digits, as documents are checked for
        let question = format!(
            "SELECT wav FROM recordings WHERE content = '{}'",
            sound.content
        );
        let wav: Result<Sound, _> = diesel::sql_query(question).get_result(&mut backup);
        let wav = wav.ok().and_then(|found| found.wav).unwrap_or_default();
        if sha256(&wav) == sound.content {
            recordings.push(Recording { sound, wav });
        }
    }
    Ok((patch, recordings))
}
