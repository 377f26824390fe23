//! The stars of a field through the API: where they stand, which halo and clip, and what is
//! refused.

use crate::help::{Api, demo};
use axum::http::StatusCode;
use serde_json::{Value, json};

#[tokio::test]
async fn stars_around_a_place_lie_on_the_plane_that_touches_the_sky_there() {
    let api = Api::new().await;
    let path = "/api/v1/stars?ra_deg=305.6&dec_deg=40.3&radius_deg=2";
    let (status, stars) = api.call("GET", path, &[], None).await;
    assert_eq!(status, StatusCode::OK, "{stars}");
    let stars = stars.as_array().expect("stars");
    assert_eq!(stars[0]["star"]["name"], "Sadr");
    // Sadr stands 0.043 degrees west and south of there: 2 arcmin and 2.6.
    let arcmin = |key: &str| stars[0][key].as_f64().expect("arcmin");
    assert!((arcmin("east_arcmin") + 2.0).abs() < 0.2, "{}", arcmin("east_arcmin"));
    assert!((arcmin("north_arcmin") + 2.6).abs() < 0.2, "{}", arcmin("north_arcmin"));
    assert!(stars.len() > 100 && stars.len() <= 400, "{}", stars.len());
    for (query, path) in [
        ("ra_deg=400&dec_deg=0&radius_deg=1", "at.ra_deg"),
        ("ra_deg=0&dec_deg=91&radius_deg=1", "at.dec_deg"),
        ("ra_deg=0&dec_deg=0&radius_deg=16", "radius_deg"),
    ] {
        let (status, answer) = api.call("GET", &format!("/api/v1/stars?{query}"), &[], None).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{query}: {answer}");
        assert_eq!(answer["errors"][0]["path"], path, "{query}: {answer}");
    }
}

#[tokio::test]
async fn a_rig_s_field_says_what_halos_and_what_clips_and_moves() {
    let api = Api::new().await;
    let ask = |change: Value| {
        let mut q = json!({"at": {"ra_deg": 305.6, "dec_deg": 40.3, "position_angle_deg": 30.0},
            "scenario": demo(), "contender": 0, "gap_mm": 2.0});
        for (key, value) in change.as_object().expect("an object") {
            q[key] = value.clone();
        }
        q
    };
    let see = async |change: Value| {
        let (status, answer) = api.call("POST", "/api/v1/field", &[], Some(&ask(change))).await;
        assert_eq!(status, StatusCode::OK, "{answer}");
        answer
    };
    let here = see(json!({})).await;
    assert_eq!(here["stars"][0]["star"]["name"], "Sadr");
    assert_eq!(here["exposures"].as_array().map(Vec::len), Some(2));
    assert!(here["exposures"][0]["clipped"].as_u64() > Some(10), "{}", here["exposures"][0]);
    let text = here["exposures"][0]["text"].as_str().expect("a sentence");
    assert!(text.contains("Sadr of V 2.2") && text.contains("clip"), "{text}");
    // 2.6 degrees north of there Sadr has left the field.
    let away = see(json!({"north_arcmin": 156.0})).await;
    assert!((away["at"]["dec_deg"].as_f64().expect("degrees") - 42.9).abs() < 0.01);
    assert!(away["stars"].as_array().expect("stars").iter().all(|s| s["star"]["name"] != "Sadr"));
    for (change, path) in [
        (json!({"contender": 9}), "contender"),
        (json!({"gap_mm": 0.0}), "gap_mm"),
        (json!({"east_arcmin": 5000.0}), "east_arcmin"),
        (
            json!({"at": {"ra_deg": 10.0, "dec_deg": 10.0, "position_angle_deg": 999.0}}),
            "at.position_angle_deg",
        ),
        (json!({"at": {"ra_deg": 10.0, "dec_deg": -95.0}}), "at.dec_deg"),
    ] {
        assert_eq!(api.refused("/api/v1/field", &ask(change)).await, [path]);
    }
}

/// Every gap is a ring of its own: those of the rig take the place of the usual ones.
#[tokio::test]
async fn a_halo_is_as_wide_as_the_rig_s_own_gap_makes_it() {
    let api = Api::new().await;
    let mut q = json!({"at": {"ra_deg": 305.557, "dec_deg": 40.257}, "scenario": demo()});
    let widths = async |q: &Value| {
        let (status, answer) = api.call("POST", "/api/v1/field", &[], Some(q)).await;
        assert_eq!(status, StatusCode::OK, "{answer}");
        let ghosts = answer["exposures"][0]["ghosts"].as_array().expect("ghosts").clone();
        let to_sensor = ghosts.iter().filter(|g| g["between"] == "filter_and_sensor");
        to_sensor.map(|g| g["diameter_arcsec"].as_f64().expect("a number")).collect::<Vec<_>>()
    };
    let usual = widths(&q).await;
    q["scenario"]["contenders"][0]["ghost_gaps_mm"] = json!([8.0, 3.0]);
    let own = widths(&q).await;
    // Fifteen millimetres where nothing is said.
    assert!(usual.len() == 1 && own.len() == 2, "{usual:?} {own:?}");
    assert!((own[0] / usual[0] - 0.2).abs() < 1e-9 && (own[1] / own[0] - 8.0 / 3.0).abs() < 1e-9);
}
