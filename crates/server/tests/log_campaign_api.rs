//! What a night of the log brings to a campaign, what names in headers mean, and a target's record.

use crate::help::{Api, demo};
use crate::log_api::frame;
use axum::body::Body;
use axum::http::{Request, StatusCode};
use serde_json::{Value, json};

/// Frames of IC 443 through "Ha 3 nm" that began so many minutes after eight, and their night.
pub(crate) async fn night_of(api: &Api, minutes: impl IntoIterator<Item = u32>) -> String {
    for minute in minutes {
        let request = Request::post(format!("/api/v1/log/frames?name=f{minute}.fits"))
            .header("content-type", "application/octet-stream")
            .body(Body::from(frame(minute)))
            .expect("a request");
        assert_eq!(api.send(request).await.0, StatusCode::OK);
    }
    let (_, list) = api.call("GET", "/api/v1/log/sessions", &[], None).await;
    list[0]["id"].as_str().expect("an id").to_owned()
}

async fn night(api: &Api) -> String {
    night_of(api, [0, 6, 12]).await
}

/// A campaign of IC 443 with a light path of the demo.
async fn campaign(api: &Api, contender: usize) -> String {
    let q = json!({"scenario": demo(), "contender": contender, "site": "larch-lane"});
    let (status, made) = api.call("POST", "/api/v1/campaigns/begin", &[], Some(&q)).await;
    assert_eq!(status, StatusCode::CREATED, "{made}");
    made["id"].as_str().expect("an id").to_owned()
}

async fn offers(api: &Api, night: &str) -> Value {
    let path = format!("/api/v1/log/sessions/{night}/campaigns");
    let (status, all) = api.call("GET", &path, &[], None).await;
    assert_eq!(status, StatusCode::OK, "{all}");
    all
}

#[tokio::test(flavor = "multi_thread")]
async fn a_campaign_counts_what_the_kept_frames_hold_and_an_overruled_one_changes_it() {
    let api = Api::new().await;
    let night = night(&api).await;
    assert_eq!(offers(&api, &night).await, json!([]));
    let id = campaign(&api, 0).await;
    let all = offers(&api, &night).await;
    let offer = &all[0];
    assert_eq!((&offer["campaign"], &offer["counted"]), (&json!(id), &json!(false)));
    let ha = &offer["brought"][0];
    assert_eq!((&ha["filter"], &ha["taken"]), (&json!("H-alpha 3 nm"), &json!(3)));
    assert_eq!(ha["accrued"]["shot"]["subs"], 3);
    assert_eq!(ha["accrued"]["kept_s"], 900.0);
    let worth_s = ha["accrued"]["worth_s"].as_f64().expect("a worth");
    assert!(
        worth_s > 0.0 && (worth_s - 900.0).abs() > 1.0,
        "{worth_s}: as measured, not as planned"
    );
    // No dark fits yet; the budget's master dark is of fifty.
    assert_eq!(offer["calibration"][0]["taken"], 0);
    assert_eq!(offer["calibration"][0]["asked"], 50);
    // Counted as the campaign's page enters a night.
    let (_, stored) = api.call("GET", &format!("/api/v1/campaigns/{id}"), &[], None).await;
    let tag = format!("\"{}\"", stored["revision"]);
    let at = format!("/api/v1/campaigns/{id}/nights");
    let q = json!({"night": offer["night"]});
    let (status, now) = api.call("POST", &at, &[("if-match", &tag)], Some(&q)).await;
    assert_eq!(status, StatusCode::OK, "{now}");
    assert_eq!(now["campaign"]["nights"][0]["shots"][0]["subs"], 3);
    let after = offers(&api, &night).await;
    assert_eq!(after[0]["counted"], true);
    // One of them is put aside: the campaign has more than the night.
    let (_, frames) = api.call("GET", &format!("/api/v1/log/sessions/{night}"), &[], None).await;
    let q = json!({"frames": [frames["frames"][1]["id"]], "decision": "aside", "why": "a plane"});
    let (status, _) = api.call("POST", "/api/v1/log/frames/decide", &[], Some(&q)).await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    let later = offers(&api, &night).await;
    assert_eq!(later[0]["counted"], false);
    assert_eq!(later[0]["brought"][0]["accrued"]["shot"]["subs"], 2);
    assert_eq!(later[0]["recorded"]["shots"][0]["subs"], 3);
    // Few stars on a small frame: the place stays the header's, and that is said.
    let told = later[0]["place"]["told"].as_str().expect("told");
    assert!(told.contains("headers"), "{told}");
}

#[tokio::test(flavor = "multi_thread")]
async fn a_name_that_no_filter_has_is_explained_once() {
    let api = Api::new().await;
    let night = night(&api).await;
    // A dual band: "Ha 3 nm" is none of its filters.
    campaign(&api, 1).await;
    let offer = offers(&api, &night).await[0].clone();
    assert_eq!(offer["brought"], json!([]));
    assert_eq!(offer["unknown"], json!([{"said": "Ha 3 nm", "frames": 3}]));
    let q = json!({"kind": "filter", "said": "Ha 3 nm", "means": "Dual band 7 nm"});
    let (status, _) = api.call("PUT", "/api/v1/log/names", &[], Some(&q)).await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    let offer = offers(&api, &night).await[0].clone();
    assert_eq!(offer["brought"][0]["filter"], "Dual band 7 nm");
    assert_eq!(offer["unknown"], json!([]));
    let (_, names) = api.call("GET", "/api/v1/log/names", &[], None).await;
    assert_eq!(names, json!([q]));
    // And forgotten.
    let q = json!({"kind": "filter", "said": "Ha 3 nm", "means": null});
    api.call("PUT", "/api/v1/log/names", &[], Some(&q)).await;
    assert_eq!(offers(&api, &night).await[0]["brought"], json!([]));
    let long = json!({"kind": "camera", "said": "x".repeat(300), "means": null});
    let (status, why) = api.call("PUT", "/api/v1/log/names", &[], Some(&long)).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(why.to_string().contains("said"), "{why}");
}

