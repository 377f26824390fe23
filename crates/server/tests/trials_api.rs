//! Trials: designed, laid into a night, filled from the log, judged, and given out as files.

use crate::help::{Api, demo};
use crate::log_api::{Night, frame};
use crate::log_campaign_api::night_of;
use axum::body::Body;
use axum::http::{Request, StatusCode};
use serde_json::{Value, json};

async fn get(api: &Api, path: &str) -> Value {
    let (status, answer) = api.call("GET", path, &[], None).await;
    assert_eq!(status, StatusCode::OK, "{path}: {answer}");
    answer
}

async fn site(api: &Api) -> String {
    let item = json!({"latitude_deg": 46.9, "longitude_deg": 8.1, "height_m": 700.0, "zenith_v_mag": 20.4,
        "lamps": {"led_3000k": 1.0}});
    let entry = json!({"name": "A hill", "sources": {}, "thing": {"kind": "site", "item": item}});
    let (status, made) = api.call("POST", "/api/v1/shelf", &[], Some(&entry)).await;
    assert_eq!(status, StatusCode::CREATED, "{made}");
    made["id"].as_str().expect("an id").to_owned()
}

/// The two filters of the demo's mono path, judged by `judged`.
async fn begun(api: &Api, judged: &str) -> Value {
    let q = json!({
        "scenario": demo(), "treatment": "filter", "judged": judged, "site": site(api).await,
        "kinds": [{"path": 0, "exposure": 0}, {"path": 0, "exposure": 1}],
    });
    let (status, made) = api.call("POST", "/api/v1/trials/begin", &[], Some(&q)).await;
    assert_eq!(status, StatusCode::CREATED, "{made}");
    made
}

fn id(t: &Value) -> String {
    t["id"].as_str().expect("an id").to_owned()
}

fn over(t: &Value) -> Vec<(&'static str, String)> {
    vec![("if-match", format!("\"{}\"", t["revision"]))]
}

async fn send(api: &Api, method: &str, path: &str, t: &Value, body: &Value) -> (StatusCode, Value) {
    let over = over(t);
    let headers: Vec<(&str, &str)> = over.iter().map(|(k, v)| (*k, v.as_str())).collect();
    api.call(method, path, &headers, Some(body)).await
}

/// Frames in blocks A B B A, of which B holds `more` than A; the scatter is by hand.
fn frames(more: f64) -> Vec<Value> {
    (0..24)
        .map(|i| {
            let kind = usize::from(i % 4 == 1 || i % 4 == 2);
            let off = f64::from((i * 7) % 11) / 5.0 - 1.0;
            json!({
                "id": format!("f{i}"), "name": format!("f{i}.fits"), "kind": kind,
                "start_s": 1.8e9 + 300.0 * f64::from(i),
                "measure": (1.0 + more.ln_1p() * kind as f64 + 0.02 * off).exp(),
                "known": {"airmass": 1.0 + 0.01 * f64::from(i % 5)},
            })
        })
        .collect()
}

#[tokio::test(flavor = "multi_thread")]
async fn a_trial_is_designed_laid_into_a_night_and_judged() {
    let api = Api::new().await;
    let made = begun(&api, "patch_snr").await;
    let own = id(&made);
    assert_eq!(made["trial"]["quantity"], "ha");
    let design = get(&api, &format!("/api/v1/trials/{own}/design")).await;
    assert_eq!(design["pairs"], 10);
    assert_eq!(design["order"].as_array().map(Vec::len), Some(5));
    let sheet = get(&api, &format!("/api/v1/trials/{own}/sheet?date=2027-01-10")).await;
    let slots = sheet["sheet"]["slots"].as_array().expect("slots");
    assert_eq!(slots.len(), 20, "{sheet}");

    let verdict = get(&api, &format!("/api/v1/trials/{own}/verdict")).await;
    assert!(verdict["waits"].as_str().is_some_and(|w| w.contains("kind A")), "{verdict}");
    let mut trial = made["trial"].clone();
    trial["frames"] = json!(frames(0.10));
    let path = format!("/api/v1/trials/{own}");
    let (status, saved) = send(&api, "PUT", &path, &made, &trial).await;
    assert_eq!(status, StatusCode::OK, "{saved}");
    let verdict = get(&api, &format!("/api/v1/trials/{own}/verdict")).await;
    let one = &verdict["verdicts"][0];
    assert_eq!(one["found"], "better", "{verdict}");
    assert!(one["headline"].as_str().is_some_and(|h| h.starts_with("B (")));
    let share = verdict["analysis"]["against"][0]["all"]["share"].as_f64().expect("a share");
    assert!((share - 0.10).abs() < 0.03, "{share}");
    // Saved over an old revision it is refused, and what stands there is told.
    let (status, _) = send(&api, "PUT", &path, &made, &trial).await;
    assert_eq!(status, StatusCode::PRECONDITION_FAILED);

    // What this one found is what the next one is designed by.
    let next = begun(&api, "patch_snr").await;
    let scatter = next["trial"]["design"]["scatter"].as_f64().expect("a scatter");
    let found = verdict["analysis"]["scatter"].as_f64().expect("a scatter");
    assert!((scatter - found.exp_m1()).abs() < 1e-9, "{scatter} {found}");
}

