//! Recordings and bundles: large files in and out. They pass through a file of their own, so that memory stays small.

use std::fs::File;
use std::io::{BufReader, BufWriter, Read, Seek, SeekFrom, Write};
use std::sync::Arc;

use axum::Json;
use axum::body::Body as Sent;
use axum::extract::State;
use axum::http::{HeaderMap, StatusCode, header};
use axum::response::{IntoResponse, Response};
use zolvik_files::bundle::{self, BundleError};
use zolvik_files::file_name;
use zolvik_files::recording::{self, Taken};
use zolvik_patch::json;
use zolvik_patch::sound::OwnSound;
use zolvik_store::{Entry, Recording, StoreError};

use crate::api::types::{PatchFull, SoundQuery};
use crate::extract::{Path, Query, length, parts, whole};
use crate::problem::{
    AnyFault, BodyFault, DocumentFault, NamedFault, Problem, QueryFault, WriteFault,
};
use crate::sending::send;
use crate::state::{App, aside};

/// Takes a recording in: WAV, FLAC, AIFF or OGG Vorbis. Kept once, by its content.
#[utoipa::path(post, path = "/api/sounds", params(SoundQuery), request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 201, description = "The recording as patches name it", body = serde_json::Value), AnyFault, QueryFault, BodyFault, DocumentFault, WriteFault))]
pub async fn take(
    State(app): State<App>,
    Query(query): Query<SoundQuery>,
    headers: HeaderMap,
    sent: Sent,
) -> Result<impl IntoResponse, Problem> {
    let _admission = app.admit_file().await?;
    let bytes = whole(sent, length(&headers), recording::MAX_BYTES).await?;
    let Taken { sound, wav } = aside(move || recording::take(bytes, &query.name)).await??;
    let kept = Recording {
        sound: sound.clone(),
        wav,
    };
    app.write(move |store| store.keep_recording(&kept)).await?;
    Ok((StatusCode::CREATED, Json::<OwnSound>(sound)))
}

/// The WAV file of a recording.
#[utoipa::path(get, path = "/api/sounds/{content}", params(("content" = String, Path)),
    responses((status = 200, content_type = "audio/wav", body = Vec<u8>), AnyFault, NamedFault))]
pub async fn give(
    State(app): State<App>,
    Path(content): Path<String>,
) -> Result<impl IntoResponse, Problem> {
    let wav = app.read(move |store| store.recording(&content)).await?;
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
#[utoipa::path(get, path = "/api/patches/{id}/file", params(("id" = i32, Path)),
    responses((status = 200, description = "The patch file, or a ZIP file with it and its recordings",
    content((serde_json::Value = "application/json"), (Vec<u8> = "application/zip"))), AnyFault, NamedFault, DocumentFault, WriteFault))]
pub async fn export(
    State(app): State<App>,
    Path(id): Path<i32>,
    headers: HeaderMap,
) -> Result<Response, Problem> {
    let _admission = app.admit_file().await?;
    let mut file = passing_file(&app)?;
    let (file, name, ending) = app
        .read(move |store| {
            let patch = store.patch(id)?;
            let name = patch.meta.name.clone();
            let packed = bundle::write(&patch, &mut file, |content| store.recording(content).ok());
            let ending = match packed {
                Ok(0) => {
                    file.set_len(0).and_then(|()| file.rewind()).map_err(disk)?;
                    file.write_all(json::write(&patch).as_bytes())
                        .map_err(disk)?;
                    "json"
                }
                Ok(_) => "zip",
                Err(problem) => return Ok(Err(problem)),
            };
            file.rewind().map_err(disk)?;
            Ok(Ok((file, name, ending)))
        })
        .await??;
    let kind = match ending {
        "zip" => "application/zip",
        _ => "application/json",
    };
    send(Arc::new(file), kind, &file_name(&name, ending), &headers)
}

/// Adds the patch of a file: a patch file, or a bundle with its recordings.
#[utoipa::path(post, path = "/api/imports", request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 201, body = PatchFull), AnyFault, BodyFault, DocumentFault, WriteFault))]
pub async fn import(State(app): State<App>, sent: Sent) -> Result<impl IntoResponse, Problem> {
    let _admission = app.admit_file().await?;
    let mut file = BufWriter::new(passing_file(&app)?);
    parts(sent, bundle::MAX_BYTES, |part| {
        Ok(file.write_all(part).map_err(disk)?)
    })
    .await?;
    let file = file
        .into_inner()
        .map_err(|e| Problem::from(disk(e.into_error())))?;
    let entry = app.read(move |store| take_in(store, file)).await??;
    Ok((StatusCode::CREATED, Json(PatchFull::from(entry))))
}

fn take_in(
    store: &zolvik_store::Store,
    mut file: File,
) -> Result<Result<Entry, BundleError>, StoreError> {
    let mut beginning = [0; 4];
    file.seek(SeekFrom::Start(0)).map_err(disk)?;
    let read = file.read(&mut beginning).map_err(disk)?;
    file.seek(SeekFrom::Start(0)).map_err(disk)?;
    if !bundle::is_bundle(&beginning[..read]) {
        let mut bytes = vec![];
        let most = json::MAX_BYTES as u64 + 4;
        file.take(most).read_to_end(&mut bytes).map_err(disk)?;
        return Ok(Ok(store.create(&json::read_bytes(&bytes)?)?));
    }
    // recordings are kept one by one; those of a bundle that turns out to be faulty go again
    let mut new = vec![];
    let mut keep = |taken: Taken| {
        let content = taken.sound.content.clone();
        let recording = Recording {
            sound: taken.sound,
            wav: taken.wav,
        };
        if store.keep_recording(&recording)? {
            new.push(content);
        }
        Ok::<(), StoreError>(())
    };
    let read = bundle::read(BufReader::new(file), &mut keep);
    let made = match read {
        Ok(Ok(patch)) => store.create(&patch).map(Ok),
        Ok(Err(refused)) => Err(refused),
        Err(faulty) => Ok(Err(faulty)),
    };
    if !matches!(made, Ok(Ok(_))) {
        store.drop_unplayed(&new)?;
    }
    made
}

/// A file nobody else sees, which is gone when it is closed.
fn passing_file(app: &App) -> Result<File, Problem> {
    Ok(tempfile::tempfile_in(app.folder()).map_err(disk)?)
}

/// What a failure of the disk is.
pub(crate) fn disk(error: std::io::Error) -> StoreError {
    match error.kind() {
        std::io::ErrorKind::StorageFull => StoreError::Full,
        _ => StoreError::Disk(error.to_string()),
    }
}
