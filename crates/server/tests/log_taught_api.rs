//! What a night teaches, taken over and taken back; the night as it runs; a sky meter's file.

use crate::help::{Api, demo};
use crate::log_api::frame;
use crate::log_campaign_api::night_of;
use axum::body::Body;
use axum::http::{Request, StatusCode};
use http_body_util::BodyExt;
use serde_json::{Value, json};
use std::time::Duration;
use tower::ServiceExt;

/// Eight frames through "Ha 3 nm", and the night that they are of.
async fn night(api: &Api) -> String {
    let night = night_of(api, (0..48).step_by(6)).await;
    // No bias frame says where nothing begins.
    let q = json!({"corrections": {"offset_adu": 500.0}});
    let path = format!("/api/v1/log/sessions/{night}/corrections");
    let (status, said) = api.call("PUT", &path, &[], Some(&q)).await;
    assert!(status.is_success(), "{said}");
    night
}

/// A site where it is night at eight in the evening UTC, one's own; its id.
async fn site(api: &Api) -> String {
    let item = json!({"latitude_deg": 46.9, "longitude_deg": 8.1, "height_m": 700.0, "zenith_v_mag": 20.4,
        "lamps": {"led_3000k": 1.0}, "seeing_fwhm_arcsec": 2.5});
    let entry = json!({"name": "A hill", "sources": {}, "thing": {"kind": "site", "item": item}});
    let (status, made) = api.call("POST", "/api/v1/shelf", &[], Some(&entry)).await;
    assert_eq!(status, StatusCode::CREATED, "{made}");
    made["id"].as_str().expect("an id").to_owned()
}

/// A campaign whose target leaves sky around it: backgrounds are the sky's.
async fn campaign(api: &Api, site: &str) -> String {
    let mut scenario = demo();
    scenario["target"]["kind"] = json!("planetary_nebula");
    let q = json!({"scenario": scenario, "contender": 0, "site": site});
    let (status, made) = api.call("POST", "/api/v1/campaigns/begin", &[], Some(&q)).await;
    assert_eq!(status, StatusCode::CREATED, "{made}");
    made["id"].as_str().expect("an id").to_owned()
}

async fn get(api: &Api, path: &str) -> Value {
    let (status, answer) = api.call("GET", path, &[], None).await;
    assert_eq!(status, StatusCode::OK, "{path}: {answer}");
    answer
}

/// A thing of the shelf.
async fn thing(api: &Api, id: &str) -> Value {
    let all = get(api, "/api/v1/shelf").await;
    let own = all.as_array().and_then(|all| all.iter().find(|e| e["id"] == id));
    own.unwrap_or_else(|| panic!("{id} in {all}")).clone()
}

