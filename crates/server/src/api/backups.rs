//! Backups: what there is, what differs, single patches taken out, or one put in the library's place.

use std::collections::HashMap;

use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use axum::response::IntoResponse;
use serde::Serialize;
use utoipa::ToSchema;
use zolvik_patch::plain::named_after;
use zolvik_patch::validate::MAX_NAME;
use zolvik_store::{BackedUp, BackupKind, Store, StoreError, all_backups};

use crate::api::types::PatchFull;
use crate::extract::Path;
use crate::problem::{AnyFault, DocumentFault, NamedFault, Problem, WriteFault};
use crate::state::{App, aside};

/// What a copy of the library was made for, or found to be.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum KindOfBackup {
    /// That of a day.
    Daily,
    /// Made before a newer version changed the library.
    BeforeUpdate,
    /// Of a library in which something was wrong.
    Faulty,
    /// What was the library until a backup was put in its place.
    SetAside,
}

/// A copy of the library.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct BackupView {
    /// Its name.
    pub name: String,
    /// When it was made, RFC 3339 in UTC; none if that is not known.
    pub at: Option<String>,
    /// What for.
    pub kind: KindOfBackup,
    /// Its size in bytes.
    pub bytes: u64,
    /// How many patches it has, those in its bin too; none if it cannot be read.
    pub patches: Option<usize>,
}

/// How a patch of a backup stands to the one in the library.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum Standing {
    /// It is the same.
    Same,
    /// It was changed since.
    Changed,
    /// The library has it no more.
    Gone,
}

/// A patch of a backup.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct BackedUpView {
    /// Its number.
    pub id: i32,
    /// Its name then.
    pub name: String,
    /// When it was last saved before; empty if that cannot be read.
    pub changed_at: String,
    /// How it stands to the one in the library.
    pub standing: Standing,
    /// Whether it can be read.
    pub readable: bool,
}

/// What is in a backup.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct BackupContents {
    /// Its patches, by name.
    pub patches: Vec<BackedUpView>,
    /// Names of patches the library has and the backup has not.
    pub new_since: Vec<String>,
}

/// The backups there are and what was set aside, newest first.
#[utoipa::path(get, path = "/api/backups", responses((status = 200, body = Vec<BackupView>), AnyFault))]
pub async fn list(State(app): State<App>) -> Result<Json<Vec<BackupView>>, Problem> {
    let folder = app.folder().to_owned();
    let list = aside(move || {
        let view = |backup: zolvik_store::Backup| BackupView {
            at: backup.at.map(|at| at.to_rfc3339()),
            kind: match backup.kind {
                BackupKind::Daily => KindOfBackup::Daily,
                BackupKind::BeforeUpdate => KindOfBackup::BeforeUpdate,
                BackupKind::Faulty => KindOfBackup::Faulty,
                BackupKind::SetAside => KindOfBackup::SetAside,
            },
            bytes: backup.bytes,
            patches: zolvik_store::count_in(&folder, &backup.name).ok(),
            name: backup.name,
        };
        all_backups(&folder).into_iter().map(view).collect()
    });
    Ok(Json(list.await?))
}

/// Makes a backup now.
#[utoipa::path(post, path = "/api/backups", responses((status = 201, body = String), AnyFault, WriteFault))]
pub async fn make(State(app): State<App>) -> Result<impl IntoResponse, Problem> {
    let most_bytes = app.backup_bytes();
    let name = app
        .read(move |store| store.back_up(chrono::Utc::now(), most_bytes))
        .await?;
    Ok((StatusCode::CREATED, Json(name)))
}

fn standings(store: &Store, patches: Vec<BackedUp>) -> Result<BackupContents, StoreError> {
    let mut present = HashMap::new();
    for binned in [false, true] {
        for patch in store.list(binned, 0, usize::MAX >> 1)?.patches {
            present.insert(patch.id, patch);
        }
    }
    let view = |backed_up: BackedUp| {
        let now = present.remove(&backed_up.id);
        BackedUpView {
            id: backed_up.id,
            name: backed_up.name,
            changed_at: backed_up.changed_at,
            standing: match now {
                None => Standing::Gone,
                Some(now) if now.content == backed_up.content => Standing::Same,
                Some(_) => Standing::Changed,
            },
            readable: backed_up.is_readable,
        }
    };
    let patches = patches.into_iter().map(view).collect();
    let mut new_since: Vec<String> = present.into_values().map(|patch| patch.name).collect();
    new_since.sort_unstable();
    Ok(BackupContents { patches, new_since })
}

/// What is in a backup, and how it stands to the library.
#[utoipa::path(get, path = "/api/backups/{name}", params(("name" = String, Path)),
    responses((status = 200, body = BackupContents), AnyFault, NamedFault, DocumentFault))]
pub async fn contents(
    State(app): State<App>,
    Path(name): Path<String>,
) -> Result<Json<BackupContents>, Problem> {
    let _admission = app.admit_file().await?;
    let found = app
        .read(move |store| {
            let patches = zolvik_store::contents(store.folder(), &name)?;
            standings(store, patches)
        })
        .await?;
    Ok(Json(found))
}

/// Takes one patch out of a backup, as a copy in the library.
#[utoipa::path(post, path = "/api/backups/{name}/patches/{id}", params(("name" = String, Path), ("id" = i32, Path)),
    responses((status = 201, body = PatchFull), AnyFault, NamedFault, DocumentFault, WriteFault))]
pub async fn take_out(
    State(app): State<App>,
    Path((name, id)): Path<(String, i32)>,
) -> Result<impl IntoResponse, Problem> {
    let entry = app
        .write(move |store| {
            let (mut patch, recordings) = zolvik_store::patch_in(store.folder(), &name, id)?;
            patch.meta.name = named_after(&patch.meta.name, "(backup)", MAX_NAME);
            store.create_with(&patch, &recordings)
        })
        .await?;
    Ok((StatusCode::CREATED, Json(PatchFull::from(entry))))
}

/// Puts a backup in the library's place. What was the library is set aside; gives its name.
#[utoipa::path(post, path = "/api/backups/{name}/restore", params(("name" = String, Path)),
    responses((status = 200, body = String), AnyFault, NamedFault, DocumentFault, WriteFault))]
pub async fn put_in_place(
    State(app): State<App>,
    Path(name): Path<String>,
) -> Result<Json<String>, Problem> {
    Ok(Json(app.put_in_place(name).await?))
}
