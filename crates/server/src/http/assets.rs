//! The built front end, compiled into the program.

use axum::Extension;
use axum::body::Body;
use axum::http::{HeaderMap, Method, StatusCode, Uri, header};
use axum::response::{IntoResponse, Response};
use headers::{ETag, HeaderMapExt, IfNoneMatch};
use rust_embed::RustEmbed;

use crate::Problem;
use crate::http::proxy::Client;

#[derive(RustEmbed)]
#[folder = "../../web/dist"]
#[allow_missing = true]
struct Dist;

/// A file of the front end, or its first page for an address that it routes itself.
pub(crate) async fn serve(
    method: Method,
    uri: Uri,
    Extension(client): Extension<Client>,
    headers: HeaderMap,
) -> Response {
    if method != Method::GET && method != Method::HEAD {
        return Problem::not_found("Only the API takes anything but GET.").into_response();
    }
    let path = uri.path().trim_start_matches('/');
    if let Some(file) = Dist::get(path) {
        // Names under assets/ carry a hash of their content.
        let cache = if path.starts_with("assets/") {
            "public, max-age=31536000, immutable"
        } else {
            "no-cache"
        };
        let kind = mime_guess::from_path(path).first_or_octet_stream();
        return tagged(&headers, kind.as_ref(), cache, &file.metadata.sha256_hash(), file.data);
    }
    if path.contains('.') {
        return Problem::not_found(format!("There is no file /{path}.")).into_response();
    }
    match Dist::get("index.html") {
        Some(page) => {
            // Whichever view is asked for, the page finds its parts beneath the base path.
            let base = format!("<head>\n    <base href=\"{}\" />", client.base_href());
            let text = String::from_utf8_lossy(&page.data).replacen("<head>", &base, 1);
            let hash = hash_of(text.as_bytes());
            tagged(&headers, "text/html; charset=utf-8", "no-cache", &hash, text)
        }
        None => (
            StatusCode::SERVICE_UNAVAILABLE,
            "The front end is not built: run `cargo xtask demo`, or `npm install && npm run build` \
                in web/.\n",
        )
            .into_response(),
    }
}

/// What does not change under its tag: the body, or 304 to whoever holds it already (RFC 9110,
/// section 13.1.2).
///
/// The tag is of the content before compression and weak: the same page gzipped and not is the same
/// page.
pub(crate) fn tagged(
    headers: &HeaderMap,
    kind: &str,
    cache: &str,
    hash: &[u8],
    body: impl Into<Body>,
) -> Response {
    let hex: String = hash.iter().take(16).map(|b| format!("{b:02x}")).collect();
    let tag = format!("W/\"{hex}\"");
    let held = match (headers.typed_get::<IfNoneMatch>(), tag.parse::<ETag>()) {
        (Some(asked), Ok(tag)) => !asked.precondition_passes(&tag),
        _ => false,
    };
    let told = [(header::ETAG, tag.as_str()), (header::CACHE_CONTROL, cache)];
    if held {
        return (StatusCode::NOT_MODIFIED, told).into_response();
    }
    (told, [(header::CONTENT_TYPE, kind)], body.into()).into_response()
}

/// A hash that tells one text from another, for its tag.
pub(crate) fn hash_of(text: &[u8]) -> [u8; 8] {
    use std::hash::{DefaultHasher, Hash, Hasher};
    let mut hasher = DefaultHasher::new();
    text.hash(&mut hasher);
    hasher.finish().to_be_bytes()
}
