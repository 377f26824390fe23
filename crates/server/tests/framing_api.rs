//! Framing through the API: how a sensor is laid over objects, how many panels it takes where it
//! stands, the way back from a header, and what is kept with a comparison and a campaign.

use crate::help::{Api, demo};
use axum::http::StatusCode;
use serde_json::{Value, json};

fn rig() -> Value {
    json!({"field": {"name": "a rig", "focal_length_mm": 400.0, "pixel_um": 3.76,
        "columns": 6248, "rows": 4176}})
}

async fn ask(api: &Api, path: &str, q: &Value) -> Value {
    let (status, answer) = api.call("POST", path, &[], Some(q)).await;
    assert_eq!(status, StatusCode::OK, "{path}: {answer}");
    answer
}

fn number(v: &Value) -> f64 {
    v.as_f64().unwrap_or_else(|| panic!("{v} is no number"))
}

/// Heart and Soul lie two and a half degrees apart, south-east of each other (places of the
/// catalogue): a sensor along that line holds both, one that lies east and west does not.
#[tokio::test]
async fn two_nebulae_are_framed_at_once() {
    let api = Api::new().await;
    let mut q = json!({"names": ["Heart Nebula", "Soul Nebula"], "rig": rig()});
    q["rig"]["field"]["focal_length_mm"] = json!(250.0);
    let both = ask(&api, "/api/v1/framing/together", &q).await;
    let placed = &both["placed"];
    let second = &both["objects"][1];
    assert!(number(&second["east_arcmin"]) > 60.0 && number(&second["north_arcmin"]) < -30.0);
    // The middle between them, and the long side along the line: over 90 degrees from its angle.
    let line = number(&second["east_arcmin"]).atan2(number(&second["north_arcmin"])).to_degrees();
    let off = (number(&placed["position_angle_deg"]) - (line - 90.0)).rem_euclid(180.0);
    assert!(off.min(180.0 - off) < 15.0, "{placed} {line}");
    assert!((number(&placed["east_arcmin"]) - number(&second["east_arcmin"]) / 2.0).abs() < 15.0);
    let frame = |placed: &Value| {
        json!({"at": both["at"], "objects": both["objects"], "placed": placed,
            "rigs": [q["rig"], rig()]})
    };
    let there = ask(&api, "/api/v1/framing", &frame(placed)).await;
    assert_eq!(
        there[0]["text"].as_str().map(|t| t.starts_with("One panel holds all 2")),
        Some(true)
    );
    // At 400 mm it is more than a field along the line, and more than one across it.
    assert_eq!(there[1]["panels"].as_array().map(Vec::len), Some(4), "{}", there[1]["text"]);
    // A frame that is kept already stands where it stands.
    let mut kept = q.clone();
    kept["look"] = there[0]["plan"]["at"].clone();
    let again = ask(&api, "/api/v1/framing/together", &kept).await["placed"].clone();
    for key in ["east_arcmin", "north_arcmin", "position_angle_deg"] {
        assert!((number(&again[key]) - number(&placed[key])).abs() < 0.01, "{again} {placed}");
    }
    let away = ask(&api, "/api/v1/framing", &frame(&json!({}))).await;
    assert!(number(&away[0]["plan"]["panels_wide"]) > 1.0, "{away}");
    // As many panels as are wanted of the first rig, whose middles lie one field less the overlap
    // apart.
    let mut chosen = frame(placed);
    (chosen["panels"], chosen["overlap"]) = (json!({"wide": 2, "high": 1}), json!(0.25));
    let mosaic = ask(&api, "/api/v1/framing", &chosen).await;
    let panels = mosaic[0]["panels"].as_array().expect("panels");
    let apart = number(&panels[1]["right_arcmin"]) - number(&panels[0]["right_arcmin"]);
    assert!((apart - 0.75 * number(&mosaic[0]["width_arcmin"])).abs() < 0.01);
    for (names, path) in [
        (json!([]), "names"),
        (json!(["Heart Nebula", "no such thing"]), "names[1]"),
        (json!(["Heart Nebula", "M 42"]), "names[1]"),
    ] {
        let q = json!({"names": names, "rig": rig()});
        assert_eq!(api.refused("/api/v1/framing/together", &q).await, [path]);
    }
    for (change, path) in [
        (json!({"overlap": 0.7}), "overlap"),
        (json!({"panels": {"wide": 0, "high": 1}}), "panels"),
        (json!({"placed": {"east_arcmin": 1e6}}), "placed.east_arcmin"),
        (json!({"at": {"ra_deg": 10.0, "dec_deg": 99.0}}), "at.dec_deg"),
        (json!({"rigs": [{}]}), "rigs[0]"),
        (
            json!({"rigs": [{"field": {"name": "", "focal_length_mm": 0, "pixel_um": 3,
            "columns": 100, "rows": 100}}]}),
            "rigs[0].field.focal_length_mm",
        ),
        (
            json!({"objects": [{"name": "", "major_arcmin": -1, "minor_arcmin": 1}]}),
            "objects[0].major_arcmin",
        ),
    ] {
        let mut q = frame(placed);
        for (key, value) in change.as_object().expect("an object") {
            q[key] = value.clone();
        }
        assert_eq!(api.refused("/api/v1/framing", &q).await, [path], "{change}");
    }
}

