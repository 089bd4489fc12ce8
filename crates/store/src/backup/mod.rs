//! Backups: before a migration and once a day of use, thinning out by day, week and month, in the data folder.

mod contents;
mod listing;
mod names;
mod thinning;

use std::fs::{File, Permissions};
use std::os::unix::fs::PermissionsExt;
use std::path::{Path, PathBuf};

use chrono::{DateTime, Utc};
use diesel::prelude::*;
use diesel::sql_types::Text;

pub use self::contents::{BackedUp, contents, count_in, patch_in};
use self::listing::{ASIDE, all, no_backup, path_of};
pub use self::listing::{Backup, BackupKind, all_backups, backups, set_aside};
pub(crate) use self::listing::{FOLDER, is_due};
use self::names::{Kind, Named, WHEN};
use crate::error::StoreError;
use crate::faults::{integrity, look_over};
use crate::layout::{FILE, lock_file};
use crate::migrations::is_known;

/// Most bytes of all backups together, where nobody says otherwise: 4 GB.
pub const MOST_BYTES: u64 = 4_000_000_000;
fn failed(path: &Path) -> impl Fn(std::io::Error) -> StoreError {
    move |e| match e.kind() {
        std::io::ErrorKind::StorageFull => StoreError::Full,
        _ => StoreError::Folder {
            path: path.into(),
            problem: e.to_string(),
        },
    }
}

/// Why a backup is made.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Why {
    /// It is another day.
    Day,
    /// A newer version is about to change the library.
    Update,
}

/// Makes a backup, looks it over, and drops those that are too many. It gets its name only when it is whole.
pub(crate) fn make(
    connection: &mut SqliteConnection,
    data: &Path,
    why: Why,
    (now, most_bytes): (DateTime<Utc>, u64),
) -> Result<String, StoreError> {
    let folder = data.join(FOLDER);
    std::fs::create_dir_all(&folder).map_err(failed(&folder))?;
    std::fs::set_permissions(&folder, Permissions::from_mode(0o700)).map_err(failed(&folder))?;
    let unfinished = folder.join(".unfinished");
    copy_into(connection, &unfinished)?;
    let kind = match why {
        Why::Update => Kind::BeforeUpdate,
        Why::Day if is_whole(&unfinished) => Kind::Daily,
        Why::Day => Kind::Faulty,
    };
    let made = Named::new(now.naive_utc(), kind);
    std::fs::rename(&unfinished, folder.join(&made.name)).map_err(failed(&folder))?;
    for old in thinning::surplus(&all(data), &made.name, most_bytes) {
        // one too many does no harm
        let _ = std::fs::remove_file(folder.join(old));
    }
    Ok(made.name)
}

/// Whether nothing is wrong in a copy: not in its file, and not in a document or recording of it.
fn is_whole(file: &Path) -> bool {
    let copy = SqliteConnection::establish(&file.to_string_lossy());
    copy.is_ok_and(|mut copy| look_over(&mut copy).is_ok_and(|report| report.faults.is_empty()))
}

/// Copies a database into a new file, as it is at one moment, while others go on writing.
fn copy_into(connection: &mut SqliteConnection, target: &Path) -> Result<(), StoreError> {
    let _ = std::fs::remove_file(target);
    // VACUUM INTO is SQLite's way to a compact copy from within a read transaction
    diesel::sql_query("VACUUM INTO ?")
        .bind::<Text, _>(target.to_string_lossy())
        .execute(connection)?;
    std::fs::set_permissions(target, Permissions::from_mode(0o600)).map_err(failed(target))?;
    File::open(target)
        .and_then(|file| file.sync_all())
        .map_err(failed(target))
}

/// Puts a backup, or what was set aside, in place of the present database, which is set aside beside the backups. Gives the name of what was
/// set aside.
///
/// # Errors
/// If the library is in use, there is no such backup, or it is no whole library of a version that is known; the present database then stays, and
/// nothing is left behind.
pub fn restore(data: &Path, name: &str, now: DateTime<Utc>) -> Result<String, StoreError> {
    let folder = data.join(FOLDER);
    let source = path_of(data, name).ok_or_else(|| no_backup(data, name))?;
    let lock = lock_file(data)?;
    lock.try_lock()
        .map_err(|_| StoreError::InUse { path: data.into() })?;
    let no_library = |problem: String| StoreError::NoLibrary {
        name: name.into(),
        problem,
    };
    let mut backup = SqliteConnection::establish(&source.to_string_lossy())
        .map_err(|e| no_library(e.to_string()))?;
    is_known(&mut backup).map_err(|problem| no_library(problem.into()))?;
    let faults = integrity(&mut backup).map_err(|e| no_library(e.to_string()))?;
    if !faults.is_empty() {
        return Err(no_library(faults.join("; ")));
    }
    let whole = data.join(format!("{FILE}.restored"));
    copy_into(&mut backup, &whole).inspect_err(|_| drop(std::fs::remove_file(&whole)))?;
    // the log belongs to the file it was written for, so both go, and before the other comes
    let aside = format!("{ASIDE}{}", now.format(WHEN));
    std::fs::create_dir_all(folder.join(&aside)).map_err(failed(&folder))?;
    for beside in ["", "-wal", "-shm"] {
        let file = format!("{FILE}{beside}");
        let from: PathBuf = data.join(&file);
        if from.exists() {
            std::fs::rename(&from, folder.join(&aside).join(&file)).map_err(failed(&from))?;
        }
    }
    std::fs::rename(&whole, data.join(FILE)).map_err(failed(&whole))?;
    Ok(aside)
}
