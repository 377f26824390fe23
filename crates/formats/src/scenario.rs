//! The scenario document as JSON, and its JSON Schema.

use salt_lamp_core::light::Curve;
use salt_lamp_core::look::LookView;
use salt_lamp_core::night::{Overheads, PlanSpec};
use salt_lamp_core::scenario::{
    Calibration, Choices, FieldRange, MAX_CONTENDERS, MAX_EXPOSURES, NightLimits, Site, Uncertainty, ranges_of,
};
use salt_lamp_core::{Checked, FieldError, Scenario};
use serde::de::DeserializeOwned;
use serde_json::{Value, json};
use thiserror::Error;
use utoipa::ToSchema;
use utoipa::openapi::{RefOr, Schema};

/// Why bytes are no scenario. Every case names the place.
#[derive(Debug, Error, PartialEq)]
pub enum ReadError {
    /// Not JSON at all, or cut short.
    #[error("not JSON: {message} (line {line}, column {column})")]
    Syntax {
        /// What the parser met.
        message: String,
        /// Line, from one.
        line: usize,
        /// Column, from one.
        column: usize,
    },
    /// JSON, but a key or a type is wrong.
    #[error("{}: {}", .0.path, .0.message)]
    Shape(FieldError),
    /// A scenario, but values are not accepted.
    #[error("{}", .0.iter().map(|e| format!("{}: {}", e.path, e.message)).collect::<Vec<_>>().join("; "))]
    Values(Vec<FieldError>),
}

impl ReadError {
    /// The fields that are wrong; empty where the text is no JSON.
    pub fn fields(&self) -> Vec<FieldError> {
        match self {
            Self::Syntax { .. } => Vec::new(),
            Self::Shape(field) => vec![field.clone()],
            Self::Values(fields) => fields.clone(),
        }
    }
}

/// Reads any JSON document; an error carries the path of the wrong field.
///
/// # Errors
/// [`ReadError::Syntax`] or [`ReadError::Shape`].
pub fn read_json<T: DeserializeOwned>(bytes: &[u8]) -> Result<T, ReadError> {
    let mut json = serde_json::Deserializer::from_slice(bytes);
    let value = serde_path_to_error::deserialize(&mut json)
        .map_err(|e| shape(e, |inner| too_long_of::<T>(bytes).unwrap_or_else(|| syntax(inner))))?;
    json.end().map_err(|e| syntax(&e))?;
    return Ok(value);

    /// A list that goes on after its last value is taken by the parser for a fault of the text. Where the text is sound, it is one
    /// of the document, and has a place in it.
    fn too_long_of<T: DeserializeOwned>(bytes: &[u8]) -> Option<ReadError> {
        let document: Value = serde_json::from_slice(bytes).ok()?;
        let error = serde_path_to_error::deserialize::<_, T>(document).err()?;
        Some(shape(error, syntax))
    }
}

/// What is wrong with a document, with its path; `otherwise` tells a fault of the text.
fn shape(e: serde_path_to_error::Error<serde_json::Error>, otherwise: impl FnOnce(&serde_json::Error) -> ReadError) -> ReadError {
    let path = e.path().to_string();
    let inner = e.into_inner();
    if !inner.is_data() {
        return otherwise(&inner);
    }
    // Positions help in a file but not in a form: the path says it better.
    let text = inner.to_string();
    let message =
        text.split(" at line ").next().unwrap_or(&text).replace("expected fewer elements in array", "fewer values are accepted here");
    ReadError::Shape(FieldError { path: if path == "." { "(document)".into() } else { path }, message })
}

fn syntax(e: &serde_json::Error) -> ReadError {
    let text = e.to_string();
    let message = text.split(" at line ").next().unwrap_or(&text).to_owned();
    ReadError::Syntax { message, line: e.line(), column: e.column() }
}

/// Reads and checks a scenario.
///
/// # Errors
/// See [`ReadError`]; all values that are not accepted are listed, not only the first.
pub fn read_scenario(bytes: &[u8]) -> Result<Checked, ReadError> {
    read_json::<Scenario>(bytes)?.check().map_err(ReadError::Values)
}

