//! The API as a client meets it.

use crate::help::{Api, changed, demo};
use axum::body::Body;
use axum::http::{Request, StatusCode};
use serde_json::{Value, json};

#[tokio::test]
async fn evaluate_answers_in_the_published_format() {
    let api = Api::new().await;
    let (status, answer) = api.call("POST", "/api/v1/evaluate", &[], Some(&demo())).await;
    assert_eq!(status, StatusCode::OK);
    assert_eq!(answer["format"], "salt-lamp-evaluation");
    assert_eq!(answer["version"], 1);
    for (i, c) in demo()["contenders"].as_array().expect("a list").iter().enumerate() {
        assert_eq!(answer["contenders"][i]["name"], c["name"]);
    }
    let mono = &answer["contenders"][0]["exposures"][0]["channels"][0];
    for key in [
        "ha",
        "oiii",
        "sii",
        "hb",
        "continuum",
        "natural",
        "artificial",
        "moon",
        "twilight",
        "dark",
    ] {
        assert!(mono["rates_e_per_s"][key].is_number(), "{key}");
    }
    assert!(mono["snr"]["ha"].as_f64() > Some(5.0));
    assert!(answer["sky"]["twilight_v_mag"].is_null());
    let quantity = &answer["contenders"][0]["quantities"]["ha"];
    assert!(
        quantity["snr"].is_number()
            && quantity["time_to_goal_s"].is_number()
            && quantity["contrast"].is_number()
    );
}

#[tokio::test]
async fn answers_match_their_own_description() {
    let api = Api::new().await;
    let (_, description) = api.call("GET", "/api/v1/openapi.json", &[], None).await;
    assert!(description["openapi"].as_str().is_some_and(|v| v.starts_with("3.1")));
    for (path, answer) in [
        ("Evaluation", api.call("POST", "/api/v1/evaluate", &[], Some(&demo())).await.1),
        ("BenchAnswer", api.call("POST", "/api/v1/bench", &[], Some(&demo())).await.1),
        ("Library", api.call("GET", "/api/v1/library", &[], None).await.1),
    ] {
        let schema = json!({"$ref": format!("#/components/schemas/{path}"),
            "components": description["components"]});
        let validator = jsonschema::validator_for(&schema).expect("a schema");
        let errors: Vec<_> = validator
            .iter_errors(&answer)
            .map(|e| format!("{}: {e}", e.instance_path()))
            .take(3)
            .collect();
        assert!(errors.is_empty(), "{path}: {errors:?}");
    }
}

#[tokio::test]
async fn bad_scenarios_are_refused_with_the_path_and_the_server_goes_on() {
    let api = Api::new().await;
    let cases = [
        (changed(|d| d["sky"]["colour"] = json!(1)), "sky.colour"),
        (
            changed(|d| d["contenders"][0]["optics"]["aperture_mm"] = json!(-1)),
            "contenders[0].optics.aperture_mm",
        ),
        (
            changed(|d| d["contenders"][0]["exposures"][1]["share"] = json!(0.9)),
            "contenders[0].exposures",
        ),
        (changed(|d| d["contenders"][0]["sensor"]["qe"] = json!([])), "contenders[0].sensor.qe"),
        (changed(|d| d["contenders"] = json!([])), "contenders"),
        (changed(|d| d["total_s"] = Value::Null), "total_s"),
        (changed(|d| d["version"] = json!(2)), "version"),
        (changed(|d| d["sky"]["lamps"]["mercury"] = json!(0.7)), "sky.lamps"),
        (
            changed(|d| d["contenders"][1]["sensor"]["cfa"] = json!("RGXB")),
            "contenders[1].sensor.cfa",
        ),
    ];
    for (doc, path) in cases {
        for route in ["/api/v1/evaluate", "/api/v1/bench", "/api/v1/scenarios"] {
            let (status, kind, problem) = api.post_text(route, doc.to_string()).await;
            assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{path}");
            assert_eq!(kind, "application/problem+json");
            let paths: Vec<_> = problem["errors"]
                .as_array()
                .expect("a list")
                .iter()
                .map(|e| e["path"].as_str().expect("text"))
                .collect();
            assert!(paths.contains(&path), "{path} is not among {paths:?}");
        }
    }
    for text in [
        "",
        "{",
        "NaN",
        &demo().to_string().replacen("5.0", "NaN", 1),
        &"[".repeat(2_000_000),
        &"{\"a\":".repeat(400_000),
    ] {
        let (status, kind, _) = api.post_text("/api/v1/evaluate", text.to_owned()).await;
        assert!(
            status == StatusCode::BAD_REQUEST || status == StatusCode::UNPROCESSABLE_ENTITY,
            "{status}"
        );
        assert_eq!(kind, "application/problem+json");
    }
    let (status, _, _) = api.post_text("/api/v1/evaluate", " ".repeat(5_000_000)).await;
    assert_eq!(status, StatusCode::PAYLOAD_TOO_LARGE);
    let request = Request::post("/api/v1/evaluate")
        .header("content-type", "text/plain")
        .body(Body::from(demo().to_string()))
        .expect("a request");
    assert_eq!(api.send(request).await.0, StatusCode::UNSUPPORTED_MEDIA_TYPE);
    assert_eq!(api.call("POST", "/api/v1/evaluate", &[], Some(&demo())).await.0, StatusCode::OK);
}