#[tokio::test(flavor = "multi_thread")]
async fn a_lesson_changes_site_and_campaign_together_and_is_taken_back_together() {
    let api = Api::new().await;
    let night = night(&api).await;
    let path = format!("/api/v1/log/sessions/{night}/taught");
    // No campaign has the frames: a comparison of their target stands in.
    let alone = get(&api, &path).await;
    let hill = site(&api).await;
    let id = campaign(&api, &hill).await;
    let taught = get(&api, &path).await;
    let own = &taught["learned"][0];
    assert_eq!((&own["of"], &own["is_campaign"]), (&json!(id), &json!(true)));
    assert!(
        alone["learned"].as_array().is_none_or(|l| l.iter().all(|l| l["is_campaign"] == false))
    );
    assert_eq!(own["frames"].as_array().map(Vec::len), Some(8));
    let first = &own["frames"][0];
    assert!(first["background_e_per_s"].as_f64() > Some(0.0), "{first}");
    assert!(first["predicted"]["background_e_per_s"].as_f64() > Some(0.0), "{first}");
    let offers = own["offers"].as_array().expect("offers");
    let zenith = offers.iter().find(|o| o["offer"]["lesson"] == "zenith");
    let zenith = zenith.unwrap_or_else(|| panic!("{own:#}"));
    assert_eq!(zenith["subjects"], json!(["A hill", "IC 443 campaign"]), "{zenith:#}");
    let offered = zenith["offer"]["offered"]["value"].as_f64().expect("a figure");
    let (before, was) =
        (thing(&api, &hill).await, get(&api, &format!("/api/v1/campaigns/{id}")).await);

    let q = json!({"of": id, "lesson": "zenith"});
    let (status, lesson) = api.call("POST", &path, &[], Some(&q)).await;
    assert_eq!(status, StatusCode::CREATED, "{lesson}");
    let after = thing(&api, &hill).await;
    let item = &after["entry"]["thing"]["item"];
    assert_eq!(item["zenith_v_mag"].as_f64(), Some(offered));
    assert_eq!(item["known"]["zenith_v_mag"]["nights"], 1);
    assert_eq!(after["entry"]["sources"]["zenith_v_mag"], "measured, night of 2027-01-28");
    let now = get(&api, &format!("/api/v1/campaigns/{id}")).await;
    assert_eq!(now["campaign"]["scenario"]["sky"]["zenith_v_mag"].as_f64(), Some(offered));
    let taught = get(&api, &path).await;
    assert_eq!(taught["lessons"][0]["id"], lesson["id"]);
    assert_eq!(get(&api, "/api/v1/log/lessons").await[0]["id"], lesson["id"]);

    // One that something altered is not served as good, and named.
    let lessons = get(&api, "/api/v1/log/lessons").await;
    let altered = "UPDATE lesson SET document = replace(document, 'measured', 'neasured')";
    api.by_hand(altered).await;
    assert_eq!(get(&api, "/api/v1/log/lessons").await, json!([]));
    api.by_hand("UPDATE lesson SET document = replace(document, 'neasured', 'measured')").await;
    assert_eq!(get(&api, "/api/v1/log/lessons").await, lessons);

    let back = format!("/api/v1/log/lessons/{}", lesson["id"].as_str().expect("an id"));
    let (status, undone) = api.call("DELETE", &back, &[], None).await;
    assert_eq!(status, StatusCode::OK, "{undone}");
    assert!(undone["undone_at"].is_string());
    assert_eq!(thing(&api, &hill).await["entry"], before["entry"]);
    let again = get(&api, &format!("/api/v1/campaigns/{id}")).await;
    assert_eq!(again["campaign"], was["campaign"]);
    // Once is enough.
    assert_eq!(api.call("DELETE", &back, &[], None).await.0, StatusCode::UNPROCESSABLE_ENTITY);
}

