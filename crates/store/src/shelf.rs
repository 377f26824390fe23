//! The shelf: sites, telescopes, filters and cameras. Curves are kept as rows of their own.

use std::collections::BTreeMap;

use salt_lamp_core::library::{ShelfEntry, ShelfThing};
use serde::Serialize;
use serde_json::Value;
use sqlx::{FromRow, Sqlite, SqliteConnection, Transaction};
use utoipa::ToSchema;

use crate::curves::{Points, at, insert_curves, take_curves};
use crate::damage::{DamagedRow, readable};
use crate::text::Text;
use crate::{Expected, Store, StoreError, checksum, document, new_id, now};

/// Something on the shelf with its place in the store.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct StoredEntry {
    /// Its id.
    pub id: String,
    /// How often it was saved; a save must name the revision it started from.
    pub revision: i64,
    /// Put away: kept for the comparisons that use it, but not offered any more.
    pub archived: bool,
    /// Owned, and not only on offer.
    pub mine: bool,
    /// The one of its kind with which everything begins.
    pub usual: bool,
    /// When it was last saved, RFC 3339 in UTC.
    pub changed_at: String,
    /// What it is.
    pub entry: ShelfEntry,
}

/// What became of a save on the shelf.
#[derive(Clone, Debug, PartialEq)]
pub enum ShelfSaved {
    /// It was stored.
    Stored(Box<StoredEntry>),
    /// Somebody else saved first; this stands there.
    Conflict(Box<StoredEntry>),
}

/// What became of a deletion.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Removed {
    /// It is gone until it is restored.
    Deleted,
    /// A comparison uses it: it was put away instead.
    Archived,
}

#[derive(FromRow)]
struct Row {
    #[sqlx(try_from = "Text")]
    id: String,
    #[sqlx(try_from = "Text")]
    name: String,
    #[sqlx(try_from = "Text")]
    document: String,
    #[sqlx(try_from = "Text")]
    sources: String,
    revision: i64,
    #[sqlx(try_from = "Text")]
    changed_at: String,
    archived_at: Option<String>,
    mine: bool,
    usual: bool,
    checksum: Option<i64>,
}

const COLUMNS: &str = "SELECT id, name, document, sources, revision, changed_at, archived_at, mine, \
    usual, checksum FROM shelf";

