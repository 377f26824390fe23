//! The database file before it is opened: whose it is, whether it is whole, and that no other
//! process has it.

use std::fs::{File, TryLockError};
use std::io::Read;
use std::path::{Path, PathBuf};
use std::time::Duration;

use sqlx::sqlite::{SqliteConnectOptions, SqliteConnection};
use sqlx::{ConnectOptions, Connection};

use crate::{FILE_NAME, StoreError};

/// The letters SALT, big-endian, in the header of the database.
const APPLICATION_ID: u32 = u32::from_be_bytes(*b"SALT");
/// The file whose lock says that a process has the folder.
const LOCK_NAME: &str = "salt-lamp.lock";
/// How long a start waits for a process that is just ending.
const LOCK_WAIT: Duration = Duration::from_secs(3);
/// Up to this size the whole database is checked at each start, indices included; beyond it, its
/// pages only, and the rest once a day. Bytes.
const SMALL_BYTES: u64 = 48_000_000;

/// The folder, held by this process alone.
#[derive(Debug)]
pub(crate) struct Place {
    pub directory: PathBuf,
    /// Held by who may write; who only reads beside another process has none.
    lock: Option<File>,
    /// Device and number of the database file, by which a folder that vanished is told.
    identity: std::sync::OnceLock<Option<(u64, u64)>>,
}

fn refused(path: &Path, why: impl Into<String>) -> StoreError {
    StoreError::Refused { path: path.display().to_string(), why: why.into() }
}

#[cfg(unix)]
fn identity(path: &Path) -> Option<(u64, u64)> {
    use std::os::unix::fs::MetadataExt;
    std::fs::metadata(path).ok().map(|m| (m.dev(), m.ino()))
}

#[cfg(not(unix))]
fn identity(path: &Path) -> Option<(u64, u64)> {
    std::fs::metadata(path).ok().map(|_| (0, 0))
}

impl Place {
    /// Makes the folder where it is missing, and takes it.
    pub async fn take(directory: &Path) -> Result<Self, StoreError> {
        let failed =
            |source| StoreError::Directory { path: directory.display().to_string(), source };
        std::fs::create_dir_all(directory).map_err(failed)?;
        let lock = File::options()
            .create(true)
            .truncate(false)
            .write(true)
            .open(directory.join(LOCK_NAME))
            .map_err(failed)?;
        let until = tokio::time::Instant::now() + LOCK_WAIT;
        loop {
            match lock.try_lock() {
                Ok(()) => break,
                Err(TryLockError::WouldBlock) if tokio::time::Instant::now() < until => {
                    tokio::time::sleep(Duration::from_millis(50)).await;
                }
                Err(TryLockError::WouldBlock) => {
                    return Err(StoreError::InUse { path: directory.display().to_string() });
                }
                Err(TryLockError::Error(e)) => return Err(failed(e)),
            }
        }
        let directory = directory.to_owned();
        Ok(Self { directory, lock: Some(lock), identity: std::sync::OnceLock::new() })
    }

    /// The folder as somebody sees it who only reads.
    pub fn beside(directory: &Path) -> Self {
        Self { directory: directory.to_owned(), lock: None, identity: std::sync::OnceLock::new() }
    }

    pub fn file(&self) -> PathBuf {
        self.directory.join(FILE_NAME)
    }

    /// Remembers the database file as it is now.
    pub fn opened(&self) {
        let _ = self.identity.set(identity(&self.file()));
    }

    /// Whether the file that was opened still stands where it stood: SQLite goes on writing to one
    /// that was deleted, and all of that is lost.
    pub fn is_there(&self) -> Result<(), StoreError> {
        let was = self.identity.get().copied().flatten();
        if was.is_some() && identity(&self.file()) == was {
            return Ok(());
        }
        Err(StoreError::Gone { path: self.file().display().to_string() })
    }

    /// Lets others have the folder.
    pub fn leave(&self) {
        if let Some(lock) = &self.lock {
            let _ = lock.unlock();
        }
    }

