//! Opening the file, bringing it up to date, and the connections: one that writes, several that read.

use std::fs::{File, Permissions};
use std::os::unix::fs::{MetadataExt, PermissionsExt};
use std::path::{Path, PathBuf};
use std::time::Duration;

use diesel::connection::SimpleConnection;
use diesel::prelude::*;
use diesel::r2d2::{ConnectionManager, CustomizeConnection, Pool};
use diesel_migrations::MigrationHarness;

use crate::backup;
use crate::error::StoreError;
use crate::layout::{FILE, LOCK, lock_file, own_file, unusable};
use crate::migrations::{MIGRATIONS, refuse_newer};

/// Connections that read at the same time.
const READERS: u32 = 4;
/// How long a reader is waited for.
const READER_PATIENCE: Duration = Duration::from_secs(10);

/// Connections that only read. Writers elsewhere never keep them waiting: the log is written ahead.
pub(crate) type Readers = Pool<ConnectionManager<SqliteConnection>>;

#[derive(Debug)]
struct OnlyReads;

impl CustomizeConnection<SqliteConnection, diesel::r2d2::Error> for OnlyReads {
    fn on_acquire(&self, connection: &mut SqliteConnection) -> Result<(), diesel::r2d2::Error> {
        let pragmas = "PRAGMA busy_timeout = 1000; PRAGMA query_only = ON;";
        connection
            .batch_execute(pragmas)
            .map_err(diesel::r2d2::Error::QueryError)
    }
}

/// Where a database lies, and which file that was when it was opened.
#[derive(Debug)]
pub(crate) struct Place {
    pub(crate) folder: PathBuf,
    /// Device and number of the file.
    identity: (u64, u64),
    /// Tells other processes that the library is in use.
    _lock: File,
}

impl Place {
    /// Fails if the database's file is no longer the one that was opened: what is written now would be lost with it.
    pub(crate) fn check(&self) -> Result<(), StoreError> {
        match identity(&self.folder.join(FILE)) {
            Ok(now) if now == self.identity => Ok(()),
            _ => Err(StoreError::Gone {
                path: self.folder.clone(),
            }),
        }
    }

    /// A connection that writes.
    pub(crate) fn writer(&self) -> Result<SqliteConnection, StoreError> {
        self.check()?;
        let mut connection = establish(&self.folder)?;
        connection.batch_execute("PRAGMA foreign_keys = ON;")?;
        Ok(connection)
    }

    /// Connections that read; made as they are needed.
    pub(crate) fn readers(&self) -> Result<Readers, StoreError> {
        let manager = ConnectionManager::new(self.folder.join(FILE).to_string_lossy());
        Ok(Pool::builder()
            .max_size(READERS)
            .min_idle(Some(1))
            .connection_timeout(READER_PATIENCE)
            .test_on_check_out(false)
            .connection_customizer(Box::new(OnlyReads))
            .build(manager)?)
    }
}

fn identity(file: &Path) -> std::io::Result<(u64, u64)> {
    let data = file.metadata()?;
    Ok((data.dev(), data.ino()))
}

/// Opens or makes the database of a data folder and brings it up to date; a backup is made before it is changed.
pub(crate) fn open(folder: &Path) -> Result<Place, StoreError> {
    prepare_folder(folder)?;
    let lock = lock_file(folder)?;
    lock.try_lock_shared().map_err(|_| StoreError::InUse {
        path: folder.into(),
    })?;
    let failed = |problem: String| StoreError::Open {
        path: folder.into(),
        problem,
    };
    let mut connection = establish(folder)?;
    refuse_newer(&mut connection, folder)?;
    let pending = connection
        .has_pending_migration(MIGRATIONS)
        .map_err(|e| failed(e.to_string()))?;
    if pending {
        if !connection
            .applied_migrations()
            .map_err(|e| failed(e.to_string()))?
            .is_empty()
        {
            let how = (chrono::Utc::now(), backup::MOST_BYTES);
            backup::make(&mut connection, folder, backup::Why::Update, how)?;
        }
        // a table that is made anew must not take with it what refers to it; the bundled SQLite has them on by itself
        connection
            .batch_execute("PRAGMA foreign_keys = OFF;")
            .map_err(|e| failed(e.to_string()))?;
        connection
            .run_pending_migrations(MIGRATIONS)
            .map_err(|e| failed(e.to_string()))?;
    }
    let identity = identity(&folder.join(FILE)).map_err(|e| failed(e.to_string()))?;
    Ok(Place {
        folder: folder.into(),
        identity,
        _lock: lock,
    })
}

/// Makes the folder and the database's file if they are not there, for the user alone. Folders that hold other things too are
/// left as they are.
fn prepare_folder(folder: &Path) -> Result<(), StoreError> {
    let failed = |e: std::io::Error| unusable(folder, &e);
    std::fs::create_dir_all(folder).map_err(failed)?;
    // SQLite's own message for a read-only folder does not say which folder
    let probe = folder.join(".writable");
    std::fs::write(&probe, [])
        .and_then(|()| std::fs::remove_file(&probe))
        .map_err(failed)?;
    let entries = std::fs::read_dir(folder).map_err(failed)?;
    let ours =
        |name: &str| name.starts_with(FILE) || [LOCK, backup::FOLDER, "cache"].contains(&name);
    if entries
        .flatten()
        .all(|e| ours(&e.file_name().to_string_lossy()))
    {
        // a folder of somebody else keeps its rights; the files in it are closed all the same
        let _ = std::fs::set_permissions(folder, Permissions::from_mode(0o700));
    }
    own_file(&folder.join(FILE)).map_err(failed)?;
    for beside in ["", "-wal", "-shm"] {
        let path = folder.join(format!("{FILE}{beside}"));
        if path.exists() {
            std::fs::set_permissions(&path, Permissions::from_mode(0o600)).map_err(failed)?;
        }
    }
    Ok(())
}

fn establish(folder: &Path) -> Result<SqliteConnection, StoreError> {
    let failed = |problem: String| StoreError::Open {
        path: folder.into(),
        problem,
    };
    let file = folder.join(FILE);
    let mut connection =
        SqliteConnection::establish(&file.to_string_lossy()).map_err(|e| failed(e.to_string()))?;
    // WAL: readers and the writer do not wait for each other. FULL: a commit is on disk before it is
    // acknowledged, so not even a power cut loses it. busy_timeout: a second process waits instead of failing.
    let pragmas =
        "PRAGMA busy_timeout = 5000; PRAGMA journal_mode = WAL; PRAGMA synchronous = FULL;";
    connection
        .batch_execute(pragmas)
        .map_err(|e| failed(e.to_string()))?;
    Ok(connection)
}
