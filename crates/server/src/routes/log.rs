//! The log: nights, their frames with what each was worth, folders that are read or watched.

use std::convert::Infallible;

use axum::Json;
use axum::extract::{Path, State};
use axum::http::{HeaderMap, StatusCode, header};
use axum::response::sse::{Event, KeepAlive, Sse};
use axum::response::{IntoResponse, Response};
use salt_lamp_core::library::ShelfThing;
use salt_lamp_core::log::{FilterTotal, FrameJudged, NightFrame, night_judged, totals};
use salt_lamp_core::night::{Direction, Ephemeris, Place};
use salt_lamp_core::path::sky::{Air, airmass};
use salt_lamp_formats::log::{LogLine, LogTable, log_table};
use salt_lamp_store::{Decision, EventKind, LogEvent, LogSession, LoggedFrame, SessionsAsked};
use serde::{Deserialize, Serialize};
use tokio_stream::wrappers::BroadcastStream;
use tokio_stream::{Stream, StreamExt};
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use super::frames::{Named, checked_name, whole};
use crate::frames::{LogNews, Reading, take_upload};
use crate::http::extract::{Body, Params};
use crate::{App, Problem};

/// Extinction through a filter that the kit does not know, mag to an airmass (common practice, no
/// source).
const USUAL_K_MAG: f64 = 0.2;
/// The longest note, letters.
const LONGEST_NOTE: usize = 4000;
/// Folders in a list.
const MOST_FOLDERS: usize = 500;

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
        .routes(routes!(folders, choose))
        .routes(routes!(call_off))
        .routes(routes!(play))
        .routes(routes!(live))
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
    /// What should be known of the night, in sentences.
    told: Vec<String>,
}

/// The site of frames that do not say theirs, and the extinction through the kit's filters.
struct Surroundings {
    site: Option<Place>,
    k_mag: Vec<(String, f64)>,
}

impl Surroundings {
    async fn of(app: &App) -> Result<Self, Problem> {
        let shelf = app.store.shelf(true).await?;
        let mut site = None;
        let mut air = Air::new(0.0, None, 1.0);
        for e in &shelf {
            if let ShelfThing::Site(s) = &e.entry.thing
                && (e.usual || (e.mine && site.is_none()))
            {
                air = Air::new(s.height_m, s.k_v, 1.0);
                site = Some(Place {
                    latitude_deg: s.latitude_deg,
                    longitude_deg: s.longitude_deg,
                    height_m: s.height_m,
                });
            }
        }
        let mut k_mag = Vec::new();
        for e in &shelf {
            let ShelfThing::Filter(f) = &e.entry.thing else { continue };
            let Some(bands) = f.filter.bands.as_ref().filter(|b| !b.is_empty()) else { continue };
            let sum: f64 = bands.iter().map(|b| air.k(b.centre_nm)).sum();
            k_mag.push((e.entry.name.to_lowercase(), sum / bands.len() as f64));
        }
        Ok(Self { site, k_mag })
    }

    fn k_mag(&self, filter: Option<&str>) -> f64 {
        let named = filter.map(str::to_lowercase);
        let own = self.k_mag.iter().find(|(n, _)| Some(n) == named.as_ref());
        own.map_or(USUAL_K_MAG, |(_, k)| *k)
    }

    /// Airmass in the middle of a frame, from its place and time.
    fn airmass(&self, f: &LoggedFrame) -> Option<f64> {
        let h = &f.measured.read.header;
        if h.airmass.is_some() {
            return h.airmass;
        }
        let at = Direction { ra_deg: h.ra_deg?, dec_deg: h.dec_deg? };
        let middle_s = f.start_s? + h.exposure_s.unwrap_or(0.0) / 2.0;
        let place = f.measured.site().or(self.site)?;
        let e = Ephemeris::new(place, middle_s - 60.0, middle_s + 60.0).ok()?;
        let altitude = e.altitude_deg(&e.fixed(&at.vector(), middle_s), middle_s);
        (altitude > 5.0).then(|| airmass(altitude))
    }
}

/// Whether a frame is kept: somebody's word, else the rules'.
fn is_kept(f: &LoggedFrame, judged: Option<&FrameJudged>) -> bool {
    match f.decision {
        Some(d) => d == Decision::Kept,
        None => judged.is_some_and(|j| j.reasons.is_empty()),
    }
}

/// A night's frames, each with what it was worth.
async fn judged(app: &App, id: &str) -> Result<Vec<(LoggedFrame, Option<FrameJudged>)>, Problem> {
    let frames = app.store.frames_of(id).await?;
    let around = Surroundings::of(app).await?;
    let work = app.heavy(move |_, _| {
        let seen: Vec<NightFrame> = frames
            .iter()
            .map(|f| NightFrame {
                measured: &f.measured,
                start_s: f.start_s,
                airmass: around.airmass(f),
            })
            .collect();
        let all = night_judged(&seen, &|filter| around.k_mag(filter));
        frames.into_iter().zip(all).collect()
    });
    work.await
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
    let all = judged(&app, &id).await?;
    let events = app.store.log_events(&id).await?;
    let told = told(&all, &events);
    let sums = all.iter().map(|(f, j)| (&f.measured, j.as_ref(), is_kept(f, j.as_ref())));
    let totals = totals(sums);
    let frames = all.into_iter().map(|(f, j)| in_log(f, j)).collect();
    Ok(Json(NightOfLog { session, frames, totals, events, told }))
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
    let all = judged(&app, &id).await?;
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
#[utoipa::path(get, operation_id = "log_frame", path = "/log/sessions/{id}/frames/{frame}",
    params(("id" = String, Path), ("frame" = String, Path)),
    responses((status = 200, body = LoggedFrame), (status = 404, body = Problem)))]
