//! Campaigns: listed, read, saved with a revision, deleted and brought back.

use salt_lamp_core::campaign::Campaign;
use serde::Serialize;
use utoipa::ToSchema;

use crate::damage::DamagedRow;
use crate::documents::{Documents, Kept};
use crate::{Expected, Store, StoreError, new_id};

pub(crate) const ROWS: Documents = Documents { table: "campaign", what: "campaign" };

/// A campaign with its place in the store.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct StoredCampaign {
    /// Its id.
    pub id: String,
    /// How often it was saved; a save must name the revision it started from.
    pub revision: i64,
    /// When it was last saved, RFC 3339 in UTC.
    pub changed_at: String,
    /// The campaign.
    pub campaign: Campaign,
}

impl From<Kept<Campaign>> for StoredCampaign {
    fn from(k: Kept<Campaign>) -> Self {
        Self { id: k.id, revision: k.revision, changed_at: k.changed_at, campaign: k.document }
    }
}

/// What became of a save.
#[derive(Clone, Debug, PartialEq)]
pub enum CampaignSaved {
    /// It was stored.
    Stored(Box<StoredCampaign>),
    /// Somebody else saved first; this stands there.
    Conflict(Box<StoredCampaign>),
}

impl Store {
    /// All campaigns that are not deleted and can be read, last changed first; [`Store::damaged`] names
    /// the others.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn campaigns(&self) -> Result<Vec<StoredCampaign>, StoreError> {
        Ok(ROWS.all(self).await?.into_iter().map(StoredCampaign::from).collect())
    }

    /// Campaigns that cannot be read any more.
    pub(crate) async fn damaged_campaigns(&self) -> Result<Vec<DamagedRow>, StoreError> {
        ROWS.damaged::<Campaign>(self).await
    }

    /// One campaign.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Damaged`].
    pub async fn campaign(&self, id: &str) -> Result<StoredCampaign, StoreError> {
        Ok(ROWS.one::<Campaign>(self, id).await?.into())
    }

    /// Stores a new campaign.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn add_campaign(&self, campaign: &Campaign) -> Result<StoredCampaign, StoreError> {
        self.add_campaign_as(&new_id(), campaign).await
    }

    /// Stores a new campaign under an id of the caller's, as the demo does to keep its links.
    ///
    /// # Errors
    /// Where the database fails or has the id already.
    pub async fn add_campaign_as(
        &self,
        id: &str,
        campaign: &Campaign,
    ) -> Result<StoredCampaign, StoreError> {
        Ok(ROWS.add(self, id, (&campaign.title, campaign)).await?.into())
    }

    /// Saves over an expected revision of a campaign, or says that another save came first.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub async fn save_campaign(
        &self,
        id: &str,
        over: impl Into<Expected>,
        campaign: &Campaign,
    ) -> Result<CampaignSaved, StoreError> {
        let place = (id, over.into());
        let mut to = self.writing().await?;
        let stored = ROWS.save_over(&mut to, place, (&campaign.title, campaign)).await?;
        drop(to);
        match stored {
            Some(kept) => Ok(CampaignSaved::Stored(Box::new(kept.into()))),
            None => Ok(CampaignSaved::Conflict(Box::new(self.campaign(id).await?))),
        }
    }

    /// Deletes a campaign so that it can be brought back.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub async fn delete_campaign(&self, id: &str) -> Result<(), StoreError> {
        ROWS.delete(self, id).await
    }

    /// Brings a deleted campaign back.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] where there never was one.
    pub async fn restore_campaign(&self, id: &str) -> Result<StoredCampaign, StoreError> {
        Ok(ROWS.restore::<Campaign>(self, id).await?.into())
    }
}
