//! What a user keeps, in one SQLite file. Knows core types, not HTTP.
//!
//! Every aggregate has a module of its own. Writes are durable before they are answered
//! (`synchronous = FULL`), deletions can be undone, and a write that would overwrite somebody
//! else's is refused with what stands there now.

mod access;
mod blind;
mod campaigns;
mod checksum;
mod curves;
mod damage;
mod documents;
mod emission;
mod expected;
mod file;
mod health;
mod kit;
mod log;
mod scenarios;
mod shelf;
mod text;
mod trials;

use std::path::Path;
use std::sync::Arc;
use std::time::Duration;

use serde::Serialize;
use sqlx::pool::PoolConnection;
use sqlx::sqlite::{
    SqliteConnectOptions, SqliteJournalMode, SqlitePool, SqlitePoolOptions, SqliteSynchronous,
};
use sqlx::{Sqlite, Transaction};
use thiserror::Error;

use file::Place;
use health::Health;

pub use access::{SessionRow, TokenRow};
pub use blind::BlindRow;
pub use campaigns::{CampaignSaved, StoredCampaign};
pub use damage::DamagedRow;
pub use expected::Expected;
pub use log::{
    Decision, EventKind, FileSeen, HeaderName, LogEvent, LogSession, LoggedFrame, NameKind,
    NewFrame, SessionsAsked, StoredLesson, TakenIn, Taught,
};
pub use scenarios::{RigRow, Saved, ScenarioRow, StoredScenario};
pub use shelf::{Removed, ShelfSaved, StoredEntry};
pub use trials::{StoredTrial, TrialSaved};

/// Name of the database file in the data directory.
pub const FILE_NAME: &str = "salt-lamp.db";

/// Why the store could not do what was asked.
#[derive(Debug, Error)]
pub enum StoreError {
    /// The database itself failed.
    #[error("the database failed: {0}")]
    Database(#[from] sqlx::Error),
    /// The database is of another version or damaged.
    #[error("the database could not be brought up to date: {0}")]
    Migration(#[from] sqlx::migrate::MigrateError),
    /// Another process has the data directory.
    #[error(
        "another Salt Lamp uses the folder {path}: stop that one, or give another folder with \
        --data"
    )]
    InUse {
        /// Which directory.
        path: String,
    },
    /// The database is not to be touched.
    #[error("the database {path} {why}. Nothing in it was changed")]
    Refused {
        /// Which file.
        path: String,
        /// Why, and what to do.
        why: String,
    },
    /// The database file is not where it was when it was opened.
    #[error(
        "the database {path} is gone: nothing can be stored. Put its folder back and start the \
        program again"
    )]
    Gone {
        /// Which file.
        path: String,
    },
    /// The data directory could not be made.
    #[error("the data directory {path} could not be made: {source}")]
    Directory {
        /// Which directory.
        path: String,
        /// Why.
        source: std::io::Error,
    },
    /// There is no such row, or it was deleted.
    #[error("there is no {what} {id}")]
    NotFound {
        /// What was asked for.
        what: &'static str,
        /// Its id.
        id: String,
    },
    /// What should be stored has no written form.
    #[error("the {what} {id} cannot be written: {why}")]
    Unwritable {
        /// What it is.
        what: &'static str,
        /// Its id.
        id: String,
        /// Why.
        why: String,
    },
    /// A row holds what this program cannot read.
    #[error("the stored {what} {id} cannot be read: {why}")]
    Damaged {
        /// What it should be.
        what: &'static str,
        /// Its id.
        id: String,
        /// What is wrong with it.
        why: String,
    },
}

/// What kind of failure it was, for whoever tells it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Trouble {
    /// There is no room.
    Full,
    /// The file is gone, or cannot be written any more.
    Gone,
    /// Another program holds the database for longer than anybody should wait.
    Busy,
    /// Anything else.
    Other,
}

impl StoreError {
    /// What kind of failure it was.
    pub fn trouble(&self) -> Trouble {
        let e = match self {
            Self::Gone { .. } => return Trouble::Gone,
            Self::Database(e) => e,
            _ => return Trouble::Other,
        };
        if matches!(e, sqlx::Error::PoolTimedOut) {
            return Trouble::Busy;
        }
        // SQLite's result codes; the primary one is the lowest byte.
        let code = e.as_database_error().and_then(|d| d.code()?.parse::<u32>().ok());
        match code.map(|c| c & 0xff) {
            Some(5 | 6) => Trouble::Busy,
            Some(8 | 10 | 14) => Trouble::Gone,
            Some(13) => Trouble::Full,
            _ => Trouble::Other,
        }
    }
}