/// A scenario with every field that one may have.
const EVERY_FIELD: &str = include_str!("../../../data/every-field.json");

/// The JSON Schema (draft 2020-12) of the scenario document, with the ranges that the core's own check asks for.
///
/// # Panics
/// Where the shipped example of every field is no scenario; a test reads it.
pub fn scenario_json_schema() -> Value {
    let mut root = json_schema::<Scenario>("salt-lamp-scenario");
    let full: Scenario = serde_json::from_str(EVERY_FIELD).expect("the shipped example is a scenario");
    put_ranges(&mut root, "", &ranges_of(&full), "");
    let mut set = |at: &str, more: Value| {
        if let (Some(Value::Object(node)), Value::Object(more)) = (root.pointer_mut(at), more) {
            node.extend(more);
        }
    };
    let pair = [json!({"type": "number", "minimum": 100, "maximum": 3000}), json!({"type": "number", "minimum": 0, "maximum": 1})];
    set("/$defs/Curve", json!({"minItems": 2, "maxItems": Curve::MAX_POINTS}));
    set("/$defs/Curve/items", json!({"prefixItems": pair, "items": false, "minItems": 2, "maxItems": 2}));
    set("/$defs/Filter/properties/design_focal_ratios", json!({"minItems": 2, "maxItems": 2}));
    set("/$defs/Filter/properties/bands", json!({"minItems": 1, "maxItems": 12}));
    set("/$defs/Sensor/properties/gains", json!({"minItems": 1}));
    set("/$defs/Sensor/properties/cfa", json!({"pattern": "^[RGB]{4}$"}));
    set("/$defs/Contender/properties/exposures", json!({"minItems": 1, "maxItems": MAX_EXPOSURES}));
    set("/properties/contenders", json!({"minItems": 1, "maxItems": MAX_CONTENDERS}));
    for at in ["/properties/title", "/$defs/Target/properties/name", "/$defs/Contender/properties/name", "/$defs/Sensor/properties/name"] {
        set(at, json!({"maxLength": 200}));
    }
    set("/$defs/Filter/properties/name", json!({"maxLength": 200}));
    root
}

/// Puts the ranges that the core's own checks ask for into the schemas of an OpenAPI document, as minimum and maximum: forms and
/// sliders read them there.
///
/// # Panics
/// Where the shipped example of every field is no scenario; a test reads it.
pub fn publish_ranges(openapi: &mut Value) {
    let full: Scenario = serde_json::from_str(EVERY_FIELD).expect("the shipped example is a scenario");
    let of = |schema: &str| format!("/components/schemas/{schema}");
    put_ranges(openapi, &of("Scenario"), &ranges_of(&full), "");
    put_ranges(openapi, &of("LookView"), &LookView::ranges(), "view.");
    put_ranges(openapi, &of("PlanSpec"), &PlanSpec::ranges(), "plan.");
    put_ranges(openapi, &of("NightLimits"), &NightLimits::ranges(), "limits.");
    put_ranges(openapi, &of("Site"), &Site::ranges(), "site.");
    put_defaults(openapi, &of("LookView"), &json!(LookView::default()));
    put_defaults(openapi, &of("NightLimits"), &json!(NightLimits::default()));
    put_defaults(openapi, &of("Overheads"), &json!(Overheads::default()));
    put_defaults(openapi, &of("Choices"), &json!(Choices::default()));
    put_defaults(openapi, &of("Uncertainty"), &json!(Uncertainty::default()));
    put_defaults(openapi, &of("Calibration"), &json!(Calibration::default()));
}

/// Puts what is left out into the schema at a pointer: the plain values of a document that says nothing.
fn put_defaults(root: &mut Value, schema: &str, usual: &Value) {
    for (key, value) in usual.as_object().into_iter().flatten().filter(|(_, v)| !v.is_object() && !v.is_array()) {
        if let Some(Value::Object(field)) = root.pointer_mut(&format!("{schema}/properties/{key}")) {
            field.insert("default".into(), value.clone());
        }
    }
}

