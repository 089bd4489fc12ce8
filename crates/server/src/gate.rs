//! Who may ask. The rules:
//!
//! 1. `Host` must be a loopback name with our port, which is 80 where it says none: a foreign page that lets its own name point here is refused.
//! 2. `Origin`, where a browser sends one, must be our own page.
//! 3. Under `/api`, `Sec-Fetch-Site`, where a browser sends one, must not name another site: a foreign page may not make us draw
//!    pictures or pack files by showing them.
//! 4. `Zolvik-Library`, where the page sends one, must be the library served: a page of another data folder on the same port
//!    must not write here. `Zolvik-Opening` likewise: what a page knows of a library does not hold for a backup put in its place.
//!
//! All hold for every request, pages and files included.

use axum::extract::{Request, State};
use axum::http::uri::Authority;
use axum::http::{HeaderMap, StatusCode, header};
use axum::middleware::Next;
use axum::response::{IntoResponse, Response};
use zolvik_json::outside::visible;

use crate::problem::Problem;
use crate::state::App;

/// Header by which the page says which library it belongs to.
pub const LIBRARY_HEADER: &str = "zolvik-library";
/// Header by which the page says which opening of the library it knows.
pub const OPENING_HEADER: &str = "zolvik-opening";
/// What it is called if a backup was put in its place since.
pub const OTHER_OPENING: &str = "a backup was put in place";
/// Most characters of a header that are told again.
const MAX_TOLD: usize = 80;

/// Where we are and what is served.
#[derive(Clone)]
pub(crate) struct Served {
    pub(crate) port: u16,
    pub(crate) app: App,
}

/// Lets a request pass or refuses it.
pub(crate) async fn check(State(served): State<Served>, request: Request, next: Next) -> Response {
    match refusal(request.uri().path(), request.headers(), &served) {
        Some(problem) => problem.into_response(),
        None => next.run(request).await,
    }
}

/// Whether a name and port, as a `Host` or an origin gives them, are ours: names in any case, and port 80 where none is said (RFC 9110, 4.2.1
/// and 4.2.3).
fn is_ours(authority: &str, port: u16) -> bool {
    let Ok(authority) = authority.parse::<Authority>() else {
        return false;
    };
    let host = authority.host();
    let behind = authority.as_str().rsplit_once(host).map(|(_, rest)| rest);
    let said = match (authority.port_u16(), behind) {
        (Some(said), _) => said,
        (None, Some("" | ":")) => 80,
        (None, _) => return false,
    };
    // whoever asks has no name of a user here
    let has_user = authority.as_str().contains('@');
    !has_user
        && said == port
        && ["127.0.0.1", "localhost", "[::1]"]
            .iter()
            .any(|name| host.eq_ignore_ascii_case(name))
}

fn refusal(path: &str, headers: &HeaderMap, served: &Served) -> Option<Problem> {
    let text = |name: &str| {
        headers
            .get(name)
            .map(|value| value.to_str().unwrap_or("unreadable").to_owned())
    };
    let is_ours = |authority: &str| is_ours(authority, served.port);
    let foreign = |title, detail: String| Some(Problem::new(StatusCode::FORBIDDEN, title, detail));
    let host = text(header::HOST.as_str()).unwrap_or_default();
    if !is_ours(&host) {
        let (host, port) = (visible(&host, MAX_TOLD), served.port);
        return foreign(
            "foreign host",
            format!("this server answers to 127.0.0.1:{port}, not to “{host}”"),
        );
    }
    if let Some(origin) = text(header::ORIGIN.as_str())
        && !origin.strip_prefix("http://").is_some_and(is_ours)
    {
        let origin = visible(&origin, MAX_TOLD);
        return foreign(
            "foreign origin",
            format!("pages of “{origin}” may not ask this server"),
        );
    }
    let site = text("sec-fetch-site");
    if path.starts_with("/api/") && site.is_some_and(|s| s != "same-origin" && s != "none") {
        return foreign(
            "foreign site",
            "pages of other sites may not ask this server".into(),
        );
    }
    if text(LIBRARY_HEADER).is_some_and(|library| library != served.app.library()) {
        return Some(Problem::new(
            StatusCode::PRECONDITION_FAILED,
            "other library",
            "another library is served here than when the page was opened; load the page again",
        ));
    }
    if text(OPENING_HEADER).is_some_and(|opening| opening != served.app.opening()) {
        return Some(Problem::new(
            StatusCode::PRECONDITION_FAILED,
            OTHER_OPENING,
            "a backup was put in the library’s place since the page was opened; load the page again",
        ));
    }
    None
}
