//! The shelf on a real file.

use salt_lamp_core::library::{Library, ShelfEntry, ShelfThing, shipped_entries};
use salt_lamp_store::{Removed, ShelfSaved, Store, StoreError};

async fn stocked() -> (tempfile::TempDir, Store, Vec<(String, ShelfEntry)>) {
    let dir = tempfile::tempdir().expect("a directory");
    let store = Store::open(dir.path()).await.expect("opens");
    let entries = shipped_entries(&Library::shipped().expect("library").gear);
    store.stock_shelf(&entries).await.expect("stocked");
    (dir, store, entries)
}

#[tokio::test]
async fn all_shipped_entries_come_back_as_they_went_in_curves_and_all() {
    let (_dir, store, entries) = stocked().await;
    let shelf = store.shelf(false).await.expect("lists");
    assert_eq!(shelf.len(), entries.len());
    for (id, entry) in &entries {
        assert_eq!(&shelf.iter().find(|s| &s.id == id).expect("there").entry, entry);
        assert_eq!(&store.shelf_entry(id).await.expect("there").entry, entry);
    }
}

#[tokio::test]
async fn stocking_again_brings_nothing_back_that_was_changed_or_deleted() {
    let (_dir, store, entries) = stocked().await;
    assert_eq!(store.remove_shelf_entry("refractor-70").await.expect("removed"), Removed::Deleted);
    let mut changed = store.shelf_entry("dual-7").await.expect("there").entry;
    changed.name = "Mine".into();
    assert!(matches!(
        store.save_shelf_entry("dual-7", 1, &changed).await,
        Ok(ShelfSaved::Stored(_))
    ));
    store.stock_shelf(&entries).await.expect("stocked");
    assert!(matches!(store.shelf_entry("refractor-70").await, Err(StoreError::NotFound { .. })));
    assert_eq!(store.shelf_entry("dual-7").await.expect("there").entry.name, "Mine");
    assert_eq!(
        store.restore_shelf_entry("refractor-70").await.expect("back").entry.name,
        "70 mm f/6 refractor"
    );
}

#[tokio::test]
async fn what_a_comparison_uses_is_put_away_not_lost() {
    let (_dir, store, _) = stocked().await;
    let demo = Library::shipped().expect("library").examples.remove(0).scenario;
    store.add_scenario(&demo).await.expect("added");
    for id in ["dual-7", "refractor-90", "mono-26"] {
        assert_eq!(store.remove_shelf_entry(id).await.expect("removed"), Removed::Archived, "{id}");
        assert!(store.shelf(false).await.expect("lists").iter().all(|s| s.id != id));
        assert!(store.shelf(true).await.expect("lists").iter().any(|s| s.id == id && s.archived));
    }
    assert!(!store.restore_shelf_entry("dual-7").await.expect("back").archived);
}

#[tokio::test]
async fn a_curve_is_rows_and_a_second_save_is_told() {
    let (_dir, store, _) = stocked().await;
    let mut entry = store.shelf_entry("uhc").await.expect("there").entry;
    let ShelfThing::Filter(f) = &mut entry.thing else { panic!("a filter") };
    f.filter.curve =
        Some(salt_lamp_core::light::Curve(vec![[480.0, 0.1], [500.0, 0.9], [520.0, 0.0]]));
    assert!(matches!(store.save_shelf_entry("uhc", 1, &entry).await,
            Ok(ShelfSaved::Stored(s)) if s.entry == entry && s.revision == 2));
    assert!(matches!(store.save_shelf_entry("uhc", 1, &entry).await,
            Ok(ShelfSaved::Conflict(s)) if s.revision == 2));
}

#[tokio::test]
async fn what_a_target_emits_is_kept_and_forgotten() {
    let (_dir, store, _) = stocked().await;
    assert_eq!(store.target_emission("IC 443").await.expect("asks"), None);
    store.set_target_emission("IC 443", Some("{\"a\":1}")).await.expect("kept");
    store.set_target_emission("IC 443", Some("{\"a\":2}")).await.expect("kept");
    assert_eq!(store.target_emission("IC 443").await.expect("asks").as_deref(), Some("{\"a\":2}"));
    store.set_target_emission("IC 443", None).await.expect("forgotten");
    assert_eq!(store.target_emission("IC 443").await.expect("asks"), None);
}
