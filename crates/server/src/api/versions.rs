//! Named versions.

use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use axum::response::IntoResponse;
use zolvik_patch::plain::clean_name;
use zolvik_patch::validate::MAX_NAME;

use crate::api::types::{Named, VersionFull, VersionSummary};
use crate::extract::{Body, Path};
use crate::problem::{AnyFault, BodyFault, DocumentFault, NamedFault, Problem, WriteFault};
use crate::state::App;

/// The named versions of a patch, newest first.
#[utoipa::path(get, path = "/api/patches/{id}/versions", params(("id" = i32, Path)),
    responses((status = 200, body = Vec<VersionSummary>), AnyFault, NamedFault))]
pub async fn list(
    State(app): State<App>,
    Path(id): Path<i32>,
) -> Result<Json<Vec<VersionSummary>>, Problem> {
    let versions = app.read(move |store| store.versions(id)).await?;
    Ok(Json(versions.iter().map(VersionSummary::from).collect()))
}

/// Keeps the stored state of a patch under a name, for good.
#[utoipa::path(post, path = "/api/patches/{id}/versions", params(("id" = i32, Path)), request_body = Named,
    responses((status = 201, body = VersionSummary), AnyFault, NamedFault, BodyFault, DocumentFault, WriteFault))]
pub async fn keep(
    State(app): State<App>,
    Path(id): Path<i32>,
    Body(named, _admission): Body<Named>,
) -> Result<impl IntoResponse, Problem> {
    let name = clean_name(&named.name);
    if name.is_empty() || name.chars().count() > MAX_NAME {
        return Err(Problem::new(
            StatusCode::UNPROCESSABLE_ENTITY,
            "no name",
            format!("give the version a name of 1 to {MAX_NAME} characters"),
        ));
    }
    let version = app
        .write(move |store| store.keep_version(id, &name))
        .await?;
    Ok((StatusCode::CREATED, Json(VersionSummary::from(&version))))
}

/// One version with its document.
#[utoipa::path(get, path = "/api/patches/{id}/versions/{version}", params(("id" = i32, Path), ("version" = i32, Path)),
    responses((status = 200, body = VersionFull), AnyFault, NamedFault))]
pub async fn read(
    State(app): State<App>,
    Path((id, version)): Path<(i32, i32)>,
) -> Result<Json<VersionFull>, Problem> {
    let version = app.read(move |store| store.version(id, version)).await?;
    Ok(Json(VersionFull {
        summary: (&version).into(),
        document: version.document,
    }))
}
