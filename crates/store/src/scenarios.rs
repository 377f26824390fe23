//! Scenarios: listed, read, saved with a revision, duplicated, renamed, deleted and brought back.

use salt_lamp_core::Scenario;
use serde::Serialize;
use sqlx::FromRow;
use utoipa::ToSchema;

use crate::damage::{DamagedRow, readable};
use crate::text::Text;
use crate::{Expected, Store, StoreError, checksum, document, new_id, now};

/// A scenario in a list.
#[derive(Clone, Debug, PartialEq, Eq, FromRow, Serialize, ToSchema)]
pub struct ScenarioRow {
    /// Its id.
    #[sqlx(try_from = "Text")]
    pub id: String,
    /// Its title.
    #[sqlx(try_from = "Text")]
    pub title: String,
    /// Name of its target.
    #[sqlx(try_from = "Text")]
    pub target: String,
    /// How often it was saved; a save must name the revision it started from.
    pub revision: i64,
    /// When it was first saved, RFC 3339 in UTC.
    #[sqlx(try_from = "Text")]
    pub created_at: String,
    /// When it was last saved, RFC 3339 in UTC.
    #[sqlx(try_from = "Text")]
    pub changed_at: String,
    /// Only begun: in no list, and gone after a day, until it is touched or saved.
    pub untouched: bool,
}

/// One light path of a stored scenario, by name.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, ToSchema)]
pub struct RigRow {
    /// Id of the scenario.
    pub scenario: String,
    /// Its title.
    pub title: String,
    /// Index of the contender.
    pub contender: i64,
    /// The contender's name.
    pub name: String,
}

/// A scenario with its document.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct StoredScenario {
    /// The list entry.
    #[serde(flatten)]
    pub row: ScenarioRow,
    /// The document.
    pub scenario: Scenario,
}

/// What became of a save.
#[derive(Clone, Debug, PartialEq)]
pub enum Saved {
    /// It was stored; this stands there now.
    Stored(Box<StoredScenario>),
    /// Somebody else saved first; nothing was changed, and this stands there.
    Conflict(Box<StoredScenario>),
}

#[derive(FromRow)]
struct FullRow {
    #[sqlx(flatten)]
    row: ScenarioRow,
    #[sqlx(try_from = "Text")]
    document: String,
    checksum: Option<i64>,
}

impl FullRow {
    fn read(self) -> Result<StoredScenario, StoreError> {
        let damaged =
            |why: String| StoreError::Damaged { what: "scenario", id: self.row.id.clone(), why };
        let scenario: Scenario =
            serde_json::from_str(&self.document).map_err(|e| damaged(e.to_string()))?;
        if !checksum::fits(self.checksum, &[&self.row.title, &self.row.target, &self.document]) {
            return Err(damaged(checksum::ALTERED.to_owned()));
        }
        Ok(StoredScenario { row: self.row, scenario })
    }
}

fn rigs_of(stored: &StoredScenario) -> impl Iterator<Item = RigRow> {
    (0..).zip(&stored.scenario.contenders).map(|(contender, c)| RigRow {
        scenario: stored.row.id.clone(),
        title: stored.row.title.clone(),
        contender,
        name: c.name.clone(),
    })
}