impl Store {
    /// Puts shipped entries on the shelf that were never there; what a user changed or deleted
    /// stays so.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn stock_shelf(&self, entries: &[(String, ShelfEntry)]) -> Result<(), StoreError> {
        let mut tx = self.begin().await?;
        let known: Vec<Text> =
            sqlx::query_scalar("SELECT id FROM shelf").fetch_all(&mut *tx).await?;
        for (id, entry) in entries.iter().filter(|(id, _)| known.iter().all(|k| k.0 != *id)) {
            insert(&mut tx, id, entry).await?;
        }
        tx.commit().await?;
        Ok(())
    }

    /// Everything on the shelf that can be read: the usual ones first, then what is owned, then
    /// what is on offer, each in the order in which it came; archived things only where asked for.
    /// [`Store::damaged`] names the others.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn shelf(&self, with_archived: bool) -> Result<Vec<StoredEntry>, StoreError> {
        let rows = self.shelf_rows(with_archived).await?;
        Ok(readable(rows.into_iter().map(|(row, curves)| read(row, curves))))
    }

    /// Things on the shelf that cannot be read any more.
    pub(crate) async fn damaged_shelf(&self) -> Result<Vec<DamagedRow>, StoreError> {
        let told = |(row, curves): (Row, BTreeMap<String, Points>)| {
            let (name, text) = (row.name.clone(), row.document.clone());
            read(row, curves).err().and_then(|e| DamagedRow::told(e, name, text))
        };
        Ok(self.shelf_rows(true).await?.into_iter().filter_map(told).collect())
    }

    /// Seals what has no checksum yet.
    pub(crate) async fn seal_shelf(&self) -> Result<(), StoreError> {
        let open = |r: &(Row, _)| r.0.checksum.is_none();
        let rows: Vec<_> = self.rows("TRUE").await?.into_iter().filter(open).collect();
        if rows.is_empty() {
            return Ok(());
        }
        let mut tx = self.begin().await?;
        for (row, curves) in rows {
            sqlx::query("UPDATE shelf SET checksum = ? WHERE id = ?")
                .bind(sum_of(&row.name, &row.document, &row.sources, &curves))
                .bind(&row.id)
                .execute(&mut *tx)
                .await?;
        }
        tx.commit().await?;
        Ok(())
    }

    async fn shelf_rows(
        &self,
        with_archived: bool,
    ) -> Result<Vec<(Row, BTreeMap<String, Points>)>, StoreError> {
        let archived = if with_archived { "TRUE" } else { "archived_at IS NULL" };
        self.rows(&format!("deleted_at IS NULL AND {archived}")).await
    }

    /// The things for which a condition holds, with their curves.
    async fn rows(
        &self,
        condition: &str,
    ) -> Result<Vec<(Row, BTreeMap<String, Points>)>, StoreError> {
        // One transaction: curves of the same moment as their entries.
        let mut tx = self.pool.begin().await?;
        let sql = format!("{COLUMNS} WHERE {condition} ORDER BY usual DESC, mine DESC, rowid");
        let rows: Vec<Row> = sqlx::query_as(sqlx::AssertSqlSafe(sql)).fetch_all(&mut *tx).await?;
        let points: Vec<(Text, Text, f64, f64)> = sqlx::query_as(
            "SELECT shelf_id, curve, wavelength_nm, value FROM curve_point ORDER BY \
                shelf_id, curve, position",
        )
        .fetch_all(&mut *tx)
        .await?;
        tx.commit().await?;
        let mut curves: BTreeMap<String, BTreeMap<String, Points>> = BTreeMap::new();
        for (id, curve, nm, value) in points {
            let of_thing = curves.entry(id.0).or_default();
            of_thing.entry(curve.0).or_default().push([nm, value]);
        }
        let with_curves = |row: Row| {
            let own = curves.remove(&row.id).unwrap_or_default();
            (row, own)
        };
        Ok(rows.into_iter().map(with_curves).collect())
    }

    /// One thing on the shelf.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Damaged`].
    pub async fn shelf_entry(&self, id: &str) -> Result<StoredEntry, StoreError> {
        let tx = self.pool.begin().await?;
        answered(tx, id).await
    }

    /// Adds an entry.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn add_shelf_entry(&self, entry: &ShelfEntry) -> Result<StoredEntry, StoreError> {
        let id = new_id();
        let mut tx = self.begin().await?;
        insert(&mut tx, &id, entry).await?;
        own(&mut tx, &id, entry).await?;
        answered(tx, &id).await
    }

    /// Saves over an expected revision of an entry, or says that another save came first.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub async fn save_shelf_entry(
        &self,
        id: &str,
        over: impl Into<Expected>,
        entry: &ShelfEntry,
    ) -> Result<ShelfSaved, StoreError> {
        let mut tx = self.begin().await?;
        let stored = save_over(&mut tx, id, over.into(), entry).await?;
        let current = Box::new(entry_of(&mut tx, id).await?);
        tx.commit().await?;
        Ok(if stored { ShelfSaved::Stored(current) } else { ShelfSaved::Conflict(current) })
    }

    /// Deletes an entry so that it can be brought back; one that a stored comparison or a rig names
    /// is put away instead.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub async fn remove_shelf_entry(&self, id: &str) -> Result<Removed, StoreError> {
        let mut tx = self.begin().await?;
        let entry = entry_of(&mut tx, id).await?;
        let removed = if in_use(&mut tx, id, &entry.entry).await? {
            Removed::Archived
        } else {
            Removed::Deleted
        };
        let sql = match removed {
            Removed::Archived => "UPDATE shelf SET archived_at = ?, usual = 0 WHERE id = ?",
            Removed::Deleted => "UPDATE shelf SET deleted_at = ?, usual = 0 WHERE id = ?",
        };
        sqlx::query(sql).bind(now()).bind(id).execute(&mut *tx).await?;
        tx.commit().await?;
        Ok(removed)
    }

    /// Brings a deleted or archived entry back.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] where there never was one.
    pub async fn restore_shelf_entry(&self, id: &str) -> Result<StoredEntry, StoreError> {
        let mut tx = self.begin().await?;
        sqlx::query("UPDATE shelf SET deleted_at = NULL, archived_at = NULL WHERE id = ?")
            .bind(id)
            .execute(&mut *tx)
            .await?;
        answered(tx, id).await
    }
}

