//! The catalogue, what a user says its objects emit, and how they sit on a sensor.

use axum::Json;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use salt_lamp_core::FieldError;
use salt_lamp_core::library::{CatalogueAnswer, CatalogueObject, CatalogueQuery, Framing, framing};
use salt_lamp_core::scenario::{Optics, Sensor, Target, TargetKind, check_rig};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use crate::http::cache::json;
use crate::http::extract::{Body, Params};
use crate::{App, Problem};

/// Most objects in an answer.
const MOST: usize = 60;
/// Most rigs whose fields are asked for at once.
const MOST_RIGS: usize = 100;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(search)).routes(routes!(constellations)).routes(routes!(read, save, forget)).routes(routes!(frame))
}

/// What to look for.
#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct Search {
    /// Part of a name.
    #[serde(default)]
    text: String,
    /// Only this kind.
    kind: Option<TargetKind>,
    /// Only this constellation, three letters.
    constellation: Option<String>,
    /// At least this long, arcmin.
    at_least_arcmin: Option<f64>,
    /// At most this long, arcmin.
    at_most_arcmin: Option<f64>,
}

/// Objects by name, kind, constellation and size; at most 60, best matches first.
#[utoipa::path(get, operation_id = "targets_search", path = "/targets", params(Search), responses((status = 200, body = CatalogueAnswer)))]
async fn search(State(app): State<App>, Params(s): Params<Search>) -> Json<CatalogueAnswer> {
    let Search { text, kind, constellation, at_least_arcmin, at_most_arcmin } = s;
    Json(app.catalogue.search(&CatalogueQuery { text, kind, constellation, at_least_arcmin, at_most_arcmin }, MOST))
}

/// The constellations that occur in the catalogue.
#[utoipa::path(get, operation_id = "targets_constellations", path = "/constellations", responses((status = 200, body = Vec<String>)))]
async fn constellations(State(app): State<App>) -> Json<Vec<String>> {
    Json(app.catalogue.constellations())
}

/// An object with what it emits.
#[derive(Serialize, ToSchema)]
struct TargetAnswer {
    /// The object.
    object: CatalogueObject,
    /// What the user says it emits; null for the preset of its kind.
    emission: Option<Target>,
    /// Why what the user said cannot be read; null where it can, or where nothing was said.
    damaged: Option<String>,
}

fn missing(name: &str) -> Problem {
    Problem::not_found(format!("The catalogue holds no {name}."))
}

/// One object.
#[utoipa::path(get, operation_id = "targets_read", path = "/targets/{name}", params(("name" = String, Path)),
    responses((status = 200, body = TargetAnswer), (status = 404, body = Problem)))]
async fn read(State(app): State<App>, Path(name): Path<String>) -> Result<Json<TargetAnswer>, Problem> {
    let object = app.catalogue.get(&name).cloned().ok_or_else(|| missing(&name))?;
    let stored = app.store.target_emission(&object.name).await?;
    let (emission, damaged) = match stored.map(|text| serde_json::from_str(&text)) {
        None => (None, None),
        Some(Ok(emission)) => (Some(emission), None),
        Some(Err(e)) => {
            tracing::error!("what {} emits cannot be read: {e}", object.name);
            (
                None,
                Some(format!("What you kept for {} cannot be read ({e}); the typical values of its kind stand here instead.", object.name)),
            )
        }
    };
    Ok(Json(TargetAnswer { object, emission, damaged }))
}

/// Keeps what an object emits.
#[utoipa::path(put, operation_id = "targets_save", path = "/targets/{name}", params(("name" = String, Path)), request_body = Target,
    responses((status = 204), (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn save(State(app): State<App>, Path(name): Path<String>, Body(emission): Body<Target>) -> Result<StatusCode, Problem> {
    let object = app.catalogue.get(&name).cloned().ok_or_else(|| missing(&name))?;
    let emission = emission.check().map_err(Problem::fields)?;
    let text = json(&emission)?;
    app.store.set_target_emission(&object.name, Some(&text)).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Back to the preset of its kind.
#[utoipa::path(delete, operation_id = "targets_forget", path = "/targets/{name}", params(("name" = String, Path)), responses((status = 204), (status = 404, body = Problem)))]
async fn forget(State(app): State<App>, Path(name): Path<String>) -> Result<StatusCode, Problem> {
    let object = app.catalogue.get(&name).cloned().ok_or_else(|| missing(&name))?;
    app.store.set_target_emission(&object.name, None).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Rigs whose fields are wanted.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct FrameQuestion {
    /// Longer axis of the object, arcmin.
    major_arcmin: f64,
    /// Shorter axis, arcmin.
    minor_arcmin: f64,
    /// Telescopes with cameras.
    rigs: Vec<FrameRig>,
}

/// A telescope with a camera.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct FrameRig {
    /// The telescope.
    optics: Optics,
    /// The camera.
    sensor: Sensor,
}

/// How an object sits on each rig's sensor.
#[utoipa::path(post, operation_id = "targets_frame", path = "/framing", request_body = FrameQuestion, responses((status = 200, body = Vec<Framing>), (status = 422, body = Problem)))]
async fn frame(Body(q): Body<FrameQuestion>) -> Result<Json<Vec<Framing>>, Problem> {
    for (path, size) in [("major_arcmin", q.major_arcmin), ("minor_arcmin", q.minor_arcmin)] {
        if !(0.0..=10_800.0).contains(&size) {
            return Err(Problem::field(path, "give 0 to 10800 arcmin"));
        }
    }
    if q.rigs.len() > MOST_RIGS {
        return Err(Problem::field("rigs", format!("{} rigs; give at most {MOST_RIGS}", q.rigs.len())));
    }
    let wrong: Vec<FieldError> =
        q.rigs.iter().enumerate().flat_map(|(i, r)| check_rig(&format!("rigs[{i}]"), &r.optics, &r.sensor)).collect();
    if !wrong.is_empty() {
        return Err(Problem::fields(wrong));
    }
    Ok(Json(q.rigs.iter().map(|r| framing(&r.optics, &r.sensor, q.major_arcmin, q.minor_arcmin)).collect()))
}
