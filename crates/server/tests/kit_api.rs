//! The kit through the API: rigs with their price, focus and sets of filters; a comparison from
//! rigs, target and site; files; what old comparisons offer; what is owned and what is usual.

use crate::help::{Api, demo};
use axum::http::StatusCode;
use serde_json::{Value, json};

async fn ok(api: &Api, method: &str, path: &str, body: Option<&Value>) -> Value {
    let (status, answer) = api.call(method, path, &[], body).await;
    assert!(status.is_success(), "{method} {path}: {status} {answer}");
    answer
}

fn named<'v>(list: &'v Value, id: &str) -> &'v Value {
    let found = list.as_array().and_then(|l| l.iter().find(|e| e["id"] == id));
    found.unwrap_or_else(|| panic!("{id} is not among {list}"))
}

fn names(list: &Value, key: &str) -> Vec<String> {
    let text = |v: &Value| v[key].as_str().unwrap_or_default().to_owned();
    list.as_array().map(|l| l.iter().map(text).collect()).unwrap_or_default()
}

async fn target(api: &Api, name: &str) -> Value {
    ok(api, "GET", &format!("/api/v1/targets/{}", name.replace(' ', "%20")), None).await
        ["catalogued"]
        .clone()
}

#[tokio::test]
async fn a_rig_says_what_it_costs_and_which_light_paths_it_makes() {
    let api = Api::new().await;
    let rigs = ok(&api, "GET", "/api/v1/kit/rigs", None).await;
    assert_eq!(names(&rigs, "name"), ["Refractor, mono", "Reflector, colour"]);
    let mono = named(&rigs, "refractor-mono");
    assert_eq!(mono["usual"], true);
    let ready = &mono["ready"];
    assert_eq!(names(&ready["sets"], "key"), ["lines-1", "lrgb", "rgb", "slot-1"]);
    // 206.265 * 3.76 um / 495 mm, and 26 MP of it across.
    assert!((ready["scale_arcsec"].as_f64().unwrap() - 1.5668).abs() < 1e-3);
    assert!((ready["field_arcmin"][0].as_f64().unwrap() - 163.1).abs() < 0.2);
    // The price follows its parts.
    let before = ready["price"]["total"].as_f64().unwrap();
    let shelf = ok(&api, "GET", "/api/v1/shelf", None).await;
    let mut camera = named(&shelf, "mono-26")["entry"].clone();
    camera["thing"]["item"]["price"] = json!(2500.0);
    let over = [("if-match", "\"1\"")];
    let (status, saved) = api.call("PUT", "/api/v1/shelf/mono-26", &over, Some(&camera)).await;
    assert_eq!((status, &saved["mine"]), (StatusCode::OK, &json!(true)));
    let rigs = ok(&api, "GET", "/api/v1/kit/rigs", None).await;
    let after = named(&rigs, "refractor-mono")["ready"]["price"]["total"].as_f64().unwrap();
    assert_eq!(after - before, 200.0);
}

#[tokio::test]
async fn a_comparison_comes_from_rigs_a_target_and_a_site() {
    let api = Api::new().await;
    let mut q = json!({"rigs": ["refractor-mono", "reflector-colour"],
        "target": target(&api, "IC 443").await, "site": "larch-lane"});
    let made = ok(&api, "POST", "/api/v1/kit/compare", Some(&q)).await;
    assert_eq!(
        names(&made["contenders"], "name"),
        [
            "Refractor, mono, H-alpha, [O III] and [S II] 3 nm",
            "Refractor, mono, L, R, G, B",
            "Reflector, colour, Dual band 7 nm",
            "Reflector, colour, no filter"
        ]
    );
    assert_eq!(made["sky"]["site"], "Larch Lane");
    assert_eq!(made["sky"]["moon"], Value::Null);
    assert_eq!(
        ok(&api, "POST", "/api/v1/evaluate", Some(&made)).await["format"],
        "salt-lamp-evaluation"
    );
    // Under the night of a date: its moon, and the height at which the target stands in the dark.
    q["date"] = json!("2027-01-21");
    let dated = ok(&api, "POST", "/api/v1/kit/compare", Some(&q)).await;
    let moon = &dated["sky"]["moon"];
    assert!(moon["phase_angle_deg"].as_f64().unwrap().abs() < 15.0, "full on 22 January: {moon}");
    // 90 - 46.35 + 22.57.
    let height = dated["sky"]["target_altitude_deg"].as_f64().unwrap();
    assert!((height - 66.2).abs() < 0.5, "{height}");
    // A galaxy from the same rigs asks for other filters.
    q["target"] = target(&api, "NGC 2841").await;
    let galaxy = ok(&api, "POST", "/api/v1/kit/compare", Some(&q)).await;
    assert_eq!(
        names(&galaxy["contenders"], "name"),
        ["Refractor, mono, L, R, G, B", "Reflector, colour, no filter"]
    );
    // One set alone, if it is asked for.
    q["sets"] = json!(["rgb"]);
    let rgb = ok(&api, "POST", "/api/v1/kit/compare", Some(&q)).await;
    assert_eq!(names(&rgb["contenders"], "name"), ["Refractor, mono, R, G, B"]);
    q["sets"] = json!([]);
    q["rigs"] = json!(["nothing"]);
    assert_eq!(api.refused("/api/v1/kit/compare", &q).await, ["rigs"]);
    (q["rigs"], q["site"]) = (json!(["refractor-mono"]), json!("nowhere"));
    assert_eq!(api.refused("/api/v1/kit/compare", &q).await, ["site"]);
}

