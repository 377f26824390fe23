//! Questions to the core that store nothing.

use axum::Json;
use axum::extract::State;
use salt_lamp_core::compare::{BenchAnswer, bench as core_bench};
use salt_lamp_core::{Evaluation, Scenario, evaluate as core_evaluate};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use crate::extract::ScenarioBody;
use crate::{App, Problem};

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(evaluate)).routes(routes!(bench))
}

/// Evaluates a scenario: the same answer as `salt-lamp evaluate FILE.json`.
#[utoipa::path(post, path = "/evaluate", request_body = Scenario,
    responses((status = 200, body = Evaluation), (status = 400, body = Problem), (status = 422, body = Problem)))]
async fn evaluate(State(app): State<App>, ScenarioBody(scenario): ScenarioBody) -> Json<Evaluation> {
    Json(core_evaluate(&scenario, &app.tables))
}

/// Everything the bench shows of a scenario: the evaluation, its words and its curves.
#[utoipa::path(post, path = "/bench", request_body = Scenario,
    responses((status = 200, body = BenchAnswer), (status = 400, body = Problem), (status = 422, body = Problem)))]
async fn bench(State(app): State<App>, ScenarioBody(scenario): ScenarioBody) -> Json<BenchAnswer> {
    Json(core_bench(&scenario, &app.tables))
}
