//! Who may use it: the passphrase's hash, sessions of browsers and tokens of scripts. Secrets
//! themselves are nowhere here, only what they are known by.

use serde::Serialize;
use sqlx::FromRow;
use utoipa::ToSchema;

use crate::{Store, StoreError, new_id, now};

/// A browser that is signed in.
#[derive(Clone, Debug, FromRow, PartialEq, Eq, Serialize, ToSchema)]
pub struct SessionRow {
    /// Its id, by which it is ended.
    pub id: String,
    /// The browser and the address, as they said it.
    pub told: String,
    /// When it signed in, RFC 3339 in UTC.
    pub created_at: String,
    /// When it last asked for something, to the minute.
    pub seen_at: String,
    /// When it ends.
    pub ends_at: String,
}

/// A script's token.
#[derive(Clone, Debug, FromRow, PartialEq, Eq, Serialize, ToSchema)]
pub struct TokenRow {
    /// Its id, by which it is ended.
    pub id: String,
    /// What it is for, in its maker's words.
    pub name: String,
    /// When it was made, RFC 3339 in UTC.
    pub created_at: String,
    /// When it was last used, to the minute; null where it never was.
    pub used_at: Option<String>,
    /// When it ends.
    pub ends_at: String,
}

/// Times are told to the minute: one write a minute and not one a question.
const TOLD_AFTER_S: i64 = 60;

fn in_s(seconds: i64) -> String {
    format!("{:.3}", jiff::Timestamp::now() + jiff::SignedDuration::from_secs(seconds))
}

impl Store {
    /// Notes when something was last used. Where that cannot be stored (a full disk, a folder that
    /// vanished) who asks may read on all the same.
    async fn told_now(&self, sql: &'static str, id: &str) {
        let told = async {
            let mut db = self.writing().await?;
            sqlx::query(sql).bind(now()).bind(id).execute(&mut *db).await?;
            Ok::<_, StoreError>(())
        };
        if let Err(e) = told.await {
            tracing::warn!("when something was used was not noted: {e}");
        }
    }

