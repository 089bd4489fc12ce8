//! An open library: who reads, who writes, and how a write comes to be on disk.

use std::collections::HashMap;
use std::path::Path;
use std::sync::{Mutex, PoisonError};

use chrono::{DateTime, Utc};
use diesel::connection::SimpleConnection;
use diesel::prelude::*;

use crate::backup;
use crate::connection::{self, Place, Readers};
use crate::error::StoreError;
use crate::sealed::LIBRARY;

/// An open database. Calls may come from several threads: readers go side by side, writers one after the other.
pub struct Store {
    place: Place,
    library: String,
    readers: Readers,
    /// None after a fault, until the next write opens it anew.
    writer: Mutex<Option<SqliteConnection>>,
    /// Documents that were found to be what their hashes say: patch and hash.
    pub(crate) verified: Mutex<HashMap<i32, String>>,
}

impl Store {
    /// Opens the database of a data folder, making both if needed. A backup is made before an older database is changed, and
    /// once a day.
    ///
    /// # Errors
    /// If the folder cannot be written or the database is from a newer version.
    pub fn open(folder: &Path) -> Result<Self, StoreError> {
        let place = connection::open(folder)?;
        let mut writer = place.writer()?;
        let rows = LIBRARY.rows(&mut writer, "", &[])?;
        let library = rows.first().map(|row| row.text(0)).unwrap_or_default();
        let store = Store {
            readers: place.readers()?,
            place,
            library,
            writer: Mutex::new(Some(writer)),
            verified: Mutex::default(),
        };
        store.look_again()?;
        Ok(store)
    }

    /// Which library this is: made with the database, the same for its life, in every copy of it.
    pub fn library(&self) -> &str {
        &self.library
    }

    /// The data folder.
    pub fn folder(&self) -> &Path {
        &self.place.folder
    }

    /// Makes the backup of the day if there is none yet and there is something to lose; older ones thin out, and all together stay within a size.
    /// Gives its name.
    ///
    /// # Errors
    /// If it cannot be written; the library is as it was.
    pub fn backup_if_due(
        &self,
        now: DateTime<Utc>,
        most_bytes: u64,
    ) -> Result<Option<String>, StoreError> {
        if !backup::is_due(self.folder(), now) || self.is_empty()? {
            return Ok(None);
        }
        self.back_up(now, most_bytes).map(Some)
    }

    /// Makes a backup, whether one is due or not. Gives its name.
    ///
    /// # Errors
    /// If it cannot be written; the library is as it was.
    pub fn back_up(&self, now: DateTime<Utc>, most_bytes: u64) -> Result<String, StoreError> {
        // a connection of its own: copying takes long, and nobody shall wait for it
        let mut connection = self.place.writer()?;
        let how = (now, most_bytes);
        backup::make(&mut connection, self.folder(), backup::Why::Day, how)
    }

    /// Reads, all of it as it was at one moment: a save between two questions would look like damage. Never waits for a writer.
    pub(crate) fn read<T>(
        &self,
        act: impl FnOnce(&mut SqliteConnection) -> Result<T, StoreError>,
    ) -> Result<T, StoreError> {
        self.place.check_over()?;
        let mut reader = self.readers.get()?;
        (*reader).transaction(act)
    }

    /// Writes, all or nothing: what this gives is on disk when it is Ok, in the file that lies in the data folder, and not there
    /// at all otherwise.
    pub(crate) fn write<T>(
        &self,
        act: impl FnOnce(&mut SqliteConnection) -> Result<T, StoreError>,
    ) -> Result<T, StoreError> {
        // a panic elsewhere leaves SQLite whole: the transaction went back
        let mut writer = self.writer.lock().unwrap_or_else(PoisonError::into_inner);
        self.place.check()?;
        let mut connection = match writer.take() {
            Some(connection) => connection,
            None => self.place.writer()?,
        };
        // a statement that gives rows back commits only when it is let go of, and nobody hears whether that went well:
        // so every write stands between a begin and a commit whose answers are looked at
        self.place.begins_to_write();
        let done = connection.immediate_transaction(act);
        if done.as_ref().err().is_none_or(|e| !e.breaks_connection()) {
            *writer = Some(connection);
        }
        if let Some(connection) = writer.as_mut().filter(|_| done.is_ok()) {
            // all is in the one file at rest: a log left beside it would be played over whatever file is put in its place.
            // It is on disk already, so that it does no harm where this fails or a reader is in its way.
            let _ = connection.batch_execute(INTO_ONE_FILE);
        }
        self.place.say_written();
        let done = done?;
        self.place.check()?;
        Ok(done)
    }
}

/// Waits only shortly for those who read long, such as a check of everything: the next write does it too.
const INTO_ONE_FILE: &str =
    "PRAGMA busy_timeout = 100; PRAGMA wal_checkpoint(TRUNCATE); PRAGMA busy_timeout = 5000;";

pub(crate) fn now() -> String {
    chrono::Utc::now().to_rfc3339_opts(chrono::SecondsFormat::Millis, true)
}
