//! Backups: before a migration and once a day of use, the last five, in the data folder.

use std::fs::{File, Permissions};
use std::os::unix::fs::PermissionsExt;
use std::path::{Path, PathBuf};

use diesel::prelude::*;
use diesel::sql_types::Text;

use crate::error::StoreError;
use crate::layout::{FILE, lock_file};

/// Name of the folder of backups in the data folder.
pub(crate) const FOLDER: &str = "backups";
/// How many are kept.
const KEPT: usize = 5;
const PREFIX: &str = "zolvik-";
const ENDING: &str = ".sqlite";

fn failed(path: &Path) -> impl Fn(std::io::Error) -> StoreError {
    move |e| match e.kind() {
        std::io::ErrorKind::StorageFull => StoreError::Full,
        _ => StoreError::Folder {
            path: path.into(),
            problem: e.to_string(),
        },
    }
}

/// The backups of a data folder, newest first, by name.
pub fn backups(data: &Path) -> Vec<String> {
    let Ok(entries) = std::fs::read_dir(data.join(FOLDER)) else {
        return vec![];
    };
    let mut names: Vec<String> = entries
        .flatten()
        .filter_map(|entry| entry.file_name().into_string().ok())
        .filter(|name| name.starts_with(PREFIX) && name.ends_with(ENDING))
        .collect();
    names.sort_unstable_by(|a, b| b.cmp(a));
    names
}

/// Whether there is no backup of today yet.
pub(crate) fn is_due(data: &Path) -> bool {
    let today = format!("{PREFIX}{}", chrono::Utc::now().format("%Y%m%d"));
    backups(data).first().is_none_or(|newest| **newest < *today)
}

/// Makes a backup and drops those beyond the last five. It gets its name only when it is whole.
pub(crate) fn make(connection: &mut SqliteConnection, data: &Path) -> Result<String, StoreError> {
    let folder = data.join(FOLDER);
    std::fs::create_dir_all(&folder).map_err(failed(&folder))?;
    std::fs::set_permissions(&folder, Permissions::from_mode(0o700)).map_err(failed(&folder))?;
    let now = chrono::Utc::now().format("%Y%m%d-%H%M%S%.3f");
    let name = format!("{PREFIX}{now}{ENDING}");
    let unfinished = folder.join(".unfinished");
    copy_into(connection, &unfinished)?;
    std::fs::rename(&unfinished, folder.join(&name)).map_err(failed(&folder))?;
    for old in backups(data).iter().skip(KEPT) {
        // one too many does no harm
        let _ = std::fs::remove_file(folder.join(old));
    }
    Ok(name)
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

/// Puts a backup in place of the present database, which is set aside beside the backups. Gives the name of what was set aside.
///
/// # Errors
/// If the library is in use, there is no such backup, or it is damaged; the present database then stays.
pub fn restore(data: &Path, name: &str) -> Result<String, StoreError> {
    let present = backups(data);
    if !present.iter().any(|n| n == name) {
        return Err(StoreError::NoBackup {
            name: name.into(),
            present: present.join(", "),
        });
    }
    let lock = lock_file(data)?;
    lock.try_lock()
        .map_err(|_| StoreError::InUse { path: data.into() })?;
    let folder = data.join(FOLDER);
    let source = folder.join(name);
    let mut backup = SqliteConnection::establish(&source.to_string_lossy())
        .map_err(|e| StoreError::Damaged(e.to_string()))?;
    let faults = integrity(&mut backup)?;
    if !faults.is_empty() {
        return Err(StoreError::Damaged(faults.join("; ")));
    }
    let whole = data.join(format!("{FILE}.restored"));
    copy_into(&mut backup, &whole)?;
    // the log belongs to the file it was written for, so both go, and before the other comes
    let aside = format!(
        "set-aside-{}",
        chrono::Utc::now().format("%Y%m%d-%H%M%S%.3f")
    );
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

#[derive(QueryableByName)]
struct Line {
    #[diesel(sql_type = Text)]
    line: String,
}

/// What SQLite finds wrong with a database.
pub(crate) fn integrity(connection: &mut SqliteConnection) -> Result<Vec<String>, StoreError> {
    let query = "SELECT integrity_check AS line FROM pragma_integrity_check";
    let lines: Vec<Line> = diesel::sql_query(query).load(connection)?;
    Ok(lines
        .into_iter()
        .map(|l| l.line)
        .filter(|l| l != "ok")
        .collect())
}
