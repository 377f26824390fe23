//! The look: pictures and measurements, and files.
//!
//! A scenario is posted once and named by an id afterwards, so that a slider sends only how the
//! look is wanted.

mod files;
mod pictures;

use std::sync::Arc;

use axum::Json;
use axum::body::Body as Bytes;
use axum::extract::State;
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use salt_lamp_core::look::{Look, LookView};
use salt_lamp_core::{Checked, FieldError, Scenario};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use crate::http::extract::ScenarioBody;
use crate::http::looks::{placed, sized};
use crate::{App, Problem};

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(post)).merge(pictures::routes()).merge(files::routes())
}

/// A scenario that looks may be asked of.
#[derive(Serialize, ToSchema)]
struct Posted {
    /// Its id: give it as `look` in questions.
    look: String,
}

/// Takes a scenario once, so that questions about its look need only name it. The same scenario has
/// the same id; one that was not asked about for a while is forgotten, and a question about it
/// answers 404.
#[utoipa::path(post, operation_id = "look_post", path = "/look/scenario", request_body = Scenario,
    responses((status = 201, body = Posted), (status = 422, body = Problem)))]
async fn post(
    State(app): State<App>,
    ScenarioBody(scenario): ScenarioBody,
) -> Result<impl IntoResponse, Problem> {
    let scenario = placed(&app, scenario)?;
    Ok((StatusCode::CREATED, Json(Posted { look: app.posted.take(scenario)? })))
}

/// A scenario, or the id of one that was posted, and how its look is wanted.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(super) struct LookQuestion {
    /// The scenario; null where `look` names one.
    #[serde(default)]
    pub(super) scenario: Option<Scenario>,
    /// Id of a scenario that was posted.
    #[serde(default)]
    pub(super) look: Option<String>,
    /// How the look is wanted.
    #[serde(default)]
    pub(super) view: LookView,
}

/// The scenario of a question, checked.
fn scenario_of(
    app: &App,
    scenario: Option<Scenario>,
    look: Option<String>,
) -> Result<Checked, Problem> {
    let under = |mut errors: Vec<FieldError>| {
        errors.iter_mut().for_each(|e| e.path = format!("scenario.{}", e.path));
        Problem::fields(errors)
    };
    match (scenario, look) {
        (Some(scenario), None) => placed(app, scenario.check().map_err(under)?),
        (None, Some(id)) => app.posted.get(&id).ok_or_else(|| {
            Problem::not_found("This look is not known any more: post its scenario again.")
        }),
        (None, None) => Err(Problem::field(
            "scenario",
            "missing; give a scenario, or the id of one that was posted as `look`",
        )),
        (Some(_), Some(_)) => Err(Problem::field(
            "look",
            "give a scenario or the id of one that was posted, not both",
        )),
    }
}

/// The scenario and the view of a question, each accepted, and both together not too large.
pub(super) fn accepted(app: &App, q: LookQuestion) -> Result<(Checked, LookView), Problem> {
    let (scenario, view) =
        (scenario_of(app, q.scenario, q.look)?, q.view.check().map_err(Problem::fields)?);
    Look::fits(&scenario, &view).map_err(|e| Problem::fields(vec![e]))?;
    let view = sized(app, &scenario, view);
    Ok((scenario, view))
}

/// The look that is asked about, counted now if it is not among the last.
pub(super) async fn counted(
    app: &App,
    scenario: Checked,
    view: LookView,
) -> Result<Arc<Look>, Problem> {
    app.heavy(move |app, threads| app.looks.get(scenario, &view, &app.tables, threads)).await?
}

pub(super) fn octets(bytes: Vec<u8>) -> Response {
    ([(header::CONTENT_TYPE, "application/octet-stream")], bytes).into_response()
}

fn attachment(name: &str, mime: &'static str, body: Bytes) -> Response {
    let safe: String = name
        .chars()
        .map(|c| if c.is_ascii_alphanumeric() || "-_.".contains(c) { c } else { '_' })
        .collect();
    let disposition = format!("attachment; filename=\"{safe}\"");
    ([(header::CONTENT_TYPE, mime.to_owned()), (header::CONTENT_DISPOSITION, disposition)], body)
        .into_response()
}
