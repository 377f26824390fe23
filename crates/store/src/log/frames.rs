//! Frames of the log: taken in once each, read with what was measured, overruled, looked for.

use salt_lamp_core::frame::FrameMeasured;
use salt_lamp_core::log::Corrections;
use serde::{Deserialize, Serialize};
use sqlx::FromRow;
use utoipa::ToSchema;

use crate::damage::DamagedRow;
use crate::text::Text;
use crate::{Store, StoreError, checksum, document, new_id, now};

const WHAT: &str = "frame";
/// Frames that are looked through for damage at once.
const CHECKED_AT_ONCE: i64 = 400;

/// What somebody said of a frame.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Decision {
    /// It is kept, whatever the rules say.
    Kept,
    /// It is put aside, whatever the rules say.
    Aside,
}

impl Decision {
    fn word(self) -> &'static str {
        match self {
            Self::Kept => "kept",
            Self::Aside => "aside",
        }
    }
}

/// A file as it lies in its folder.
#[derive(Clone, Debug, PartialEq, Eq, FromRow)]
pub struct FileSeen {
    /// Its whole path.
    pub path: String,
    /// Its length, bytes.
    pub bytes: i64,
    /// When it was last written, ms since 1970 UTC.
    pub modified_ms: i64,
}

/// A frame that comes in.
#[derive(Clone, Debug)]
pub struct NewFrame<'a> {
    /// SHA-256 of its file, hexadecimal.
    pub content: &'a str,
    /// The name that earlier versions gave the same content; null where that does not matter.
    pub older_content: Option<&'a str>,
    /// Its file; of one that was dropped without a path.
    pub file: FileSeen,
    /// Whether it has a file that stays where it is.
    pub stays: bool,
    /// Evening's date.
    pub night: &'a str,
    /// When it began, seconds since 1970 UTC.
    pub start_s: Option<f64>,
    /// What was measured.
    pub measured: &'a FrameMeasured,
    /// A small picture, PNG.
    pub preview: &'a [u8],
    /// Level and scatter by which that was drawn, ADU.
    pub shown: [f64; 2],
}

/// What became of a frame that came in.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct TakenIn {
    /// The frame's id.
    pub frame: String,
    /// Its night.
    pub session: String,
    /// Whether it was not known before.
    pub is_new: bool,
}

/// A frame with what was measured.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct LoggedFrame {
    /// Its id.
    pub id: String,
    /// Where its file lies; null of one that was dropped, or whose file was written over.
    pub path: Option<String>,
    /// Whether its file was not there when it was last looked for.
    pub gone: bool,
    /// When it began, seconds since 1970 UTC.
    pub start_s: Option<f64>,
    /// What somebody said of it; null where the rules decide.
    pub decision: Option<Decision>,
    /// Why, in the words of whoever said so.
    pub why: String,
    /// Root mean square of the guider's errors in it, arcsec, where its table was read.
    pub guiding_arcsec: Option<f64>,
    /// What was measured, its header as it was corrected for its session.
    pub measured: FrameMeasured,
}

impl LoggedFrame {
    /// Puts what was corrected for its session in the place of what its header says.
    fn correct(&mut self, corrections: &Corrections) {
        corrections.apply(&mut self.measured);
        self.start_s = self.start_s.map(|s| s + corrections.clock_off_s.unwrap_or(0.0));
    }
}

#[derive(FromRow)]
struct Row {
    #[sqlx(try_from = "Text")]
    id: String,
    path: Option<String>,
    gone: bool,
    start_s: Option<f64>,
    decision: Option<String>,
    #[sqlx(try_from = "Text")]
    why: String,
    #[sqlx(try_from = "Text")]
    document: String,
    checksum: Option<i64>,
    guiding_arcsec: Option<f64>,
}

impl Row {
    fn read(self) -> Result<LoggedFrame, StoreError> {
        let damaged = |why: String| StoreError::Damaged { what: WHAT, id: self.id.clone(), why };
        let measured = serde_json::from_str(&self.document).map_err(|e| damaged(e.to_string()))?;
        if !checksum::fits(self.checksum, &[&self.document]) {
            return Err(damaged(checksum::ALTERED.to_owned()));
        }
        let decision = match self.decision.as_deref() {
            Some("kept") => Some(Decision::Kept),
            Some(_) => Some(Decision::Aside),
            None => None,
        };
        let Self { id, path, gone, start_s, why, guiding_arcsec, .. } = self;
        Ok(LoggedFrame { id, path, gone, start_s, decision, why, guiding_arcsec, measured })
    }
}

