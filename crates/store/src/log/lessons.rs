//! Figures that were taken over from a night: what they changed, and their way back.

use salt_lamp_core::campaign::Campaign;
use salt_lamp_core::library::ShelfEntry;
use salt_lamp_core::log::LessonTaken;
use serde::Serialize;
use sqlx::{FromRow, Sqlite, Transaction};
use utoipa::ToSchema;

use crate::damage::{DamagedRow, readable};
use crate::text::Text;
use crate::{Store, StoreError, campaigns, checksum, document, new_id, now, shelf};

/// A lesson with its place in the store.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct StoredLesson {
    /// Its id.
    pub id: String,
    /// Id of the night that taught it; null where that night is no longer in the log.
    pub session: Option<String>,
    /// When it was taken, RFC 3339 in UTC.
    pub taken_at: String,
    /// When it was taken back; null while it counts.
    pub undone_at: Option<String>,
    /// What was taken.
    pub lesson: LessonTaken,
}

/// Documents as a lesson, or its way back, leaves them, each with the revision that it stood at.
#[derive(Clone, Debug, Default)]
pub struct Taught {
    /// Things of the kit.
    pub kit: Vec<(String, i64, ShelfEntry)>,
    /// Campaigns.
    pub campaigns: Vec<(String, i64, Campaign)>,
}

#[derive(FromRow)]
struct Row {
    #[sqlx(try_from = "Text")]
    id: String,
    session: Option<String>,
    #[sqlx(try_from = "Text")]
    document: String,
    #[sqlx(try_from = "Text")]
    taken_at: String,
    undone_at: Option<String>,
    checksum: Option<i64>,
}

const COLUMNS: &str = "id, session, document, taken_at, undone_at, checksum";

impl Row {
    fn read(self) -> Result<StoredLesson, StoreError> {
        let damaged = |why| StoreError::Damaged { what: "lesson", id: self.id.clone(), why };
        if !checksum::fits(self.checksum, &[&self.document]) {
            return Err(damaged(checksum::ALTERED.to_owned()));
        }
        let lesson = serde_json::from_str(&self.document).map_err(|e| damaged(e.to_string()))?;
        let Self { id, session, taken_at, undone_at, .. } = self;
        Ok(StoredLesson { id, session, taken_at, undone_at, lesson })
    }
}

impl Store {
    /// All lessons, the last first; one that cannot be read any more is left out, and the server's log
    /// says so.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn lessons(&self) -> Result<Vec<StoredLesson>, StoreError> {
        Ok(readable(self.lesson_rows().await?.into_iter().map(Row::read)))
    }

    async fn lesson_rows(&self) -> Result<Vec<Row>, StoreError> {
        let sql = format!("SELECT {COLUMNS} FROM lesson ORDER BY taken_at DESC, rowid DESC");
        Ok(sqlx::query_as(sqlx::AssertSqlSafe(sql)).fetch_all(&self.pool).await?)
    }

    /// Lessons that cannot be read.
    pub(crate) async fn damaged_lessons(&self) -> Result<Vec<DamagedRow>, StoreError> {
        let of = |row: Row| {
            let (name, document) = (format!("taken over {}", row.taken_at), row.document.clone());
            DamagedRow::told(row.read().err()?, name, document)
        };
        Ok(self.lesson_rows().await?.into_iter().filter_map(of).collect())
    }

    /// A lesson.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Damaged`].
    pub async fn lesson(&self, id: &str) -> Result<StoredLesson, StoreError> {
        let sql = format!("SELECT {COLUMNS} FROM lesson WHERE id = ?");
        let row: Option<Row> =
            sqlx::query_as(sqlx::AssertSqlSafe(sql)).bind(id).fetch_optional(&self.pool).await?;
        row.ok_or_else(|| not_found(id))?.read()
    }

    /// Takes a lesson: all its documents are saved, or none is. `None` where somebody saved one of
    /// them meanwhile.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn take_lesson(
        &self,
        session: &str,
        lesson: &LessonTaken,
        taught: Taught,
    ) -> Result<Option<StoredLesson>, StoreError> {
        let id = new_id();
        let text = document("lesson", &id, lesson)?;
        let mut tx = self.begin().await?;
        if !saved(&mut tx, taught).await? {
            return Ok(None);
        }
        let sql = "INSERT INTO lesson (id, session, document, taken_at, checksum)
                   VALUES (?1, ?2, ?3, ?4, ?5)";
        let sum = checksum::of(&[&text]);
        let row = sqlx::query(sql).bind(&id).bind(session).bind(text).bind(now()).bind(sum);
        row.execute(&mut *tx).await?;
        tx.commit().await?;
        self.lesson(&id).await.map(Some)
    }

    /// Takes a lesson back; `None` where somebody saved one of its documents meanwhile.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] where there is no such lesson, or it was taken back before.
    pub async fn undo_lesson(
        &self,
        id: &str,
        taught: Taught,
    ) -> Result<Option<StoredLesson>, StoreError> {
        let mut tx = self.begin().await?;
        if !saved(&mut tx, taught).await? {
            return Ok(None);
        }
        let sql = "UPDATE lesson SET undone_at = ? WHERE id = ? AND undone_at IS NULL";
        let done = sqlx::query(sql).bind(now()).bind(id).execute(&mut *tx).await?;
        if done.rows_affected() != 1 {
            return Err(not_found(id));
        }
        tx.commit().await?;
        self.lesson(id).await.map(Some)
    }
}

/// Saves all documents; false, and nothing stays, where one stands at another revision.
async fn saved(tx: &mut Transaction<'_, Sqlite>, taught: Taught) -> Result<bool, StoreError> {
    for (id, revision, entry) in &taught.kit {
        if !shelf::save_over(tx, id, (*revision).into(), entry).await? {
            return Ok(false);
        }
    }
    for (id, revision, campaign) in &taught.campaigns {
        if campaigns::ROWS
            .save_over(tx, (id, (*revision).into()), (&campaign.title, campaign))
            .await?
            .is_none()
        {
            return Ok(false);
        }
    }
    Ok(true)
}

fn not_found(id: &str) -> StoreError {
    StoreError::NotFound { what: "lesson", id: id.to_owned() }
}