    /// The hash of the passphrase; `None` where none was set.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn passphrase_hash(&self) -> Result<Option<String>, StoreError> {
        Ok(sqlx::query_scalar("SELECT hash FROM passphrase").fetch_optional(&self.pool).await?)
    }

    /// Sets the passphrase by its hash, or takes it away; all sessions end.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn set_passphrase_hash(&self, hash: Option<&str>) -> Result<(), StoreError> {
        let mut tx = self.begin().await?;
        sqlx::query("DELETE FROM passphrase").execute(&mut *tx).await?;
        sqlx::query("DELETE FROM session").execute(&mut *tx).await?;
        if let Some(hash) = hash {
            sqlx::query("INSERT INTO passphrase (one, hash, changed_at) VALUES (1, ?, ?)")
                .bind(hash)
                .bind(now())
                .execute(&mut *tx)
                .await?;
        }
        tx.commit().await?;
        Ok(())
    }

    /// Begins a session that is known by a secret's SHA-256, for so many seconds. Sessions that
    /// have ended are forgotten.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn add_session(
        &self,
        secret_sha256: &str,
        told: &str,
        seconds: i64,
    ) -> Result<(), StoreError> {
        let at = now();
        let mut tx = self.begin().await?;
        for table in ["session", "token"] {
            let sql = format!("DELETE FROM {table} WHERE ends_at < ?");
            sqlx::query(sqlx::AssertSqlSafe(sql)).bind(&at).execute(&mut *tx).await?;
        }
        sqlx::query(
            "INSERT INTO session (secret_sha256, id, told, created_at, seen_at, ends_at)
             VALUES (?, ?, ?, ?, ?, ?)",
        )
        .bind(secret_sha256)
        .bind(new_id())
        .bind(told)
        .bind(&at)
        .bind(&at)
        .bind(in_s(seconds))
        .execute(&mut *tx)
        .await?;
        tx.commit().await?;
        Ok(())
    }

    /// The session that a secret belongs to, if it has not ended.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn session(&self, secret_sha256: &str) -> Result<Option<SessionRow>, StoreError> {
        let sql = "SELECT id, told, created_at, seen_at, ends_at FROM session
                   WHERE secret_sha256 = ? AND ends_at > ?";
        let row: Option<SessionRow> =
            sqlx::query_as(sql).bind(secret_sha256).bind(now()).fetch_optional(&self.pool).await?;
        if let Some(row) = &row
            && row.seen_at < in_s(-TOLD_AFTER_S)
        {
            self.told_now("UPDATE session SET seen_at = ? WHERE id = ?", &row.id).await;
        }
        Ok(row)
    }

    /// All sessions that have not ended, last seen first.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn sessions(&self) -> Result<Vec<SessionRow>, StoreError> {
        let sql = "SELECT id, told, created_at, seen_at, ends_at FROM session WHERE ends_at > ?
                   ORDER BY seen_at DESC";
        Ok(sqlx::query_as(sql).bind(now()).fetch_all(&self.pool).await?)
    }

    /// Ends one session, or all of them.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] for one that there is not.
    pub async fn end_sessions(&self, id: Option<&str>) -> Result<(), StoreError> {
        let sql = "DELETE FROM session WHERE ?1 IS NULL OR id = ?1";
        let mut db = self.writing().await?;
        let done = sqlx::query(sql).bind(id).execute(&mut *db).await?;
        match id {
            Some(id) if done.rows_affected() == 0 => {
                Err(StoreError::NotFound { what: "session", id: id.to_owned() })
            }
            _ => Ok(()),
        }
    }

    /// Makes a token that is known by a secret's SHA-256, for so many seconds.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn add_token(
        &self,
        secret_sha256: &str,
        name: &str,
        seconds: i64,
    ) -> Result<TokenRow, StoreError> {
        let sql = "INSERT INTO token (secret_sha256, id, name, created_at, ends_at)
                   VALUES (?, ?, ?, ?, ?) RETURNING id, name, created_at, used_at, ends_at";
        let mut db = self.writing().await?;
        Ok(sqlx::query_as(sql)
            .bind(secret_sha256)
            .bind(new_id())
            .bind(name)
            .bind(now())
            .bind(in_s(seconds))
            .fetch_one(&mut *db)
            .await?)
    }

    /// The token that a secret belongs to, if it has not ended.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn token(&self, secret_sha256: &str) -> Result<Option<TokenRow>, StoreError> {
        let sql = "SELECT id, name, created_at, used_at, ends_at FROM token
                   WHERE secret_sha256 = ? AND ends_at > ?";
        let row: Option<TokenRow> =
            sqlx::query_as(sql).bind(secret_sha256).bind(now()).fetch_optional(&self.pool).await?;
        if let Some(row) = &row
            && row.used_at.as_ref().is_none_or(|at| *at < in_s(-TOLD_AFTER_S))
        {
            self.told_now("UPDATE token SET used_at = ? WHERE id = ?", &row.id).await;
        }
        Ok(row)
    }

    /// All tokens that have not ended, last made first.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn tokens(&self) -> Result<Vec<TokenRow>, StoreError> {
        let sql = "SELECT id, name, created_at, used_at, ends_at FROM token WHERE ends_at > ?
                   ORDER BY created_at DESC";
        Ok(sqlx::query_as(sql).bind(now()).fetch_all(&self.pool).await?)
    }

    /// Ends a token.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub async fn end_token(&self, id: &str) -> Result<(), StoreError> {
        let mut db = self.writing().await?;
        let done = sqlx::query("DELETE FROM token WHERE id = ?").bind(id).execute(&mut *db).await?;
        if done.rows_affected() == 1 {
            Ok(())
        } else {
            Err(StoreError::NotFound { what: "token", id: id.to_owned() })
        }
    }
}
