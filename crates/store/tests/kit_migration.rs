//! A database of before there were rigs is brought up to date, and nothing in it is lost.

use salt_lamp_core::library::{Library, ShelfThing, demo_kit, shipped_entries};
use salt_lamp_store::{FILE_NAME, Store};

/// A database as it was before: what shipped, one thing that a user made, one that a user changed,
/// and a comparison.
async fn of_before(dir: &std::path::Path) {
    let file = format!("sqlite:{}?mode=rwc", dir.join(FILE_NAME).display());
    let pool = sqlx::SqlitePool::connect(&file).await.expect("opens");
    let mut old = sqlx::migrate!("./migrations");
    let first: Vec<_> = old.migrations.iter().filter(|m| m.version <= 4).cloned().collect();
    old.migrations = first.into();
    old.run(&pool).await.expect("the old tables");
    let library = Library::shipped().expect("library");
    let own = "0b9a0d6e-6f0e-4d8e-9d3a-000000000001".to_owned();
    let mut entries = shipped_entries(&library.gear);
    // Sites came with everybody's shelf then.
    entries.extend(demo_kit().into_iter().filter(|(_, e)| e.thing.kind() == "site"));
    let (_, mut mine) = entries.iter().find(|(id, _)| id == "uhc").expect("there").clone();
    mine.name = "My own curve".to_owned();
    entries.push((own, mine));
    for (id, entry) in &entries {
        let mut document = serde_json::to_value(&entry.thing).expect("JSON");
        let filter = document.pointer_mut("/item/filter/curve");
        let curve = filter.filter(|c| c.is_array()).map(|c| std::mem::replace(c, "[]".into()));
        if curve.is_some() {
            *document.pointer_mut("/item/filter/curve").expect("there") = serde_json::json!([]);
        }
        let revision = if id == "dual-7" { 3 } else { 1 };
        sqlx::query("INSERT INTO shelf VALUES (?, ?, ?, ?, '{}', ?, 'then', 'then', NULL, NULL)")
            .bind(id)
            .bind(entry.thing.kind())
            .bind(&entry.name)
            .bind(document.to_string())
            .bind(revision)
            .execute(&pool)
            .await
            .expect("a row");
        for (at, point) in curve.iter().flat_map(|c| c.as_array()).flatten().enumerate() {
            sqlx::query("INSERT INTO curve_point VALUES (?, 'filter.curve', ?, ?, ?)")
                .bind(id)
                .bind(at as i64)
                .bind(point[0].as_f64())
                .bind(point[1].as_f64())
                .execute(&pool)
                .await
                .expect("a point");
        }
    }
    let scenario = &library.examples[0].scenario;
    sqlx::query("INSERT INTO scenario VALUES ('a', 'Title', 'IC 443', ?, 2, 'then', 'then', NULL)")
        .bind(serde_json::to_string(scenario).expect("JSON"))
        .execute(&pool)
        .await
        .expect("a comparison");
    // A campaign from a site that came with the program, and one that was deleted.
    let campaign = |site: &str| {
        serde_json::json!({"title": "C", "scenario": scenario, "contender": 0, "site": site, "clear_share": 0.3,
            "framing": {"ra_deg": 94.25, "dec_deg": 22.57}, "goals": [{"exposure": 0, "snr": 20.0}]})
    };
    for (id, site, deleted) in [("c", "larch-lane", None), ("d", "heron-lake", Some("then"))] {
        sqlx::query("INSERT INTO campaign VALUES (?, 'C', ?, 1, 'then', 'then', ?)")
            .bind(id)
            .bind(campaign(site).to_string())
            .bind(deleted)
            .execute(&pool)
            .await
            .expect("a campaign");
    }
    pool.close().await;
}

#[tokio::test]
async fn a_database_of_before_loses_nothing() {
    let dir = tempfile::tempdir().expect("a directory");
    of_before(dir.path()).await;
    let store = Store::open(dir.path()).await.expect("brought up to date");
    assert!(store.damaged().await.expect("reads").is_empty());
    let library = Library::shipped().expect("library");
    let shelf = store.shelf(true).await.expect("lists");
    for (id, entry) in shipped_entries(&library.gear) {
        let stored = shelf.iter().find(|s| s.id == id).unwrap_or_else(|| panic!("{id} is lost"));
        assert_eq!(stored.entry.thing, entry.thing, "{id}");
        assert_eq!(stored.mine, id == "dual-7", "{id}");
    }
    // What the user made is the user's, with its curve, and stands first; so is the campaign's site.
    assert_eq!(shelf.iter().filter(|s| s.mine).count(), 3);
    assert!(shelf[..3].iter().all(|s| s.mine) && shelf[..3].iter().any(|s| s.id == "larch-lane"));
    let own = shelf.iter().find(|s| s.entry.name == "My own curve").expect("there");
    let curve = |thing: &ShelfThing| match thing {
        ShelfThing::Filter(f) => f.filter.curve.as_ref().map(|c| c.0.len()),
        _ => None,
    };
    let shipped = shelf.iter().find(|s| s.id == "uhc").expect("there");
    assert_eq!(curve(&own.entry.thing), curve(&shipped.entry.thing));
    assert!(curve(&own.entry.thing).is_some_and(|n| n > 2));
    assert_eq!(own.revision, 1);
    // Comparisons stand in the list as before.
    let rows = store.scenarios().await.expect("lists");
    assert_eq!((rows.len(), rows[0].revision), (1, 2));
    assert_eq!(store.scenario("a").await.expect("reads").scenario, library.examples[0].scenario);
}