impl Store {
    /// All scenarios that are not deleted, last changed first; those that were begun and not
    /// touched yet are in no list.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn scenarios(&self) -> Result<Vec<ScenarioRow>, StoreError> {
        let sql = "SELECT id, title, target, revision, created_at, changed_at, untouched FROM scenario \
                   WHERE deleted_at IS NULL AND NOT untouched ORDER BY changed_at DESC, rowid DESC";
        Ok(sqlx::query_as(sql).fetch_all(&self.pool).await?)
    }

    /// The light paths of all scenarios that are not deleted, last changed scenario first; a
    /// scenario that cannot be read has none.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn rigs(&self) -> Result<Vec<RigRow>, StoreError> {
        let sql = "SELECT * FROM scenario WHERE deleted_at IS NULL AND NOT untouched \
                   ORDER BY changed_at DESC, rowid DESC";
        let rows: Vec<FullRow> = sqlx::query_as(sql).fetch_all(&self.pool).await?;
        Ok(readable(rows.into_iter().map(FullRow::read)).iter().flat_map(rigs_of).collect())
    }

    /// Scenarios that cannot be read any more.
    pub(crate) async fn damaged_scenarios(&self) -> Result<Vec<DamagedRow>, StoreError> {
        let rows: Vec<FullRow> =
            sqlx::query_as("SELECT * FROM scenario WHERE deleted_at IS NULL ORDER BY rowid")
                .fetch_all(&self.pool)
                .await?;
        let told = |r: FullRow| {
            let (name, text) = (r.row.title.clone(), r.document.clone());
            r.read().err().and_then(|e| DamagedRow::told(e, name, text))
        };
        Ok(rows.into_iter().filter_map(told).collect())
    }

    /// One scenario.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], also for a deleted one; [`StoreError::Damaged`].
    pub async fn scenario(&self, id: &str) -> Result<StoredScenario, StoreError> {
        let sql = "SELECT * FROM scenario WHERE id = ? AND deleted_at IS NULL";
        let row: Option<FullRow> = sqlx::query_as(sql).bind(id).fetch_optional(&self.pool).await?;
        row.ok_or_else(|| not_found(id))?.read()
    }

    /// Stores a new scenario.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn add_scenario(&self, scenario: &Scenario) -> Result<StoredScenario, StoreError> {
        self.add_scenario_as(&new_id(), scenario).await
    }

    /// Stores a scenario that was begun and not touched yet: it can be read and saved, stands in no
    /// list until then, and is gone after a day.
    ///
    /// # Errors
    /// Where the database fails.
    pub async fn begin_scenario(&self, scenario: &Scenario) -> Result<StoredScenario, StoreError> {
        self.insert(&new_id(), scenario, true).await
    }

    /// Says that a scenario was touched: from now on it is kept, and stands in the list.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub async fn touch_scenario(&self, id: &str) -> Result<(), StoreError> {
        let sql = "UPDATE scenario SET untouched = 0 WHERE id = ? AND deleted_at IS NULL";
        let done = sqlx::query(sql).bind(id).execute(&mut *self.writing().await?).await?;
        if done.rows_affected() == 1 { Ok(()) } else { Err(not_found(id)) }
    }

    /// Forgets scenarios that were begun before a moment (RFC 3339 in UTC) and never touched.
    pub(crate) async fn forget_untouched(&self, before: &str) -> Result<(), StoreError> {
        sqlx::query("DELETE FROM scenario WHERE untouched AND created_at < ?")
            .bind(before)
            .execute(&mut *self.writing().await?)
            .await?;
        Ok(())
    }

    /// Stores a new scenario under an id of the caller's, as the demo does to keep its links.
    ///
    /// # Errors
    /// Where the database fails or has the id already.
    pub async fn add_scenario_as(
        &self,
        id: &str,
        scenario: &Scenario,
    ) -> Result<StoredScenario, StoreError> {
        self.insert(id, scenario, false).await
    }

    async fn insert(
        &self,
        id: &str,
        scenario: &Scenario,
        untouched: bool,
    ) -> Result<StoredScenario, StoreError> {
        let at = now();
        let sql = "INSERT INTO scenario \
            (id, title, target, document, created_at, changed_at, untouched, checksum) \
            VALUES (?, ?, ?, ?, ?, ?, ?, ?) RETURNING *";
        let document = document("scenario", id, scenario)?;
        let sum = checksum::of(&[&scenario.title, &scenario.target.name, &document]);
        let row: FullRow = sqlx::query_as(sql)
            .bind(id)
            .bind(&scenario.title)
            .bind(&scenario.target.name)
            .bind(document)
            .bind(&at)
            .bind(&at)
            .bind(untouched)
            .bind(sum)
            .fetch_one(&mut *self.writing().await?)
            .await?;
        row.read()
    }

    /// Saves over an expected revision of a scenario, or says that another save came first. What
    /// was stored is answered by the very statement that stored it: a save that follows at once
    /// cannot slip between.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] for an unknown or deleted one.
    pub async fn save_scenario(
        &self,
        id: &str,
        over: impl Into<Expected>,
        scenario: &Scenario,
    ) -> Result<Saved, StoreError> {
        let sql = "UPDATE scenario
                   SET title = ?1, target = ?2, document = ?3, revision = revision + 1,
                     changed_at = ?4, untouched = 0, checksum = ?7
                   WHERE id = ?5
                     AND (?6 IS NULL OR revision IN (SELECT value FROM json_each(?6)))
                     AND deleted_at IS NULL
                   RETURNING *";
        let document = document("scenario", id, scenario)?;
        let sum = checksum::of(&[&scenario.title, &scenario.target.name, &document]);
        let stored: Option<FullRow> = sqlx::query_as(sql)
            .bind(&scenario.title)
            .bind(&scenario.target.name)
            .bind(document)
            .bind(now())
            .bind(id)
            .bind(over.into().as_json())
            .bind(sum)
            .fetch_optional(&mut *self.writing().await?)
            .await?;
        match stored {
            Some(row) => Ok(Saved::Stored(Box::new(row.read()?))),
            None => Ok(Saved::Conflict(Box::new(self.scenario(id).await?))),
        }
    }

    /// Stores a copy with "(copy)" behind its title.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub async fn duplicate_scenario(&self, id: &str) -> Result<StoredScenario, StoreError> {
        let mut scenario = self.scenario(id).await?.scenario;
        scenario.title = copy_title(&scenario.title);
        self.add_scenario(&scenario).await
    }

    /// Deletes a scenario so that it can be brought back.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub async fn delete_scenario(&self, id: &str) -> Result<(), StoreError> {
        let sql = "UPDATE scenario SET deleted_at = ? WHERE id = ? AND deleted_at IS NULL";
        let done =
            sqlx::query(sql).bind(now()).bind(id).execute(&mut *self.writing().await?).await?;
        if done.rows_affected() == 1 { Ok(()) } else { Err(not_found(id)) }
    }

    /// Brings a deleted scenario back as it was.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] where no such scenario was ever stored.
    pub async fn restore_scenario(&self, id: &str) -> Result<StoredScenario, StoreError> {
        let sql = "UPDATE scenario SET deleted_at = NULL WHERE id = ? RETURNING *";
        let row: Option<FullRow> =
            sqlx::query_as(sql).bind(id).fetch_optional(&mut *self.writing().await?).await?;
        row.ok_or_else(|| not_found(id))?.read()
    }
}

