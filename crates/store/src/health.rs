//! How the database and its folder fare: what a foot line says, what a nightly check finds, and that
//! a copy of the file is never empty.

use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Mutex, PoisonError};
use std::time::{Duration, Instant};

use sqlx::{ConnectOptions, Connection};

use crate::{Store, StoreError, file, options};

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
        // Nobody waits for it: what a reader still looks at comes the next time.
        let (busy, written, moved): (i64, i64, i64) =
            sqlx::query_as("PRAGMA wal_checkpoint(PASSIVE)").fetch_one(&self.writer).await?;
        if busy != 0 || moved < written {
            self.health.wrote();
        }
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
        let mut rows = self.damaged().await?;
        // Of frames there may be many: each night names its own, and here all are looked through.
        rows.extend(self.damaged_frames().await?);
        found.extend(
            rows.iter()
                .map(|r| format!("The {} \"{}\" cannot be read: {}.", r.what, r.name, r.why)),
        );
        *self.health.damage.lock().unwrap_or_else(PoisonError::into_inner) = found.clone();
        Ok(found)
    }

    /// Writes a whole copy of the database to a file that is not there yet. Readers and writers go on
    /// meanwhile.
    ///
    /// # Errors
    /// Where the file is there already or cannot be written.
    pub async fn backup(&self, to: &std::path::Path) -> Result<(), StoreError> {
        // Of its own: those that only read may write no copy either.
        let mut db = options(&self.place.file()).connect().await?;
        sqlx::query("VACUUM INTO ?").bind(to.display().to_string()).execute(&mut db).await?;
        Ok(db.close().await?)
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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Trouble;

    fn demo() -> salt_lamp_core::Scenario {
        serde_json::from_str(include_str!("../../../data/demo/larch-lane-ic-443.json"))
            .expect("the demo parses")
    }

    /// SQLite says of a database that may not grow what it says of a disk that is full: code 13.
    #[tokio::test]
    async fn a_write_that_finds_no_room_says_so_and_what_was_acknowledged_stays() {
        let dir = tempfile::tempdir().expect("a directory");
        let store = Store::open(dir.path()).await.expect("opens");
        let pages: i64 =
            sqlx::query_scalar("PRAGMA page_count").fetch_one(&store.writer).await.expect("asked");
        let limit = |pages: i64| {
            let sql = sqlx::AssertSqlSafe(format!("PRAGMA max_page_count = {pages}"));
            sqlx::query(sql).execute(&store.writer)
        };
        limit(pages + 20).await.expect("set");
        let mut acknowledged = Vec::new();
        let e = loop {
            match store.add_scenario(&demo()).await {
                Ok(stored) => acknowledged.push(stored.row.id),
                Err(e) => break e,
            }
            assert!(acknowledged.len() < 100, "it never gets full");
        };
        assert_eq!(e.trouble(), Trouble::Full, "{e}");
        assert!(!acknowledged.is_empty());
        for id in &acknowledged {
            assert_eq!(store.scenario(id).await.expect("there").scenario, demo());
        }
        assert_eq!(store.scenarios().await.expect("listed").len(), acknowledged.len());
        // With room again it goes on.
        limit(pages + 2000).await.expect("set");
        store.add_scenario(&demo()).await.expect("added");
        assert!(store.check().await.expect("asked").is_empty());
    }
}
