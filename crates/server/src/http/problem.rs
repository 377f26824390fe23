//! Errors as RFC 9457 problem documents.

use std::any::Any;

use axum::http::{HeaderValue, StatusCode, header};
use axum::response::{IntoResponse, Response};
use salt_lamp_core::FieldError;
use salt_lamp_core::night::EphemerisError;
use salt_lamp_formats::ReadError;
use salt_lamp_store::{StoreError, Trouble};
use serde::Serialize;
use utoipa::ToSchema;

/// A problem document (RFC 9457) with the fields that are wrong.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Problem {
    /// What kind of problem, as a URN.
    #[serde(rename = "type")]
    pub kind: String,
    /// The kind in words.
    pub title: String,
    /// HTTP status.
    pub status: u16,
    /// What happened this time.
    pub detail: String,
    /// Which fields are wrong and what is accepted there.
    pub errors: Vec<FieldError>,
    /// For a conflict: what is stored now, as a read of the same address would answer it.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<serde_json::Value>)]
    pub current: Option<serde_json::Value>,
    /// When to ask again, s, where that is worth it; also the header Retry-After.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub retry_after_s: Option<u32>,
}

/// When a busy server may be asked again, s.
const RETRY_AFTER_S: u32 = 2;

impl Problem {
    fn new(status: StatusCode, kind: &str, title: &str, detail: impl Into<String>) -> Self {
        Self {
            kind: format!("urn:salt-lamp:problem:{kind}"),
            title: title.into(),
            status: status.as_u16(),
            detail: detail.into(),
            errors: Vec::new(),
            current: None,
            retry_after_s: None,
        }
    }

    /// 404.
    pub fn not_found(detail: impl Into<String>) -> Self {
        Self::new(StatusCode::NOT_FOUND, "not-found", "Not found", detail)
    }

    /// 412 with what is stored now.
    pub fn conflict(current: &impl Serialize) -> Self {
        let detail = "Somebody saved this after you opened it. Nothing was overwritten; what is \
            stored now is in `current`.";
        let problem =
            Self::new(StatusCode::PRECONDITION_FAILED, "conflict", "Changed meanwhile", detail);
        Self { current: serde_json::to_value(current).ok(), ..problem }
    }

    /// 428: a save must say which revision it started from.
    pub fn revision_missing() -> Self {
        let detail = "Give the revision that you started from in the header If-Match, such as \
            \"3\" in double quotes, several with commas between them, or * for whatever is stored.";
        Self::new(StatusCode::PRECONDITION_REQUIRED, "revision-missing", "Revision missing", detail)
    }

    /// 422 for one field.
    pub fn field(path: &str, message: impl Into<String>) -> Self {
        let message = message.into();
        Self::fields(vec![FieldError { path: path.to_owned(), message }])
    }

    /// 422 for several fields.
    pub fn fields(errors: Vec<FieldError>) -> Self {
        let detail = errors
            .iter()
            .map(|e| format!("{}: {}", e.path, e.message))
            .collect::<Vec<_>>()
            .join("; ");
        Self {
            errors,
            ..Self::new(
                StatusCode::UNPROCESSABLE_ENTITY,
                "values",
                "A value is not accepted",
                detail,
            )
        }
    }

    /// 413.
    pub fn too_large(limit_bytes: usize) -> Self {
        let detail = format!(
            "The document is larger than the {} MB that are accepted.",
            limit_bytes / 1_000_000
        );
        Self::new(StatusCode::PAYLOAD_TOO_LARGE, "too-large", "Too large", detail)
    }

    /// 415.
    pub fn not_json() -> Self {
        let detail = "Send the document with the header Content-Type: application/json.";
        Self::new(StatusCode::UNSUPPORTED_MEDIA_TYPE, "not-json", "Not JSON", detail)
    }

