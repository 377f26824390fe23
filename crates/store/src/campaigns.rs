//! Campaigns: listed, read, saved with a revision, deleted and brought back.

use salt_lamp_core::campaign::Campaign;
use serde::Serialize;
use sqlx::{FromRow, SqliteConnection};
use utoipa::ToSchema;

use crate::damage::{DamagedRow, readable};
use crate::text::Text;
use crate::{Expected, Store, StoreError, checksum, document, new_id, now};

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
pub(crate) struct Row {
    #[sqlx(try_from = "Text")]
    id: String,
    #[sqlx(try_from = "Text")]
    title: String,
    #[sqlx(try_from = "Text")]
    document: String,
    revision: i64,
    #[sqlx(try_from = "Text")]
    changed_at: String,
    checksum: Option<i64>,
}

impl Row {
    fn read(self) -> Result<StoredCampaign, StoreError> {
        let damaged =
            |why: String| StoreError::Damaged { what: "campaign", id: self.id.clone(), why };
        let campaign = serde_json::from_str(&self.document).map_err(|e| damaged(e.to_string()))?;
        if !checksum::fits(self.checksum, &[&self.title, &self.document]) {
            return Err(damaged(checksum::ALTERED.to_owned()));
        }
        Ok(StoredCampaign {
            id: self.id,
            revision: self.revision,
            changed_at: self.changed_at,
            campaign,
        })
    }
}

/// Saves over an expected revision of a campaign; `None` where another stands there.
pub(crate) async fn save_over(
    to: &mut SqliteConnection,
    id: &str,
    over: Expected,
    campaign: &Campaign,
) -> Result<Option<Row>, StoreError> {
    let sql = format!(
        "UPDATE campaign
         SET title = ?1, document = ?2, revision = revision + 1, changed_at = ?3, checksum = ?6
         WHERE id = ?4
           AND (?5 IS NULL OR revision IN (SELECT value FROM json_each(?5)))
           AND deleted_at IS NULL
         RETURNING {COLUMNS}"
    );
    let document = document("campaign", id, campaign)?;
    let sum = checksum::of(&[&campaign.title, &document]);
    Ok(sqlx::query_as(sqlx::AssertSqlSafe(sql))
        .bind(&campaign.title)
        .bind(document)
        .bind(now())
        .bind(id)
        .bind(over.as_json())
        .bind(sum)
        .fetch_optional(to)
        .await?)
}

fn not_found(id: &str) -> StoreError {
    StoreError::NotFound { what: "campaign", id: id.to_owned() }
}

const COLUMNS: &str = "id, title, document, revision, changed_at, checksum";

impl Store {
    /// All campaigns that are not deleted and can be read, last changed first; [`Store::damaged`]
    /// names the others.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn campaigns(&self) -> Result<Vec<StoredCampaign>, StoreError> {
        Ok(readable(self.campaign_rows().await?.into_iter().map(Row::read)))
    }

    async fn campaign_rows(&self) -> Result<Vec<Row>, StoreError> {
        let sql = format!(
            "SELECT {COLUMNS} FROM campaign WHERE deleted_at IS NULL
             ORDER BY changed_at DESC, rowid DESC"
        );
        Ok(sqlx::query_as(sqlx::AssertSqlSafe(sql)).fetch_all(&self.pool).await?)
    }

    /// Campaigns that cannot be read any more.
    pub(crate) async fn damaged_campaigns(&self) -> Result<Vec<DamagedRow>, StoreError> {
        let told = |r: Row| {
            let (name, text) = (r.title.clone(), r.document.clone());
            r.read().err().and_then(|e| DamagedRow::told(e, name, text))
        };
        Ok(self.campaign_rows().await?.into_iter().filter_map(told).collect())
    }

    /// One campaign.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Damaged`].
    pub async fn campaign(&self, id: &str) -> Result<StoredCampaign, StoreError> {
        let sql = format!("SELECT {COLUMNS} FROM campaign WHERE id = ? AND deleted_at IS NULL");
        let row: Option<Row> =
            sqlx::query_as(sqlx::AssertSqlSafe(sql)).bind(id).fetch_optional(&self.pool).await?;
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
    pub async fn add_campaign_as(
        &self,
        id: &str,
        campaign: &Campaign,
    ) -> Result<StoredCampaign, StoreError> {
        let at = now();
        let sql = format!(
            "INSERT INTO campaign (id, title, document, created_at, changed_at, checksum)
             VALUES (?, ?, ?, ?, ?, ?)
             RETURNING {COLUMNS}"
        );
        let document = document("campaign", id, campaign)?;
        let sum = checksum::of(&[&campaign.title, &document]);
        let row: Row = sqlx::query_as(sqlx::AssertSqlSafe(sql))
            .bind(id)
            .bind(&campaign.title)
            .bind(document)
            .bind(&at)
            .bind(&at)
            .bind(sum)
            .fetch_one(&mut *self.writing().await?)
            .await?;
        row.read()
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
        let stored = save_over(&mut *self.writing().await?, id, over.into(), campaign).await?;
        match stored {
            Some(row) => Ok(CampaignSaved::Stored(Box::new(row.read()?))),
            None => Ok(CampaignSaved::Conflict(Box::new(self.campaign(id).await?))),
        }
    }

    /// Deletes a campaign so that it can be brought back.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub async fn delete_campaign(&self, id: &str) -> Result<(), StoreError> {
        let sql = "UPDATE campaign SET deleted_at = ? WHERE id = ? AND deleted_at IS NULL";
        let done =
            sqlx::query(sql).bind(now()).bind(id).execute(&mut *self.writing().await?).await?;
        if done.rows_affected() == 1 { Ok(()) } else { Err(not_found(id)) }
    }

    /// Brings a deleted campaign back.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] where there never was one.
    pub async fn restore_campaign(&self, id: &str) -> Result<StoredCampaign, StoreError> {
        let sql = format!("UPDATE campaign SET deleted_at = NULL WHERE id = ? RETURNING {COLUMNS}");
        let row: Option<Row> = sqlx::query_as(sqlx::AssertSqlSafe(sql))
            .bind(id)
            .fetch_optional(&mut *self.writing().await?)
            .await?;
        row.ok_or_else(|| not_found(id))?.read()
    }
}
