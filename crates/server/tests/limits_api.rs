//! What one request may cost, who may ask, and what is told where something stored is damaged.

use crate::help::{Api, changed, demo};
use axum::body::Body;
use axum::http::{Request, StatusCode};
use serde_json::{Value, json};

#[tokio::test]
async fn a_sensor_of_ten_thousand_million_pixels_is_refused_not_rendered() {
    let api = Api::new().await;
    let sensor = |columns: u32, rows: u32| {
        changed(|d| {
            d["contenders"][1]["sensor"]["columns"] = json!(columns);
            d["contenders"][1]["sensor"]["rows"] = json!(rows);
        })
    };
    let q =
        |scenario: Value| json!({"scenario": scenario, "view": {}, "contender": 1, "kind": "sub"});
    assert_eq!(
        api.refused("/api/v1/look/fits", &q(sensor(100_000, 100_000))).await,
        ["scenario.contenders[1].sensor.columns"]
    );
    // A sensor that is accepted, but whose sub would not fit.
    assert_eq!(
        api.refused("/api/v1/look/fits", &q(sensor(20_000, 19_000))).await,
        ["scenario.contenders[1].sensor.columns"]
    );
    assert_eq!(
        api.refused("/api/v1/evaluate", &sensor(21_000, 20_000)).await,
        ["contenders[1].sensor.columns"]
    );
}

#[tokio::test]
async fn twelve_paths_over_a_degree_are_refused_with_the_field_that_fits() {
    let api = Api::new().await;
    let twelve = changed(|d| {
        let list = d["contenders"].as_array_mut().expect("paths");
        let colour = list[1].clone();
        *list = (0..12)
            .map(|i| {
                let mut c = colour.clone();
                c["name"] = json!(format!("path {i}"));
                c
            })
            .collect();
    });
    let ask = |field: f64| json!({"scenario": twelve, "view": {"field_arcsec": field}});
    for path in ["/api/v1/look", "/api/v1/look/frames"] {
        let (status, problem) = api.call("POST", path, &[], Some(&ask(3600.0))).await;
        assert_eq!(
            (status, &problem["errors"][0]["path"]),
            (StatusCode::UNPROCESSABLE_ENTITY, &json!("view.field_arcsec")),
            "{path}"
        );
        let message = problem["errors"][0]["message"].as_str().expect("a message");
        let most: f64 = message
            .split("at most ")
            .nth(1)
            .and_then(|t| t.split(' ').next())
            .and_then(|n| n.parse().ok())
            .expect("a number");
        assert!(most > 500.0 && most < 3600.0, "{message}");
        // One arcsec more is too much: the number is the limit.
        assert_eq!(api.refused(path, &ask(most + 3.0)).await, ["view.field_arcsec"]);
    }
    let few = json!({"scenario": twelve, "view": {"field_arcsec": 120}});
    assert_eq!(api.call("POST", "/api/v1/look", &[], Some(&few)).await.0, StatusCode::OK);
}

