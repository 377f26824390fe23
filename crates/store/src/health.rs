//! How the database and its folder fare: what a foot line says, what a nightly check finds, and that
//! a copy of the file is never empty.

use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Mutex, PoisonError};
use std::time::{Duration, Instant};

use crate::{Store, StoreError, file};

/// How long what was found is believed.
const BELIEVED: Duration = Duration::from_secs(5);

/// What is known of the store's health.
#[derive(Debug, Default)]
pub(crate) struct Health {
    /// Whether something was written since it was last settled.
    unsettled: AtomicBool,
    /// What the last full check found.
    damage: Mutex<Vec<String>>,
    folder: Mutex<Option<(Instant, Vec<String>)>>,
}

impl Health {
    pub fn wrote(&self) {
        self.unsettled.store(true, Ordering::Relaxed);
    }
}

impl Store {
    /// What is wrong with the folder and the database, in plain words; nothing where all is well.
    /// What was found is believed for five seconds.
    pub async fn troubles(&self) -> Vec<String> {
        let known = self.health.folder.lock().unwrap_or_else(PoisonError::into_inner).clone();
        let mut all = match known {
            Some((at, found)) if at.elapsed() < BELIEVED => found,
            _ => {
                let place = self.place.clone();
                let found = tokio::task::spawn_blocking(move || folder_troubles(&place)).await;
                let found = found.unwrap_or_default();
                *self.health.folder.lock().unwrap_or_else(PoisonError::into_inner) =
                    Some((Instant::now(), found.clone()));
                found
            }
        };
        all.extend(
            self.health.damage.lock().unwrap_or_else(PoisonError::into_inner).iter().cloned(),
        );
        all
    }

    /// Moves what was written lately into the database file itself, if anything was: who copies
    /// that file alone then has it. Readers and writers go on meanwhile.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn settle(&self) -> Result<(), StoreError> {
        if self.place.is_there().is_err() || !self.health.unsettled.swap(false, Ordering::Relaxed) {
            return Ok(());
        }
        sqlx::query("PRAGMA wal_checkpoint(TRUNCATE)").execute(&self.writer).await?;
        Ok(())
    }

    /// Checks the whole database, rows and checksums included, and remembers what it found for
    /// [`Store::troubles`].
    ///
    /// # Errors
    /// Where the database cannot be asked at all.
    pub async fn check(&self) -> Result<Vec<String>, StoreError> {
        let mut db = self.pool.acquire().await?;
        let mut found = file::check(&mut db, true).await?;
        found.iter_mut().for_each(|line| *line = format!("The database is damaged: {line}."));
        drop(db);
        let rows = self.damaged().await?;
        found.extend(
            rows.iter()
                .map(|r| format!("The {} \"{}\" cannot be read: {}.", r.what, r.name, r.why)),
        );
        *self.health.damage.lock().unwrap_or_else(PoisonError::into_inner) = found.clone();
        Ok(found)
    }

    /// Writes a whole copy of the database to a file that is not there yet.
    ///
    /// # Errors
    /// Where the file is there already or cannot be written.
    pub async fn backup(&self, to: &std::path::Path) -> Result<(), StoreError> {
        let mut db = self.writer.acquire().await?;
        sqlx::query("VACUUM INTO ?").bind(to.display().to_string()).execute(&mut *db).await?;
        Ok(())
    }
}

fn folder_troubles(place: &file::Place) -> Vec<String> {
    if place.is_there().is_err() {
        return vec![
            "The folder with the data is gone: nothing can be stored. Put it back and start the \
             program again."
                .to_owned(),
        ];
    }
    match place.try_to_write() {
        Ok(()) => Vec::new(),
        Err(e) if e.kind() == std::io::ErrorKind::StorageFull => {
            vec![format!("The disk is full ({e}): nothing can be stored until there is room.")]
        }
        Err(e) => vec![format!("Nothing can be written ({e}): what is changed now is not stored.")],
    }
}