#[tokio::test]
async fn a_scenario_lives_through_the_api() {
    let api = Api::new().await;
    let (status, added) = api.call("POST", "/api/v1/scenarios", &[], Some(&demo())).await;
    assert_eq!(status, StatusCode::CREATED);
    let path = format!("/api/v1/scenarios/{}", added["id"].as_str().expect("an id"));

    let second = changed(|d| d["title"] = json!("Second"));
    assert_eq!(
        api.call("PUT", &path, &[], Some(&second)).await.0,
        StatusCode::PRECONDITION_REQUIRED
    );
    let (status, saved) = api.call("PUT", &path, &[("if-match", "\"1\"")], Some(&second)).await;
    assert_eq!((status, &saved["revision"]), (StatusCode::OK, &json!(2)));

    let third = changed(|d| d["title"] = json!("Third"));
    let (status, problem) = api.call("PUT", &path, &[("if-match", "\"1\"")], Some(&third)).await;
    assert_eq!(status, StatusCode::PRECONDITION_FAILED);
    assert_eq!(problem["current"]["title"], "Second");
    assert_eq!(api.call("GET", &path, &[], None).await.1["title"], "Second");

    let (status, copy) = api.call("POST", &format!("{path}/duplicate"), &[], None).await;
    assert_eq!((status, &copy["title"]), (StatusCode::CREATED, &json!("Second (copy)")));
    assert_eq!(api.call("DELETE", &path, &[], None).await.0, StatusCode::NO_CONTENT);
    assert_eq!(api.call("GET", &path, &[], None).await.0, StatusCode::NOT_FOUND);
    assert_eq!(
        api.call("GET", "/api/v1/scenarios", &[], None).await.1.as_array().map(Vec::len),
        Some(1)
    );
    let (status, back) = api.call("POST", &format!("{path}/restore"), &[], None).await;
    assert_eq!((status, &back["title"]), (StatusCode::OK, &json!("Second")));
}

#[tokio::test]
async fn unknown_addresses_are_problems_not_pages() {
    let api = Api::new().await;
    let (status, problem) = api.call("GET", "/api/v1/nothing", &[], None).await;
    assert_eq!((status, &problem["status"]), (StatusCode::NOT_FOUND, &json!(404)));
    assert_eq!(
        api.call("DELETE", "/api/v1/evaluate", &[], None).await.0,
        StatusCode::METHOD_NOT_ALLOWED
    );
    assert_eq!(api.call("GET", "/missing.js", &[], None).await.0, StatusCode::NOT_FOUND);
}

#[tokio::test]
async fn a_shelf_entry_lives_through_the_api() {
    let api = Api::new().await;
    let (_, shelf) = api.call("GET", "/api/v1/shelf", &[], None).await;
    let stored = shelf
        .as_array()
        .expect("a list")
        .iter()
        .find(|s| s["id"] == "uhc")
        .expect("the filter")
        .clone();
    let mut entry = stored["entry"].clone();
    entry["thing"]["item"]["filter"]["curve"] = json!([[480.0, 0.1], [470.0, 0.9]]);
    let (status, problem) =
        api.call("PUT", "/api/v1/shelf/uhc", &[("if-match", "\"1\"")], Some(&entry)).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(problem["errors"][0]["path"], "thing.item.filter.curve[1]");
    entry["thing"]["item"]["filter"]["curve"] = json!([[470.0, 0.1], [480.0, 0.9]]);
    let (status, saved) =
        api.call("PUT", "/api/v1/shelf/uhc", &[("if-match", "\"1\"")], Some(&entry)).await;
    assert_eq!((status, &saved["revision"]), (StatusCode::OK, &json!(2)));
    assert_eq!(
        api.call("PUT", "/api/v1/shelf/uhc", &[("if-match", "\"1\"")], Some(&entry)).await.0,
        StatusCode::PRECONDITION_FAILED
    );
    let (status, added) = api.call("POST", "/api/v1/shelf", &[], Some(&entry)).await;
    assert_eq!(status, StatusCode::CREATED);
    let path = format!("/api/v1/shelf/{}", added["id"].as_str().expect("an id"));
    assert_eq!(api.call("DELETE", &path, &[], None).await.1["removed"], "deleted");
    assert_eq!(api.call("DELETE", &path, &[], None).await.0, StatusCode::NOT_FOUND);
    assert_eq!(api.call("POST", &format!("{path}/restore"), &[], None).await.0, StatusCode::OK);
    let request =
        Request::get("/api/v1/shelf/uhc/curve.ecsv").body(Body::empty()).expect("a request");
    let (status, _, text) = api.send(request).await;
    assert_eq!(status, StatusCode::OK);
    assert!(
        String::from_utf8(text)
            .expect("text")
            .ends_with("wavelength transmission\n470 0.1\n480 0.9\n")
    );
    assert_eq!(
        api.call("GET", "/api/v1/shelf/larch-lane/curve.ecsv", &[], None).await.0,
        StatusCode::NOT_FOUND
    );
    // What is edited on the shelf is what the bench offers.
    let (_, library) = api.call("GET", "/api/v1/library", &[], None).await;
    let offered = library["filters"]
        .as_array()
        .expect("a list")
        .iter()
        .find(|f| f["id"] == "uhc")
        .expect("the filter")
        .clone();
    assert_eq!(offered["filter"]["curve"], json!([[470.0, 0.1], [480.0, 0.9]]));
}

