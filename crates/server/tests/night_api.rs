//! Nights, calendars and campaigns through the API: clocks that change, nights that do not get
//! dark, and every field by its name.

use crate::help::{Api, demo};
use axum::body::Body;
use axum::http::{Request, StatusCode};
use serde_json::{Value, json};

fn larch_lane() -> Value {
    json!({"name": "Larch Lane", "latitude_deg": 46.35, "longitude_deg": -72.55, "height_m": 30,
        "zone": "America/Toronto"})
}

/// A night of the demo from a site, with some of its fields replaced.
fn night(date: &str, site: Value, with: Value) -> Value {
    let mut q = json!({"scenario": demo(), "contender": 0, "date": date, "site": site});
    with.as_object().expect("an object").iter().for_each(|(k, v)| q[k] = v.clone());
    q
}

async fn see(api: &Api, q: &Value) -> Value {
    let (status, answer) = api.call("POST", "/api/v1/night", &[], Some(q)).await;
    assert_eq!(status, StatusCode::OK, "{answer}");
    answer
}

/// The path and message of the only field that is refused.
async fn refused(api: &Api, address: &str, q: &Value) -> (String, String) {
    let (status, problem) = api.call("POST", address, &[], Some(q)).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{problem}");
    let errors = problem["errors"].as_array().expect("errors");
    assert_eq!(errors.len(), 1, "{errors:?}");
    (
        errors[0]["path"].as_str().expect("a path").to_owned(),
        errors[0]["message"].as_str().expect("a message").to_owned(),
    )
}

async fn file(api: &Api, format: &str, q: &Value) -> (String, String) {
    let request = Request::post(format!("/api/v1/night/plan?format={format}"))
        .header("content-type", "application/json");
    let (status, kind, bytes) =
        api.send(request.body(Body::from(q.to_string())).expect("a request")).await;
    assert_eq!(status, StatusCode::OK);
    (kind, String::from_utf8(bytes).expect("text"))
}

#[tokio::test]
async fn a_night_is_seen_minute_by_minute_with_sky_and_pace_of_every_filter() {
    let api = Api::new().await;
    let a = see(&api, &night("2027-01-28", larch_lane(), json!({}))).await;
    let samples = a["first"]["view"]["samples"].as_array().expect("samples");
    assert_eq!(samples.len(), 1441);
    let at = |i: usize, key: &str| samples[i][key].as_f64().expect("a number");
    assert!((1..samples.len()).all(|i| (at(i, "at_s") - at(i - 1, "at_s") - 60.0).abs() < 1e-6));
    let filters = a["first"]["filters"].as_array().expect("filters").len();
    for s in samples {
        let list = |key: &str| {
            s[key]
                .as_array()
                .expect("a list")
                .iter()
                .map(|v| v.as_f64().expect("a number"))
                .collect::<Vec<_>>()
        };
        let (pace, sky) = (list("information_per_h"), list("background_e_per_s"));
        assert_eq!((pace.len(), sky.len()), (filters, filters));
        let usable = s["usable"] == true;
        assert!(pace.iter().chain(&sky).all(|v| (*v > 0.0) == usable), "{s}");
    }
    // The moon that rises in this night brightens the sky behind every filter within the quarter of
    // an hour around it.
    let rise = a["first"]["view"]["events"]["moonrise_s"].as_f64().expect("a moonrise");
    let near = |t: f64| {
        samples
            .iter()
            .find(|s| (s["at_s"].as_f64().expect("a time") - t).abs() < 30.0)
            .expect("a sample")
    };
    for x in 0..filters {
        let sky = |t: f64| near(t)["background_e_per_s"][x].as_f64().expect("a rate");
        assert!(
            sky(rise + 1800.0) > 1.03 * sky(rise - 600.0),
            "{} {}",
            sky(rise + 1800.0),
            sky(rise - 600.0)
        );
    }
}

#[tokio::test]
async fn a_clock_that_changes_in_the_night_changes_in_the_answer() {
    let api = Api::new().await;
    let a = see(&api, &night("2026-10-31", larch_lane(), json!({}))).await;
    let clock = a["clock"].as_array().expect("a clock");
    let offsets: Vec<f64> =
        clock.iter().map(|c| c["offset_s"].as_f64().expect("an offset")).collect();
    assert_eq!(offsets, [-4.0 * 3600.0, -5.0 * 3600.0]);
    // Two in the morning of the first of November, 06:00 UTC.
    assert_eq!(clock[1]["from_s"], json!(1_793_512_800.0));
    // From local noon to local noon this night has twenty-five hours.
    let samples = a["first"]["view"]["samples"].as_array().expect("samples");
    assert_eq!(samples.len(), 25 * 60 + 1);
    // Spring has twenty-three.
    let a = see(&api, &night("2027-03-13", larch_lane(), json!({}))).await;
    assert_eq!(a["first"]["view"]["samples"].as_array().expect("samples").len(), 23 * 60 + 1);
}

