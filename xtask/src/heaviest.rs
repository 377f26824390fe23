//! The heaviest questions that are accepted, one at a time: how long each takes and how much memory
//! the server has at its most meanwhile.

use std::time::Instant;

use serde_json::{Value, json};

use crate::load::ask;
use crate::{Outcome, root};

/// No accepted question may take longer, s.
const LIMIT_S: f64 = 5.0;
/// Nor more memory than this beyond what the server has at rest, MB.
const LIMIT_MB: f64 = 500.0;
/// The most that a comparison may have of light paths, exposures in one, and draws.
const PATHS: usize = 12;
const EXPOSURES: usize = 12;
const DRAWS: usize = 2000;

/// A comparison as full as one may be: twelve paths of twelve exposures, no two filters alike.
fn fullest() -> Result<Value, String> {
    let file = root().join("data/demo/larch-lane-ngc-7822.json");
    let text = std::fs::read_to_string(&file).map_err(|e| format!("xtask: {e}"))?;
    let mut document: Value = serde_json::from_str(&text).map_err(|e| format!("xtask: {e}"))?;
    let own = document["contenders"].as_array().cloned().unwrap_or_default();
    let lines = ["ha", "oiii", "sii", "hb", "continuum"];
    let paths: Vec<Value> = (0..PATHS)
        .map(|i| {
            // A colour camera among every two: three channels an exposure.
            let mut path = own[if i % 2 == 0 { own.len() - 1 } else { 0 }].clone();
            path["name"] = json!(format!("Path {i}"));
            let exposures: Vec<Value> = (0..EXPOSURES)
                .map(|k| {
                    let band = |centre: f64| {
                        json!({"centre_nm": centre, "peak": 0.9,
                        "fwhm_nm": 3.0 + (i * EXPOSURES + k) as f64 * 0.1})
                    };
                    let bands = [band(656.3), band(500.7), band(486.1), band(672.4)];
                    json!({"sub_s": 300, "share": 1.0 / EXPOSURES as f64, "filter": {
                        "name": format!("Filter {i} {k}"), "price": 100,
                        "bands": bands[..=(k % 4)]}})
                })
                .collect();
            path["exposures"] = json!(exposures);
            path
        })
        .collect();
    document["contenders"] = json!(paths);
    let goals: Vec<Value> = lines
        .iter()
        .map(|q| json!({"quantity": q, "part": "body", "snr": 10, "detail_arcsec": 5.0}))
        .collect();
    document["goals"] = json!(goals);
    document["choices"]["uncertainty"] =
        json!({"sky_mag": 0.15, "target_relative": 0.2, "draws": DRAWS, "seed": 1});
    Ok(document)
}

/// Every question of weight, with the most that it accepts.
fn questions(full: &Value) -> Vec<(&'static str, Value)> {
    let site = json!({"latitude_deg": 46.35, "longitude_deg": -72.55, "height_m": 30.0,
        "zone": "America/Toronto"});
    let dated = |more: Value| {
        let mut q = json!({"scenario": full, "site": site, "date": "2027-01-10"});
        for (k, v) in more.as_object().into_iter().flatten() {
            q[k] = v.clone();
        }
        q
    };
    let others: Vec<Value> = ["M 31", "M 42", "M 81", "M 1", "NGC 2244"]
        .iter()
        .map(|name| {
            let lines = json!({"ha": 100, "nii": 30, "oiii": 50, "sii": 20, "hb": 30});
            json!({"target": {"name": name, "kind": "galaxy", "lines_rayleigh": lines},
            "contender": 1, "scenario": full})
        })
        .collect();
    let places = json!([{"site": "larch-lane"}, {"site": "heron-lake"}]);
    let view = json!({"field_arcsec": 650});
    vec![
        ("/bench", full.clone()),
        ("/evaluate", full.clone()),
        ("/compare", full.clone()),
        ("/decisions", full.clone()),
        ("/decisions/subs", full.clone()),
        ("/decisions/gains", full.clone()),
        ("/decisions/places", json!({"scenario": full, "places": places})),
        ("/charts/bandwidth", full.clone()),
        ("/charts/filters", full.clone()),
        ("/charts/spectrum", full.clone()),
        ("/kit/to-buy", json!({"places": places})),
        ("/night", dated(json!({"others": others, "weigh": true}))),
        ("/night/ahead", dated(json!({}))),
        ("/night/calendar", dated(json!({"days": 370}))),
        ("/night/tonight", dated(json!({}))),
        ("/look/frames", json!({"scenario": full, "view": view})),
        ("/look/measure", json!({"scenario": full, "view": view, "box": [-200, -200, 200, 200]})),
        ("/look/picture", json!({"scenario": full, "view": view})),
        ("/look/fits", json!({"scenario": full, "view": view, "kind": "sub"})),
    ]
}

/// A figure of the process in MB, such as `VmHWM`.
fn memory_mb(pid: u32, key: &str) -> f64 {
    let status = std::fs::read_to_string(format!("/proc/{pid}/status")).unwrap_or_default();
    let line = status.lines().find(|l| l.starts_with(key)).unwrap_or_default();
    let kib = line.split_whitespace().nth(1).and_then(|n| n.parse::<f64>().ok());
    kib.unwrap_or(f64::NAN) / 1000.0
}

/// Asks each and prints what it took.
///
/// # Errors
/// Where one takes too long or too much, or is not answered.
pub fn run(port: &str, pid: u32) -> Outcome {
    let full = fullest()?;
    let mut over = Vec::new();
    println!("{:<20} {:>8} {:>12} {:>12}", "question", "took", "memory more", "answer");
    for (i, (path, mut body)) in questions(&full).into_iter().enumerate() {
        // No two are of one comparison: nothing is answered from what was kept.
        let document = if body["scenario"].is_null() { &mut body } else { &mut body["scenario"] };
        if !document["sky"].is_null() {
            document["sky"]["zenith_v_mag"] = json!(19.0 + i as f64 * 0.01);
        }
        // Linux forgets the most that there was: proc(5), clear_refs.
        let _ = std::fs::write(format!("/proc/{pid}/clear_refs"), "5");
        let before_mb = memory_mb(pid, "VmRSS");
        let from = Instant::now();
        let head = format!("POST /api/v1{path} HTTP/1.1\r\naccept-encoding: gzip");
        let (status, answer) = ask(port, &head, &body.to_string())?;
        let took_s = from.elapsed().as_secs_f64();
        let more_mb = memory_mb(pid, "VmHWM") - before_mb;
        println!(
            "{path:<20} {took_s:>6.2} s {more_mb:>9.0} MB {:>9.1} MB   {status}",
            answer.len() as f64 / 1e6
        );
        if status != 200 {
            let (_, why) = ask(port, &format!("POST /api/v1{path}"), &body.to_string())?;
            println!("   {}", why.chars().take(600).collect::<String>());
        }
        // A whole sub is sent while it is made, as fast as its reader takes it.
        if status != 200 || took_s > LIMIT_S || more_mb > LIMIT_MB {
            over.push(path);
        }
    }
    if over.is_empty() {
        return Ok(());
    }
    Err(format!("xtask: over {LIMIT_S} s or {LIMIT_MB} MB, or failed: {}", over.join(", ")))
}
