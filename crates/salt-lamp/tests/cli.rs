//! The command line as a user meets it.

use std::io::{BufRead, BufReader, Write};
use std::path::{Path, PathBuf};
use std::process::{Command, Output, Stdio};

use serde_json::Value;

fn salt_lamp(args: &[&str], stdin: &str) -> Output {
    let mut child = Command::new(env!("CARGO_BIN_EXE_salt-lamp"))
        .args(args)
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .expect("starts");
    // A program that refuses its input early may close the pipe first.
    let _ = child.stdin.take().expect("a pipe").write_all(stdin.as_bytes());
    child.wait_with_output().expect("ends")
}

const DEMO: &str = include_str!("../../../data/demo/larch-lane-ic-443.json");

#[test]
fn evaluate_prints_the_core_s_answer() {
    let file = concat!(env!("CARGO_MANIFEST_DIR"), "/../../data/demo/larch-lane-ic-443.json");
    let from_file = salt_lamp(&["evaluate", file], "");
    assert!(from_file.status.success());
    assert_eq!(from_file.stdout, salt_lamp(&["evaluate", "-"], DEMO).stdout);
    let printed: Value = serde_json::from_slice(&from_file.stdout).expect("JSON");
    let checked = salt_lamp_formats::read_scenario(DEMO.as_bytes()).expect("accepted");
    let tables = salt_lamp_core::light::Tables::shipped().expect("tables");
    assert_eq!(
        printed,
        serde_json::to_value(salt_lamp_core::evaluate(&checked, &tables)).expect("JSON")
    );
}

#[test]
fn bad_input_exits_with_2_and_the_path() {
    let cases = [
        (
            DEMO.replacen("\"aperture_mm\": 90", "\"aperture_mm\": -90", 1),
            "contenders[0].optics.aperture_mm",
        ),
        (DEMO.replacen("\"goal_snr\"", "\"goal_snrr\"", 1), "goal_snrr"),
        (DEMO.replacen("5.0", "NaN", 1), "line 1"),
        ("[".repeat(2_000_000), "not JSON"),
        (String::new(), "not JSON"),
    ];
    for (text, words) in cases {
        let out = salt_lamp(&["evaluate", "-"], &text);
        let error = String::from_utf8_lossy(&out.stderr);
        assert_eq!(out.status.code(), Some(2), "{error}");
        assert!(error.contains(words), "{words} is not in {error}");
        assert!(out.stdout.is_empty());
    }
    let missing = salt_lamp(&["evaluate", "no-such-file.json"], "");
    assert_eq!(missing.status.code(), Some(2));
    assert!(String::from_utf8_lossy(&missing.stderr).contains("no-such-file.json"));
}

/// Where a served demo keeps its data, by what it says at the start.
fn served_demo(home: &Path, more: &[&str]) -> (PathBuf, String) {
    let mut child = Command::new(env!("CARGO_BIN_EXE_salt-lamp"))
        .args(["serve", "--demo", "--port", "0"])
        .args(more)
        .env("HOME", home)
        .env("XDG_DATA_HOME", home)
        .stdout(Stdio::piped())
        .spawn()
        .expect("starts");
    let mut lines = BufReader::new(child.stdout.take().expect("a pipe")).lines();
    let said = lines
        .find_map(|l| l.expect("text").strip_prefix("Data: ").map(str::to_owned))
        .expect("it says where");
    child.kill().expect("stops");
    child.wait().expect("ends");
    let folder = said.split(" (").next().expect("a folder").to_owned();
    (folder.into(), said)
}

#[test]
fn the_demo_keeps_its_data_between_starts_and_begins_anew_when_told() {
    let home = tempfile::tempdir().expect("a folder");
    let (folder, said) = served_demo(home.path(), &[]);
    assert!(said.contains("kept between starts") && said.contains("--fresh"), "{said}");
    assert!(folder.starts_with(home.path()) && folder.ends_with("salt-lamp-demo"), "{said}");
    let kept = folder.join("kept");
    std::fs::write(&kept, "").expect("written");
    assert_eq!(served_demo(home.path(), &[]).0, folder);
    assert!(kept.exists());
    served_demo(home.path(), &["--fresh"]);
    assert!(!kept.exists() && folder.exists());
    // A folder of one's own is never emptied.
    let own = salt_lamp(&["serve", "--demo", "--fresh", "--data", "somewhere"], "");
    assert_eq!(own.status.code(), Some(2));
}

