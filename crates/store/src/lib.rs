//! What a user keeps, in one SQLite file. Knows core types, not HTTP.
//!
//! Every aggregate has a module of its own. Writes are durable before they are answered
//! (`synchronous = FULL`), deletions can be undone, and a write that would overwrite somebody
//! else's is refused with what stands there now.

mod blind;
mod campaigns;
mod curves;
mod damage;
mod emission;
mod expected;
mod kit;
mod scenarios;
mod shelf;

use std::path::Path;
use std::time::Duration;

use serde::Serialize;
use sqlx::sqlite::{
    SqliteConnectOptions, SqliteJournalMode, SqlitePool, SqlitePoolOptions, SqliteSynchronous,
};
use sqlx::{Sqlite, Transaction};
use thiserror::Error;

pub use blind::BlindRow;
pub use campaigns::{CampaignSaved, StoredCampaign};
pub use damage::DamagedRow;
pub use expected::Expected;
pub use scenarios::{RigRow, Saved, ScenarioRow, StoredScenario};
pub use shelf::{Removed, ShelfSaved, StoredEntry};

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

/// An open database.
#[derive(Clone, Debug)]
pub struct Store {
    pool: SqlitePool,
}

impl Store {
    /// Opens (or makes) the database in a data directory and brings it up to date.
    ///
    /// # Errors
    /// Where the directory or the database cannot be made, read or migrated.
    pub async fn open(directory: &Path) -> Result<Self, StoreError> {
        std::fs::create_dir_all(directory).map_err(|source| StoreError::Directory {
            path: directory.display().to_string(),
            source,
        })?;
        let options = SqliteConnectOptions::new()
            .filename(directory.join(FILE_NAME))
            .create_if_missing(true)
            .journal_mode(SqliteJournalMode::Wal)
            .synchronous(SqliteSynchronous::Full)
            .foreign_keys(true)
            .busy_timeout(Duration::from_secs(10));
        let pool = SqlitePoolOptions::new().max_connections(4).connect_with(options).await?;
        sqlx::migrate!().run(&pool).await?;
        let store = Self { pool };
        let yesterday = jiff::Timestamp::now() - jiff::SignedDuration::from_hours(24);
        store.forget_untouched(&format!("{yesterday:.3}")).await?;
        Ok(store)
    }

    /// Begins a transaction that will write: it waits for other writers now, not at its first
    /// write, when what it has read might be out of date.
    async fn begin(&self) -> Result<Transaction<'static, Sqlite>, StoreError> {
        Ok(self.pool.begin_with("BEGIN IMMEDIATE").await?)
    }

    /// Closes the database after what is under way.
    pub async fn close(&self) {
        self.pool.close().await;
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