/// Puts ranges into the schema that stands at a pointer; their paths begin with `prefix`, which the schema's own do not.
fn put_ranges(root: &mut Value, schema: &str, ranges: &[FieldRange], prefix: &str) {
    for FieldRange { path, low, high } in ranges {
        let path = path.strip_prefix(prefix).unwrap_or(path);
        let Some(Value::Object(field)) = pointer_to(root, schema, path).and_then(|at| root.pointer_mut(&at)) else { continue };
        // Of a list's rows the first says it.
        if !field.contains_key("maximum") {
            field.insert("minimum".into(), number(*low));
            field.insert("maximum".into(), number(*high));
        }
    }
}

/// A number as JSON writes it best: whole where it is.
fn number(x: f64) -> Value {
    if x.fract() == 0.0 && x.abs() < 1e15 { json!(x as i64) } else { json!(x) }
}

/// Where in a schema the field of a path is described: "contenders[0].gain" is "/$defs/Contender/properties/gain".
fn pointer_to(root: &Value, schema: &str, path: &str) -> Option<String> {
    let mut at = schema.to_owned();
    for part in path.split(['.', '[']) {
        // A reference leads on to what it names; of alternatives the one that is a reference.
        while let Some(target) = {
            let node = root.pointer(&at)?;
            let own = node.get("$ref").or_else(|| node.get("oneOf")?.as_array()?.iter().find_map(|n| n.get("$ref")));
            own.and_then(Value::as_str).map(|r| r.trim_start_matches('#').to_owned())
        } {
            at = target;
        }
        let named = format!("{at}/properties/{part}");
        at = if part.ends_with(']') {
            format!("{at}/items")
        } else if root.pointer(&named).is_some() {
            named
        } else {
            format!("{at}/additionalProperties")
        };
    }
    Some(at)
}

/// The JSON Schema (draft 2020-12) of a document.
pub(crate) fn json_schema<T: ToSchema>(title: &str) -> Value {
    let mut named: Vec<(String, RefOr<Schema>)> = Vec::new();
    T::schemas(&mut named);
    let defs: serde_json::Map<String, Value> = named.into_iter().map(|(name, schema)| (name, json!(schema))).collect();
    let mut root = json!(T::schema());
    if let Some(map) = root.as_object_mut() {
        map.insert("$schema".into(), "https://json-schema.org/draft/2020-12/schema".into());
        map.insert("$id".into(), format!("urn:salt-lamp:schema:{title}:1").into());
        map.insert("title".into(), title.into());
        map.insert("$defs".into(), Value::Object(defs));
    }
    local_refs(&mut root);
    root
}

/// References into an OpenAPI document become references within this schema.
fn local_refs(value: &mut Value) {
    match value {
        Value::Object(map) => {
            if let Some(Value::String(target)) = map.get_mut("$ref") {
                *target = target.replace("#/components/schemas/", "#/$defs/");
            }
            map.values_mut().for_each(local_refs);
        }
        Value::Array(items) => items.iter_mut().for_each(local_refs),
        _ => {}
    }
}

