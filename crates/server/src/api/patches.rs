//! Patches: listing, reading, writing, their pictures.

use axum::Json;
use axum::extract::State;
use axum::http::{StatusCode, header};
use axum::response::IntoResponse;
use zolvik_files::file_name;
use zolvik_patch::plain::named_after;
use zolvik_patch::validate::MAX_NAME;
use zolvik_patch::{Patch, json};

use crate::api::types::{
    BesideView, KeepBeside, ListQuery, MAX_LISTED, Named, NewPatch, PatchFull, PatchList,
    PatchSummary, PictureQuery, SavePatch, StoredSteps, Tagged,
};
use crate::clips::StoredClips;
use crate::drawing;
use crate::extract::{Body, Path, Query};
use crate::problem::{
    AnyFault, BodyFault, DocumentFault, NamedFault, Problem, QueryFault, WriteFault,
};
use crate::sending::disposition;
use crate::state::{App, aside};

/// A stretch of the patches in the library or in the bin, last changed first.
#[utoipa::path(get, path = "/api/patches", params(ListQuery), responses((status = 200, body = PatchList), AnyFault, QueryFault))]
pub async fn list(
    State(app): State<App>,
    Query(query): Query<ListQuery>,
) -> Result<Json<PatchList>, Problem> {
    let limit = query.limit.min(MAX_LISTED);
    let offset = query.offset.min(1_000_000_000);
    let listed = app
        .read(move |store| store.list(query.bin, offset, limit))
        .await?;
    Ok(Json(PatchList {
        total: listed.total,
        patches: listed.patches.into_iter().map(PatchSummary::from).collect(),
    }))
}

/// Adds a patch: an empty one, or an imported file.
#[utoipa::path(post, path = "/api/patches", request_body = NewPatch,
    responses((status = 201, body = PatchFull), AnyFault, BodyFault, DocumentFault, WriteFault))]
pub async fn create(
    State(app): State<App>,
    Body(new, _admission): Body<NewPatch>,
) -> Result<impl IntoResponse, Problem> {
    let read = move || -> Result<Patch, Problem> {
        let mut patch = match new.document {
            Some(text) => json::read(&text)?,
            None => Patch::empty(),
        };
        if let Some(suffix) = new.suffix {
            patch.meta.name = named_after(&patch.meta.name, &suffix, MAX_NAME);
        }
        Ok(patch)
    };
    let patch = aside(read).await??;
    let entry = app.write(move |store| store.create(&patch)).await?;
    Ok((StatusCode::CREATED, Json(PatchFull::from(entry))))
}

/// A patch with its document, as it is stored.
#[utoipa::path(get, path = "/api/patches/{id}", params(("id" = i32, Path)),
    responses((status = 200, body = PatchFull), AnyFault, NamedFault, DocumentFault))]
pub async fn read(State(app): State<App>, Path(id): Path<i32>) -> Result<Json<PatchFull>, Problem> {
    let entry = app.read(move |store| store.readable(id)).await?;
    Ok(Json(entry.into()))
}

/// Saves a patch over the revision it is based on. Answered only when it is on disk. The same save again does no harm.
#[utoipa::path(put, path = "/api/patches/{id}", params(("id" = i32, Path)), request_body = SavePatch,
    responses((status = 200, body = PatchSummary), (status = 409, body = Problem, content_type = "application/problem+json", description = "It was changed elsewhere"),
    AnyFault, NamedFault, BodyFault, DocumentFault, WriteFault))]
pub async fn save(
    State(app): State<App>,
    Path(id): Path<i32>,
    Body(save, _admission): Body<SavePatch>,
) -> Result<Json<PatchSummary>, Problem> {
    let document = save.document;
    let patch = aside(move || json::read(&document)).await??;
    let saved = app
        .write(move |store| store.save_with(id, &patch, save.revision, save.steps.as_ref()))
        .await?;
    Ok(Json(saved.into()))
}

/// The steps of undo of a patch, with the revision they lead from.
#[utoipa::path(get, path = "/api/patches/{id}/steps", params(("id" = i32, Path)),
    responses((status = 200, body = StoredSteps), AnyFault, NamedFault))]
pub async fn steps(
    State(app): State<App>,
    Path(id): Path<i32>,
) -> Result<Json<StoredSteps>, Problem> {
    let ((revision, steps), beside) = app
        .read(move |store| Ok((store.steps(id)?, store.beside(id)?)))
        .await?;
    let beside = beside.map(|beside| BesideView {
        why: beside.why,
        kept_at: beside.kept_at,
        document: beside.document,
    });
    Ok(Json(StoredSteps {
        revision,
        steps,
        beside,
    }))
}

/// Keeps a state that cannot be saved as a patch, as it is, beside the good one.
#[utoipa::path(put, path = "/api/patches/{id}/beside", params(("id" = i32, Path)), request_body = KeepBeside,
    responses((status = 200, body = String, description = "Why it cannot be saved"), AnyFault, NamedFault, BodyFault, WriteFault))]
pub async fn keep_beside(
    State(app): State<App>,
    Path(id): Path<i32>,
    Body(keep, _admission): Body<KeepBeside>,
) -> Result<Json<String>, Problem> {
    let why = app
        .write(move |store| {
            let problem = json::read(&keep.document).err();
            let why = problem.map_or_else(|| "it was not saved".into(), |e| e.to_string());
            store.keep_beside(id, &why, &keep.document)?;
            Ok(why)
        })
        .await?;
    Ok(Json(why))
}

/// Lets the state kept beside a patch go. Gives whether there was one.
#[utoipa::path(delete, path = "/api/patches/{id}/beside", params(("id" = i32, Path)),
    responses((status = 200, body = bool), AnyFault, NamedFault, WriteFault))]
