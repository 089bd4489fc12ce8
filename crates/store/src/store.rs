//! The store: what can be done with patches.

use std::collections::HashMap;
use std::path::Path;

use diesel::connection::SimpleConnection;
use diesel::prelude::*;
use zolvik_patch::sound::OwnSound;
use zolvik_patch::{Patch, json};

use crate::connection;
use crate::error::StoreError;
use crate::schema::{patches, recordings, versions};

/// A patch as stored.
#[derive(Debug, Clone, PartialEq, Eq, Queryable, Selectable)]
#[diesel(table_name = patches)]
pub struct Entry {
    /// Number, for good.
    pub id: i32,
    /// Name, as in the document.
    pub name: String,
    /// The patch file.
    pub document: String,
    /// Rises with every save.
    pub revision: i32,
    /// When it was made, RFC 3339 in UTC.
    pub created_at: String,
    /// When it was last saved, RFC 3339 in UTC.
    pub changed_at: String,
    /// When it went into the bin.
    pub binned_at: Option<String>,
}

/// A named version of a patch, kept for good.
#[derive(Debug, Clone, PartialEq, Eq, Queryable, Selectable)]
#[diesel(table_name = versions)]
pub struct Version {
    /// Number.
    pub id: i32,
    /// Whose version.
    pub patch_id: i32,
    /// Name given by the user.
    pub name: String,
    /// The patch file as it was.
    pub document: String,
    /// When it was kept, RFC 3339 in UTC.
    pub created_at: String,
}

/// A recording to be kept.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Recording {
    /// As patches name it.
    pub sound: OwnSound,
    /// The WAV file with that content.
    pub wav: Vec<u8>,
}

/// An open database.
pub struct Store {
    connection: SqliteConnection,
}

impl Store {
    /// Opens the database of a data folder, making both if needed.
    ///
    /// # Errors
    /// If the folder cannot be written or the database is from a newer version.
    pub fn open(folder: &Path) -> Result<Self, StoreError> {
        Ok(Store {
            connection: connection::open(folder)?,
        })
    }

    /// Patches in the library, or those in the bin, last changed first.
    ///
    /// # Errors
    /// If the database fails.
    pub fn list(&mut self, binned: bool) -> Result<Vec<Entry>, StoreError> {
        let query = patches::table
            .select(Entry::as_select())
            .order((patches::changed_at.desc(), patches::id.desc()));
        Ok(match binned {
            true => query
                .filter(patches::binned_at.is_not_null())
                .load(&mut self.connection)?,
            false => query
                .filter(patches::binned_at.is_null())
                .load(&mut self.connection)?,
        })
    }

    /// A patch, in the library or in the bin.
    ///
    /// # Errors
    /// If there is none.
    pub fn get(&mut self, id: i32) -> Result<Entry, StoreError> {
        let found = patches::table
            .find(id)
            .select(Entry::as_select())
            .first(&mut self.connection)
            .optional()?;
        found.ok_or(StoreError::NoPatch { id })
    }

    /// Adds a patch.
    ///
    /// # Errors
    /// If it is not valid.
    pub fn create(&mut self, patch: &Patch) -> Result<Entry, StoreError> {
        zolvik_patch::validate::validate(patch)?;
        let now = now();
        let row = (
            patches::name.eq(&patch.meta.name),
            patches::document.eq(json::write(patch)),
            patches::revision.eq(1),
            patches::created_at.eq(&now),
            patches::changed_at.eq(&now),
        );
        Ok(diesel::insert_into(patches::table)
            .values(row)
            .returning(Entry::as_returning())
            .get_result(&mut self.connection)?)
    }

    /// Saves a patch over the revision it is based on.
    ///
    /// # Errors
    /// [`StoreError::Stale`] if another save came between; the stored patch is then untouched.
    pub fn save(&mut self, id: i32, patch: &Patch, based_on: i32) -> Result<Entry, StoreError> {
        zolvik_patch::validate::validate(patch)?;
        let row = (
            patches::name.eq(&patch.meta.name),
            patches::document.eq(json::write(patch)),
            patches::revision.eq(based_on + 1),
            patches::changed_at.eq(now()),
        );
        let same = patches::table
            .find(id)
            .filter(patches::revision.eq(based_on));
        let saved = diesel::update(same)
            .set(row)
            .returning(Entry::as_returning())
            .get_result(&mut self.connection)
            .optional()?;
        match saved {
            Some(entry) => Ok(entry),
            None => Err(StoreError::Stale {
                expected: based_on,
                actual: self.get(id)?.revision,
            }),
        }
    }

    /// Copies a patch under a new name.
    ///
    /// # Errors
    /// If there is none.
    pub fn duplicate(&mut self, id: i32) -> Result<Entry, StoreError> {
        let mut patch = json::read(&self.get(id)?.document)?;
        let room = zolvik_patch::validate::MAX_NAME - " copy".len();
        patch.meta.name = patch.meta.name.chars().take(room).collect::<String>() + " copy";
        self.create(&patch)
    }