/// An open database.
#[derive(Clone, Debug)]
pub struct Store {
    /// For reading: never waits for who writes.
    pool: SqlitePool,
    /// For writing: one at a time, in the order in which they come.
    writer: SqlitePool,
    place: Arc<Place>,
    health: Arc<Health>,
}

fn options(file: &Path) -> SqliteConnectOptions {
    SqliteConnectOptions::new()
        .filename(file)
        .journal_mode(SqliteJournalMode::Wal)
        .synchronous(SqliteSynchronous::Full)
        .foreign_keys(true)
        .busy_timeout(Duration::from_secs(10))
}

fn newest_version(migrations: &sqlx::migrate::Migrator) -> i64 {
    migrations.iter().map(|m| m.version).max().unwrap_or(0)
}

async fn readers(file: &Path) -> Result<SqlitePool, StoreError> {
    let options = options(file).pragma("query_only", "ON");
    Ok(SqlitePoolOptions::new().max_connections(4).connect_with(options).await?)
}

impl Store {
    /// Opens (or makes) the database in a data directory and brings it up to date. The directory is
    /// this store's alone until it is closed or dropped.
    ///
    /// # Errors
    /// Where the directory or the database cannot be made, read or migrated; where another process
    /// has it; where the database is another program's, of a newer version, or damaged: then
    /// nothing in it was changed.
    pub async fn open(directory: &Path) -> Result<Self, StoreError> {
        let place = Place::take(directory).await?;
        let file = place.file();
        let migrations = sqlx::migrate!();
        file::examine(&file, newest_version(&migrations)).await?;
        let writer = SqlitePoolOptions::new()
            .max_connections(1)
            .connect_with(options(&file).create_if_missing(true))
            .await?;
        migrations.run(&writer).await?;
        let pool = readers(&file).await?;
        place.opened();
        let store = Self { pool, writer, place: Arc::new(place), health: Arc::default() };
        store.seal().await?;
        let yesterday = jiff::Timestamp::now() - jiff::SignedDuration::from_hours(24);
        store.forget_untouched(&format!("{yesterday:.3}")).await?;
        store.settle().await?;
        Ok(store)
    }

    /// Opens a database for reading only, beside a process that may have it: nothing in it is
    /// changed, and writing fails.
    ///
    /// # Errors
    /// As [`Store::open`], but for a directory that is in use; also where there is no database, or
    /// one of an older version.
    pub async fn beside(directory: &Path) -> Result<Self, StoreError> {
        let place = Place::beside(directory);
        let file = place.file();
        let newest = newest_version(&sqlx::migrate!());
        let found = file::examine(&file, newest).await?;
        if found < newest {
            let why = match found {
                0 => "is not there, or empty",
                _ => "is of an older version: `salt-lamp serve` brings it up to date",
            };
            let path = file.display().to_string();
            return Err(StoreError::Refused { path, why: why.to_owned() });
        }
        let pool = readers(&file).await?;
        place.opened();
        Ok(Self { writer: pool.clone(), pool, place: Arc::new(place), health: Arc::default() })
    }

    /// Begins a transaction that will write: it waits for other writers now, not at its first
    /// write, when what it has read might be out of date.
    async fn begin(&self) -> Result<Transaction<'static, Sqlite>, StoreError> {
        self.place.is_there()?;
        self.health.wrote();
        Ok(self.writer.begin_with("BEGIN IMMEDIATE").await?)
    }

    /// The connection that writes, for a single statement.
    async fn writing(&self) -> Result<PoolConnection<Sqlite>, StoreError> {
        self.place.is_there()?;
        self.health.wrote();
        Ok(self.writer.acquire().await?)
    }

    /// Closes the database after what is under way, and leaves the directory to others.
    pub async fn close(&self) {
        let _ = self.settle().await;
        self.pool.close().await;
        self.writer.close().await;
        self.place.leave();
    }
}

/// The time now, as it is stored: RFC 3339 in UTC to the millisecond.
fn now() -> String {
    format!("{:.3}", jiff::Timestamp::now())
}

/// A document as text.
fn document<T: Serialize>(what: &'static str, id: &str, value: &T) -> Result<String, StoreError> {
    serde_json::to_string(value).map_err(|e| StoreError::Unwritable {
        what,
        id: id.to_owned(),
        why: e.to_string(),
    })
}

/// A new random id.
fn new_id() -> String {
    uuid::Uuid::new_v4().to_string()
}
