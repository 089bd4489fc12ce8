//! The API. Documents travel as the text of the patch file, so that nothing is lost on the way.

use axum::Json;
use axum::extract::{Path, Query, State};
use axum::http::{StatusCode, header};
use axum::response::IntoResponse;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use zolvik_patch::{Patch, json};
use zolvik_store::{Entry, Version};

use crate::app::App;
use crate::picture;
use crate::problem::{Body, Problem};
use crate::sounds::StoredClips;

/// A patch in a list.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct PatchSummary {
    /// Number, for good.
    pub id: i32,
    /// Name.
    pub name: String,
    /// Tags.
    pub tags: Vec<String>,
    /// How to play it.
    pub note: String,
    /// Number of strips.
    pub strips: usize,
    /// Rises with every save.
    pub revision: i32,
    /// RFC 3339, UTC.
    pub created_at: String,
    /// RFC 3339, UTC.
    pub changed_at: String,
    /// When it went into the bin.
    pub binned_at: Option<String>,
}

/// A patch with its document.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct PatchFull {
    /// As in the list.
    pub summary: PatchSummary,
    /// The patch file's text.
    pub document: String,
}

/// A new patch.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct NewPatch {
    /// The patch file's text; without it the patch is empty: one plain sine.
    pub document: Option<String>,
}

/// A save.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct SavePatch {
    /// The revision the change is based on.
    pub revision: i32,
    /// The patch file's text.
    pub document: String,
}

/// A name.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct Named {
    /// 1 to 80 characters.
    pub name: String,
}

/// A named version in a list.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct VersionSummary {
    /// Number.
    pub id: i32,
    /// Name given by the user.
    pub name: String,
    /// RFC 3339, UTC.
    pub created_at: String,
}

/// A named version with its document.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct VersionFull {
    /// As in the list.
    pub summary: VersionSummary,
    /// The patch file's text.
    pub document: String,
}

/// Which list.
#[derive(Debug, Clone, Deserialize, IntoParams)]
pub struct ListQuery {
    /// The bin instead of the library.
    #[serde(default)]
    bin: bool,
}

fn summary(entry: &Entry) -> Result<PatchSummary, Problem> {
    let patch = json::read(&entry.document)?;
    Ok(PatchSummary {
        id: entry.id,
        name: entry.name.clone(),
        tags: patch.meta.tags,
        note: patch.meta.note,
        strips: patch.units.len(),
        revision: entry.revision,
        created_at: entry.created_at.clone(),
        changed_at: entry.changed_at.clone(),
        binned_at: entry.binned_at.clone(),
    })
}

pub(crate) fn full(entry: Entry) -> Result<Json<PatchFull>, Problem> {
    Ok(Json(PatchFull {
        summary: summary(&entry)?,
        document: entry.document,
    }))
}

fn version_summary(version: &Version) -> VersionSummary {
    VersionSummary {
        id: version.id,
        name: version.name.clone(),
        created_at: version.created_at.clone(),
    }
}

/// The patches in the library or in the bin, last changed first.
#[utoipa::path(get, path = "/api/patches", params(ListQuery), responses((status = 200, body = Vec<PatchSummary>)))]
pub async fn list(
    State(app): State<App>,
    Query(query): Query<ListQuery>,
) -> Result<Json<Vec<PatchSummary>>, Problem> {
    let entries = app.with_store(move |store| store.list(query.bin)).await?;
    Ok(Json(entries.iter().map(summary).collect::<Result<_, _>>()?))
}

/// Adds a patch: an empty one, or an imported file.
#[utoipa::path(post, path = "/api/patches", request_body = NewPatch,
    responses((status = 201, body = PatchFull), (status = 422, body = Problem)))]
pub async fn create(
    State(app): State<App>,
    Body(new): Body<NewPatch>,
) -> Result<impl IntoResponse, Problem> {
    let patch = new
        .document
        .map_or_else(|| Ok(Patch::empty()), |text| json::read(&text))?;
    let entry = app.with_store(move |store| store.create(&patch)).await?;
    Ok((StatusCode::CREATED, full(entry)?))
}

/// A patch with its document.
#[utoipa::path(get, path = "/api/patches/{id}", responses((status = 200, body = PatchFull), (status = 404, body = Problem)))]
pub async fn read(State(app): State<App>, Path(id): Path<i32>) -> Result<Json<PatchFull>, Problem> {
    full(app.with_store(move |store| store.get(id)).await?)
}

/// Saves a patch over the revision it is based on. Answered only when it is on disk.
#[utoipa::path(put, path = "/api/patches/{id}", request_body = SavePatch,
    responses((status = 200, body = PatchSummary), (status = 409, body = Problem), (status = 422, body = Problem)))]
pub async fn save(
    State(app): State<App>,
    Path(id): Path<i32>,
    Body(save): Body<SavePatch>,
) -> Result<Json<PatchSummary>, Problem> {
    let patch = json::read(&save.document)?;
    let entry = app
        .with_store(move |store| store.save(id, &patch, save.revision))
        .await?;
    Ok(Json(summary(&entry)?))
}

