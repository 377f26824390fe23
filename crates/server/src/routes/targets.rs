//! The catalogue, and what a user says its objects emit.

use axum::Json;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use salt_lamp_core::library::{CatalogueAnswer, CatalogueObject, CatalogueQuery};
use salt_lamp_core::scenario::{Target, TargetKind};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use crate::http::cache::json;
use crate::http::extract::{Body, Params};
use crate::{App, Problem};

/// Most objects in an answer.
const MOST: usize = 60;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(search))
        .routes(routes!(constellations))
        .routes(routes!(read, save, forget))
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
#[utoipa::path(get, operation_id = "targets_search", path = "/targets", params(Search),
    responses((status = 200, body = CatalogueAnswer)))]
async fn search(State(app): State<App>, Params(s): Params<Search>) -> Json<CatalogueAnswer> {
    let Search { text, kind, constellation, at_least_arcmin, at_most_arcmin } = s;
    Json(app.catalogue.search(
        &CatalogueQuery { text, kind, constellation, at_least_arcmin, at_most_arcmin },
        MOST,
    ))
}

/// The constellations that occur in the catalogue.
#[utoipa::path(get, operation_id = "targets_constellations", path = "/constellations",
    responses((status = 200, body = Vec<String>)))]
async fn constellations(State(app): State<App>) -> Json<Vec<String>> {
    Json(app.catalogue.constellations())
}

/// An object with what it emits.
#[derive(Serialize, ToSchema)]
struct TargetAnswer {
    /// The object.
    object: CatalogueObject,
    /// What the user says it emits; null for what the catalogue knows.
    emission: Option<Target>,
    /// What the catalogue knows of it.
    catalogued: Target,
    /// Where that comes from, in a sentence.
    catalogued_words: String,
    /// Whether something is known of the object itself, and not only of its kind.
    brightness_known: bool,
    /// Why what the user said cannot be read; null where it can, or where nothing was said.
    damaged: Option<String>,
}

fn missing(name: &str) -> Problem {
    Problem::not_found(format!("The catalogue holds no {name}."))
}

/// One object.
#[utoipa::path(get, operation_id = "targets_read", path = "/targets/{name}",
    params(("name" = String, Path)),
    responses((status = 200, body = TargetAnswer), (status = 404, body = Problem)))]
async fn read(
    State(app): State<App>,
    Path(name): Path<String>,
) -> Result<Json<TargetAnswer>, Problem> {
    let object = app.catalogue.get(&name).cloned().ok_or_else(|| missing(&name))?;
    let stored = app.store.target_emission(&object.name).await?;
    let (emission, damaged) = match stored.map(|text| serde_json::from_str(&text)) {
        None => (None, None),
        Some(Ok(emission)) => (Some(emission), None),
        Some(Err(e)) => {
            tracing::error!("what {} emits cannot be read: {e}", object.name);
            (
                None,
                Some(format!(
                    "What you kept for {} cannot be read ({e}); what the catalogue knows \
                        stands here instead.",
                    object.name
                )),
            )
        }
    };
    Ok(Json(TargetAnswer {
        catalogued: object.target(),
        catalogued_words: object.emission_words(),
        brightness_known: object.emission.is_its_own(),
        object,
        emission,
        damaged,
    }))
}

/// Keeps what an object emits.
#[utoipa::path(put, operation_id = "targets_save", path = "/targets/{name}",
    params(("name" = String, Path)), request_body = Target,
    responses((status = 204), (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn save(
    State(app): State<App>,
    Path(name): Path<String>,
    Body(emission): Body<Target>,
) -> Result<StatusCode, Problem> {
    let object = app.catalogue.get(&name).cloned().ok_or_else(|| missing(&name))?;
    let emission = emission.check().map_err(Problem::fields)?;
    let text = json(&emission)?;
    app.store.set_target_emission(&object.name, Some(&text)).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Back to what the catalogue knows.
#[utoipa::path(delete, operation_id = "targets_forget", path = "/targets/{name}",
    params(("name" = String, Path)), responses((status = 204), (status = 404, body = Problem)))]
async fn forget(State(app): State<App>, Path(name): Path<String>) -> Result<StatusCode, Problem> {
    let object = app.catalogue.get(&name).cloned().ok_or_else(|| missing(&name))?;
    app.store.set_target_emission(&object.name, None).await?;
    Ok(StatusCode::NO_CONTENT)
}
