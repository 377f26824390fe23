//! The log: folders read and watched, each frame once whatever happens to its file, overruled, told.

use std::collections::HashMap;
use std::path::{Path, PathBuf};
use std::time::Duration;

use crate::help::Api;
use axum::body::Body;
use axum::http::{Request, StatusCode};
use http_body_util::BodyExt;
use serde_json::{Value, json};
use sha2::{Digest, Sha256};
use tower::ServiceExt;

/// The reference frame as one that began so many minutes after eight.
pub(crate) fn frame(minute: u32) -> Vec<u8> {
    let at = format!("{}/../../reference/frames/round.fits", env!("CARGO_MANIFEST_DIR"));
    let mut bytes = std::fs::read(&at).unwrap_or_else(|e| panic!("{at}: {e}"));
    let end = bytes[..2880].chunks(80).position(|c| c.starts_with(b"END ")).expect("a card");
    for (i, card) in [format!("DATE-OBS= '2027-01-28T20:{minute:02}:00'"), "END".to_owned()]
        .into_iter()
        .enumerate()
    {
        let at = (end + i) * 80;
        bytes[at..at + 80].copy_from_slice(format!("{card:<80}").as_bytes());
    }
    bytes
}

/// A folder of frames, and the log that may read it.
pub(crate) struct Night {
    pub(crate) api: Api,
    folder: tempfile::TempDir,
}

impl Night {
    pub(crate) async fn new() -> Self {
        let folder = tempfile::tempdir().expect("a folder");
        let root = folder.path().canonicalize().expect("whole");
        let api = Api::watching(&[root], tempfile::tempdir().expect("a directory")).await;
        Self { api, folder }
    }

    pub(crate) fn at(&self, name: &str) -> PathBuf {
        self.folder.path().canonicalize().expect("whole").join(name)
    }

    pub(crate) fn put(&self, name: &str, bytes: &[u8]) {
        std::fs::write(self.at(name), bytes).expect("written");
    }

    async fn choose(&self, folder: &Path, what: &str) -> (StatusCode, Value) {
        let q = json!({"folder": folder.display().to_string(), "what": what});
        self.api.call("POST", "/api/v1/log/folders", &[], Some(&q)).await
    }

    /// Reads the whole folder once.
    pub(crate) async fn choose_all(&self) {
        assert_eq!(self.choose(self.folder.path(), "read").await.0, StatusCode::ACCEPTED);
    }

    async fn frames(&self) -> Vec<Value> {
        let (_, list) = self.api.call("GET", "/api/v1/log/sessions", &[], None).await;
        let Some(id) = list[0]["id"].as_str() else { return Vec::new() };
        let path = format!("/api/v1/log/sessions/{id}");
        let (status, night) = self.api.call("GET", &path, &[], None).await;
        assert_eq!(status, StatusCode::OK, "{night}");
        night["frames"].as_array().expect("a list").clone()
    }

    /// Waits until something holds; a machine that is busy with something else is slow, not wrong.
    pub(crate) async fn until(
        &self,
        what: &str,
        holds: impl Fn(&[Value], &Value) -> bool,
    ) -> Vec<Value> {
        for _ in 0..600 {
            let frames = self.frames().await;
            let (_, folders) = self.api.call("GET", "/api/v1/log/folders", &[], None).await;
            if holds(&frames, &folders) {
                return frames;
            }
            tokio::time::sleep(Duration::from_millis(100)).await;
        }
        panic!("{what}: {:?}", self.frames().await);
    }
}

fn files(frames: &[Value]) -> Vec<&str> {
    frames.iter().filter_map(|f| f["file"].as_str()).collect()
}

#[tokio::test(flavor = "multi_thread")]
async fn a_folder_is_read_once_and_each_frame_is_there_once() {
    let n = Night::new().await;
    n.put("a.fits", &frame(0));
    n.put("b.fits", &frame(5));
    n.put("copy of a.fits", &frame(0));
    n.put("notes.txt", b"nothing");
    n.put("broken.fits", b"just words");
    let (status, _) = n.choose(n.folder.path(), "read").await;
    assert_eq!(status, StatusCode::ACCEPTED);
    let done = |f: &[Value], folders: &Value| f.len() == 2 && folders["reading"]["waiting"] == 0;
    let frames = n.until("two frames", done).await;
    assert_eq!(frames[0]["kept"], true);
    assert_eq!(frames[0]["type"], "light");
    let (_, folders) = n.api.call("GET", "/api/v1/log/folders", &[], None).await;
    let why = folders["reading"]["troubles"][0]["why"].as_str().expect("a trouble");
    assert!(why.contains("broken.fits"), "{why}");
    // A folder that was read once is not watched.
    n.put("c.fits", &frame(10));
    tokio::time::sleep(Duration::from_millis(1500)).await;
    assert_eq!(n.frames().await.len(), 2);
}

