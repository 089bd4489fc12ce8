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
    let name = given(&named)?;
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

/// Gives a version another name.
#[utoipa::path(patch, path = "/api/patches/{id}/versions/{version}", params(("id" = i32, Path), ("version" = i32, Path)), request_body = Named,
    responses((status = 200, body = VersionSummary), AnyFault, NamedFault, BodyFault, DocumentFault, WriteFault))]
pub async fn rename(
    State(app): State<App>,
    Path((id, version)): Path<(i32, i32)>,
    Body(named, _admission): Body<Named>,
) -> Result<Json<VersionSummary>, Problem> {
    let name = given(&named)?;
    let renamed = app
        .write(move |store| store.rename_version(id, version, &name))
        .await?;
    Ok(Json(VersionSummary::from(&renamed)))
}

/// Deletes a version for good; gives those that are left.
#[utoipa::path(delete, path = "/api/patches/{id}/versions/{version}", params(("id" = i32, Path), ("version" = i32, Path)),
    responses((status = 200, body = Vec<VersionSummary>), AnyFault, NamedFault, WriteFault))]
pub async fn delete(
    State(app): State<App>,
    Path((id, version)): Path<(i32, i32)>,
) -> Result<Json<Vec<VersionSummary>>, Problem> {
    app.write(move |store| store.delete_version(id, version))
        .await?;
    let left = app.read(move |store| store.versions(id)).await?;
    Ok(Json(left.iter().map(VersionSummary::from).collect()))
}

/// The name that was given, cleaned.
fn given(named: &Named) -> Result<String, Problem> {
    let name = clean_name(&named.name);
    if name.is_empty() || name.chars().count() > MAX_NAME {
        return Err(Problem::new(
            StatusCode::UNPROCESSABLE_ENTITY,
            "no name",
            format!("give the version a name of 1 to {MAX_NAME} characters"),
        ));
    }
    Ok(name)
}
