//! The log: nights, their frames with what each was worth, folders that are read or watched.

mod campaign;
mod copy;
mod fitting;
mod folders;
mod ground;
mod headers;
mod lessons;
mod lines;
mod meter;
mod now;
mod patches;
mod place;
mod record;
mod replan;
mod taught;

pub(crate) use fitting::frame_meaning;
pub(crate) use ground::Ground;
pub(crate) use patches::{Patch, measured_on, upon};
pub(crate) use place::Plates;

use axum::Json;
use axum::extract::{Path, State};
use axum::http::{HeaderMap, StatusCode, header};
use axum::response::{IntoResponse, Response};
use salt_lamp_core::library::ShelfThing;
use salt_lamp_core::log::{
    Corrections, FilterTotal, FrameJudged, NightAir, NightFrame, NightMark, night_judged,
    night_marks, totals,
};
use salt_lamp_core::night::Place;
use salt_lamp_formats::log::{LogLine, LogTable, log_table};
use salt_lamp_store::{
    DamagedRow, Decision, EventKind, LogEvent, LogSession, LoggedFrame, SessionsAsked,
};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use super::frames::{Named, checked_name, whole};
use crate::frames::take_upload;
use crate::http::extract::{Body, Params};
use crate::{App, Problem};

/// The longest note, letters.
const LONGEST_NOTE: usize = 4000;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(sessions))
        .routes(routes!(session, note))
        .routes(routes!(table))
        .routes(routes!(frame))
        .routes(routes!(preview))
        .routes(routes!(decide))
        .routes(routes!(drop_in))
        .routes(routes!(add_event))
        .routes(routes!(remove_event))
        .merge(folders::routes())
        .merge(campaign::routes())
        .merge(record::routes())
        .merge(headers::routes())
        .merge(taught::routes())
        .merge(now::routes())
        .merge(meter::routes())
        .merge(lines::routes())
        .merge(copy::routes())
        .merge(lessons::routes())
        .merge(replan::routes())
}

/// Which nights are wanted.
#[derive(Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
#[into_params(parameter_in = Query)]
struct Nights {
    /// Letters that object, filter, camera or note must have.
    #[serde(default)]
    text: String,
    /// The first evening, such as 2027-01-01.
    #[serde(default)]
    from: String,
    /// The last one.
    #[serde(default)]
    to: String,
}

/// Nights of the log, the last first.
#[utoipa::path(get, operation_id = "log_sessions", path = "/log/sessions", params(Nights),
    responses((status = 200, body = Vec<LogSession>)))]
async fn sessions(
    State(app): State<App>,
    Params(q): Params<Nights>,
) -> Result<Json<Vec<LogSession>>, Problem> {
    let asked = SessionsAsked { text: q.text, from: q.from, to: q.to };
    Ok(Json(app.store.log_sessions(&asked).await?))
}

/// A frame in its night.
#[derive(Serialize, ToSchema)]
struct FrameInLog {
    /// Its id.
    id: String,
    /// Name of its file.
    file: String,
    /// Where its file lies; null of one that was dropped.
    path: Option<String>,
    /// Whether its file was not there when it was last looked for.
    gone: bool,
    /// What it is: light, dark, bias, flat or dark_flat; null where its header does not say.
    #[serde(rename = "type")]
    kind: Option<salt_lamp_core::frame::FrameKind>,
    /// What it is of.
    object: Option<String>,
    /// Name of its filter.
    filter: Option<String>,
    /// Length, s.
    exposure_s: Option<f64>,
    /// The camera's gain setting.
    gain: Option<f64>,
    /// Temperature of the sensor, degrees Celsius.
    sensor_c: Option<f64>,
    /// When it began, seconds since 1970 UTC.
    start_s: Option<f64>,
    /// Side of the mount's pier.
    pier_side: Option<String>,
    /// Position of the focuser, steps.
    focuser_steps: Option<f64>,
    /// Whether it is kept, by hand or by the rules.
    kept: bool,
    /// What somebody said of it; null where the rules decide.
    decision: Option<Decision>,
    /// Why, in the words of whoever said so.
    why: String,
    /// What it was worth, and what the rules say; null of one without pixels.
    judged: Option<FrameJudged>,
    /// What is odd about its file, in sentences.
    problems: Vec<String>,
}

