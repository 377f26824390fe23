//! The store on a real file.

use salt_lamp_core::Scenario;
use salt_lamp_store::{FILE_NAME, Saved, Store, StoreError};

fn demo() -> Scenario {
    serde_json::from_str(include_str!("../../../data/demo/larch-lane-ic-443.json"))
        .expect("the demo parses")
}

#[tokio::test]
async fn a_scenario_outlives_the_program() {
    let dir = tempfile::tempdir().expect("a directory");
    let store = Store::open(dir.path()).await.expect("opens");
    let added = store.add_scenario(&demo()).await.expect("added");
    store.close().await;
    let store = Store::open(dir.path()).await.expect("opens again");
    assert_eq!(store.scenario(&added.row.id).await.expect("there").scenario, demo());
}

#[tokio::test]
async fn the_second_save_is_told_and_overwrites_nothing() {
    let dir = tempfile::tempdir().expect("a directory");
    let store = Store::open(dir.path()).await.expect("opens");
    let id = store.add_scenario(&demo()).await.expect("added").row.id;
    let titled = |title: &str| Scenario { title: title.into(), ..demo() };
    assert!(matches!(store.save_scenario(&id, 1, &titled("first tab")).await,
            Ok(Saved::Stored(s)) if s.row.revision == 2));
    let second = store.save_scenario(&id, 1, &titled("second tab")).await.expect("answers");
    assert!(matches!(second, Saved::Conflict(ref s) if s.row.title == "first tab"
            && s.row.revision == 2));
    assert_eq!(store.scenario(&id).await.expect("there").row.title, "first tab");
}

#[tokio::test]
async fn deletion_is_undone() {
    let dir = tempfile::tempdir().expect("a directory");
    let store = Store::open(dir.path()).await.expect("opens");
    let id = store.add_scenario(&demo()).await.expect("added").row.id;
    store.delete_scenario(&id).await.expect("deleted");
    assert!(store.scenarios().await.expect("lists").is_empty());
    assert!(matches!(store.scenario(&id).await, Err(StoreError::NotFound { .. })));
    assert!(matches!(store.delete_scenario(&id).await, Err(StoreError::NotFound { .. })));
    assert!(matches!(store.save_scenario(&id, 1, &demo()).await, Err(StoreError::NotFound { .. })));
    assert_eq!(store.restore_scenario(&id).await.expect("back").scenario, demo());
    assert!(matches!(store.restore_scenario("nothing").await, Err(StoreError::NotFound { .. })));
}

#[tokio::test]
async fn a_copy_is_a_scenario_of_its_own() {
    let dir = tempfile::tempdir().expect("a directory");
    let store = Store::open(dir.path()).await.expect("opens");
    let id = store.add_scenario(&demo()).await.expect("added").row.id;
    let copy = store.duplicate_scenario(&id).await.expect("copied");
    assert_ne!(copy.row.id, id);
    assert_eq!(copy.row.title, "IC 443 from Larch Lane (copy)");
    assert_eq!(store.scenarios().await.expect("lists").len(), 2);
    // Every light path of every comparison, in order; those of a deleted one are gone.
    let rigs = store.rigs().await.expect("lists");
    assert_eq!(rigs.len(), 2 * demo().contenders.len());
    let own: Vec<(i64, String)> =
        rigs.iter().filter(|r| r.scenario == id).map(|r| (r.contender, r.name.clone())).collect();
    let named: Vec<(i64, String)> =
        (0..).zip(demo().contenders.into_iter().map(|c| c.name)).collect();
    assert_eq!(own, named);
    store.delete_scenario(&id).await.expect("deleted");
    assert!(store.rigs().await.expect("lists").iter().all(|r| r.scenario == copy.row.id));
}

#[tokio::test]
async fn damage_is_named_and_a_foreign_file_is_refused() {
    let dir = tempfile::tempdir().expect("a directory");
    let store = Store::open(dir.path()).await.expect("opens");
    let id = store.add_scenario(&demo()).await.expect("added").row.id;
    store.close().await;
    let file = format!("sqlite:{}", dir.path().join(FILE_NAME).display());
    let pool = sqlx::SqlitePool::connect(&file).await.expect("opens by hand");
    sqlx::query("UPDATE scenario SET document = '{\"title\": 5}'")
        .execute(&pool)
        .await
        .expect("damaged by hand");
    pool.close().await;
    let store = Store::open(dir.path()).await.expect("opens");
    let error = store.scenario(&id).await.expect_err("damaged").to_string();
    assert!(error.contains(&id) && error.contains("cannot be read"), "{error}");
    // The list still shows it: nothing stored is lost.
    assert_eq!(store.scenarios().await.expect("lists").len(), 1);
    assert!(store.rigs().await.expect("lists").is_empty());

    let other = tempfile::tempdir().expect("a directory");
    std::fs::write(other.path().join(FILE_NAME), "this is a letter, not a database")
        .expect("written");
    assert!(Store::open(other.path()).await.is_err());
}
