//! How a wrong field is named.

use serde::Serialize;
use utoipa::ToSchema;

/// A field that is wrong: where, and what is accepted.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, ToSchema)]
pub struct FieldError {
    /// Path of the field, such as `contenders[0].optics.aperture_mm`.
    pub path: String,
    /// What is wrong and what is accepted, in a sentence.
    pub message: String,
}
