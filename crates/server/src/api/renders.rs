//! Rendering to files: begun, watched, fetched or given up.

use std::convert::Infallible;
use std::time::Duration;

use axum::Json;
use axum::body::Body as Sent;
use axum::extract::State;
use axum::http::{StatusCode, header};
use axum::response::IntoResponse;
use axum::response::sse::{Event, KeepAlive, Sse};
use futures_util::stream;
use serde::{Deserialize, Serialize};
use tokio_util::io::ReaderStream;
use utoipa::ToSchema;
use uuid::Uuid;
use zolvik_lab::batch::Batch;
use zolvik_patch::json;

use crate::api::files::passing_file;
use crate::clips::StoredClips;
use crate::extract::{Body, Path};
use crate::problem::{AnyFault, BodyFault, DocumentFault, NamedFault, Problem, WriteFault};
use crate::renders::{Format, Progress, Work, Written};
use crate::state::App;

/// What is to be rendered.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RenderWish {
    /// The patch file.
    pub document: String,
    /// What of it.
    #[schema(value_type = Object)]
    pub batch: Batch,
    /// WAV or FLAC.
    pub format: Format,
    /// 16, 24 or, of WAV, 32 (float).
    pub bits: u32,
    /// Sample rate in hertz, 8000 to 192000.
    pub rate_hz: u32,
}

/// A job that was begun.
#[derive(Debug, Serialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct RenderJob {
    /// Its number.
    pub id: String,
    /// How many files it makes.
    pub files: usize,
}

fn refused(detail: String) -> Problem {
    Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "not rendered", detail)
}

fn gone() -> Problem {
    Problem::new(
        StatusCode::NOT_FOUND,
        "not found",
        "there is no such render; begin it again",
    )
}

/// Begins to render files.
#[utoipa::path(post, path = "/api/renders", request_body = RenderWish,
    responses((status = 201, body = RenderJob), AnyFault, BodyFault, DocumentFault, WriteFault))]
pub async fn begin(
    State(app): State<App>,
    Body(wish, _admission): Body<RenderWish>,
) -> Result<impl IntoResponse, Problem> {
    if !(8_000..=192_000).contains(&wish.rate_hz) {
        return Err(refused(format!(
            "a rate of {} Hz is not rendered; choose 8000 to 192000",
            wish.rate_hz
        )));
    }
    let patch = json::read(&wish.document)?;
    let contents = patch.clone();
    let recordings = app
        .read(move |store| store.recordings_of(&contents))
        .await?;
    let written = Written {
        format: wish.format,
        bits: wish.bits,
        rate_hz: wish.rate_hz,
    };
    let ending = written.ending();
    let name = patch.meta.name.clone();
    let clips = StoredClips::new(&recordings);
    let work = Work::new(patch, clips, &wish.batch, written).map_err(refused)?;
    let files = work.pieces.len();
    let name = match files {
        1 => format!("{}.{ending}", work.pieces[0].name),
        _ => zolvik_files::file_name(&name, "zip"),
    };
    let into = passing_file(&app)?;
    let Some((id, job)) = app.jobs().begin(files, name) else {
        return Err(Problem::new(
            StatusCode::SERVICE_UNAVAILABLE,
            "busy",
            "too many renders are going on; wait for one, or cancel it",
        ));
    };
    tokio::task::spawn_blocking(move || work.run(&job, into));
    let id = id.to_string();
    Ok((StatusCode::CREATED, Json(RenderJob { id, files })))
}

fn number(id: &str) -> Result<Uuid, Problem> {
    Uuid::parse_str(id).map_err(|_| gone())
}

/// How far a render has come, as server-sent events until it is over.
#[utoipa::path(get, path = "/api/renders/{id}/events", params(("id" = String, Path)),
    responses((status = 200, content_type = "text/event-stream", body = Progress), AnyFault, NamedFault))]
pub async fn events(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<impl IntoResponse, Problem> {
    let job = app.jobs().get(number(&id)?).ok_or_else(gone)?;
    let watch = job.watch();
    let next = stream::unfold(Some((watch, true)), |state| async {
        let (mut watch, first) = state?;
        if !first && watch.changed().await.is_err() {
            return None;
        }
        let progress = watch.borrow_and_update().clone();
        let event = Event::default().json_data(&progress).unwrap_or_default();
        let rest = (!progress.ended).then_some((watch, false));
        Some((Ok::<_, Infallible>(event), rest))
    });
    Ok(Sse::new(next).keep_alive(KeepAlive::new().interval(Duration::from_secs(2))))
}

/// The finished file.
#[utoipa::path(get, path = "/api/renders/{id}/file", params(("id" = String, Path)),
    responses((status = 200, content_type = "application/octet-stream", body = Vec<u8>), AnyFault, NamedFault))]
pub async fn file(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<impl IntoResponse, Problem> {
    let job = app.jobs().get(number(&id)?).ok_or_else(gone)?;
    let file = job.file().ok_or_else(gone)?;
    let disposition = format!("attachment; filename=\"{}\"", job.name);
    let disposition: String = disposition.chars().filter(char::is_ascii).collect();
    let headers = [
        (header::CONTENT_TYPE, "application/octet-stream".to_owned()),
        (header::CONTENT_DISPOSITION, disposition),
    ];
    let stream = ReaderStream::new(tokio::fs::File::from_std(file));
    Ok((headers, Sent::from_stream(stream)))
}

/// Gives a render up and forgets its file. Gives whether it was there.
#[utoipa::path(delete, path = "/api/renders/{id}", params(("id" = String, Path)),
    responses((status = 200, body = bool), AnyFault, NamedFault))]
pub async fn forget(State(app): State<App>, Path(id): Path<String>) -> Result<Json<bool>, Problem> {
    Ok(Json(app.jobs().forget(number(&id)?)))
}
