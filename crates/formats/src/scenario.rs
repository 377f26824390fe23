//! The scenario document as JSON, and its JSON Schema.

use std::collections::BTreeMap;

use salt_lamp_core::campaign::Campaign;
use salt_lamp_core::library::{Camera, Rig, RigFile, ShelfEntry, ShelfThing, Telescope};
use salt_lamp_core::light::Curve;
use salt_lamp_core::look::LookView;
use salt_lamp_core::night::{Overheads, PlanSpec};
use salt_lamp_core::scenario::{
    Calibration, Choices, DARKER_MAG, FieldRange, GLOW, MAX_CONTENDERS, MAX_EXPOSURES, NightLimits,
    Site, Uncertainty, ranges_of,
};
use salt_lamp_core::trial::{Trial, TrialDesign};
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
    #[error("{}", told(.0))]
    Values(Vec<FieldError>),
}

/// Every wrong field with what is accepted there, in one line.
fn told(errors: &[FieldError]) -> String {
    let each: Vec<String> = errors.iter().map(|e| format!("{}: {}", e.path, e.message)).collect();
    each.join("; ")
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

    /// A list that goes on after its last value is taken by the parser for a fault of the text.
    /// Where the text is sound, it is one of the document, and has a place in it.
    fn too_long_of<T: DeserializeOwned>(bytes: &[u8]) -> Option<ReadError> {
        let document: Value = serde_json::from_slice(bytes).ok()?;
        let error = serde_path_to_error::deserialize::<_, T>(document).err()?;
        Some(shape(error, syntax))
    }
}

