//! Which backups there are.

use std::path::{Path, PathBuf};

use chrono::{DateTime, NaiveDateTime, Utc};

use super::names::{Kind, Named, WHEN};
use crate::error::StoreError;
use crate::layout::FILE;

/// Name of the folder of backups in the data folder.
pub(crate) const FOLDER: &str = "backups";
/// What folders of what was set aside are called, before when that was.
pub(super) const ASIDE: &str = "set-aside-";

/// The backups of a data folder, newest first, by name. What is called otherwise is none.
pub fn backups(data: &Path) -> Vec<String> {
    all(data).into_iter().map(|(named, _)| named.name).collect()
}

/// All backups with their sizes in bytes, newest first.
pub(super) fn all(data: &Path) -> Vec<(Named, u64)> {
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
pub(super) fn path_of(data: &Path, name: &str) -> Option<PathBuf> {
    let folder = data.join(FOLDER);
    if set_aside(data).iter().any(|known| known == name) {
        return Some(folder.join(name).join(FILE));
    }
    let is_known = all(data).iter().any(|(known, _)| known.name == name);
    is_known.then(|| folder.join(name))
}

/// That there is no such backup, with those there are.
pub(super) fn no_backup(data: &Path, name: &str) -> StoreError {
    let present = all_backups(data).into_iter().map(|b| b.name);
    StoreError::NoBackup {
        name: zolvik_json::outside::visible(name, 80),
        present: present.collect::<Vec<_>>().join(", "),
    }
}

/// Whether there is no backup of this day yet. Those of other days, later ones too, say nothing.
pub(crate) fn is_due(data: &Path, now: DateTime<Utc>) -> bool {
    let today = now.naive_utc().date();
    all(data).iter().all(|(named, _)| named.day() != today)
}
