//! Nights of the log, what happened in them, and the folders that are watched.

use salt_lamp_core::log::Corrections;
use serde::{Deserialize, Serialize};
use sqlx::FromRow;
use utoipa::ToSchema;

use crate::text::Text;
use crate::{Store, StoreError, document, new_id};

const WHAT: &str = "night of the log";

/// A night with a camera, in a list.
#[derive(Clone, Debug, PartialEq, FromRow, Serialize, ToSchema)]
pub struct LogSession {
    /// Its id.
    #[sqlx(try_from = "Text")]
    pub id: String,
    /// Evening's date.
    #[sqlx(try_from = "Text")]
    pub night: String,
    /// The camera as its headers call it; empty where they do not.
    #[sqlx(try_from = "Text")]
    pub camera: String,
    /// Free text.
    #[sqlx(try_from = "Text")]
    pub note: String,
    /// Frames of the sky.
    pub lights: i64,
    /// All frames.
    pub frames: i64,
    /// Seconds of the frames of the sky, those put aside included.
    pub exposed_s: f64,
    /// What they are of, with commas between.
    #[sqlx(try_from = "Text")]
    pub objects: String,
    /// Their filters, with commas between.
    #[sqlx(try_from = "Text")]
    pub filters: String,
}

/// Which nights are asked for.
#[derive(Clone, Debug, Default)]
pub struct SessionsAsked {
    /// Letters that object, filter, camera or note must have; empty for all.
    pub text: String,
    /// The first evening.
    pub from: String,
    /// The last one; empty for no end.
    pub to: String,
}

/// What happened.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum EventKind {
    /// The focus was set.
    Focus,
    /// A filter was moved, turned or exchanged: flats from before do not fit any more.
    FilterMoved,
    /// Cloud.
    Cloud,
    /// Dew.
    Dew,
    /// Anything else.
    Note,
}

impl EventKind {
    const ALL: [(Self, &'static str); 5] = [
        (Self::Focus, "focus"),
        (Self::FilterMoved, "filter_moved"),
        (Self::Cloud, "cloud"),
        (Self::Dew, "dew"),
        (Self::Note, "note"),
    ];

    fn word(self) -> &'static str {
        Self::ALL.iter().find(|(k, _)| *k == self).map_or("note", |(_, w)| w)
    }

    fn of(word: &str) -> Self {
        Self::ALL.iter().find(|(_, w)| *w == word).map_or(Self::Note, |(k, _)| *k)
    }
}

/// Something that happened in a night beside its frames.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct LogEvent {
    /// Its id.
    pub id: String,
    /// When, seconds since 1970 UTC.
    pub at_s: f64,
    /// What.
    pub kind: EventKind,
    /// Free text.
    pub text: String,
}

fn not_found(id: &str) -> StoreError {
    StoreError::NotFound { what: WHAT, id: id.to_owned() }
}

const LIST: &str = "SELECT s.id, s.night, s.camera, s.note,
       COUNT(CASE WHEN COALESCE(f.kind, 'light') = 'light' THEN 1 END) lights,
       COUNT(f.id) frames,
       CAST(TOTAL(CASE WHEN COALESCE(f.kind, 'light') = 'light' THEN f.exposure_s END) AS REAL)
         exposed_s,
       COALESCE(GROUP_CONCAT(DISTINCT f.object), '') objects,
       COALESCE(GROUP_CONCAT(DISTINCT f.filter), '') filters
     FROM log_session s LEFT JOIN frame f ON f.session = s.id";

