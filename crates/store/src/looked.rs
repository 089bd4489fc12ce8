//! What is read off a document for its row: the columns that follow from it.

use diesel::dsl::sql;
use diesel::prelude::*;
use diesel::sql_types::{Binary, Nullable};
use zolvik_patch::{Patch, json};

use crate::error::StoreError;
use crate::schema::patches;
use crate::sealed::{PATCHES, patch, sha256};

/// The columns that follow from a document.
#[derive(Debug, Clone, AsChangeset)]
#[diesel(table_name = patches, treat_none_as_null = true)]
pub(crate) struct Looked {
    pub(crate) tags: String,
    pub(crate) note: String,
    pub(crate) strips: i32,
    pub(crate) content: String,
    damage: Option<String>,
}

impl Looked {
    pub(crate) fn at(patch: &Patch, document: &str) -> Self {
        Looked {
            tags: serde_json::to_string(&patch.meta.tags).unwrap_or_default(),
            note: patch.meta.note.clone(),
            strips: patch.units.len() as i32,
            content: sha256(document.as_bytes()),
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
                content: sha256(document.as_bytes()),
                damage: Some(problem.to_string()),
            },
        }
    }
}

/// The bytes of a document, whatever they are.
pub(crate) fn document_of(
    connection: &mut SqliteConnection,
    id: i32,
) -> Result<Vec<u8>, StoreError> {
    let found: Option<Option<Vec<u8>>> = patches::table
        .find(id)
        .select(sql::<Nullable<Binary>>("CAST(document AS BLOB)"))
        .first(connection)
        .optional()?;
    Ok(found.ok_or(StoreError::NoPatch { id })?.unwrap_or_default())
}

/// Sets the columns that follow from a document.
pub(crate) fn look_into(connection: &mut SqliteConnection, id: i32) -> Result<(), StoreError> {
    let document = document_of(connection, id)?;
    let looked = Looked::into(&String::from_utf8_lossy(&document));
    let looked = Looked {
        content: sha256(&document),
        ..looked
    };
    diesel::update(patches::table.find(id))
        .set(&looked)
        .execute(connection)?;
    Ok(())
}

/// Looks at the documents of an older library nobody has looked at yet.
pub(crate) fn look_at_all(connection: &mut SqliteConnection) -> Result<(), StoreError> {
    let rows = PATCHES.rows(connection, "WHERE content = '' OR damage IS NOT NULL", &[])?;
    for row in rows {
        look_into(connection, row.number(patch::ID))?;
    }
    Ok(())
}