/// Saves over an expected revision of an entry; whether it was that one.
pub(crate) async fn save_over(
    tx: &mut Transaction<'_, Sqlite>,
    id: &str,
    over: Expected,
    entry: &ShelfEntry,
) -> Result<bool, StoreError> {
    let (document, curves) = split(id, entry)?;
    let sources = sources(id, entry)?;
    let sum = sum_of(&entry.name, &document, &sources, &curves);
    let sql = "UPDATE shelf
               SET kind = ?1, name = ?2, document = ?3, sources = ?4,
                 revision = revision + 1, changed_at = ?5, checksum = ?8
               WHERE id = ?6
                 AND (?7 IS NULL OR revision IN (SELECT value FROM json_each(?7)))
                 AND deleted_at IS NULL";
    let done = sqlx::query(sql)
        .bind(entry.thing.kind())
        .bind(&entry.name)
        .bind(document)
        .bind(sources)
        .bind(now())
        .bind(id)
        .bind(over.as_json())
        .bind(sum)
        .execute(&mut **tx)
        .await?;
    if done.rows_affected() != 1 {
        return Ok(false);
    }
    sqlx::query("DELETE FROM curve_point WHERE shelf_id = ?").bind(id).execute(&mut **tx).await?;
    insert_curves(tx, id, &curves).await?;
    own(tx, id, entry).await?;
    Ok(true)
}

fn not_found(id: &str) -> StoreError {
    StoreError::NotFound { what: WHAT, id: id.to_owned() }
}

const WHAT: &str = "thing on the shelf";

fn split(id: &str, entry: &ShelfEntry) -> Result<(String, BTreeMap<String, Points>), StoreError> {
    let unwritable = |e: serde_json::Error| StoreError::Unwritable {
        what: WHAT,
        id: id.to_owned(),
        why: e.to_string(),
    };
    let mut document = serde_json::to_value(&entry.thing).map_err(unwritable)?;
    let curves = take_curves(&mut document);
    Ok((document.to_string(), curves))
}

fn sources(id: &str, entry: &ShelfEntry) -> Result<String, StoreError> {
    document(WHAT, id, &entry.sources)
}

/// The checksum of a thing with its curves. A curve without points has no rows, and counts as none.
fn sum_of(name: &str, document: &str, sources: &str, curves: &BTreeMap<String, Points>) -> i64 {
    let kept: BTreeMap<_, _> = curves.iter().filter(|(_, points)| !points.is_empty()).collect();
    let kept = serde_json::to_string(&kept).unwrap_or_default();
    checksum::of(&[name, document, sources, &kept])
}

/// Ends a change with what stands there now.
pub(crate) async fn answered(
    mut tx: Transaction<'static, Sqlite>,
    id: &str,
) -> Result<StoredEntry, StoreError> {
    let entry = entry_of(&mut tx, id).await?;
    tx.commit().await?;
    Ok(entry)
}

pub(crate) async fn entry_of(
    tx: &mut SqliteConnection,
    id: &str,
) -> Result<StoredEntry, StoreError> {
    let sql = format!("{COLUMNS} WHERE id = ? AND deleted_at IS NULL");
    let row: Option<Row> =
        sqlx::query_as(sqlx::AssertSqlSafe(sql)).bind(id).fetch_optional(&mut *tx).await?;
    let row = row.ok_or_else(|| not_found(id))?;
    let points: Vec<(Text, f64, f64)> = sqlx::query_as(
        "SELECT curve, wavelength_nm, value FROM curve_point WHERE shelf_id = ? \
            ORDER BY curve, position",
    )
    .bind(id)
    .fetch_all(&mut *tx)
    .await?;
    let mut curves: BTreeMap<String, Points> = BTreeMap::new();
    for (curve, nm, value) in points {
        curves.entry(curve.0).or_default().push([nm, value]);
    }
    read(row, curves)
}

