//! The colours of a filter array.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A colour of a colour filter array.
#[derive(
    Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema,
)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs)]
pub enum CfaColour {
    R,
    G,
    B,
}

impl CfaColour {
    /// The colour of a letter of a pattern, in either case.
    pub fn from_letter(letter: char) -> Option<Self> {
        match letter.to_ascii_uppercase() {
            'R' => Some(Self::R),
            'G' => Some(Self::G),
            'B' => Some(Self::B),
            _ => None,
        }
    }

    /// The key in the scenario document.
    pub fn key(self) -> &'static str {
        match self {
            Self::R => "r",
            Self::G => "g",
            Self::B => "b",
        }
    }
}