#[tokio::test]
async fn counts_that_would_wrap_and_sums_that_would_be_negative_are_refused() {
    let api = Api::new().await;
    let campaign = |subs: Value, snr2: f64| {
        json!({
            "title": "Winter", "scenario": demo(), "contender": 0, "site": "larch-lane",
                "goals": [{"exposure": 0, "snr": 20.0}],
            "framing": {"ra_deg": 94.25, "dec_deg": 22.57, "position_angle_deg": 20.0},
                "clear_share": 0.3,
            "nights": [{"date": "2026-11-08",
                "shots": [{"exposure": 0, "subs": subs, "snr2": snr2}]}]
        })
    };
    assert_eq!(
        api.refused("/api/v1/campaigns", &campaign(json!(4_294_967_290u32), 1.0)).await,
        ["nights[0].shots[0].subs"]
    );
    assert_eq!(
        api.refused("/api/v1/campaigns", &campaign(json!(10), -1.0)).await,
        ["nights[0].shots[0].snr2"]
    );
    // At the limit, many times: the sum is right.
    let mut many = campaign(json!(100_000), 1.0);
    let shot = many["nights"][0]["shots"][0].clone();
    many["nights"] = json!(
        (0..300)
            .map(|_| json!({"date": "2026-11-08", "shots": vec![shot.clone(); 200]}))
            .collect::<Vec<_>>()
    );
    let (status, stored) = api.call("POST", "/api/v1/campaigns", &[], Some(&many)).await;
    assert_eq!(status, StatusCode::CREATED, "{stored}");
    let at = format!(
        "/api/v1/campaigns/{}/state?date=2026-12-01",
        stored["id"].as_str().expect("an id")
    );
    let (_, state) = api.call("GET", &at, &[], None).await;
    assert_eq!(state["goals"][0]["subs"], json!(6_000_000_000u64));
    let site = json!({"latitude_deg": 46.35, "longitude_deg": -72.55});
    let night = json!({"scenario": demo(), "site": site, "date": "2026-12-10",
        "plan": {"done_snr2": [-4.0]}});
    assert_eq!(api.refused("/api/v1/night", &night).await, ["plan.done_snr2[0]"]);
}

#[tokio::test]
async fn lists_that_are_too_long_and_characters_that_control_are_named() {
    let api = Api::new().await;
    let campaign = |change: &dyn Fn(&mut Value)| {
        let mut c = json!({
            "title": "Winter", "scenario": demo(), "contender": 0, "site": "larch-lane",
            "goals": [{"exposure": 0, "snr": 20.0}], "clear_share": 0.3,
            "framing": {"ra_deg": 94.25, "dec_deg": 22.57, "position_angle_deg": 20.0},
            "nights": [{"date": "2026-11-08", "shots": [], "note": "two\nlines"}]
        });
        change(&mut c);
        c
    };
    let (status, said) = api.call("POST", "/api/v1/campaigns", &[], Some(&campaign(&|_| ()))).await;
    assert_eq!(status, StatusCode::CREATED, "{said}");
    let block = json!({"exposure": 0, "from_s": 0, "to_s": 600, "subs": 1});
    let struck = json!({"from_s": 0, "to_s": 600});
    let shot = json!({"exposure": 0, "subs": 1, "snr2": 1.0});
    let night = |field: &'static str, entry: Value| {
        move |c: &mut Value| c["nights"][0][field] = json!(vec![entry.clone(); 201])
    };
    type Change = Box<dyn Fn(&mut Value)>;
    let cases: Vec<(&str, Change)> = vec![
        ("title", Box::new(|c| c["title"] = json!("Win\u{0}ter"))),
        ("site", Box::new(|c| c["site"] = json!("x".repeat(201)))),
        ("goals", Box::new(|c| c["goals"] = json!(vec![c["goals"][0].clone(); 100_000]))),
        ("also", Box::new(|c| c["also"] = json!(vec![1; 100_000]))),
        ("nights[0].note", Box::new(|c| c["nights"][0]["note"] = json!("a \u{7} in it"))),
        ("nights[0].note", Box::new(|c| c["nights"][0]["note"] = json!("x".repeat(2001)))),
        ("nights[0].shots", Box::new(night("shots", shot))),
        ("nights[0].blocks", Box::new(night("blocks", block))),
        ("nights[0].struck_out", Box::new(night("struck_out", struck.clone()))),
        ("nights", Box::new(|c| c["nights"] = json!(vec![c["nights"][0].clone(); 5001]))),
        (
            "scenario.target.name",
            Box::new(|c| c["scenario"]["target"]["name"] = json!("IC\r\n443")),
        ),
    ];
    for (path, change) in cases {
        let paths = api.refused("/api/v1/campaigns", &campaign(&*change)).await;
        assert!(paths.iter().any(|p| p == path), "{path} is not in {paths:?}");
    }
    let night = |plan: Value, limits: Value| {
        let site = json!({"latitude_deg": 46.35, "longitude_deg": -72.55});
        json!({"scenario": demo(), "site": site, "date": "2026-12-10", "plan": plan,
            "limits": limits})
    };
    let locked = json!({"exposure": 0, "from_s": 0, "to_s": 600});
    for (list, entry) in [
        ("locked", locked),
        ("struck_out", struck),
        ("goal_snr", json!(20)),
        ("done_snr2", json!(0)),
        ("aims_snr2", json!(0)),
    ] {
        let q = night(json!({list: vec![entry; 201]}), json!({}));
        assert_eq!(api.refused("/api/v1/night", &q).await, [format!("plan.{list}")]);
    }
    let rows: Vec<[f64; 2]> = (0..721).map(|i| [f64::from(i) * 0.4, 5.0]).collect();
    let q = night(json!({}), json!({"horizon_deg": rows}));
    assert_eq!(api.refused("/api/v1/night", &q).await, ["limits.horizon_deg"]);
}

