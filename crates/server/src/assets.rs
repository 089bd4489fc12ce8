//! The built front end, embedded in the binary.

use std::borrow::Cow;

use axum::body::Bytes;
use axum::http::{HeaderValue, Method, StatusCode, Uri, header};
use axum::response::{IntoResponse, Response};
use rust_embed::RustEmbed;

use zolvik_json::outside::visible;

use crate::problem::Problem;

/// Most characters of an address that are told again.
const MAX_PATH: usize = 100;

#[derive(RustEmbed)]
#[folder = "$CARGO_MANIFEST_DIR/../../web/dist"]
struct Page;

/// Mark in the page's file where the nonce of this answer is put.
const NONCE_MARK: &str = "STYLE_NONCE";

/// What a worker's script may do: load from here and run the browser module.
const WORKER_POLICY: &str =
    "default-src 'none'; script-src 'self' 'wasm-unsafe-eval'; connect-src 'self'";

/// A file of the front end; other addresses are the page itself, which knows its own paths. What is asked for as a file and is
/// none is not found.
pub(crate) async fn serve(method: Method, uri: Uri) -> Response {
    let path = uri.path().trim_start_matches('/');
    if !matches!(method, Method::GET | Method::HEAD) {
        let detail = format!("/{} can only be read", visible(path, MAX_PATH));
        return Problem::new(StatusCode::METHOD_NOT_ALLOWED, "wrong method", detail)
            .into_response();
    }
    let last = path.rsplit('/').next().unwrap_or_default();
    let is_file = last.contains('.') || ["api/", "assets/"].iter().any(|of| path.starts_with(of));
    match Page::get(path) {
        Some(file) if path != "index.html" => {
            let kind = mime_guess::from_path(path).first_or_octet_stream();
            // built files carry a hash in their name; others are asked for again
            let cache = if path.starts_with("assets/") {
                "public, max-age=31536000, immutable"
            } else {
                "no-cache"
            };
            let headers = [
                (header::CONTENT_TYPE, kind.as_ref()),
                (header::CACHE_CONTROL, cache),
                (header::CONTENT_SECURITY_POLICY, WORKER_POLICY),
            ];
            (headers, bytes(file.data)).into_response()
        }
        None if is_file => {
            let detail = format!("there is no /{}", visible(path, MAX_PATH));
            Problem::new(StatusCode::NOT_FOUND, "not found", detail).into_response()
        }
        _ => page(),
    }
}

/// A file's bytes; those that are part of the binary are not copied.
fn bytes(data: Cow<'static, [u8]>) -> Bytes {
    match data {
        Cow::Borrowed(part) => Bytes::from_static(part),
        Cow::Owned(read) => Bytes::from(read),
    }
}

fn page() -> Response {
    let Some(file) = Page::get("index.html") else {
        let detail = "the front end is not built; run cargo xtask build";
        return Problem::new(StatusCode::INTERNAL_SERVER_ERROR, "no front end", detail)
            .into_response();
    };
    let nonce = uuid::Uuid::new_v4().simple().to_string();
    let text = String::from_utf8_lossy(&file.data).replace(NONCE_MARK, &nonce);
    let headers = [
        (header::CONTENT_TYPE, "text/html; charset=utf-8"),
        (header::CACHE_CONTROL, "no-store"),
    ];
    let mut response = (headers, text).into_response();
    if let Ok(policy) = HeaderValue::from_str(&policy(&nonce)) {
        response
            .headers_mut()
            .insert(header::CONTENT_SECURITY_POLICY, policy);
    }
    response
}

/// Scripts, fonts and requests only from here; styles from here or with this answer's nonce.
fn policy(nonce: &str) -> String {
    format!(
        "default-src 'none'; script-src 'self' 'wasm-unsafe-eval'; style-src 'self' 'nonce-{nonce}'; font-src 'self'; \
         img-src 'self' data: blob:; connect-src 'self'; worker-src 'self'; base-uri 'none'; form-action 'none'; \
         frame-ancestors 'none'"
    )
}