/// A night with its frames.
#[derive(Serialize, ToSchema)]
struct NightOfLog {
    /// The night.
    session: LogSession,
    /// Its frames in the order of time.
    frames: Vec<FrameInLog>,
    /// What came in, filter by filter.
    totals: Vec<FilterTotal>,
    /// What happened.
    events: Vec<LogEvent>,
    /// What stands out in its course: cloud, focus runs, the half turn, the moon's rise and set.
    marks: Vec<NightMark>,
    /// What was corrected of its headers.
    corrections: Corrections,
    /// What should be known of the night, in sentences.
    told: Vec<String>,
}

/// The air over frames: the site where one usually is, through the filters of the shelf.
async fn air(app: &App) -> Result<NightAir, Problem> {
    let site = app.store.usual_site().await?;
    let shelf = app.store.shelf(true).await?;
    let filters = shelf.iter().filter_map(|e| match &e.entry.thing {
        ShelfThing::Filter(f) => Some((e.entry.name.as_str(), &f.filter)),
        _ => None,
    });
    Ok(NightAir::new(site.as_ref(), filters))
}

/// A night's frames, each with what it was worth.
pub(crate) async fn judged_frames(app: &App, id: &str) -> Result<Judged, Problem> {
    Ok(judged(app, id).await?.frames)
}

/// Whether a frame is kept: somebody's word, else the rules'.
pub(crate) fn is_kept(f: &LoggedFrame, judged: Option<&FrameJudged>) -> bool {
    match f.decision {
        Some(d) => d == Decision::Kept,
        None => judged.is_some_and(|j| j.reasons.is_empty()),
    }
}

/// Frames, each with what it was worth.
pub(crate) type Judged = Vec<(LoggedFrame, Option<FrameJudged>)>;

/// A night, understood.
struct NightJudged {
    /// Its frames, each with what it was worth.
    frames: Judged,
    /// What stands out in its course.
    marks: Vec<NightMark>,
    /// What is told of frames that cannot be read.
    damaged: Vec<DamagedRow>,
}

/// A night's frames, each with what it was worth.
async fn judged(app: &App, id: &str) -> Result<NightJudged, Problem> {
    let (frames, damaged) = app.store.frames_of(id).await?;
    let air = air(app).await?;
    let usual = app.store.usual_site().await?.as_ref().map(Place::from);
    let work = app.heavy(move |_, _| {
        let seen: Vec<NightFrame> = frames
            .iter()
            .map(|f| NightFrame {
                measured: &f.measured,
                start_s: f.start_s,
                airmass: air.airmass(&f.measured, f.start_s),
                guiding_arcsec: f.guiding_arcsec,
            })
            .collect();
        let all = night_judged(&seen, &|filter| air.k_mag(filter));
        let place = frames.iter().find_map(|f| f.measured.site()).or(usual);
        let marks = night_marks(&seen, &all, place);
        (frames.into_iter().zip(all).collect(), marks)
    });
    let (frames, marks) = work.await?;
    Ok(NightJudged { frames, marks, damaged })
}

/// A night: its frames with what each was worth and why some are put aside, what came in by filter,
/// and what happened.
#[utoipa::path(get, operation_id = "log_session", path = "/log/sessions/{id}",
    params(("id" = String, Path)),
    responses((status = 200, body = NightOfLog), (status = 404, body = Problem)))]