#[tokio::test(flavor = "multi_thread")]
async fn a_trial_goes_out_as_files() {
    let api = Api::new().await;
    let made = begun(&api, "patch_snr").await;
    let own = id(&made);
    let mut trial = made["trial"].clone();
    trial["frames"] = json!(frames(0.0));
    send(&api, "PUT", &format!("/api/v1/trials/{own}"), &made, &trial).await;
    let text = |path: String| {
        let api = &api;
        async move {
            let request = Request::get(&path).header("host", "localhost");
            let request = request.body(Body::empty()).expect("a request");
            let (status, _, body) = api.send(request).await;
            assert_eq!(status, StatusCode::OK, "{path}");
            String::from_utf8(body).expect("text")
        }
    };
    let csv = text(format!("/api/v1/trials/{own}/frames/file?format=csv")).await;
    assert!(csv.starts_with("frame,kind,start_utc,measure,") && csv.lines().count() == 25, "{csv}");
    assert!(csv.lines().next().is_some_and(|l| l.contains(",x_one,x_B")), "{csv}");
    let ecsv = text(format!("/api/v1/trials/{own}/frames/file?format=ecsv")).await;
    assert!(ecsv.starts_with("# %ECSV 1.0"));
    let ics = text(format!("/api/v1/trials/{own}/sheet/file?date=2027-01-10&format=ics")).await;
    assert_eq!(ics.matches("BEGIN:VEVENT").count(), 20);
    let sheet = text(format!("/api/v1/trials/{own}/sheet/file?date=2027-01-10")).await;
    assert_eq!(sheet.lines().count(), 21);
}

#[tokio::test(flavor = "multi_thread")]
async fn a_trial_is_filled_from_a_night_of_the_log() {
    let api = Api::new().await;
    let night = night_of(&api, (0..48).step_by(6)).await;
    let made = begun(&api, "star_size").await;
    let own = id(&made);
    let path = format!("/api/v1/trials/{own}/frames");
    let (status, filled) = send(&api, "POST", &path, &made, &json!({"nights": [night]})).await;
    assert_eq!(status, StatusCode::OK, "{filled}");
    let frames = filled["trial"]["frames"].as_array().expect("frames").clone();
    assert_eq!(frames.len(), 8);
    // All are through the first kind's filter.
    assert!(frames.iter().all(|f| f["kind"] == 0 && f["measure"].is_number()), "{frames:?}");
    assert!(frames.iter().all(|f| f["known"]["star_size"].is_number()));
    // What was said by hand stays.
    let mut trial = filled["trial"].clone();
    trial["frames"][2]["kind"] = json!(1);
    trial["frames"][2]["by_hand"] = json!(true);
    let (_, saved) = send(&api, "PUT", &format!("/api/v1/trials/{own}"), &filled, &trial).await;
    let (_, again) = send(&api, "POST", &path, &saved, &json!({"nights": [night]})).await;
    assert_eq!(again["trial"]["frames"][2]["kind"], 1, "{again}");

    // Judged by a patch, it is asked for one, and nights of nobody are refused.
    let other = begun(&api, "line_signal").await;
    let path = format!("/api/v1/trials/{}/frames", id(&other));
    let (status, why) = send(&api, "POST", &path, &other, &json!({"nights": [night]})).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(why["errors"][0]["path"], "marks", "{why}");
    let (status, _) = send(&api, "POST", &path, &other, &json!({"nights": ["nobody"]})).await;
    assert_eq!(status, StatusCode::NOT_FOUND);
}

