//! The library as a whole.

use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use zolvik_patch::json;

use crate::api::types::{About, Emptied};
use crate::extract::Path;
use crate::problem::{AnyFault, NamedFault, Problem, WriteFault};
use crate::state::App;

/// Which library is served.
#[utoipa::path(get, path = "/api/library", responses((status = 200, body = About), AnyFault))]
pub async fn about(State(app): State<App>) -> Json<About> {
    Json(About {
        library: app.library(),
        opening: app.opening(),
        version: env!("CARGO_PKG_VERSION").into(),
    })
}

/// Deletes what is in the bin for good, with its versions and the recordings nothing else plays.
#[utoipa::path(delete, path = "/api/bin", responses((status = 200, body = Emptied), AnyFault, WriteFault))]
pub async fn empty_bin(State(app): State<App>) -> Result<Json<Emptied>, Problem> {
    let (patches, recordings) = app.write(|store| store.empty_bin()).await?;
    Ok(Json(Emptied {
        patches,
        recordings,
    }))
}

/// Deletes one patch of the bin for good, with its versions and the recordings nothing else plays.
#[utoipa::path(delete, path = "/api/bin/{id}", params(("id" = i32, Path)),
    responses((status = 200, body = Emptied), AnyFault, NamedFault, WriteFault))]
pub async fn delete(State(app): State<App>, Path(id): Path<i32>) -> Result<Json<Emptied>, Problem> {
    let (patches, recordings) = app.write(move |store| store.delete(id)).await?;
    Ok(Json(Emptied {
        patches,
        recordings,
    }))
}

/// The JSON Schema of the patch file.
#[utoipa::path(get, path = "/api/schema", responses((status = 200, body = serde_json::Value), AnyFault))]
pub async fn schema() -> Json<serde_json::Value> {
    Json(json::schema())
}

/// Whether the server is there.
#[utoipa::path(get, path = "/api/health", responses((status = 204), AnyFault))]
pub async fn health() -> StatusCode {
    StatusCode::NO_CONTENT
}
