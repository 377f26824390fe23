//! Tests of [`super`].

use super::*;
use utoipa::PartialSchema;

const DEMO: &[u8] = include_bytes!("../../../data/demo/larch-lane-ic-443.json");

fn changed(change: impl FnOnce(&mut Value)) -> ReadError {
    let mut doc: Value = serde_json::from_slice(DEMO).unwrap();
    change(&mut doc);
    read_scenario(&serde_json::to_vec(&doc).unwrap()).unwrap_err()
}

fn paths(e: &ReadError) -> Vec<String> {
    e.fields().into_iter().map(|f| f.path).collect()
}

#[test]
fn a_scenario_survives_reading_and_writing() {
    let read = read_scenario(DEMO).unwrap();
    let again = read_scenario(&serde_json::to_vec(read.scenario()).unwrap()).unwrap();
    assert_eq!(read, again);
}

#[test]
fn numbers_survive_to_the_last_bit() {
    for text in ["11.200000000000001", "0.1", "5e-324", "0.30000000000000004"] {
        let number: f64 = read_json(text.as_bytes()).unwrap();
        assert_eq!(number, text.parse::<f64>().unwrap(), "{text}");
    }
}

#[test]
fn wrong_fields_are_named() {
    let e = changed(|d| d["contenders"][0]["optics"]["apertur_mm"] = json!(100));
    assert!(matches!(e, ReadError::Shape(_)));
    assert_eq!(paths(&e), ["contenders[0].optics.apertur_mm"]);
    let e = changed(|d| d["contenders"][1]["optics"]["aperture_mm"] = json!(-100));
    assert!(paths(&e).contains(&"contenders[1].optics.aperture_mm".to_owned()), "{e}");
    let e = changed(|d| d["contenders"][0]["exposures"][0]["share"] = json!(0.2));
    assert_eq!(paths(&e), ["contenders[0].exposures"]);
    let e = changed(|d| d["contenders"][0]["sensor"]["qe"] = json!([]));
    assert_eq!(paths(&e), ["contenders[0].sensor.qe"]);
    let e = changed(|d| d["contenders"][0]["sensor"]["qe"][2] = json!([500, 0.8, 0.1]));
    assert_eq!(paths(&e), ["contenders[0].sensor.qe[2]"], "{e}");
    let e = changed(|d| d["contenders"][0]["sensor"]["qe"][2] = json!([500]));
    assert_eq!(paths(&e), ["contenders[0].sensor.qe[2]"], "{e}");
    let e = changed(|d| d["sky"]["lamps"] = json!({"candle": 1.0}));
    assert!(paths(&e)[0].starts_with("sky.lamps"), "{e}");
    let e = changed(|d| d["detail_arcsec"] = json!("five"));
    assert_eq!(paths(&e), ["detail_arcsec"]);
    let e = changed(|d| {
        d["contenders"][0]["exposures"][0].as_object_mut().unwrap().remove("filter");
    });
    assert_eq!(
        paths(&e),
        ["contenders[0].exposures[0].filter"].map(|_| "contenders[0].exposures[0]"),
        "{e}"
    );
}

#[test]
fn all_wrong_values_are_listed_at_once() {
    let e = changed(|d| {
        d["sky"]["target_altitude_deg"] = json!(-5);
        d["contenders"][0]["gain"] = json!(-1);
        d["contenders"][2]["exposures"][0]["sub_s"] = json!(0);
    });
    assert_eq!(
        paths(&e),
        ["sky.target_altitude_deg", "contenders[0].gain", "contenders[2].exposures[0].sub_s"]
    );
}

#[test]
fn what_is_no_json_is_a_syntax_error_with_its_place() {
    let text = String::from_utf8(DEMO.to_vec()).unwrap().replacen("5.0", "NaN", 1);
    assert!(matches!(read_scenario(text.as_bytes()), Err(ReadError::Syntax { line: 1, .. })));
    assert!(matches!(
        read_scenario("[".repeat(2_000_000).as_bytes()),
        Err(ReadError::Syntax { .. } | ReadError::Shape(_))
    ));
    assert!(matches!(read_scenario(b""), Err(ReadError::Syntax { .. })));
    assert!(matches!(read_scenario(&[DEMO, b"x"].concat()), Err(ReadError::Syntax { .. })));
}

/// Pointers of everything in a schema that is a number, outside the rows of curves.
fn numbers(v: &Value, at: &str, out: &mut Vec<String>) {
    let Value::Object(map) = v else { return };
    let is = |t: &Value| matches!(t.as_str(), Some("number" | "integer"));
    if map
        .get("type")
        .is_some_and(|t| is(t) || t.as_array().is_some_and(|list| list.iter().any(is)))
    {
        out.push(at.to_owned());
    }
    map.iter()
        .filter(|(k, _)| *k != "prefixItems")
        .for_each(|(k, v)| numbers(v, &format!("{at}/{k}"), out));
}

