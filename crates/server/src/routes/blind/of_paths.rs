//! Blind looks at the light paths of a scenario.

use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use salt_lamp_core::Scenario;
use salt_lamp_core::decide::figures_differ;
use salt_lamp_core::light::Quantity;
use salt_lamp_core::look::{
    Choice, Crop, Figures, LookView, Revealed, figure, figure_name, orders, reveal,
};
use serde::{Deserialize, Serialize};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use super::{Begun, Hidden, MOST_ROUNDS, began, chance};
use crate::http::extract::Body;
use crate::http::looks::{crops, resized};
use crate::routes::look::{LookQuestion, accepted, counted};
use crate::{App, Problem};

pub(super) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(begin))
}

/// What the eye is asked.
pub(super) const ASKS: &str = "Which is cleaner?";

/// Light paths in a hidden order.
#[derive(Serialize, Deserialize)]
pub(super) struct HiddenPaths {
    scenario: Scenario,
    view: LookView,
    pub(super) orders: Vec<Vec<usize>>,
}

/// Begins a blind look: the paths are shuffled anew in each round.
#[utoipa::path(post, operation_id = "blind_begin", path = "/look/blind",
    request_body = LookQuestion,
    responses((status = 201, body = Begun), (status = 422, body = Problem)))]
async fn begin(
    State(app): State<App>,
    Body(q): Body<LookQuestion>,
) -> Result<(StatusCode, Json<Begun>), Problem> {
    let (scenario, view) = accepted(&app, q)?;
    let pictures = scenario.scenario().contenders.len();
    if pictures < 2 {
        return Err(Problem::field(
            "scenario.contenders",
            "a blind look needs at least two light paths",
        ));
    }
    let orders = orders(pictures, MOST_ROUNDS, chance());
    let scenario = scenario.scenario().clone();
    let title = scenario.title.clone();
    began(&app, &title, &Hidden::Paths(Box::new(HiddenPaths { scenario, view, orders }))).await
}

impl HiddenPaths {
    pub(super) fn names(&self) -> Vec<String> {
        self.scenario.contenders.iter().map(|c| c.name.clone()).collect()
    }

    /// The pictures of a round in their hidden order, all of one size.
    pub(super) async fn pictures(self, app: &App, round: usize) -> Result<Vec<Crop>, Problem> {
        // A new seed a round: the same noise would be recognised.
        let view = LookView { seed: self.view.seed.wrapping_add(round as u32 * 101), ..self.view };
        let (scenario, view) =
            accepted(app, LookQuestion { scenario: Some(self.scenario), look: None, view })?;
        let look = counted(app, scenario, view).await?;
        let order = self.orders.into_iter().nth(round).unwrap_or_default();
        app.heavy(move |_, threads| {
            let all = crops(&look, &view, threads);
            let size = all.iter().map(|c| c.size).max().unwrap_or([1, 1]);
            order.iter().map(|&i| resized(&all[i], size)).collect()
        })
        .await
    }

    /// What the figures say of what the eye chose.
    pub(super) async fn revealed(
        self,
        app: &App,
        choices: Vec<Choice>,
    ) -> Result<Revealed, Problem> {
        let orders = self.orders;
        let (scenario, view) = accepted(
            app,
            LookQuestion { scenario: Some(self.scenario), look: None, view: self.view },
        )?;
        let work = app.heavy(move |app, _| {
            let (_, study) = app.studies.study(scenario, &app.tables)?;
            let answers = &study.evaluation.contenders;
            let recorded: Vec<Quantity> = view
                .palette
                .quantities(view.single)
                .into_iter()
                .filter(|q| answers.iter().any(|c| c.quantities.contains_key(q)))
                .collect();
            let snr: Vec<f64> = answers.iter().map(|c| figure(&c.quantities, &recorded)).collect();
            let figures = Figures {
                snr: &snr,
                differ: &figures_differ(&study, &recorded),
                judged_by: &figure_name(&study.scenario().target, &recorded),
            };
            Ok::<_, Problem>(reveal(&orders, &choices, &figures))
        });
        work.await?
    }
}
