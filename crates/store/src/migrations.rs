//! How the database came to be as it is, and whether that is known here.

use std::path::Path;

use diesel::migration::{Migration, MigrationSource};
use diesel::prelude::*;
use diesel::sqlite::Sqlite;
use diesel_migrations::{EmbeddedMigrations, MigrationHarness, embed_migrations};

use crate::error::StoreError;

pub(crate) const MIGRATIONS: EmbeddedMigrations = embed_migrations!("migrations");

/// The migration that gives rows their seals.
pub(crate) const FIRST_WITH_SEALS: &str = "0005";

#[derive(QueryableByName)]
struct Count {
    #[diesel(sql_type = diesel::sql_types::Integer)]
    count: i32,
}

/// Whether a database is a library of a version that is known; why not, if not.
pub(crate) fn is_known(connection: &mut SqliteConnection) -> Result<(), &'static str> {
    // asking for its migrations would make a table for them
    let tables = "SELECT count(*) AS count FROM sqlite_master WHERE type = 'table' AND name IN ('__diesel_schema_migrations', 'patches')";
    let found: Result<Count, _> = diesel::sql_query(tables).get_result(connection);
    if !found.is_ok_and(|tables| tables.count == 2) {
        return Err("it is no library");
    }
    refuse_newer(connection, Path::new("")).map_err(|_| "it was made by a newer version")
}

/// A database with migrations this version does not know is left alone.
pub(crate) fn refuse_newer(
    connection: &mut SqliteConnection,
    folder: &Path,
) -> Result<(), StoreError> {
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
