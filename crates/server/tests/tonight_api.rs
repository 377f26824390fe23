//! Tonight and the cards through the API: the campaign that gains goes on, beside a bright moon it
//! waits; without a kit the answer is empty and says so; a comparison is told in two lines and a
//! picture.

use crate::help::{Api, demo};
use axum::body::Body;
use axum::http::{Request, StatusCode};
use serde_json::{Value, json};

async fn ok(api: &Api, method: &str, path: &str, body: Option<&Value>) -> Value {
    let (status, answer) = api.call(method, path, &[], body).await;
    assert!(status.is_success(), "{method} {path}: {status} {answer}");
    answer
}

async fn with_campaign(api: &Api) {
    let campaign = json!({"title": "Remnant", "scenario": demo(), "contender": 0,
        "site": "larch-lane", "clear_share": 0.3, "framing": {"ra_deg": 94.25, "dec_deg": 22.57},
        "goals": [{"exposure": 0, "snr": 20.0}, {"exposure": 1, "snr": 20.0}],
        "nights": [{"date": "2026-11-15", "shots": [{"exposure": 0, "subs": 18, "snr2": 70.0}],
            "note": "thin cloud"}]});
    ok(api, "POST", "/api/v1/campaigns", Some(&campaign)).await;
}

#[tokio::test]
async fn a_campaign_goes_on_in_the_dark_and_waits_beside_the_moon() {
    let api = Api::new().await;
    with_campaign(&api).await;
    let dark = ok(&api, "GET", "/api/v1/tonight?date=2027-01-08", None).await;
    assert_eq!(dark["site"]["name"], "Larch Lane");
    assert_eq!(dark["rig"]["name"], "Refractor, mono");
    assert_eq!(
        (&dark["choice"]["kind"], &dark["choice"]["index"]),
        (&json!("campaign"), &json!(0))
    );
    assert_eq!(dark["choice"]["title"], "Go on with Remnant");
    let evening = &dark["campaigns"][0]["evening"];
    let (before, after) = (evening["before"].as_f64().unwrap(), evening["after"].as_f64().unwrap());
    // 70 of 400 in one of two goals.
    assert!((before - 0.5 * 70.0 / 400.0).abs() < 1e-9, "{before}");
    assert!(after > before + 0.1 && after <= 1.0, "{after}");
    assert_eq!(dark["last_night"]["words"], "18 subs of H-alpha 3 nm (thin cloud).");
    // What a campaign shoots is not proposed as new.
    let targets = dark["targets"].as_array().unwrap();
    assert_eq!(targets.len(), 12);
    assert!(targets.iter().all(|t| t["name"] != "IC 443"));
    // Full on the 22nd, and close by.
    let moonlit = ok(&api, "GET", "/api/v1/tonight?date=2027-01-20", None).await;
    let lit = moonlit["events"]["moon_lit"].as_f64().unwrap();
    assert!(lit > 0.9, "{lit}");
    assert_eq!(moonlit["choice"]["kind"], "target");
    assert!(moonlit["choice"]["words"].as_str().unwrap().contains("Remnant waits"));
    let first = &moonlit["targets"][0];
    assert!(first["moon_distance_deg"].as_f64().unwrap() >= 40.0, "{first}");
    assert_ne!(first["quantity"], "continuum");
}

#[tokio::test]
async fn without_a_site_or_a_rig_that_part_is_empty() {
    let api = Api::new().await;
    for id in ["refractor-mono", "reflector-colour"] {
        ok(&api, "DELETE", &format!("/api/v1/shelf/{id}"), None).await;
    }
    let no_rig = ok(&api, "GET", "/api/v1/tonight?date=2027-01-08", None).await;
    assert_eq!((&no_rig["rig"], &no_rig["targets"]), (&Value::Null, &json!([])));
    assert!(no_rig["events"]["dark_h"].as_f64().unwrap() > 10.0);
    for id in ["larch-lane", "heron-lake"] {
        ok(&api, "DELETE", &format!("/api/v1/shelf/{id}"), None).await;
    }
    let nothing = ok(&api, "GET", "/api/v1/tonight?date=2027-01-08", None).await;
    assert_eq!((&nothing["site"], &nothing["events"]), (&Value::Null, &Value::Null));
    assert_eq!(nothing["choice"]["kind"], "nothing");
    ok(&api, "POST", "/api/v1/shelf/larch-lane/restore", None).await;
    let (status, problem) = api.call("GET", "/api/v1/tonight?date=June", &[], None).await;
    assert_eq!(
        (status, &problem["errors"][0]["path"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("date"))
    );
}

#[tokio::test]
async fn a_comparison_is_told_in_a_sentence_and_a_picture() {
    let api = Api::new().await;
    let stored = ok(&api, "POST", "/api/v1/scenarios", Some(&demo())).await;
    let path = format!("/api/v1/scenarios/{}", stored["id"].as_str().unwrap());
    let card = ok(&api, "GET", &format!("{path}/card"), None).await;
    let bench = ok(&api, "POST", "/api/v1/bench", Some(&demo())).await;
    let contenders = bench["evaluation"]["contenders"].as_array().unwrap();
    let of = |i: usize| &contenders[i]["quantities"]["ha"];
    assert_eq!(card["paths"][0]["snr"], of(0)["snr"]);
    let times: Vec<f64> =
        (0..3).map(|i| of(i)["time_to_goal_s"].as_f64().unwrap_or(f64::INFINITY)).collect();
    let first = (0..3).min_by(|a, b| times[*a].total_cmp(&times[*b])).unwrap();
    assert_eq!(card["winner"], json!(first));
    let name = demo()["contenders"][first]["name"].as_str().unwrap().to_owned();
    assert!(card["words"].as_str().unwrap().starts_with(&format!("{name} is first: ")));
    let request = Request::get(format!("{path}/thumb.png")).body(Body::empty()).unwrap();
    let (status, kind, bytes) = api.send(request).await;
    assert_eq!((status, kind.as_str()), (StatusCode::OK, "image/png"));
    assert_eq!((&bytes[1..4], &bytes[16..24]), (&b"PNG"[..], &[0, 0, 0, 96, 0, 0, 0, 96][..]));
}