/// Who started it may have read the address and gone: the server stays.
#[test]
fn a_server_that_nobody_listens_to_stays() {
    let data = tempfile::tempdir().expect("a folder");
    let (read, write) = std::io::pipe().expect("a pipe");
    drop(read);
    // Below those that a system hands out: nobody beside it is given the same one.
    let first = 20_000 + (std::process::id() % 10_000) as u16;
    let free = |port: &u16| std::net::TcpListener::bind(("127.0.0.1", *port)).is_ok();
    let port = (first..first + 1000).find(free).expect("a port");
    let mut child = Command::new(env!("CARGO_BIN_EXE_salt-lamp"))
        .args(["serve", "--port", &port.to_string(), "--data"])
        .arg(data.path())
        .stdout(write)
        .stderr(Stdio::null())
        .spawn()
        .expect("starts");
    let answers = || std::net::TcpStream::connect(("127.0.0.1", port)).is_ok();
    let until = std::time::Instant::now() + std::time::Duration::from_secs(60);
    while !answers() && std::time::Instant::now() < until {
        assert_eq!(child.try_wait().expect("known"), None, "it ended");
        std::thread::sleep(std::time::Duration::from_millis(20));
    }
    // It says where its data is after it listens.
    std::thread::sleep(std::time::Duration::from_millis(300));
    assert_eq!(child.try_wait().expect("known"), None, "it ended");
    assert!(answers());
    child.kill().expect("stops");
    child.wait().expect("ends");
}

fn frames(name: &str) -> String {
    format!("{}/../../reference/frames/{name}", env!("CARGO_MANIFEST_DIR"))
}

/// A line of JSON or rows of CSV a file; a verdict against a scenario; what cannot be read named,
/// and the rest measured all the same.
#[test]
fn frames_are_measured_and_judged() {
    let (round, mosaic) = (frames("round.fits"), frames("mosaic.fits"));
    let out = salt_lamp(&["measure", "--json", &round, "nowhere.fits", &mosaic], "");
    assert_eq!(out.status.code(), Some(2));
    assert!(String::from_utf8_lossy(&out.stderr).contains("nowhere.fits"));
    let text = String::from_utf8(out.stdout).expect("text");
    let lines: Vec<Value> = text.lines().map(|l| serde_json::from_str(l).expect("JSON")).collect();
    let files: Vec<&str> = lines.iter().filter_map(|l| l["file"].as_str()).collect();
    assert_eq!(files, ["round.fits", "mosaic.fits"]);
    assert_eq!(lines[1]["channels"].as_array().map(Vec::len), Some(3));
    let out = salt_lamp(&["measure", "--csv", &round, &mosaic], "");
    assert!(out.status.success());
    let text = String::from_utf8(out.stdout).expect("text");
    assert_eq!(text.lines().count(), 1 + 1 + 3, "{text}");
    assert!(text.starts_with("file,type,start,exposure_s"), "{text}");
    let demo = concat!(env!("CARGO_MANIFEST_DIR"), "/../../data/demo/larch-lane-ic-443.json");
    let out = salt_lamp(&["measure", "--against", demo, "--path", "1", &round], "");
    let text = String::from_utf8(out.stdout).expect("text");
    assert!(out.status.success() && text.contains("Sub to use: "), "{text}");
    let out = salt_lamp(&["measure", "--against", demo, "--path", "0", &round], "");
    assert!(String::from_utf8_lossy(&out.stderr).contains("--path counts from 1"));
}

/// A plan becomes frames with their truth.
#[test]
fn a_camera_that_does_not_exist_plays_a_plan() {
    let dir = tempfile::tempdir().expect("a folder");
    let plan = dir.path().join("plan.json");
    let text = r#"{"format": "salt-lamp-plan", "version": 1, "target": "IC 443", "ra_deg": 94.25,
        "dec_deg": 22.57, "site": "Larch Lane", "blocks": [{"filter": "[O III] 3 nm",
        "from": "2027-01-11T02:00:00Z", "sub_s": 60, "subs": 1, "target": "IC 443"}]}"#;
    std::fs::write(&plan, text).expect("written");
    let to = dir.path().join("night");
    let [plan, folder] = [&plan, &to].map(|p| p.display().to_string());
    let args = ["standin", "camera", "--plan", &plan, "--to", &folder];
    let more = ["--sensor-crop", "128", "--calibration", "1", "--speed", "100000"];
    let out = salt_lamp(&[&args[..], &more[..]].concat(), "");
    assert!(out.status.success(), "{}", String::from_utf8_lossy(&out.stderr));
    let truth: Value =
        serde_json::from_str(&std::fs::read_to_string(to.join("truth.json")).expect("written"))
            .expect("JSON");
    assert_eq!(truth["frames"].as_array().map(Vec::len), Some(4));
    let blurred = |truth: &Value| truth["frames"][0]["blur_rms_arcsec"].as_f64().expect("said");
    assert!(blurred(&truth) > 0.0);
    // Without weather.
    let still = dir.path().join("still");
    let folder = still.display().to_string();
    let args = ["standin", "camera", "--clear", "--plan", &plan, "--to", &folder];
    let out = salt_lamp(&[&args[..], &more[..]].concat(), "");
    assert!(out.status.success(), "{}", String::from_utf8_lossy(&out.stderr));
    let truth: Value =
        serde_json::from_str(&std::fs::read_to_string(still.join("truth.json")).expect("written"))
            .expect("JSON");
    let first = &truth["frames"][0];
    assert_eq!((blurred(&truth), &first["transparency"]), (0.0, &serde_json::json!(1.0)));
    let out = salt_lamp(&[&args[..], &["--path", "3"]].concat(), "");
    assert!(String::from_utf8_lossy(&out.stderr).contains("[O III] 3 nm"));
}
