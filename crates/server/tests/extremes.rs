//! The ends of every accepted range: whatever an error names as accepted is accepted, and is
//! answered with numbers throughout.

use crate::help::{Api, changed};
use axum::http::StatusCode;
use serde_json::{Value, json};

/// The demo with every optional number filled in, two paths, and short curves: their rows are
/// alike.
fn full() -> Value {
    changed(|d| {
        d["detail_arcsec"] = json!(5.0);
        d["seeing_fwhm_arcsec"] = json!(2.5);
        d["sky"]["moon"] = json!({"phase_angle_deg": 60, "altitude_deg": 30, "separation_deg": 80});
        d["sky"]["k_v"] = json!(0.2);
        d["sky"]["toward_target_v_mag"] = json!(19.1);
        d["target"]["continuum"] = json!({"v_mag_arcsec2": 23.5, "temperature_k": 6000});
        d["calibration"] = json!({"dark_frames": 50, "flat_residue": 0.001, "dithered": true});
        d["choices"] = json!({
            "excess": 0.05, "swamp_factor": 10, "histogram_adu": 500, "histogram_fraction": 0.05,
                "least_frames": 20, "faint_snr": 3,
            "core_fill": 0.9, "star_clips_v_mag": 12, "disk_gb": 100, "live_sub_s": 10,
                "luminance_ratio": 3, "calibration_excess": 0.02,
            "clear_nights_per_year": 40, "hours_per_night": 5,
            "uncertainty": {"sky_mag": 0.15, "target_relative": 0.2, "draws": 20, "seed": 1}
        });
        d["contenders"].as_array_mut().expect("paths").truncate(2);
        for c in d["contenders"].as_array_mut().expect("paths") {
            c["sensor"]["gains"].as_array_mut().expect("rows").truncate(2);
            c["sensor"]["rise_above_ambient_k"] = Value::Null;
        }
    })
}

/// Pointers of all numbers; of a list of rows only the first.
fn numbers(v: &Value, at: &str, out: &mut Vec<String>) {
    match v {
        Value::Number(_) => out.push(at.to_owned()),
        Value::Object(o) => o.iter().for_each(|(k, v)| numbers(v, &format!("{at}/{k}"), out)),
        Value::Array(rows) => {
            rows.iter().take(2).enumerate().for_each(|(i, v)| numbers(v, &format!("{at}/{i}"), out))
        }
        _ => {}
    }
}

/// The ends that a message names: "... give 0.1 to 1000 s".
fn ends(message: &str) -> Option<[f64; 2]> {
    let words: Vec<&str> = message.split("give ").nth(1)?.split(' ').collect();
    let number = |i: usize| words.get(i)?.trim_end_matches([',', ':', ';']).parse::<f64>().ok();
    (words.get(1) == Some(&"to")).then(|| Some([number(0)?, number(2)?])).flatten()
}

/// A field's path from its pointer: `/contenders/1/gain` is `contenders[1].gain`.
fn path_of(pointer: &str) -> String {
    let mut out = String::new();
    for part in pointer.split('/').skip(1) {
        match part.parse::<usize>() {
            Ok(i) => out += &format!("[{i}]"),
            Err(_) if out.is_empty() => out += part,
            Err(_) => out += &format!(".{part}"),
        }
    }
    out
}

#[test]
fn messages_with_a_range_are_read() {
    assert_eq!(ends("-1 is not accepted; give 0.1 to 1000 s"), Some([0.1, 1000.0]));
    assert_eq!(ends("empty; give it a name"), None);
    assert_eq!(
        path_of("/contenders/1/sensor/gains/0/setting"),
        "contenders[1].sensor.gains[0].setting"
    );
    assert_eq!(ends("5 is not accepted; give 0 to 1"), Some([0.0, 1.0]));
}

#[tokio::test]
async fn the_ends_of_every_range_are_answered_with_numbers_throughout() {
    let api = Api::new().await;
    let (_, description) = api.call("GET", "/api/v1/openapi.json", &[], None).await;
    let validator = |name: &str| {
        let schema = json!({"$ref": format!("#/components/schemas/{name}"),
            "components": description["components"]});
        jsonschema::validator_for(&schema).expect("a schema")
    };
    let questions = [
        ("/api/v1/evaluate", validator("Evaluation")),
        ("/api/v1/bench", validator("BenchAnswer")),
        ("/api/v1/decisions", validator("DecisionsAnswer")),
    ];
    let base = full();
    let mut paths = Vec::new();
    numbers(&base, "", &mut paths);
    let (mut asked, mut failures) = (0, Vec::new());
    for at in &paths {
        let with = |v: f64| {
            let mut d = base.clone();
            *d.pointer_mut(at).expect("a number") =
                if v.fract() == 0.0 && v.abs() < 1e15 { json!(v as i64) } else { json!(v) };
            d
        };
        let (status, problem) =
            api.call("POST", "/api/v1/evaluate", &[], Some(&with(-1e300))).await;
        if status != StatusCode::UNPROCESSABLE_ENTITY {
            // A seed, a version, a count: refused by their kind, without a range.
            assert!(status.is_client_error(), "{at}: -1e300 gives {status}");
            continue;
        }
        let messages = problem["errors"]
            .as_array()
            .expect("errors")
            .iter()
            .filter_map(|e| e["message"].as_str());
        let Some(ends) = messages.filter_map(ends).next() else { continue };
        for end in ends {
            for (address, schema) in &questions {
                let (status, answer) = api.call("POST", address, &[], Some(&with(end))).await;
                if status != StatusCode::OK {
                    // What must fit together with another number may refuse an end, but never by
                    // this field's own range.
                    let told = answer["errors"].as_array().map(Vec::as_slice).unwrap_or_default();
                    let own = told.iter().any(|e| {
                        e["path"] == path_of(at)
                            && e["message"].to_string().contains("is not accepted")
                    });
                    if status.is_server_error() || own {
                        failures.push(format!("{at} = {end} at {address}: {status} {told:?}"));
                    }
                    continue;
                }
                asked += 1;
                let wrong: Vec<String> = schema
                    .iter_errors(&answer)
                    .map(|e| format!("{}: {e}", e.instance_path()))
                    .take(2)
                    .collect();
                if !wrong.is_empty() {
                    failures.push(format!("{at} = {end} at {address}: {wrong:?}"));
                }
            }
        }
    }
    assert!(failures.is_empty(), "{} of them:\n{}", failures.len(), failures.join("\n"));
    assert!(asked > 250, "only {asked} were answered");
}
