//! A trial filled from the log: which frames of a night are of which kind, and what is judged of each,
//! measured in their files.

use std::collections::BTreeMap;

use axum::extract::{Path, State};
use axum::http::StatusCode;
use axum::response::IntoResponse;
use salt_lamp_core::campaign::Campaign;
use salt_lamp_core::frame::{BoxMeasured, FrameKind};
use salt_lamp_core::log::{FrameJudged, NightModel, is_of};
use salt_lamp_core::trial::{
    Covariate, FrameFacts, FrameInTrial, Judged, Trial, TrialMarks, channel_of, kind_of,
    measure_of, starlight_over,
};
use salt_lamp_store::{LoggedFrame, StoredTrial};
use serde::Deserialize;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use super::saved;
use crate::http::extract::{Body, Revision};
use crate::routes::log::{Ground, Patch, frame_meaning, is_kept, measured_on};
use crate::{App, Play, Problem};

pub(super) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(gather)).routes(routes!(play))
}

/// From which nights a trial is filled.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct TrialNights {
    /// Ids of nights in the log.
    nights: Vec<String>,
    /// What is marked on one of their frames; what the trial has where none is given.
    #[serde(default)]
    marks: Option<TrialMarks>,
}

/// Frames of nights, each with what it was worth, and its night's place among them.
struct Gathered<'a> {
    ground: &'a Ground,
    frame: &'a LoggedFrame,
    judged: &'a FrameJudged,
}

fn gathered<'a>(grounds: &'a [Ground], c: &Campaign) -> Vec<Gathered<'a>> {
    let of = |ground: &'a Ground| {
        let own = ground.frames.iter().filter_map(move |(frame, judged)| {
            Some(Gathered { ground, frame, judged: judged.as_ref()? })
        });
        own.filter(|g| {
            let sky = g.frame.measured.read.header.kind.is_none_or(|k| k == FrameKind::Light);
            sky && g.frame.start_s.is_some() && is_of(&g.frame.measured, c)
        })
    };
    grounds.iter().flat_map(of).collect()
}

/// The pair of boxes of one channel: green, or the only one.
fn in_channel([on, beside]: &[Vec<BoxMeasured>; 2], channel: &str) -> Option<[BoxMeasured; 2]> {
    let of = |all: &[BoxMeasured]| all.iter().find(|b| b.channel == channel).copied();
    Some([of(on)?, of(beside)?])
}

fn filled(app: &App, trial: &Trial, grounds: &[Ground]) -> Result<Vec<FrameInTrial>, Problem> {
    let whole = trial.as_campaign();
    let frames = gathered(grounds, &whole);
    let marked = match (&trial.marks, trial.judged.of_a_patch()) {
        (_, false) => None,
        (None, true) => {
            let said =
                format!("mark a patch on a frame: the trial is judged by {}", trial.judged.name());
            return Err(Problem::field("marks", &said));
        }
        (Some(m), true) => {
            let Some(own) = frames.iter().find(|g| g.frame.id == m.frame) else {
                let said = "it is none of the frames of these nights; mark one of them";
                return Err(Problem::field("marks.frame", said));
            };
            let patch = Patch { patch: m.patch, background: m.background };
            patch.on(own.frame, "marks.")?;
            Some((own.frame, patch))
        }
    };
    let before: BTreeMap<&str, &FrameInTrial> =
        trial.frames.iter().map(|f| (f.id.as_str(), f)).collect();
    let reference = frames.iter().find(|g| is_kept(g.frame, Some(g.judged))).map(|g| g.frame);
    let one = |g: &Gathered| {
        let h = &g.frame.measured.read.header;
        let by_hand = before.get(g.frame.id.as_str()).filter(|o| o.by_hand);
        let by_header = || kind_of(trial, h, frame_meaning(g.ground, g.frame));
        let boxes = marked.as_ref().and_then(|(on, patch)| {
            in_channel(
                &measured_on(on, g.frame, patch)?,
                channel_of(trial.quantity, &g.judged.channel),
            )
        });
        let starlight = (trial.judged == Judged::FaintestStar)
            .then(|| starlight_over(&g.frame.measured, &reference?.measured))
            .flatten();
        let facts = FrameFacts { header: h, judged: g.judged, boxes, starlight };
        let start_s = g.frame.start_s.unwrap_or(0.0);
        let mut known = BTreeMap::new();
        let mut knows = |what: Covariate, value: Option<f64>| {
            if let Some(v) = value.filter(|v| v.is_finite()) {
                known.insert(what, v);
            }
        };
        knows(Covariate::Transparency, g.judged.transparency);
        knows(Covariate::Airmass, g.judged.airmass);
        knows(Covariate::StarSize, g.judged.hfr_px);
        knows(Covariate::Guiding, g.judged.guiding_arcsec);
        FrameInTrial {
            id: g.frame.id.clone(),
            name: g.frame.measured.file.clone(),
            kind: by_hand.map_or_else(by_header, |o| o.kind),
            by_hand: by_hand.is_some(),
            left_out: by_hand.map_or_else(|| !is_kept(g.frame, Some(g.judged)), |o| o.left_out),
            start_s,
            measure: measure_of(trial.judged, &facts),
            known,
        }
    };
    let mut all: Vec<FrameInTrial> = frames.iter().map(one).collect();
    moonlight(app, trial, grounds, &mut all);
    all.sort_by(|a, b| a.start_s.total_cmp(&b.start_s));
    Ok(all)
}

