//! Frames: measured from an upload, and judged as test frames of a light path.

use axum::Json;
use axum::body::Body as RawBody;
use axum::extract::State;
use axum::http::{HeaderMap, header};
use http_body_util::BodyExt;
use salt_lamp_core::Scenario;
use salt_lamp_core::frame::FrameMeasured;
use salt_lamp_core::frame::verdict::{FrameVerdict, Taken, judge};
use salt_lamp_formats::frame::{FrameError, read_frame, start_unix_s};
use serde::Deserialize;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use crate::http::extract::{Body, Params};
use crate::routes::asked::NightSite;
use crate::{App, Problem};

/// The largest frame that is taken by upload, bytes: 61 MP as 32-bit numbers.
const MOST_UPLOAD_BYTES: usize = 260_000_000;
/// The longest name of a file.
const LONGEST_NAME: usize = 255;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(measured)).routes(routes!(judged))
}

/// How an uploaded file is called.
#[derive(Deserialize, utoipa::IntoParams)]
#[serde(deny_unknown_fields)]
#[into_params(parameter_in = Query)]
pub(super) struct Named {
    /// Its name, by which its kind is told and errors call it.
    name: String,
}

/// A file's name without folders.
pub(super) fn checked_name(named: &Named) -> Result<String, Problem> {
    let name = named.name.rsplit(['/', '\\']).next().unwrap_or_default().to_owned();
    if name.is_empty() || name.len() > LONGEST_NAME || name.chars().any(char::is_control) {
        return Err(Problem::field(
            "name",
            format!("give a file's name of at most {LONGEST_NAME} letters"),
        ));
    }
    Ok(name)
}

impl From<FrameError> for Problem {
    fn from(e: FrameError) -> Self {
        Self::field("file", e.to_string())
    }
}

/// Measures a frame: FITS, TIFF or a raw file of a stock camera. The same object as
/// `salt-lamp measure --json` writes.
#[utoipa::path(post, operation_id = "frames_measure", path = "/frames/measure", params(Named),
    request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 200, body = FrameMeasured), (status = 422, body = Problem),
        (status = 413, body = Problem), (status = 429, body = Problem)))]
async fn measured(
    State(app): State<App>,
    Params(named): Params<Named>,
    headers: HeaderMap,
    body: RawBody,
) -> Result<Json<FrameMeasured>, Problem> {
    let name = checked_name(&named)?;
    // Two frames at a time stand in memory; who comes meanwhile is told to come again.
    let Ok(_seat) = app.uploads.try_acquire() else { return Err(Problem::busy()) };
    let bytes = whole(&name, &headers, body).await?;
    let work = app.heavy(move |_, threads| read_frame(&name, bytes)?.measure(threads));
    work.await?.map(Json).map_err(|e: FrameError| e.into())
}

/// A body of at most [`MOST_UPLOAD_BYTES`], gathered in one place.
pub(super) async fn whole(
    name: &str,
    headers: &HeaderMap,
    mut body: RawBody,
) -> Result<Vec<u8>, Problem> {
    let most = MOST_UPLOAD_BYTES / 1_000_000;
    let too_large = || {
        let said = format!(
            "{name} is larger than the {most} MB that are read here; `salt-lamp measure` reads \
             larger ones"
        );
        Problem::field("file", said)
    };
    let length = headers.get(header::CONTENT_LENGTH);
    let length = length.and_then(|v| v.to_str().ok()?.parse::<usize>().ok()).unwrap_or(0);
    if length > MOST_UPLOAD_BYTES {
        return Err(too_large());
    }
    let mut bytes = Vec::with_capacity(length);
    while let Some(frame) = body.frame().await {
        let frame = frame.map_err(|_| {
            Problem::field("file", format!("{name} did not arrive whole: send it again"))
        })?;
        let Ok(data) = frame.into_data() else { continue };
        if bytes.len() + data.len() > MOST_UPLOAD_BYTES {
            return Err(too_large());
        }
        bytes.extend_from_slice(&data);
    }
    Ok(bytes)
}

/// A frame and the light path that it was taken through.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct JudgeQuestion {
    /// The scenario.
    scenario: Scenario,
    /// Index of the light path.
    #[serde(default)]
    contender: usize,
    /// Index of its exposure.
    #[serde(default)]
    exposure: usize,
    /// The frame as it was measured; its header as it was corrected.
    frame: FrameMeasured,
    /// The site, where the header does not say it.
    #[serde(default)]
    site: Option<NightSite>,
}

/// Judges a measured frame as a test frame of a light path.
#[utoipa::path(post, operation_id = "frames_judge", path = "/frames/judge",
    request_body = JudgeQuestion,
    responses((status = 200, body = FrameVerdict), (status = 422, body = Problem)))]
async fn judged(
    State(app): State<App>,
    Body(q): Body<JudgeQuestion>,
) -> Result<Json<FrameVerdict>, Problem> {
    let scenario = q.scenario.check().map_err(Problem::fields)?;
    let site = match q.frame.site() {
        Some(site) => Some(site),
        None => q.site.map(|s| s.place()).transpose()?,
    };
    let work = app.heavy(move |app, _| {
        let taken = Taken {
            contender: q.contender,
            exposure: q.exposure,
            site,
            start_s: q.frame.read.header.start.as_deref().and_then(start_unix_s),
            frame: &q.frame,
        };
        judge(&scenario, &taken, &app.tables)
    });
    work.await?.map(Json).map_err(Problem::fields)
}
