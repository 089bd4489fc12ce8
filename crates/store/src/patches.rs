//! Patches: listing, reading, and every way of writing them.

use diesel::prelude::*;
use sha2::{Digest, Sha256};
use zolvik_patch::plain::named_after;
use zolvik_patch::validate::MAX_NAME;
use zolvik_patch::{Patch, PatchError, json};

use crate::error::StoreError;
use crate::recordings::{self, Recording};
use crate::schema::{patches, versions};
use crate::store::{Store, now};

/// A patch in a list: everything but its document.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Summary {
    /// Number, for good.
    pub id: i32,
    /// Name, as in the document.
    pub name: String,
    /// Rises with every save.
    pub revision: i32,
    /// When it was made, RFC 3339 in UTC.
    pub created_at: String,
    /// When it was last saved, RFC 3339 in UTC.
    pub changed_at: String,
    /// When it went into the bin.
    pub binned_at: Option<String>,
    /// Words for finding it again.
    pub tags: Vec<String>,
    /// How to play it.
    pub note: String,
    /// How many units it has.
    pub strips: usize,
    /// SHA-256 of the document.
    pub content: String,
    /// Why the document cannot be read, if it cannot.
    pub damage: Option<String>,
}

/// A patch as stored.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Entry {
    /// As in lists.
    pub summary: Summary,
    /// The patch file.
    pub document: String,
}

/// A stretch of a list.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Listed {
    /// How many there are in all.
    pub total: usize,
    /// Those of the stretch, last changed first.
    pub patches: Vec<Summary>,
}

#[derive(Queryable, Selectable)]
#[diesel(table_name = patches)]
struct Row {
    id: i32,
    name: String,
    revision: i32,
    created_at: String,
    changed_at: String,
    binned_at: Option<String>,
    tags: String,
    note: String,
    strips: i32,
    content: String,
    damage: Option<String>,
}

impl From<Row> for Summary {
    fn from(row: Row) -> Self {
        Summary {
            id: row.id,
            name: row.name,
            revision: row.revision,
            created_at: row.created_at,
            changed_at: row.changed_at,
            binned_at: row.binned_at,
            tags: serde_json::from_str(&row.tags).unwrap_or_default(),
            note: row.note,
            strips: row.strips.try_into().unwrap_or_default(),
            content: row.content,
            damage: row.damage,
        }
    }
}

/// The columns that follow from a document.
#[derive(Debug, Clone, AsChangeset)]
#[diesel(table_name = patches, treat_none_as_null = true)]
struct Looked {
    tags: String,
    note: String,
    strips: i32,
    content: String,
    damage: Option<String>,
}

impl Looked {
    fn at(patch: &Patch, document: &str) -> Self {
        Looked {
            tags: serde_json::to_string(&patch.meta.tags).unwrap_or_default(),
            note: patch.meta.note.clone(),
            strips: patch.units.len() as i32,
            content: content_of(document),
            damage: None,
        }
    }

    fn into(document: &str) -> Self {
        match json::read(document) {
            Ok(patch) => Looked::at(&patch, document),
            Err(problem) => Looked {
                tags: "[]".into(),
                note: String::new(),
                strips: 0,
                content: content_of(document),
                damage: Some(problem.to_string()),
            },
        }
    }

    fn show_in(self, summary: &mut Summary) {
        summary.tags = serde_json::from_str(&self.tags).unwrap_or_default();
        summary.note = self.note;
        summary.strips = self.strips.try_into().unwrap_or_default();
        summary.content = self.content;
        summary.damage = self.damage;
    }
}

fn content_of(document: &str) -> String {
    let digest = Sha256::digest(document.as_bytes());
    digest.iter().map(|byte| format!("{byte:02x}")).collect()
}

/// A patch ready to be written: checked and put into words before any lock is taken.
struct Ready {
    name: String,
    document: String,
    looked: Looked,
}

impl Ready {
    fn new(patch: &Patch) -> Result<Self, PatchError> {
        zolvik_patch::validate::validate(patch)?;
        let document = json::write(patch);
        let looked = Looked::at(patch, &document);
        let name = patch.meta.name.clone();
        Ok(Ready {
            name,
            document,
            looked,
        })
    }
}

fn summary_of(connection: &mut SqliteConnection, id: i32) -> Result<Summary, StoreError> {
    let found: Option<Row> = patches::table
        .find(id)
        .select(Row::as_select())
        .first(connection)
        .optional()?;
    found.map(Summary::from).ok_or(StoreError::NoPatch { id })
}

fn entry_of(connection: &mut SqliteConnection, id: i32) -> Result<Entry, StoreError> {
    let mut summary = summary_of(connection, id)?;
    let document: String = patches::table
        .find(id)
        .select(patches::document)
        .first(connection)?;
    if summary.content.is_empty() {
        Looked::into(&document).show_in(&mut summary);
    }
    Ok(Entry { summary, document })
}

