//! Patches: listing, reading, and every way of writing them.

mod rows;

pub(crate) use self::rows::{CHANGED, entry_of};
pub use self::rows::{Entry, Listed, Summary};
use self::rows::{
    Ready, delete_binned, insert, patch_of, row_of, seal, summary_from, summary_of, update,
};
use std::sync::PoisonError;

use diesel::prelude::*;
use zolvik_edit::history::{KeptSteps, NewSteps};
use zolvik_patch::plain::named_after;
use zolvik_patch::validate::MAX_NAME;
use zolvik_patch::{Patch, PatchError};

use crate::error::StoreError;
use crate::looked::{document_of, look_into};
use crate::recording::Recording;
use crate::recordings;
use crate::schema::patches;
use crate::sealed::{PATCHES, patch, sha256};
use crate::steps;
use crate::store::{Store, now};

impl Store {
    /// A stretch of the patches in the library, or of those in the bin, last changed first. Documents that cannot be read, and rows
    /// that are not as they were written, are listed as damaged.
    ///
    /// # Errors
    /// If the database fails.
    pub fn list(&self, binned: bool, offset: usize, limit: usize) -> Result<Listed, StoreError> {
        let wanted = match binned {
            true => "WHERE binned_at IS NOT NULL",
            false => "WHERE binned_at IS NULL",
        };
        self.read(|connection| {
            let total: i64 = patches::table
                .filter(patches::binned_at.is_not_null().eq(binned))
                .count()
                .get_result(connection)?;
            let stretch =
                format!("{wanted} ORDER BY changed_at DESC, id DESC LIMIT {limit} OFFSET {offset}");
            let rows = PATCHES.rows(connection, &stretch, &[])?;
            let mut list: Vec<Summary> = rows.iter().map(summary_from).collect();
            for summary in list.iter_mut().filter(|s| s.damage.is_none()) {
                if !self.is_verified(connection, summary)? {
                    summary.damage = Some(CHANGED.into());
                }
            }
            Ok(Listed {
                total: total as usize,
                patches: list,
            })
        })
    }

    /// Whether a document is what its hash says; looked at once for each content.
    fn is_verified(
        &self,
        connection: &mut SqliteConnection,
        summary: &Summary,
    ) -> Result<bool, StoreError> {
        let verified = || self.verified.lock().unwrap_or_else(PoisonError::into_inner);
        if verified().get(&summary.id) == Some(&summary.content) {
            return Ok(true);
        }
        let is_so = sha256(&document_of(connection, summary.id)?) == summary.content;
        if is_so {
            verified().insert(summary.id, summary.content.clone());
        }
        Ok(is_so)
    }

    /// Whether there is no patch, neither in the library nor in the bin.
    pub(crate) fn is_empty(&self) -> Result<bool, StoreError> {
        self.read(|connection| {
            let count: i64 = patches::table.count().get_result(connection)?;
            Ok(count == 0)
        })
    }

    /// A patch, in the library or in the bin, damaged or not.
    ///
    /// # Errors
    /// If there is none.
    pub fn get(&self, id: i32) -> Result<Entry, StoreError> {
        self.read(|connection| entry_of(connection, id))
    }

    /// The stored document of a patch, byte for byte, whatever they are.
    ///
    /// # Errors
    /// If there is none.
    pub fn raw(&self, id: i32) -> Result<Vec<u8>, StoreError> {
        self.read(|connection| document_of(connection, id))
    }

    /// The steps of undo of a patch, with the revision they lead from.
    ///
    /// # Errors
    /// If there is no such patch.
    pub fn steps(&self, id: i32) -> Result<(i32, KeptSteps), StoreError> {
        self.read(|connection| {
            let revision = summary_of(connection, id)?.revision;
            Ok((revision, steps::read(connection, id)?))
        })
    }

    /// A patch that can be read.
    ///
    /// # Errors
    /// If there is none or its document is damaged.
    pub fn readable(&self, id: i32) -> Result<Entry, StoreError> {
        let entry = self.get(id)?;
        patch_of(&entry)?;
        Ok(entry)
    }

    /// A patch, read.
    ///
    /// # Errors
    /// If there is none or its document is damaged.
    pub fn patch(&self, id: i32) -> Result<Patch, StoreError> {
        patch_of(&self.get(id)?)
    }

    /// Adds a patch.
    ///
    /// # Errors
    /// If it is not valid or cannot be written.
    pub fn create(&self, patch: &Patch) -> Result<Entry, StoreError> {
        self.create_with(patch, &[])
    }

    /// Adds a patch with the recordings it plays, both or neither.
    ///
    /// # Errors
    /// If the patch is not valid or cannot be written.
    pub fn create_with(
        &self,
        patch: &Patch,
        recordings: &[Recording],
    ) -> Result<Entry, StoreError> {
        let ready = Ready::new(patch)?;
        self.write(|connection| {
            for recording in recordings {
                recordings::keep(connection, recording)?;
            }
            insert(connection, &ready)
        })
    }

