//! What a user says the objects of the catalogue emit.

use crate::{Store, StoreError, now};

impl Store {
    /// What a user says a catalogue object emits: a JSON document, if any.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn target_emission(&self, object: &str) -> Result<Option<String>, StoreError> {
        Ok(sqlx::query_scalar("SELECT document FROM target_emission WHERE object = ?")
            .bind(object)
            .fetch_optional(&self.pool)
            .await?)
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
                let sql = "INSERT INTO target_emission (object, document, changed_at)
                           VALUES (?, ?, ?)
                           ON CONFLICT (object) DO UPDATE SET
                             document = excluded.document, changed_at = excluded.changed_at";
                sqlx::query(sql).bind(object).bind(text).bind(now()).execute(&self.pool).await?;
            }
            None => {
                sqlx::query("DELETE FROM target_emission WHERE object = ?")
                    .bind(object)
                    .execute(&self.pool)
                    .await?;
            }
        }
        Ok(())
    }
}
