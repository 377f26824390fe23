//! A trial as files: its run sheet for the calendar and the hand, its frames with the model matrix.

use axum::extract::{Path, State};
use axum::http::header;
use axum::response::{IntoResponse, Response};
use salt_lamp_core::trial::table;
use salt_lamp_formats::log::LogTable;
use salt_lamp_formats::trial::{SheetHead, sheet_csv, sheet_ics, trial_table};
use serde::Deserialize;
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use super::{Laid, laid};
use crate::http::extract::Params;
use crate::{App, Problem};

pub(super) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(sheet_file)).routes(routes!(frames_file))
}

/// How a run sheet is written.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
enum SheetFormat {
    /// Comma-separated values, a line a slot.
    #[default]
    Csv,
    /// iCalendar, an event a slot.
    Ics,
}

#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct SheetAsked {
    /// The evening, such as 2027-01-10.
    #[serde(default)]
    date: String,
    /// `csv` or `ics`.
    #[serde(default)]
    #[param(inline)]
    format: SheetFormat,
}

/// A run sheet as a file.
#[utoipa::path(get, operation_id = "trials_sheet_file", path = "/trials/{id}/sheet/file",
    params(("id" = String, Path), SheetAsked),
    responses((status = 200, body = String), (status = 404, body = Problem),
        (status = 422, body = Problem)))]
async fn sheet_file(
    State(app): State<App>,
    Path(id): Path<String>,
    Params(q): Params<SheetAsked>,
) -> Result<Response, Problem> {
    let stored = app.store.trial(&id).await?;
    let Laid { site, night, sheet } = laid(&app, &stored.trial, &q.date).await?;
    let head = SheetHead {
        title: &stored.trial.title,
        target: &stored.trial.scenario.target.name,
        site: &site.name,
        date: &q.date,
        names: &stored.trial.names(),
        frames: stored.trial.design.frames_a_slot,
        clock: &night.clock,
    };
    let (kind, text) = match q.format {
        SheetFormat::Csv => ("text/csv; charset=utf-8", sheet_csv(&head, &sheet)),
        SheetFormat::Ics => ("text/calendar; charset=utf-8", sheet_ics(&head, &sheet)),
    };
    Ok(([(header::CONTENT_TYPE, kind)], text).into_response())
}

#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct FramesAsked {
    /// `csv` or `ecsv`.
    #[serde(default)]
    #[param(inline)]
    format: LogTable,
}

/// A trial's frames as a table with the columns of the fit beside what was measured, so that it can be
/// fitted elsewhere.
#[utoipa::path(get, operation_id = "trials_frames_file", path = "/trials/{id}/frames/file",
    params(("id" = String, Path), FramesAsked),
    responses((status = 200, body = String), (status = 404, body = Problem)))]
async fn frames_file(
    State(app): State<App>,
    Path(id): Path<String>,
    Params(q): Params<FramesAsked>,
) -> Result<Response, Problem> {
    let trial = app.store.trial(&id).await?.trial;
    let frames = trial.counted();
    let text = trial_table(&table(&trial.question(&frames)), q.format);
    Ok(([(header::CONTENT_TYPE, "text/csv; charset=utf-8")], text).into_response())
}