#[tokio::test]
async fn a_rig_goes_out_as_a_file_and_comes_back() {
    let api = Api::new().await;
    let file = ok(&api, "GET", "/api/v1/kit/rigs/reflector-colour/file", None).await;
    assert_eq!(file["format"], "salt-lamp-rig");
    let shelf = ok(&api, "GET", "/api/v1/shelf", None).await.as_array().unwrap().len();
    // Where the shelf holds its parts already, nothing else comes with it.
    let q = json!({"text": file.to_string()});
    let back = ok(&api, "POST", "/api/v1/kit/rigs/read", Some(&q)).await;
    assert_eq!(back["entry"]["thing"]["item"], file["rig"]);
    assert_eq!(ok(&api, "GET", "/api/v1/shelf", None).await.as_array().unwrap().len(), shelf + 1);
    // A part that differs comes as a part of its own, and the file says the same again.
    let mut other = file.clone();
    other["name"] = json!("Lent to me");
    other["parts"]["colour-26"]["thing"]["item"]["price"] = json!(1.0);
    let q = json!({"text": other.to_string()});
    let lent = ok(&api, "POST", "/api/v1/kit/rigs/read", Some(&q)).await;
    assert_eq!(ok(&api, "GET", "/api/v1/shelf", None).await.as_array().unwrap().len(), shelf + 3);
    let path = format!("/api/v1/kit/rigs/{}/file", lent["id"].as_str().unwrap());
    let again = ok(&api, "GET", &path, None).await;
    assert_eq!(again["name"], "Lent to me");
    let camera = again["rig"]["camera"].as_str().unwrap();
    assert_eq!(again["parts"][camera]["thing"], other["parts"]["colour-26"]["thing"]);
    for (text, path) in [
        ("{".to_owned(), "text"),
        (json!({"format": "salt-lamp-rig"}).to_string(), "(document)"),
        (file.to_string().replace("reflector-150\":", "x\":"), "parts.x"),
    ] {
        let refused = api.refused("/api/v1/kit/rigs/read", &json!({ "text": text })).await;
        assert_eq!(refused[0], path, "{text}");
    }
}

#[tokio::test]
async fn old_comparisons_offer_their_light_paths_as_rigs() {
    let api = Api::new().await;
    // The demo's comparisons use the demo's rigs: nothing new.
    let mut s = demo();
    ok(&api, "POST", "/api/v1/scenarios", Some(&s)).await;
    let offered = ok(&api, "GET", "/api/v1/kit/offered", None).await;
    let files = |v: &Value| v.as_array().map(Vec::len).unwrap_or_default();
    let before = files(&offered);
    // Another telescope is another rig, with all the filters that were ever before it.
    for c in s["contenders"].as_array_mut().unwrap() {
        c["optics"]["focal_length_mm"] = json!(777.0);
    }
    ok(&api, "POST", "/api/v1/scenarios", Some(&s)).await;
    let offered = ok(&api, "GET", "/api/v1/kit/offered", None).await;
    assert!(files(&offered) > before);
    let is_new = |o: &&Value| o["file"]["name"].as_str().is_some_and(|n| n.contains("mono"));
    let new = offered.as_array().unwrap().iter().find(is_new).expect("a mono rig");
    let filters = new["file"]["rig"]["slots"].as_array().unwrap().len();
    assert_eq!(filters, s["contenders"][0]["exposures"].as_array().unwrap().len());
    // Taken into the kit, it is offered no more.
    let q = json!({"text": new["file"].to_string()});
    ok(&api, "POST", "/api/v1/kit/rigs/read", Some(&q)).await;
    let after = ok(&api, "GET", "/api/v1/kit/offered", None).await;
    assert_eq!(files(&after), files(&offered) - 1);
}

