//! Campaigns: listed, read, saved with a revision, deleted and brought back.

use salt_lamp_core::campaign::Campaign;
use serde::Serialize;
use sqlx::FromRow;
use utoipa::ToSchema;

use crate::{Store, StoreError, new_id, now};

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

/// What became of a save.
#[derive(Clone, Debug, PartialEq)]
pub enum CampaignSaved {
    /// It was stored.
    Stored(Box<StoredCampaign>),
    /// Somebody else saved first; this stands there.
    Conflict(Box<StoredCampaign>),
}

#[derive(FromRow)]
struct Row {
    id: String,
    document: String,
    revision: i64,
    changed_at: String,
}

impl Row {
    fn read(self) -> Result<StoredCampaign, StoreError> {
        let campaign = serde_json::from_str(&self.document).map_err(|e| StoreError::Damaged {
            what: "campaign",
            id: self.id.clone(),
            why: e.to_string(),
        })?;
        Ok(StoredCampaign { id: self.id, revision: self.revision, changed_at: self.changed_at, campaign })
    }
}

fn not_found(id: &str) -> StoreError {
    StoreError::NotFound { what: "campaign", id: id.to_owned() }
}

fn document(campaign: &Campaign) -> String {
    serde_json::to_string(campaign).unwrap_or_default()
}

impl Store {
    /// All campaigns that are not deleted, last changed first.
    ///
    /// # Errors
    /// Where the database fails or holds what cannot be read.
    pub async fn campaigns(&self) -> Result<Vec<StoredCampaign>, StoreError> {
        let sql = "SELECT id, document, revision, changed_at FROM campaign WHERE deleted_at IS NULL ORDER BY changed_at DESC, rowid DESC";
        let rows: Vec<Row> = sqlx::query_as(sql).fetch_all(&self.pool).await?;
        rows.into_iter().map(Row::read).collect()
    }

    /// One campaign.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Damaged`].
    pub async fn campaign(&self, id: &str) -> Result<StoredCampaign, StoreError> {
        let sql = "SELECT id, document, revision, changed_at FROM campaign WHERE id = ? AND deleted_at IS NULL";
        let row: Option<Row> = sqlx::query_as(sql).bind(id).fetch_optional(&self.pool).await?;
        row.ok_or_else(|| not_found(id))?.read()
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
    pub async fn add_campaign_as(&self, id: &str, campaign: &Campaign) -> Result<StoredCampaign, StoreError> {
        let at = now();
        sqlx::query("INSERT INTO campaign (id, title, document, created_at, changed_at) VALUES (?, ?, ?, ?, ?)")
            .bind(id)
            .bind(&campaign.title)
            .bind(document(campaign))
            .bind(&at)
            .bind(&at)
            .execute(&self.pool)
            .await?;
        self.campaign(id).await
    }

    /// Saves over `revision` of a campaign, or says that another save came first.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub async fn save_campaign(&self, id: &str, revision: i64, campaign: &Campaign) -> Result<CampaignSaved, StoreError> {
        let sql = "UPDATE campaign SET title = ?, document = ?, revision = revision + 1, changed_at = ? \
                   WHERE id = ? AND revision = ? AND deleted_at IS NULL";
        let done =
            sqlx::query(sql).bind(&campaign.title).bind(document(campaign)).bind(now()).bind(id).bind(revision).execute(&self.pool).await?;
        let current = Box::new(self.campaign(id).await?);
        Ok(if done.rows_affected() == 1 { CampaignSaved::Stored(current) } else { CampaignSaved::Conflict(current) })
    }

    /// Deletes a campaign so that it can be brought back.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub async fn delete_campaign(&self, id: &str) -> Result<(), StoreError> {
        let sql = "UPDATE campaign SET deleted_at = ? WHERE id = ? AND deleted_at IS NULL";
        let done = sqlx::query(sql).bind(now()).bind(id).execute(&self.pool).await?;
        if done.rows_affected() == 1 { Ok(()) } else { Err(not_found(id)) }
    }

    /// Brings a deleted campaign back.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] where there never was one.
    pub async fn restore_campaign(&self, id: &str) -> Result<StoredCampaign, StoreError> {
        sqlx::query("UPDATE campaign SET deleted_at = NULL WHERE id = ?").bind(id).execute(&self.pool).await?;
        self.campaign(id).await
    }
}
