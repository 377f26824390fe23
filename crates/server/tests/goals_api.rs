//! Goals through the API: facts of the trade at the defaults, what to buy, two places, and old
//! documents that keep their goal.

use crate::help::{Api, changed, demo};
use axum::http::StatusCode;
use serde_json::{Value, json};

async fn ok(api: &Api, path: &str, body: &Value) -> Value {
    let (status, answer) = api.call("POST", path, &[], Some(body)).await;
    assert_eq!(status, StatusCode::OK, "{path}: {answer}");
    answer
}

fn hours(answer: &Value, contender: usize, q: &str) -> f64 {
    let of = &answer["evaluation"]["contenders"][contender]["quantities"][q];
    of["time_to_goal_s"].as_f64().unwrap_or(f64::INFINITY) / 3600.0
}

fn clean(answer: &Value, contender: usize, q: &str) -> f64 {
    let of = &answer["evaluation"]["contenders"][contender]["quantities"][q];
    of["clean_arcsec"].as_f64().unwrap_or(f64::INFINITY)
}

/// The demo with one contender of its own, all of the clock through a filter of these bands.
fn one(contender: usize, bands: &[(f64, f64)], sub_s: f64) -> Value {
    changed(|d| {
        let mut c = d["contenders"][contender].clone();
        let filter = (!bands.is_empty()).then(|| {
            let band = |(centre, width): &(f64, f64)| {
                json!({"centre_nm": centre, "fwhm_nm": width, "peak": 0.92, "order": 3})
            };
            json!({"name": "bands", "bands": bands.iter().map(band).collect::<Vec<_>>()})
        });
        c["exposures"] = json!([{"filter": filter, "sub_s": sub_s, "share": 1.0}]);
        d["contenders"] = json!([c]);
    })
}

/// Fact 18, common practice, no source: about seven hours of a mono camera's filter for a faint
/// line, thirty to fifty and more with a colour camera for the faintest.
#[tokio::test]
async fn fact_18_through_the_api() {
    let api = Api::new().await;
    let faint = |mut s: Value, rayleigh: f64, detail: f64| {
        s["target"]["lines_rayleigh"] =
            json!({"ha": rayleigh, "nii": 0, "oiii": rayleigh * 0.4, "sii": 0, "hb": 0});
        s["goals"] = json!([{"quantity": "ha", "detail_arcsec": detail}]);
        s
    };
    let mono = faint(one(0, &[(656.3, 3.0)], 300.0), 10.0, 15.0);
    let t = hours(&ok(&api, "/api/v1/bench", &mono).await, 0, "ha");
    assert!((6.0..9.0).contains(&t), "mono: {t}");
    let colour = faint(one(1, &[(656.3, 7.0), (500.7, 7.0)], 180.0), 4.0, 30.0);
    let t = hours(&ok(&api, "/api/v1/bench", &colour).await, 0, "ha");
    assert!((45.0..65.0).contains(&t), "colour: {t}");
}

/// Fact 3, common practice, no source: 300 to 400 s through 7 nm at f/7 from a bright suburb just
/// clear the left edge, 600 s through 3 nm.
#[tokio::test]
async fn fact_3_through_the_api() {
    let api = Api::new().await;
    let mut lengths = Vec::new();
    for width in [7.0, 3.0] {
        let mut s = one(0, &[(656.3, width)], 300.0);
        s["sky"]["zenith_v_mag"] = json!(19.0);
        s["contenders"][0]["optics"]["aperture_mm"] = json!(71.0);
        let d = ok(&api, "/api/v1/decisions/subs", &s).await;
        let criteria = d[0][0]["criteria"].as_array().expect("schools").clone();
        let swamp = criteria.iter().find(|c| c["school"] == "swamp").expect("it");
        lengths.push(swamp["sub_s"].as_f64().expect("a length"));
    }
    assert!((230.0..450.0).contains(&lengths[0]), "{lengths:?}");
    assert!((500.0..750.0).contains(&lengths[1]), "{lengths:?}");
}