#[tokio::test]
async fn curves_are_read_and_damage_is_named_by_its_row() {
    let api = Api::new().await;
    let (status, read) = api
        .call("POST", "/api/v1/curves/read", &[], Some(&json!({"text": "450,5;93\n460;50"})))
        .await;
    assert_eq!((status, &read["curve"]), (StatusCode::OK, &json!([[450.5, 0.93], [460.0, 0.5]])));
    for (text, words) in [
        ("450,0.1\n460,x", "row 2"),
        ("", "no rows"),
        ("450,0.5", "two points"),
        ("450,0.1\n460,-3", "row 2"),
        ("450,0.1\n450,0.3", "row 2"),
    ] {
        let (status, problem) =
            api.call("POST", "/api/v1/curves/read", &[], Some(&json!({"text": text}))).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{text}");
        assert!(problem["detail"].as_str().expect("text").contains(words), "{problem}");
    }
}

#[tokio::test]
async fn targets_are_searched_kept_and_framed() {
    let api = Api::new().await;
    let (_, found) =
        api.call("GET", "/api/v1/targets?text=m%2033&kind=galaxy_with_h_ii", &[], None).await;
    assert_eq!(found["objects"][0]["name"], "NGC 598");
    assert_eq!(
        api.call("GET", "/api/v1/targets?kind=comet", &[], None).await.0,
        StatusCode::UNPROCESSABLE_ENTITY
    );
    assert_eq!(
        api.call("GET", "/api/v1/targets/Nothing", &[], None).await.0,
        StatusCode::NOT_FOUND
    );
    let mut target = demo()["target"].clone();
    assert_eq!(
        api.call("PUT", "/api/v1/targets/IC%20443", &[], Some(&target)).await.0,
        StatusCode::NO_CONTENT
    );
    assert_eq!(
        api.call("GET", "/api/v1/targets/ic443", &[], None).await.1["emission"]["lines_rayleigh"]["ha"],
        json!(60.0)
    );
    target["peak_factor"] = json!(0);
    assert_eq!(
        api.call("PUT", "/api/v1/targets/IC%20443", &[], Some(&target)).await.0,
        StatusCode::UNPROCESSABLE_ENTITY
    );
    assert_eq!(
        api.call("DELETE", "/api/v1/targets/IC%20443", &[], None).await.0,
        StatusCode::NO_CONTENT
    );
    assert!(api.call("GET", "/api/v1/targets/IC%20443", &[], None).await.1["emission"].is_null());
    let rig = &demo()["contenders"][0];
    let question = json!({"at": {"ra_deg": 94.2, "dec_deg": 22.5},
        "objects": [{"name": "IC 443", "major_arcmin": 50, "minor_arcmin": 40}],
        "rigs": [{"optics": rig["optics"], "sensor": rig["sensor"]}]});
    let (status, frames) = api.call("POST", "/api/v1/framing", &[], Some(&question)).await;
    assert_eq!((status, &frames[0]["plan"]["panels_wide"]), (StatusCode::OK, &json!(1)));
}

#[tokio::test]
async fn charts_answer_and_refuse_what_makes_no_sense() {
    let api = Api::new().await;
    let (status, ranked) = api
        .call("POST", "/api/v1/charts/filters?contender=1&quantity=oiii", &[], Some(&demo()))
        .await;
    assert_eq!(status, StatusCode::OK);
    let times: Vec<f64> = ranked
        .as_array()
        .expect("a list")
        .iter()
        .filter_map(|f| f["time_to_goal_s"].as_f64())
        .collect();
    assert!(times.len() > 5 && times.windows(2).all(|w| w[0] <= w[1]));
    let (status, best) = api
        .call("POST", "/api/v1/charts/bandwidth?contender=1&quantity=ha", &[], Some(&demo()))
        .await;
    assert_eq!(status, StatusCode::OK);
    assert!(
        best["best_offset_nm"].as_f64() > Some(0.5),
        "f/2.8 wants a band to the red of the line"
    );
    let (status, spectrum) =
        api.call("POST", "/api/v1/charts/spectrum?contender=0", &[], Some(&demo())).await;
    assert_eq!((status, spectrum["filters"].as_array().map(Vec::len)), (StatusCode::OK, Some(2)));
    for wrong in [
        "spectrum?contender=9",
        "filters?contender=9",
        "bandwidth?contender=0&quantity=continuum",
        "bandwidth?contender=0&quantity=red",
    ] {
        assert_eq!(
            api.call("POST", &format!("/api/v1/charts/{wrong}"), &[], Some(&demo())).await.0,
            StatusCode::UNPROCESSABLE_ENTITY,
            "{wrong}"
        );
    }
}
