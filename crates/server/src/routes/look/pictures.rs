//! Pictures of the look, what there is to say about them, and a box measured on them.

use axum::Json;
use axum::extract::State;
use axum::response::Response;
use salt_lamp_core::Scenario;
use salt_lamp_core::look::{BoxArcsec, LookView, LookWords, MeasuredBox};
use salt_lamp_core::workers::Workers;
use serde::Deserialize;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use super::{LookQuestion, accepted, counted, octets};
use crate::http::extract::Body;
use crate::http::looks::{crops, packed};
use crate::{App, Problem};

pub(super) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(words)).routes(routes!(frames)).routes(routes!(measure))
}

/// What there is to say about every crop: sizes, casts, ghosts, slopes.
#[utoipa::path(post, operation_id = "look_words", path = "/look", request_body = LookQuestion,
    responses((status = 200, body = Vec<LookWords>), (status = 422, body = Problem)))]
async fn words(
    State(app): State<App>,
    Body(q): Body<LookQuestion>,
) -> Result<Json<Vec<LookWords>>, Problem> {
    let (scenario, view) = accepted(&app, q)?;
    let look = counted(&app, scenario, view).await?;
    app.heavy(move |_, _| look.words(&view)).await.map(Json)
}

/// The pictures: their count, then width and height of each (all little-endian u32), then their
/// pixels, four bytes each.
#[utoipa::path(post, operation_id = "look_frames", path = "/look/frames",
    request_body = LookQuestion,
    responses((status = 200, content_type = "application/octet-stream", body = Vec<u8>),
    (status = 422, body = Problem)))]
async fn frames(State(app): State<App>, Body(q): Body<LookQuestion>) -> Result<Response, Problem> {
    let (scenario, view) = accepted(&app, q)?;
    let look = counted(&app, scenario, view).await?;
    app.heavy(move |_, threads| packed(&crops(&look, &view, threads))).await.map(octets)
}

/// A box on the crops.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct BoxQuestion {
    /// The scenario; null where `look` names one.
    #[serde(default)]
    scenario: Option<Scenario>,
    /// Id of a scenario that was posted.
    #[serde(default)]
    look: Option<String>,
    /// How the look is wanted.
    #[serde(default)]
    view: LookView,
    /// Left, bottom, right, top, arcsec from the middle.
    #[schema(value_type = Vec<f64>)]
    r#box: BoxArcsec,
}

/// Measures a box in every plane of every contender: mean, spread and signal to noise in electrons.
#[utoipa::path(post, operation_id = "look_measure", path = "/look/measure",
    request_body = BoxQuestion,
    responses((status = 200, body = Vec<MeasuredBox>), (status = 422, body = Problem)))]
async fn measure(
    State(app): State<App>,
    Body(q): Body<BoxQuestion>,
) -> Result<Json<Vec<MeasuredBox>>, Problem> {
    let BoxQuestion { scenario, look, view, r#box } = q;
    let (scenario, view) = accepted(&app, LookQuestion { scenario, look, view })?;
    if r#box.iter().any(|v| !v.is_finite())
        || (r#box[0] - r#box[2]).abs() < 1.0
        || (r#box[1] - r#box[3]).abs() < 1.0
    {
        return Err(Problem::field(
            "box",
            "give left, bottom, right and top in arcsec from the middle, at least 1 arcsec apart",
        ));
    }
    let look = counted(&app, scenario, view).await?;
    let all = app.heavy(move |_, threads| {
        threads.each(look.contenders.len(), &|i| look.measure(i, r#box, view.time_fraction))
    });
    all.await.map(Json)
}
