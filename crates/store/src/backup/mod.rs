//! Backups: before a migration and once a day of use, thinning out by day, week and month, in the data folder.

mod contents;
mod names;
mod thinning;

use std::fs::{File, Permissions};
use std::os::unix::fs::PermissionsExt;
use std::path::{Path, PathBuf};

use chrono::{DateTime, NaiveDateTime, Utc};
use diesel::prelude::*;
use diesel::sql_types::Text;

pub use self::contents::{BackedUp, contents, count_in, patch_in};
use self::names::{Kind, Named, WHEN};
use crate::error::StoreError;
use crate::faults::{integrity, look_over};
use crate::layout::{FILE, lock_file};
use crate::migrations::is_known;

/// Name of the folder of backups in the data folder.
pub(crate) const FOLDER: &str = "backups";
/// Most bytes of all backups together, where nobody says otherwise: 4 GB.
pub const MOST_BYTES: u64 = 4_000_000_000;
/// What folders of what was set aside are called, before when that was.
const ASIDE: &str = "set-aside-";

fn failed(path: &Path) -> impl Fn(std::io::Error) -> StoreError {
    move |e| match e.kind() {
        std::io::ErrorKind::StorageFull => StoreError::Full,
        _ => StoreError::Folder {
            path: path.into(),
            problem: e.to_string(),
        },
    }
}

/// The backups of a data folder, newest first, by name. What is called otherwise is none.
pub fn backups(data: &Path) -> Vec<String> {
    all(data).into_iter().map(|(named, _)| named.name).collect()
}

/// All backups with their sizes in bytes, newest first.
fn all(data: &Path) -> Vec<(Named, u64)> {
    let Ok(entries) = std::fs::read_dir(data.join(FOLDER)) else {
        return vec![];
    };
    let named = |entry: std::fs::DirEntry| {
        let bytes = entry.metadata().map_or(0, |data| data.len());
        Some((Named::read(&entry.file_name().into_string().ok()?)?, bytes))
    };
    let mut list: Vec<(Named, u64)> = entries.flatten().filter_map(named).collect();
    list.sort_by(|(a, _), (b, _)| b.at.cmp(&a.at).then(b.name.cmp(&a.name)));
    list
}

/// What was set aside when backups were put in place, newest first; each can be put in place again.
pub fn set_aside(data: &Path) -> Vec<String> {
    let Ok(entries) = std::fs::read_dir(data.join(FOLDER)) else {
        return vec![];
    };
    let names = entries
        .flatten()
        .map(|entry| entry.file_name().into_string());
    let mut names: Vec<String> = names
        .flatten()
        .filter(|name| name.starts_with(ASIDE) && data.join(FOLDER).join(name).join(FILE).exists())
        .collect();
    names.sort_unstable_by(|a, b| b.cmp(a));
    names
}

/// What a copy of the library was made for, or found to be.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum BackupKind {
    /// That of a day.
    Daily,
    /// Made before a newer version changed the library.
    BeforeUpdate,
    /// Of a library in which something was wrong.
    Faulty,
    /// What was the library until a backup was put in its place.
    SetAside,
}

/// A copy of the library that can be put in its place.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Backup {
    /// Its name.
    pub name: String,
    /// When it was made, in UTC; none if its name does not say.
    pub at: Option<DateTime<Utc>>,
    /// What for.
    pub kind: BackupKind,
    /// Its size.
    pub bytes: u64,
}

/// All backups and all that was set aside, newest first.
pub fn all_backups(data: &Path) -> Vec<Backup> {
    let kind = |kind: Kind| match kind {
        Kind::Daily => BackupKind::Daily,
        Kind::BeforeUpdate => BackupKind::BeforeUpdate,
        Kind::Faulty => BackupKind::Faulty,
    };
    let made = all(data).into_iter().map(|(named, bytes)| Backup {
        at: Some(named.at.and_utc()),
        kind: kind(named.kind),
        name: named.name,
        bytes,
    });
    let aside = set_aside(data).into_iter().map(|name| Backup {
        at: NaiveDateTime::parse_from_str(&name, &format!("{ASIDE}{WHEN}"))
            .ok()
            .map(|at| at.and_utc()),
        kind: BackupKind::SetAside,
        bytes: path_of(data, &name)
            .and_then(|path| path.metadata().ok())
            .map_or(0, |data| data.len()),
        name,
    });
    let mut list: Vec<Backup> = made.chain(aside).collect();
    list.sort_by(|a, b| b.at.cmp(&a.at).then(b.name.cmp(&a.name)));
    list
}

/// Where the database of a backup, or of what was set aside, lies; none if there is no such.
pub(crate) fn path_of(data: &Path, name: &str) -> Option<PathBuf> {
    let folder = data.join(FOLDER);
    if set_aside(data).iter().any(|known| known == name) {
        return Some(folder.join(name).join(FILE));
    }
    let is_known = all(data).iter().any(|(known, _)| known.name == name);
    is_known.then(|| folder.join(name))
}

/// That there is no such backup, with those there are.
pub(crate) fn no_backup(data: &Path, name: &str) -> StoreError {
    let present = all_backups(data).into_iter().map(|b| b.name);
    StoreError::NoBackup {
        name: zolvik_patch::plain::visible(name, 80),
        present: present.collect::<Vec<_>>().join(", "),
    }
}

/// Whether there is no backup of this day yet. Those of other days, later ones too, say nothing.
pub(crate) fn is_due(data: &Path, now: DateTime<Utc>) -> bool {
    let today = now.naive_utc().date();
    all(data).iter().all(|(named, _)| named.day() != today)
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
