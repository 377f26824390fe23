//! A night's plan as files: the plan itself, and the plain table that is copied to whatever runs the
//! camera.

use axum::Json;
use axum::extract::State;
use axum::http::header;
use axum::response::{IntoResponse, Response};
use salt_lamp_core::Scenario;
use salt_lamp_core::campaign::Campaign;
use salt_lamp_core::library::RigParts;
use salt_lamp_core::night::{Overheads, Plan};
use salt_lamp_core::scenario::Contender;
use salt_lamp_formats::plan::{
    PlanDocument, PlanHead, PlanTarget, plan_csv, plan_document, plan_ics,
};
use salt_lamp_formats::sequence::{
    SequenceDocument, SequencePart, Setting, sequence, sequence_csv,
};
use serde::Deserialize;
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use super::kit::Shelf;
use super::night::{NightQuestion, TargetNight, answer};
use crate::http::extract::{Body, Params};
use crate::{App, Problem};

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(export)).routes(routes!(sequenced))
}

/// In which format a plan is wanted.
#[derive(Clone, Copy, Default, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
enum PlanKind {
    #[default]
    Json,
    Csv,
    Ics,
}

#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct PlanFile {
    /// `json` (the default), `csv` or `ics`.
    #[serde(default)]
    #[param(inline)]
    format: PlanKind,
}

/// What a target is and where, for files.
fn named(t: &TargetNight) -> PlanTarget {
    let (target, coordinates) = (t.target.clone(), t.coordinates.clone());
    PlanTarget { target, ra_deg: t.ra_deg, dec_deg: t.dec_deg, coordinates }
}

/// The plan as a file: the published JSON, CSV, or iCalendar with alarms.
#[utoipa::path(post, operation_id = "night_export", path = "/night/plan",
    request_body = NightQuestion, params(PlanFile),
    responses((status = 200, body = PlanDocument), (status = 422, body = Problem)))]
async fn export(
    State(app): State<App>,
    Params(file): Params<PlanFile>,
    Body(q): Body<NightQuestion>,
) -> Result<Response, Problem> {
    let (site, zone) = (q.site.name.clone(), q.site.zone.clone().unwrap_or_default());
    let a = app.heavy(move |app, _| answer(app, q)).await??;
    let head = PlanHead { site, zone, date: a.date.clone() };
    let parts: Vec<(PlanTarget, &Plan)> = a.targets().map(|t| (named(t), &t.plan)).collect();
    let text =
        |mime: &'static str, body: String| ([(header::CONTENT_TYPE, mime)], body).into_response();
    Ok(match file.format {
        PlanKind::Json => Json(plan_document(&head, &parts)).into_response(),
        PlanKind::Csv => text("text/csv; charset=utf-8", plan_csv(&head, &parts)),
        PlanKind::Ics => text("text/calendar; charset=utf-8", plan_ics(&head, &parts)),
    })
}

/// In which format a sequence is wanted.
#[derive(Clone, Copy, Default, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
enum SequenceKind {
    #[default]
    Json,
    Csv,
}

#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct SequenceFile {
    /// `json` (the default) or `csv`.
    #[serde(default)]
    #[param(inline)]
    format: SequenceKind,
}

/// How a target's camera is set: its light path, and the angle at which it is framed.
struct Camera {
    contender: Contender,
    position_angle_deg: Option<f64>,
    slots: Vec<Option<u32>>,
}

impl Camera {
    fn new(
        shelf: &Shelf,
        scenario: &Scenario,
        contender: usize,
        campaign: Option<&Campaign>,
    ) -> Option<Self> {
        let contender = scenario.contenders.get(contender)?.clone();
        let framed = scenario.frame.as_ref().map(|f| f.at.position_angle_deg);
        Some(Self {
            position_angle_deg: campaign.map(|c| c.framing.position_angle_deg).or(framed),
            slots: slots_of(shelf, &contender),
            contender,
        })
    }
}

/// The number of the slot that holds each exposure's filter, in the rig of the kit that has most of
/// them beside the same camera.
fn slots_of(shelf: &Shelf, contender: &Contender) -> Vec<Option<u32>> {
    let numbers = |r: &RigParts| -> Vec<Option<u32>> {
        let slot = |name: &str| {
            let holds = r.filters.iter().zip(&r.rig.slots);
            holds
                .into_iter()
                .find(|(f, _)| f.is_some_and(|f| f.filter.name == name))
                .map(|h| h.1.number)
        };
        let own = |e: &salt_lamp_core::scenario::Exposure| slot(&e.filter.as_ref()?.name);
        contender.exposures.iter().map(own).collect()
    };
    let same_camera = |r: &&RigParts| r.camera.sensor.name == contender.sensor.name;
    let all = shelf.rigs();
    let found = |n: &Vec<Option<u32>>| n.iter().flatten().count();
    let best = all.iter().filter(same_camera).map(numbers).max_by_key(found);
    best.unwrap_or_else(|| vec![None; contender.exposures.len()])
}

fn part<'a>(t: &'a TargetNight, camera: Camera, o: &Overheads) -> SequencePart<'a> {
    let set = |(e, slot): (&salt_lamp_core::scenario::Exposure, Option<u32>)| Setting {
        slot,
        binning: e.binning,
    };
    SequencePart {
        target: named(t),
        position_angle_deg: camera.position_angle_deg,
        plan: &t.plan,
        path: t.path.clone(),
        gain: camera.contender.gain,
        settings: camera.contender.exposures.iter().zip(camera.slots).map(set).collect(),
        dither_every: o.dither_every,
        refocus_on_change: o.refocus_on_change,
        refocus_every_min: o.refocus_every_min,
    }
}

/// The plan as a table that a person copies to whatever runs the camera: target, framing, filter,
/// slot, gain, sub, count, dither, refocus.
#[utoipa::path(post, operation_id = "night_sequence", path = "/night/sequence",
    request_body = NightQuestion, params(SequenceFile),
    responses((status = 200, body = SequenceDocument), (status = 422, body = Problem)))]
async fn sequenced(
    State(app): State<App>,
    Params(file): Params<SequenceFile>,
    Body(q): Body<NightQuestion>,
) -> Result<Response, Problem> {
    let shelf = Shelf::of(&app).await?;
    let overheads = q.plan.overheads;
    let mut cameras = vec![Camera::new(&shelf, &q.scenario, q.contender, q.campaign.as_ref())];
    cameras.extend(q.others.iter().map(|t| {
        let scenario = t.scenario.as_ref().unwrap_or(&q.scenario);
        Camera::new(&shelf, scenario, t.contender.unwrap_or(q.contender), t.campaign.as_ref())
    }));
    let (site, zone) = (q.site.name.clone(), q.site.zone.clone().unwrap_or_default());
    let a = app.heavy(move |app, _| answer(app, q)).await??;
    let head = PlanHead { site, zone, date: a.date.clone() };
    let parts: Vec<SequencePart> = a
        .targets()
        .zip(cameras)
        .filter_map(|(t, camera)| Some(part(t, camera?, &overheads)))
        .collect();
    let document = sequence(&head, &parts);
    Ok(match file.format {
        SequenceKind::Json => Json(document).into_response(),
        SequenceKind::Csv => {
            ([(header::CONTENT_TYPE, "text/csv; charset=utf-8")], sequence_csv(&document))
                .into_response()
        }
    })
}
