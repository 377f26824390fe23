//! What a user says the objects of the catalogue emit.

use crate::text::Text;
use crate::{Store, StoreError, checksum, now};

impl Store {
    /// What a user says a catalogue object emits: a JSON document, if any.
    ///
    /// # Errors
    /// Where the database fails; [`StoreError::Damaged`].
    pub async fn target_emission(&self, object: &str) -> Result<Option<String>, StoreError> {
        let sql = "SELECT document, checksum FROM target_emission WHERE object = ?";
        let row: Option<(Text, Option<i64>)> =
            sqlx::query_as(sql).bind(object).fetch_optional(&self.pool).await?;
        match row {
            Some((document, sum)) if !checksum::fits(sum, &[&document.0]) => {
                Err(StoreError::Damaged {
                    what: "emission of",
                    id: object.to_owned(),
                    why: checksum::ALTERED.to_owned(),
                })
            }
            row => Ok(row.map(|r| r.0.0)),
        }
    }

    /// Stores what a catalogue object emits; `None` forgets it.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn set_target_emission(
        &self,
        object: &str,
        document: Option<&str>,
    ) -> Result<(), StoreError> {
        match document {
            Some(text) => {
                let sql = "INSERT INTO target_emission (object, document, changed_at, checksum)
                           VALUES (?, ?, ?, ?)
                           ON CONFLICT (object) DO UPDATE SET
                             document = excluded.document, changed_at = excluded.changed_at,
                             checksum = excluded.checksum";
                let sum = checksum::of(&[text]);
                sqlx::query(sql)
                    .bind(object)
                    .bind(text)
                    .bind(now())
                    .bind(sum)
                    .execute(&mut *self.writing().await?)
                    .await?;
            }
            None => {
                sqlx::query("DELETE FROM target_emission WHERE object = ?")
                    .bind(object)
                    .execute(&mut *self.writing().await?)
                    .await?;
            }
        }
        Ok(())
    }
}
