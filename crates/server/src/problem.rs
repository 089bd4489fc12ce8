//! Errors as `application/problem+json` (RFC 9457), mapped in one table.

use axum::Json;
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use serde::{Deserialize, Serialize};
use utoipa::{IntoResponses, ToSchema};
use zolvik_files::bundle::BundleError;
use zolvik_files::recording::RecordingError;
use zolvik_json::outside::visible;
use zolvik_patch::PatchError;
use zolvik_store::StoreError;

/// Most characters of a detail; what it repeats of a request is shorter by far.
const MAX_DETAIL: usize = 600;

/// What went wrong and what to do about it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Problem {
    /// Short and stable: what kind of problem.
    pub title: String,
    /// HTTP status.
    pub status: u16,
    /// In words, with what to do.
    pub detail: String,
}

impl Problem {
    /// A problem of a kind.
    pub fn new(status: StatusCode, title: &str, detail: impl AsRef<str>) -> Self {
        Problem {
            title: title.into(),
            status: status.as_u16(),
            detail: visible(detail.as_ref(), MAX_DETAIL),
        }
    }

    /// Something went wrong that should not.
    pub fn failed(detail: &str) -> Self {
        Problem::new(
            StatusCode::INTERNAL_SERVER_ERROR,
            "the server failed",
            detail,
        )
    }
}

impl IntoResponse for Problem {
    fn into_response(self) -> Response {
        let status = StatusCode::from_u16(self.status).unwrap_or(StatusCode::INTERNAL_SERVER_ERROR);
        (
            status,
            [(header::CONTENT_TYPE, "application/problem+json")],
            Json(self),
        )
            .into_response()
    }
}

impl From<StoreError> for Problem {
    fn from(error: StoreError) -> Self {
        use StoreError as E;
        let (status, title) = match &error {
            E::NoPatch { .. }
            | E::NoBackup { .. }
            | E::NoVersion { .. }
            | E::NoRecording { .. }
            | E::FaultyRecording { .. } => (StatusCode::NOT_FOUND, "not found"),
            E::Stale { .. } => (StatusCode::CONFLICT, "changed elsewhere"),
            E::Patch(_) => (StatusCode::UNPROCESSABLE_ENTITY, "not a valid patch"),
            E::Unreadable { .. } | E::FaultyVersion { .. } => {
                (StatusCode::UNPROCESSABLE_ENTITY, "damaged")
            }
            E::NoLibrary { .. } => (StatusCode::UNPROCESSABLE_ENTITY, "not put in place"),
            E::InUse { .. } => (StatusCode::SERVICE_UNAVAILABLE, "in use"),
            E::Full => (StatusCode::INSUFFICIENT_STORAGE, "the disk is full"),
            E::Busy => (StatusCode::SERVICE_UNAVAILABLE, "busy"),
            E::Gone { .. } => (StatusCode::SERVICE_UNAVAILABLE, "the data folder is gone"),
            _ => (StatusCode::INTERNAL_SERVER_ERROR, "the store failed"),
        };
        Problem::new(status, title, error.to_string())
    }
}

impl From<PatchError> for Problem {
    fn from(error: PatchError) -> Self {
        StoreError::Patch(error).into()
    }
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

macro_rules! faults {
    ($(#[$doc:meta])* $name:ident { $($variant:ident $status:literal $what:literal,)* }) => {
        $(#[$doc])*
        #[derive(IntoResponses)]
        #[allow(dead_code, missing_docs)] // read by the description of the API only
        pub enum $name {
            $(#[response(status = $status, description = $what, content_type = "application/problem+json")]
            $variant(#[to_schema] Problem),)*
        }
    };
}

faults! {
    /// What any request may be answered.
    AnyFault {
        Foreign 403 "Asked from or for another place than this application",
        OtherLibrary 412 "The request names another library than the one served",
        Failed 500 "The server or its disk failed",
        Away 503 "The data folder is gone, or another program is writing to it for long",
    }
}

faults! {
    /// What a request that names something may be answered.
    NamedFault {
        Unknown 404 "There is no such thing",
    }
}

faults! {
    /// What a request that reads a stored document may be answered.
    DocumentFault {
        Damaged 422 "What is stored or sent is no valid document; the detail says where",
    }
}

faults! {
    /// What a request that writes may be answered.
    WriteFault {
        Full 507 "The disk is full; nothing was written",
    }
}

faults! {
    /// What a request with a body may be answered.
    BodyFault {
        Senseless 400 "The body is no JSON, or broke off",
        Slow 408 "The body did not come in time",
        TooLarge 413 "The body is too large",
        WrongKind 415 "The body is not announced as JSON",
    }
}

faults! {
    /// What a request with a query may be answered.
    QueryFault {
        Query 400 "The query is not understood",
    }
}
