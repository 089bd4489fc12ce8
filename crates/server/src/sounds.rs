//! Recordings and bundles: large files in and out.

use std::collections::HashMap;
use std::sync::Arc;

use axum::Json;
use axum::body::Body;
use axum::extract::{Path, Query, State};
use axum::http::{StatusCode, header};
use axum::response::IntoResponse;
use futures_util::StreamExt;
use serde::Deserialize;
use utoipa::IntoParams;
use zolvik_files::bundle::{self, Bundle, BundleError};
use zolvik_files::recording::{self, RecordingError};
use zolvik_files::{file_name, wav};
use zolvik_patch::json;
use zolvik_patch::sound::{MAX_FRAMES, OwnSound, RATES_HZ};
use zolvik_store::Recording;
use zolvik_waves::{Clip, Clips};

use crate::api::{PatchFull, full};
use crate::app::App;
use crate::problem::Problem;

/// What a recording is called.
#[derive(Debug, Clone, Deserialize, IntoParams)]
pub struct SoundQuery {
    /// Name of the file it comes from.
    #[serde(default)]
    name: String,
}

impl From<RecordingError> for Problem {
    fn from(error: RecordingError) -> Self {
        let detail = error.to_string();
        Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "not a recording", detail)
    }
}

impl From<BundleError> for Problem {
    fn from(error: BundleError) -> Self {
        let detail = error.to_string();
        Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "not a bundle", detail)
    }
}

/// Reads a body of limited size. What is beyond is read too, up to some times as much, but not kept: a browser that is cut off
/// in the middle of sending never shows why.
async fn body(body: Body, most: usize) -> Result<Vec<u8>, Problem> {
    const PATIENCE: usize = 8;
    let (mut kept, mut length) = (vec![], 0usize);
    let mut stream = body.into_data_stream();
    while let Some(part) = stream.next().await {
        let part =
            part.map_err(|e| Problem::new(StatusCode::BAD_REQUEST, "broken off", e.to_string()))?;
        length += part.len();
        if length <= most {
            kept.extend_from_slice(&part);
        } else {
            kept = vec![];
            if length > most * PATIENCE {
                break;
            }
        }
    }
    if length > most {
        return Err(Problem::new(
            StatusCode::PAYLOAD_TOO_LARGE,
            "too large",
            format!(
                "the file has more than {} MB; cut it or save it with a lower rate",
                most >> 20
            ),
        ));
    }
    Ok(kept)
}

/// Off the threads that answer requests.
async fn aside<T: Send + 'static>(act: impl FnOnce() -> T + Send + 'static) -> Result<T, Problem> {
    tokio::task::spawn_blocking(act).await.map_err(|e| {
        let detail = e.to_string();
        Problem::new(
            StatusCode::INTERNAL_SERVER_ERROR,
            "the server failed",
            detail,
        )
    })
}

/// Takes a recording in: WAV, FLAC, AIFF or OGG Vorbis. Kept once, by its content.
#[utoipa::path(post, path = "/api/sounds", params(SoundQuery), request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 201, description = "The recording as patches name it", body = serde_json::Value), (status = 413, body = Problem), (status = 422, body = Problem)))]
pub async fn take(
    State(app): State<App>,
    Query(query): Query<SoundQuery>,
    sent: Body,
) -> Result<impl IntoResponse, Problem> {
    let bytes = body(sent, recording::MAX_BYTES).await?;
    let taken = aside(move || recording::take(&bytes, &query.name)).await??;
    let kept = Recording {
        sound: taken.sound.clone(),
        wav: taken.wav,
    };
    app.with_store(move |store| store.keep_recording(&kept))
        .await?;
    Ok((StatusCode::CREATED, Json::<OwnSound>(taken.sound)))
}