fn not_found(id: &str) -> StoreError {
    StoreError::NotFound { what: "scenario", id: id.to_owned() }
}

/// "Title (copy)", then "Title (copy 2)", within the longest title that is accepted.
fn copy_title(title: &str) -> String {
    let (stem, number) = match title.strip_suffix(')').and_then(|t| t.rsplit_once(" (copy")) {
        Some((stem, "")) => (stem, 2),
        Some((stem, n)) => match n.trim().parse::<u32>() {
            Ok(n) => (stem, n + 1),
            Err(_) => (title, 1),
        },
        None => (title, 1),
    };
    let stem: String = stem.chars().take(185).collect();
    if number == 1 { format!("{stem} (copy)") } else { format!("{stem} (copy {number})") }
}

#[cfg(test)]
mod tests {
    use super::copy_title;

    #[test]
    fn copies_are_counted() {
        assert_eq!(copy_title("IC 443"), "IC 443 (copy)");
        assert_eq!(copy_title("IC 443 (copy)"), "IC 443 (copy 2)");
        assert_eq!(copy_title("IC 443 (copy 2)"), "IC 443 (copy 3)");
        assert_eq!(copy_title("IC 443 (copying)"), "IC 443 (copying) (copy)");
        assert!(copy_title(&"x".repeat(200)).chars().count() <= 200);
    }
}