#[tokio::test]
async fn mine_and_the_usual_come_first() {
    let api = Api::new().await;
    let first = |shelf: &Value, kind: &str| {
        let is = |e: &&Value| e["entry"]["thing"]["kind"] == kind;
        shelf.as_array().unwrap().iter().find(is).unwrap()["id"].as_str().unwrap().to_owned()
    };
    let shelf = ok(&api, "GET", "/api/v1/shelf", None).await;
    assert_eq!(first(&shelf, "site"), "larch-lane");
    assert_eq!(named(&shelf, "dual-7")["mine"], true);
    assert_eq!(named(&shelf, "dual-3")["mine"], false);
    ok(&api, "POST", "/api/v1/shelf/heron-lake/usual", None).await;
    ok(&api, "PUT", "/api/v1/shelf/dual-3/mine", Some(&json!({"mine": true}))).await;
    let shelf = ok(&api, "GET", "/api/v1/shelf", None).await;
    assert_eq!(first(&shelf, "site"), "heron-lake");
    assert_eq!(named(&shelf, "larch-lane")["usual"], false);
    // The library follows: what is owned stands before what is on offer.
    let library = ok(&api, "GET", "/api/v1/library", None).await;
    let mine: Vec<bool> = library["filters"]
        .as_array()
        .unwrap()
        .iter()
        .map(|f| f["mine"].as_bool().unwrap())
        .collect();
    assert_eq!(mine.iter().filter(|m| **m).count(), 9);
    assert!(mine[..9].iter().all(|m| *m));
    // A part of a rig is put away, not deleted.
    let removed = ok(&api, "DELETE", "/api/v1/shelf/mono-26", None).await;
    assert_eq!(removed["removed"], "archived");
    let rigs = ok(&api, "GET", "/api/v1/kit/rigs", None).await;
    assert_ne!(named(&rigs, "refractor-mono")["ready"], Value::Null);
}

#[tokio::test]
async fn what_was_only_begun_is_in_no_list_until_it_is_touched() {
    let api = Api::new().await;
    let begun = ok(&api, "POST", "/api/v1/scenarios?untouched=true", Some(&demo())).await;
    let path = format!("/api/v1/scenarios/{}", begun["id"].as_str().unwrap());
    let listed = |list: Value| list.as_array().unwrap().len();
    assert_eq!(listed(ok(&api, "GET", "/api/v1/scenarios", None).await), 0);
    assert_eq!(listed(ok(&api, "GET", "/api/v1/rigs", None).await), 0);
    assert_eq!(ok(&api, "GET", &path, None).await["scenario"], begun["scenario"]);
    ok(&api, "POST", &format!("{path}/touch"), None).await;
    assert_eq!(listed(ok(&api, "GET", "/api/v1/scenarios", None).await), 1);
    let (status, _) = api.call("POST", "/api/v1/scenarios/none/touch", &[], None).await;
    assert_eq!(status, StatusCode::NOT_FOUND);
}

#[tokio::test]
async fn a_date_fills_the_sky_over_a_target() {
    let api = Api::new().await;
    let site = json!({"name": "Larch Lane", "latitude_deg": 46.35, "longitude_deg": -72.55,
        "height_m": 30.0, "zone": "America/Toronto"});
    let mut q = json!({"site": site, "date": "2027-01-08", "target": "IC 443"});
    let dark = ok(&api, "POST", "/api/v1/night/moment", Some(&q)).await;
    assert_eq!((&dark["dark"], &dark["moon"]), (&json!(true), &Value::Null));
    assert!((dark["target_altitude_deg"].as_f64().unwrap() - 66.2).abs() < 0.5);
    // In June it stands beside the sun: what is dark has it low or not at all.
    q["date"] = json!("2027-06-24");
    let june = ok(&api, "POST", "/api/v1/night/moment", Some(&q)).await;
    assert!(june.is_null() || june["target_altitude_deg"].as_f64().unwrap() < 20.0, "{june}");
    q["place"] = json!({"ra_deg": 100.0, "dec_deg": -80.0});
    assert_eq!(ok(&api, "POST", "/api/v1/night/moment", Some(&q)).await, Value::Null);
    q["date"] = json!("June");
    assert_eq!(api.refused("/api/v1/night/moment", &q).await, ["date"]);
}
