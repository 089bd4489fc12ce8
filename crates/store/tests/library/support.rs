use chrono::{DateTime, Utc};
use diesel::prelude::*;
use zolvik_patch::Patch;
use zolvik_store::{MOST_BYTES, Store};

pub fn named(name: &str) -> Patch {
    let mut patch = Patch::empty();
    patch.meta.name = name.into();
    patch
}

pub fn create(store: &Store, patch: &Patch) -> i32 {
    store.create(patch).unwrap().summary.id
}

pub fn names(store: &Store, binned: bool) -> Vec<String> {
    let listed = store.list(binned, 0, 1000).unwrap();
    assert_eq!(listed.total, listed.patches.len());
    listed.patches.into_iter().map(|p| p.name).collect()
}

/// The database as another program sees it.
pub fn raw(folder: &std::path::Path) -> diesel::SqliteConnection {
    let file = folder.join("zolvik.sqlite");
    diesel::SqliteConnection::establish(&file.to_string_lossy()).unwrap()
}

pub fn run(connection: &mut diesel::SqliteConnection, sql: &str) -> usize {
    diesel::sql_query(sql).execute(connection).unwrap()
}

pub fn content_of(wav: &[u8]) -> String {
    use sha2::{Digest, Sha256};
    let digest = Sha256::digest(wav);
    digest.iter().map(|b| format!("{b:02x}")).collect()
}

pub fn store() -> (tempfile::TempDir, Store) {
    let folder = tempfile::tempdir().unwrap();
    let store = Store::open(folder.path()).unwrap();
    (folder, store)
}

pub fn day(day: i64) -> DateTime<Utc> {
    let first: DateTime<Utc> = "2026-03-01T10:00:00Z".parse().unwrap();
    first + chrono::TimeDelta::days(day)
}

/// Makes the backup of a day; gives its name if there was none yet.
pub fn back_up(store: &Store, of: i64) -> Option<String> {
    store.backup_if_due(day(of), MOST_BYTES).unwrap()
}