#[tokio::test]
async fn a_site_without_a_zone_goes_by_its_longitude_on_either_side_of_the_date_line() {
    let api = Api::new().await;
    for longitude in [179.9, -179.9, 0.0] {
        let site = json!({"latitude_deg": -45.0, "longitude_deg": longitude});
        let a = see(&api, &night("2027-01-28", site, json!({}))).await;
        assert_eq!(a["zone"], "by longitude");
        let ev = &a["first"]["view"]["events"];
        let offset = a["clock"][0]["offset_s"].as_f64().expect("an offset");
        let sunset = ev["sunset_s"].as_f64().expect("a sunset") + offset;
        let hour = sunset.rem_euclid(86_400.0) / 3600.0;
        assert!((18.0..21.5).contains(&hour), "a southern summer's sunset at {longitude}: {hour}");
        assert_eq!(
            (sunset / 86_400.0).floor(),
            20_846.0,
            "on the evening of 2027-01-28 at {longitude}"
        );
    }
}

#[tokio::test]
async fn white_nights_and_polar_nights_are_told_as_such() {
    let api = Api::new().await;
    let north =
        |latitude: f64| json!({"latitude_deg": latitude, "longitude_deg": 20.0, "zone": "UTC"});
    let june = see(&api, &night("2027-06-21", north(65.0), json!({}))).await;
    let plan = &june["first"]["plan"];
    assert_eq!(
        (
            plan["blocks"].as_array().expect("blocks").len(),
            &june["first"]["view"]["events"]["dusk_s"]
        ),
        (0, &Value::Null)
    );
    assert!(
        plan["notes"][0].as_str().expect("a note").starts_with("It does not get dark enough"),
        "{plan}"
    );
    assert!(june["cautions"].as_array().expect("cautions").is_empty());
    let december = see(&api, &night("2026-12-21", north(78.0), json!({}))).await;
    let ev = &december["first"]["view"]["events"];
    assert!(
        ev["sunset_s"].is_null()
            && ev["sunrise_s"].is_null()
            && ev["dark_h"].as_f64().expect("hours") > 10.0,
        "{ev}"
    );
    assert!(!december["first"]["plan"]["blocks"].as_array().expect("blocks").is_empty());
}

#[tokio::test]
async fn set_up_before_sunset_is_cautioned() {
    let api = Api::new().await;
    let early = json!({"plan": {"overheads": {"setup_min": 150}}});
    let cautions = |a: &Value| a["cautions"].to_string();
    assert!(
        cautions(&see(&api, &night("2027-01-28", larch_lane(), early)).await)
            .contains("never aim unfiltered optics near the sun")
    );
    assert!(
        !cautions(&see(&api, &night("2027-01-28", larch_lane(), json!({}))).await)
            .contains("near the sun")
    );
}

#[tokio::test]
async fn every_field_of_a_night_is_refused_by_its_name() {
    let api = Api::new().await;
    for (with, path, says) in [
        (json!({"date": "28.01.2027"}), "date", "2027-01-10"),
        (json!({"place": {"ra_deg": 10, "dec_deg": -91}}), "place.dec_deg", "-90 to 90"),
        (json!({"limits": {"sun_below_deg": -4}}), "limits.sun_below_deg", "-18 to -5"),
        (json!({"limits": {"horizon_deg": [[10, 5], [10, 8]]}}), "limits.horizon_deg[1]", "ascend"),
        (json!({"limits": {"horizon_deg": [[400, 5]]}}), "limits.horizon_deg[0]", "0 to 360"),
        (json!({"plan": {"goal_snr": [20, 2000]}}), "plan.goal_snr[1]", "0.1 to 1000"),
        (
            json!({"plan": {"goal": {"kind": "fixed", "blocks": [{"exposure": 0, "minutes": 0}]}}}),
            "plan.goal.blocks[0].minutes",
            "1 to 1440",
        ),
        (
            json!({"others": [{"target": demo()["target"], "place": {"ra_deg": -1, "dec_deg": 0}}]}),
            "others[0].place.ra_deg",
            "less than 360",
        ),
    ] {
        let (named, message) =
            refused(&api, "/api/v1/night", &night("2027-01-28", larch_lane(), with)).await;
        assert_eq!(named, path);
        assert!(message.contains(says), "{path}: {message}");
    }
    let mut unknown = night("2027-01-28", larch_lane(), json!({}));
    unknown["scenario"]["target"]["name"] = json!("My nebula");
    let (path, message) = refused(&api, "/api/v1/night", &unknown).await;
    assert!(path == "place" && message.contains("holds no \"My nebula\""), "{message}");
    let mut wrong = night("2027-01-28", larch_lane(), json!({}));
    wrong["scenario"]["sky"]["zenith_v_mag"] = json!(40);
    assert_eq!(refused(&api, "/api/v1/night", &wrong).await.0, "scenario.sky.zenith_v_mag");
    for (site, path) in [
        (json!({"latitude_deg": 45, "longitude_deg": 181}), "site.longitude_deg"),
        (json!({"latitude_deg": 45, "longitude_deg": 0, "height_m": 9999}), "site.height_m"),
    ] {
        assert_eq!(
            refused(&api, "/api/v1/night/summary", &json!({"site": site, "date": "2027-01-28"}))
                .await
                .0,
            path
        );
    }
}

