//! Frames by upload: measured, judged, refused with their names.

use crate::help::{Api, demo};
use axum::body::Body;
use axum::http::{Request, StatusCode};
use serde_json::{Value, json};

fn bytes_of(name: &str) -> Vec<u8> {
    let at = format!("{}/../../reference/frames/{name}", env!("CARGO_MANIFEST_DIR"));
    std::fs::read(&at).unwrap_or_else(|e| panic!("{at}: {e}"))
}

async fn sent(api: &Api, name: &str, bytes: Vec<u8>) -> (StatusCode, Value) {
    let request = Request::post(format!("/api/v1/frames/measure?name={name}"))
        .header("content-type", "application/octet-stream")
        .body(Body::from(bytes))
        .expect("a request");
    let (status, _, bytes) = api.send(request).await;
    (status, serde_json::from_slice(&bytes).unwrap_or(Value::Null))
}

#[tokio::test]
async fn a_frame_is_measured_and_judged() {
    let api = Api::new().await;
    let (status, frame) = sent(&api, "round.fits", bytes_of("round.fits")).await;
    assert_eq!(status, StatusCode::OK, "{frame}");
    assert_eq!((&frame["format"], &frame["version"]), (&json!("salt-lamp-frame"), &json!(1)));
    assert_eq!((&frame["file"], &frame["columns"]), (&json!("round.fits"), &json!(512)));
    assert_eq!(
        (&frame["header"]["type"], &frame["header"]["gain"]),
        (&json!("light"), &json!(100.0))
    );
    assert_eq!(frame["understood"]["exposure_s"], "EXPTIME");
    let own = &frame["channels"][0];
    assert_eq!(own["channel"], "mono");
    assert!(own["stars"].as_u64().is_some_and(|n| n > 50) && own["sky_v_mag"].is_null(), "{own}");
    let question = json!({"scenario": demo(), "frame": frame, "site": {"latitude_deg": 46.35,
        "longitude_deg": -72.55}});
    let (status, verdict) = api.call("POST", "/api/v1/frames/judge", &[], Some(&question)).await;
    assert_eq!(status, StatusCode::OK, "{verdict}");
    let about: Vec<&str> = verdict["sentences"]
        .as_array()
        .expect("a list")
        .iter()
        .filter_map(|s| s["about"].as_str())
        .collect();
    for part in ["sub", "clipping", "stars", "sky", "noise", "target", "gradient"] {
        assert!(about.contains(&part), "{part} of {about:?}");
    }
    // What is wrong names its field.
    for (change, path) in [
        (json!({"contender": 9}), "contender"),
        (json!({"exposure": 9}), "exposure"),
        (json!({"contender": 2}), "frame.channels"),
    ] {
        let mut wrong = question.clone();
        for (k, v) in change.as_object().expect("an object") {
            wrong[k] = v.clone();
        }
        assert_eq!(api.refused("/api/v1/frames/judge", &wrong).await, [path]);
    }
    let mut silent = question.clone();
    silent["frame"]["header"]["exposure_s"] = Value::Null;
    assert_eq!(api.refused("/api/v1/frames/judge", &silent).await, ["frame.header.exposure_s"]);
}

#[tokio::test]
async fn what_is_no_frame_is_refused_with_its_name() {
    let api = Api::new().await;
    for (name, bytes, said) in [
        ("notes.txt", b"dear diary".to_vec(), "notes.txt is no frame"),
        ("cut.fits", bytes_of("round.fits")[..50_000].to_vec(), "cut.fits is cut off"),
        ("empty.fits", Vec::new(), "empty.fits cannot be read: it is empty"),
        ("a.cr2", b"II*\0\x08\0\0\0\0\0\0\0\0\0".to_vec(), "only DNG is taken by upload"),
    ] {
        let (status, problem) = sent(&api, name, bytes).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{problem}");
        assert_eq!(problem["errors"][0]["path"], "file");
        let message = problem["errors"][0]["message"].as_str().expect("words");
        assert!(message.contains(said), "{message}");
    }
    let (status, problem) = sent(&api, "%0A", bytes_of("type16.fits")).await;
    assert_eq!(
        (status, &problem["errors"][0]["path"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("name"))
    );
    // A path of somebody's machine is not part of a name.
    let (_, frame) = sent(&api, "C:%5Cframes%5Ca.fits", bytes_of("type16.fits")).await;
    assert_eq!(frame["file"], "a.fits");
}