    /// Names a patch.
    ///
    /// # Errors
    /// If there is none or the name does not do.
    pub fn rename(&mut self, id: i32, name: &str) -> Result<Entry, StoreError> {
        let entry = self.get(id)?;
        let mut patch = json::read(&entry.document)?;
        patch.meta.name = name.trim().into();
        self.save(id, &patch, entry.revision)
    }

    /// Puts a patch into the bin, or back into the library.
    ///
    /// # Errors
    /// If there is none.
    pub fn bin(&mut self, id: i32, binned: bool) -> Result<Entry, StoreError> {
        let when = binned.then(now);
        let update = diesel::update(patches::table.find(id)).set(patches::binned_at.eq(when));
        let entry = update
            .returning(Entry::as_returning())
            .get_result(&mut self.connection)
            .optional()?;
        entry.ok_or(StoreError::NoPatch { id })
    }

    /// Keeps the present state of a patch under a name, for good.
    ///
    /// # Errors
    /// If there is no such patch.
    pub fn keep_version(&mut self, id: i32, name: &str) -> Result<Version, StoreError> {
        let entry = self.get(id)?;
        let row = (
            versions::patch_id.eq(id),
            versions::name.eq(name.trim()),
            versions::document.eq(&entry.document),
            versions::created_at.eq(now()),
        );
        let insert = diesel::insert_into(versions::table).values(row);
        Ok(insert
            .returning(Version::as_returning())
            .get_result(&mut self.connection)?)
    }

    /// The versions of a patch, newest first.
    ///
    /// # Errors
    /// If the database fails.
    pub fn versions(&mut self, id: i32) -> Result<Vec<Version>, StoreError> {
        let query = versions::table
            .filter(versions::patch_id.eq(id))
            .order(versions::id.desc());
        Ok(query
            .select(Version::as_select())
            .load(&mut self.connection)?)
    }

    /// Keeps a recording; one with the same content is kept already. Gives whether it is new.
    ///
    /// # Errors
    /// If the database fails.
    pub fn keep_recording(&mut self, recording: &Recording) -> Result<bool, StoreError> {
        let sound = &recording.sound;
        let row = (
            recordings::content.eq(&sound.content),
            recordings::name.eq(&sound.name),
            recordings::frames.eq(sound.frames as i32),
            recordings::rate_hz.eq(sound.rate_hz as i32),
            recordings::wav.eq(&recording.wav),
            recordings::created_at.eq(now()),
        );
        let insert = diesel::insert_or_ignore_into(recordings::table).values(row);
        Ok(insert.execute(&mut self.connection)? > 0)
    }

    /// The WAV file of a recording.
    ///
    /// # Errors
    /// If there is none with this content.
    pub fn recording(&mut self, content: &str) -> Result<Vec<u8>, StoreError> {
        let found = recordings::table
            .find(content)
            .select(recordings::wav)
            .first(&mut self.connection)
            .optional()?;
        found.ok_or_else(|| StoreError::NoRecording {
            content: content.into(),
        })
    }

    /// The WAV files a patch plays, by content; those that are missing are left out.
    ///
    /// # Errors
    /// If the database fails.
    pub fn recordings_of(&mut self, patch: &Patch) -> Result<HashMap<String, Vec<u8>>, StoreError> {
        let mut found = HashMap::new();
        for content in patch.contents() {
            match self.recording(&content) {
                Ok(wav) => drop(found.insert(content, wav)),
                Err(StoreError::NoRecording { .. }) => {}
                Err(error) => return Err(error),
            }
        }
        Ok(found)
    }

    /// Adds a patch with the recordings it plays, both or neither.
    ///
    /// # Errors
    /// If the patch is not valid or the database fails.
    pub fn create_with(
        &mut self,
        patch: &Patch,
        recordings: &[Recording],
    ) -> Result<Entry, StoreError> {
        self.begin()?;
        let mut keep = || {
            for recording in recordings {
                self.keep_recording(recording)?;
            }
            self.create(patch)
        };
        let kept = keep();
        let end = if kept.is_ok() { "COMMIT" } else { "ROLLBACK" };
        self.connection.batch_execute(end)?;
        kept
    }

    fn begin(&mut self) -> Result<(), StoreError> {
        Ok(self.connection.batch_execute("BEGIN IMMEDIATE")?)
    }

    /// One version of a patch.
    ///
    /// # Errors
    /// If there is none.
    pub fn version(&mut self, id: i32, version: i32) -> Result<Version, StoreError> {
        let query = versions::table
            .find(version)
            .filter(versions::patch_id.eq(id));
        let found = query
            .select(Version::as_select())
            .first(&mut self.connection)
            .optional()?;
        found.ok_or(StoreError::NoVersion { id: version })
    }
}

fn now() -> String {
    chrono::Utc::now().to_rfc3339_opts(chrono::SecondsFormat::Millis, true)
}