#[tokio::test]
async fn goals_change_the_plan_and_totals_hold_what_was_done_before() {
    let api = Api::new().await;
    let with = |plan: Value| night("2027-01-28", larch_lane(), json!({"plan": plan}));
    let most = see(&api, &with(json!({"goal": {"kind": "most", "quantity": "oiii"}}))).await;
    assert!(
        most["first"]["plan"]["blocks"]
            .as_array()
            .expect("blocks")
            .iter()
            .all(|b| b["exposure"] == 1),
        "{most}"
    );
    let fixed = json!({"goal": {"kind": "fixed",
        "blocks": [{"exposure": 0, "minutes": 90}, {"exposure": 1, "minutes": 60}]}});
    let fixed = see(&api, &with(fixed)).await;
    let lengths: Vec<f64> = fixed["first"]["plan"]["blocks"]
        .as_array()
        .expect("blocks")
        .iter()
        .map(|b| b["to_s"].as_f64().expect("t") - b["from_s"].as_f64().expect("t"))
        .collect();
    assert_eq!(lengths, [5400.0, 3600.0]);
    // One goal reached already: the night goes to the other.
    let both = see(&api, &with(json!({}))).await;
    let done = see(&api, &with(json!({"done_snr2": [400.0, 0.0]}))).await;
    let totals = &done["first"]["plan"]["totals"];
    assert_eq!((&totals[0]["subs"], &totals[0]["progress"]), (&json!(0), &json!(1.0)));
    let progress = |plan: &Value| plan["totals"][1]["progress"].as_f64().expect("progress");
    let [alone, shared] = [&done, &both].map(|a| progress(&a["first"]["plan"]));
    assert!(alone > 1.3 * shared, "{alone} alone, {shared} beside the other");
}

#[tokio::test]
async fn two_targets_leave_in_one_file_each_row_with_its_own() {
    let api = Api::new().await;
    let target = json!({"name": "NGC 3031", "kind": "galaxy_with_h_ii",
        "lines_rayleigh": {"ha": 20, "nii": 6, "oiii": 5, "sii": 4, "hb": 6}});
    let q = night("2027-01-28", larch_lane(), json!({"others": [{"target": target}]}));
    let (kind, csv) = file(&api, "csv", &q).await;
    assert!(kind.starts_with("text/csv"));
    let named: Vec<bool> = csv.lines().skip(1).map(|row| row.contains("NGC 3031")).collect();
    assert!(csv.lines().next().is_some_and(|head| head.split(',').any(|c| c == "target")));
    assert!(
        named.len() >= 3 && !named[0] && named.is_sorted() && named[named.len() - 1],
        "first the first target's rows: {csv}"
    );
    let (kind, ics) = file(&api, "ics", &q).await;
    assert!(kind.starts_with("text/calendar"));
    let unfolded = ics.replace("\r\n ", "");
    assert_eq!(unfolded.matches("BEGIN:VEVENT").count(), unfolded.matches("END:VEVENT").count());
    assert!(unfolded.contains("Move to NGC 3031"), "{unfolded}");
    assert!(ics.split("\r\n").all(|line| line.len() <= 75), "lines are folded");
}

