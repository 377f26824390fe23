//! The bench: a scenario evaluated, decided and compared. Nothing is stored; what one question
//! worked out the next finds.

use axum::Json;
use axum::body::Bytes;
use axum::extract::State;
use axum::http::header;
use axum::response::{IntoResponse, Response};
use salt_lamp_core::decide::{DecisionsAnswer, GainDecision, SubDecision};
use salt_lamp_core::report::{BenchAnswer, Matrix, matrix};
use salt_lamp_core::{Evaluation, Scenario, evaluate as core_evaluate};
use salt_lamp_formats::table::{TableFormat, write_table};
use serde::Deserialize;
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use super::shelf;
use crate::http::cache::written;
use crate::http::extract::{Params, ScenarioBody};
use crate::{App, Problem};

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(evaluate))
        .routes(routes!(bench))
        .routes(routes!(decisions))
        .routes(routes!(subs))
        .routes(routes!(gains))
        .routes(routes!(compare))
}

/// JSON that is written already.
fn json(bytes: Bytes) -> Response {
    ([(header::CONTENT_TYPE, "application/json")], bytes).into_response()
}

/// Evaluates a scenario: the same answer as `salt-lamp evaluate FILE.json`.
#[utoipa::path(post, operation_id = "compute_evaluate", path = "/evaluate", request_body = Scenario,
    responses((status = 200, body = Evaluation), (status = 400, body = Problem),
    (status = 422, body = Problem)))]
async fn evaluate(
    State(app): State<App>,
    ScenarioBody(scenario): ScenarioBody,
) -> Result<Json<Evaluation>, Problem> {
    app.heavy(move |app, _| core_evaluate(&scenario, &app.tables)).await.map(Json)
}

/// Everything the bench shows of a scenario: the evaluation, its words and its curves.
#[utoipa::path(post, operation_id = "compute_bench", path = "/bench", request_body = Scenario,
    responses((status = 200, body = BenchAnswer), (status = 400, body = Problem),
    (status = 422, body = Problem)))]
async fn bench(
    State(app): State<App>,
    ScenarioBody(scenario): ScenarioBody,
) -> Result<Response, Problem> {
    app.heavy(move |app, _| app.studies.bench(scenario, &app.tables)).await?.map(json)
}

/// Everything that is decided about a scenario: subs, gain, time, differences, ranges, what would
/// turn the verdict, value.
#[utoipa::path(post, operation_id = "compute_decisions", path = "/decisions",
    request_body = Scenario,
    responses((status = 200, body = DecisionsAnswer), (status = 400, body = Problem),
    (status = 422, body = Problem)))]
async fn decisions(
    State(app): State<App>,
    ScenarioBody(s): ScenarioBody,
) -> Result<Response, Problem> {
    let gear = shelf::gear(&app).await?;
    app.heavy(move |app, _| app.studies.decisions(s, &gear, &app.tables))
        .await?
        .map(|(.., bytes)| json(bytes))
}

/// The sub of every exposure, path by path: the part of the decisions that the bench has worked out
/// already.
#[utoipa::path(post, operation_id = "compute_subs", path = "/decisions/subs",
    request_body = Scenario,
    responses((status = 200, body = Vec<Vec<SubDecision>>), (status = 400, body = Problem),
    (status = 422, body = Problem)))]
async fn subs(State(app): State<App>, ScenarioBody(s): ScenarioBody) -> Result<Response, Problem> {
    app.heavy(move |app, _| {
        app.studies.study(s, &app.tables).map(|(_, study)| written(&study.subs))
    })
    .await?
    .map(json)
}

/// The gain of every path: the part of the decisions that the bench has worked out already.
#[utoipa::path(post, operation_id = "compute_gains", path = "/decisions/gains",
    request_body = Scenario,
    responses((status = 200, body = Vec<GainDecision>), (status = 400, body = Problem),
    (status = 422, body = Problem)))]
async fn gains(State(app): State<App>, ScenarioBody(s): ScenarioBody) -> Result<Response, Problem> {
    app.heavy(move |app, _| {
        app.studies.study(s, &app.tables).map(|(_, study)| written(&study.gains))
    })
    .await?
    .map(json)
}

/// In which format a table is wanted.
#[derive(Clone, Copy, Default, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
enum TableKind {
    #[default]
    Json,
    Csv,
    Ecsv,
    Markdown,
}

#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct Wanted {
    /// `json` (the default), `csv`, `ecsv` (with units, for astropy) or `markdown`.
    #[serde(default)]
    #[param(inline)]
    format: TableKind,
}

/// Every path by every quantity as one table, with ratios to the first path.
#[utoipa::path(post, operation_id = "compute_compare", path = "/compare", request_body = Scenario,
    params(Wanted),
    responses((status = 200, body = Matrix), (status = 422, body = Problem)))]
async fn compare(
    State(app): State<App>,
    Params(wanted): Params<Wanted>,
    ScenarioBody(s): ScenarioBody,
) -> Result<Response, Problem> {
    let gear = shelf::gear(&app).await?;
    let (study, decisions, _) =
        app.heavy(move |app, _| app.studies.decisions(s, &gear, &app.tables)).await??;
    let table = matrix(&study, &decisions);
    let text = |kind, mime: &'static str| {
        ([(header::CONTENT_TYPE, mime)], write_table(&table, kind)).into_response()
    };
    Ok(match wanted.format {
        TableKind::Json => Json(&table).into_response(),
        TableKind::Csv => text(TableFormat::Csv, "text/csv; charset=utf-8"),
        TableKind::Ecsv => text(TableFormat::Ecsv, "text/plain; charset=utf-8"),
        TableKind::Markdown => text(TableFormat::Markdown, "text/markdown; charset=utf-8"),
    })
}
