//! Errors as `application/problem+json` (RFC 9457), mapped in one table.

use axum::Json;
use axum::extract::rejection::JsonRejection;
use axum::extract::{FromRequest, Request};
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use zolvik_store::StoreError;

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
    pub fn new(status: StatusCode, title: &str, detail: impl Into<String>) -> Self {
        Problem {
            title: title.into(),
            status: status.as_u16(),
            detail: detail.into(),
        }
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
        let (status, title) = match &error {
            StoreError::NoPatch { .. }
            | StoreError::NoVersion { .. }
            | StoreError::NoRecording { .. } => (StatusCode::NOT_FOUND, "not found"),
            StoreError::Stale { .. } => (StatusCode::CONFLICT, "changed elsewhere"),
            StoreError::Patch(_) => (StatusCode::UNPROCESSABLE_ENTITY, "not a valid patch"),
            _ => (StatusCode::INTERNAL_SERVER_ERROR, "the store failed"),
        };
        Problem::new(status, title, error.to_string())
    }
}

impl From<zolvik_patch::PatchError> for Problem {
    fn from(error: zolvik_patch::PatchError) -> Self {
        StoreError::Patch(error).into()
    }
}

/// A JSON body whose faults are problems too.
pub struct Body<T>(pub T);

impl<T: DeserializeOwned, S: Send + Sync> FromRequest<S> for Body<T> {
    type Rejection = Problem;

    async fn from_request(request: Request, state: &S) -> Result<Self, Problem> {
        match Json::<T>::from_request(request, state).await {
            Ok(Json(value)) => Ok(Body(value)),
            Err(rejection) => Err(rejected(&rejection)),
        }
    }
}

fn rejected(rejection: &JsonRejection) -> Problem {
    let title = match rejection.status() {
        StatusCode::PAYLOAD_TOO_LARGE => "too large",
        StatusCode::UNSUPPORTED_MEDIA_TYPE => "not JSON",
        _ => "not understood",
    };
    Problem::new(rejection.status(), title, rejection.body_text())
}