/// The WAV file of a recording.
#[utoipa::path(get, path = "/api/sounds/{content}", responses((status = 200, content_type = "audio/wav"), (status = 404, body = Problem)))]
pub async fn give(
    State(app): State<App>,
    Path(content): Path<String>,
) -> Result<impl IntoResponse, Problem> {
    let wav = app
        .with_store(move |store| store.recording(&content))
        .await?;
    let headers = [
        (header::CONTENT_TYPE, "audio/wav"),
        // its address is its content, so it never changes
        (
            header::CACHE_CONTROL,
            "private, max-age=31536000, immutable",
        ),
    ];
    Ok((headers, wav))
}

/// A patch as a file to take along: its patch file, or with recordings of its own a bundle.
#[utoipa::path(get, path = "/api/patches/{id}/file", responses((status = 200, description = "The patch file, or a ZIP file with it and its recordings"), (status = 404, body = Problem)))]
pub async fn export(
    State(app): State<App>,
    Path(id): Path<i32>,
) -> Result<impl IntoResponse, Problem> {
    let (patch, recordings) = app
        .with_store(move |store| {
            let patch = json::read(&store.get(id)?.document)?;
            let recordings = store.recordings_of(&patch)?;
            Ok((patch, recordings))
        })
        .await?;
    let name = patch.meta.name.clone();
    let (bytes, kind, ending) = match recordings.is_empty() {
        true => (json::write(&patch).into_bytes(), "application/json", "json"),
        false => {
            let packed = aside(move || bundle::write(&patch, &recordings)).await??;
            (packed, "application/zip", "zip")
        }
    };
    let disposition = format!("attachment; filename=\"{}\"", file_name(&name, ending));
    // only what headers can hold; the page takes the name from the address bar's download otherwise
    let disposition: String = disposition.chars().filter(char::is_ascii).collect();
    let headers = [
        (header::CONTENT_TYPE, kind.to_owned()),
        (header::CONTENT_DISPOSITION, disposition),
    ];
    Ok((headers, bytes))
}

/// Adds the patch of a file: a patch file, or a bundle with its recordings.
#[utoipa::path(post, path = "/api/imports", request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 201, body = PatchFull), (status = 413, body = Problem), (status = 422, body = Problem)))]
pub async fn import(State(app): State<App>, sent: Body) -> Result<impl IntoResponse, Problem> {
    let bytes = body(sent, bundle::MAX_BYTES).await?;
    let unpacked = aside(move || read_file(bytes)).await??;
    let mut recordings = vec![];
    for sound in unpacked.patch.all_units().filter_map(|u| u.own_sound()) {
        if let Some(wav) = unpacked.recordings.get(&sound.content) {
            recordings.push(Recording {
                sound: sound.clone(),
                wav: wav.clone(),
            });
        }
    }
    let entry = app
        .with_store(move |store| store.create_with(&unpacked.patch, &recordings))
        .await?;
    Ok((StatusCode::CREATED, full(entry)?))
}

fn read_file(bytes: Vec<u8>) -> Result<Bundle, Problem> {
    if bundle::is_bundle(&bytes) {
        return Ok(bundle::read(&bytes)?);
    }
    // what is no text is no patch file either, and is told so by its reader
    let patch = json::read(&String::from_utf8_lossy(&bytes))?;
    let recordings = HashMap::new();
    Ok(Bundle { patch, recordings })
}

/// Recordings as the engine reads them, by content.
#[derive(Default)]
pub struct StoredClips(HashMap<String, Arc<Clip>>);

impl StoredClips {
    /// From WAV files by content; those that cannot be read are missing.
    pub fn new(files: &HashMap<String, Vec<u8>>) -> Self {
        let longest_s = f64::from(MAX_FRAMES) / f64::from(RATES_HZ.0);
        let read = |(content, file): (&String, &Vec<u8>)| {
            let read = wav::read(file, longest_s).ok()?;
            let clip = Clip {
                samples: read.samples,
                rate_hz: read.rate_hz,
            };
            Some((content.clone(), Arc::new(clip)))
        };
        StoredClips(files.iter().filter_map(read).collect())
    }
}

impl Clips for StoredClips {
    fn clip(&self, content: &str) -> Option<Arc<Clip>> {
        self.0.get(content).cloned()
    }
}
