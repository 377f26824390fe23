//! Stored scenarios.

use axum::Json;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use axum::response::IntoResponse;
use salt_lamp_core::Scenario;
use salt_lamp_store::{RigRow, Saved, ScenarioRow, StoredScenario};
use serde::Deserialize;
use utoipa::IntoParams;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use crate::http::extract::{Params, Revision, ScenarioBody};
use crate::http::revised::tagged;
use crate::{App, Problem};

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(rigs))
        .routes(routes!(list, add))
        .routes(routes!(read, save, delete))
        .routes(routes!(duplicate))
        .routes(routes!(restore))
        .routes(routes!(touch))
}

/// The light paths of all scenarios, for questions that need a rig.
#[utoipa::path(get, operation_id = "rigs_list", path = "/rigs",
    responses((status = 200, body = Vec<RigRow>)))]
async fn rigs(State(app): State<App>) -> Result<Json<Vec<RigRow>>, Problem> {
    Ok(Json(app.store.rigs().await?))
}

/// All scenarios, last changed first.
#[utoipa::path(get, operation_id = "scenarios_list", path = "/scenarios",
    responses((status = 200, body = Vec<ScenarioRow>)))]
async fn list(State(app): State<App>) -> Result<Json<Vec<ScenarioRow>>, Problem> {
    Ok(Json(app.store.scenarios().await?))
}

/// How a new scenario is stored.
#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct Adding {
    /// It is only begun: it stands in no list until it is touched or saved, and is gone after a
    /// day.
    #[serde(default)]
    untouched: bool,
}

/// Stores a new scenario.
#[utoipa::path(post, operation_id = "scenarios_add", path = "/scenarios", request_body = Scenario,
    params(Adding),
    responses((status = 201, body = StoredScenario), (status = 422, body = Problem)))]
async fn add(
    State(app): State<App>,
    Params(adding): Params<Adding>,
    ScenarioBody(scenario): ScenarioBody,
) -> Result<impl IntoResponse, Problem> {
    let scenario = scenario.scenario();
    let stored = if adding.untouched {
        app.store.begin_scenario(scenario).await?
    } else {
        app.store.add_scenario(scenario).await?
    };
    Ok((StatusCode::CREATED, tagged(stored)))
}

/// Says that a scenario which was only begun is worked on: it is kept, and stands in the list.
#[utoipa::path(post, operation_id = "scenarios_touch", path = "/scenarios/{id}/touch",
    params(("id" = String, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
async fn touch(State(app): State<App>, Path(id): Path<String>) -> Result<StatusCode, Problem> {
    app.store.touch_scenario(&id).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// One scenario, its revision as the ETag.
#[utoipa::path(get, operation_id = "scenarios_read", path = "/scenarios/{id}",
    params(("id" = String, Path)),
    responses((status = 200, body = StoredScenario), (status = 404, body = Problem)))]
async fn read(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<impl IntoResponse, Problem> {
    Ok(tagged(app.store.scenario(&id).await?))
}

/// Saves over the revision named in If-Match. A 412 says that somebody saved first, and what.
#[utoipa::path(put, operation_id = "scenarios_save", path = "/scenarios/{id}",
    request_body = Scenario,
    params(("id" = String, Path), ("If-Match" = String, Header, description = "The revision this \
        save started from, in double quotes")),
    responses((status = 200, body = StoredScenario), (status = 404, body = Problem),
    (status = 412, body = Problem),
        (status = 422, body = Problem), (status = 428, body = Problem)))]
async fn save(
    State(app): State<App>,
    Path(id): Path<String>,
    Revision(revision): Revision,
    ScenarioBody(scenario): ScenarioBody,
) -> Result<impl IntoResponse, Problem> {
    match app.store.save_scenario(&id, revision, scenario.scenario()).await? {
        Saved::Stored(stored) => Ok(tagged(*stored)),
        Saved::Conflict(current) => Err(Problem::conflict(&current)),
    }
}

/// Deletes a scenario; `restore` brings it back.
#[utoipa::path(delete, operation_id = "scenarios_delete", path = "/scenarios/{id}",
    params(("id" = String, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
async fn delete(State(app): State<App>, Path(id): Path<String>) -> Result<StatusCode, Problem> {
    app.store.delete_scenario(&id).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Stores a copy.
#[utoipa::path(post, operation_id = "scenarios_duplicate", path = "/scenarios/{id}/duplicate",
    params(("id" = String, Path)),
    responses((status = 201, body = StoredScenario), (status = 404, body = Problem)))]
async fn duplicate(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<impl IntoResponse, Problem> {
    Ok((StatusCode::CREATED, tagged(app.store.duplicate_scenario(&id).await?)))
}

/// Brings a deleted scenario back.
#[utoipa::path(post, operation_id = "scenarios_restore", path = "/scenarios/{id}/restore",
    params(("id" = String, Path)),
    responses((status = 200, body = StoredScenario), (status = 404, body = Problem)))]
async fn restore(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<impl IntoResponse, Problem> {
    Ok(tagged(app.store.restore_scenario(&id).await?))
}
