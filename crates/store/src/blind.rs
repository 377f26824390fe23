//! Blind looks: kept from the first glance to the reveal, and after it as a record.

use sqlx::FromRow;

use crate::text::Text;
use crate::{Store, StoreError, checksum, new_id, now};

/// A blind look as it is stored; documents are JSON text.
#[derive(Clone, Debug, FromRow, PartialEq, Eq)]
pub struct BlindRow {
    /// Its id.
    #[sqlx(try_from = "Text")]
    pub id: String,
    /// Title of the comparison.
    #[sqlx(try_from = "Text")]
    pub title: String,
    /// Scenario, view and hidden orders.
    #[sqlx(try_from = "Text")]
    pub document: String,
    /// Positions of each round from best to worst.
    #[sqlx(try_from = "Text")]
    pub choices: String,
    /// What was revealed.
    pub result: Option<String>,
    /// When it began, RFC 3339 in UTC.
    #[sqlx(try_from = "Text")]
    pub created_at: String,
    /// When it was revealed.
    pub revealed_at: Option<String>,
    checksum: Option<i64>,
}

impl BlindRow {
    fn checked(self) -> Result<Self, StoreError> {
        if checksum::fits(self.checksum, &[&self.title, &self.document]) {
            return Ok(self);
        }
        let why = checksum::ALTERED.to_owned();
        Err(StoreError::Damaged { what: WHAT, id: self.id, why })
    }
}

const WHAT: &str = "blind look";

impl Store {
    /// Begins a blind look.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn add_blind(&self, title: &str, document: &str) -> Result<BlindRow, StoreError> {
        let sql = "INSERT INTO blind_look (id, title, document, created_at, checksum) \
            VALUES (?, ?, ?, ?, ?) \
            RETURNING *";
        Ok(sqlx::query_as(sql)
            .bind(new_id())
            .bind(title)
            .bind(document)
            .bind(now())
            .bind(checksum::of(&[title, document]))
            .fetch_one(&mut *self.writing().await?)
            .await?)
    }

    /// One blind look.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub async fn blind(&self, id: &str) -> Result<BlindRow, StoreError> {
        let row: Option<BlindRow> = sqlx::query_as("SELECT * FROM blind_look WHERE id = ?")
            .bind(id)
            .fetch_optional(&self.pool)
            .await?;
        row.ok_or_else(|| StoreError::NotFound { what: WHAT, id: id.to_owned() })?.checked()
    }

    /// Keeps choices in the place of those that were read before; after the reveal nothing changes
    /// any more.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], also after the reveal and where somebody chose meanwhile.
    pub async fn set_blind_choices(
        &self,
        id: &str,
        was: &str,
        choices: &str,
    ) -> Result<(), StoreError> {
        let done = sqlx::query(
            "UPDATE blind_look SET choices = ? WHERE id = ? AND choices = ? AND \
            revealed_at IS NULL",
        )
        .bind(choices)
        .bind(id)
        .bind(was)
        .execute(&mut *self.writing().await?)
        .await?;
        if done.rows_affected() == 1 {
            Ok(())
        } else {
            Err(StoreError::NotFound { what: "blind look still hidden", id: id.to_owned() })
        }
    }

    /// Keeps what was revealed; a second reveal changes nothing.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn reveal_blind(&self, id: &str, result: &str) -> Result<BlindRow, StoreError> {
        let sql = "UPDATE blind_look SET result = COALESCE(result, ?), revealed_at = \
            COALESCE(revealed_at, ?) WHERE id = ? RETURNING *";
        let row = sqlx::query_as(sql)
            .bind(result)
            .bind(now())
            .bind(id)
            .fetch_optional(&mut *self.writing().await?)
            .await?;
        row.ok_or_else(|| StoreError::NotFound { what: WHAT, id: id.to_owned() })
    }

    /// Revealed blind looks, last first.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn blinds(&self) -> Result<Vec<BlindRow>, StoreError> {
        let sql = "SELECT * FROM blind_look WHERE revealed_at IS NOT NULL ORDER BY revealed_at \
            DESC LIMIT 50";
        Ok(sqlx::query_as(sql).fetch_all(&self.pool).await?)
    }
}