    /// 421: the request names a host that this server is not.
    pub fn unknown_host(host: &str) -> Self {
        let detail = format!(
            "This server does not answer under the name \"{host}\". It answers on this machine's \
                own names (localhost, 127.0.0.1) and \
             on the address it listens on; `salt-lamp serve --allow-host NAME` adds one."
        );
        Self::new(StatusCode::MISDIRECTED_REQUEST, "unknown-host", "Not this server's name", detail)
    }

    /// 403: a page of another origin would change something.
    pub fn foreign_origin() -> Self {
        let detail = "Only pages of this server itself may change something here.";
        Self::new(StatusCode::FORBIDDEN, "foreign-origin", "Not from here", detail)
    }

    /// 429: too many questions wait already.
    pub fn busy() -> Self {
        let detail = "Too many questions wait for this server at once. Nothing was lost; ask again \
            in a moment.";
        let problem = Self::new(StatusCode::TOO_MANY_REQUESTS, "busy", "Busy", detail);
        Self { retry_after_s: Some(RETRY_AFTER_S), ..problem }
    }

    /// 401: who asks is not known.
    pub fn sign_in() -> Self {
        let detail = "Sign in with the passphrase, or send a token as `Authorization: Bearer \
            SECRET`.";
        Self::new(StatusCode::UNAUTHORIZED, "sign-in", "Sign in", detail)
    }

    /// 401: the passphrase is another.
    pub fn wrong_passphrase() -> Self {
        let detail = "That is not the passphrase.";
        Self::new(StatusCode::UNAUTHORIZED, "wrong-passphrase", "Not the passphrase", detail)
    }

    /// 409: there is no passphrase to sign in with.
    pub fn no_passphrase() -> Self {
        let detail = "No passphrase is set: whoever is at this machine may use the program.";
        Self::new(StatusCode::CONFLICT, "no-passphrase", "No passphrase", detail)
    }

    /// 403: a script would change who may use the program.
    pub fn not_by_token() -> Self {
        let detail = "A token may not change who may use the program: sign in with a browser.";
        Self::new(StatusCode::FORBIDDEN, "not-by-token", "Not with a token", detail)
    }

    /// 429: an attempt that comes too soon after others that failed.
    pub fn too_soon(wait: std::time::Duration) -> Self {
        let s = u32::try_from(wait.as_secs() + 1).unwrap_or(u32::MAX);
        let detail = format!("Too many wrong passphrases: try again in {s} s.");
        let problem = Self::new(StatusCode::TOO_MANY_REQUESTS, "too-soon", "Too soon", detail);
        Self { retry_after_s: Some(s), ..problem }
    }

    /// 503: the answer took longer than anybody should wait.
    pub fn too_long(after: std::time::Duration) -> Self {
        let detail = format!(
            "The answer was not ready after {} s and was given up. Ask for less, or again later.",
            after.as_secs()
        );
        Self::new(StatusCode::SERVICE_UNAVAILABLE, "too-long", "Took too long", detail)
    }

    /// 500: the program failed at something that the asker had no part in. It is logged.
    pub fn fault(what: impl std::fmt::Display) -> Self {
        tracing::error!("{what}");
        let detail = format!(
            "The program failed: {what}. It was no fault of the question; the server's log has it, \
                too."
        );
        Self::new(StatusCode::INTERNAL_SERVER_ERROR, "fault", "The server failed", detail)
    }

    /// 500: something stored cannot be read. It is logged.
    pub fn damaged(what: &str, id: &str, why: impl std::fmt::Display) -> Self {
        StoreError::Damaged {
            what: "stored document",
            id: format!("{what} {id}"),
            why: why.to_string(),
        }
        .into()
    }

    /// 400 for a body that broke off.
    pub fn broken_off(why: impl std::fmt::Display) -> Self {
        Self::new(StatusCode::BAD_REQUEST, "broken-off", "Request broken off", why.to_string())
    }
}

