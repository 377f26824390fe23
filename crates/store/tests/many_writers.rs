//! Many writers at once, each answered with its own work, and damaged rows beside sound ones.

use std::sync::Arc;

use salt_lamp_core::Scenario;
use salt_lamp_core::campaign::Campaign;
use salt_lamp_core::library::{Library, shipped_entries};
use salt_lamp_store::{CampaignSaved, FILE_NAME, Removed, Saved, ShelfSaved, Store};

const WRITERS: usize = 50;
const SAVES: usize = 3;

fn demo() -> Scenario {
    serde_json::from_str(include_str!("../../../data/demo/larch-lane-ic-443.json"))
        .expect("the demo parses")
}

fn campaign(title: &str) -> Campaign {
    serde_json::from_value(serde_json::json!({
        "title": title, "scenario": demo(), "contender": 0, "site": "larch-lane",
            "goals": [{"exposure": 0, "snr": 20.0}],
        "framing": {"ra_deg": 94.25, "dec_deg": 22.57, "position_angle_deg": 20.0}, "nights": [],
            "clear_share": 0.3
    }))
    .expect("a campaign")
}

async fn opened() -> (tempfile::TempDir, Arc<Store>) {
    let dir = tempfile::tempdir().expect("a directory");
    let store = Store::open(dir.path()).await.expect("opens");
    store
        .stock_shelf(&shipped_entries(&Library::shipped().expect("library").gear))
        .await
        .expect("stocked");
    (dir, Arc::new(store))
}

/// Runs one task a writer and waits for all of them.
async fn writers<F: Future<Output = ()> + Send + 'static>(work: impl Fn(usize) -> F) {
    let all: Vec<_> = (0..WRITERS).map(|w| tokio::spawn(work(w))).collect();
    for one in all {
        one.await.expect("no writer fails");
    }
}

#[tokio::test(flavor = "multi_thread", worker_threads = 4)]
async fn fifty_writers_of_one_comparison_each_get_back_what_they_stored() {
    let (_dir, store) = opened().await;
    let id = store.add_scenario(&demo()).await.expect("added").row.id;
    writers(|w| {
        let (store, id) = (Arc::clone(&store), id.clone());
        async move {
            let mut revision = 1;
            for n in 0..SAVES {
                let mine = Scenario { title: format!("writer {w}, save {n}"), ..demo() };
                loop {
                    match store.save_scenario(&id, revision, &mine).await.expect("answers") {
                        Saved::Stored(s) => {
                            assert_eq!(
                                (s.row.title, s.row.revision),
                                (mine.title.clone(), revision + 1)
                            );
                            break;
                        }
                        Saved::Conflict(s) => revision = s.row.revision,
                    }
                }
            }
        }
    })
    .await;
    assert_eq!(
        store.scenario(&id).await.expect("there").row.revision as usize,
        1 + WRITERS * SAVES
    );
}

#[tokio::test(flavor = "multi_thread", worker_threads = 4)]
async fn fifty_writers_of_one_campaign_each_get_back_what_they_stored() {
    let (_dir, store) = opened().await;
    let id = store.add_campaign(&campaign("Winter")).await.expect("added").id;
    writers(|w| {
        let (store, id) = (Arc::clone(&store), id.clone());
        async move {
            let mut revision = 1;
            for n in 0..SAVES {
                let mine = campaign(&format!("writer {w}, save {n}"));
                loop {
                    match store.save_campaign(&id, revision, &mine).await.expect("answers") {
                        CampaignSaved::Stored(s) => {
                            assert_eq!(
                                (s.campaign.title, s.revision),
                                (mine.title.clone(), revision + 1)
                            );
                            break;
                        }
                        CampaignSaved::Conflict(s) => revision = s.revision,
                    }
                }
            }
        }
    })
    .await;
    assert_eq!(store.campaign(&id).await.expect("there").revision as usize, 1 + WRITERS * SAVES);
}

#[tokio::test(flavor = "multi_thread", worker_threads = 4)]
async fn fifty_writers_of_one_filter_each_get_back_what_they_stored_curve_and_all() {
    let (_dir, store) = opened().await;
    let first = store.shelf_entry("uhc").await.expect("there").entry;
    writers(|w| {
        let (store, first) = (Arc::clone(&store), first.clone());
        async move {
            let mut revision = 1;
            for n in 0..SAVES {
                let mut mine = first.clone();
                mine.name = format!("writer {w}, save {n}");
                let salt_lamp_core::library::ShelfThing::Filter(f) = &mut mine.thing else {
                    panic!("a filter")
                };
                f.filter.curve = Some(salt_lamp_core::light::Curve(vec![
                    [480.0, 0.1],
                    [500.0, w as f64 / 100.0],
                    [520.0, 0.0],
                ]));
                loop {
                    match store.save_shelf_entry("uhc", revision, &mine).await.expect("answers") {
                        ShelfSaved::Stored(s) => {
                            assert_eq!((s.entry, s.revision), (mine.clone(), revision + 1));
                            break;
                        }
                        ShelfSaved::Conflict(s) => revision = s.revision,
                    }
                }
            }
        }
    })
    .await;
    assert_eq!(
        store.shelf_entry("uhc").await.expect("there").revision as usize,
        1 + WRITERS * SAVES
    );
}

#[tokio::test]
async fn one_damaged_row_is_named_and_the_rest_is_served() {
    let (dir, store) = opened().await;
    let hurt = store.add_campaign(&campaign("Hurt")).await.expect("added").id;
    store.add_campaign(&campaign("Sound")).await.expect("added");
    let scenario = store.add_scenario(&demo()).await.expect("added").row.id;
    let shelf = store.shelf(true).await.expect("lists").len();
    assert!(store.damaged().await.expect("asks").is_empty());
    let file = format!("sqlite:{}", dir.path().join(FILE_NAME).display());
    let pool = sqlx::SqlitePool::connect(&file).await.expect("opens by hand");
    for sql in [
        "UPDATE campaign SET document = '{\"title\": 5}' WHERE title = 'Hurt'",
        "UPDATE scenario SET document = '{}'",
        "UPDATE shelf SET document = '[]' WHERE id = 'dual-3'",
    ] {
        assert_eq!(
            sqlx::query(sqlx::AssertSqlSafe(sql))
                .execute(&pool)
                .await
                .expect("damaged by hand")
                .rows_affected(),
            1,
            "{sql}"
        );
    }
    pool.close().await;
    let titles: Vec<String> = store
        .campaigns()
        .await
        .expect("the rest is served")
        .into_iter()
        .map(|c| c.campaign.title)
        .collect();
    assert_eq!(titles, ["Sound"]);
    assert_eq!(store.shelf(true).await.expect("the rest is served").len(), shelf - 1);
    let told = store.damaged().await.expect("asks");
    let named: Vec<(&str, &str)> = told.iter().map(|d| (d.what.as_str(), d.id.as_str())).collect();
    assert_eq!(
        named,
        [
            ("scenario", scenario.as_str()),
            ("campaign", hurt.as_str()),
            ("thing on the shelf", "dual-3")
        ]
    );
    assert!(
        told.iter().all(|d| !d.why.is_empty() && !d.name.is_empty() && !d.document.is_empty()),
        "{told:?}"
    );
    // A comparison that cannot be read may use anything: what it may use is put away, not deleted.
    assert_eq!(store.remove_shelf_entry("dual-7").await.expect("removed"), Removed::Archived);
}
