//! Stored documents in answers: the revision as the ETag, by which the next save names what it
//! started from.

use axum::Json;
use axum::http::header;
use axum::response::IntoResponse;
use salt_lamp_store::{StoredCampaign, StoredScenario, StoredTrial};
use serde::Serialize;

/// What has a revision.
pub(crate) trait Revised: Serialize {
    /// How often it was saved.
    fn revision(&self) -> i64;
}

impl Revised for StoredCampaign {
    fn revision(&self) -> i64 {
        self.revision
    }
}

impl Revised for StoredScenario {
    fn revision(&self) -> i64 {
        self.row.revision
    }
}

impl Revised for StoredTrial {
    fn revision(&self) -> i64 {
        self.revision
    }
}

/// A document with its revision as the ETag.
pub(crate) fn tagged<T: Revised>(stored: T) -> impl IntoResponse + use<T> {
    ([(header::ETAG, format!("\"{}\"", stored.revision()))], Json(stored))
}
