//! Documents with a title: listed, read, saved over a revision, deleted and brought back, each row
//! under its checksum. What a document is, its own module says.

use serde::Serialize;
use serde::de::DeserializeOwned;
use sqlx::{AssertSqlSafe, FromRow, SqliteConnection};

use crate::damage::{DamagedRow, readable};
use crate::text::Text;
use crate::{Expected, Store, StoreError, checksum, document, now};

/// A table of documents.
#[derive(Clone, Copy)]
pub(crate) struct Documents {
    /// The table, which has the columns of [`COLUMNS`] and those of when.
    pub(crate) table: &'static str,
    /// What one is called.
    pub(crate) what: &'static str,
}

/// A document with its place in the store.
pub(crate) struct Kept<T> {
    pub(crate) id: String,
    pub(crate) revision: i64,
    pub(crate) changed_at: String,
    pub(crate) document: T,
}

const COLUMNS: &str = "id, title, document, revision, changed_at, checksum";

#[derive(FromRow)]
struct Row {
    #[sqlx(try_from = "Text")]
    id: String,
    #[sqlx(try_from = "Text")]
    title: String,
    #[sqlx(try_from = "Text")]
    document: String,
    revision: i64,
    #[sqlx(try_from = "Text")]
    changed_at: String,
    checksum: Option<i64>,
}

impl Row {
    fn read<T: DeserializeOwned>(self, what: &'static str) -> Result<Kept<T>, StoreError> {
        let damaged = |why: String| StoreError::Damaged { what, id: self.id.clone(), why };
        let document = serde_json::from_str(&self.document).map_err(|e| damaged(e.to_string()))?;
        if !checksum::fits(self.checksum, &[&self.title, &self.document]) {
            return Err(damaged(checksum::ALTERED.to_owned()));
        }
        Ok(Kept { id: self.id, revision: self.revision, changed_at: self.changed_at, document })
    }
}

impl Documents {
    fn not_found(self, id: &str) -> StoreError {
        StoreError::NotFound { what: self.what, id: id.to_owned() }
    }

    async fn rows(self, store: &Store) -> Result<Vec<Row>, StoreError> {
        let sql = format!(
            "SELECT {COLUMNS} FROM {} WHERE deleted_at IS NULL
             ORDER BY changed_at DESC, rowid DESC",
            self.table
        );
        Ok(sqlx::query_as(AssertSqlSafe(sql)).fetch_all(&store.pool).await?)
    }

    /// All that are not deleted and can be read, last changed first.
    pub(crate) async fn all<T: DeserializeOwned>(
        self,
        store: &Store,
    ) -> Result<Vec<Kept<T>>, StoreError> {
        Ok(readable(self.rows(store).await?.into_iter().map(|r| r.read(self.what))))
    }

    /// Those that cannot be read any more.
    pub(crate) async fn damaged<T: DeserializeOwned>(
        self,
        store: &Store,
    ) -> Result<Vec<DamagedRow>, StoreError> {
        let told = |r: Row| {
            let (name, text) = (r.title.clone(), r.document.clone());
            r.read::<T>(self.what).err().and_then(|e| DamagedRow::told(e, name, text))
        };
        Ok(self.rows(store).await?.into_iter().filter_map(told).collect())
    }

    /// One.
    pub(crate) async fn one<T: DeserializeOwned>(
        self,
        store: &Store,
        id: &str,
    ) -> Result<Kept<T>, StoreError> {
        let sql =
            format!("SELECT {COLUMNS} FROM {} WHERE id = ? AND deleted_at IS NULL", self.table);
        let row: Option<Row> =
            sqlx::query_as(AssertSqlSafe(sql)).bind(id).fetch_optional(&store.pool).await?;
        row.ok_or_else(|| self.not_found(id))?.read(self.what)
    }

    /// Stores a new one.
    pub(crate) async fn add<T: Serialize + DeserializeOwned>(
        self,
        store: &Store,
        id: &str,
        (title, value): (&str, &T),
    ) -> Result<Kept<T>, StoreError> {
        let at = now();
        let sql = format!(
            "INSERT INTO {} (id, title, document, created_at, changed_at, checksum)
             VALUES (?, ?, ?, ?, ?, ?)
             RETURNING {COLUMNS}",
            self.table
        );
        let text = document(self.what, id, value)?;
        let sum = checksum::of(&[title, &text]);
        let row: Row = sqlx::query_as(AssertSqlSafe(sql))
            .bind(id)
            .bind(title)
            .bind(text)
            .bind(&at)
            .bind(&at)
            .bind(sum)
            .fetch_one(&mut *store.writing().await?)
            .await?;
        row.read(self.what)
    }

    /// Saves over an expected revision; `None` where another stands there, or nothing.
    pub(crate) async fn save_over<T: Serialize + DeserializeOwned>(
        self,
        to: &mut SqliteConnection,
        (id, over): (&str, Expected),
        (title, value): (&str, &T),
    ) -> Result<Option<Kept<T>>, StoreError> {
        let sql = format!(
            "UPDATE {}
             SET title = ?1, document = ?2, revision = revision + 1, changed_at = ?3, checksum = ?6
             WHERE id = ?4
               AND (?5 IS NULL OR revision IN (SELECT value FROM json_each(?5)))
               AND deleted_at IS NULL
             RETURNING {COLUMNS}",
            self.table
        );
        let text = document(self.what, id, value)?;
        let sum = checksum::of(&[title, &text]);
        let row: Option<Row> = sqlx::query_as(AssertSqlSafe(sql))
            .bind(title)
            .bind(text)
            .bind(now())
            .bind(id)
            .bind(over.as_json())
            .bind(sum)
            .fetch_optional(to)
            .await?;
        row.map(|r| r.read(self.what)).transpose()
    }

    /// Deletes one so that it can be brought back.
    pub(crate) async fn delete(self, store: &Store, id: &str) -> Result<(), StoreError> {
        let sql =
            format!("UPDATE {} SET deleted_at = ? WHERE id = ? AND deleted_at IS NULL", self.table);
        let done = sqlx::query(AssertSqlSafe(sql))
            .bind(now())
            .bind(id)
            .execute(&mut *store.writing().await?)
            .await?;
        if done.rows_affected() == 1 { Ok(()) } else { Err(self.not_found(id)) }
    }

    /// Brings a deleted one back.
    pub(crate) async fn restore<T: DeserializeOwned>(
        self,
        store: &Store,
        id: &str,
    ) -> Result<Kept<T>, StoreError> {
        let sql =
            format!("UPDATE {} SET deleted_at = NULL WHERE id = ? RETURNING {COLUMNS}", self.table);
        let row: Option<Row> = sqlx::query_as(AssertSqlSafe(sql))
            .bind(id)
            .fetch_optional(&mut *store.writing().await?)
            .await?;
        row.ok_or_else(|| self.not_found(id))?.read(self.what)
    }
}