const FULL: &str = "SELECT f.id, f.path, f.gone, f.start_s, f.decision, f.why, m.document, \
    f.checksum, f.guiding_arcsec FROM frame f JOIN frame_measured m ON m.frame = f.id";

/// Work off the threads that answer requests; a panic of it goes on in whoever waits.
async fn aside<T: Send + 'static>(work: impl FnOnce() -> T + Send + 'static) -> T {
    match tokio::task::spawn_blocking(work).await {
        Ok(done) => done,
        Err(e) => std::panic::resume_unwind(e.into_panic()),
    }
}

/// Those that can be read, and what is told of the others.
fn told_apart(rows: Vec<Row>) -> (Vec<LoggedFrame>, Vec<DamagedRow>) {
    let (mut frames, mut damaged) = (Vec::with_capacity(rows.len()), Vec::new());
    for row in rows {
        let (name, text) =
            (row.path.clone().unwrap_or_else(|| row.id.clone()), row.document.clone());
        match row.read() {
            Ok(frame) => frames.push(frame),
            Err(e) => {
                tracing::error!("{e}");
                damaged.extend(DamagedRow::told(e, name, text));
            }
        }
    }
    (frames, damaged)
}

fn not_found(id: &str) -> StoreError {
    StoreError::NotFound { what: WHAT, id: id.to_owned() }
}