#[tokio::test]
async fn a_calendar_counts_its_nights_and_names_its_limits() {
    let api = Api::new().await;
    let ask = |date: &str, days: usize| {
        json!({"scenario": demo(), "contender": 0,
        "site": larch_lane(), "date": date, "days": days})
    };
    let (_, leap) =
        api.call("POST", "/api/v1/night/calendar", &[], Some(&ask("2028-02-27", 4))).await;
    assert_eq!(leap["dates"], json!(["2028-02-27", "2028-02-28", "2028-02-29", "2028-03-01"]));
    let (_, year) =
        api.call("POST", "/api/v1/night/calendar", &[], Some(&ask("2027-01-01", 365))).await;
    let nights = year["nights"].as_array().expect("nights");
    let dark = |i: usize| nights[i]["dark_h"].as_f64().expect("hours");
    assert!(dark(0) > 10.0 && dark(171) < 3.0, "winter {} and summer {}", dark(0), dark(171));
    assert!(
        nights.iter().all(|n| n["usable_h"].as_f64().expect("hours")
            <= n["dark_h"].as_f64().expect("hours") + 1e-9)
    );
    for (days, path) in [(0, "days"), (371, "days")] {
        assert_eq!(refused(&api, "/api/v1/night/calendar", &ask("2027-01-01", days)).await.0, path);
    }
}

#[tokio::test]
async fn tonight_is_ranked_by_time_within_the_limits() {
    let api = Api::new().await;
    let q = json!({"scenario": demo(), "contender": 2, "site": larch_lane(), "date": "2027-01-28",
        "limits": {"altitude_above_deg": 50}});
    let (status, list) = api.call("POST", "/api/v1/night/tonight", &[], Some(&q)).await;
    assert_eq!(status, StatusCode::OK);
    let list = list.as_array().expect("a list");
    assert!(!list.is_empty());
    for w in list {
        assert!(w["hours"].as_f64().expect("hours") > 0.0, "{w}");
        assert!(
            w["highest_deg"].as_f64().expect("a height") >= 50.0,
            "it culminates above 50 degrees: {w}"
        );
    }
    let worth: Vec<f64> = list.iter().map(|w| w["worth"].as_f64().expect("worth")).collect();
    assert!(worth.len() > 3 && worth.windows(2).all(|w| w[0] >= w[1]), "the best first: {worth:?}");
}

fn campaign() -> Value {
    json!({
        "title": "IC 443", "scenario": demo(), "contender": 0, "site": "larch-lane",
        "framing": {"ra_deg": 94.25, "dec_deg": 22.57, "position_angle_deg": 20},
            "clear_share": 0.3,
        "goals": [{"exposure": 0, "snr": 20}, {"exposure": 1, "snr": 20}], "nights": []
    })
}

#[tokio::test]
async fn a_campaign_s_progress_is_the_sum_of_its_nights() {
    let api = Api::new().await;
    let mut c = campaign();
    let shot = |exposure: usize, subs: u32, snr2: f64| json!({"exposure": exposure, "subs": subs, "snr2": snr2});
    c["nights"] = json!([
        {"date": "2026-11-08", "shots": [shot(0, 30, 100.0)]},
        {"date": "2026-11-09", "shots": [shot(0, 30, 60.0), shot(1, 20, 40.0)]},
    ]);
    let (_, made) = api.call("POST", "/api/v1/campaigns", &[], Some(&c)).await;
    let at = format!("/api/v1/campaigns/{}", made["id"].as_str().expect("an id"));
    let state = |date: &'static str| {
        let address = format!("{at}/state?date={date}");
        let api = &api;
        async move { api.call("GET", &address, &[], None).await.1 }
    };
    let now = state("2026-12-01").await;
    assert_eq!(
        (&now["goals"][0]["progress"], &now["goals"][1]["progress"]),
        (&json!(0.4), &json!(0.1))
    );
    // The same seed forecasts the same, and from a later day it is not done earlier.
    assert_eq!(now, state("2026-12-01").await);
    let later = state("2027-02-01").await;
    assert!(later["median_date"].as_str() >= now["median_date"].as_str(), "{later}");
    let (status, problem) = api.call("GET", &format!("{at}/state?date=soon"), &[], None).await;
    assert_eq!(
        (status, &problem["errors"][0]["path"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("date"))
    );
}

