//! What an installation keeps beside patches.

use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use zolvik_patch::Patch;
use zolvik_patch::finish::Effect;
use zolvik_patch::limits::MAX_NAME;
use zolvik_patch::playing::Phrase;
use zolvik_patch::validate::validate;
use zolvik_store::Kept;

use crate::extract::{Body, Path};
use crate::problem::{AnyFault, BodyFault, DocumentFault, NamedFault, Problem, WriteFault};
use crate::state::App;

/// Largest document, in bytes: a phrase of as many notes as there may be.
const MAX_BYTES: usize = 512 << 10;
/// Most of one kind.
const MOST: usize = 500;

/// What can be kept.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum KindOfKept {
    /// Phrases.
    Phrase,
    /// What controllers move.
    Learnt,
    /// Settings of effects.
    Effect,
}

impl KindOfKept {
    fn name(self) -> &'static str {
        match self {
            KindOfKept::Phrase => "phrase",
            KindOfKept::Learnt => "learnt",
            KindOfKept::Effect => "effect",
        }
    }
}

/// Something that is kept.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct KeptView {
    /// Its name, one of its kind.
    pub name: String,
    /// JSON.
    pub document: String,
    /// Whether it was changed on the disk or by another program since it was kept.
    pub damaged: bool,
}

/// Something to be kept.
#[derive(Debug, Clone, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct KeepIt {
    /// JSON.
    pub document: String,
}

/// All of a kind, by name.
#[utoipa::path(get, path = "/api/kept/{kind}", params(("kind" = KindOfKept, Path)),
    responses((status = 200, body = Vec<KeptView>), AnyFault, NamedFault))]
pub async fn list(
    State(app): State<App>,
    Path(kind): Path<KindOfKept>,
) -> Result<Json<Vec<KeptView>>, Problem> {
    let kept = app.read(move |store| store.kept(kind.name())).await?;
    let view = |k: Kept| KeptView {
        name: k.name,
        document: k.document,
        damaged: !k.is_whole,
    };
    Ok(Json(kept.into_iter().map(view).collect()))
}

/// Keeps something under a name, in place of what had it. Gives how many of its kind there are.
#[utoipa::path(put, path = "/api/kept/{kind}/{name}", params(("kind" = KindOfKept, Path), ("name" = String, Path)), request_body = KeepIt,
    responses((status = 200, body = i64), AnyFault, NamedFault, BodyFault, DocumentFault, WriteFault))]
pub async fn keep(
    State(app): State<App>,
    Path((kind, name)): Path<(KindOfKept, String)>,
    Body(it, _admission): Body<KeepIt>,
) -> Result<Json<i64>, Problem> {
    let refuse =
        |detail: String| Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "not kept", detail);
    if name.trim().is_empty() || name.chars().count() > MAX_NAME {
        return Err(refuse(format!(
            "give it a name of 1 to {MAX_NAME} characters"
        )));
    }
    if it.document.len() > MAX_BYTES {
        return Err(refuse(format!(
            "at most {MAX_BYTES} bytes are kept under a name"
        )));
    }
    match kind {
        KindOfKept::Phrase => {
            let phrase: Phrase =
                serde_json::from_str(&it.document).map_err(|e| refuse(e.to_string()))?;
            phrase.check("phrase").map_err(|e| refuse(e.to_string()))?;
        }
        KindOfKept::Learnt => {
            let read: Result<serde_json::Value, _> = serde_json::from_str(&it.document);
            read.map_err(|e| refuse(e.to_string()))?;
        }
        KindOfKept::Effect => {
            // whether it fits is told when it is taken
            let effect: Effect =
                serde_json::from_str(&it.document).map_err(|e| refuse(e.to_string()))?;
            let mut patch = Patch::empty();
            patch.finish.common.effects.push(effect);
            validate(&patch).map_err(|e| refuse(e.to_string()))?;
        }
    }
    let there = app.read(move |store| store.kept(kind.name())).await?;
    if there.len() >= MOST && !there.iter().any(|k| k.name == name) {
        return Err(refuse(format!(
            "{MOST} are kept already; forget some first"
        )));
    }
    let document = it.document;
    let count = app
        .write(move |store| store.keep(kind.name(), &name, &document))
        .await?;
    Ok(Json(count))
}

/// Forgets something. Gives whether it was there.
#[utoipa::path(delete, path = "/api/kept/{kind}/{name}", params(("kind" = KindOfKept, Path), ("name" = String, Path)),
    responses((status = 200, body = bool), AnyFault, NamedFault, WriteFault))]
pub async fn forget(
    State(app): State<App>,
    Path((kind, name)): Path<(KindOfKept, String)>,
) -> Result<Json<bool>, Problem> {
    let gone = app
        .write(move |store| store.forget(kind.name(), &name))
        .await?;
    Ok(Json(gone))
}
