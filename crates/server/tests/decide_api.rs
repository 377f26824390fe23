//! Decisions, looks, nights and campaigns through the API.

use crate::help::{Api, changed, demo};
use axum::body::Body;
use axum::http::{Request, StatusCode};
use serde_json::{Value, json};

fn night(date: &str) -> Value {
    json!({
        "scenario": demo(), "contender": 0, "date": date,
        "site": {"name": "Larch Lane", "latitude_deg": 46.35, "longitude_deg": -72.55,
            "height_m": 30, "zone": "America/Toronto"}
    })
}

/// Facts 2, 5, 8 and 17 of the trade are held in the core; here their numbers come through the API
/// as they are.
#[tokio::test]
async fn decisions_come_with_every_criterion_option_and_range() {
    let api = Api::new().await;
    let (status, d) = api.call("POST", "/api/v1/decisions", &[], Some(&demo())).await;
    assert_eq!(status, StatusCode::OK);
    let first = &d["paths"][0];
    assert_eq!(first["subs"][0]["criteria"].as_array().expect("schools").len(), 8);
    assert_eq!(first["gain"]["advised"], 100.0);
    assert!(first["ranges"]["ha"]["time_to_goal_s"]["low"].as_f64().expect("a range") > 0.0);
    // Every decision comes with its range.
    let open =
        |r: &Value| r["high"].as_f64().expect("a range") > r["low"].as_f64().expect("a range");
    assert!(
        open(&first["subs"][0]["range"]["from_s"])
            && open(&first["subs"][0]["criteria"][2]["sub_range_s"])
    );
    assert!(
        open(&first["gain"]["options"][0]["information_range"])
            && open(&first["time"]["parts"][0]["snr_range"])
    );
    assert!(
        open(&first["time"]["all_reach_goal_range_s"])
            && open(&d["paths"][1]["worth"][0]["hours_saved_range"])
    );
    assert!(d["paths"][1]["differences"].as_array().expect("differences").len() >= 2);
    // Fact 2 through the API: from 7 to 3 nm the swamped sub grows 2.1 to 2.4 times.
    let swamp = |width: f64| {
        changed(|doc| {
            doc["contenders"][0]["exposures"][0]["filter"]["bands"][0]["fwhm_nm"] = json!(width)
        })
    };
    let mut subs = Vec::new();
    for width in [7.0, 3.0] {
        let (_, d) = api.call("POST", "/api/v1/decisions", &[], Some(&swamp(width))).await;
        let list = d["paths"][0]["subs"][0]["criteria"].as_array().expect("schools").clone();
        let own = list.iter().find(|c| c["school"] == "swamp").expect("swamp")["sub_s"]
            .as_f64()
            .expect("a length");
        subs.push(own);
    }
    assert!((2.1..=2.4).contains(&(subs[1] / subs[0])), "{subs:?}");
}

