//! Rows that cannot be read any more: named, so that the rest is served and nothing is lost in
//! silence.

use serde::Serialize;
use utoipa::ToSchema;

use crate::{Store, StoreError};

/// A stored row that this program cannot read.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, ToSchema)]
pub struct DamagedRow {
    /// What it should be: "scenario", "campaign", "thing on the shelf".
    pub what: String,
    /// Its id.
    pub id: String,
    /// Its name, as it is stored beside the document.
    pub name: String,
    /// Why it cannot be read, with the field where that is known.
    pub why: String,
    /// The stored text, so that it can be saved and mended by hand.
    pub document: String,
}

impl DamagedRow {
    pub(crate) fn told(error: StoreError, name: String, document: String) -> Option<Self> {
        match error {
            StoreError::Damaged { what, id, why } => {
                Some(Self { what: what.to_owned(), id, name, why, document })
            }
            _ => None,
        }
    }
}

/// What can be read of many rows; each that cannot goes to the log.
pub(crate) fn readable<T>(rows: impl Iterator<Item = Result<T, StoreError>>) -> Vec<T> {
    rows.filter_map(|row| row.inspect_err(|e| tracing::error!("{e}")).ok()).collect()
}

impl Store {
    /// Every stored comparison, campaign and thing on the shelf that cannot be read.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn damaged(&self) -> Result<Vec<DamagedRow>, StoreError> {
        let mut all = self.damaged_scenarios().await?;
        all.extend(self.damaged_campaigns().await?);
        all.extend(self.damaged_shelf().await?);
        all.extend(self.damaged_lessons().await?);
        all.extend(self.damaged_trials().await?);
        Ok(all)
    }
}