pub async fn drop_beside(
    State(app): State<App>,
    Path(id): Path<i32>,
) -> Result<Json<bool>, Problem> {
    Ok(Json(app.write(move |store| store.drop_beside(id)).await?))
}

/// Names a patch.
#[utoipa::path(patch, path = "/api/patches/{id}", params(("id" = i32, Path)), request_body = Named,
    responses((status = 200, body = PatchSummary), AnyFault, NamedFault, BodyFault, DocumentFault, WriteFault))]
pub async fn rename(
    State(app): State<App>,
    Path(id): Path<i32>,
    Body(named, _admission): Body<Named>,
) -> Result<Json<PatchSummary>, Problem> {
    let renamed = app
        .write(move |store| store.rename(id, &named.name))
        .await?;
    Ok(Json(renamed.into()))
}

/// Gives a patch one more tag; a tag it has already stays as it is.
#[utoipa::path(post, path = "/api/patches/{id}/tags", params(("id" = i32, Path)), request_body = Tagged,
    responses((status = 200, body = PatchSummary), AnyFault, NamedFault, BodyFault, DocumentFault, WriteFault))]
pub async fn tag(
    State(app): State<App>,
    Path(id): Path<i32>,
    Body(tagged, _admission): Body<Tagged>,
) -> Result<Json<PatchSummary>, Problem> {
    let done = app.write(move |store| store.tag(id, &tagged.tag)).await?;
    Ok(Json(done.into()))
}

/// Copies a patch.
#[utoipa::path(post, path = "/api/patches/{id}/duplicate", params(("id" = i32, Path)),
    responses((status = 201, body = PatchFull), AnyFault, NamedFault, DocumentFault, WriteFault))]
pub async fn duplicate(
    State(app): State<App>,
    Path(id): Path<i32>,
) -> Result<impl IntoResponse, Problem> {
    let entry = app.write(move |store| store.duplicate(id)).await?;
    Ok((StatusCode::CREATED, Json(PatchFull::from(entry))))
}

/// Puts a patch into the bin.
#[utoipa::path(post, path = "/api/patches/{id}/bin", params(("id" = i32, Path)),
    responses((status = 200, body = PatchSummary), AnyFault, NamedFault, WriteFault))]
pub async fn bin(
    State(app): State<App>,
    Path(id): Path<i32>,
) -> Result<Json<PatchSummary>, Problem> {
    Ok(Json(
        app.write(move |store| store.bin(id, true)).await?.into(),
    ))
}

/// Takes a patch out of the bin.
#[utoipa::path(post, path = "/api/patches/{id}/restore", params(("id" = i32, Path)),
    responses((status = 200, body = PatchSummary), AnyFault, NamedFault, WriteFault))]
pub async fn restore(
    State(app): State<App>,
    Path(id): Path<i32>,
) -> Result<Json<PatchSummary>, Problem> {
    Ok(Json(
        app.write(move |store| store.bin(id, false)).await?.into(),
    ))
}

/// The stored document as it is, readable or not.
#[utoipa::path(get, path = "/api/patches/{id}/raw", params(("id" = i32, Path)),
    responses((status = 200, body = String, content_type = "text/plain"), AnyFault, NamedFault))]
pub async fn raw(
    State(app): State<App>,
    Path(id): Path<i32>,
) -> Result<impl IntoResponse, Problem> {
    let (entry, document) = app
        .read(move |store| Ok((store.get(id)?, store.raw(id)?)))
        .await?;
    let name = file_name(&entry.summary.name, "json.txt");
    let headers = [
        (header::CONTENT_TYPE, "text/plain; charset=utf-8".to_owned()),
        (header::CONTENT_DISPOSITION, disposition(&name)),
    ];
    Ok((headers, document))
}

/// A small picture of the sound, drawn once for each content.
#[utoipa::path(get, path = "/api/patches/{id}/picture", params(("id" = i32, Path), PictureQuery),
    responses((status = 200, content_type = "image/png", body = Vec<u8>), AnyFault, NamedFault, DocumentFault, QueryFault))]
pub async fn picture(
    State(app): State<App>,
    Path(id): Path<i32>,
    Query(query): Query<PictureQuery>,
) -> Result<impl IntoResponse, Problem> {
    let pictures = app.pictures().clone();
    let known = app
        .read(move |store| {
            let entry = store.get(id)?;
            let content = entry.summary.content.clone();
            let own = entry.document.contains("\"own\"");
            // with recordings of its own it has to be seen which are there
            Ok((
                content.clone(),
                if own { None } else { pictures.get(&content, 0) },
            ))
        })
        .await?;
    let (content, found) = known;
    let png = match found {
        Some(png) => png,
        None => draw(&app, id).await?,
    };
    let cache = match query.content == content {
        true => "private, max-age=31536000, immutable",
        false => "no-cache",
    };
    let headers = [
        (header::CONTENT_TYPE, "image/png"),
        (header::CACHE_CONTROL, cache),
    ];
    Ok((headers, png))
}

async fn draw(app: &App, id: i32) -> Result<Vec<u8>, Problem> {
    let admission = app.admit_drawing().await?;
    let pictures = app.pictures().clone();
    let drawn = app
        .read(move |store| {
            let (content, patch) = (store.get(id)?.summary.content, store.patch(id)?);
            let files = store.recordings_of(&patch)?;
            if let Some(png) = pictures.get(&content, files.len()) {
                return Ok(Ok(png));
            }
            let drawn = drawing::png(&patch, &StoredClips::new(&files));
            if let Ok(png) = &drawn {
                pictures.keep(&content, files.len(), png);
            }
            Ok(drawn)
        })
        .await?;
    drop(admission);
    drawn.map_err(|e| Problem::failed(&e.to_string()))
}