async fn session(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<Json<NightOfLog>, Problem> {
    let session = app.store.log_session(&id).await?;
    let NightJudged { frames: all, marks, damaged } = judged(&app, &id).await?;
    let corrections = app.store.corrections_of(&id).await?;
    let events = app.store.log_events(&id).await?;
    let mut told = told(&all, &events);
    told.extend(
        damaged.iter().map(|d| {
            format!("What was measured of {} cannot be read any more: {}.", d.name, d.why)
        }),
    );
    let sums = all.iter().map(|(f, j)| (&f.measured, j.as_ref(), is_kept(f, j.as_ref())));
    let totals = totals(sums);
    let frames = all.into_iter().map(|(f, j)| in_log(f, j)).collect();
    Ok(Json(NightOfLog { session, frames, totals, events, marks, corrections, told }))
}

fn in_log(f: LoggedFrame, judged: Option<FrameJudged>) -> FrameInLog {
    let kept = is_kept(&f, judged.as_ref());
    let h = f.measured.read.header;
    FrameInLog {
        id: f.id,
        file: f.measured.file,
        path: f.path,
        gone: f.gone,
        kind: h.kind,
        object: h.object,
        filter: h.filter,
        exposure_s: h.exposure_s,
        gain: h.gain,
        sensor_c: h.sensor_c,
        start_s: f.start_s,
        pier_side: h.pier_side,
        focuser_steps: h.focuser_steps,
        kept,
        decision: f.decision,
        why: f.why,
        judged,
        problems: f.measured.problems,
    }
}

/// What should be known of a night.
fn told(all: &[(LoggedFrame, Option<FrameJudged>)], events: &[LogEvent]) -> Vec<String> {
    use salt_lamp_core::frame::FrameKind;
    let mut told = Vec::new();
    let gone = all.iter().filter(|(f, _)| f.gone).count();
    if gone > 0 {
        told.push(format!(
            "The files of {gone} of {} frames are not where they were: what was measured stays, \
             what needs pixels waits until they are back.",
            all.len()
        ));
    }
    let moved = events.iter().filter(|e| e.kind == EventKind::FilterMoved).map(|e| e.at_s);
    if let Some(moved_s) = moved.reduce(f64::max) {
        let of = |kind: FrameKind| {
            all.iter().filter(move |(f, _)| f.measured.read.header.kind == Some(kind))
        };
        let early = of(FrameKind::Flat).filter(|(f, _)| f.start_s.is_some_and(|s| s < moved_s));
        let late = of(FrameKind::Light).filter(|(f, _)| f.start_s.is_some_and(|s| s > moved_s));
        let (early, late) = (early.count(), late.count());
        if early > 0 && late > 0 {
            told.push(format!(
                "A filter was moved after {early} flats were taken: they do not fit the {late} \
                 frames after it. Take new ones."
            ));
        }
    }
    told
}

/// What somebody says of a night.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct NightNote {
    /// Free text of at most 4,000 letters.
    note: String,
}

fn checked_text(path: &str, text: &str) -> Result<(), Problem> {
    let wrong = text.chars().any(|c| c.is_control() && c != '\n' && c != '\t');
    if wrong || text.chars().count() > LONGEST_NOTE {
        let said = format!("give at most {LONGEST_NOTE} letters, without control characters");
        return Err(Problem::field(path, said));
    }
    Ok(())
}

/// Writes a night's note.
#[utoipa::path(put, operation_id = "log_note", path = "/log/sessions/{id}",
    params(("id" = String, Path)), request_body = NightNote,
    responses((status = 200, body = LogSession), (status = 404, body = Problem),
        (status = 422, body = Problem)))]
async fn note(
    State(app): State<App>,
    Path(id): Path<String>,
    Body(q): Body<NightNote>,
) -> Result<Json<LogSession>, Problem> {
    checked_text("note", &q.note)?;
    app.store.note_log_session(&id, &q.note).await?;
    Ok(Json(app.store.log_session(&id).await?))
}

/// Which kind of table.
#[derive(Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
#[into_params(parameter_in = Query)]
struct TableAsked {
    /// `csv` or `ecsv`.
    #[serde(default)]
    #[param(inline)]
    format: LogTable,
}

/// A night's frames as a table, a line a frame.
#[utoipa::path(get, operation_id = "log_table", path = "/log/sessions/{id}/table",
    params(("id" = String, Path), TableAsked),
    responses((status = 200, body = String, content_type = "text/csv"),
        (status = 404, body = Problem)))]
async fn table(
    State(app): State<App>,
    Path(id): Path<String>,
    Params(q): Params<TableAsked>,
) -> Result<Response, Problem> {
    let session = app.store.log_session(&id).await?;
    let all = judged(&app, &id).await?.frames;
    let lines: Vec<LogLine> = all
        .iter()
        .map(|(f, j)| LogLine {
            measured: &f.measured,
            judged: j.as_ref(),
            kept: is_kept(f, j.as_ref()),
            why: &f.why,
        })
        .collect();
    let text = log_table(&lines, q.format);
    let ending = if q.format == LogTable::Ecsv { "ecsv" } else { "csv" };
    let name = format!("attachment; filename=\"frames-{}.{ending}\"", session.night);
    Ok((
        [
            (header::CONTENT_TYPE, "text/csv; charset=utf-8".to_owned()),
            (header::CONTENT_DISPOSITION, name),
        ],
        text,
    )
        .into_response())
}

/// One frame with all that was measured of it.
#[utoipa::path(get, operation_id = "log_frame", path = "/log/frames/{frame}",
    params(("frame" = String, Path)),
    responses((status = 200, body = LoggedFrame), (status = 404, body = Problem)))]