/// Fact 6, common practice, no source: from a dark site three hours through a wide dual filter show
/// more H-alpha than fourteen without; the continuum is the other way round. Each path has its own
/// clock.
#[tokio::test]
async fn fact_6_with_a_clock_for_each_path() {
    let api = Api::new().await;
    let mut s = one(2, &[], 180.0);
    s["sky"]["zenith_v_mag"] = json!(21.6);
    s["target"]["continuum"] = json!({"v_mag_arcsec2": 25.0, "temperature_k": 5500});
    let mut with = one(2, &[(656.3, 12.0), (500.7, 12.0)], 180.0)["contenders"][0].clone();
    s["contenders"][0]["total_s"] = json!(14.0 * 3600.0);
    with["total_s"] = json!(3.0 * 3600.0);
    s["contenders"].as_array_mut().expect("a list").push(with);
    s["goals"] = json!([{"quantity": "ha", "detail_arcsec": 10},
        {"quantity": "continuum", "detail_arcsec": 10}]);
    let answer = ok(&api, "/api/v1/bench", &s).await;
    assert!(clean(&answer, 1, "ha") < clean(&answer, 0, "ha"), "the filter shows finer H-alpha");
    assert!(clean(&answer, 1, "continuum") > clean(&answer, 0, "continuum"), "and coarser dust");
    let words = answer["rows"][1]["differences"][0]["text"].as_str().expect("words");
    assert!(words.contains("after 3 h, A at") && words.contains("after 14 h"), "{words}");
}

/// Fact 7, common practice, no source: from a dark site a filter makes a galaxy worse, from a
/// bright one a broadband filter helps little; on a colour camera a UV-IR cut is the floor.
#[tokio::test]
async fn fact_7_through_the_ranking() {
    let api = Api::new().await;
    let galaxy = |zenith: f64| {
        let mut s = one(2, &[], 120.0);
        s["target"] = json!({"name": "a galaxy", "kind": "galaxy",
            "lines_rayleigh": {"ha": 0, "nii": 0, "oiii": 0, "sii": 0, "hb": 0},
            "continuum": {"v_mag_arcsec2": 22.5, "temperature_k": 5500}, "peak_factor": 40});
        s["sky"]["zenith_v_mag"] = json!(zenith);
        s["goals"] = json!([{"quantity": "continuum", "detail_arcsec": 5}]);
        s
    };
    let path = "/api/v1/charts/filters?contender=0&quantity=continuum";
    for (zenith, least) in [(21.6, 1.2), (18.5, 0.8)] {
        let list = ok(&api, path, &galaxy(zenith)).await;
        let all = list.as_array().expect("a list");
        let of = |id: Value| all.iter().find(|f| f["id"] == id).expect("ranked");
        let time = |id: Value| of(id)["time_to_goal_s"].as_f64().expect("in reach");
        let ratio = time(json!("sodium-notch")) / time(Value::Null);
        assert!(ratio > least, "{zenith}: {ratio}");
        assert_eq!(of(json!("uv-ir-cut"))["suits"], true);
        assert_eq!(of(json!("ha-3"))["suits"], false, "a line filter is made for something else");
        let none = of(Value::Null);
        assert_eq!(none["suits"], false, "infrared: {}", none["why"]);
        assert!(none["why"].as_str().expect("why").contains("UV-IR cut"));
    }
}

/// A document of before goals answers as it did: SNR 20 on 5 arcsec of the mean.
#[tokio::test]
async fn old_documents_keep_their_goal_and_their_answers() {
    let api = Api::new().await;
    let old = demo();
    assert!(old.get("goals").is_none());
    let answer = ok(&api, "/api/v1/bench", &old).await;
    let ha = &answer["evaluation"]["contenders"][0]["quantities"]["ha"];
    let (snr, t) = (ha["snr"].as_f64().unwrap(), ha["time_to_goal_s"].as_f64().unwrap());
    let expected = 14_400.0 * (20.0 / snr).powi(2);
    assert!((t / expected - 1.0).abs() < 0.03, "{t} {expected}");
    assert_eq!(answer["judged"][0]["goal_words"], "SNR 20");
    // Stored and read back, nothing is put in.
    let (status, stored) = api.call("POST", "/api/v1/scenarios", &[], Some(&old)).await;
    assert_eq!(status, StatusCode::CREATED);
    assert!(stored["scenario"].get("goals").is_none(), "{stored}");
    // A comparison that the product begins writes its goals.
    let begun = json!({"rigs": ["refractor-mono"], "target": old["target"]});
    let (status, made) = api.call("POST", "/api/v1/kit/compare", &[], Some(&begun)).await;
    assert_eq!(status, StatusCode::OK, "{made}");
    let goals = made["goals"].as_array().expect("goals");
    assert_eq!((&goals[0]["part"], &goals[0]["snr"]), (&json!("outskirts"), &json!(10.0)));
    let print = json!({"rigs": ["refractor-mono"], "target": old["target"], "purpose": "print"});
    let (_, made) = api.call("POST", "/api/v1/kit/compare", &[], Some(&print)).await;
    assert!(made["goals"].as_array().expect("goals").iter().all(|g| g["snr"] == 20.0), "{made}");
}

