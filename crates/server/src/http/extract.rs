//! Request bodies and headers, with errors that name the field.

use axum::body::{Bytes, to_bytes};
use axum::extract::{FromRequest, FromRequestParts, Request};
use axum::http::header::{CONTENT_TYPE, IF_MATCH};
use axum::http::request::Parts;
use salt_lamp_core::Checked;
use salt_lamp_formats::scenario::read_json;
use salt_lamp_formats::{ReadError, read_scenario};
use salt_lamp_store::Expected;
use serde::de::DeserializeOwned;

use crate::Problem;

/// Largest body, bytes.
const MOST_BYTES: usize = 4_000_000;

async fn body<S: Send + Sync>(request: Request, _: &S) -> Result<Bytes, Problem> {
    // A page of another origin can post plain text without asking first; JSON it cannot.
    let json = request
        .headers()
        .get(CONTENT_TYPE)
        .and_then(|v| v.to_str().ok())
        .is_some_and(|v| v.starts_with("application/json"));
    if !json {
        return Err(Problem::not_json());
    }
    to_bytes(request.into_body(), MOST_BYTES).await.map_err(|e| {
        let too_large =
            std::error::Error::source(&e).is_some_and(|s| s.to_string().contains("limit"));
        if too_large { Problem::too_large(MOST_BYTES) } else { Problem::broken_off(e) }
    })
}

/// From this size on a body is read off the threads that answer requests, bytes: it may take
/// milliseconds.
const LARGE_BYTES: usize = 32_000;

/// Reads a body where it keeps nobody waiting.
async fn aside<T: Send + 'static>(
    bytes: Bytes,
    read: fn(&[u8]) -> Result<T, ReadError>,
) -> Result<T, Problem> {
    if bytes.len() < LARGE_BYTES {
        return Ok(read(&bytes)?);
    }
    let done = tokio::task::spawn_blocking(move || read(&bytes)).await;
    Ok(done.map_err(Problem::fault)??)
}

/// A checked scenario as the body.
pub struct ScenarioBody(pub Checked);

impl<S: Send + Sync> FromRequest<S> for ScenarioBody {
    type Rejection = Problem;

    async fn from_request(request: Request, state: &S) -> Result<Self, Problem> {
        let bytes = body(request, state).await?;
        Ok(Self(aside(bytes, read_scenario).await?))
    }
}

/// Any JSON document as the body.
pub struct Body<T>(pub T);

impl<S: Send + Sync, T: DeserializeOwned + Send + 'static> FromRequest<S> for Body<T> {
    type Rejection = Problem;

    async fn from_request(request: Request, state: &S) -> Result<Self, Problem> {
        let bytes = body(request, state).await?;
        Ok(Self(aside(bytes, read_json).await?))
    }
}

/// Query parameters.
pub struct Params<T>(pub T);

impl<S: Send + Sync, T: DeserializeOwned> FromRequestParts<S> for Params<T> {
    type Rejection = Problem;

    async fn from_request_parts(parts: &mut Parts, _: &S) -> Result<Self, Problem> {
        axum::extract::Query::try_from_uri(&parts.uri)
            .map(|q| Self(q.0))
            .map_err(|e| Problem::field("(query)", e.body_text()))
    }
}

/// The revisions over which a save may write, out of `If-Match: "3"`, `"3", "4"` or `*` (RFC 9110,
/// section 13.1.1).
pub struct Revision(pub Expected);

impl<S: Send + Sync> FromRequestParts<S> for Revision {
    type Rejection = Problem;

    async fn from_request_parts(parts: &mut Parts, _: &S) -> Result<Self, Problem> {
        // Several headers of one name are one list.
        let lines: Option<Vec<&str>> =
            parts.headers.get_all(IF_MATCH).iter().map(|v| v.to_str().ok()).collect();
        lines
            .and_then(|lines| expected(&lines.join(",")))
            .map(Self)
            .ok_or_else(Problem::revision_missing)
    }
}

/// What an If-Match header expects; `None` for one that names no revision. A weak tag matches
/// nothing here and is refused.
fn expected(value: &str) -> Option<Expected> {
    if value.trim() == "*" {
        return Some(Expected::anything());
    }
    let one = |tag: &str| tag.trim().trim_matches('"').parse().ok();
    Some(Expected::one_of(value.split(',').map(one).collect::<Option<Vec<i64>>>()?))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_revision_a_list_or_anything_is_expected() {
        assert_eq!(expected("\"3\""), Some(Expected::from(3)));
        assert_eq!(expected(" \"3\", \"4\" "), Some(Expected::one_of([3, 4])));
        assert_eq!(expected(" * "), Some(Expected::anything()));
        for wrong in ["", "\"three\"", "\"3\", *", "W/\"3\"", "\"3\","] {
            assert_eq!(expected(wrong), None, "{wrong}");
        }
    }
}