    /// Whether something can be written here, tried.
    pub fn try_to_write(&self) -> std::io::Result<()> {
        let probe = self.directory.join("salt-lamp.probe");
        let tried = std::fs::write(&probe, [0_u8; 16_384]);
        let _ = std::fs::remove_file(&probe);
        tried
    }
}

/// Looks at a database before anything is written to it: the version of its tables, 0 where there
/// are none yet.
///
/// # Errors
/// [`StoreError::Refused`] for one that is another program's, of a newer version, or damaged.
pub(crate) async fn examine(path: &Path, newest: i64) -> Result<i64, StoreError> {
    let mut header = Vec::new();
    let size = match File::open(path) {
        Ok(file) => {
            let size = file.metadata().map(|m| m.len());
            let read = file.take(100).read_to_end(&mut header);
            read.and(size).map_err(|e| refused(path, format!("cannot be read ({e})")))?
        }
        Err(e) if e.kind() == std::io::ErrorKind::NotFound => return Ok(0),
        Err(e) => return Err(refused(path, format!("cannot be read ({e})"))),
    };
    if size == 0 {
        return Ok(0);
    }
    if header.len() < 100 || !header.starts_with(b"SQLite format 3\0") {
        return Err(refused(
            path,
            "is no database, or its beginning is damaged. Move it away, put back a backup, or \
             give another folder with --data",
        ));
    }
    // Bytes 68 to 71 of the header (SQLite's file format, section 1.3).
    let id = u32::from_be_bytes([header[68], header[69], header[70], header[71]]);
    if id != 0 && id != APPLICATION_ID {
        return Err(refused(path, FOREIGN));
    }
    inside(path, size, newest).await
}

const FOREIGN: &str =
    "is another program's database. Give another folder with --data, or move it away";

async fn inside(path: &Path, size: u64, newest: i64) -> Result<i64, StoreError> {
    let damaged = |why: &str| {
        refused(
            path,
            format!(
                "is damaged ({why}). Put back a backup, or move it away to begin anew; `salt-lamp \
                 check` says more"
            ),
        )
    };
    let of_sqlite = |e: sqlx::Error| damaged(&plain(&e));
    let mut db = SqliteConnectOptions::new()
        .filename(path)
        .read_only(true)
        .busy_timeout(Duration::from_secs(10))
        .connect()
        .await
        .map_err(of_sqlite)?;
    let tables: Vec<String> =
        sqlx::query_scalar("SELECT name FROM sqlite_master WHERE type = 'table'")
            .fetch_all(&mut db)
            .await
            .map_err(of_sqlite)?;
    let has = |name: &str| tables.iter().any(|t| t == name);
    let mut version = 0;
    if !tables.is_empty() {
        if !has("_sqlx_migrations") || !has("scenario") {
            return Err(refused(path, FOREIGN));
        }
        version = sqlx::query_scalar("SELECT COALESCE(MAX(version), 0) FROM _sqlx_migrations")
            .fetch_one(&mut db)
            .await
            .map_err(of_sqlite)?;
        if version > newest {
            return Err(refused(
                path,
                format!(
                    "was written by a newer Salt Lamp (its tables are of version {version}, this \
                     program knows {newest}). Start the newer one"
                ),
            ));
        }
    }
    let found = check(&mut db, size < SMALL_BYTES).await.map_err(of_sqlite)?;
    let _ = db.close().await;
    found.first().map_or(Ok(version), |first| Err(damaged(first)))
}

/// What SQLite finds wrong, at most ten lines; nothing where all is well.
pub(crate) async fn check(
    db: &mut SqliteConnection,
    whole: bool,
) -> Result<Vec<String>, sqlx::Error> {
    let sql = if whole { "PRAGMA integrity_check(10)" } else { "PRAGMA quick_check(10)" };
    let mut lines: Vec<String> = sqlx::query_scalar(sql).fetch_all(&mut *db).await?;
    lines.retain(|l| l != "ok");
    Ok(lines)
}

/// What SQLite says, without the wrapping.
pub(crate) fn plain(e: &sqlx::Error) -> String {
    e.as_database_error().map_or_else(|| e.to_string(), |e| e.message().to_owned())
}