#[test]
fn every_number_of_a_schema_has_its_range_and_every_schema_its_name() {
    let schema = scenario_json_schema();
    assert_eq!(schema["$id"], "urn:salt-lamp:schema:salt-lamp-scenario:1");
    let plan = crate::plan::plan_json_schema();
    assert_eq!(plan["$id"], "urn:salt-lamp:schema:salt-lamp-plan:1");
    let mut open = Vec::new();
    let rig = rig_json_schema();
    assert_eq!(rig["$id"], "urn:salt-lamp:schema:salt-lamp-rig:1");
    for (name, doc) in [("scenario", &schema), ("plan", &plan), ("rig", &rig)] {
        let mut all = Vec::new();
        numbers(doc, "", &mut all);
        assert!(all.len() > 10, "{name}: {}", all.len());
        open.extend(
            all.iter()
                .filter(|at| {
                    let node = doc.pointer(at).expect("a node");
                    node.get("minimum").is_none()
                        || (name == "scenario" && node.get("maximum").is_none())
                })
                .map(|at| format!("{name}{at}")),
        );
    }
    assert!(open.is_empty(), "without a range: {open:#?}");
}

#[test]
fn the_api_s_description_says_ranges_and_defaults() {
    let mut doc = json!({"components": {"schemas": {}}});
    let mut named: Vec<(String, RefOr<Schema>)> = Vec::new();
    Scenario::schemas(&mut named);
    named.push(("Scenario".into(), Scenario::schema()));
    named.push(("NightLimits".into(), NightLimits::schema()));
    named.push(("Overheads".into(), Overheads::schema()));
    PlanSpec::schemas(&mut named);
    named.push(("PlanSpec".into(), PlanSpec::schema()));
    Campaign::schemas(&mut named);
    named.push(("Campaign".into(), Campaign::schema()));
    for (name, schema) in named {
        doc["components"]["schemas"][name] = json!(schema);
    }
    publish_ranges(&mut doc);
    let of = |schema: &str, field: &str| {
        doc["components"]["schemas"][schema]["properties"][field].clone()
    };
    let aperture = of("Optics", "aperture_mm");
    assert_eq!((&aperture["minimum"], &aperture["maximum"]), (&json!(5), &json!(20_000)));
    let sun = of("NightLimits", "sun_below_deg");
    assert_eq!(
        (&sun["minimum"], &sun["maximum"], &sun["default"]),
        (&json!(-18), &json!(-5), &json!(-18.0))
    );
    let flip = of("Overheads", "flip_s");
    assert_eq!(
        (&flip["maximum"], &flip["default"]),
        (&json!(3600), &json!(Overheads::default().flip_s))
    );
    assert_eq!(of("Optics", "throughput")["default"], json!(0.9));
    let (minutes, subs, share) =
        (of("FixedBlock", "minutes"), of("Shot", "subs"), of("Campaign", "clear_share"));
    assert_eq!((&minutes["minimum"], &minutes["maximum"]), (&json!(1), &json!(1440)));
    assert_eq!(
        (&subs["maximum"], &share["minimum"], &share["maximum"]),
        (&json!(100_000), &json!(0.01), &json!(1))
    );
}

#[test]
fn the_schema_and_the_reader_draw_the_same_borders() {
    let validator = jsonschema::validator_for(&scenario_json_schema()).unwrap();
    let full: Value = serde_json::from_str(EVERY_FIELD).unwrap();
    assert!(
        validator.is_valid(&full),
        "{:?}",
        validator.iter_errors(&full).map(|e| e.to_string()).collect::<Vec<_>>()
    );
    let scenario: Scenario = serde_json::from_str(EVERY_FIELD).unwrap();
    let ranges = ranges_of(&scenario.clone().check().unwrap().scenario().clone());
    assert!(ranges.len() > 100, "{}", ranges.len());
    for r in ranges.iter().filter(|r| !r.path.contains("lamps") && !r.path.contains("focal_ratios"))
    {
        let at = format!("/{}", r.path.replace(['.', '['], "/").replace(']', ""));
        let with = |x: f64| {
            let mut d = full.clone();
            *d.pointer_mut(&at).unwrap_or_else(|| panic!("{at}")) = number(x);
            validator.is_valid(&d)
        };
        assert!(with(r.low) && with(r.high), "{}: the ends are accepted", r.path);
        let step = 1.0 + 0.01 * (r.high - r.low).abs();
        assert!(!with(r.low - step) && !with(r.high + step), "{}: {} to {}", r.path, r.low, r.high);
    }
    let mut three = full.clone();
    three["contenders"][0]["sensor"]["qe"][0] = json!([400, 0.5, 0.1]);
    assert!(!validator.is_valid(&three));
}

#[test]
fn the_schema_accepts_the_demo_and_refuses_what_the_reader_refuses() {
    let validator = jsonschema::validator_for(&scenario_json_schema()).unwrap();
    let mut doc: Value = serde_json::from_slice(DEMO).unwrap();
    assert!(
        validator.is_valid(&doc),
        "{:?}",
        validator.iter_errors(&doc).map(|e| e.to_string()).collect::<Vec<_>>()
    );
    doc["sky"]["colour"] = json!("red");
    assert!(!validator.is_valid(&doc), "an unknown key");
    let mut doc: Value = serde_json::from_slice(DEMO).unwrap();
    doc["contenders"][0].as_object_mut().unwrap().remove("gain");
    assert!(!validator.is_valid(&doc), "a missing key");
}