#[cfg(test)]
mod tests {
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
        assert_eq!(paths(&e), ["contenders[0].exposures[0].filter"].map(|_| "contenders[0].exposures[0]"), "{e}");
    }

    #[test]
    fn all_wrong_values_are_listed_at_once() {
        let e = changed(|d| {
            d["sky"]["target_altitude_deg"] = json!(-5);
            d["contenders"][0]["gain"] = json!(-1);
            d["contenders"][2]["exposures"][0]["sub_s"] = json!(0);
        });
        assert_eq!(paths(&e), ["sky.target_altitude_deg", "contenders[0].gain", "contenders[2].exposures[0].sub_s"]);
    }

    #[test]
    fn what_is_no_json_is_a_syntax_error_with_its_place() {
        let text = String::from_utf8(DEMO.to_vec()).unwrap().replacen("5.0", "NaN", 1);
        assert!(matches!(read_scenario(text.as_bytes()), Err(ReadError::Syntax { line: 1, .. })));
        assert!(matches!(read_scenario("[".repeat(2_000_000).as_bytes()), Err(ReadError::Syntax { .. } | ReadError::Shape(_))));
        assert!(matches!(read_scenario(b""), Err(ReadError::Syntax { .. })));
        assert!(matches!(read_scenario(&[DEMO, b"x"].concat()), Err(ReadError::Syntax { .. })));
    }

    /// Pointers of everything in a schema that is a number, outside the rows of curves.
    fn numbers(v: &Value, at: &str, out: &mut Vec<String>) {
        let Value::Object(map) = v else { return };
        let is = |t: &Value| matches!(t.as_str(), Some("number" | "integer"));
        if map.get("type").is_some_and(|t| is(t) || t.as_array().is_some_and(|list| list.iter().any(is))) {
            out.push(at.to_owned());
        }
        map.iter().filter(|(k, _)| *k != "prefixItems").for_each(|(k, v)| numbers(v, &format!("{at}/{k}"), out));
    }

    #[test]
    fn every_number_of_a_schema_has_its_range_and_every_schema_its_name() {
        let schema = scenario_json_schema();
        assert_eq!(schema["$id"], "urn:salt-lamp:schema:salt-lamp-scenario:1");
        let plan = crate::plan::plan_json_schema();
        assert_eq!(plan["$id"], "urn:salt-lamp:schema:salt-lamp-plan:1");
        let mut open = Vec::new();
        for (name, doc) in [("scenario", &schema), ("plan", &plan)] {
            let mut all = Vec::new();
            numbers(doc, "", &mut all);
            assert!(all.len() > 10, "{name}: {}", all.len());
            open.extend(
                all.iter()
                    .filter(|at| {
                        let node = doc.pointer(at).expect("a node");
                        node.get("minimum").is_none() || (name == "scenario" && node.get("maximum").is_none())
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
        for (name, schema) in named {
            doc["components"]["schemas"][name] = json!(schema);
        }
        publish_ranges(&mut doc);
        let of = |schema: &str, field: &str| doc["components"]["schemas"][schema]["properties"][field].clone();
        let aperture = of("Optics", "aperture_mm");
        assert_eq!((&aperture["minimum"], &aperture["maximum"]), (&json!(5), &json!(20_000)));
        let sun = of("NightLimits", "sun_below_deg");
        assert_eq!((&sun["minimum"], &sun["maximum"], &sun["default"]), (&json!(-18), &json!(-5), &json!(-18.0)));
        let flip = of("Overheads", "flip_s");
        assert_eq!((&flip["maximum"], &flip["default"]), (&json!(3600), &json!(Overheads::default().flip_s)));
        assert_eq!(of("Optics", "throughput")["default"], json!(0.9));
    }

    #[test]
    fn the_schema_and_the_reader_draw_the_same_borders() {
        let validator = jsonschema::validator_for(&scenario_json_schema()).unwrap();
        let full: Value = serde_json::from_str(EVERY_FIELD).unwrap();
        assert!(validator.is_valid(&full), "{:?}", validator.iter_errors(&full).map(|e| e.to_string()).collect::<Vec<_>>());
        let scenario: Scenario = serde_json::from_str(EVERY_FIELD).unwrap();
        let ranges = ranges_of(&scenario.clone().check().unwrap().scenario().clone());
        assert!(ranges.len() > 100, "{}", ranges.len());
        for r in ranges.iter().filter(|r| !r.path.contains("lamps") && !r.path.contains("focal_ratios")) {
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
        assert!(validator.is_valid(&doc), "{:?}", validator.iter_errors(&doc).map(|e| e.to_string()).collect::<Vec<_>>());
        doc["sky"]["colour"] = json!("red");
        assert!(!validator.is_valid(&doc), "an unknown key");
        let mut doc: Value = serde_json::from_slice(DEMO).unwrap();
        doc["contenders"][0].as_object_mut().unwrap().remove("gain");
        assert!(!validator.is_valid(&doc), "a missing key");
    }
}