/// Facts 3, 5, 6, 8 and 17 through the API, with the scenarios of the core's named tests.
#[tokio::test]
async fn facts_of_the_trade_come_through_the_api() {
    let api = Api::new().await;
    let evaluate = async |doc: &Value| api.call("POST", "/api/v1/evaluate", &[], Some(doc)).await.1;
    // Fact 5: a colour camera with a dual band against a mono camera that shares its night, same
    // telescope.
    let doc = changed(|d| {
        let optics = d["contenders"][0]["optics"].clone();
        d["contenders"][1]["optics"] = optics;
        for c in [0, 1] {
            for e in d["contenders"][0]["exposures"].as_array_mut().expect("exposures") {
                e["filter"]["bands"][0]["fwhm_nm"] = json!(7);
                e["filter"]["bands"][0]["peak"] = json!(0.92);
            }
            d["contenders"][c]["exposures"][0]["sub_s"] = json!(300);
        }
    });
    let a = evaluate(&doc).await;
    let time =
        |i: usize| a["contenders"][i]["quantities"]["ha"]["time_to_goal_s"].as_f64().expect("t");
    assert!((1.6..=2.6).contains(&(time(1) / time(0))), "{}", time(1) / time(0));
    // Fact 3: with 7 nm at about f/7 from a bright suburb the sky swamps the read noise ten times
    // in 300-400 s, with 3 nm in 600 s.
    let clear = |width: f64| {
        changed(|d| {
            d["sky"]["zenith_v_mag"] = json!(19.0);
            d["contenders"][0]["optics"]["aperture_mm"] = json!(71);
            d["contenders"][0]["exposures"][0]["filter"]["bands"][0]["fwhm_nm"] = json!(width);
        })
    };
    let sub = async |width: f64| {
        evaluate(&clear(width)).await["contenders"][0]["exposures"][0]["sub_exposure"]
            ["swamp_10x_s"]
            .as_f64()
            .expect("a sky")
    };
    let (seven, three) = (sub(7.0).await, sub(3.0).await);
    assert!((230.0..450.0).contains(&seven) && (500.0..750.0).contains(&three), "{seven} {three}");
    // Fact 6: at a dark site 3 h through a wide dual filter show more H-alpha than 14 h without;
    // faint dust the other way round.
    let dark = |hours: f64, contender: usize| {
        changed(|d| {
            d["sky"]["zenith_v_mag"] = json!(21.6);
            d["total_s"] = json!(hours * 3600.0);
            d["target"]["continuum"] = json!({"v_mag_arcsec2": 25.0, "temperature_k": 5500});
            for b in
                d["contenders"][1]["exposures"][0]["filter"]["bands"].as_array_mut().expect("bands")
            {
                b["fwhm_nm"] = json!(12);
            }
            d["contenders"][2]["exposures"][0]["sub_s"] = json!(180);
            let only = d["contenders"][contender].clone();
            d["contenders"] = json!([only]);
        })
    };
    let snr = async |hours: f64, contender: usize, q: &str| {
        evaluate(&dark(hours, contender)).await["contenders"][0]["quantities"][q]["snr"]
            .as_f64()
            .expect("a number")
    };
    assert!(snr(3.0, 1, "ha").await > snr(14.0, 2, "ha").await);
    assert!(snr(3.0, 1, "continuum").await < 0.5 * snr(14.0, 2, "continuum").await);
    // Fact 8: dual or single 7 nm H-alpha on a colour camera, red channel: about equal.
    let red = async |doc: &Value| {
        evaluate(doc).await["contenders"][1]["exposures"][0]["channels"][0]["snr"]["ha"]
            .as_f64()
            .expect("a number")
    };
    let single = changed(|d| {
        let band = d["contenders"][1]["exposures"][0]["filter"]["bands"][0].clone();
        d["contenders"][1]["exposures"][0]["filter"]["bands"] = json!([band]);
    });
    let ratio = red(&demo()).await / red(&single).await;
    assert!((ratio - 1.0).abs() < 0.05, "{ratio}");
    // Fact 11: 72 subs of 300 s take about 6 h 40 min with refocus, dither and settling.
    let mut q = night("2027-01-10");
    q["scenario"]["contenders"][0]["overhead_s_per_sub"] = json!(0);
    q["plan"] = json!({"goal": {"kind": "fixed", "blocks": [{"exposure": 0, "minutes": 400}]}});
    let (_, a) = api.call("POST", "/api/v1/night", &[], Some(&q)).await;
    let subs: u64 = a["first"]["plan"]["blocks"]
        .as_array()
        .expect("blocks")
        .iter()
        .map(|b| b["subs"].as_u64().expect("a count"))
        .sum();
    assert!((69..=74).contains(&subs), "{subs}");
    // Fact 17: warm, the dark current of an uncooled camera exceeds the sky behind a narrow filter.
    let warm = changed(|d| {
        d["sky"]["zenith_v_mag"] = json!(20.5);
        d["sky"]["ambient_c"] = json!(15);
        let sensor = &mut d["contenders"][0]["sensor"];
        sensor["rise_above_ambient_k"] = json!(10);
        sensor["dark"] = json!({"e_per_s": 0.06, "at_c": 20, "doubling_k": 6.3});
    });
    let r = evaluate(&warm).await["contenders"][0]["exposures"][0]["channels"][0]["rates_e_per_s"]
        .clone();
    let of = |k: &str| r[k].as_f64().expect("a rate");
    assert!(of("dark") > of("natural") + of("artificial"), "{r}");
}