#[tokio::test]
async fn a_header_is_the_way_back_to_last_night_s_framing() {
    let api = Api::new().await;
    let text = "NAXIS1 = 6248\nNAXIS2 = 4176\nXPIXSZ = 3.76\nFOCALLEN = 495\n\
        OBJCTRA = '06 17 13'\nOBJCTDEC = '+22 31 05'\nPOSANGLE = 20.5\nOBJECT = 'Jellyfish'\n";
    let back = ask(&api, "/api/v1/framing/header", &json!({"text": text})).await;
    // The nebula by the name that people give it; the frame's middle lies 8 arcmin east of it.
    assert_eq!(back["object"], "IC 443");
    assert!((number(&back["placed"]["east_arcmin"]) - 8.2).abs() < 0.3, "{back}");
    assert!((number(&back["placed"]["position_angle_deg"]) - 20.5).abs() < 1e-9);
    assert_eq!(back["header"]["rig"]["focal_length_mm"], 495.0);
    // Without a name it is the largest that stands in the field.
    let nameless = text.replace("Jellyfish", "light 0012");
    let back = ask(&api, "/api/v1/framing/header", &json!({"text": nameless})).await;
    assert_eq!(back["object"], "IC 443");
    let nowhere = ask(&api, "/api/v1/framing/header", &json!({"text": "EXPTIME = 3"})).await;
    assert!(nowhere["object"].is_null() && nowhere["header"]["exposure_s"] == 3.0);
    let wrong = json!({"text": "no header at all"});
    assert_eq!(api.refused("/api/v1/framing/header", &wrong).await, ["text"]);
}

#[tokio::test]
async fn a_frame_is_kept_with_the_comparison_and_begins_the_campaign() {
    let api = Api::new().await;
    let mut doc = demo();
    doc["frame"] = json!({"at": {"ra_deg": 94.5, "dec_deg": 22.7, "position_angle_deg": 33.0},
        "rig": rig()["field"], "panels_wide": 2});
    let (status, stored) = api.call("POST", "/api/v1/scenarios", &[], Some(&doc)).await;
    assert_eq!(status, StatusCode::CREATED, "{stored}");
    let at = format!("/api/v1/scenarios/{}", stored["id"].as_str().expect("an id"));
    let kept = api.call("GET", &at, &[], None).await.1;
    assert_eq!(kept["scenario"]["frame"]["panels_wide"], 2);
    assert_eq!(kept["scenario"]["frame"]["overlap"], 0.15);
    let begin = json!({"scenario": doc, "contender": 0, "site": "larch-lane"});
    let (status, campaign) = api.call("POST", "/api/v1/campaigns/begin", &[], Some(&begin)).await;
    assert_eq!(status, StatusCode::CREATED, "{campaign}");
    let framing = &campaign["campaign"]["framing"];
    assert_eq!((number(&framing["ra_deg"]), number(&framing["position_angle_deg"])), (94.5, 33.0));
    for (key, value, path) in [
        ("panels_wide", json!(0), "frame.panels_wide"),
        ("overlap", json!(0.9), "frame.overlap"),
        ("at", json!({"ra_deg": 94.5, "dec_deg": -91.0}), "frame.at.dec_deg"),
    ] {
        let mut wrong = doc.clone();
        wrong["frame"][key] = value;
        assert_eq!(api.refused("/api/v1/evaluate", &wrong).await, [path]);
    }
}

#[tokio::test]
async fn figures_and_milky_way_lie_around_a_place() {
    let api = Api::new().await;
    let path = "/api/v1/figures?ra_deg=86&dec_deg=3&radius_deg=15";
    let (status, around) = api.call("GET", path, &[], None).await;
    assert_eq!(status, StatusCode::OK, "{around}");
    let named =
        |name| around["figures"].as_array().expect("figures").iter().any(|f| f["name"] == name);
    assert!(named("Orion") && !named("Cygnus"));
    let far = api.call("GET", "/api/v1/figures?ra_deg=86&dec_deg=3&radius_deg=61", &[], None).await;
    assert_eq!(far.0, StatusCode::UNPROCESSABLE_ENTITY);
}