    /// Saves a patch over the revision it is based on. The same save again does no harm.
    ///
    /// # Errors
    /// [`StoreError::Stale`] if another save came between; the stored patch is then untouched.
    pub fn save(&self, id: i32, patch: &Patch, based_on: i32) -> Result<Summary, StoreError> {
        self.save_with(id, patch, based_on, None)
    }

    /// The same with what is new in its steps of undo; without, the document there was before is one step back.
    ///
    /// # Errors
    /// As [`Store::save`].
    pub fn save_with(
        &self,
        id: i32,
        patch: &Patch,
        based_on: i32,
        steps: Option<&NewSteps>,
    ) -> Result<Summary, StoreError> {
        let ready = Ready::new(patch)?;
        self.write(|connection| update(connection, id, &ready, (based_on, steps)))
    }

    /// Copies a patch under a new name.
    ///
    /// # Errors
    /// If there is none, it is damaged, or it cannot be written.
    pub fn duplicate(&self, id: i32) -> Result<Entry, StoreError> {
        let mut patch = self.patch(id)?;
        patch.meta.name = named_after(&patch.meta.name, "copy", MAX_NAME);
        self.create(&patch)
    }

    /// Names a patch.
    ///
    /// # Errors
    /// If there is none, it is damaged, or the name does not do.
    pub fn rename(&self, id: i32, name: &str) -> Result<Summary, StoreError> {
        self.write(|connection| {
            let entry = entry_of(connection, id)?;
            let mut patch = patch_of(&entry)?;
            patch.meta.name = zolvik_patch::plain::clean_name(name);
            update(
                connection,
                id,
                &Ready::new(&patch)?,
                (entry.summary.revision, None),
            )
        })
    }

    /// Gives a patch one more tag; one it has already stays as it is.
    ///
    /// # Errors
    /// If there is none, if it cannot be read, or if the tag is no tag or one too many.
    pub fn tag(&self, id: i32, tag: &str) -> Result<Summary, StoreError> {
        self.write(|connection| {
            let entry = entry_of(connection, id)?;
            let mut patch = patch_of(&entry)?;
            let tag = zolvik_patch::plain::clean_name(tag);
            if !patch.meta.tags.contains(&tag) {
                patch.meta.tags.push(tag);
            }
            update(
                connection,
                id,
                &Ready::new(&patch)?,
                (entry.summary.revision, None),
            )
        })
    }

    /// Puts a patch into the bin, or back into the library.
    ///
    /// # Errors
    /// If there is none.
    pub fn bin(&self, id: i32, binned: bool) -> Result<Summary, StoreError> {
        self.write(|connection| {
            let when = binned.then(now);
            let was_whole = row_of(connection, id)?.is_whole;
            diesel::update(patches::table.find(id))
                .set(patches::binned_at.eq(when))
                .execute(connection)?;
            // what was changed behind our back is not made good by moving it
            if was_whole {
                seal(connection, id)?;
            }
            summary_of(connection, id)
        })
    }

    /// Deletes what is in the bin for good, with its versions and the recordings nothing else plays. Gives how many patches and
    /// how many recordings went.
    ///
    /// # Errors
    /// If it cannot be written; then everything is still there.
    pub fn empty_bin(&self) -> Result<(usize, usize), StoreError> {
        self.write(|connection| {
            let in_bin = patches::table.filter(patches::binned_at.is_not_null());
            let ids: Vec<i32> = in_bin.select(patches::id).load(connection)?;
            delete_binned(connection, &ids)
        })
    }

    /// Deletes one patch of the bin for good, as [`Store::empty_bin`] does all.
    ///
    /// # Errors
    /// If it is not in the bin, or cannot be written.
    pub fn delete(&self, id: i32) -> Result<(usize, usize), StoreError> {
        self.write(|connection| match delete_binned(connection, &[id])? {
            (0, _) => Err(StoreError::NoPatch { id }),
            gone => Ok(gone),
        })
    }

    /// Adds patches, all or none, in one step.
    ///
    /// # Errors
    /// If one is not valid or cannot be written.
    pub fn create_all(&self, patches: &[Patch]) -> Result<(), StoreError> {
        let ready: Result<Vec<Ready>, PatchError> = patches.iter().map(Ready::new).collect();
        let ready = ready?;
        self.write(|connection| {
            for one in &ready {
                insert(connection, one)?;
            }
            Ok(())
        })
    }

    /// Looks again at documents that could not be read: a newer version may.
    pub(crate) fn look_again(&self) -> Result<(), StoreError> {
        let doubtful = self.read(|connection| {
            let rows = PATCHES.rows(connection, "WHERE damage IS NOT NULL", &[])?;
            let whole = rows.iter().filter(|row| row.is_whole);
            Ok(whole.map(|row| row.number(patch::ID)).collect::<Vec<i32>>())
        })?;
        if doubtful.is_empty() {
            return Ok(());
        }
        self.write(|connection| {
            for id in doubtful {
                look_into(connection, id)?;
                seal(connection, id)?;
            }
            Ok(())
        })
    }
}