impl Store {
    /// Takes a frame in, and its night where it is the first of it; one whose content is known only
    /// gets to know where its file lies now.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn take_in(&self, f: &NewFrame<'_>) -> Result<TakenIn, StoreError> {
        let mut tx = self.begin().await?;
        let path = f.stays.then_some(f.file.path.as_str());
        let known: Option<(Text, Text)> =
            sqlx::query_as("SELECT id, session FROM frame WHERE content IN (?, ?)")
                .bind(f.content)
                .bind(f.older_content)
                .fetch_optional(&mut *tx)
                .await?;
        if let Some((Text(frame), Text(session))) = known {
            if f.stays {
                file_moved(&mut tx, &frame, &f.file).await?;
                tx.commit().await?;
            }
            return Ok(TakenIn { frame, session, is_new: false });
        }
        // Where another frame's file lay: that was written over.
        sqlx::query("UPDATE frame SET path = NULL, gone = 1 WHERE path = ?")
            .bind(path)
            .execute(&mut *tx)
            .await?;
        let h = &f.measured.read.header;
        let camera = h.camera.clone().unwrap_or_default();
        sqlx::query(
            "INSERT INTO log_session (id, night, camera, created_at) VALUES (?, ?, ?, ?)
             ON CONFLICT (night, camera) DO NOTHING",
        )
        .bind(new_id())
        .bind(f.night)
        .bind(&camera)
        .bind(now())
        .execute(&mut *tx)
        .await?;
        let Text(session) =
            sqlx::query_scalar("SELECT id FROM log_session WHERE night = ? AND camera = ?")
                .bind(f.night)
                .bind(&camera)
                .fetch_one(&mut *tx)
                .await?;
        let id = new_id();
        let text = document(WHAT, &id, f.measured)?;
        let kind = serde_json::to_value(h.kind).ok().and_then(|v| v.as_str().map(str::to_owned));
        sqlx::query(
            "INSERT INTO frame (id, session, content, path, bytes, modified_ms, start_s, kind,
               object, filter, exposure_s, gain, shown_level, shown_sigma, checksum, added_at)
             VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        )
        .bind(&id)
        .bind(&session)
        .bind(f.content)
        .bind(path)
        .bind(f.file.bytes)
        .bind(f.file.modified_ms)
        .bind(f.start_s)
        .bind(kind)
        .bind(&h.object)
        .bind(&h.filter)
        .bind(h.exposure_s)
        .bind(h.gain)
        .bind(f.shown[0])
        .bind(f.shown[1])
        .bind(checksum::of(&[&text]))
        .bind(now())
        .execute(&mut *tx)
        .await?;
        sqlx::query("INSERT INTO frame_measured (frame, document, preview) VALUES (?, ?, ?)")
            .bind(&id)
            .bind(text)
            .bind(f.preview)
            .execute(&mut *tx)
            .await?;
        tx.commit().await?;
        Ok(TakenIn { frame: id, session, is_new: true })
    }

    /// Whether a frame of a file so long, bytes, is known by the name that earlier versions gave its
    /// content: names do not begin as `now` says.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn has_older_names(&self, bytes: i64, now: &str) -> Result<bool, StoreError> {
        let sql =
            "SELECT EXISTS (SELECT 1 FROM frame WHERE bytes = ? AND substr(content, 1, ?) <> ?)";
        let known: bool = sqlx::query_scalar(sql)
            .bind(bytes)
            .bind(now.len() as i64)
            .bind(now)
            .fetch_one(&self.pool)
            .await?;
        Ok(known)
    }

    /// Level and scatter by which the first frame like one was drawn, ADU: of its night, camera,
    /// filter, length and gain.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn shown_like(
        &self,
        night: &str,
        measured: &FrameMeasured,
    ) -> Result<Option<[f64; 2]>, StoreError> {
        let h = &measured.read.header;
        let sql = "SELECT f.shown_level, f.shown_sigma FROM frame f
             JOIN log_session s ON s.id = f.session
             WHERE s.night = ? AND s.camera = ? AND f.filter IS ? AND f.exposure_s IS ?
               AND f.gain IS ? AND f.kind IS ?
             ORDER BY f.rowid LIMIT 1";
        let kind = serde_json::to_value(h.kind).ok().and_then(|v| v.as_str().map(str::to_owned));
        let found: Option<(f64, f64)> = sqlx::query_as(sql)
            .bind(night)
            .bind(h.camera.clone().unwrap_or_default())
            .bind(&h.filter)
            .bind(h.exposure_s)
            .bind(h.gain)
            .bind(kind)
            .fetch_optional(&self.pool)
            .await?;
        Ok(found.map(|(level, sigma)| [level, sigma]))
    }

    /// Seals the frames that were mended by hand.
    pub(crate) async fn seal_frames(&self) -> Result<(), StoreError> {
        let sql = format!("{FULL} WHERE f.checksum IS NULL");
        let rows: Vec<Row> = sqlx::query_as(sqlx::AssertSqlSafe(sql)).fetch_all(&self.pool).await?;
        for row in rows {
            sqlx::query("UPDATE frame SET checksum = ? WHERE id = ?")
                .bind(checksum::of(&[&row.document]))
                .bind(&row.id)
                .execute(&mut *self.writing().await?)
                .await?;
        }
        Ok(())
    }

    /// Every file that the log knows, as it was when it was read.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn known_files(&self) -> Result<Vec<FileSeen>, StoreError> {
        let sql = "SELECT path, bytes, modified_ms FROM frame WHERE path IS NOT NULL";
        Ok(sqlx::query_as(sql).fetch_all(&self.pool).await?)
    }

    /// Says of files that they are there, or are gone.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn files_gone(&self, paths: &[String], gone: bool) -> Result<(), StoreError> {
        let mut tx = self.begin().await?;
        for path in paths {
            sqlx::query("UPDATE frame SET gone = ? WHERE path = ?")
                .bind(gone)
                .bind(path)
                .execute(&mut *tx)
                .await?;
        }
        Ok(tx.commit().await?)
    }

    /// The frames of a night in the order of time, and those of them that cannot be read. Documents
    /// are read off the threads that answer requests.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn frames_of(
        &self,
        session: &str,
    ) -> Result<(Vec<LoggedFrame>, Vec<DamagedRow>), StoreError> {
        let sql = format!("{FULL} WHERE f.session = ? ORDER BY f.start_s, f.rowid");
        let rows: Vec<Row> =
            sqlx::query_as(sqlx::AssertSqlSafe(sql)).bind(session).fetch_all(&self.pool).await?;
        let corrections = self.corrections_of(session).await?;
        let work = move || {
            let (mut frames, damaged) = told_apart(rows);
            frames.iter_mut().for_each(|f| f.correct(&corrections));
            (frames, damaged)
        };
        Ok(aside(work).await)
    }

    /// The dark frames of all nights of a camera, as its headers call it; those that cannot be read
    /// are left out.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn darks_of(&self, camera: &str) -> Result<Vec<LoggedFrame>, StoreError> {
        let sql = format!(
            "{FULL} JOIN log_session s ON s.id = f.session WHERE s.camera = ? AND f.kind = 'dark'"
        );
        let rows: Vec<Row> =
            sqlx::query_as(sqlx::AssertSqlSafe(sql)).bind(camera).fetch_all(&self.pool).await?;
        Ok(aside(move || told_apart(rows).0).await)
    }

    /// One frame.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Damaged`].
    pub async fn logged_frame(&self, id: &str) -> Result<LoggedFrame, StoreError> {
        let sql = format!("{FULL} WHERE f.id = ?");
        let row: Option<Row> =
            sqlx::query_as(sqlx::AssertSqlSafe(sql)).bind(id).fetch_optional(&self.pool).await?;
        let mut frame = row.ok_or_else(|| not_found(id))?.read()?;
        let Text(session) = sqlx::query_scalar("SELECT session FROM frame WHERE id = ?")
            .bind(id)
            .fetch_one(&self.pool)
            .await?;
        frame.correct(&self.corrections_of(&session).await?);
        Ok(frame)
    }

    /// Frames that cannot be read any more. There may be many frames: a few hundred of them stand in
    /// memory at a time.
    pub(crate) async fn damaged_frames(&self) -> Result<Vec<DamagedRow>, StoreError> {
        let sql = format!("{FULL} WHERE f.rowid > ? AND f.rowid <= ?");
        let last: i64 = sqlx::query_scalar("SELECT COALESCE(MAX(rowid), 0) FROM frame")
            .fetch_one(&self.pool)
            .await?;
        let mut all = Vec::new();
        for from in (0..last).step_by(CHECKED_AT_ONCE as usize) {
            let rows: Vec<Row> = sqlx::query_as(sqlx::AssertSqlSafe(sql.clone()))
                .bind(from)
                .bind(from + CHECKED_AT_ONCE)
                .fetch_all(&self.pool)
                .await?;
            all.extend(aside(move || told_apart(rows).1).await);
        }
        Ok(all)
    }

    /// What somebody says of frames: kept, aside, or (none) what the rules say.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] where one is not there; then nothing was changed.
    pub async fn decide_frames(
        &self,
        ids: &[String],
        decision: Option<Decision>,
        why: &str,
    ) -> Result<(), StoreError> {
        let mut tx = self.begin().await?;
        for id in ids {
            let done = sqlx::query("UPDATE frame SET decision = ?, why = ? WHERE id = ?")
                .bind(decision.map(Decision::word))
                .bind(why)
                .bind(id)
                .execute(&mut *tx)
                .await?;
            if done.rows_affected() != 1 {
                return Err(not_found(id));
            }
        }
        Ok(tx.commit().await?)
    }

    /// Keeps the guider's root mean square of frames, arcsec; `None` forgets it.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn keep_guiding(&self, frames: &[(String, Option<f64>)]) -> Result<(), StoreError> {
        let mut tx = self.begin().await?;
        for (id, rms) in frames {
            sqlx::query("UPDATE frame SET guiding_arcsec = ? WHERE id = ?")
                .bind(rms)
                .bind(id)
                .execute(&mut *tx)
                .await?;
        }
        Ok(tx.commit().await?)
    }

    /// A frame's small picture, PNG.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub async fn frame_preview(&self, id: &str) -> Result<Vec<u8>, StoreError> {
        sqlx::query_scalar("SELECT preview FROM frame_measured WHERE frame = ?")
            .bind(id)
            .fetch_optional(&self.pool)
            .await?
            .ok_or_else(|| not_found(id))
    }
}

/// A known frame's file lies elsewhere now: it was renamed, or this is a copy. A copy beside a file
/// that is still there changes nothing.
async fn file_moved(
    tx: &mut sqlx::Transaction<'static, sqlx::Sqlite>,
    frame: &str,
    file: &FileSeen,
) -> Result<(), StoreError> {
    let was: Option<String> = sqlx::query_scalar("SELECT path FROM frame WHERE id = ?")
        .bind(frame)
        .fetch_one(&mut **tx)
        .await?;
    if was.as_ref().is_some_and(|p| *p != file.path && std::path::Path::new(p).exists()) {
        return Ok(());
    }
    sqlx::query("UPDATE frame SET path = NULL, gone = 1 WHERE path = ? AND id <> ?")
        .bind(&file.path)
        .bind(frame)
        .execute(&mut **tx)
        .await?;
    sqlx::query("UPDATE frame SET path = ?, bytes = ?, modified_ms = ?, gone = 0 WHERE id = ?")
        .bind(&file.path)
        .bind(file.bytes)
        .bind(file.modified_ms)
        .bind(frame)
        .execute(&mut **tx)
        .await?;
    Ok(())
}
