//! Lines of a target from its own frames: a patch and a background are marked on one of them, found
//! again on the others by their stars, and measured in the files.

use axum::Json;
use axum::extract::{Path, State};
use salt_lamp_core::frame::FrameBox;
use salt_lamp_core::light::Quantity;
use salt_lamp_core::log::{LinesMeasured, PatchSub, is_of, lines_of};
use salt_lamp_core::scenario::{Known, Target};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use super::fitting::Fitting;
use super::ground::Ground;
use super::patches::{Held, Patch, chosen, held};
use crate::http::extract::Body;
use crate::{App, Problem};

pub(super) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(lines))
}

/// A patch and a background, marked on a frame of the night.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct LinesAsked {
    /// Id of the frame on which they are marked.
    frame: String,
    /// The patch of the target.
    patch: FrameBox,
    /// Sky beside it.
    background: FrameBox,
}

/// Lines of a target by its own frames.
#[derive(Serialize, ToSchema)]
struct LinesOfNight {
    /// The target.
    target: String,
    /// The lines.
    measured: LinesMeasured,
    /// The target with these lines, as it can be kept.
    emission: Target,
    /// Frames that were measured.
    frames: usize,
    /// All in sentences.
    told: Vec<String>,
}

/// Measures a target's lines in a patch of a night's kept frames, against a background beside it.
/// Nothing is kept.
#[utoipa::path(post, operation_id = "log_lines", path = "/log/sessions/{id}/lines",
    params(("id" = String, Path)), request_body = LinesAsked,
    responses((status = 200, body = LinesOfNight), (status = 404, body = Problem),
        (status = 422, body = Problem)))]
async fn lines(
    State(app): State<App>,
    Path(id): Path<String>,
    Body(q): Body<LinesAsked>,
) -> Result<Json<LinesOfNight>, Problem> {
    let ground = Ground::of(&app, &id).await?;
    let work = app.heavy(move |app, _| measured(app, &ground, &q));
    work.await?.map(Json)
}

fn measured(app: &App, ground: &Ground, q: &LinesAsked) -> Result<LinesOfNight, Problem> {
    let wrong = |field: &str, said: &str| Err(Problem::field(field, said));
    let marked = ground.frames.iter().map(|(f, _)| f).find(|f| f.id == q.frame);
    let Some(marked) = marked else {
        return wrong("frame", "this night has no such frame; give the id of one of its frames");
    };
    let marks = Patch { patch: q.patch, background: q.background };
    marks.on(marked, "")?;
    let Some(planned) = ground.planned.first() else {
        return wrong(
            "frame",
            "no campaign and no comparison is of what this night shows: begin one",
        );
    };
    let c = &planned.campaign;
    let own: Vec<_> = ground.frames.iter().filter(|(f, _)| is_of(&f.measured, c)).collect();
    let fit = Fitting::new(c, &ground.session, &own, &ground.names);
    let (Some(fit), Some((_, site))) = (fit, ground.site(c)) else {
        return wrong("frame", "its camera is none of the campaign's, or there is no site");
    };
    let Held { subs, frames, gone } = held(marked, &marks, &chosen(ground, c, &fit));
    let subs: Vec<PatchSub> = subs.into_iter().map(|(s, _)| s).collect();
    if frames == 0 {
        return wrong(
            "frame",
            "none of the night's kept frames could be opened and laid upon this one: their files are \
             gone, their stars are not matched, or gain and exposure are not known",
        );
    }
    let found = lines_of(&subs, (c, fit.path), site, &app.tables).map_err(Problem::fields)?;
    let Some(found) = found else {
        return wrong("frame", "no filter of these frames records a line of the target");
    };
    let mut emission = c.scenario.target.clone();
    emission.lines_rayleigh = found.as_lines;
    emission.known = Some(Known::Measured);
    let mut told: Vec<String> = found
        .lines
        .iter()
        .map(|l| {
            let name = match l.quantity {
                Quantity::Ha => "H-alpha with [N II]",
                q => c.scenario.target.lines_rayleigh.name_of(q),
            };
            format!("{name}: {:.1} \u{b1} {:.1} R.", l.rayleigh, l.sd_rayleigh)
        })
        .collect();
    told.push(format!(
        "From {frames} frames, {} channels of them{}.",
        found.channels,
        found
            .misfit
            .map_or(String::new(), |m| format!("; residuals {:.1} times their errors", m.sqrt()))
    ));
    if gone > 0 {
        told.push(format!(
            "{gone} frames were left out: their files are gone, or their stars do not match."
        ));
    }
    Ok(LinesOfNight { target: emission.name.clone(), measured: found, emission, frames, told })
}