#[tokio::test(flavor = "multi_thread")]
async fn a_trial_is_deleted_and_comes_back() {
    let api = Api::new().await;
    let made = begun(&api, "background").await;
    let path = format!("/api/v1/trials/{}", id(&made));
    let (status, _) = api.call("DELETE", &path, &[], None).await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    assert_eq!(get(&api, "/api/v1/trials").await, json!([]));
    let (status, _) = api.call("POST", &format!("{path}/restore"), &[], None).await;
    assert_eq!(status, StatusCode::OK);
    assert_eq!(get(&api, &path).await["trial"], made["trial"]);
    let mut wrong = made["trial"].clone();
    wrong["kinds"] = json!([{"path": 0, "exposure": 0}]);
    let (status, why) = api.call("POST", "/api/v1/trials", &[], Some(&wrong)).await;
    assert_eq!(
        (status, &why["errors"][0]["path"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("kinds"))
    );
}

#[tokio::test(flavor = "multi_thread")]
async fn two_frames_are_laid_beside_each_other() {
    let api = Api::new().await;
    let night = night_of(&api, [0, 6]).await;
    let all = get(&api, &format!("/api/v1/log/sessions/{night}")).await;
    let ids: Vec<&str> =
        all["frames"].as_array().expect("frames").iter().filter_map(|f| f["id"].as_str()).collect();
    let at = format!("/api/v1/trials/beside?first={}&frame={}&side=200", ids[0], ids[1]);
    // Frames that were dropped keep no file: that is said.
    let (status, why) = api.call("GET", &at, &[], None).await;
    assert_eq!(
        (status, &why["errors"][0]["path"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("frame"))
    );
    assert!(why["errors"][0]["message"].as_str().is_some_and(|m| m.contains("its file is gone")));
    for (wrong, field) in [("&x=2", "x"), ("&y=-1", "y")] {
        let (status, why) = api.call("GET", &format!("{at}{wrong}"), &[], None).await;
        assert_eq!(
            (status, &why["errors"][0]["path"]),
            (StatusCode::UNPROCESSABLE_ENTITY, &json!(field))
        );
    }
    let wide = at.replace("side=200", "side=5000");
    let (status, why) = api.call("GET", &wide, &[], None).await;
    assert_eq!(
        (status, &why["errors"][0]["path"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("side"))
    );
    let (status, _) = api.call("GET", "/api/v1/trials/beside?first=x&frame=y", &[], None).await;
    assert_eq!(status, StatusCode::NOT_FOUND);
}

/// The reference frame of a minute with a white square of eight pixels in its middle.
fn marked(minute: u32) -> Vec<u8> {
    let mut bytes = frame(minute);
    let head = String::from_utf8_lossy(&bytes[..2880]).into_owned();
    let axis = |key: &str| -> usize {
        let card = head.as_bytes().chunks(80).find(|c| c.starts_with(key.as_bytes()));
        let card = String::from_utf8_lossy(card.expect("a card")).into_owned();
        card.split(['=', '/']).nth(1).expect("a value").trim().parse().expect("a number")
    };
    let (wide, high) = (axis("NAXIS1"), axis("NAXIS2"));
    for (y, x) in (0..8).flat_map(|y| (0..8).map(move |x| (y, x))) {
        let at = 2880 + 2 * ((high / 2 - 4 + y) * wide + wide / 2 - 4 + x);
        bytes[at..at + 2].copy_from_slice(&0x7000i16.to_be_bytes());
    }
    bytes
}

#[tokio::test(flavor = "multi_thread")]
async fn frames_are_judged_blind_and_nothing_tells_which_is_which() {
    let n = Night::new().await;
    let minutes: Vec<u32> = (0..48).step_by(6).collect();
    let kind_of = |i: usize| usize::from(matches!(i % 4, 1 | 2));
    for (i, &m) in minutes.iter().enumerate() {
        n.put(&format!("f{m}.fits"), &if kind_of(i) == 1 { marked(m) } else { frame(m) });
    }
    n.choose_all().await;
    let taken = n.until("eight frames", |f, _| f.len() == minutes.len()).await;
    let api = &n.api;
    let made = begun(api, "patch_snr").await;
    let mut trial = made["trial"].clone();
    let own: Vec<Value> = frames(0.3)
        .into_iter()
        .zip(&taken)
        .map(|(mut f, t)| {
            f["id"] = t["id"].clone();
            f["name"] = t["file"].clone();
            let i = minutes.iter().position(|m| t["file"] == format!("f{m}.fits"));
            f["kind"] = json!(kind_of(i.expect("a minute")));
            f
        })
        .collect();
    trial["frames"] = json!(own);
    let (status, saved) =
        send(api, "PUT", &format!("/api/v1/trials/{}", id(&made)), &made, &trial).await;
    assert_eq!(status, StatusCode::OK, "{saved}");

    let begin = async |q: Value| {
        api.call("POST", &format!("/api/v1/trials/{}/blind", id(&made)), &[], Some(&q)).await
    };
    let asked = json!({"first": taken[0]["id"], "x": 0.5, "y": 0.5, "side": 64});
    for (field, wrong) in [("x", json!(2)), ("side", json!(5000)), ("each", json!(0))] {
        let mut q = asked.clone();
        q[field] = wrong;
        let (status, why) = begin(q).await;
        let said = (status, why["errors"][0]["path"].as_str());
        assert_eq!(said, (StatusCode::UNPROCESSABLE_ENTITY, Some(field)), "{why}");
    }
    let (status, look) = begin(asked.clone()).await;
    assert_eq!(status, StatusCode::CREATED, "{look}");
    assert_eq!((&look["pictures"], &look["rounds"]), (&json!(2), &json!(12)));
    assert_eq!(look["frames_each"], 1);
    let at = format!("/api/v1/look/blind/{}", look["id"].as_str().expect("an id"));
    let mut seen = look.to_string() + &get(api, &at).await.to_string();
    let mut white = Vec::new();
    let mut sizes = Vec::new();
    for round in 0..12 {
        let request = Request::get(format!("{at}/frames/{round}")).body(Body::empty());
        let (status, _, body) = api.send(request.expect("a request")).await;
        assert_eq!(status, StatusCode::OK, "{}", String::from_utf8_lossy(&body));
        seen += &String::from_utf8_lossy(&body[..20]);
        sizes.push(body.len());
        let pixels = &body[4 + 2 * 8..];
        let whites = |p: &[u8]| p.chunks(4).filter(|c| c[0] == 255).count();
        white.push(pixels.chunks(pixels.len() / 2).map(whites).collect::<Vec<_>>());
        let chosen = json!({"round": round, "places": [0, 1]});
        let (status, _) = api.call("POST", &format!("{at}/choice"), &[], Some(&chosen)).await;
        assert_eq!(status, StatusCode::NO_CONTENT);
    }
    assert!(sizes.iter().all(|s| *s == sizes[0]), "a size would tell");
    let names = made["trial"]["title"].as_str().expect("a title").split(" against ");
    let ids = taken.iter().flat_map(|t| [&t["id"], &t["file"]]).filter_map(Value::as_str);
    for name in names.chain(ids) {
        assert!(!seen.contains(name), "{name} leaked: {seen}");
    }

    let (status, answer) = api.call("POST", &format!("{at}/reveal"), &[], None).await;
    assert_eq!(status, StatusCode::OK, "{answer}");
    for (round, whites) in white.iter().enumerate() {
        let order = answer["orders"][round].as_array().expect("an order");
        let marked = order.iter().position(|k| k == 1).expect("B");
        let other = 1 - marked;
        assert!(whites[marked] >= whites[other] + 40, "round {round}: {whites:?} {order:?}");
    }
    let firsts = (0..12).filter(|r| answer["orders"][*r][0] == 1).count();
    assert!((1..12).contains(&firsts), "the order was never drawn anew: {firsts}");
    let result = &answer["result"];
    assert_eq!((&result["by_figures"], &result["pairs"]), (&json!([1, 0]), &json!(12)), "{result}");
    assert!((result["snr"][1].as_f64().expect("a ratio") - 1.3).abs() < 0.05, "{result}");
    assert!(result["told"][0].as_str().is_some_and(|t| t.contains("is better")), "{result}");
    assert_eq!(answer["figure"], "Of A's");

    // A frame that goes takes its round with it, and its name is not told.
    for m in &minutes {
        std::fs::remove_file(n.at(&format!("f{m}.fits"))).expect("removed");
    }
    let request = Request::get(format!("{at}/frames/0")).body(Body::empty());
    let (status, _, body) = api.send(request.expect("a request")).await;
    assert_eq!(status, StatusCode::NOT_FOUND);
    assert!(!String::from_utf8_lossy(&body).contains(".fits"));
}