#[tokio::test]
async fn a_rig_to_be_framed_is_checked_like_any_other() {
    let api = Api::new().await;
    let rig = |change: &dyn Fn(&mut Value)| {
        let mut rig = json!({"optics": demo()["contenders"][0]["optics"],
            "sensor": demo()["contenders"][0]["sensor"]});
        change(&mut rig);
        json!({"at": {"ra_deg": 94.2, "dec_deg": 22.5}, "objects": [], "rigs": [rig]})
    };
    assert_eq!(
        api.call("POST", "/api/v1/framing", &[], Some(&rig(&|_| ()))).await.0,
        StatusCode::OK
    );
    assert_eq!(
        api.refused("/api/v1/framing", &rig(&|r| r["optics"]["focal_length_mm"] = json!(0))).await,
        ["rigs[0].optics.focal_length_mm"]
    );
    assert_eq!(
        api.refused("/api/v1/framing", &rig(&|r| r["sensor"]["pixel_um"] = json!(0))).await,
        ["rigs[0].sensor.pixel_um"]
    );
    let many = json!({"at": {"ra_deg": 94.2, "dec_deg": 22.5}, "objects": [],
        "rigs": vec![rig(&|_| ())["rigs"][0].clone(); 101]});
    assert_eq!(api.refused("/api/v1/framing", &many).await, ["rigs"]);
}

#[tokio::test]
async fn a_row_of_three_numbers_is_named_by_its_path() {
    let api = Api::new().await;
    let three = changed(|d| d["contenders"][1]["sensor"]["qe"][3] = json!([500, 0.8, 0.1]));
    assert_eq!(api.refused("/api/v1/evaluate", &three).await, ["contenders[1].sensor.qe[3]"]);
    let horizon = json!({"scenario": demo(), "site": {"latitude_deg": 46, "longitude_deg": -72},
        "date": "2026-12-10",
        "limits": {"sun_below_deg": -18, "altitude_above_deg": 20,
            "horizon_deg": [[0, 5], [90, 5, 1]]}});
    assert_eq!(api.refused("/api/v1/night", &horizon).await, ["limits.horizon_deg[1]"]);
}

async fn asked(
    api: &Api,
    method: &str,
    path: &str,
    headers: &[(&str, &str)],
) -> (StatusCode, String) {
    let mut request = Request::builder().method(method).uri(path);
    for (name, value) in headers {
        request = request.header(*name, *value);
    }
    let (status, kind, bytes) = api.send(request.body(Body::empty()).expect("a request")).await;
    if !status.is_success() {
        assert_eq!(kind, "application/problem+json");
    }
    (status, String::from_utf8_lossy(&bytes).into_owned())
}

#[tokio::test]
async fn a_stranger_s_domain_that_leads_here_is_told_nothing() {
    let api = Api::new().await;
    for host in ["evil.example", "evil.example:7373", "localhost.evil.example"] {
        for path in ["/api/v1/scenarios", "/", "/api/v1/openapi.json"] {
            let (status, said) = asked(&api, "GET", path, &[("host", host)]).await;
            assert_eq!(status, StatusCode::MISDIRECTED_REQUEST, "{host}{path}: {said}");
            assert!(said.contains("--allow-host"), "{said}");
        }
    }
    for host in ["localhost:7373", "127.0.0.1:9", "[::1]:7373"] {
        assert_eq!(
            asked(&api, "GET", "/api/v1/scenarios", &[("host", host)]).await.0,
            StatusCode::OK,
            "{host}"
        );
    }
}