#[tokio::test]
async fn a_campaign_begins_with_the_goals_of_its_filters_framed_where_the_catalogue_has_it() {
    let api = Api::new().await;
    let begin = |scenario: Value, contender: usize| {
        json!({"scenario": scenario, "contender": contender,
        "site": "larch-lane"})
    };
    let (status, made) =
        api.call("POST", "/api/v1/campaigns/begin", &[], Some(&begin(demo(), 0))).await;
    assert_eq!(status, StatusCode::CREATED, "{made}");
    let c = &made["campaign"];
    assert!((c["framing"]["ra_deg"].as_f64().expect("a place") - 94.25).abs() < 0.5, "{c}");
    // The same lines that the decisions say are wanted of each filter, at the comparison's goal.
    let (_, decided) = api.call("POST", "/api/v1/decisions", &[], Some(&demo())).await;
    let parts = decided["paths"][0]["time"]["parts"].as_array().expect("parts");
    let wanted: Vec<(usize, Value)> = parts
        .iter()
        .enumerate()
        .flat_map(|(x, p)| p["served"].as_array().expect("served").iter().map(move |v| (x, v)))
        .filter(|(_, v)| v["wanted"] == true)
        .map(|(x, v)| (x, v["quantity"].clone()))
        .collect();
    let goals = c["goals"].as_array().expect("goals");
    let given: Vec<(usize, Value)> = goals
        .iter()
        .map(|g| (g["exposure"].as_u64().expect("an index") as usize, g["quantity"].clone()))
        .collect();
    assert!(!wanted.is_empty());
    assert_eq!(given, wanted);
    assert!(goals.iter().all(|g| g["snr"] == c["scenario"]["goal_snr"]), "{goals:?}");
    assert_eq!(refused(&api, "/api/v1/campaigns/begin", &begin(demo(), 9)).await.0, "contender");
    let mut nowhere = demo();
    nowhere["target"]["name"] = json!("Nowhere 1");
    assert_eq!(
        refused(&api, "/api/v1/campaigns/begin", &begin(nowhere, 0)).await.0,
        "scenario.target.name"
    );
}

