//! Rows of patches: what stands in them, read and written whole.

use crate::error::StoreError;
use crate::looked::{Looked, document_of};
use crate::recordings;
use crate::schema::{patches, versions};
use crate::sealed::{PATCHES, Row, patch, sha256};
use crate::steps;
use crate::store::now;
use diesel::dsl::sql;
use diesel::prelude::*;
use diesel::sql_types::{Binary, Nullable};
use zolvik_edit::history::NewSteps;
use zolvik_patch::{Patch, PatchError, json};

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

/// What is said of a row that is not as it was written.
pub(crate) const CHANGED: &str =
    "it was changed on the disk or by another program; a backup may have it whole";

pub(super) fn summary_from(row: &Row) -> Summary {
    let damage = match row.is_whole {
        true => row.maybe(patch::DAMAGE),
        false => Some(CHANGED.to_owned()),
    };
    Summary {
        id: row.number(patch::ID),
        name: row.text(patch::NAME),
        revision: row.number(patch::REVISION),
        created_at: row.moment(patch::CREATED_AT),
        changed_at: row.moment(patch::CHANGED_AT),
        binned_at: row
            .maybe(patch::BINNED_AT)
            .map(|_| row.moment(patch::BINNED_AT)),
        tags: serde_json::from_str(&row.text(patch::TAGS)).unwrap_or_default(),
        note: row.text(patch::NOTE),
        strips: row.number(patch::STRIPS),
        content: row.text(patch::CONTENT),
        damage,
    }
}

/// A patch ready to be written: checked and put into words before any lock is taken.
pub(super) struct Ready {
    name: String,
    document: String,
    looked: Looked,
}

impl Ready {
    pub(super) fn new(patch: &Patch) -> Result<Self, PatchError> {
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

pub(super) fn row_of(connection: &mut SqliteConnection, id: i32) -> Result<Row, StoreError> {
    let mut rows = PATCHES.rows(connection, &format!("WHERE id = {id}"), &[])?;
    rows.pop().ok_or(StoreError::NoPatch { id })
}

pub(super) fn summary_of(
    connection: &mut SqliteConnection,
    id: i32,
) -> Result<Summary, StoreError> {
    Ok(summary_from(&row_of(connection, id)?))
}

pub(crate) fn entry_of(connection: &mut SqliteConnection, id: i32) -> Result<Entry, StoreError> {
    let mut summary = summary_of(connection, id)?;
    let document = document_of(connection, id)?;
    if summary.damage.is_none() && sha256(&document) != summary.content {
        summary.damage = Some(CHANGED.into());
    }
    let document = String::from_utf8_lossy(&document).into_owned();
    Ok(Entry { summary, document })
}

pub(super) fn seal(connection: &mut SqliteConnection, id: i32) -> Result<(), StoreError> {
    PATCHES.seal(connection, &format!("WHERE id = {id}"), &[])
}

pub(super) fn insert(
    connection: &mut SqliteConnection,
    ready: &Ready,
) -> Result<Entry, StoreError> {
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
    seal(connection, id)?;
    entry_of(connection, id)
}

pub(super) fn update(
    connection: &mut SqliteConnection,
    id: i32,
    ready: &Ready,
    (based_on, steps): (i32, Option<&NewSteps>),
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
    let before = row_of(connection, id)?;
    let document = document_of(connection, id)?;
    let changed = diesel::update(same).set(row).execute(connection)?;
    if changed > 0 {
        if !before.is_whole {
            // what the document does not say is taken as far as it can be read
            let since = (
                patches::created_at.eq(before.moment(patch::CREATED_AT)),
                patches::binned_at.eq(summary_from(&before).binned_at),
            );
            diesel::update(patches::table.find(id))
                .set(since)
                .execute(connection)?;
        }
        seal(connection, id)?;
        match (steps, std::str::from_utf8(&document)) {
            (Some(steps), _) => steps::write(connection, id, steps)?,
            (None, Ok(was)) if was != ready.document => {
                steps::write_elsewhere(connection, id, (was, &ready.document))?
            }
            _ => {}
        }
    }
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
pub(super) fn patch_of(entry: &Entry) -> Result<Patch, StoreError> {
    let unreadable = |problem: String| StoreError::Unreadable {
        id: entry.summary.id,
        problem,
    };
    match &entry.summary.damage {
        Some(problem) => Err(unreadable(problem.clone())),
        None => json::read(&entry.document).map_err(|e| unreadable(e.to_string())),
    }
}

/// Deletes patches that are in the bin, with their versions and the recordings nothing else plays; gives how many of both went.
pub(super) fn delete_binned(
    connection: &mut SqliteConnection,
    ids: &[i32],
) -> Result<(usize, usize), StoreError> {
    let binned = || {
        let some = patches::table.filter(patches::id.eq_any(ids));
        some.filter(patches::binned_at.is_not_null())
    };
    let bytes = || sql::<Nullable<Binary>>("CAST(document AS BLOB)");
    let mut documents: Vec<Option<Vec<u8>>> = binned().select(bytes()).load(connection)?;
    let kept: Vec<Option<Vec<u8>>> = versions::table
        .filter(versions::patch_id.eq_any(binned().select(patches::id)))
        .select(bytes())
        .load(connection)?;
    documents.extend(kept);
    let documents = documents.into_iter().flatten();
    let documents: Vec<String> = documents
        .map(|bytes| String::from_utf8_lossy(&bytes).into_owned())
        .collect();
    let gone = diesel::delete(binned()).execute(connection)?;
    Ok((gone, recordings::drop_of(connection, &documents)?))
}