/// Earlier versions knew a frame by another hash of its content: a copy of such a frame is still it.
#[tokio::test(flavor = "multi_thread")]
async fn a_frame_that_an_earlier_version_took_in_is_known_again() {
    let n = Night::new().await;
    n.put("a.fits", &frame(0));
    n.choose(n.folder.path(), "read").await;
    n.until("the first", |f, _| files(f) == ["a.fits"]).await;
    let older: String = Sha256::digest(frame(0)).iter().map(|b| format!("{b:02x}")).collect();
    n.api.by_hand(&format!("UPDATE frame SET content = '{older}'")).await;
    std::fs::rename(n.at("a.fits"), n.at("b.fits")).expect("renamed");
    n.put("c.fits", &frame(5));
    n.choose(n.folder.path(), "read").await;
    let there = |f: &[Value], _: &Value| files(f).contains(&"c.fits");
    let frames = n.until("the other one", there).await;
    assert_eq!(frames.len(), 2, "{:?}", files(&frames));
}

/// Mean of a picture in greys, 0-255.
fn mean_grey(png: &[u8]) -> f64 {
    let mut reader = png::Decoder::new(std::io::Cursor::new(png)).read_info().expect("a PNG");
    let mut grey = vec![0; reader.output_buffer_size().expect("small")];
    reader.next_frame(&mut grey).expect("whole");
    grey.iter().map(|g| f64::from(*g)).sum::<f64>() / grey.len() as f64
}

