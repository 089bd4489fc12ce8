//! Opening the file, bringing it up to date, and the connections: one that writes, several that read.

use std::fs::{File, Metadata, Permissions};
use std::os::unix::fs::{FileExt, MetadataExt, PermissionsExt};
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Mutex, MutexGuard, PoisonError};
use std::time::{Duration, Instant};

use diesel::connection::SimpleConnection;
use diesel::prelude::*;
use diesel::r2d2::{ConnectionManager, CustomizeConnection, Pool};
use diesel_migrations::MigrationHarness;

use crate::backup;
use crate::error::StoreError;
use crate::layout::{FILE, LOCK, lock_file, own_file, unusable};
use crate::looked::look_at_all;
use crate::migrations::{FIRST_WITH_SEALS, MIGRATIONS, is_known, refuse_newer};
use crate::sealed::TABLES;

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
    /// Tells other processes that the library is in use, and how its file was left by whoever of them wrote last.
    lock: File,
    /// How this process left it, which holds where that cannot be told: on a full disk.
    left: Mutex<String>,
    /// Whether this process writes just now.
    writes: AtomicBool,
}

/// How long another process of ours may take from writing to the file until it says so.
const SAYS_SO: Duration = Duration::from_secs(2);

impl Place {
    /// Fails if the database's file is no longer the one that was opened, or somebody else wrote over it: what is written now would be lost with it.
    pub(crate) fn check(&self) -> Result<(), StoreError> {
        let data = self.folder.join(FILE).metadata();
        match data.is_ok_and(|data| identity(&data) == self.identity) {
            true => self.check_over(),
            false => Err(self.gone()),
        }
    }

    fn gone(&self) -> StoreError {
        StoreError::Gone {
            path: self.folder.clone(),
        }
    }

    /// Fails if somebody else wrote over the file: what is read of it now would be half of the one and half of the other. One that was moved is read
    /// as it is.
    pub(crate) fn check_over(&self) -> Result<(), StoreError> {
        let began = Instant::now();
        loop {
            if self.writes.load(Ordering::Acquire) {
                return Ok(());
            }
            let data = self.folder.join(FILE).metadata();
            let Some(data) = data.ok().filter(|data| identity(data) == self.identity) else {
                return Ok(());
            };
            let now = state(&data);
            if *self.left() == now || said(&self.lock).is_none_or(|said| said == now) {
                return Ok(());
            }
            if began.elapsed() > SAYS_SO {
                return Err(self.gone());
            }
            std::thread::sleep(Duration::from_millis(20));
        }
    }

    fn left(&self) -> MutexGuard<'_, String> {
        self.left.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// From now on until [`Place::say_written`] the file changes by this process.
    pub(crate) fn begins_to_write(&self) {
        self.writes.store(true, Ordering::Release);
    }

    /// Says how the file was left, so that it is seen whether somebody else writes over it.
    pub(crate) fn say_written(&self) {
        if let Ok(data) = self.folder.join(FILE).metadata() {
            let now = state(&data);
            if said(&self.lock).as_ref() != Some(&now) {
                // on a full disk it cannot be said to others
                let _ = say(&self.lock, &now);
            }
            *self.left() = now;
        }
        self.writes.store(false, Ordering::Release);
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

fn identity(data: &Metadata) -> (u64, u64) {
    (data.dev(), data.ino())
}

/// How a file lies there: when it was written to last, and how long it is.
fn state(data: &Metadata) -> String {
    format!("{}.{:09} {}", data.mtime(), data.mtime_nsec(), data.len())
}

/// Most bytes of what is said.
const SAID_BYTES: usize = 128;

/// What was said last. By places in the file, not by its cursor, which several threads share.
fn said(lock: &File) -> Option<String> {
    let mut bytes = [0; SAID_BYTES];
    let length = lock.read_at(&mut bytes, 0).ok()?;
    let text = std::str::from_utf8(&bytes[..length]).ok()?;
    (!text.is_empty()).then(|| text.to_owned())
}

fn say(lock: &File, text: &str) -> std::io::Result<()> {
    lock.write_all_at(text.as_bytes(), 0)?;
    lock.set_len(text.len() as u64)
}

/// Opens or makes the database of a data folder and brings it up to date; a backup is made before it is changed.
pub(crate) fn open(folder: &Path) -> Result<Place, StoreError> {
    prepare_folder(folder)?;
    let lock = lock_file(folder)?;
    let in_use = || StoreError::InUse {
        path: folder.into(),
    };
    let is_alone = lock.try_lock().is_ok();
    if !is_alone {
        lock.try_lock_shared().map_err(|_| in_use())?;
    }
    bring_up_to_date(folder)?;
    let data = folder.join(FILE).metadata();
    let data = data.map_err(|e| unusable(folder, &e))?;
    let place = Place {
        folder: folder.into(),
        identity: identity(&data),
        lock,
        left: Mutex::default(),
        writes: AtomicBool::new(false),
    };
    if is_alone {
        place.say_written();
        place.lock.lock_shared().map_err(|_| in_use())?;
    }
    Ok(place)
}

fn bring_up_to_date(folder: &Path) -> Result<(), StoreError> {
    let failed = |problem: String| cannot_open(folder, problem);
    let mut connection = establish(folder)?;
    refuse_newer(&mut connection, folder)?;
    let applied = connection
        .applied_migrations()
        .map_err(|e| failed(e.to_string()))?;
    let pending = connection
        .has_pending_migration(MIGRATIONS)
        .map_err(|e| failed(e.to_string()))?;
    if !pending {
        return Ok(());
    }
    if !applied.is_empty() {
        let how = (chrono::Utc::now(), backup::MOST_BYTES);
        backup::make(&mut connection, folder, backup::Why::Update, how)?;
    }
    let had_seals = applied.iter().any(|v| v.to_string() == FIRST_WITH_SEALS);
    // a table that is made anew must not take with it what refers to it; the bundled SQLite has them on by itself
    connection
        .batch_execute("PRAGMA foreign_keys = OFF;")
        .map_err(|e| failed(e.to_string()))?;
    // all or nothing: a row without its seal would be taken for a damaged one
    connection.transaction(|connection| {
        connection
            .run_pending_migrations(MIGRATIONS)
            .map_err(|e| failed(e.to_string()))?;
        if !had_seals {
            look_at_all(connection)?;
            for table in TABLES {
                table.seal_all(connection)?;
            }
        }
        Ok(())
    })
}

/// A failure to open, or that there is no room for it.
fn cannot_open(folder: &Path, problem: String) -> StoreError {
    match problem.contains("disk is full") {
        true => StoreError::Full,
        false => StoreError::Open {
            path: folder.into(),
            problem,
        },
    }
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
    let failed = |problem: String| cannot_open(folder, problem);
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

/// Opens a database that is there to look at it, without changing anything.
pub(crate) fn look_at(folder: &Path) -> Result<SqliteConnection, StoreError> {
    let file = folder.join(FILE);
    if !file.is_file() {
        return Err(StoreError::NoDatabase {
            path: folder.into(),
        });
    }
    let failed = |problem: String| cannot_open(folder, problem);
    let mut connection =
        SqliteConnection::establish(&file.to_string_lossy()).map_err(|e| failed(e.to_string()))?;
    connection
        .batch_execute("PRAGMA busy_timeout = 5000; PRAGMA query_only = ON;")
        .map_err(|e| failed(e.to_string()))?;
    is_known(&mut connection).map_err(|problem| failed(problem.into()))?;
    Ok(connection)
}
