//! Charts of one light path that no decision needs: its spectrum, the best band, the filters of the
//! shelf in their order.

use axum::Json;
use axum::extract::State;
use salt_lamp_core::decide::{
    BandwidthAnswer, RankedFilter, bandwidth as core_bandwidth, rank_filters,
};
use salt_lamp_core::light::Quantity;
use salt_lamp_core::path::{SpectrumView, spectrum_view};
use salt_lamp_core::{Checked, Scenario};
use serde::Deserialize;
use utoipa::IntoParams;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use super::shelf;
use crate::http::extract::{Params, ScenarioBody};
use crate::{App, Problem};

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(spectrum))
        .routes(routes!(bandwidth))
        .routes(routes!(filters))
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
        self.quantity
            .or_else(|| target.first_quantity(|q| target.emits(q) && among(q)))
            .unwrap_or(Quantity::Ha)
    }
}

fn no_contender(which: &Which) -> Problem {
    Problem::field("contender", format!("there is no contender {}; count from 0", which.contender))
}

/// The spectrum of one light path: target, sky, filter in its cone, sensor.
#[utoipa::path(post, operation_id = "compute_spectrum", path = "/charts/spectrum",
    request_body = Scenario, params(Which),
    responses((status = 200, body = SpectrumView), (status = 422, body = Problem)))]
async fn spectrum(
    State(app): State<App>,
    Params(which): Params<Which>,
    ScenarioBody(s): ScenarioBody,
) -> Result<Json<SpectrumView>, Problem> {
    let contender = which.contender;
    let view = app.heavy(move |app, _| spectrum_view(&s, contender, &app.tables)).await?;
    view.map(Json).ok_or_else(|| no_contender(&which))
}

/// The best band for a line on one rig: width, centre and focal ratio under this sky.
#[utoipa::path(post, operation_id = "compute_bandwidth", path = "/charts/bandwidth",
    request_body = Scenario, params(Which),
    responses((status = 200, body = BandwidthAnswer), (status = 422, body = Problem)))]
async fn bandwidth(
    State(app): State<App>,
    Params(which): Params<Which>,
    ScenarioBody(s): ScenarioBody,
) -> Result<Json<BandwidthAnswer>, Problem> {
    if which.contender >= s.scenario().contenders.len() {
        return Err(no_contender(&which));
    }
    let answer = app.heavy(move |app, threads| {
        core_bandwidth(
            &s,
            which.contender,
            which.judged(&s, |q| q != Quantity::Continuum),
            &app.tables,
            threads,
        )
    });
    let answer = answer.await?;
    answer.map(Json).ok_or_else(|| {
        Problem::field(
            "quantity",
            "the target does not emit this line; choose one that it emits, not the continuum",
        )
    })
}

/// The shelf's filters that fit the rig, and none, by the time each needs for the goal.
#[utoipa::path(post, operation_id = "compute_filters", path = "/charts/filters",
    request_body = Scenario, params(Which),
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
    let ranked = app.heavy(move |app, _| {
        rank_filters(&s, which.contender, which.judged(&s, |_| true), &gear.filters, &app.tables)
    });
    ranked.await.map(Json)
}
