//! Who may ask. The rules:
//!
//! 1. `Host` must be a loopback name with our port: a foreign page that lets its own name point here is refused.
//! 2. `Origin`, where a browser sends one, must be our own page.
//!
//! Both hold for every request, pages and files included.

use axum::extract::{Request, State};
use axum::http::{HeaderMap, StatusCode, header};
use axum::middleware::Next;
use axum::response::{IntoResponse, Response};

use crate::problem::Problem;

/// Lets a request pass or refuses it.
pub(crate) async fn check(State(port): State<u16>, request: Request, next: Next) -> Response {
    match refusal(request.headers(), port) {
        Some(problem) => problem.into_response(),
        None => next.run(request).await,
    }
}

fn refusal(headers: &HeaderMap, port: u16) -> Option<Problem> {
    let names = ["127.0.0.1", "localhost", "[::1]"].map(|name| format!("{name}:{port}"));
    let text = |name| {
        headers
            .get(name)
            .map(|value| value.to_str().unwrap_or("unreadable").to_owned())
    };
    let host = text(header::HOST).unwrap_or_default();
    if !names.contains(&host) {
        let detail = format!("this server answers to {}, not to “{host}”", names[0]);
        return Some(Problem::new(StatusCode::FORBIDDEN, "foreign host", detail));
    }
    let origin = text(header::ORIGIN)?;
    if names.iter().any(|name| origin == format!("http://{name}")) {
        return None;
    }
    Some(Problem::new(
        StatusCode::FORBIDDEN,
        "foreign origin",
        format!("pages of “{origin}” may not ask this server"),
    ))
}
