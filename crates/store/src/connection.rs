//! Opening the file and bringing it up to date.

use std::path::Path;

use diesel::connection::SimpleConnection;
use diesel::migration::{Migration, MigrationSource};
use diesel::prelude::*;
use diesel::sqlite::Sqlite;
use diesel_migrations::{EmbeddedMigrations, MigrationHarness, embed_migrations};

use crate::error::StoreError;

const MIGRATIONS: EmbeddedMigrations = embed_migrations!("migrations");
/// Name of the database in the data folder.
const FILE: &str = "zolvik.sqlite";

/// Opens or makes the database of a data folder.
pub(crate) fn open(folder: &Path) -> Result<SqliteConnection, StoreError> {
    let unusable = |e: std::io::Error| StoreError::Folder {
        path: folder.into(),
        problem: e.to_string(),
    };
    std::fs::create_dir_all(folder).map_err(unusable)?;
    // SQLite's own message for a read-only folder does not say which folder
    let probe = folder.join(".writable");
    std::fs::write(&probe, [])
        .and_then(|()| std::fs::remove_file(&probe))
        .map_err(unusable)?;
    let failed = |problem: String| StoreError::Open {
        path: folder.into(),
        problem,
    };
    let file = folder.join(FILE);
    let mut connection =
        SqliteConnection::establish(&file.to_string_lossy()).map_err(|e| failed(e.to_string()))?;
    // WAL: readers and the writer do not wait for each other. FULL: a commit is on disk before it is
    // acknowledged, so not even a power cut loses it. busy_timeout: a second process waits instead of failing.
    let pragmas = "PRAGMA journal_mode = WAL; PRAGMA synchronous = FULL; PRAGMA foreign_keys = ON; PRAGMA busy_timeout = 5000;";
    connection
        .batch_execute(pragmas)
        .map_err(|e| failed(e.to_string()))?;
    refuse_newer(&mut connection, folder)?;
    connection
        .run_pending_migrations(MIGRATIONS)
        .map_err(|e| failed(e.to_string()))?;
    Ok(connection)
}

/// A database with migrations this version does not know is left alone.
fn refuse_newer(connection: &mut SqliteConnection, folder: &Path) -> Result<(), StoreError> {
    let failed = |problem: String| StoreError::Open {
        path: folder.into(),
        problem,
    };
    let known: Vec<Box<dyn Migration<Sqlite>>> =
        MIGRATIONS.migrations().map_err(|e| failed(e.to_string()))?;
    let known: Vec<String> = known
        .iter()
        .map(|m| m.name().version().to_string())
        .collect();
    let applied = connection
        .applied_migrations()
        .map_err(|e| failed(e.to_string()))?;
    if applied
        .iter()
        .all(|version| known.contains(&version.to_string()))
    {
        Ok(())
    } else {
        Err(StoreError::Newer {
            path: folder.into(),
        })
    }
}
