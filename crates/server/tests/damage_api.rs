//! A database some of whose bytes were altered: either the start refuses it, or every view opens.

use crate::help::{Api, changed, demo};
use axum::http::StatusCode;
use salt_lamp_server::Front;
use salt_lamp_store::{FILE_NAME, Store};
use serde_json::{Value, json};

/// What each view asks first.
const OF_VIEWS: [&str; 10] = [
    "/health",
    "/scenarios",
    "/tonight?date=2026-12-12",
    "/shelf",
    "/kit/rigs",
    "/kit/starters",
    "/kit/offered",
    "/campaigns",
    "/rigs",
    "/damaged",
];

async fn filled() -> Vec<u8> {
    let api = Api::new().await;
    for i in 0..6 {
        let scenario = changed(|d| d["title"] = json!(format!("Comparison {i}")));
        let (status, told) = api.call("POST", "/api/v1/scenarios", &[], Some(&scenario)).await;
        assert_eq!(status, StatusCode::CREATED, "{told}");
    }
    let begin = json!({"scenario": demo(), "contender": 0, "site": "larch-lane"});
    for _ in 0..3 {
        let (status, told) = api.call("POST", "/api/v1/campaigns/begin", &[], Some(&begin)).await;
        assert_eq!(status, StatusCode::CREATED, "{told}");
    }
    api.closed().await
}

#[tokio::test(flavor = "multi_thread")]
async fn with_altered_bytes_the_start_refuses_or_every_view_opens() {
    let sound = filled().await;
    let (mut opened, mut named) = (0, 0);
    for seed in 1..=crate::common::trials(12) {
        let dir = tempfile::tempdir().expect("a directory");
        let bytes = crate::common::with_flipped_bits(&sound, seed.wrapping_mul(977));
        std::fs::write(dir.path().join(FILE_NAME), &bytes).expect("written");
        let Ok(store) = Store::open(dir.path()).await else { continue };
        opened += 1;
        let api = Api::over(store, dir, (Front::default(), &[])).await;
        for path in OF_VIEWS {
            let (status, told) = api.call("GET", &format!("/api/v1{path}"), &[], None).await;
            assert_eq!(status, StatusCode::OK, "seed {seed}, {path}: {told}");
        }
        // Each comparison is there as it was stored, or said to be damaged.
        let (_, list) = api.call("GET", "/api/v1/scenarios", &[], None).await;
        for row in list.as_array().expect("a list") {
            let path = format!("/api/v1/scenarios/{}", row["id"].as_str().expect("an id"));
            let (status, told) = api.call("GET", &path, &[], None).await;
            if status == StatusCode::OK {
                let title = told["scenario"]["title"].clone();
                assert!(title.as_str().is_some_and(|t| t.starts_with("Comparison ")), "{title}");
                assert_eq!(told["scenario"], whole(&title), "seed {seed}");
            } else {
                assert!(told["type"].as_str().is_some_and(|t| t.contains("damaged")), "{told}");
            }
        }
        let (_, damaged) = api.call("GET", "/api/v1/damaged", &[], None).await;
        named += damaged.as_array().map_or(0, Vec::len);
    }
    assert!(opened > 0 && named > 0, "{opened} opened, {named} named");
}

/// The comparison of a title as the program writes it.
fn whole(title: &Value) -> Value {
    let scenario = changed(|d| d["title"] = title.clone());
    let scenario: salt_lamp_core::Scenario = serde_json::from_value(scenario).expect("parses");
    serde_json::to_value(&scenario).expect("written")
}