/// Somebody in a city asks what to buy: one filter next with its hours, its price and why, and the
/// smallest set; a dark place beside it has its own nights.
#[tokio::test]
async fn what_to_buy_for_a_rig_its_places_and_kinds() {
    let api = Api::new().await;
    let all = json!({"places": [{"site": "larch-lane", "nights_per_year": 40},
        {"site": "heron-lake", "nights_per_year": 8}]});
    let answer = ok(&api, "/api/v1/kit/to-buy", &all).await;
    assert_eq!(answer["places"], json!(["Larch Lane", "Heron Lake"]));
    assert_eq!(answer["pictures"].as_array().expect("a list").len(), 10);
    let next = answer["next"].as_array().expect("a list");
    let brings = |n: &Value| {
        n["saved_h_per_year"].as_f64().unwrap() + n["opened_h_per_year"].as_f64().unwrap()
    };
    assert!(next.windows(2).all(|w| brings(&w[0]) >= brings(&w[1])), "best first");
    for n in next {
        let saved = n["saved_h"].as_array().expect("a list");
        let sum: f64 = saved.iter().map(|h| h.as_f64().unwrap()).sum();
        assert!((sum - n["saved_h_per_year"].as_f64().unwrap()).abs() < 1e-6);
        // Nobody saves more than the year has.
        assert!(sum <= 48.0 * 5.0 && !n["why"].as_str().unwrap().is_empty());
    }
    // What is owned is not sold again.
    let shelf = ok_get(&api, "/api/v1/shelf").await;
    let mine =
        |id: &Value| shelf.as_array().unwrap().iter().any(|e| e["id"] == *id && e["mine"] == true);
    assert!(next.iter().all(|n| !mine(&n["id"])), "{next:?}");
    // Twice the nights are twice the hours.
    let twice = json!({"places": [{"site": "larch-lane", "nights_per_year": 80}]});
    let once = json!({"places": [{"site": "larch-lane", "nights_per_year": 40}]});
    let (a, b) =
        (ok(&api, "/api/v1/kit/to-buy", &twice).await, ok(&api, "/api/v1/kit/to-buy", &once).await);
    let first = |v: &Value| brings(v["next"].get(0).expect("something to buy"));
    assert!((first(&a) / first(&b) - 2.0).abs() < 1e-6);
    for (body, path) in [
        (json!({"rig": "none", "places": []}), "rigs"),
        (json!({"places": [{"site": "nowhere"}]}), "places[0].site"),
        (
            json!({"places": [{"site": "larch-lane", "nights_per_year": 0}]}),
            "places[0].nights_per_year",
        ),
        (json!({"hours_per_night": 99, "places": []}), "hours_per_night"),
    ] {
        let (status, p) = api.call("POST", "/api/v1/kit/to-buy", &[], Some(&body)).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{body}");
        assert_eq!(p["errors"][0]["path"], path, "{p}");
    }
}

async fn ok_get(api: &Api, path: &str) -> Value {
    let (status, answer) = api.call("GET", path, &[], None).await;
    assert_eq!(status, StatusCode::OK, "{path}: {answer}");
    answer
}

/// One comparison at a town's edge and at a dark place, with the nights that one gets at each.
#[tokio::test]
async fn two_places_side_by_side() {
    let api = Api::new().await;
    let ask = json!({"scenario": demo(), "places": [{"site": "larch-lane", "nights_per_year": 40},
        {"site": "heron-lake", "nights_per_year": 8}]});
    let answer = ok(&api, "/api/v1/decisions/places", &ask).await;
    let time = |place: usize, path: usize| {
        answer["places"][place]["paths"][path]["time_s"].as_f64().expect("in reach")
    };
    for path in 0..3 {
        assert!(time(1, path) < time(0, path), "the dark place is faster");
        let there = &answer["places"][1]["paths"][path];
        let pictures = there["pictures_per_year"].as_f64().unwrap();
        assert!((pictures * time(1, path) / (8.0 * 5.0 * 3600.0) - 1.0).abs() < 1e-9);
    }
    // Without a filter a dark place gains most.
    assert!(time(0, 2) / time(1, 2) > time(0, 0) / time(1, 0));
    assert!(answer["words"][0].as_str().unwrap().contains("at Heron Lake"));
    let wrong = json!({"scenario": demo(), "places": [{"site": "nowhere"}]});
    let (status, p) = api.call("POST", "/api/v1/decisions/places", &[], Some(&wrong)).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(p["errors"][0]["path"], "places[0].site");
}