async fn frame(
    State(app): State<App>,
    Path((id, frame)): Path<(String, String)>,
) -> Result<Json<LoggedFrame>, Problem> {
    let mut all = app.store.frames_of(&id).await?;
    let at = all.iter().position(|f| f.id == frame);
    let found = at.map(|i| all.swap_remove(i));
    found.map(Json).ok_or_else(|| Problem::not_found(format!("The night has no frame {frame}.")))
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

/// A folder of frames.
#[derive(Serialize, ToSchema)]
struct FrameFolder {
    /// Its path.
    folder: String,
    /// Whether it was named at start.
    root: bool,
    /// Whether it is watched.
    watched: bool,
}

/// Folders, and how far the reading is.
#[derive(Serialize, ToSchema)]
struct FrameFolders {
    /// Those that may be read, the roots first, each with what lies in it.
    folders: Vec<FrameFolder>,
    /// How far the reading is.
    reading: Reading,
}

/// Folders beneath those that were named at start, and how far the reading of them is.
#[utoipa::path(get, operation_id = "log_folders", path = "/log/folders",
    responses((status = 200, body = FrameFolders)))]
async fn folders(State(app): State<App>) -> Result<Json<FrameFolders>, Problem> {
    let watched = app.store.watched_folders().await?;
    let roots = app.frames.roots().to_vec();
    let listed = tokio::task::spawn_blocking(move || {
        let mut all = Vec::new();
        for root in &roots {
            let within = walkdir::WalkDir::new(root).max_depth(3).sort_by_file_name();
            let folders = within.into_iter().filter_map(Result::ok);
            let folders = folders.filter(|e| e.file_type().is_dir()).take(MOST_FOLDERS);
            all.extend(folders.map(|e| FrameFolder {
                folder: e.path().display().to_string(),
                root: e.depth() == 0,
                watched: watched.contains(&e.path().display().to_string()),
            }));
        }
        all
    });
    let folders = listed.await.map_err(Problem::fault)?;
    Ok(Json(FrameFolders { folders, reading: app.frames.reading() }))
}

/// What is to be done with a folder.
#[derive(Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
enum FolderUse {
    /// Read it once.
    Read,
    /// Read it, and what comes into it from now on.
    Watch,
    /// Watch it no longer.
    Leave,
}

/// A folder, and what is to be done with it.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct FolderChosen {
    /// Its path, beneath one that was named at start.
    folder: String,
    /// What is to be done.
    what: FolderUse,
}

/// Reads a folder once, watches it, or leaves it alone.
#[utoipa::path(post, operation_id = "log_choose", path = "/log/folders",
    request_body = FolderChosen,
    responses((status = 202, body = FrameFolders), (status = 422, body = Problem)))]
async fn choose(
    State(app): State<App>,
    Body(q): Body<FolderChosen>,
) -> Result<impl IntoResponse, Problem> {
    let folder = match (app.frames.beneath(&q.folder), &q.what) {
        (Ok(folder), _) => folder,
        // One that is gone can still be left alone.
        (Err(_), FolderUse::Leave) => q.folder.clone().into(),
        (Err(why), _) => return Err(Problem::field("folder", why)),
    };
    let text = folder.display().to_string();
    match q.what {
        FolderUse::Read => app.frames.read_once(folder),
        FolderUse::Watch | FolderUse::Leave => {
            let watched = matches!(q.what, FolderUse::Watch);
            app.store.watch_folder(&text, watched).await?;
            app.frames.watch(folder, watched);
        }
    }
    Ok((StatusCode::ACCEPTED, folders(State(app)).await?))
}

/// Calls off the reading of folders that are read once.
#[utoipa::path(post, operation_id = "log_call_off", path = "/log/folders/call-off",
    responses((status = 204)))]
async fn call_off(State(app): State<App>) -> StatusCode {
    app.frames.call_off();
    StatusCode::NO_CONTENT
}

/// Plays a night of a stand-in camera into the first folder of frames, and watches it.
#[utoipa::path(post, operation_id = "log_play", path = "/log/play",
    responses((status = 202), (status = 422, body = Problem), (status = 429, body = Problem)))]
async fn play(State(app): State<App>) -> Result<StatusCode, Problem> {
    app.play_a_night().await?;
    Ok(StatusCode::ACCEPTED)
}

/// What comes in, as server-sent events: each a JSON object with its `kind`, `frame` or `reading`.
#[utoipa::path(get, operation_id = "log_live", path = "/log/live",
    responses((status = 200, body = LogNews, content_type = "text/event-stream")))]
async fn live(
    State(app): State<App>,
) -> Sse<impl Stream<Item = Result<Event, Infallible>> + use<>> {
    let news = BroadcastStream::new(app.frames.listen()).filter_map(|news| {
        // Who was too slow asks again: that is all that `reading` says.
        let news = news.unwrap_or(LogNews::Reading);
        Event::default().json_data(news).ok().map(Ok)
    });
    Sse::new(news).keep_alive(KeepAlive::default())
}
