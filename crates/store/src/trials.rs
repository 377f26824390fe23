//! Trials: listed, read, saved with a revision, deleted and brought back.

use salt_lamp_core::trial::Trial;
use serde::Serialize;
use utoipa::ToSchema;

use crate::damage::DamagedRow;
use crate::documents::{Documents, Kept};
use crate::{Expected, Store, StoreError, new_id};

const ROWS: Documents = Documents { table: "trial", what: "trial" };

/// A trial with its place in the store.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct StoredTrial {
    /// Its id.
    pub id: String,
    /// How often it was saved; a save must name the revision it started from.
    pub revision: i64,
    /// When it was last saved, RFC 3339 in UTC.
    pub changed_at: String,
    /// The trial.
    pub trial: Trial,
}

impl From<Kept<Trial>> for StoredTrial {
    fn from(k: Kept<Trial>) -> Self {
        Self { id: k.id, revision: k.revision, changed_at: k.changed_at, trial: k.document }
    }
}

/// What became of a save.
#[derive(Clone, Debug, PartialEq)]
pub enum TrialSaved {
    /// It was stored.
    Stored(Box<StoredTrial>),
    /// Somebody else saved first; this stands there.
    Conflict(Box<StoredTrial>),
}

impl Store {
    /// All trials that are not deleted and can be read, last changed first; [`Store::damaged`] names
    /// the others.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn trials(&self) -> Result<Vec<StoredTrial>, StoreError> {
        Ok(ROWS.all(self).await?.into_iter().map(StoredTrial::from).collect())
    }

    /// Trials that cannot be read any more.
    pub(crate) async fn damaged_trials(&self) -> Result<Vec<DamagedRow>, StoreError> {
        ROWS.damaged::<Trial>(self).await
    }

    /// One trial.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Damaged`].
    pub async fn trial(&self, id: &str) -> Result<StoredTrial, StoreError> {
        Ok(ROWS.one::<Trial>(self, id).await?.into())
    }

    /// Stores a new trial.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn add_trial(&self, trial: &Trial) -> Result<StoredTrial, StoreError> {
        self.add_trial_as(&new_id(), trial).await
    }

    /// Stores a new trial under an id of the caller's, as the demo does to keep its links.
    ///
    /// # Errors
    /// Where the database fails or has the id already.
    pub async fn add_trial_as(&self, id: &str, trial: &Trial) -> Result<StoredTrial, StoreError> {
        Ok(ROWS.add(self, id, (&trial.title, trial)).await?.into())
    }

    /// Saves over an expected revision of a trial, or says that another save came first.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub async fn save_trial(
        &self,
        id: &str,
        over: impl Into<Expected>,
        trial: &Trial,
    ) -> Result<TrialSaved, StoreError> {
        let place = (id, over.into());
        let mut to = self.writing().await?;
        let stored = ROWS.save_over(&mut to, place, (&trial.title, trial)).await?;
        drop(to);
        match stored {
            Some(kept) => Ok(TrialSaved::Stored(Box::new(kept.into()))),
            None => Ok(TrialSaved::Conflict(Box::new(self.trial(id).await?))),
        }
    }

    /// Deletes a trial so that it can be brought back.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub async fn delete_trial(&self, id: &str) -> Result<(), StoreError> {
        ROWS.delete(self, id).await
    }

    /// Brings a deleted trial back.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] where there never was one.
    pub async fn restore_trial(&self, id: &str) -> Result<StoredTrial, StoreError> {
        Ok(ROWS.restore::<Trial>(self, id).await?.into())
    }
}
