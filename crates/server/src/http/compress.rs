//! Large answers are compressed off the threads that answer requests, a few at a time: a megabyte
//! takes tens of milliseconds, in which a small question would wait.

use std::io::Write;
use std::num::NonZero;
use std::sync::LazyLock;

use axum::body::{Body, HttpBody, to_bytes};
use axum::extract::Request;
use axum::http::{HeaderMap, HeaderValue, header};
use axum::middleware::Next;
use axum::response::Response;
use flate2::Compression;
use flate2::write::GzEncoder;
use tokio::sync::Semaphore;

/// From this size on, bytes.
const LARGE_BYTES: u64 = 32_000;

/// Answers that are compressed at once.
static TURNS: LazyLock<Semaphore> =
    LazyLock::new(|| Semaphore::new(std::thread::available_parallelism().map_or(1, NonZero::get)));

/// Whether an Accept-Encoding header takes gzip (RFC 9110, section 12.5.3).
fn takes_gzip(headers: &HeaderMap) -> bool {
    let lines = headers.get_all(header::ACCEPT_ENCODING).iter().filter_map(|v| v.to_str().ok());
    lines.flat_map(|line| line.split(',')).any(|one| {
        let (name, weight) = one.split_once(';').unwrap_or((one, ""));
        let refused = weight.trim().strip_prefix("q=").is_some_and(|q| q.trim().parse() == Ok(0.0));
        matches!(name.trim(), "gzip" | "*") && !refused
    })
}

fn is_large_text(response: &Response) -> bool {
    let kind = response.headers().get(header::CONTENT_TYPE).and_then(|k| k.to_str().ok());
    kind.is_some_and(|k| k.starts_with("application/json") || k.starts_with("text/"))
        && !response.headers().contains_key(header::CONTENT_ENCODING)
        && response.body().size_hint().exact().is_some_and(|size| size >= LARGE_BYTES)
}

/// Compresses what is large and text, if who asks takes it so.
pub(crate) async fn compress(request: Request, next: Next) -> Response {
    let takes = takes_gzip(request.headers());
    let response = next.run(request).await;
    if !takes || !is_large_text(&response) {
        return response;
    }
    let (mut parts, body) = response.into_parts();
    // Its size is known: it stands in memory already.
    let Ok(plain) = to_bytes(body, usize::MAX).await else {
        return Response::from_parts(parts, Body::empty());
    };
    let _turn = TURNS.acquire().await;
    let kept = plain.clone();
    let squeezed = tokio::task::spawn_blocking(move || {
        let mut out = GzEncoder::new(Vec::with_capacity(plain.len() / 4), Compression::new(5));
        out.write_all(&plain).and_then(|()| out.finish())
    });
    let Ok(Ok(squeezed)) = squeezed.await else { return Response::from_parts(parts, kept.into()) };
    parts.headers.remove(header::CONTENT_LENGTH);
    parts.headers.insert(header::CONTENT_ENCODING, HeaderValue::from_static("gzip"));
    parts.headers.append(header::VARY, HeaderValue::from_static("accept-encoding"));
    Response::from_parts(parts, squeezed.into())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn gzip_is_taken_where_it_is_named_and_not_refused() {
        let takes = |said: &'static str| {
            takes_gzip(&HeaderMap::from_iter([(
                header::ACCEPT_ENCODING,
                HeaderValue::from_static(said),
            )]))
        };
        for yes in ["gzip", "br, gzip;q=0.5", "*", "deflate,gzip"] {
            assert!(takes(yes), "{yes}");
        }
        for no in ["", "br", "gzip;q=0", "gzip; q=0.0", "identity"] {
            assert!(!takes(no), "{no}");
        }
    }
}
