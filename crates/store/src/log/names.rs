//! What names in headers mean: said once, remembered.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::text::Text;
use crate::{Store, StoreError};

/// Of what a header gives a name.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum NameKind {
    /// A filter.
    Filter,
    /// A camera.
    Camera,
}

impl NameKind {
    fn word(self) -> &'static str {
        match self {
            Self::Filter => "filter",
            Self::Camera => "camera",
        }
    }
}

/// A name in headers, and what the kit calls it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct HeaderName {
    /// Of what.
    pub kind: NameKind,
    /// As headers have it.
    pub said: String,
    /// As the kit has it.
    pub means: String,
}

impl Store {
    /// All names that somebody has explained.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn header_names(&self) -> Result<Vec<HeaderName>, StoreError> {
        let rows: Vec<(Text, Text, Text)> =
            sqlx::query_as("SELECT kind, said, means FROM header_name ORDER BY kind, said")
                .fetch_all(&self.pool)
                .await?;
        let of = |(Text(kind), Text(said), Text(means)): (Text, Text, Text)| HeaderName {
            kind: if kind == "camera" { NameKind::Camera } else { NameKind::Filter },
            said,
            means,
        };
        Ok(rows.into_iter().map(of).collect())
    }

    /// Remembers what a name means; `None` forgets it.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn name_header(
        &self,
        kind: NameKind,
        said: &str,
        means: Option<&str>,
    ) -> Result<(), StoreError> {
        let sql = match means {
            Some(_) => {
                "INSERT INTO header_name (kind, said, means) VALUES (?, ?, ?)
                 ON CONFLICT (kind, said) DO UPDATE SET means = excluded.means"
            }
            None => "DELETE FROM header_name WHERE kind = ? AND said = ? AND ? IS NULL",
        };
        sqlx::query(sql)
            .bind(kind.word())
            .bind(said)
            .bind(means)
            .execute(&mut *self.writing().await?)
            .await?;
        Ok(())
    }
}