/// A campaign's night is planned, kept as a plan, and recorded as it was shot: what the night
/// answers is what the campaign takes.
#[tokio::test]
async fn a_night_goes_into_a_campaign_once_and_what_was_done_before_counts_in_the_next() {
    let api = Api::new().await;
    let mut c = campaign();
    c["nights"] = json!([
        {"date": "2027-01-10", "shots": [{"exposure": 0, "subs": 30, "snr2": 100.0}]},
        {"date": "2027-01-28", "shots": [{"exposure": 0, "subs": 30, "snr2": 60.0}]},
    ]);
    let (_, made) = api.call("POST", "/api/v1/campaigns", &[], Some(&c)).await;
    let at = format!("/api/v1/campaigns/{}/nights", made["id"].as_str().expect("an id"));
    // The same question with and without the campaign: its framing, goals and what other evenings
    // gave stand in the answer.
    let with_campaign =
        see(&api, &night("2027-01-28", larch_lane(), json!({"campaign": c, "weigh": false}))).await;
    let plan = json!({"goal_snr": [20.0, 20.0, 20.0], "done_snr2": [100.0, 0.0, 0.0]});
    let place = json!({"ra_deg": 94.25, "dec_deg": 22.57});
    let by_hand =
        see(&api, &night("2027-01-28", larch_lane(), json!({"plan": plan, "place": place}))).await;
    assert_eq!(with_campaign["first"], by_hand["first"]);
    let shots = &with_campaign["first"]["shots"];
    let gathered: f64 = with_campaign["first"]["plan"]["blocks"]
        .as_array()
        .expect("blocks")
        .iter()
        .filter(|b| b["exposure"] == shots[0]["exposure"])
        .map(|b| {
            // The plan counts that 0.2 subs an hour are lost; the record counts subs that were
            // kept.
            let kept = (-0.2 * b["sub_s"].as_f64().expect("seconds") / 3600.0).exp();
            b["snr2"].as_f64().expect("a square") / kept
        })
        .sum();
    assert!(
        (shots[0]["snr2"].as_f64().expect("a square") - gathered).abs() < 1e-9 * gathered
            && gathered > 0.0
    );
    let revision = |stored: &Value| format!("\"{}\"", stored["revision"]);
    let put = |body: Value, revision: String| {
        let (api, at) = (&api, &at);
        async move { api.call("POST", at, &[("if-match", &revision)], Some(&body)).await }
    };
    // Recorded already: refused by name, nothing is changed.
    let planned = |date: &str| json!({"date": date, "shots": shots, "planned": true});
    let (status, problem) = put(json!({"night": planned("2027-01-28")}), revision(&made)).await;
    assert_eq!(
        (status, &problem["errors"][0]["path"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("night.date")),
        "{problem}"
    );
    let (status, kept) = put(json!({"night": planned("2027-01-30")}), revision(&made)).await;
    assert_eq!(
        (status, kept["campaign"]["nights"].as_array().map(Vec::len)),
        (StatusCode::OK, Some(3)),
        "{kept}"
    );
    // From an old revision nothing is written over.
    let (status, _) = put(json!({"night": planned("2027-01-31")}), revision(&made)).await;
    assert_eq!(status, StatusCode::PRECONDITION_FAILED);
    // Half of the subs are worth half.
    let subs: Vec<u64> = (0..2)
        .map(|x| {
            if shots[0]["exposure"] == json!(x) {
                shots[0]["subs"].as_u64().unwrap_or(0) / 2
            } else {
                0
            }
        })
        .collect();
    let mut shot = planned("2027-01-30");
    shot["planned"] = json!(false);
    let (status, done) = put(json!({"night": shot, "subs": subs}), revision(&kept)).await;
    assert_eq!(status, StatusCode::OK, "{done}");
    let nights = done["campaign"]["nights"].as_array().expect("nights");
    assert_eq!((nights.len(), &nights[2]["planned"]), (3, &json!(false)));
    let (half, all) = (&nights[2]["shots"][0], &shots[0]);
    let share = half["subs"].as_f64().expect("subs") / all["subs"].as_f64().expect("subs");
    let gained = half["snr2"].as_f64().expect("a square") / all["snr2"].as_f64().expect("a square");
    assert!((share - gained).abs() < 1e-9 && (0.4..=0.5).contains(&share), "{half} of {all}");
    let (status, problem) =
        put(json!({"night": planned("2027-02-20"), "subs": [1, 2, 3, 4, 5]}), revision(&done))
            .await;
    assert_eq!(
        (status, &problem["errors"][0]["path"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("subs"))
    );
}

#[tokio::test]
async fn what_a_campaign_cannot_hold_is_refused_by_name() {
    let api = Api::new().await;
    for (change, path) in [
        (json!({"title": ""}), "title"),
        (json!({"clear_share": 1.5}), "clear_share"),
        (json!({"goals": [{"exposure": 0, "snr": -3}]}), "goals[0].snr"),
        (
            json!({"framing": {"ra_deg": 94.25, "dec_deg": 122.57, "position_angle_deg": 20}}),
            "framing.dec_deg",
        ),
        (json!({"nights": [{"date": "yesterday", "shots": []}]}), "nights[0].date"),
        (
            json!({"nights": [{"date": "2027-02-28", "shots": []},
                {"date": "2027-02-30", "shots": []}]}),
            "nights[1].date",
        ),
        (
            json!({"nights": [{"date": "2027-01-10",
                "shots": [{"exposure": 4, "subs": 1, "snr2": 1}]}]}),
            "nights[0].shots[0].exposure",
        ),
        (json!({"contender": 9}), "contender"),
    ] {
        let mut c = campaign();
        change.as_object().expect("an object").iter().for_each(|(k, v)| c[k] = v.clone());
        assert_eq!(refused(&api, "/api/v1/campaigns", &c).await.0, path);
    }
}

#[tokio::test]
async fn coordinates_are_read_in_any_usual_form() {
    let api = Api::new().await;
    let read = |text: &'static str| {
        let api = &api;
        async move {
            let query: String = text.bytes().map(|b| format!("%{b:02X}")).collect();
            let (status, both) =
                api.call("GET", &format!("/api/v1/coordinates?text={query}"), &[], None).await;
            assert_eq!(status, StatusCode::OK, "{text}: {both}");
            (both["ra_deg"].as_f64().expect("ra"), both["dec_deg"].as_f64().expect("dec"))
        }
    };
    for text in [
        "06h 17m 13s +22\u{b0} 31\u{2032} 05\u{2033}",
        "06 17 13 +22 31 05",
        "6:17:13, +22:31:05",
        "94.304167 22.518056",
        "94.304167, +22.518056",
        "RA 06h17m13.0s Dec +22d31m05s",
    ] {
        let (ra, dec) = read(text).await;
        assert!(
            (ra - 94.304_167).abs() < 1e-4 && (dec - 22.518_056).abs() < 1e-4,
            "{text}: {ra} {dec}"
        );
    }
    assert!(
        (read("00 00 01 -00 00 01").await.1 + 1.0 / 3600.0).abs() < 1e-9,
        "minus zero degrees stays minus"
    );
    for text in ["06%2077%2013%20%2B22%2031%2005", "94.3", "06h17m13s%20%2B95d", ""] {
        let (status, problem) =
            api.call("GET", &format!("/api/v1/coordinates?text={text}"), &[], None).await;
        assert_eq!(
            (status, &problem["errors"][0]["path"]),
            (StatusCode::UNPROCESSABLE_ENTITY, &json!("text")),
            "{text}"
        );
    }
}

/// Under the full moon of December IC 443 costs more than on a typical night ahead, and the night
/// says so, with a better one; in a dark week it says nothing.
#[tokio::test]
async fn a_night_near_the_moon_says_what_it_costs_and_when_to_come_again() {
    let api = Api::new().await;
    let ask = async |date: &str| {
        let q = night(date, larch_lane(), json!({}));
        let (status, answer) = api.call("POST", "/api/v1/night/ahead", &[], Some(&q)).await;
        assert_eq!(status, StatusCode::OK, "{answer}");
        answer
    };
    let full = see(&api, &night("2026-12-24", larch_lane(), json!({}))).await;
    let ahead = ask("2026-12-24").await;
    let filters = full["first"]["filters"].as_array().expect("filters").len();
    let times = ahead["times"].as_array().expect("times");
    assert!(times.len() == filters && times.iter().any(|t| t.as_f64() > Some(2.0)), "{ahead}");
    let text = ahead["text"].as_str().expect("slow");
    let away = full["first"]["view"]["events"]["moon_distance_deg"].as_f64().expect("degrees");
    assert!(text.starts_with(&format!("The moon is {away:.0}° away")), "{text}");
    assert!(text.contains("typical night of the month ahead"), "{text}");
    // The new moon is on 7 January.
    let best = ahead["best_date"].as_str().expect("one");
    assert!(text.contains(&format!("Best night: {best}")), "{text}");
    let day: i32 = best.strip_suffix(" January").expect(best).parse().expect(best);
    assert!((2..=13).contains(&day), "{best}");
    let dark = ask("2027-01-08").await;
    assert_eq!(dark["text"], Value::Null, "{dark}");
    let asked = night("2027-13-08", larch_lane(), json!({}));
    assert_eq!(refused(&api, "/api/v1/night/ahead", &asked).await.0, "date");
}

#[tokio::test]
async fn a_night_is_worked_between_hours_of_the_clock_and_its_set_up_is_in_them() {
    let api = Api::new().await;
    let q = night(
        "2027-01-28",
        larch_lane(),
        json!({"limits": {"not_before": "20:00", "not_after": "3:00"},
            "plan": {"overheads": {"setup_min": 45}}}),
    );
    let a = see(&api, &q).await;
    let plan = &a["first"]["plan"];
    // Eight in the evening in Quebec is one in the morning of the next day, UTC.
    let eight = 1_801_184_400.0;
    assert_eq!(plan["setup_from_s"], json!(eight));
    let blocks = plan["blocks"].as_array().expect("blocks");
    assert_eq!(blocks[0]["from_s"], json!(eight + 2700.0));
    let last = plan["last_sub_s"].as_f64().expect("an end");
    assert!(last <= eight + 7.0 * 3600.0 && last > eight + 6.0 * 3600.0, "{last}");
    for (with, path) in [
        (json!({"limits": {"not_before": "25:00"}}), "limits.not_before"),
        (json!({"limits": {"not_before": "03:00", "not_after": "20:00"}}), "limits.not_after"),
        (json!({"others": [{}]}), "others[0].target"),
        (json!({"others": [{"target": demo()["target"], "contender": 40}]}), "others[0].contender"),
        (
            json!({"others": [{"target": demo()["target"],
                "change": {"kind": "at", "time": "soon"}}]}),
            "others[0].change",
        ),
    ] {
        let (wrong, said) =
            refused(&api, "/api/v1/night", &night("2027-01-28", larch_lane(), with)).await;
        assert!(wrong.starts_with(path), "{wrong} for {path}: {said}");
    }
    let seven = json!({"others": vec![json!({"target": demo()["target"]}); 6]});
    let (wrong, said) =
        refused(&api, "/api/v1/night", &night("2027-01-28", larch_lane(), seven)).await;
    assert_eq!((&*wrong, &*said), ("others", "7 targets; give at most 6"));
}

#[tokio::test]
async fn hours_that_are_struck_out_are_left_free() {
    let api = Api::new().await;
    let q = night("2027-01-28", larch_lane(), json!({}));
    let whole = see(&api, &q).await;
    let first = whole["first"]["plan"]["blocks"][0]["from_s"].as_f64().expect("a start");
    let (from, to) = (first + 3600.0, first + 3.0 * 3600.0);
    let struck = json!({"plan": {"struck_out": [{"from_s": from, "to_s": to}]}});
    let a = see(&api, &night("2027-01-28", larch_lane(), struck)).await;
    let blocks = a["first"]["plan"]["blocks"].as_array().expect("blocks").clone();
    let at = |b: &Value, key: &str| b[key].as_f64().expect("a time");
    assert!(blocks.iter().all(|b| at(b, "to_s") <= from || at(b, "from_s") >= to), "{blocks:?}");
    assert!(blocks.iter().any(|b| at(b, "to_s") <= from));
}

#[tokio::test]
async fn june_is_offered_what_it_has_or_the_next_night() {
    let api = Api::new().await;
    let at = |latitude: f64| json!({"latitude_deg": latitude, "longitude_deg": 0.0, "zone": "UTC"});
    let offer = |a: &Value| a["twilight"].clone();
    let q = |latitude: f64| night("2027-06-21", at(latitude), json!({}));
    assert_eq!(offer(&see(&api, &q(51.0)).await)["sun_below_deg"], -15.0);
    assert_eq!(offer(&see(&api, &q(56.0)).await)["sun_below_deg"], -10.0);
    let none = offer(&see(&api, &q(60.0)).await);
    assert!(none["sun_below_deg"].is_null() && none["next_date"].is_string(), "{none}");
    assert!(offer(&see(&api, &q(40.0)).await).is_null());
    // Allowed, it is planned into.
    let with = json!({"limits": {"sun_below_deg": -15}, "place": {"ra_deg": 270, "dec_deg": 50}});
    let allowed = see(&api, &night("2027-06-21", at(51.0), with)).await;
    assert!(!allowed["first"]["plan"]["blocks"].as_array().expect("blocks").is_empty());
    assert!(allowed["twilight"].is_null(), "{}", allowed["twilight"]);
}

#[tokio::test]
async fn a_target_brings_its_own_rig_and_the_sequence_its_slots() {
    let api = Api::new().await;
    let other: Value =
        serde_json::from_str(include_str!("../../../data/demo/heron-lake-ngc-2403.json"))
            .expect("the demo parses");
    let mut begun = Vec::new();
    for scenario in [demo(), other] {
        let q = json!({"scenario": scenario, "contender": 0, "site": "larch-lane"});
        let (status, made) = api.call("POST", "/api/v1/campaigns/begin", &[], Some(&q)).await;
        assert_eq!(status, StatusCode::CREATED, "{made}");
        begun.push(made["campaign"].clone());
    }
    let (nebula, galaxy) = (begun[0].clone(), begun[1].clone());
    let mut q = night(
        "2027-01-28",
        larch_lane(),
        json!({"scenario": nebula["scenario"], "contender": nebula["contender"],
            "campaign": nebula,
            "others": [{"scenario": galaxy["scenario"], "contender": galaxy["contender"],
                "campaign": galaxy, "change": {"kind": "best_use"}}]}),
    );
    let a = see(&api, &q).await;
    assert_ne!(a["first"]["filters"], a["others"][0]["filters"]);
    let used = |t: &Value| !t["plan"]["blocks"].as_array().expect("blocks").is_empty();
    assert!(used(&a["first"]) && used(&a["others"][0]), "{a}");
    let (status, s) = api.call("POST", "/api/v1/night/sequence", &[], Some(&q)).await;
    assert_eq!(status, StatusCode::OK, "{s}");
    let rows = s["rows"].as_array().expect("rows");
    let blocks = |t: &Value| t["plan"]["blocks"].as_array().expect("blocks").len();
    assert_eq!(rows.len(), blocks(&a["first"]) + blocks(&a["others"][0]));
    let starts: Vec<&str> = rows.iter().map(|r| r["start"].as_str().expect("a time")).collect();
    assert!(starts.is_sorted(), "{starts:?}");
    // The mono rig's wheel says in which slot each of its filters sits.
    let of_nebula: Vec<&Value> = rows.iter().filter(|r| r["target"] == "IC 443").collect();
    assert!(of_nebula.iter().all(|r| r["slot"].is_u64() && r["gain"].is_number()), "{rows:?}");
    // Weighed or not is the user's to say.
    q["weigh"] = json!(false);
    let plain = see(&api, &q).await;
    assert!(plain["first"]["waits"].as_array().expect("a list").is_empty());
}

#[tokio::test]
async fn a_campaign_says_that_its_target_never_rises_and_with_whom_it_shares_the_nights() {
    let api = Api::new().await;
    let finish = async |c: &Value| -> String {
        let (_, made) = api.call("POST", "/api/v1/campaigns", &[], Some(c)).await;
        let at = format!(
            "/api/v1/campaigns/{}/state?date=2026-12-01",
            made["id"].as_str().expect("an id")
        );
        let (_, state) = api.call("GET", &at, &[], None).await;
        state["finish"].as_str().expect("a sentence").to_owned()
    };
    let mut south = campaign();
    south["framing"]["dec_deg"] = json!(-80);
    south["title"] = json!("Far south");
    let said = finish(&south).await;
    assert!(
        said.starts_with("IC 443 never stands above its limit in the dark at Larch Lane"),
        "{said}"
    );
    // Another one of the same rig, not finished either, wants the same clear nights.
    let said = finish(&campaign()).await;
    assert!(said.ends_with("It shares the clear nights with Far south."), "{said}");
}