async fn frame(
    State(app): State<App>,
    Path(frame): Path<String>,
) -> Result<Json<LoggedFrame>, Problem> {
    Ok(Json(app.store.logged_frame(&frame).await?))
}

/// A frame as a small picture, drawn as the first frame like it in its night.
#[utoipa::path(get, operation_id = "log_preview", path = "/log/frames/{frame}/preview",
    params(("frame" = String, Path)),
    responses((status = 200, body = Vec<u8>, content_type = "image/png"),
        (status = 404, body = Problem)))]
async fn preview(State(app): State<App>, Path(id): Path<String>) -> Result<Response, Problem> {
    let png = app.store.frame_preview(&id).await?;
    let kept = "private, max-age=31536000, immutable";
    Ok(([(header::CONTENT_TYPE, "image/png"), (header::CACHE_CONTROL, kept)], png).into_response())
}

/// What somebody says of frames.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct FramesDecided {
    /// Ids of the frames, at most 5,000.
    frames: Vec<String>,
    /// Kept, aside, or null for what the rules say.
    decision: Option<Decision>,
    /// Why.
    #[serde(default)]
    why: String,
}

/// Keeps frames or puts them aside, whatever the rules say; null gives them back to the rules.
#[utoipa::path(post, operation_id = "log_decide", path = "/log/frames/decide",
    request_body = FramesDecided,
    responses((status = 204), (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn decide(
    State(app): State<App>,
    Body(q): Body<FramesDecided>,
) -> Result<StatusCode, Problem> {
    checked_text("why", &q.why)?;
    if q.frames.is_empty() || q.frames.len() > 5000 {
        return Err(Problem::field("frames", "give 1 to 5,000 ids of frames"));
    }
    app.store.decide_frames(&q.frames, q.decision, &q.why).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// What became of a frame that was dropped.
#[derive(Serialize, ToSchema)]
struct DroppedIn {
    /// Id of its night.
    session: String,
    /// Its id.
    frame: String,
    /// Whether the log did not have it before.
    is_new: bool,
}

/// Takes a frame into the log; its pixels are not kept.
#[utoipa::path(post, operation_id = "log_drop", path = "/log/frames", params(Named),
    request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 200, body = DroppedIn), (status = 422, body = Problem),
        (status = 429, body = Problem)))]
async fn drop_in(
    State(app): State<App>,
    Params(named): Params<Named>,
    headers: HeaderMap,
    body: axum::body::Body,
) -> Result<Json<DroppedIn>, Problem> {
    let name = checked_name(&named)?;
    let Ok(_seat) = app.uploads.try_acquire() else { return Err(Problem::busy()) };
    let bytes = whole(&name, &headers, body).await?;
    let taken = take_upload(&app, name, bytes).await?;
    Ok(Json(DroppedIn { session: taken.session, frame: taken.frame, is_new: taken.is_new }))
}

/// Something that happened.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct EventAdded {
    /// When, seconds since 1970 UTC.
    at_s: f64,
    /// What.
    #[serde(rename = "kind")]
    what: EventKind,
    /// Free text of at most 4,000 letters.
    #[serde(default)]
    text: String,
}

/// Writes down that something happened in a night.
#[utoipa::path(post, operation_id = "log_event_add", path = "/log/sessions/{id}/events",
    params(("id" = String, Path)), request_body = EventAdded,
    responses((status = 201, body = LogEvent), (status = 404, body = Problem),
        (status = 422, body = Problem)))]
async fn add_event(
    State(app): State<App>,
    Path(id): Path<String>,
    Body(q): Body<EventAdded>,
) -> Result<impl IntoResponse, Problem> {
    checked_text("text", &q.text)?;
    if !(0.0..=4e9).contains(&q.at_s) {
        return Err(Problem::field("at_s", "give seconds since 1970, between 0 and 4e9"));
    }
    let event = app.store.add_log_event(&id, (q.at_s, q.what, &q.text)).await?;
    Ok((StatusCode::CREATED, Json(event)))
}

/// Strikes out something that did not happen.
#[utoipa::path(delete, operation_id = "log_event_remove", path = "/log/events/{event}",
    params(("event" = String, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
async fn remove_event(
    State(app): State<App>,
    Path(event): Path<String>,
) -> Result<StatusCode, Problem> {
    app.store.remove_log_event(&event).await?;
    Ok(StatusCode::NO_CONTENT)
}