fn insert(connection: &mut SqliteConnection, ready: &Ready) -> Result<Entry, StoreError> {
    let when = now();
    let looked = &ready.looked;
    let row = (
        patches::name.eq(&ready.name),
        patches::document.eq(&ready.document),
        patches::revision.eq(1),
        patches::created_at.eq(&when),
        patches::changed_at.eq(&when),
        patches::tags.eq(&looked.tags),
        patches::note.eq(&looked.note),
        patches::strips.eq(looked.strips),
        patches::content.eq(&looked.content),
    );
    let id = diesel::insert_into(patches::table)
        .values(row)
        .returning(patches::id)
        .get_result(connection)?;
    entry_of(connection, id)
}

fn update(
    connection: &mut SqliteConnection,
    id: i32,
    ready: &Ready,
    based_on: i32,
) -> Result<Summary, StoreError> {
    let row = (
        patches::name.eq(&ready.name),
        patches::document.eq(&ready.document),
        patches::revision.eq(based_on + 1),
        patches::changed_at.eq(now()),
        &ready.looked,
    );
    let same = patches::table
        .find(id)
        .filter(patches::revision.eq(based_on));
    let changed = diesel::update(same).set(row).execute(connection)?;
    let stored = summary_of(connection, id)?;
    // a save whose answer was lost is sent again: what it wanted is there
    if changed > 0 || (stored.content == ready.looked.content && stored.revision == based_on + 1) {
        return Ok(stored);
    }
    Err(StoreError::Stale {
        expected: based_on,
        actual: stored.revision,
    })
}

/// The patch of a stored document.
fn patch_of(entry: &Entry) -> Result<Patch, StoreError> {
    let id = entry.summary.id;
    json::read(&entry.document).map_err(|problem| StoreError::Unreadable { id, problem })
}

impl Store {
    /// A stretch of the patches in the library, or of those in the bin, last changed first. Documents that cannot be read are
    /// listed as damaged.
    ///
    /// # Errors
    /// If the database fails.
    pub fn list(&self, binned: bool, offset: usize, limit: usize) -> Result<Listed, StoreError> {
        self.read(|connection| {
            let wanted = || {
                let mut query = patches::table.into_boxed();
                query = match binned {
                    true => query.filter(patches::binned_at.is_not_null()),
                    false => query.filter(patches::binned_at.is_null()),
                };
                query
            };
            // one moment for both
            connection.transaction(|connection| {
                let total: i64 = wanted().count().get_result(connection)?;
                let rows: Vec<Row> = wanted()
                    .select(Row::as_select())
                    .order((patches::changed_at.desc(), patches::id.desc()))
                    .offset(offset as i64)
                    .limit(limit as i64)
                    .load(connection)?;
                let mut list: Vec<Summary> = rows.into_iter().map(Summary::from).collect();
                for summary in list.iter_mut().filter(|s| s.content.is_empty()) {
                    *summary = entry_of(connection, summary.id)?.summary;
                }
                Ok(Listed {
                    total: total as usize,
                    patches: list,
                })
            })
        })
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
        let ready = Ready::new(patch)?;
        self.write(|connection| update(connection, id, &ready, based_on))
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
            update(connection, id, &Ready::new(&patch)?, entry.summary.revision)
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
            update(connection, id, &Ready::new(&patch)?, entry.summary.revision)
        })
    }

    /// Puts a patch into the bin, or back into the library.
    ///
    /// # Errors
    /// If there is none.
    pub fn bin(&self, id: i32, binned: bool) -> Result<Summary, StoreError> {
        self.write(|connection| {
            let when = binned.then(now);
            diesel::update(patches::table.find(id))
                .set(patches::binned_at.eq(when))
                .execute(connection)?;
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

    /// Looks at the documents nobody has looked at yet, and again at those that could not be read: a newer version may.
    pub(crate) fn look_again(&self) -> Result<usize, StoreError> {
        let doubtful = || patches::content.eq("").or(patches::damage.is_not_null());
        let ids: Vec<i32> = self.read(|connection| {
            Ok(patches::table
                .filter(doubtful())
                .select(patches::id)
                .load(connection)?)
        })?;
        for some in ids.chunks(100) {
            self.write(|connection| {
                for id in some {
                    let document: String = patches::table
                        .find(id)
                        .select(patches::document)
                        .first(connection)?;
                    diesel::update(patches::table.find(id))
                        .set(&Looked::into(&document))
                        .execute(connection)?;
                }
                Ok(())
            })?;
        }
        Ok(ids.len())
    }
}

/// Deletes patches that are in the bin, with their versions and the recordings nothing else plays; gives how many of both went.
fn delete_binned(
    connection: &mut SqliteConnection,
    ids: &[i32],
) -> Result<(usize, usize), StoreError> {
    let binned = || {
        let some = patches::table.filter(patches::id.eq_any(ids));
        some.filter(patches::binned_at.is_not_null())
    };
    let mut documents: Vec<String> = binned().select(patches::document).load(connection)?;
    let kept: Vec<String> = versions::table
        .filter(versions::patch_id.eq_any(binned().select(patches::id)))
        .select(versions::document)
        .load(connection)?;
    documents.extend(kept);
    let gone = diesel::delete(binned()).execute(connection)?;
    Ok((gone, recordings::drop_of(connection, &documents)?))
}