impl Store {
    /// Nights, the last first.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn log_sessions(&self, asked: &SessionsAsked) -> Result<Vec<LogSession>, StoreError> {
        let sql = format!(
            "SELECT * FROM ({LIST}
               WHERE s.night >= ?1 AND (?2 = '' OR s.night <= ?2)
               GROUP BY s.id)
             WHERE ?3 = ''
                OR INSTR(LOWER(objects || char(10) || filters || char(10) || camera || char(10)
                     || note), ?3)
             ORDER BY night DESC, camera"
        );
        Ok(sqlx::query_as(sqlx::AssertSqlSafe(sql))
            .bind(&asked.from)
            .bind(&asked.to)
            .bind(asked.text.trim().to_lowercase())
            .fetch_all(&self.pool)
            .await?)
    }

    /// One night.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub async fn log_session(&self, id: &str) -> Result<LogSession, StoreError> {
        let sql = format!("{LIST} WHERE s.id = ? GROUP BY s.id");
        let row =
            sqlx::query_as(sqlx::AssertSqlSafe(sql)).bind(id).fetch_optional(&self.pool).await?;
        row.ok_or_else(|| not_found(id))
    }

    /// What was corrected of a night's headers; nothing where nobody did, or where it cannot be read
    /// any more.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn corrections_of(&self, session: &str) -> Result<Corrections, StoreError> {
        let found: Option<Text> =
            sqlx::query_scalar("SELECT document FROM session_correction WHERE session = ?")
                .bind(session)
                .fetch_optional(&self.pool)
                .await?;
        let read = |Text(document): Text| {
            let read = serde_json::from_str(&document);
            read.map_err(|e| tracing::error!("corrections of {session}: {e}")).ok()
        };
        Ok(found.and_then(read).unwrap_or_default())
    }

    /// Corrects a night's headers.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub async fn correct_session(
        &self,
        session: &str,
        corrections: &Corrections,
    ) -> Result<(), StoreError> {
        self.log_session(session).await?;
        let text = document("corrections", session, corrections)?;
        sqlx::query(
            "INSERT INTO session_correction (session, document) VALUES (?, ?)
             ON CONFLICT (session) DO UPDATE SET document = excluded.document",
        )
        .bind(session)
        .bind(text)
        .execute(&mut *self.writing().await?)
        .await?;
        Ok(())
    }

    /// Writes a night's note.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub async fn note_log_session(&self, id: &str, note: &str) -> Result<(), StoreError> {
        let done = sqlx::query("UPDATE log_session SET note = ? WHERE id = ?")
            .bind(note)
            .bind(id)
            .execute(&mut *self.writing().await?)
            .await?;
        if done.rows_affected() == 1 { Ok(()) } else { Err(not_found(id)) }
    }

    /// What happened in a night, in the order of time.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn log_events(&self, session: &str) -> Result<Vec<LogEvent>, StoreError> {
        let rows: Vec<(Text, f64, Text, Text)> = sqlx::query_as(
            "SELECT id, at_s, kind, text FROM log_event WHERE session = ? ORDER BY at_s, rowid",
        )
        .bind(session)
        .fetch_all(&self.pool)
        .await?;
        let read = |(Text(id), at_s, Text(kind), Text(text)): (Text, f64, Text, Text)| LogEvent {
            id,
            at_s,
            kind: EventKind::of(&kind),
            text,
        };
        Ok(rows.into_iter().map(read).collect())
    }

    /// Writes down that something happened.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] where there is no such night.
    pub async fn add_log_event(
        &self,
        session: &str,
        (at_s, kind, text): (f64, EventKind, &str),
    ) -> Result<LogEvent, StoreError> {
        self.log_session(session).await?;
        let id = new_id();
        sqlx::query("INSERT INTO log_event (id, session, at_s, kind, text) VALUES (?,?,?,?,?)")
            .bind(&id)
            .bind(session)
            .bind(at_s)
            .bind(kind.word())
            .bind(text)
            .execute(&mut *self.writing().await?)
            .await?;
        Ok(LogEvent { id, at_s, kind, text: text.to_owned() })
    }

    /// Strikes out what did not happen.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub async fn remove_log_event(&self, id: &str) -> Result<(), StoreError> {
        let done = sqlx::query("DELETE FROM log_event WHERE id = ?")
            .bind(id)
            .execute(&mut *self.writing().await?)
            .await?;
        let missing = StoreError::NotFound { what: "event", id: id.to_owned() };
        if done.rows_affected() == 1 { Ok(()) } else { Err(missing) }
    }

    /// The folders that are watched.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn watched_folders(&self) -> Result<Vec<String>, StoreError> {
        let all: Vec<Text> =
            sqlx::query_scalar("SELECT folder FROM watched_folder ORDER BY folder")
                .fetch_all(&self.pool)
                .await?;
        Ok(all.into_iter().map(|t| t.0).collect())
    }

    /// Watches a folder, or no longer.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn watch_folder(&self, folder: &str, watched: bool) -> Result<(), StoreError> {
        let sql = if watched {
            "INSERT INTO watched_folder (folder) VALUES (?) ON CONFLICT (folder) DO NOTHING"
        } else {
            "DELETE FROM watched_folder WHERE folder = ?"
        };
        sqlx::query(sql).bind(folder).execute(&mut *self.writing().await?).await?;
        Ok(())
    }
}