#[tokio::test(flavor = "multi_thread")]
async fn a_target_s_record_is_text_table_and_document() {
    let api = Api::new().await;
    night(&api).await;
    let ask = |format: &str| format!("/api/v1/log/record?object=ic%20443&format={format}");
    let (status, record) = api.call("GET", &ask("json"), &[], None).await;
    assert_eq!(status, StatusCode::OK, "{record}");
    assert_eq!(record["format"], "salt-lamp-record");
    let line = &record["lines"][0];
    assert_eq!((&line["night"], &line["kept"]), (&json!("2027-01-28"), &json!(3)));
    assert_eq!((&line["exposure_s"], &line["gain"]), (&json!(300.0), &json!(100.0)));
    assert_eq!(record["kept_s"], 900.0);
    for (format, begins) in
        [("text", "IC 443: 15 min in all\nHa 3 nm: 3 × 300 s"), ("csv", "night,")]
    {
        let get = Request::get(ask(format)).body(Body::empty()).expect("a request");
        let (status, _, bytes) = api.send(get).await;
        let text = String::from_utf8(bytes).expect("text");
        assert!(status == StatusCode::OK && text.starts_with(begins), "{text}");
    }
    let (status, why) = api.call("GET", "/api/v1/log/record?object=M%2031", &[], None).await;
    assert_eq!(status, StatusCode::NOT_FOUND);
    assert!(why.to_string().contains("M 31"), "{why}");
}

#[tokio::test(flavor = "multi_thread")]
async fn headers_are_corrected_for_a_night_and_a_guider_s_table_is_read() {
    let api = Api::new().await;
    let night = night(&api).await;
    let path = format!("/api/v1/log/sessions/{night}");
    let (_, was) = api.call("GET", &path, &[], None).await;
    assert_eq!(was["corrections"], json!({}));
    let at = format!("{path}/corrections");
    let q = json!({"filter": "H-alpha 3 nm", "offset_adu": 100.0, "focal_length_mm": 990.0,
        "clock_off_s": 3600.0});
    let said = json!({"corrections": q});
    assert_eq!(api.call("PUT", &at, &[], Some(&said)).await.0, StatusCode::NO_CONTENT);
    let (_, now) = api.call("GET", &path, &[], None).await;
    assert_eq!(now["corrections"], q);
    assert_eq!(now["frames"][0]["filter"], "H-alpha 3 nm");
    let judged = |n: &Value, field: &str| n["frames"][0]["judged"][field].as_f64();
    let half = judged(&was, "fwhm_arcsec").expect("a scale") / 2.0;
    assert!((judged(&now, "fwhm_arcsec").expect("a scale") / half - 1.0).abs() < 1e-9);
    assert!(judged(&now, "background_e_per_s").is_some(), "an offset makes it known");
    let start = |n: &Value| n["frames"][0]["start_s"].as_f64().expect("a start");
    assert_eq!(start(&now) - start(&was), 3600.0);
    let frame = now["frames"][0]["id"].as_str().expect("an id");
    let (_, whole) = api.call("GET", &format!("/api/v1/log/frames/{frame}"), &[], None).await;
    assert_eq!(whole["measured"]["understood"]["filter"], "by hand");
    let q = json!({"corrections": {"gain": 1e9}});
    let (status, why) = api.call("PUT", &at, &[], Some(&q)).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(why.to_string().contains("gain"), "{why}");
    // Taken back.
    api.call("PUT", &at, &[], Some(&json!({"corrections": {}}))).await;
    let (_, back) = api.call("GET", &path, &[], None).await;
    assert_eq!(back["frames"][0], was["frames"][0]);
    // A guider's table.
    let table = async |text: &str| {
        let request = Request::post(format!("{path}/guiding"))
            .header("content-type", "text/csv")
            .body(Body::from(text.to_owned()))
            .expect("a request");
        let (status, _, bytes) = api.send(request).await;
        (status, String::from_utf8(bytes).expect("text"))
    };
    let (status, said) = table(
        "at_utc,ra_arcsec,dec_arcsec\n2027-01-28T20:00:10Z,0.3,0.4\n2027-01-28T20:06:10,0.6,0.8\n",
    )
    .await;
    assert_eq!(status, StatusCode::OK, "{said}");
    assert!(said.contains("\"frames\":2"), "{said}");
    let (_, guided) = api.call("GET", &path, &[], None).await;
    assert_eq!(guided["frames"][0]["judged"]["guiding_arcsec"], 0.5);
    assert_eq!(guided["frames"][1]["judged"]["guiding_arcsec"], 1.0);
    for (text, said) in [
        ("a,b\n", "at_utc"),
        ("at_utc,error_arcsec\n2020-01-28T20:00:10Z,1\n", "falls into a frame"),
    ] {
        let (status, why) = table(text).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
        assert!(why.contains(said), "{why}");
    }
}
