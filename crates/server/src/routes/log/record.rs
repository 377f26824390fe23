//! A target's record over all nights of the log.

use axum::extract::State;
use axum::http::header;
use axum::response::{IntoResponse, Response};
use salt_lamp_core::frame::FrameKind;
use salt_lamp_core::library::same_name;
use salt_lamp_core::log::{MoonOver, RecordLine, TargetRecord, totals};
use salt_lamp_core::night::Place;
use salt_lamp_formats::log_record::{record_csv, record_text};
use salt_lamp_store::{LogSession, LoggedFrame, SessionsAsked};
use serde::Deserialize;
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use super::{Judged, is_kept, judged};
use crate::http::extract::Params;
use crate::{App, Problem};

pub(super) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(record))
}

/// How a record is written.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
enum RecordFormat {
    /// A JSON document.
    #[default]
    Json,
    /// Comma-separated values, a line a night and filter.
    Csv,
    /// Plain text, to paste beside a picture.
    Text,
}

/// Whose record is wanted.
#[derive(Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
#[into_params(parameter_in = Query)]
struct RecordAsked {
    /// The object as headers name it.
    object: String,
    /// `json`, `csv` or `text`.
    #[serde(default)]
    #[param(inline)]
    format: RecordFormat,
}

/// What was taken of a target, night by night: dates, filters, subs, gain, temperature, moon, sums.
#[utoipa::path(get, operation_id = "log_record", path = "/log/record", params(RecordAsked),
    responses((status = 200, body = TargetRecord), (status = 404, body = Problem)))]
async fn record(
    State(app): State<App>,
    Params(q): Params<RecordAsked>,
) -> Result<Response, Problem> {
    let all = app.store.log_sessions(&SessionsAsked::default()).await?;
    let named =
        |s: &LogSession| s.objects.split(',').chain([&*s.objects]).any(|o| same_name(o, &q.object));
    let usual = app.store.usual_site().await?.as_ref().map(Place::from);
    let mut lines = Vec::new();
    for session in all.into_iter().filter(named) {
        let frames = judged(&app, &session.id).await?.frames;
        lines.extend(lines_of(&session, &frames, &q.object, usual));
    }
    let Some(first) = lines.first() else {
        return Err(Problem::not_found(format!("no frame of {} is in the log", q.object)));
    };
    // As the headers spell it.
    let object = first.total.object.clone().unwrap_or(q.object);
    let record = TargetRecord::new(&object, lines);
    let (kind, text) = match q.format {
        RecordFormat::Json => {
            ("application/json", serde_json::to_string_pretty(&record).map_err(Problem::fault)?)
        }
        RecordFormat::Csv => ("text/csv; charset=utf-8", record_csv(&record)),
        RecordFormat::Text => ("text/plain; charset=utf-8", record_text(&record)),
    };
    Ok(([(header::CONTENT_TYPE, kind)], text).into_response())
}

/// What a night brought of an object, filter by filter.
fn lines_of(
    session: &LogSession,
    frames: &Judged,
    object: &str,
    usual: Option<Place>,
) -> Vec<RecordLine> {
    let of_object = |f: &LoggedFrame| {
        let h = &f.measured.read.header;
        h.kind.is_none_or(|k| k == FrameKind::Light)
            && h.object.as_deref().is_some_and(|o| same_name(o, object))
    };
    let own: Vec<_> = frames.iter().filter(|(f, _)| of_object(f)).collect();
    let sums = own.iter().map(|(f, j)| (&f.measured, j.as_ref(), is_kept(f, j.as_ref())));
    let with_moon = |total: salt_lamp_core::log::FilterTotal| {
        let like = |f: &LoggedFrame| {
            let h = &f.measured.read.header;
            (&h.filter, h.exposure_s, h.gain) == (&total.filter, total.exposure_s, total.gain)
        };
        let of_filter = || own.iter().filter(|(f, _)| like(f));
        let place = of_filter().find_map(|(f, _)| f.measured.site()).or(usual);
        let half_s = total.exposure_s.unwrap_or(0.0) / 2.0;
        let mut middles: Vec<f64> =
            of_filter().filter_map(|(f, _)| Some(f.start_s? + half_s)).collect();
        middles.sort_by(f64::total_cmp);
        RecordLine {
            night: session.night.clone(),
            camera: session.camera.clone(),
            moon: place.and_then(|p| MoonOver::at(p, &middles)),
            total,
        }
    };
    totals(sums).into_iter().map(with_moon).collect()
}