/// Whether a rig names it, or a stored comparison holds this very telescope, filter or camera.
/// Sites and rigs are not named in comparisons. One that cannot be read may hold anything: it counts
/// as a use, so that nothing is lost that it needs.
async fn in_use(
    tx: &mut SqliteConnection,
    id: &str,
    entry: &ShelfEntry,
) -> Result<bool, StoreError> {
    if matches!(entry.thing, ShelfThing::Site(_) | ShelfThing::Rig(_)) {
        return Ok(false);
    }
    let rigs: Vec<Text> =
        sqlx::query_scalar("SELECT document FROM shelf WHERE kind = 'rig' AND deleted_at IS NULL")
            .fetch_all(&mut *tx)
            .await?;
    let names = |text: &Text| match serde_json::from_str::<ShelfThing>(&text.0) {
        Ok(ShelfThing::Rig(rig)) => rig.part_ids().any(|part| part == id),
        _ => true,
    };
    if rigs.iter().any(names) {
        return Ok(true);
    }
    let documents: Vec<Text> =
        sqlx::query_scalar("SELECT document FROM scenario WHERE deleted_at IS NULL")
            .fetch_all(&mut *tx)
            .await?;
    let uses = |text: &Text| {
        let Ok(s) = serde_json::from_str::<salt_lamp_core::Scenario>(&text.0) else { return true };
        s.contenders.iter().any(|c| match &entry.thing {
            ShelfThing::Site(_) | ShelfThing::Rig(_) => false,
            ShelfThing::Telescope(t) => c.optics == t.optics,
            ShelfThing::Camera(k) => c.sensor.name == k.sensor.name,
            ShelfThing::Filter(f) => c
                .exposures
                .iter()
                .any(|e| e.filter.as_ref().is_some_and(|used| used.name == f.filter.name)),
        })
    };
    Ok(documents.iter().any(uses))
}

pub(crate) async fn insert(
    tx: &mut SqliteConnection,
    id: &str,
    entry: &ShelfEntry,
) -> Result<(), StoreError> {
    let (document, curves) = split(id, entry)?;
    let sources = sources(id, entry)?;
    let sum = sum_of(&entry.name, &document, &sources, &curves);
    let at = now();
    sqlx::query(
        "INSERT INTO shelf (id, kind, name, document, sources, created_at, changed_at, checksum) \
        VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
    )
    .bind(id)
    .bind(entry.thing.kind())
    .bind(&entry.name)
    .bind(document)
    .bind(sources)
    .bind(&at)
    .bind(&at)
    .bind(sum)
    .execute(&mut *tx)
    .await?;
    insert_curves(tx, id, &curves).await
}

fn read(row: Row, curves: BTreeMap<String, Points>) -> Result<StoredEntry, StoreError> {
    let damaged = |why: String| StoreError::Damaged { what: WHAT, id: row.id.clone(), why };
    let mut document: Value =
        serde_json::from_str(&row.document).map_err(|e| damaged(e.to_string()))?;
    let sum = sum_of(&row.name, &row.document, &row.sources, &curves);
    for (path, points) in curves {
        let path: Vec<&str> = path.split('.').collect();
        if let Some(value) = at(&mut document, &path) {
            *value = points.into_iter().map(|p| Value::from(p.to_vec())).collect();
        }
    }
    let thing: ShelfThing = serde_json::from_value(document).map_err(|e| damaged(e.to_string()))?;
    let sources = serde_json::from_str(&row.sources).map_err(|e| damaged(e.to_string()))?;
    if row.checksum.is_some_and(|was| was != sum) {
        return Err(damaged(checksum::ALTERED.to_owned()));
    }
    let entry = ShelfEntry { name: row.name, sources, thing };
    Ok(StoredEntry {
        id: row.id,
        revision: row.revision,
        archived: row.archived_at.is_some(),
        mine: row.mine,
        usual: row.usual,
        changed_at: row.changed_at,
        entry,
    })
}

/// Marks a thing as owned, and the parts of a rig with it. A first rig or site becomes the usual
/// one.
pub(crate) async fn own(
    tx: &mut SqliteConnection,
    id: &str,
    entry: &ShelfEntry,
) -> Result<(), StoreError> {
    let parts: Vec<&str> = match &entry.thing {
        ShelfThing::Rig(rig) => rig.part_ids().map(String::as_str).collect(),
        _ => Vec::new(),
    };
    for id in [id].into_iter().chain(parts) {
        sqlx::query("UPDATE shelf SET mine = 1 WHERE id = ?").bind(id).execute(&mut *tx).await?;
    }
    if matches!(entry.thing, ShelfThing::Site(_) | ShelfThing::Rig(_)) {
        let sql = "UPDATE shelf SET usual = 1
                   WHERE id = ?1 AND deleted_at IS NULL AND archived_at IS NULL
                   AND NOT EXISTS (SELECT 1 FROM shelf WHERE kind = ?2 AND usual)";
        sqlx::query(sql).bind(id).bind(entry.thing.kind()).execute(&mut *tx).await?;
    }
    Ok(())
}