/// The moon's and twilight's share of the sky's light in each frame, through the first kind's filter
/// for all: through each one's own it would go with the kind.
fn moonlight(app: &App, trial: &Trial, grounds: &[Ground], frames: &mut [FrameInTrial]) {
    let times = || frames.iter().map(|f| f.start_s);
    let span = [times().fold(f64::INFINITY, f64::min), times().fold(0.0, f64::max) + 3600.0];
    let c = trial.as_campaign();
    let Some(first) = trial.kinds.first().filter(|_| span[0] < span[1]) else { return };
    let Some(site) = grounds.first().and_then(|g| g.site(&c)).map(|(_, s)| s) else { return };
    let model = NightModel::new((&c, first.path), site, span, &app.tables);
    let Ok(Some(model)) = model else { return };
    let sensor = &trial.scenario.contenders[first.path].sensor;
    let channels = sensor.channels();
    let Some(channel) = channels.iter().map(|c| c.name).find(|n| matches!(*n, "g" | "mono")) else {
        return;
    };
    for f in frames {
        if let Some(p) = model.at(first.exposure, channel, f.start_s) {
            f.known.insert(Covariate::Moonlight, p.passing_share);
        }
    }
}

/// Plays a trial by its run sheet with a stand-in camera, into the first folder of frames: its frames come
/// into the log, and are brought into the trial from there.
#[utoipa::path(post, operation_id = "trials_play", path = "/trials/{id}/play",
    params(("id" = String, Path)),
    responses((status = 202), (status = 404, body = Problem), (status = 422, body = Problem),
        (status = 429, body = Problem)))]
async fn play(State(app): State<App>, Path(id): Path<String>) -> Result<StatusCode, Problem> {
    let trial = app.store.trial(&id).await?.trial;
    if trial.kinds.iter().any(|k| k.path != trial.kinds[0].path) {
        let said = "the stand-in plays filters of one light path; this trial has several";
        return Err(Problem::field("kinds", said));
    }
    app.play(Play::Trial(Box::new(trial))).await?;
    Ok(StatusCode::ACCEPTED)
}

/// Fills a trial from nights of the log, over the revision named in If-Match: every frame of its
/// target with its kind and what is judged of it. What was said by hand of a frame stays.
#[utoipa::path(post, operation_id = "trials_gather", path = "/trials/{id}/frames",
    request_body = TrialNights,
    params(("id" = String, Path), ("If-Match" = String, Header, description = "The revision this \
        save started from, in double quotes")),
    responses((status = 200, body = StoredTrial), (status = 404, body = Problem),
    (status = 412, body = Problem), (status = 422, body = Problem)))]
async fn gather(
    State(app): State<App>,
    Path(id): Path<String>,
    Revision(revision): Revision,
    Body(q): Body<TrialNights>,
) -> Result<impl IntoResponse, Problem> {
    let mut trial = app.store.trial(&id).await?.trial;
    let mut grounds = Vec::new();
    for night in q.nights.iter().take(20) {
        grounds.push(Ground::of(&app, night).await?);
    }
    trial.nights = q.nights;
    trial.marks = q.marks.or(trial.marks);
    let work = app.heavy(move |app, _| {
        trial.frames = filled(app, &trial, &grounds)?;
        Ok::<_, Problem>(trial)
    });
    let trial = work.await??;
    if trial.frames.is_empty() {
        let said = "none of their frames is of the trial's target; choose other nights";
        return Err(Problem::field("nights", said));
    }
    saved(&app, &id, revision, &trial).await
}