#[tokio::test]
async fn a_comparison_leaves_in_three_formats() {
    let api = Api::new().await;
    for (format, kind, start) in [
        ("csv", "text/csv", "path,"),
        ("ecsv", "text/plain", "# %ECSV"),
        ("markdown", "text/markdown", "| Path"),
    ] {
        let request = Request::post(format!("/api/v1/compare?format={format}"))
            .header("content-type", "application/json")
            .body(Body::from(demo().to_string()))
            .expect("a request");
        let (status, mime, bytes) = api.send(request).await;
        assert_eq!(status, StatusCode::OK);
        assert!(
            mime.starts_with(kind) && String::from_utf8_lossy(&bytes).starts_with(start),
            "{mime}"
        );
    }
    let wrong = changed(|d| d["choices"] = json!({"excess": 7}));
    let (status, problem) = api.call("POST", "/api/v1/decisions", &[], Some(&wrong)).await;
    assert_eq!(
        (status, &problem["errors"][0]["path"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("choices.excess"))
    );
}

#[tokio::test]
async fn pictures_are_packed_and_wrong_views_are_named() {
    let api = Api::new().await;
    let ask = |view: Value| json!({"scenario": demo(), "view": view}).to_string();
    let request = |path: &str, body: String| {
        Request::post(path)
            .header("content-type", "application/json")
            .body(Body::from(body))
            .expect("ok")
    };
    let (status, kind, bytes) =
        api.send(request("/api/v1/look/frames", ask(json!({"field_arcsec": 120})))).await;
    assert_eq!((status, kind.as_str()), (StatusCode::OK, "application/octet-stream"));
    let word = |i: usize| {
        u32::from_le_bytes(bytes[i * 4..i * 4 + 4].try_into().expect("four bytes")) as usize
    };
    let pixels: usize = (0..word(0)).map(|i| word(1 + 2 * i) * word(2 + 2 * i) * 4).sum();
    assert_eq!((word(0), bytes.len()), (3, 4 + 24 + pixels));
    let (_, kind, png) = api
        .send(request(
            "/api/v1/look/picture",
            json!({"scenario": demo(), "view": {"field_arcsec": 60}}).to_string(),
        ))
        .await;
    assert!(
        kind == "image/png"
            && png.starts_with(b"\x89PNG")
            && String::from_utf8_lossy(&png).contains("Salt Lamp")
    );
    let (status, _, body) =
        api.send(request("/api/v1/look", ask(json!({"field_arcsec": 1, "strength": 3})))).await;
    let problem: Value = serde_json::from_slice(&body).expect("JSON");
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(problem["errors"].as_array().expect("errors").len(), 2);
    let (status, _, _) = api
        .send(request("/api/v1/look/fits", json!({"scenario": demo(), "contender": 9}).to_string()))
        .await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
}

#[tokio::test]
async fn a_blind_look_hides_until_both_rounds_are_judged() {
    let api = Api::new().await;
    let begun = api.blind_look().await;
    assert!(!begun.to_string().contains("Colour") && begun["pictures"] == 3);
    let at = format!("/api/v1/look/blind/{}", begun["id"].as_str().expect("an id"));
    let reveal = format!("{at}/reveal");
    assert_eq!(api.call("POST", &reveal, &[], None).await.0, StatusCode::UNPROCESSABLE_ENTITY);
    let choose = async |round: usize, places: Value| {
        api.call(
            "POST",
            &format!("{at}/choice"),
            &[],
            Some(&json!({"round": round, "places": places})),
        )
        .await
        .0
    };
    assert_eq!(choose(0, json!([0, 0, 3])).await, StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(
        choose(1, json!([0, 1, 2])).await,
        StatusCode::UNPROCESSABLE_ENTITY,
        "round one comes first"
    );
    assert_eq!(choose(0, json!([2, 0, 1])).await, StatusCode::NO_CONTENT);
    assert_eq!(choose(1, json!([0, 1, 2])).await, StatusCode::NO_CONTENT);
    let (status, kept) = api.call("POST", &reveal, &[], None).await;
    assert_eq!(status, StatusCode::OK);
    // Three pairs in two rounds, but for those whose figures do not differ by more than their range.
    let of = |key: &str| kept["result"][key].as_u64().expect("a count");
    assert_eq!(
        (of("pairs") + 2 * of("alike"), kept["names"].as_array().expect("names").len()),
        (6, 3)
    );
    assert_eq!(
        choose(0, json!([0, 1, 2])).await,
        StatusCode::NOT_FOUND,
        "after the reveal nothing changes"
    );
    assert_eq!(api.call("GET", "/api/v1/look/blind", &[], None).await.1[0]["id"], begun["id"]);
}

#[tokio::test]
async fn a_night_is_planned_exported_and_wrong_input_is_named() {
    let api = Api::new().await;
    let (status, a) = api.call("POST", "/api/v1/night", &[], Some(&night("2027-01-28"))).await;
    assert_eq!(status, StatusCode::OK);
    let blocks = a["first"]["plan"]["blocks"].as_array().expect("blocks").clone();
    assert!(
        blocks.len() >= 2
            && blocks.iter().any(|b| b["why"].as_str().expect("why").contains("rises at 00:5")),
        "{blocks:?}"
    );
    let schema: Value = serde_json::from_str(
        &std::fs::read_to_string(concat!(
            env!("CARGO_MANIFEST_DIR"),
            "/../../docs/plan.schema.json"
        ))
        .expect("the schema"),
    )
    .expect("JSON");
    let (_, plan) = api.call("POST", "/api/v1/night/plan", &[], Some(&night("2027-01-28"))).await;
    let validator = jsonschema::validator_for(&schema).expect("a schema");
    let errors: Vec<String> = validator.iter_errors(&plan).map(|e| e.to_string()).collect();
    assert!(errors.is_empty(), "{errors:?}");
    // A lock stays, and the rest moves around it.
    let mut locked = night("2027-01-28");
    let from = blocks[0]["from_s"].as_f64().expect("a time") + 3600.0;
    locked["plan"] = json!({"locked": [{"exposure": 0, "from_s": from, "to_s": from + 3600.0}]});
    let (_, again) = api.call("POST", "/api/v1/night", &[], Some(&locked)).await;
    let kept = again["first"]["plan"]["blocks"]
        .as_array()
        .expect("blocks")
        .iter()
        .find(|b| b["locked"] == true)
        .expect("locked")
        .clone();
    assert_eq!(kept["from_s"], json!(from));
    // A second target has the night after the first has sunk.
    let mut two = night("2027-01-28");
    let target = demo()["target"].clone();
    two["others"] = json!([{"target": target, "place": {"ra_deg": 180.0, "dec_deg": 60.0}}]);
    let (_, both) = api.call("POST", "/api/v1/night", &[], Some(&two)).await;
    let end = both["first"]["plan"]["last_sub_s"].as_f64().expect("an end");
    let next = both["others"][0]["plan"]["blocks"][0]["from_s"].as_f64().expect("a start");
    // Moving to it takes as long as a flip: five minutes.
    assert!(next >= end + 299.0, "{next} {end}");
    assert!(
        both["first"]["plan"]["finished_s"].is_null()
            && both["others"][0]["plan"]["setup_from_s"].is_null()
    );
    // Its blocks can be locked, and both targets are in the files.
    let from = next + 1800.0;
    two["others"][0]["locked"] = json!([{"exposure": 1, "from_s": from, "to_s": from + 3600.0}]);
    let (_, again) = api.call("POST", "/api/v1/night", &[], Some(&two)).await;
    let list = again["others"][0]["plan"]["blocks"].as_array().expect("blocks").clone();
    assert_eq!(list.iter().find(|b| b["locked"] == true).expect("locked")["from_s"], json!(from));
    assert!(
        again["first"]["plan"]["blocks"]
            .as_array()
            .expect("blocks")
            .iter()
            .all(|b| b["locked"] == false)
    );
    two["others"][0]["target"]["name"] = json!("NGC 4036");
    let (_, plan) = api.call("POST", "/api/v1/night/plan", &[], Some(&two)).await;
    assert!(validator.iter_errors(&plan).next().is_none(), "{plan}");
    assert_eq!(plan["second"]["target"], "NGC 4036");
    let targets: Vec<&str> = plan["blocks"]
        .as_array()
        .expect("blocks")
        .iter()
        .map(|b| b["target"].as_str().expect("a name"))
        .collect();
    assert!(
        targets.first() != targets.last()
            && targets.windows(2).filter(|w| w[0] != w[1]).count() == 1,
        "{targets:?}"
    );
    for (change, path) in [
        (json!({"date": "2027-13-01"}), "date"),
        (json!({"site": {"latitude_deg": 95, "longitude_deg": 0}}), "site.latitude_deg"),
        (
            json!({"site": {"latitude_deg": 45, "longitude_deg": 0, "zone": "Nowhere/Town"}}),
            "site.zone",
        ),
        (json!({"limits": {"altitude_above_deg": 99}}), "limits.altitude_above_deg"),
        (json!({"plan": {"overheads": {"refocus_s": -1}}}), "plan.overheads.refocus_s"),
        (json!({"contender": 12}), "contender"),
        (
            json!({"others": [{"target": demo()["target"],
                "locked": [{"exposure": 7, "from_s": 0, "to_s": 600}]}]}),
            "others[0].locked[0].exposure",
        ),
        (json!({"place": {"ra_deg": 400, "dec_deg": 0}}), "place.ra_deg"),
    ] {
        let mut q = night("2027-01-28");
        change.as_object().expect("an object").iter().for_each(|(k, v)| q[k] = v.clone());
        let (status, problem) = api.call("POST", "/api/v1/night", &[], Some(&q)).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{path}");
        assert_eq!(problem["errors"][0]["path"], path);
    }
}

#[tokio::test]
async fn a_campaign_lives_through_the_api_and_says_where_it_stands() {
    let api = Api::new().await;
    let campaign = json!({
        "title": "IC 443", "scenario": demo(), "contender": 0, "site": "larch-lane",
        "framing": {"ra_deg": 94.25, "dec_deg": 22.57, "position_angle_deg": 20},
            "clear_share": 0.3,
        "goals": [{"exposure": 0, "snr": 20}, {"exposure": 1, "snr": 20}],
        "nights": [{"date": "2026-11-08", "shots": [{"exposure": 0, "subs": 30, "snr2": 100}]}]
    });
    let (status, made) = api.call("POST", "/api/v1/campaigns", &[], Some(&campaign)).await;
    assert_eq!(status, StatusCode::CREATED);
    let at = format!("/api/v1/campaigns/{}", made["id"].as_str().expect("an id"));
    let (_, state) = api.call("GET", &format!("{at}/state?date=2026-12-01"), &[], None).await;
    assert_eq!(state["goals"][0]["progress"], 0.25);
    assert!(state["next"].as_str().expect("a sentence").starts_with("[O III] 3 nm next"));
    let (median, ninety) = (
        state["median_date"].as_str().expect("a date"),
        state["ninety_date"].as_str().expect("a date"),
    );
    assert!(median > "2026-12-01" && ninety >= median, "{median} {ninety}");
    let mut edited = campaign.clone();
    edited["nights"][0]["shots"][0]["snr2"] = json!(400);
    let (status, _) = api.call("PUT", &at, &[("if-match", "\"1\"")], Some(&edited)).await;
    assert_eq!(status, StatusCode::OK);
    assert_eq!(
        api.call("PUT", &at, &[("if-match", "\"1\"")], Some(&edited)).await.0,
        StatusCode::PRECONDITION_FAILED
    );
    assert_eq!(api.call("DELETE", &at, &[], None).await.0, StatusCode::NO_CONTENT);
    assert_eq!(api.call("GET", &at, &[], None).await.0, StatusCode::NOT_FOUND);
    assert_eq!(api.call("POST", &format!("{at}/restore"), &[], None).await.0, StatusCode::OK);
    edited["goals"][0]["exposure"] = json!(5);
    let (status, problem) = api.call("POST", "/api/v1/campaigns", &[], Some(&edited)).await;
    assert_eq!(
        (status, &problem["errors"][0]["path"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("goals[0].exposure"))
    );
}

#[tokio::test]
async fn tonight_the_year_and_coordinates() {
    let api = Api::new().await;
    let mut q = night("2027-01-10");
    let (status, list) = api.call("POST", "/api/v1/night/tonight", &[], Some(&q)).await;
    assert_eq!((status, list.as_array().expect("a list").len()), (StatusCode::OK, 40));
    q["spec"] = json!({"kind": "planetary_nebula", "at_least_arcmin": 0.5});
    let (_, list) = api.call("POST", "/api/v1/night/tonight", &[], Some(&q)).await;
    assert!(list.as_array().expect("a list").iter().all(|w| w["kind"] == "planetary_nebula"));
    // By how it fills the field, and by where it is in its season.
    q["spec"] = json!({"fit": "one_panel", "season": "late"});
    let (_, list) = api.call("POST", "/api/v1/night/tonight", &[], Some(&q)).await;
    let list = list.as_array().expect("a list");
    assert!(!list.is_empty());
    assert!(list.iter().all(|w| (0.2..=0.9).contains(&w["of_field"].as_f64().expect("a share"))));
    assert!(list.iter().all(|w| w["season"] == "late"));
    // In January Cygnus runs out, Orion is at its best and Ursa Major is to come.
    q["spec"] = json!({"at_least_arcmin": 3.0});
    for (season, name) in [("late", "NGC 7000"), ("best", "NGC 1976"), ("early", "NGC 3587")] {
        q["spec"]["season"] = json!(season);
        let (_, list) = api.call("POST", "/api/v1/night/tonight", &[], Some(&q)).await;
        let names: Vec<&str> =
            list.as_array().expect("a list").iter().filter_map(|w| w["name"].as_str()).collect();
        assert!(names.contains(&name), "{season}: {names:?}");
    }
    let mut q = night("2027-01-01");
    q["days"] = json!(31);
    let (_, year) = api.call("POST", "/api/v1/night/calendar", &[], Some(&q)).await;
    assert_eq!(
        (year["dates"][30].as_str(), year["nights"].as_array().expect("nights").len()),
        (Some("2027-01-31"), 31)
    );
    let (_, both) =
        api.call("GET", "/api/v1/coordinates?text=06h17m13s%20%2B22d31m05s", &[], None).await;
    assert_eq!(
        (both["ra"].as_str(), both["dec"].as_str()),
        (Some("06h 17m 13.0s"), Some("+22\u{b0} 31\u{2032} 05\u{2033}"))
    );
    assert_eq!(
        api.call("GET", "/api/v1/coordinates?text=somewhere", &[], None).await.0,
        StatusCode::UNPROCESSABLE_ENTITY
    );
}

/// What the bench has worked out already is told alone, and is what stands in the decisions.
#[tokio::test]
async fn subs_and_gains_are_those_of_the_decisions() {
    let api = Api::new().await;
    let ask = async |path: &str, doc: &Value| {
        let (status, answer) = api.call("POST", path, &[], Some(doc)).await;
        assert_eq!(status, StatusCode::OK, "{path}");
        answer
    };
    let (subs, gains) = (
        ask("/api/v1/decisions/subs", &demo()).await,
        ask("/api/v1/decisions/gains", &demo()).await,
    );
    let decisions = ask("/api/v1/decisions", &demo()).await;
    for (i, path) in decisions["paths"].as_array().expect("paths").iter().enumerate() {
        assert_eq!((&path["subs"], &path["gain"]), (&subs[i], &gains[i]));
    }
    // What is remembered of one scenario is not told of another, and comes out the same when it is
    // asked again.
    let shorter = changed(|doc| doc["contenders"][0]["exposures"][0]["sub_s"] = json!(30));
    assert_ne!(ask("/api/v1/decisions/subs", &shorter).await, subs);
    assert_eq!(ask("/api/v1/decisions/subs", &demo()).await, subs);
    assert_eq!(ask("/api/v1/decisions", &demo()).await, decisions);
    // A filter that leaves the shelf changes what could be added, though the scenario is the same.
    let (_, shelf) = api.call("GET", "/api/v1/shelf", &[], None).await;
    let green = shelf
        .as_array()
        .expect("entries")
        .iter()
        .find(|e| e["id"] == "green")
        .expect("a green filter")
        .clone();
    let tag = format!("\"{}\"", green["revision"]);
    let (status, _) = api.call("DELETE", "/api/v1/shelf/green", &[("if-match", &tag)], None).await;
    assert!(status.is_success(), "{status}");
    assert_ne!(
        ask("/api/v1/decisions", &demo()).await["paths"][0]["add_ons"],
        decisions["paths"][0]["add_ons"]
    );
}
