//! Files on their way out: named (RFC 6266), with their length, whole or by ranges (RFC 9110, 14). Each answer reads the file by itself, so that
//! several can be under way at once.

use std::fs::File;
use std::io;
use std::os::unix::fs::FileExt;
use std::sync::Arc;

use axum::body::{Body, Bytes};
use axum::http::{HeaderMap, StatusCode, header};
use axum::response::{IntoResponse, Response};
use futures_util::stream;
use http_range_header::parse_range_header;
use percent_encoding::{AsciiSet, NON_ALPHANUMERIC, utf8_percent_encode};

use crate::problem::Problem;

/// Bytes read at a time.
const PART: u64 = 256 << 10;
/// What stays as it is in a name that is written with its signs counted.
const PLAIN: &AsciiSet = &NON_ALPHANUMERIC.remove(b'-').remove(b'.').remove(b'_');

/// The header that names a file to take along. Those that know only ASCII get it with marks for what is not.
pub fn disposition(name: &str) -> String {
    let is_plain = |c: &char| c.is_ascii() && !c.is_ascii_control() && !['"', '\\'].contains(c);
    let plain = name.chars().map(|c| if is_plain(&c) { c } else { '_' });
    let plain: String = plain.collect();
    match plain == name {
        true => format!("attachment; filename=\"{plain}\""),
        false => {
            let full = utf8_percent_encode(name, PLAIN);
            format!("attachment; filename=\"{plain}\"; filename*=UTF-8''{full}")
        }
    }
}

/// Sends a file, or the range of it that is asked for.
///
/// # Errors
/// If it cannot be read, or there is no such range.
pub fn send(
    file: Arc<File>,
    kind: &'static str,
    name: &str,
    asked: &HeaderMap,
) -> Result<Response, Problem> {
    let size = file
        .metadata()
        .map_err(|e| Problem::failed(&e.to_string()))?;
    let size = size.len();
    let mut headers = HeaderMap::new();
    let mut set = |name: header::HeaderName, value: &str| {
        if let Ok(value) = value.parse() {
            headers.insert(name, value);
        }
    };
    set(header::CONTENT_TYPE, kind);
    set(header::CONTENT_DISPOSITION, &disposition(name));
    set(header::ACCEPT_RANGES, "bytes");
    let range = asked.get(header::RANGE).and_then(|v| v.to_str().ok());
    // one that depends on a mark of the file has none to depend on
    let range = range.filter(|_| !asked.contains_key(header::IF_RANGE));
    let ranges = range.and_then(|text| parse_range_header(text).ok());
    let (status, from, until) = match ranges.map(|ranges| ranges.validate(size)) {
        None => (StatusCode::OK, 0, size),
        Some(Ok(ranges)) => match &ranges[..] {
            [one] => {
                let (from, last) = (*one.start(), *one.end());
                set(
                    header::CONTENT_RANGE,
                    &format!("bytes {from}-{last}/{size}"),
                );
                (StatusCode::PARTIAL_CONTENT, from, last + 1)
            }
            // several at once are sent as all there is, which is allowed
            _ => (StatusCode::OK, 0, size),
        },
        Some(Err(_)) => {
            let detail = format!("the file has {size} bytes; ask for a range in it");
            let status = StatusCode::RANGE_NOT_SATISFIABLE;
            let mut refused = Problem::new(status, "no such range", detail).into_response();
            if let Ok(value) = format!("bytes */{size}").parse() {
                refused.headers_mut().insert(header::CONTENT_RANGE, value);
            }
            return Ok(refused);
        }
    };
    set(header::CONTENT_LENGTH, &(until - from).to_string());
    Ok((status, headers, body(file, from, until)).into_response())
}

fn body(file: Arc<File>, from: u64, until: u64) -> Body {
    let parts = stream::try_unfold(from, move |at| {
        let file = Arc::clone(&file);
        async move {
            let length = (until - at).min(PART);
            if length == 0 {
                return Ok::<_, io::Error>(None);
            }
            let read = tokio::task::spawn_blocking(move || {
                let mut part = vec![0; length as usize];
                file.read_exact_at(&mut part, at).map(|()| part)
            });
            let part = read.await.map_err(io::Error::other)??;
            Ok(Some((Bytes::from(part), at + length)))
        }
    });
    Body::from_stream(parts)
}
