//! Recordings, kept once by their content.

use std::collections::HashMap;

use diesel::dsl::sql;
use diesel::prelude::*;
use diesel::sql_types::{Binary, Nullable, Text};
use zolvik_patch::Patch;

use crate::error::StoreError;
use crate::recording::Recording;
use crate::schema::recordings;
use crate::sealed::{RECORDINGS, sha256};
use crate::store::{Store, now};

pub(crate) fn keep(
    connection: &mut SqliteConnection,
    recording: &Recording,
) -> Result<bool, StoreError> {
    let sound = &recording.sound;
    let row = (
        recordings::content.eq(&sound.content),
        recordings::name.eq(&sound.name),
        recordings::frames.eq(sound.frames as i32),
        recordings::rate_hz.eq(sound.rate_hz as i32),
        recordings::wav.eq(&recording.wav),
        recordings::created_at.eq(now()),
    );
    if is_as_kept(connection, &sound.content)? {
        return Ok(false);
    }
    // one that was damaged is made good
    let made = diesel::replace_into(recordings::table).values(row);
    made.execute(connection)?;
    RECORDINGS.seal(connection, "WHERE content = ?", &[&sound.content])?;
    Ok(true)
}

/// Whether a recording is there and as it was kept.
fn is_as_kept(connection: &mut SqliteConnection, content: &str) -> Result<bool, StoreError> {
    let rows = RECORDINGS.rows(connection, "WHERE content = ?", &[content])?;
    let is_whole = rows.first().is_some_and(|row| row.is_whole);
    Ok(is_whole && sound_of(connection, content)?.is_some_and(|wav| sha256(&wav) == content))
}

fn sound_of(
    connection: &mut SqliteConnection,
    content: &str,
) -> Result<Option<Vec<u8>>, StoreError> {
    let found: Option<Option<Vec<u8>>> = recordings::table
        .find(content)
        .select(sql::<Nullable<Binary>>("CAST(wav AS BLOB)"))
        .first(connection)
        .optional()?;
    Ok(found.map(Option::unwrap_or_default))
}

/// Deletes a recording if no patch and no version plays it. Gives how many went.
pub(crate) fn drop_unplayed(
    connection: &mut SqliteConnection,
    content: &str,
) -> Result<usize, StoreError> {
    let unplayed = "DELETE FROM recordings WHERE content = ?1 \
        AND NOT EXISTS (SELECT 1 FROM patches WHERE instr(document, ?1) > 0) \
        AND NOT EXISTS (SELECT 1 FROM versions WHERE instr(document, ?1) > 0)";
    Ok(diesel::sql_query(unplayed)
        .bind::<Text, _>(content)
        .execute(connection)?)
}

/// Deletes those recordings that some documents, which are gone, played and nothing else does. Gives how many went.
pub(crate) fn drop_of(
    connection: &mut SqliteConnection,
    documents: &[String],
) -> Result<usize, StoreError> {
    let rows = RECORDINGS.rows(connection, "", &[])?;
    let contents: Vec<String> = rows.iter().map(|row| row.text(0)).collect();
    let played = |content: &String| documents.iter().any(|d| d.contains(content.as_str()));
    let mut gone = 0;
    for content in contents.iter().filter(|content| played(content)) {
        gone += drop_unplayed(connection, content)?;
    }
    Ok(gone)
}

impl Store {
    /// Keeps a recording; one with the same content is kept already. Gives whether it is new.
    ///
    /// # Errors
    /// If it cannot be written.
    pub fn keep_recording(&self, recording: &Recording) -> Result<bool, StoreError> {
        self.write(|connection| keep(connection, recording))
    }

    /// Deletes those of some recordings that no patch and no version plays.
    ///
    /// # Errors
    /// If it cannot be written.
    pub fn drop_unplayed(&self, contents: &[String]) -> Result<(), StoreError> {
        self.write(|connection| {
            for content in contents {
                drop_unplayed(connection, content)?;
            }
            Ok(())
        })
    }

    /// The WAV file of a recording.
    ///
    /// # Errors
    /// If there is none with this content, or it is not as it was kept.
    pub fn recording(&self, content: &str) -> Result<Vec<u8>, StoreError> {
        let told = || zolvik_json::outside::visible(content, 64);
        let found = self.read(|connection| sound_of(connection, content))?;
        let wav = found.ok_or_else(|| StoreError::NoRecording { content: told() })?;
        match sha256(&wav) == content {
            true => Ok(wav),
            false => Err(StoreError::FaultyRecording { content: told() }),
        }
    }

    /// The WAV files a patch plays, by content; those that are missing or damaged are left out.
    ///
    /// # Errors
    /// If the database fails.
    pub fn recordings_of(&self, patch: &Patch) -> Result<HashMap<String, Vec<u8>>, StoreError> {
        let mut found = HashMap::new();
        for content in patch.contents() {
            match self.recording(&content) {
                Ok(wav) => drop(found.insert(content, wav)),
                Err(StoreError::NoRecording { .. } | StoreError::FaultyRecording { .. }) => {}
                Err(error) => return Err(error),
            }
        }
        Ok(found)
    }
}