/// What is wrong with a document, with its path; `otherwise` tells a fault of the text.
fn shape(
    e: serde_path_to_error::Error<serde_json::Error>,
    otherwise: impl FnOnce(&serde_json::Error) -> ReadError,
) -> ReadError {
    let path = e.path().to_string();
    let inner = e.into_inner();
    if !inner.is_data() {
        return otherwise(&inner);
    }
    // Positions help in a file but not in a form: the path says it better.
    let text = inner.to_string();
    let message = text
        .split(" at line ")
        .next()
        .unwrap_or(&text)
        .replace("expected fewer elements in array", "fewer values are accepted here");
    ReadError::Shape(FieldError {
        path: if path == "." { "(document)".into() } else { path },
        message,
    })
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

/// The JSON Schema (draft 2020-12) of the scenario document, with the ranges that the core's own
/// check asks for.
///
/// # Panics
/// Where the shipped example of every field is no scenario; a test reads it.
pub fn scenario_json_schema() -> Value {
    let mut root = json_schema::<Scenario>("salt-lamp-scenario");
    let full: Scenario =
        serde_json::from_str(EVERY_FIELD).expect("the shipped example is a scenario");
    put_ranges(&mut root, "", &ranges_of(&full), "");
    put_shapes(&mut root);
    let mut set = |at: &str, more: Value| put_keys(&mut root, at, more);
    set("/$defs/Contender/properties/exposures", json!({"minItems": 1, "maxItems": MAX_EXPOSURES}));
    set("/properties/contenders", json!({"minItems": 1, "maxItems": MAX_CONTENDERS}));
    for at in [
        "/properties/title",
        "/$defs/Target/properties/name",
        "/$defs/Contender/properties/name",
        "/$defs/Sensor/properties/name",
    ] {
        set(at, json!({"maxLength": 200}));
    }
    set("/$defs/Filter/properties/name", json!({"maxLength": 200}));
    root
}

/// Puts keys into the schema at a pointer, where there is one.
fn put_keys(root: &mut Value, at: &str, more: Value) {
    if let (Some(Value::Object(node)), Value::Object(more)) = (root.pointer_mut(at), more) {
        node.extend(more);
    }
}

/// Says how long lists are, and what stands in pairs, in whichever of these schemas there are.
fn put_shapes(root: &mut Value) {
    let mut set = |at: &str, more: Value| put_keys(root, at, more);
    let pair = [
        json!({"type": "number", "minimum": 100, "maximum": 3000}),
        json!({"type": "number", "minimum": 0, "maximum": 1}),
    ];
    set("/$defs/Curve", json!({"minItems": 2, "maxItems": Curve::MAX_POINTS}));
    set(
        "/$defs/Curve/items",
        json!({"prefixItems": pair, "items": false, "minItems": 2, "maxItems": 2}),
    );
    let by_azimuth = [
        json!({"type": "number", "minimum": 0, "maximum": 360}),
        json!({"type": "number", "minimum": GLOW.0, "maximum": GLOW.1}),
    ];
    let by_azimuth =
        json!({"prefixItems": by_azimuth, "items": false, "minItems": 2, "maxItems": 2});
    set("/$defs/Sky/properties/glow/items", by_azimuth.clone());
    set("/$defs/Site/properties/glow/items", by_azimuth);
    let by_hour = [
        json!({"type": "number", "minimum": 0, "maximum": 24}),
        json!({"type": "number", "minimum": DARKER_MAG.0, "maximum": DARKER_MAG.1}),
    ];
    let by_hour = json!({"prefixItems": by_hour, "items": false, "minItems": 2, "maxItems": 2});
    set("/$defs/Sky/properties/by_hour/items", by_hour.clone());
    set("/$defs/Site/properties/by_hour/items", by_hour);
    for figure in ["value", "sd"] {
        set(&format!("/$defs/KnownFigure/properties/{figure}"), json!({"minimum": 0}));
    }
    let horizon = [
        json!({"type": "number", "minimum": 0, "maximum": 360}),
        json!({"type": "number", "minimum": 0, "maximum": 90}),
    ];
    set(
        "/$defs/Site/properties/horizon_deg/items",
        json!({"prefixItems": horizon, "items": false, "minItems": 2, "maxItems": 2}),
    );
    let share = json!({"type": "number", "minimum": 0, "maximum": 1});
    set("/$defs/Site/properties/lamps", json!({"additionalProperties": share}));
    set("/$defs/Filter/properties/design_focal_ratios", json!({"minItems": 2, "maxItems": 2}));
    set("/$defs/Filter/properties/bands", json!({"minItems": 1, "maxItems": 12}));
    set("/$defs/Sensor/properties/gains", json!({"minItems": 1}));
    set("/$defs/Sensor/properties/binning", json!({"maxItems": 3}));
    set("/$defs/Sensor/properties/cfa", json!({"pattern": "^[RGB]{4}$"}));
}

/// The JSON Schema (draft 2020-12) of a rig's file, with the ranges that the core's own checks ask
/// for.
///
/// # Panics
/// Where the shipped example of every field is no scenario; a test reads it.
pub fn rig_json_schema() -> Value {
    let mut root = json_schema::<RigFile>("salt-lamp-rig");
    let full: Scenario =
        serde_json::from_str(EVERY_FIELD).expect("the shipped example is a scenario");
    put_ranges(&mut root, "", &Rig::ranges(), "");
    let ranges = ranges_of(&full);
    for (schema, prefix) in [
        ("Optics", "contenders[0].optics."),
        ("Sensor", "contenders[1].sensor."),
        ("Sensor", "contenders[0].sensor."),
        ("Filter", "contenders[0].exposures[0].filter."),
        ("Mount", "contenders[0].mount."),
        ("Dither", "contenders[0].dither."),
    ] {
        let own: Vec<FieldRange> =
            ranges.iter().filter(|r| r.path.starts_with(prefix)).cloned().collect();
        put_ranges(&mut root, &format!("/$defs/{schema}"), &own, prefix);
    }
    put_ranges(&mut root, "/$defs/Site", &Site::ranges(), "site.");
    put_priced(&mut root, &full);
    put_shapes(&mut root);
    root
}

/// Puts the ranges of what a shelf knows beside the parts themselves: prices, and how a camera is
/// usually run.
fn put_priced(root: &mut Value, full: &Scenario) {
    let c = &full.contenders[0];
    let camera = ShelfThing::Camera(Camera {
        usual_gain: c.gain,
        usual_temperature_c: c.sensor_temperature_c,
        price: Some(0.0),
        sensor: c.sensor.clone(),
    });
    let telescope = ShelfThing::Telescope(Telescope { price: Some(0.0), optics: c.optics.clone() });
    for (schema, thing) in [("Camera", camera), ("Telescope", telescope)] {
        let entry = ShelfEntry { name: String::new(), sources: BTreeMap::new(), thing };
        put_ranges(root, &format!("/$defs/{schema}"), &entry.ranges(), "thing.item.");
    }
}

/// Puts the ranges that the core's own checks ask for into the schemas of an OpenAPI document, as
/// minimum and maximum: forms and sliders read them there.
///
/// # Panics
/// Where the shipped example of every field is no scenario; a test reads it.
pub fn publish_ranges(openapi: &mut Value) {
    let full: Scenario =
        serde_json::from_str(EVERY_FIELD).expect("the shipped example is a scenario");
    let of = |schema: &str| format!("/components/schemas/{schema}");
    put_ranges(openapi, &of("Scenario"), &ranges_of(&full), "");
    put_ranges(openapi, &of("LookView"), &LookView::ranges(), "view.");
    put_ranges(openapi, &of("PlanSpec"), &PlanSpec::ranges(), "plan.");
    put_ranges(openapi, &of("FixedBlock"), &PlanSpec::ranges(), "plan.goal.blocks[0].");
    put_ranges(openapi, &of("Campaign"), &Campaign::ranges(full.clone()), "");
    put_ranges(openapi, &of("Trial"), &Trial::ranges(full), "");
    put_ranges(openapi, &of("NightLimits"), &NightLimits::ranges(), "limits.");
    put_ranges(openapi, &of("Site"), &Site::ranges(), "site.");
    put_ranges(openapi, &of("Rig"), &Rig::ranges(), "rig.");
    put_defaults(openapi, &of("LookView"), &json!(LookView::default()));
    put_defaults(openapi, &of("NightLimits"), &json!(NightLimits::default()));
    put_defaults(openapi, &of("Overheads"), &json!(Overheads::default()));
    put_defaults(openapi, &of("Choices"), &json!(Choices::default()));
    put_defaults(openapi, &of("Uncertainty"), &json!(Uncertainty::default()));
    put_defaults(openapi, &of("TrialDesign"), &json!(TrialDesign::default()));
    put_defaults(openapi, &of("Calibration"), &json!(Calibration::default()));
}

/// Puts what is left out into the schema at a pointer: the plain values of a document that says
/// nothing.
fn put_defaults(root: &mut Value, schema: &str, usual: &Value) {
    for (key, value) in
        usual.as_object().into_iter().flatten().filter(|(_, v)| !v.is_object() && !v.is_array())
    {
        if let Some(Value::Object(field)) = root.pointer_mut(&format!("{schema}/properties/{key}"))
        {
            field.insert("default".into(), value.clone());
        }
    }
}

/// Puts ranges into the schema that stands at a pointer; their paths begin with `prefix`, which the
/// schema's own do not.
fn put_ranges(root: &mut Value, schema: &str, ranges: &[FieldRange], prefix: &str) {
    for FieldRange { path, low, high } in ranges {
        let path = path.strip_prefix(prefix).unwrap_or(path);
        let Some(Value::Object(field)) =
            pointer_to(root, schema, path).and_then(|at| root.pointer_mut(&at))
        else {
            continue;
        };
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

/// Where in a schema the field of a path is described: "contenders[0].gain" is
/// "/$defs/Contender/properties/gain".
fn pointer_to(root: &Value, schema: &str, path: &str) -> Option<String> {
    let mut at = schema.to_owned();
    for part in path.split(['.', '[']) {
        // A reference leads on to what it names; of alternatives the one that is a reference.
        while let Some(target) = {
            let node = root.pointer(&at)?;
            let own = node
                .get("$ref")
                .or_else(|| node.get("oneOf")?.as_array()?.iter().find_map(|n| n.get("$ref")));
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
    let defs: serde_json::Map<String, Value> =
        named.into_iter().map(|(name, schema)| (name, json!(schema))).collect();
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
#[path = "scenario_tests.rs"]
mod tests;
