//! Looks as files: a picture as PNG, stacks and whole subs as FITS.

use axum::body::Body as Bytes;
use axum::extract::State;
use axum::response::Response;
use salt_lamp_core::look::{LookView, whole_sub};
use salt_lamp_core::scenario::Pointing;
use salt_lamp_core::{Checked, Scenario};
use salt_lamp_formats::picture::write_png;
use salt_lamp_formats::simulated::Simulated;
use serde::Deserialize;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use super::{LookQuestion, accepted, attachment, counted};
use crate::http::cache::json;
use crate::http::extract::Body;
use crate::routes::stars::pointing;
use crate::{App, Problem};

/// Most pixels of a whole sub that is written: more take longer than anybody should wait.
const MOST_SUB_PIXELS: u64 = 65_000_000;

pub(super) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(picture)).routes(routes!(fits))
}

/// What is wanted of a file.
#[derive(Clone, Copy, Default, Deserialize, PartialEq, Eq, ToSchema)]
#[serde(rename_all = "snake_case")]
enum FitsKind {
    /// One plane's stack over the crop, electrons.
    #[default]
    Crop,
    /// A whole simulated sub of the sensor, ADU.
    Sub,
}

/// A file that is wanted.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct FileQuestion {
    /// The scenario; null where `look` names one.
    #[serde(default)]
    scenario: Option<Scenario>,
    /// Id of a scenario that was posted.
    #[serde(default)]
    look: Option<String>,
    /// How the look is wanted.
    #[serde(default)]
    view: LookView,
    /// Index of the contender.
    #[serde(default)]
    contender: usize,
    /// Index of the exposure; for a crop of a colour camera its first channel is taken.
    #[serde(default)]
    exposure: usize,
    /// What is wanted; FITS only.
    #[serde(default)]
    kind: FitsKind,
    /// Where it looks; the scenario's frame, its target's place or the catalogue's where none is
    /// given.
    #[serde(default)]
    centre: Option<Pointing>,
}

/// A file question whose every part was accepted.
struct Wanted {
    scenario: Checked,
    view: LookView,
    contender: usize,
    exposure: usize,
    kind: FitsKind,
    centre: Option<Pointing>,
}

fn wanted(app: &App, q: FileQuestion) -> Result<Wanted, Problem> {
    let (scenario, view) =
        accepted(app, LookQuestion { scenario: q.scenario, look: q.look, view: q.view })?;
    let s = scenario.scenario();
    let Some(c) = s.contenders.get(q.contender) else {
        return Err(Problem::field(
            "contender",
            format!("there is no contender {}; count from 0", q.contender),
        ));
    };
    if q.exposure >= c.exposures.len() {
        return Err(Problem::field(
            "exposure",
            format!("there is no exposure {}; count from 0", q.exposure),
        ));
    }
    let centre = match q.centre {
        Some(at) => Some(pointing(at, "centre")?),
        None => s.pointing().or_else(|| Some(app.catalogue.get(&s.target.name)?.place())),
    };
    Ok(Wanted {
        view,
        contender: q.contender,
        exposure: q.exposure,
        kind: q.kind,
        centre,
        scenario,
    })
}

/// One contender's picture as PNG, with the settings that made it as text inside.
#[utoipa::path(post, operation_id = "look_picture", path = "/look/picture",
    request_body = FileQuestion,
    responses((status = 200, content_type = "image/png", body = Vec<u8>),
    (status = 422, body = Problem)))]
async fn picture(State(app): State<App>, Body(q): Body<FileQuestion>) -> Result<Response, Problem> {
    let wanted = wanted(&app, q)?;
    let Wanted { scenario, view, contender, .. } = wanted;
    let s = scenario.scenario().clone();
    let look = counted(&app, scenario, view).await?;
    let bytes = app.heavy(move |_, _| {
        let crop = look.crop(contender, &view, look.white(&view));
        let settings = [
            ("Title", format!("{}: {}", s.title, s.contenders[contender].name)),
            ("Software", "Salt Lamp".to_owned()),
            (
                "Comment",
                "A simulated picture, computed from the light path's own numbers.".to_owned(),
            ),
            ("View", json(&view)?),
            ("Scenario", json(&s)?),
        ];
        write_png(&crop, &settings).map_err(Problem::fault)
    });
    Ok(attachment("look.png", "image/png", Bytes::from(bytes.await??)))
}

/// A crop's stack in electrons (32-bit floating point), or a whole simulated sub in ADU (unsigned
/// integers).
#[utoipa::path(post, operation_id = "look_fits", path = "/look/fits", request_body = FileQuestion,
    responses((status = 200, content_type = "application/fits", body = Vec<u8>),
    (status = 422, body = Problem)))]
async fn fits(State(app): State<App>, Body(q): Body<FileQuestion>) -> Result<Response, Problem> {
    let w = wanted(&app, q)?;
    let s = w.scenario.scenario();
    let name = format!("{}-{}.fits", s.target.name, w.contender);
    let sensor = &s.contenders[w.contender].sensor;
    let pixels = u64::from(sensor.columns) * u64::from(sensor.rows);
    if w.kind == FitsKind::Sub && pixels > MOST_SUB_PIXELS {
        let most = MOST_SUB_PIXELS / 1_000_000;
        let message = format!(
            "a sub of {} million pixels is not written; at most {most} million are",
            pixels / 1_000_000
        );
        return Err(Problem::field(
            &format!("scenario.contenders[{}].sensor.columns", w.contender),
            message,
        ));
    }
    let made_at = jiff::Timestamp::now().strftime("%Y-%m-%dT%H:%M:%S").to_string();
    if w.kind == FitsKind::Sub {
        let body = app.sent(move |app, threads, mut out| {
            let at = (&w.view, w.centre);
            let sub = whole_sub(&w.scenario, w.contender, w.exposure, at, &app.tables, threads);
            let sub = sub.ok_or_else(|| std::io::Error::other("there is no such exposure"))?;
            simulated(&w, &made_at).sub_file(&sub, &mut out)
        });
        return Ok(attachment(&name, "application/fits", body.await?));
    }
    let bytes = app.heavy(move |app, threads| {
        let look = app.looks.get(w.scenario.clone(), &w.view, &app.tables, threads)?;
        simulated(&w, &made_at).crop_file(&look).map_err(Problem::fault)
    });
    Ok(attachment(&name, "application/fits", Bytes::from(bytes.await??)))
}

fn simulated<'a>(w: &'a Wanted, made_at: &'a str) -> Simulated<'a> {
    Simulated {
        scenario: w.scenario.scenario(),
        view: &w.view,
        contender: w.contender,
        exposure: w.exposure,
        centre: w.centre,
        made_at,
    }
}
