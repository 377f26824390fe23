//! Questions to the core that store nothing.

use axum::Json;
use axum::extract::State;
use axum::http::header;
use axum::response::IntoResponse;
use salt_lamp_core::decide::{BandwidthAnswer, DecisionsAnswer, RankedFilter, bandwidth as core_bandwidth, decide, rank_filters};
use salt_lamp_core::light::Quantity;
use salt_lamp_core::path::{SpectrumView, spectrum_view};
use salt_lamp_core::report::{BenchAnswer, Matrix, bench as core_bench, matrix};
use salt_lamp_core::{Checked, Evaluation, Scenario, evaluate as core_evaluate};
use salt_lamp_formats::table::{TableFormat, write_table};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use serde::Deserialize;
use utoipa::{IntoParams, ToSchema};

use super::shelf;
use crate::extract::{Params, ScenarioBody};
use crate::looks::Pair;
use crate::{App, Problem};

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(evaluate))
        .routes(routes!(bench))
        .routes(routes!(decisions))
        .routes(routes!(compare))
        .routes(routes!(spectrum))
        .routes(routes!(bandwidth))
        .routes(routes!(filters))
}

/// Evaluates a scenario: the same answer as `salt-lamp evaluate FILE.json`.
#[utoipa::path(post, operation_id = "compute_evaluate", path = "/evaluate", request_body = Scenario,
    responses((status = 200, body = Evaluation), (status = 400, body = Problem), (status = 422, body = Problem)))]
async fn evaluate(State(app): State<App>, ScenarioBody(scenario): ScenarioBody) -> Json<Evaluation> {
    Json(core_evaluate(&scenario, &app.tables))
}

/// Everything the bench shows of a scenario: the evaluation, its words and its curves.
#[utoipa::path(post, operation_id = "compute_bench", path = "/bench", request_body = Scenario,
    responses((status = 200, body = BenchAnswer), (status = 400, body = Problem), (status = 422, body = Problem)))]
async fn bench(State(app): State<App>, ScenarioBody(scenario): ScenarioBody) -> Json<BenchAnswer> {
    Json(core_bench(&scenario, &app.tables))
}

/// Everything that is decided about a scenario: subs, gain, time, differences, ranges, what would turn the verdict, value.
#[utoipa::path(post, operation_id = "compute_decisions", path = "/decisions", request_body = Scenario,
    responses((status = 200, body = DecisionsAnswer), (status = 400, body = Problem), (status = 422, body = Problem)))]
async fn decisions(State(app): State<App>, ScenarioBody(s): ScenarioBody) -> Result<Json<DecisionsAnswer>, Problem> {
    let gear = shelf::gear(&app).await?;
    Ok(Json(decide(&s, &gear.filters, &app.tables)))
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
#[utoipa::path(post, operation_id = "compute_compare", path = "/compare", request_body = Scenario, params(Wanted),
    responses((status = 200, body = Matrix), (status = 422, body = Problem)))]
async fn compare(
    State(app): State<App>,
    Params(wanted): Params<Wanted>,
    ScenarioBody(s): ScenarioBody,
) -> Result<axum::response::Response, Problem> {
    let gear = shelf::gear(&app).await?;
    let decisions = decide(&s, &gear.filters, &app.tables);
    let table = matrix(&s, &core_evaluate(&s, &app.tables), &decisions);
    let text = |kind, mime: &'static str| ([(header::CONTENT_TYPE, mime)], write_table(&table, kind)).into_response();
    Ok(match wanted.format {
        TableKind::Json => Json(&table).into_response(),
        TableKind::Csv => text(TableFormat::Csv, "text/csv; charset=utf-8"),
        TableKind::Ecsv => text(TableFormat::Ecsv, "text/plain; charset=utf-8"),
        TableKind::Markdown => text(TableFormat::Markdown, "text/markdown; charset=utf-8"),
    })
}

/// Which light path, and by which quantity it is judged.
#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct Which {
    /// Index of the contender, from zero.
    #[serde(default)]
    contender: usize,
    /// What is judged; what the target shines by where nothing is given.
    #[serde(default)]
    quantity: Option<Quantity>,
}

impl Which {
    /// What is judged, of those among which a chart can choose.
    fn judged(&self, s: &Checked, among: impl Fn(Quantity) -> bool) -> Quantity {
        let target = &s.scenario().target;
        self.quantity.or_else(|| target.first_quantity(|q| target.emits(q) && among(q))).unwrap_or(Quantity::Ha)
    }
}

fn no_contender(which: &Which) -> Problem {
    Problem::field("contender", format!("there is no contender {}; count from 0", which.contender))
}

/// The spectrum of one light path: target, sky, filter in its cone, sensor.
#[utoipa::path(post, operation_id = "compute_spectrum", path = "/charts/spectrum", request_body = Scenario, params(Which),
    responses((status = 200, body = SpectrumView), (status = 422, body = Problem)))]
async fn spectrum(
    State(app): State<App>,
    Params(which): Params<Which>,
    ScenarioBody(s): ScenarioBody,
) -> Result<Json<SpectrumView>, Problem> {
    spectrum_view(&s, which.contender, &app.tables).map(Json).ok_or_else(|| no_contender(&which))
}

/// The best band for a line on one rig: width, centre and focal ratio under this sky.
#[utoipa::path(post, operation_id = "compute_bandwidth", path = "/charts/bandwidth", request_body = Scenario, params(Which),
    responses((status = 200, body = BandwidthAnswer), (status = 422, body = Problem)))]
async fn bandwidth(
    State(app): State<App>,
    Params(which): Params<Which>,
    ScenarioBody(s): ScenarioBody,
) -> Result<Json<BandwidthAnswer>, Problem> {
    if which.contender >= s.scenario().contenders.len() {
        return Err(no_contender(&which));
    }
    let answer = core_bandwidth(&s, which.contender, which.judged(&s, |q| q != Quantity::Continuum), &app.tables, &Pair);
    answer
        .map(Json)
        .ok_or_else(|| Problem::field("quantity", "the target does not emit this line; choose one that it emits, not the continuum"))
}

/// The shelf's filters that fit the rig, and none, by the time each needs for the goal.
#[utoipa::path(post, operation_id = "compute_filters", path = "/charts/filters", request_body = Scenario, params(Which),
    responses((status = 200, body = Vec<RankedFilter>), (status = 422, body = Problem)))]
async fn filters(
    State(app): State<App>,
    Params(which): Params<Which>,
    ScenarioBody(s): ScenarioBody,
) -> Result<Json<Vec<RankedFilter>>, Problem> {
    if which.contender >= s.scenario().contenders.len() {
        return Err(no_contender(&which));
    }
    let gear = shelf::gear(&app).await?;
    Ok(Json(rank_filters(&s, which.contender, which.judged(&s, |_| true), &gear.filters, &app.tables)))
}