#[tokio::test(flavor = "multi_thread")]
async fn what_was_changed_since_is_not_taken_back_over_it() {
    let api = Api::new().await;
    let night = night(&api).await;
    let hill = site(&api).await;
    let id = campaign(&api, &hill).await;
    let path = format!("/api/v1/log/sessions/{night}/taught");
    let q = json!({"of": id, "lesson": "zenith"});
    let (_, lesson) = api.call("POST", &path, &[], Some(&q)).await;
    let site = &format!("/api/v1/shelf/{hill}");
    let stored = thing(&api, &hill).await;
    let mut entry = stored["entry"].clone();
    entry["thing"]["item"]["zenith_v_mag"] = json!(18.125);
    let tag = format!("\"{}\"", stored["revision"]);
    let (status, _) = api.call("PUT", site, &[("if-match", &tag)], Some(&entry)).await;
    assert_eq!(status, StatusCode::OK);
    let back = format!("/api/v1/log/lessons/{}", lesson["id"].as_str().expect("an id"));
    let (status, why) = api.call("DELETE", &back, &[], None).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(why.to_string().contains("18.125"), "{why}");
    assert_eq!(thing(&api, &hill).await["entry"]["thing"]["item"]["zenith_v_mag"], 18.125);
    // And what the night does not offer is not taken.
    let q = json!({"of": id, "lesson": "dark"});
    let (status, why) = api.call("POST", &path, &[], Some(&q)).await;
    assert_eq!(
        (status, &why["errors"][0]["path"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("lesson"))
    );
}

#[tokio::test(flavor = "multi_thread")]
async fn the_night_as_it_runs_is_planned_anew_with_what_is_done() {
    let api = Api::new().await;
    night(&api).await;
    let id = campaign(&api, &site(&api).await).await;
    // 20:50 UTC of the frames' evening.
    let at_s = 1_801_169_400.0;
    let ask = format!("/api/v1/now?campaign={id}&at_s={at_s}");
    let now = get(&api, &ask).await;
    assert_eq!((&now["campaign"]["id"], &now["is_planned"]), (&json!(id), &json!(false)));
    assert_eq!(now["evening"], "2027-01-28");
    assert_eq!(now["filters"][0]["taken"], 8);
    assert_eq!(now["last"]["file"], "f42.fits");
    assert!(now["told"].is_string());
    let q = json!({"campaign": id, "at_s": at_s});
    let (status, planned) = api.call("POST", "/api/v1/now/replan", &[], Some(&q)).await;
    assert_eq!(status, StatusCode::OK, "{planned}");
    let nights = planned["campaign"]["nights"].as_array().expect("nights");
    assert_eq!((nights.len(), &nights[0]["planned"]), (1, &json!(true)));
    let blocks = nights[0]["blocks"].as_array().expect("blocks");
    assert!(!blocks.is_empty());
    assert!(blocks.iter().all(|b| b["from_s"].as_f64() >= Some(at_s)), "{blocks:?}");
    let now = get(&api, &ask).await;
    assert_eq!(now["is_planned"], true);
    let ahead = now["ahead"].as_array().expect("acts");
    assert_eq!(ahead.last().map(|a| &a["kind"]), Some(&json!("end")), "{ahead:?}");
    // An hour later it is planned once more: what should have run until then stays.
    let later = at_s + 7200.0;
    let q = json!({"campaign": id, "at_s": later});
    let (_, planned) = api.call("POST", "/api/v1/now/replan", &[], Some(&q)).await;
    let blocks = planned["campaign"]["nights"][0]["blocks"].as_array().expect("blocks").clone();
    let from = |b: &Value| b["from_s"].as_f64().expect("a time");
    assert!(blocks.iter().any(|b| from(b) < later) && blocks.iter().any(|b| from(b) >= later));
    assert!(blocks.windows(2).all(|w| w[0]["to_s"].as_f64() <= Some(from(&w[1]))), "{blocks:?}");

    let (status, why) = api.call("GET", "/api/v1/now?campaign=nobody", &[], None).await;
    assert_eq!(
        (status, &why["errors"][0]["path"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("campaign"))
    );
    let (status, _) = api.call("GET", "/api/v1/now?at_s=1e12", &[], None).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
}

/// Somebody who listens to what comes in.
async fn listener(api: &Api) -> Body {
    let request = Request::get("/api/v1/log/live").header("host", "localhost");
    let live = api.router.clone().oneshot(request.body(Body::empty()).expect("a request"));
    live.await.expect("answers").into_body()
}

/// Waits until a listener is told of a file.
async fn told_of(body: &mut Body, file: &str) {
    let told = async {
        loop {
            let event = body.frame().await.expect("it lasts").expect("an event");
            let text = event.into_data().map(|d| String::from_utf8_lossy(&d).into_owned());
            if text.is_ok_and(|t| t.contains(file)) {
                return;
            }
        }
    };
    tokio::time::timeout(Duration::from_secs(20), told).await.expect("told");
}

#[tokio::test(flavor = "multi_thread")]
async fn fifty_listeners_are_told_and_those_that_come_back_too() {
    let api = Api::new().await;
    let mut all = Vec::new();
    for _ in 0..50 {
        all.push(listener(&api).await);
    }
    night_of(&api, [0]).await;
    for body in &mut all {
        told_of(body, "f0.fits").await;
    }
    // Half of them lose the line, and take it up again; what came meanwhile they ask for.
    all.truncate(25);
    night_of(&api, [6]).await;
    for _ in 0..25 {
        all.push(listener(&api).await);
    }
    // On the frames' evening.
    let now = "/api/v1/now?at_s=1801169400";
    assert_eq!(get(&api, now).await["last"]["file"], "f6.fits");
    night_of(&api, [12]).await;
    for body in &mut all {
        told_of(body, "f12.fits").await;
    }
    for _ in &all {
        assert_eq!(get(&api, now).await["last"]["file"], "f12.fits");
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn without_campaign_and_frames_there_is_still_a_now() {
    let api = Api::new().await;
    let now = get(&api, "/api/v1/now").await;
    assert_eq!((&now["ahead"], &now["last"]), (&json!([]), &Value::Null));
}

#[tokio::test(flavor = "multi_thread")]
async fn a_sky_meter_s_file_becomes_a_zenith_and_hours() {
    let api = Api::new().await;
    // From dusk to dawn around a new moon; lamps go out in the middle.
    let hill = site(&api).await;
    let line = |i: i64| {
        let (at, mag) = (1_799_352_000 + 60 * i, if i < 330 { 19.1 } else { 19.5 });
        format!("{{\"time\": {at}, \"sky_v_mag\": {mag}}}\n")
    };
    let text: String = (0..660).map(line).collect();
    let q = json!({"site": hill, "text": text});
    let (status, told) = api.call("POST", "/api/v1/log/meter", &[], Some(&q)).await;
    assert_eq!(status, StatusCode::OK, "{told}");
    assert!(
        (told["zenith_v_mag"]["value"].as_f64().expect("a figure") - 19.1).abs() < 0.02,
        "{told}"
    );
    assert!((told["by_hour"][0][1].as_f64().expect("a step") - 0.4).abs() < 0.02, "{told}");
    for (text, said) in
        [("x,y\n1,2\n", "columns"), ("time,mag\n1799352000,19\n", "nothing is learned")]
    {
        let q = json!({"site": hill, "text": text});
        let (status, why) = api.call("POST", "/api/v1/log/meter", &[], Some(&q)).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
        assert!(why.to_string().contains(said), "{why}");
    }
}

/// Puts frames into a folder and reads it: the night that they are of.
async fn read(api: &Api, root: &std::path::Path, frames: &[(String, Vec<u8>)]) -> Value {
    for (name, bytes) in frames {
        std::fs::write(root.join(name), bytes).expect("written");
    }
    let q = json!({"folder": root.display().to_string(), "what": "read"});
    let (status, _) = api.call("POST", "/api/v1/log/folders", &[], Some(&q)).await;
    assert_eq!(status, StatusCode::ACCEPTED);
    for _ in 0..600 {
        let list = get(api, "/api/v1/log/sessions").await;
        if list[0]["lights"] == frames.len() {
            let id = list[0]["id"].as_str().expect("an id");
            return get(api, &format!("/api/v1/log/sessions/{id}")).await;
        }
        tokio::time::sleep(std::time::Duration::from_millis(100)).await;
    }
    panic!("the frames did not come in");
}

#[tokio::test(flavor = "multi_thread")]
async fn lines_are_measured_in_the_files_and_what_is_gone_is_said() {
    let folder = tempfile::tempdir().expect("a folder");
    let root = folder.path().canonicalize().expect("whole");
    let api =
        Api::watching(std::slice::from_ref(&root), tempfile::tempdir().expect("a directory")).await;
    let frames: Vec<_> = [0, 6, 12].map(|m| (format!("f{m}.fits"), frame(m))).into();
    let night = read(&api, &root, &frames).await;
    let id = night["session"]["id"].as_str().expect("the frames came in").to_owned();
    let path = format!("/api/v1/log/sessions/{id}/lines");
    let first = &night["frames"][0]["id"];
    let at = |x: u32, y: u32| json!({"x": x, "y": y, "width": 40, "height": 40});
    let q = json!({"frame": first, "patch": at(150, 150), "background": at(10, 10)});
    campaign(&api, &site(&api).await).await;
    let (status, told) = api.call("POST", &path, &[], Some(&q)).await;
    assert_eq!(status, StatusCode::OK, "{told}");
    assert_eq!((&told["frames"], &told["target"]), (&json!(3), &json!("IC 443")));
    let line = &told["measured"]["lines"][0];
    assert!(line["rayleigh"].is_number() && line["sd_rayleigh"].as_f64() > Some(0.0), "{told}");
    assert_eq!(told["emission"]["known"], "measured");
    assert!(
        told["told"][0].as_str().is_some_and(|t| t.starts_with("H-alpha with [N II]: ")),
        "{told}"
    );
    // Its halves are what the whole is: [N II] keeps its share.
    let lines = &told["emission"]["lines_rayleigh"];
    let ratio =
        lines["nii"].as_f64().expect("a line") / lines["ha"].as_f64().expect("a line").max(1e-9);
    assert!(lines["ha"] == 0.0 || (ratio - 0.6).abs() < 1e-6, "{lines}");

    let wide = json!({"frame": first, "patch": at(5000, 0), "background": at(10, 10)});
    let (status, why) = api.call("POST", &path, &[], Some(&wide)).await;
    assert_eq!(
        (status, &why["errors"][0]["path"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("patch"))
    );
    for minute in [0, 6, 12] {
        std::fs::remove_file(root.join(format!("f{minute}.fits"))).expect("there");
    }
    let (status, why) = api.call("POST", &path, &[], Some(&q)).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(why.to_string().contains("gone"), "{why}");
}

/// A frame through another filter: its header says so in as many letters.
fn through(filter: &str, minute: u32) -> Vec<u8> {
    let mut bytes = frame(minute);
    let at = bytes[..2880].chunks(80).position(|c| c.starts_with(b"FILTER ")).expect("a card");
    let card = format!("{:<80}", format!("FILTER  = '{filter}'"));
    bytes[at * 80..(at + 1) * 80].copy_from_slice(card.as_bytes());
    bytes
}

#[tokio::test(flavor = "multi_thread")]
async fn a_filter_s_copy_is_held_against_another_exposure_and_taken_over() {
    let folder = tempfile::tempdir().expect("a folder");
    let root = folder.path().canonicalize().expect("whole");
    let api =
        Api::watching(std::slice::from_ref(&root), tempfile::tempdir().expect("a directory")).await;
    let mut frames: Vec<_> = [0, 6, 12].map(|m| (format!("f{m}.fits"), frame(m))).into();
    frames.extend([18, 24].map(|m| (format!("f{m}.fits"), through("OIII", m))));
    let night = read(&api, &root, &frames).await;
    let session = night["session"]["id"].as_str().expect("an id").to_owned();
    let id_of = |file: &str| {
        let all = night["frames"].as_array().expect("frames");
        all.iter().find(|f| f["file"] == file).expect("a frame")["id"].clone()
    };
    campaign(&api, &site(&api).await).await;
    let first = id_of("f0.fits");
    let path =
        format!("/api/v1/log/sessions/{session}/copy?frame={}", first.as_str().expect("an id"));
    let second = get(&api, &path).await;
    let told = second["frames"].as_array().expect("frames");
    assert_eq!(told.len(), 1, "{second}");
    assert_eq!((&told[0]["session"], &told[0]["same_filter"]), (&json!(session), &json!(false)));
    assert_ne!(told[0]["filter"], second["filter"]);

    let at = |x: u32, y: u32| json!({"x": x, "y": y, "width": 40, "height": 40});
    let marks = json!({"patch": at(150, 150), "background": at(10, 10)});
    let q = json!({
        "first": {"session": session, "frame": first, "marks": marks},
        "second": {"session": session, "frame": told[0]["frame"]},
    });
    let (status, answer) = api.call("POST", "/api/v1/log/copy", &[], Some(&q)).await;
    assert_eq!(status, StatusCode::OK, "{answer}");
    assert_eq!(answer["frames"], json!([3, 2]), "{answer}");
    // One rig looks at one place: the boxes lie where they lay.
    assert_eq!(answer["second"]["patch"], at(150, 150));
    let copy = &answer["copy"];
    assert_eq!(copy["filter"], second["filter"]);
    assert!(copy["told"].as_array().is_some_and(|t| !t.is_empty()), "{copy}");
    let sum: f64 = copy["likely"]
        .as_array()
        .expect("a curve")
        .iter()
        .map(|p| p[1].as_f64().expect("it"))
        .sum();
    assert!((0.05 * sum - 1.0).abs() < 0.02, "{sum}");
    assert_eq!(answer["subjects"], json!(["IC 443 campaign"]), "{answer}");

    let (status, lesson) = api.call("POST", "/api/v1/log/copy/taken", &[], Some(&q)).await;
    assert_eq!(status, StatusCode::CREATED, "{lesson}");
    assert_eq!(lesson["lesson"]["offer"]["lesson"], "filter_centre");
    let id = lesson["lesson"]["changes"][0]["id"].as_str().expect("a campaign");
    let now = get(&api, &format!("/api/v1/campaigns/{id}")).await;
    let filter = &now["campaign"]["scenario"]["contenders"][0]["exposures"][0]["filter"];
    assert_eq!(filter["n_eff"], copy["as_measured"]["n_eff"]);
    let back = format!("/api/v1/log/lessons/{}", lesson["id"].as_str().expect("an id"));
    assert_eq!(api.call("DELETE", &back, &[], None).await.0, StatusCode::OK);
    let again = get(&api, &format!("/api/v1/campaigns/{id}")).await;
    let filter = &again["campaign"]["scenario"]["contenders"][0]["exposures"][0]["filter"];
    assert_eq!(filter["n_eff"], 1.9);

    let mut bare = q.clone();
    bare["first"]["marks"] = Value::Null;
    let mut wide = q.clone();
    wide["second"]["marks"] = json!({"patch": at(5000, 0), "background": at(10, 10)});
    for (q, field) in [(bare, "first.marks"), (wide, "second.marks.patch")] {
        let (status, why) = api.call("POST", "/api/v1/log/copy", &[], Some(&q)).await;
        let told = (status, why["errors"][0]["path"].as_str());
        assert_eq!(told, (StatusCode::UNPROCESSABLE_ENTITY, Some(field)), "{why}");
    }
}