impl From<ReadError> for Problem {
    fn from(e: ReadError) -> Self {
        let errors = e.fields();
        let (status, kind, title) = match e {
            ReadError::Syntax { .. } => (StatusCode::BAD_REQUEST, "syntax", "Not JSON"),
            ReadError::Shape(_) => (
                StatusCode::UNPROCESSABLE_ENTITY,
                "shape",
                "A field is missing, unknown or of the wrong type",
            ),
            ReadError::Values(_) => {
                (StatusCode::UNPROCESSABLE_ENTITY, "values", "A value is not accepted")
            }
        };
        Self { errors, ..Self::new(status, kind, title, e.to_string()) }
    }
}

impl From<EphemerisError> for Problem {
    fn from(e: EphemerisError) -> Self {
        // Dates and places are checked before: what fails here is ours.
        Self::fault(e)
    }
}

impl From<StoreError> for Problem {
    fn from(e: StoreError) -> Self {
        match &e {
            StoreError::NotFound { .. } => Self::not_found(e.to_string()),
            StoreError::Damaged { .. } => {
                tracing::error!("{e}");
                Self::new(
                    StatusCode::INTERNAL_SERVER_ERROR,
                    "damaged",
                    "Stored data cannot be read",
                    e.to_string(),
                )
            }
            _ => {
                tracing::error!("{e}");
                let (status, kind, title) = match e.trouble() {
                    Trouble::Full => (StatusCode::INSUFFICIENT_STORAGE, "full", "The disk is full"),
                    Trouble::Gone => {
                        (StatusCode::SERVICE_UNAVAILABLE, "gone", "The data cannot be written")
                    }
                    Trouble::Busy => {
                        (StatusCode::SERVICE_UNAVAILABLE, "store-busy", "The database is busy")
                    }
                    Trouble::Other => {
                        (StatusCode::INTERNAL_SERVER_ERROR, "store", "The store failed")
                    }
                };
                let nothing = "Nothing was stored, and what you typed is kept here";
                Self::new(status, kind, title, format!("{nothing}: {e}."))
            }
        }
    }
}

impl IntoResponse for Problem {
    fn into_response(self) -> Response {
        let status = StatusCode::from_u16(self.status).unwrap_or(StatusCode::INTERNAL_SERVER_ERROR);
        let retry_after_s = self.retry_after_s;
        let mut response = (status, axum::Json(self)).into_response();
        response
            .headers_mut()
            .insert(header::CONTENT_TYPE, HeaderValue::from_static("application/problem+json"));
        if let Some(s) = retry_after_s {
            response.headers_mut().insert(header::RETRY_AFTER, s.into());
        }
        response
    }
}

/// A panic in a handler becomes a 500, and the server goes on.
pub(crate) fn from_panic(panic: Box<dyn Any + Send>) -> Response {
    let text = panic
        .downcast_ref::<String>()
        .map(String::as_str)
        .or_else(|| panic.downcast_ref::<&str>().copied());
    tracing::error!("panic: {}", text.unwrap_or("no message"));
    Problem::new(
        StatusCode::INTERNAL_SERVER_ERROR,
        "internal",
        "Internal error",
        "The program met a case it was not made for.",
    )
    .into_response()
}

#[cfg(test)]
mod tests {
    use sqlx::{Connection, Executor, SqliteConnection};

    use super::*;

    #[tokio::test]
    async fn a_full_disk_is_told_as_such() {
        let mut db = SqliteConnection::connect("sqlite::memory:").await.expect("opens");
        db.execute("CREATE TABLE note (words TEXT); PRAGMA max_page_count = 2").await.expect("set");
        let full = db.execute("INSERT INTO note VALUES (zeroblob(100000))").await;
        let problem = Problem::from(StoreError::from(full.expect_err("no room")));
        assert_eq!(problem.status, 507);
        assert!(problem.detail.starts_with("Nothing was stored"), "{}", problem.detail);
    }
}
