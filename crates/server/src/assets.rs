//! The built front end, compiled into the program.

use axum::http::{Method, StatusCode, Uri, header};
use axum::response::{IntoResponse, Response};
use rust_embed::RustEmbed;

use crate::Problem;

#[derive(RustEmbed)]
#[folder = "../../web/dist"]
#[allow_missing = true]
struct Dist;

/// A file of the front end, or its first page for an address that it routes itself.
pub(crate) async fn serve(method: Method, uri: Uri) -> Response {
    if method != Method::GET && method != Method::HEAD {
        return Problem::not_found("Only the API takes anything but GET.").into_response();
    }
    let path = uri.path().trim_start_matches('/');
    if let Some(file) = Dist::get(path) {
        // Names under assets/ carry a hash of their content.
        let cache = if path.starts_with("assets/") { "public, max-age=31536000, immutable" } else { "no-cache" };
        let kind = mime_guess::from_path(path).first_or_octet_stream();
        return ([(header::CONTENT_TYPE, kind.as_ref()), (header::CACHE_CONTROL, cache)], file.data).into_response();
    }
    if path.contains('.') {
        return Problem::not_found(format!("There is no file /{path}.")).into_response();
    }
    match Dist::get("index.html") {
        Some(page) => {
            ([(header::CONTENT_TYPE, "text/html; charset=utf-8"), (header::CACHE_CONTROL, "no-cache")], page.data).into_response()
        }
        None => (
            StatusCode::SERVICE_UNAVAILABLE,
            "The front end is not built: run `cargo xtask demo`, or `npm install && npm run build` in web/.\n",
        )
            .into_response(),
    }
}
