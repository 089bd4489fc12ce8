//! Taking requests apart; whatever cannot be taken is a problem like any other.

use std::time::Duration;

use axum::body::Body as Sent;
use axum::extract::rejection::{PathRejection, QueryRejection};
use axum::extract::{FromRequest, FromRequestParts, Request};
use axum::http::{HeaderMap, StatusCode, header};
use futures_util::StreamExt;
use serde::de::DeserializeOwned;
use zolvik_edit::history::MAX_KEPT_BYTES;
use zolvik_json::outside::quoted;
use zolvik_patch::json;

use crate::problem::Problem;
use crate::state::{Admission, App, aside};

/// Largest JSON body, in bytes: the largest patch file with its steps of undo, both quoted as they are inside of JSON.
pub const MAX_BODY: usize = (json::MAX_BYTES + MAX_KEPT_BYTES) / 2 * 3;
/// A body of this size is taken in without waiting for leave.
const SMALL: usize = 256 << 10;
/// How long the next part of a body is waited for.
const PART_PATIENCE: Duration = Duration::from_secs(15);

/// Parts of the address.
#[derive(FromRequestParts)]
#[from_request(via(axum::extract::Path), rejection(Problem))]
pub struct Path<T>(pub T);

/// The query.
#[derive(FromRequestParts)]
#[from_request(via(axum::extract::Query), rejection(Problem))]
pub struct Query<T>(pub T);

impl From<PathRejection> for Problem {
    fn from(rejection: PathRejection) -> Self {
        let detail = format!(
            "there is nothing at this address: {}",
            quoted(&rejection.body_text())
        );
        Problem::new(StatusCode::NOT_FOUND, "not found", detail)
    }
}

impl From<QueryRejection> for Problem {
    fn from(rejection: QueryRejection) -> Self {
        let detail = quoted(&rejection.body_text());
        Problem::new(StatusCode::BAD_REQUEST, "not understood", detail)
    }
}

/// A JSON body, and for a large one the leave to work on it.
pub struct Body<T>(pub T, pub Option<Admission>);

impl<T: DeserializeOwned + Send + 'static> FromRequest<App> for Body<T> {
    type Rejection = Problem;

    async fn from_request(request: Request, app: &App) -> Result<Self, Problem> {
        if !is_json(request.headers()) {
            return Err(Problem::new(
                StatusCode::UNSUPPORTED_MEDIA_TYPE,
                "not JSON",
                "send the body as application/json",
            ));
        }
        let announced = length(request.headers());
        let admission = match announced {
            Some(length) if length <= SMALL => None,
            _ => Some(app.admit_body().await?),
        };
        let bytes = whole(request.into_body(), announced, MAX_BODY).await?;
        // a list would be read field by field, which nobody means
        if bytes
            .iter()
            .find(|b| !b.is_ascii_whitespace())
            .is_some_and(|b| *b == b'[')
        {
            let detail = "the body is a list; send an object";
            return Err(Problem::new(
                StatusCode::UNPROCESSABLE_ENTITY,
                "not understood",
                detail,
            ));
        }
        let read = aside(move || serde_json::from_slice::<T>(&bytes)).await?;
        let value = read.map_err(|e| {
            let status = match e.classify() {
                serde_json::error::Category::Data => StatusCode::UNPROCESSABLE_ENTITY,
                _ => StatusCode::BAD_REQUEST,
            };
            Problem::new(status, "not understood", quoted(&e.to_string()))
        })?;
        Ok(Body(value, admission))
    }
}

fn is_json(headers: &HeaderMap) -> bool {
    let kind = headers
        .get(header::CONTENT_TYPE)
        .and_then(|v| v.to_str().ok());
    let kind = kind
        .unwrap_or_default()
        .split(';')
        .next()
        .unwrap_or_default();
    kind.trim().eq_ignore_ascii_case("application/json")
}

/// How long a body says it is.
pub fn length(headers: &HeaderMap) -> Option<usize> {
    headers
        .get(header::CONTENT_LENGTH)?
        .to_str()
        .ok()?
        .parse()
        .ok()
}

fn too_large(most: usize) -> Problem {
    Problem::new(
        StatusCode::PAYLOAD_TOO_LARGE,
        "too large",
        format!(
            "this is larger than {} MB, more than is taken in here",
            most >> 20
        ),
    )
}

/// A body of limited size in memory.
///
/// # Errors
/// If it is too large, too slow, or breaks off.
pub async fn whole(body: Sent, announced: Option<usize>, most: usize) -> Result<Vec<u8>, Problem> {
    let mut kept = Vec::with_capacity(announced.unwrap_or(0).min(most));
    parts(body, most, |part| {
        kept.extend_from_slice(part);
        Ok(())
    })
    .await?;
    Ok(kept)
}

/// Hands on the parts of a body of limited size. What is beyond is read too, up to some times as much, but not handed on: a
/// browser that is cut off in the middle of sending never shows why.
///
/// # Errors
/// If it is too large, too slow, or breaks off, and what `take` says.
pub async fn parts(
    body: Sent,
    most: usize,
    mut take: impl FnMut(&[u8]) -> Result<(), Problem>,
) -> Result<(), Problem> {
    const BEYOND: usize = 8;
    let mut length = 0usize;
    let mut stream = body.into_data_stream();
    let slow = |_| {
        Problem::new(
            StatusCode::REQUEST_TIMEOUT,
            "too slow",
            "nothing came for 15 s; send it again",
        )
    };
    while let Some(part) = tokio::time::timeout(PART_PATIENCE, stream.next())
        .await
        .map_err(slow)?
    {
        let part =
            part.map_err(|e| Problem::new(StatusCode::BAD_REQUEST, "broken off", e.to_string()))?;
        length += part.len();
        if length <= most {
            take(&part)?;
        } else if length > most * BEYOND {
            break;
        }
    }
    if length > most {
        Err(too_large(most))
    } else {
        Ok(())
    }
}