#[tokio::test]
async fn a_page_of_another_origin_changes_nothing_with_a_body_or_without() {
    let api = Api::new().await;
    let (_, stored) = api.call("POST", "/api/v1/scenarios", &[], Some(&demo())).await;
    let at = format!("/api/v1/scenarios/{}", stored["id"].as_str().expect("an id"));
    let foreign: [&[(&str, &str)]; 4] = [
        &[("origin", "http://evil.example")],
        &[("origin", "null")],
        &[("origin", "http://localhost:9999"), ("host", "localhost:7373")],
        &[("sec-fetch-site", "cross-site")],
    ];
    for headers in foreign {
        for (method, path) in [
            ("POST", format!("{at}/duplicate")),
            ("DELETE", at.clone()),
            ("POST", format!("{at}/restore")),
        ] {
            let (status, said) = asked(&api, method, &path, headers).await;
            assert_eq!(status, StatusCode::FORBIDDEN, "{method} {headers:?}: {said}");
        }
        let (status, _) = api.call("POST", "/api/v1/scenarios", headers, Some(&demo())).await;
        assert_eq!(status, StatusCode::FORBIDDEN);
    }
    let (_, list) = api.call("GET", "/api/v1/scenarios", &[], None).await;
    assert_eq!(list.as_array().expect("a list").len(), 1, "nothing was changed");
    // A page of this server's own, and a program without a browser.
    let own = [
        ("origin", "http://localhost:7373"),
        ("host", "localhost:7373"),
        ("sec-fetch-site", "same-origin"),
    ];
    assert_eq!(asked(&api, "POST", &format!("{at}/duplicate"), &own).await.0, StatusCode::CREATED);
    assert_eq!(asked(&api, "POST", &format!("{at}/duplicate"), &[]).await.0, StatusCode::CREATED);
}

#[tokio::test]
async fn what_is_damaged_is_named_and_the_rest_goes_on() {
    let api = Api::new().await;
    api.call("POST", "/api/v1/scenarios", &[], Some(&demo())).await;
    let blind = api.blind_look().await;
    let id = blind["id"].as_str().expect("an id");
    let (_, none) = api.call("GET", "/api/v1/damaged", &[], None).await;
    assert_eq!(none, json!([]));
    api.by_hand("UPDATE shelf SET document = '{}' WHERE id = 'dual-7'").await;
    api.by_hand("UPDATE blind_look SET document = '{}'").await;
    api.by_hand(
        "INSERT INTO target_emission (object, document, changed_at) VALUES ('IC 443', \
        '{\"name\": 5}', 'now')",
    )
    .await;
    let (status, shelf) = api.call("GET", "/api/v1/shelf", &[], None).await;
    assert!(status == StatusCode::OK && shelf.as_array().expect("a list").len() > 20);
    assert_eq!(api.call("GET", "/api/v1/library", &[], None).await.0, StatusCode::OK);
    let (_, told) = api.call("GET", "/api/v1/damaged", &[], None).await;
    assert_eq!(
        (&told[0]["id"], &told[0]["what"]),
        (&json!("dual-7"), &json!("thing on the shelf"))
    );
    // A blind look that cannot be read is the server's fault, not the asker's.
    let (status, said) =
        api.call("POST", &format!("/api/v1/look/blind/{id}/reveal"), &[], None).await;
    assert_eq!(status, StatusCode::INTERNAL_SERVER_ERROR, "{said}");
    let (status, target) = api.call("GET", "/api/v1/targets/IC%20443", &[], None).await;
    assert_eq!((status, &target["emission"]), (StatusCode::OK, &Value::Null));
    assert!(target["damaged"].as_str().expect("a reason").contains("IC 443"), "{target}");
}
