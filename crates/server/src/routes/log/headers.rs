//! What is known of a night's frames beside their pixels: headers that are corrected for the whole
//! session, and the guider's table.

use axum::Json;
use axum::body::Body as RawBody;
use axum::extract::{Path, State};
use axum::http::{HeaderMap, StatusCode};
use salt_lamp_core::log::Corrections;
use salt_lamp_formats::guiding::{guiding_over, read_guiding};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use crate::http::extract::Body;
use crate::routes::frames::whole;
use crate::{App, Problem};

pub(super) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(correct)).routes(routes!(guiding))
}

/// What a night's headers should say.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct HeadersCorrected {
    /// All that is corrected; what stood before is replaced.
    corrections: Corrections,
}

/// Corrects what the headers of a night say, for all its frames; what is left out stays as the files
/// have it. Nothing is written into the files.
#[utoipa::path(put, operation_id = "log_correct", path = "/log/sessions/{id}/corrections",
    params(("id" = String, Path)), request_body = HeadersCorrected,
    responses((status = 204), (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn correct(
    State(app): State<App>,
    Path(id): Path<String>,
    Body(q): Body<HeadersCorrected>,
) -> Result<StatusCode, Problem> {
    q.corrections.check().map_err(Problem::fields)?;
    app.store.correct_session(&id, &q.corrections).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// What became of a guider's table.
#[derive(Serialize, ToSchema)]
struct GuidingRead {
    /// Frames into which errors fell.
    frames: usize,
    /// Errors in the table.
    errors: usize,
}

/// Takes a guider's table (CSV: `at_utc` with `error_arcsec`, or with `ra_arcsec` and `dec_arcsec`) to a
/// night: each frame gets the root mean square of what falls into it.
#[utoipa::path(post, operation_id = "log_guiding", path = "/log/sessions/{id}/guiding",
    params(("id" = String, Path)),
    request_body(content = String, content_type = "text/csv"),
    responses((status = 200, body = GuidingRead), (status = 404, body = Problem),
        (status = 413, body = Problem), (status = 422, body = Problem)))]
async fn guiding(
    State(app): State<App>,
    Path(id): Path<String>,
    headers: HeaderMap,
    body: RawBody,
) -> Result<Json<GuidingRead>, Problem> {
    app.store.log_session(&id).await?;
    let bytes = whole("the guider's table", &headers, body).await?;
    let text = String::from_utf8(bytes)
        .map_err(|_| Problem::field("file", "the guider's table is no text: give a CSV file"))?;
    let (frames, _) = app.store.frames_of(&id).await?;
    let work = app.heavy(move |_, _| {
        let errors = read_guiding(&text)?;
        let of = |f: &salt_lamp_store::LoggedFrame| {
            let s = f.measured.read.header.exposure_s.unwrap_or(0.0);
            (f.id.clone(), f.start_s.and_then(|start| guiding_over(&errors, start, s)))
        };
        Ok::<_, String>((frames.iter().map(of).collect::<Vec<_>>(), errors.len()))
    });
    let (all, errors) = work.await?.map_err(|why| Problem::field("file", why))?;
    let frames = all.iter().filter(|(_, rms)| rms.is_some()).count();
    if frames == 0 {
        let said =
            "no time in the guider's table falls into a frame of this night: are they in UTC?";
        return Err(Problem::field("file", said));
    }
    app.store.keep_guiding(&all).await?;
    Ok(Json(GuidingRead { frames, errors }))
}