/// Names a patch.
#[utoipa::path(patch, path = "/api/patches/{id}", request_body = Named, responses((status = 200, body = PatchSummary)))]
pub async fn rename(
    State(app): State<App>,
    Path(id): Path<i32>,
    Body(named): Body<Named>,
) -> Result<Json<PatchSummary>, Problem> {
    let entry = app
        .with_store(move |store| store.rename(id, &named.name))
        .await?;
    Ok(Json(summary(&entry)?))
}

/// Copies a patch.
#[utoipa::path(post, path = "/api/patches/{id}/duplicate", responses((status = 201, body = PatchFull)))]
pub async fn duplicate(
    State(app): State<App>,
    Path(id): Path<i32>,
) -> Result<impl IntoResponse, Problem> {
    let entry = app.with_store(move |store| store.duplicate(id)).await?;
    Ok((StatusCode::CREATED, full(entry)?))
}

/// Puts a patch into the bin.
#[utoipa::path(post, path = "/api/patches/{id}/bin", responses((status = 200, body = PatchSummary)))]
pub async fn bin(
    State(app): State<App>,
    Path(id): Path<i32>,
) -> Result<Json<PatchSummary>, Problem> {
    let entry = app.with_store(move |store| store.bin(id, true)).await?;
    Ok(Json(summary(&entry)?))
}

/// Takes a patch out of the bin.
#[utoipa::path(post, path = "/api/patches/{id}/restore", responses((status = 200, body = PatchSummary)))]
pub async fn restore(
    State(app): State<App>,
    Path(id): Path<i32>,
) -> Result<Json<PatchSummary>, Problem> {
    let entry = app.with_store(move |store| store.bin(id, false)).await?;
    Ok(Json(summary(&entry)?))
}

/// A small picture of the sound. The address carries the revision, so it may be kept.
#[utoipa::path(get, path = "/api/patches/{id}/picture", responses((status = 200, content_type = "image/png")))]
pub async fn picture(
    State(app): State<App>,
    Path(id): Path<i32>,
) -> Result<impl IntoResponse, Problem> {
    let (patch, files) = app
        .with_store(move |store| {
            let patch = json::read(&store.get(id)?.document)?;
            let files = store.recordings_of(&patch)?;
            Ok((patch, files))
        })
        .await?;
    let failed = |why: String| Problem::new(StatusCode::INTERNAL_SERVER_ERROR, "no picture", why);
    let drawn =
        tokio::task::spawn_blocking(move || picture::png(&patch, &StoredClips::new(&files)))
            .await
            .map_err(|e| failed(e.to_string()))?;
    let png = drawn.map_err(|e| failed(e.to_string()))?;
    Ok((
        [
            (header::CONTENT_TYPE, "image/png"),
            (header::CACHE_CONTROL, "private, max-age=86400"),
        ],
        png,
    ))
}

/// The named versions of a patch, newest first.
#[utoipa::path(get, path = "/api/patches/{id}/versions", responses((status = 200, body = Vec<VersionSummary>)))]
pub async fn versions(
    State(app): State<App>,
    Path(id): Path<i32>,
) -> Result<Json<Vec<VersionSummary>>, Problem> {
    let versions = app.with_store(move |store| store.versions(id)).await?;
    Ok(Json(versions.iter().map(version_summary).collect()))
}

/// Keeps the stored state of a patch under a name, for good.
#[utoipa::path(post, path = "/api/patches/{id}/versions", request_body = Named, responses((status = 201, body = VersionSummary)))]
pub async fn keep_version(
    State(app): State<App>,
    Path(id): Path<i32>,
    Body(named): Body<Named>,
) -> Result<impl IntoResponse, Problem> {
    let name = named.name.trim().to_owned();
    if name.is_empty() || name.chars().count() > zolvik_patch::validate::MAX_NAME {
        return Err(Problem::new(
            StatusCode::UNPROCESSABLE_ENTITY,
            "no name",
            "give the version a name of 1 to 80 characters",
        ));
    }
    let version = app
        .with_store(move |store| store.keep_version(id, &name))
        .await?;
    Ok((StatusCode::CREATED, Json(version_summary(&version))))
}

/// One version with its document.
#[utoipa::path(get, path = "/api/patches/{id}/versions/{version}", responses((status = 200, body = VersionFull)))]
pub async fn version(
    State(app): State<App>,
    Path((id, version)): Path<(i32, i32)>,
) -> Result<Json<VersionFull>, Problem> {
    let version = app
        .with_store(move |store| store.version(id, version))
        .await?;
    Ok(Json(VersionFull {
        summary: version_summary(&version),
        document: version.document,
    }))
}

/// The JSON Schema of the patch file.
#[utoipa::path(get, path = "/api/schema", responses((status = 200)))]
pub async fn schema() -> Json<serde_json::Value> {
    Json(json::schema())
}

/// Whether the server is there.
#[utoipa::path(get, path = "/api/health", responses((status = 204)))]
pub async fn health() -> StatusCode {
    StatusCode::NO_CONTENT
}