/// Twenty-four lengths of subs, two frames of each, the second brighter by 200 ADU than the first, and
/// drawn so: by its neighbour's level, though both are read at once.
#[tokio::test(flavor = "multi_thread")]
async fn frames_that_are_read_side_by_side_are_drawn_by_the_first_of_their_kind() {
    let n = Night::new().await;
    let many = 48;
    for minute in 0..many {
        let mut bytes = frame(minute);
        let length = format!("{:<80}", format!("EXPTIME = {:>20}", 300 + minute / 2));
        let at = bytes.chunks(80).position(|c| c.starts_with(b"EXPTIME")).expect("a card") * 80;
        bytes[at..at + 80].copy_from_slice(length.as_bytes());
        if minute % 2 == 1 {
            for v in bytes[2880..].chunks_exact_mut(2).take(512 * 448) {
                let brighter = i16::from_be_bytes([v[0], v[1]]).saturating_add(200);
                v.copy_from_slice(&brighter.to_be_bytes());
            }
        }
        n.put(&format!("f{minute:02}.fits"), &bytes);
    }
    n.choose_all().await;
    let frames = n.until("all of them", |f, _| f.len() == many as usize).await;
    let mut pictures = HashMap::new();
    for f in &frames {
        let id = f["id"].as_str().expect("an id");
        let request = Request::get(format!("/api/v1/log/frames/{id}/preview"));
        let request = request.body(Body::empty()).expect("a request");
        let (status, _, png) = n.api.send(request).await;
        assert_eq!(status, StatusCode::OK);
        pictures.insert(f["file"].as_str().expect("a file").to_owned(), mean_grey(&png));
    }
    for minute in (0..many).step_by(2) {
        let of = |m: u32| pictures[&format!("f{m:02}.fits")];
        let apart = (of(minute + 1) - of(minute)).abs();
        assert!(apart > 5.0, "f{minute:02}: each was drawn by its own level, {apart} greys apart");
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn a_watched_folder_takes_each_frame_when_it_is_whole_through_rename_delete_and_restart() {
    let n = Night::new().await;
    let (status, _) = n.choose(n.folder.path(), "watch").await;
    assert_eq!(status, StatusCode::ACCEPTED);
    let request = Request::get("/api/v1/log/live").header("host", "localhost");
    let live = n.api.router.clone().oneshot(request.body(Body::empty()).expect("a request"));
    let live = live.await.expect("answers");
    assert_eq!(live.headers()["content-type"], "text/event-stream");
    // A slow writer: half of it, a pause longer than a file must be still, and the rest.
    let whole = frame(0);
    n.put("slow.fits", &whole[..whole.len() / 2]);
    tokio::time::sleep(Duration::from_millis(1500)).await;
    assert!(n.frames().await.is_empty(), "half a frame came in");
    n.put("slow.fits", &whole);
    n.until("the slow one", |f, _| files(f) == ["slow.fits"]).await;
    // Whoever listened was told.
    let mut body = live.into_body();
    let told = async {
        loop {
            let event = body.frame().await.expect("it lasts").expect("an event");
            let text = event.into_data().map(|d| String::from_utf8_lossy(&d).into_owned());
            if text.is_ok_and(|t| t.contains("\"kind\":\"frame\"") && t.contains("slow.fits")) {
                return;
            }
        }
    };
    tokio::time::timeout(Duration::from_secs(5), told).await.expect("told of the frame");
    // Renamed: the same frame, elsewhere.
    std::fs::rename(n.at("slow.fits"), n.at("renamed.fits")).expect("renamed");
    let moved = |f: &[Value], _: &Value| {
        let path = f[0]["path"].as_str().unwrap_or_default();
        f.len() == 1 && path.ends_with("renamed.fits") && f[0]["gone"] == false
    };
    n.until("the renamed one", moved).await;
    // Written over by another frame: that comes in, and the first one's file is gone.
    n.put("renamed.fits", &frame(3));
    let over = |f: &[Value], _: &Value| {
        f.len() == 2 && f[0]["path"].is_null() && f[0]["gone"] == true && f[1]["gone"] == false
    };
    n.until("one written over", over).await;
    n.put("renamed.fits", &whole);
    let back = |f: &[Value], _: &Value| {
        f.len() == 2 && f[0]["gone"] == false && f[1]["path"].is_null() && f[1]["gone"] == true
    };
    n.until("the first one again", back).await;
    // Taken away: what was measured stays, and its file is told to be gone.
    std::fs::remove_file(n.at("renamed.fits")).expect("removed");
    n.until("one that is gone", |f, _| f.iter().all(|f| f["gone"] == true)).await;
    // What comes while nobody watches is found at the next start, and what is known stays once.
    let Night { api, folder } = n;
    let dir = api.ended().await;
    let root = folder.path().canonicalize().expect("whole");
    std::fs::write(root.join("renamed.fits"), &whole).expect("written");
    std::fs::write(root.join("late.fits"), frame(7)).expect("written");
    let n = Night { api: Api::watching(&[root], dir).await, folder };
    let all = |f: &[Value], _: &Value| {
        let here: Vec<&Value> = f.iter().filter(|f| f["gone"] == false).collect();
        f.len() == 3 && here.len() == 2
    };
    n.until("all after a restart", all).await;
    // Watched no longer.
    n.choose(n.folder.path(), "leave").await;
    n.put("unseen.fits", &frame(9));
    tokio::time::sleep(Duration::from_millis(1500)).await;
    assert_eq!(n.frames().await.len(), 3);
}

#[tokio::test]
async fn only_what_lies_beneath_a_root_is_read() {
    let n = Night::new().await;
    let elsewhere = tempfile::tempdir().expect("a folder");
    let (status, told) = n.choose(elsewhere.path(), "read").await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(told["errors"][0]["message"].as_str().expect("said").contains("does not lie beneath"));
    let (status, _) = n.choose(&n.at("../.."), "watch").await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    let api = Api::new().await;
    let q = json!({"folder": "/", "what": "read"});
    assert_eq!(api.refused("/api/v1/log/folders", &q).await, ["folder"]);
    // Nobody to play a night.
    let (status, _) = api.call("POST", "/api/v1/log/play", &[], None).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
}

#[tokio::test(flavor = "multi_thread")]
async fn a_frame_is_dropped_overruled_noted_and_written_out() {
    let api = Api::new().await;
    for minute in [0, 0, 5] {
        let request = Request::post(format!("/api/v1/log/frames?name=f{minute}.fits"))
            .header("content-type", "application/octet-stream")
            .body(Body::from(frame(minute)))
            .expect("a request");
        let (status, _, told) = api.send(request).await;
        assert_eq!(status, StatusCode::OK, "{}", String::from_utf8_lossy(&told));
    }
    let (_, list) = api.call("GET", "/api/v1/log/sessions?text=nothing+such", &[], None).await;
    assert_eq!(list, json!([]));
    let (_, list) = api.call("GET", "/api/v1/log/sessions", &[], None).await;
    assert_eq!((&list[0]["night"], &list[0]["lights"]), (&json!("2027-01-28"), &json!(2)));
    let id = list[0]["id"].as_str().expect("an id").to_owned();
    let read = || async {
        let path = format!("/api/v1/log/sessions/{id}");
        api.call("GET", &path, &[], None).await.1
    };
    let night = read().await;
    let own = night["frames"][0]["id"].as_str().expect("an id").to_owned();
    assert_eq!(
        (&night["frames"][0]["kept"], &night["totals"][0]["kept"]),
        (&json!(true), &json!(2))
    );
    // Overruled, and given back to the rules.
    for (decision, kept) in [(json!("aside"), false), (json!(null), true), (json!("kept"), true)] {
        let q = json!({"frames": [&own], "decision": decision, "why": "a plane"});
        let (status, _) = api.call("POST", "/api/v1/log/frames/decide", &[], Some(&q)).await;
        assert_eq!(status, StatusCode::NO_CONTENT);
        let frame = &read().await["frames"][0];
        assert_eq!((&frame["decision"], &frame["kept"]), (&decision, &json!(kept)));
    }
    let q = json!({"frames": ["no such"], "decision": "kept"});
    let (status, _) = api.call("POST", "/api/v1/log/frames/decide", &[], Some(&q)).await;
    assert_eq!(status, StatusCode::NOT_FOUND);
    let (status, _) = api
        .call("PUT", &format!("/api/v1/log/sessions/{id}"), &[], Some(&json!({"note": "windy"})))
        .await;
    assert_eq!(status, StatusCode::OK);
    // A filter that was moved after flats is told; here there are none.
    let at_s = night["frames"][0]["start_s"].as_f64().expect("a time") + 60.0;
    let q = json!({"at_s": at_s, "kind": "filter_moved", "text": "turned"});
    let path = format!("/api/v1/log/sessions/{id}/events");
    let (status, event) = api.call("POST", &path, &[], Some(&q)).await;
    assert_eq!(status, StatusCode::CREATED, "{event}");
    let night = read().await;
    assert_eq!((&night["session"]["note"], &night["told"]), (&json!("windy"), &json!([])));
    assert_eq!(night["events"][0]["text"], "turned");
    let gone = format!("/api/v1/log/events/{}", event["id"].as_str().expect("an id"));
    assert_eq!(api.call("DELETE", &gone, &[], None).await.0, StatusCode::NO_CONTENT);
    assert_eq!(api.call("DELETE", &gone, &[], None).await.0, StatusCode::NOT_FOUND);
    for (format, begins) in [("csv", "file,type,object"), ("ecsv", "# %ECSV 1.0")] {
        let at = format!("/api/v1/log/sessions/{id}/table?format={format}");
        let (status, _, text) = api.send(Request::get(at).body(Body::empty()).expect("ok")).await;
        let text = String::from_utf8(text).expect("text");
        assert!(status == StatusCode::OK && text.starts_with(begins), "{text}");
        assert!(text.lines().last().is_some_and(|l| l.starts_with("f5.fits,light")), "{text}");
    }
    let (status, whole) = api.call("GET", &format!("/api/v1/log/frames/{own}"), &[], None).await;
    assert_eq!((status, &whole["measured"]["columns"]), (StatusCode::OK, &json!(512)));
    let at = format!("/api/v1/log/frames/{own}/preview");
    let (status, kind, png) = api.send(Request::get(at).body(Body::empty()).expect("ok")).await;
    assert!(status == StatusCode::OK && kind == "image/png" && png.starts_with(b"\x89PNG"));
}

#[tokio::test(flavor = "multi_thread")]
async fn a_frame_that_was_altered_is_named_in_its_night_and_by_the_check() {
    let api = Api::new().await;
    for minute in [0, 5] {
        let request = Request::post(format!("/api/v1/log/frames?name=f{minute}.fits"))
            .header("content-type", "application/octet-stream")
            .body(Body::from(frame(minute)))
            .expect("a request");
        assert_eq!(api.send(request).await.0, StatusCode::OK);
    }
    api.by_hand(
        "UPDATE frame_measured SET document = REPLACE(document, '\"stars\":6', '\"stars\":9') \
         WHERE frame = (SELECT id FROM frame ORDER BY start_s LIMIT 1)",
    )
    .await;
    let (_, list) = api.call("GET", "/api/v1/log/sessions", &[], None).await;
    let path = format!("/api/v1/log/sessions/{}", list[0]["id"].as_str().expect("an id"));
    let (status, night) = api.call("GET", &path, &[], None).await;
    assert_eq!(status, StatusCode::OK);
    assert_eq!(night["frames"].as_array().map(Vec::len), Some(1));
    assert!(night["told"][0].as_str().expect("told").contains("cannot be read"), "{night}");
    let found = api.store.check().await.expect("checked");
    assert!(found.iter().any(|f| f.contains("frame")), "{found:?}");
}
