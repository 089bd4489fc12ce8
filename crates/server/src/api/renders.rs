//! Rendering to files: begun, followed, stopped, gone on with, fetched or given up.

use std::convert::Infallible;
use std::sync::Arc;
use std::time::Duration;

use axum::Json;
use axum::extract::State;
use axum::http::{HeaderMap, StatusCode};
use axum::response::sse::{Event, KeepAlive, Sse};
use axum::response::{IntoResponse, Response};
use futures_util::stream;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;
use zolvik_lab::batch::Batch;
use zolvik_patch::json;

use crate::api::files::disk;
use crate::clips::StoredClips;
use crate::extract::{Body, Path};
use crate::problem::{AnyFault, BodyFault, DocumentFault, NamedFault, Problem, WriteFault};
use crate::renders::{Format, Job, Progress, RenderError, Watching, Work, Written};
use crate::sending::send;
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
    /// Whether it goes on though nobody follows it any more; else it stops after a minute.
    #[serde(default)]
    pub keep: bool,
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

/// A render there is.
#[derive(Debug, Serialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct RenderView {
    /// Its number.
    pub id: String,
    /// Name of its file.
    pub name: String,
    /// How far it has come.
    pub progress: Progress,
}

fn refused(detail: String) -> Problem {
    Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "not rendered", detail)
}

impl From<RenderError> for Problem {
    fn from(error: RenderError) -> Self {
        refused(error.to_string())
    }
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
    let work = Work::new(patch, clips, &wish.batch, written)?;
    let files = work.pieces.len();
    let name = match files {
        1 => format!("{}.{ending}", work.pieces[0].name),
        _ => zolvik_files::file_name(&name, "zip"),
    };
    let begun = app.jobs().begin(work, wish.keep, name, app.folder());
    let Some((id, job)) = begun.map_err(disk)? else {
        return Err(Problem::new(
            StatusCode::SERVICE_UNAVAILABLE,
            "busy",
            "too many renders are going on; wait for one, or stop it",
        ));
    };
    go(&app, &job);
    let id = id.to_string();
    Ok((StatusCode::CREATED, Json(RenderJob { id, files })))
}

/// Lets a job run, as long as somebody follows it or it was said to go on.
fn go(app: &App, job: &Arc<Job>) {
    let running = Arc::clone(job);
    tokio::task::spawn_blocking(move || running.run());
    let (job, patience) = (Arc::clone(job), app.render_patience());
    tokio::spawn(async move {
        let mut turns = tokio::time::interval(Duration::from_millis(500));
        while !job.progress().ended {
            turns.tick().await;
            if job.is_left_alone(patience) {
                job.stop();
            }
        }
    });
}

/// The renders there are, newest first: under way, stopped, or waiting to be fetched.
#[utoipa::path(get, path = "/api/renders", responses((status = 200, body = Vec<RenderView>), AnyFault))]
pub async fn list(State(app): State<App>) -> Json<Vec<RenderView>> {
    let view = |(id, job): (Uuid, Arc<Job>)| RenderView {
        id: id.to_string(),
        name: job.name.clone(),
        progress: job.progress(),
    };
    Json(app.jobs().list().into_iter().map(view).collect())
}

/// Stops a render in the middle of what it does; what is done of it can be fetched and gone on with. Gives how far it has come.
#[utoipa::path(post, path = "/api/renders/{id}/stop", params(("id" = String, Path)),
    responses((status = 200, body = Progress), AnyFault, NamedFault))]
pub async fn stop(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<Json<Progress>, Problem> {
    let job = app.jobs().get(number(&id)?).ok_or_else(gone)?;
    job.stop();
    let mut watch = Watching::new(&job).watch();
    let ended = watch.wait_for(|progress| progress.ended).await;
    let ended = ended.map_err(|e| Problem::failed(&e.to_string()))?;
    Ok(Json(ended.clone()))
}

/// Goes on with a render that was stopped or failed, after what is done of it. Gives how far it has come.
#[utoipa::path(post, path = "/api/renders/{id}/resume", params(("id" = String, Path)),
    responses((status = 200, body = Progress), AnyFault, NamedFault))]
pub async fn resume(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<Json<Progress>, Problem> {
    let job = app.jobs().get(number(&id)?).ok_or_else(gone)?;
    if job.resume() {
        go(&app, &job);
    }
    Ok(Json(job.progress()))
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
    let watching = Watching::new(&job);
    let watch = watching.watch();
    let next = stream::unfold(Some((watching, watch, true)), |state| async {
        let (watching, mut watch, first) = state?;
        if !first && watch.changed().await.is_err() {
            return None;
        }
        let progress = watch.borrow_and_update().clone();
        let event = Event::default().json_data(&progress).unwrap_or_default();
        let rest = (!progress.ended).then_some((watching, watch, false));
        Some((Ok::<_, Infallible>(event), rest))
    });
    Ok(Sse::new(next).keep_alive(KeepAlive::new().interval(Duration::from_secs(2))))
}

/// The file of what is done, whole or by a range.
#[utoipa::path(get, path = "/api/renders/{id}/file", params(("id" = String, Path)),
    responses((status = 200, content_type = "application/octet-stream", body = Vec<u8>),
    (status = 206, description = "The range asked for", content_type = "application/octet-stream", body = Vec<u8>),
    (status = 416, description = "There is no such range", content_type = "application/problem+json", body = Problem), AnyFault, NamedFault))]
pub async fn file(
    State(app): State<App>,
    Path(id): Path<String>,
    headers: HeaderMap,
) -> Result<Response, Problem> {
    let job = app.jobs().get(number(&id)?).ok_or_else(gone)?;
    let file = job.file().ok_or_else(gone)?;
    send(file, "application/octet-stream", &job.name, &headers)
}

/// Gives a render up and forgets its file. Gives whether it was there.
#[utoipa::path(delete, path = "/api/renders/{id}", params(("id" = String, Path)),
    responses((status = 200, body = bool), AnyFault, NamedFault))]
pub async fn forget(State(app): State<App>, Path(id): Path<String>) -> Result<Json<bool>, Problem> {
    Ok(Json(app.jobs().forget(number(&id)?)))
}
