//! What of the shelf is owned, and which rig and which site are the usual ones.

use salt_lamp_core::library::{ShelfEntry, ShelfThing};
use salt_lamp_core::scenario::Site;

use crate::shelf::{StoredEntry, answered, entry_of, insert, own};
use crate::text::Text;
use crate::{Store, StoreError};

impl Store {
    /// The site where one usually is: one's own, the usual one first.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn usual_site(&self) -> Result<Option<Site>, StoreError> {
        let own = self.shelf(false).await?.into_iter().filter(|e| e.mine);
        Ok(own.map(|e| e.entry.thing).find_map(|thing| match thing {
            ShelfThing::Site(site) => Some(site),
            _ => None,
        }))
    }

    /// Puts a kit on the shelf as a user's own, as the demo does; what was there already stays as
    /// it is, but for being owned. The first rig and the first site become the usual ones where there are none.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn stock_kit(&self, entries: &[(String, ShelfEntry)]) -> Result<(), StoreError> {
        let mut tx = self.begin().await?;
        let known: Vec<Text> =
            sqlx::query_scalar("SELECT id FROM shelf").fetch_all(&mut *tx).await?;
        for (id, entry) in entries {
            if known.iter().all(|k| k.0 != *id) {
                insert(&mut tx, id, entry).await?;
            }
            own(&mut tx, id, entry).await?;
        }
        tx.commit().await?;
        Ok(())
    }

    /// Says whether a thing is owned. The usual one of its kind is, so it is not the usual one any
    /// more where it is not owned.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub async fn own_shelf_entry(&self, id: &str, mine: bool) -> Result<StoredEntry, StoreError> {
        let mut tx = self.begin().await?;
        sqlx::query("UPDATE shelf SET mine = ?1, usual = usual AND ?1 WHERE id = ?2")
            .bind(mine)
            .bind(id)
            .execute(&mut *tx)
            .await?;
        answered(tx, id).await
    }

    /// Makes a thing the usual one of its kind, in place of the one that was.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub async fn make_usual(&self, id: &str) -> Result<StoredEntry, StoreError> {
        let mut tx = self.begin().await?;
        let kind = entry_of(&mut tx, id).await?.entry.thing.kind();
        sqlx::query("UPDATE shelf SET usual = 0 WHERE kind = ? AND usual")
            .bind(kind)
            .execute(&mut *tx)
            .await?;
        sqlx::query("UPDATE shelf SET usual = 1, mine = 1 WHERE id = ?")
            .bind(id)
            .execute(&mut *tx)
            .await?;
        answered(tx, id).await
    }
}
