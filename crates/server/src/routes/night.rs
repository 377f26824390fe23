//! Nights: seen, planned, exported.

use axum::Json;
use axum::extract::State;
use axum::http::header;
use axum::response::{IntoResponse, Response};
use salt_lamp_core::Scenario;
use salt_lamp_core::campaign::{Campaign, Shot, shots_of};
use salt_lamp_core::night::{
    Direction, LockedBlock, NightEvents, NightRig, NightView, Plan, PlanSpec, cautions, dec_text,
    night_view, plan_night, plan_second, ra_text,
};
use salt_lamp_core::scenario::{NightLimits, Target};
use salt_lamp_formats::plan::{
    PlanDocument, PlanHead, PlanTarget, plan_csv, plan_document, plan_ics,
};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use super::asked::{ClockOffset, NightSite, SkyPlace, checked, direction, offsets, rig};
use super::tonight::events;
use crate::http::extract::{Body, Params};
use crate::{App, Problem};

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(see)).routes(routes!(summary)).routes(routes!(export))
}

/// A second target, for when the first has sunk.
#[derive(Clone, Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct SecondTarget {
    /// What it emits.
    target: Target,
    /// Where it is; the catalogue's place of its name where none is given.
    #[serde(default)]
    place: Option<SkyPlace>,
    /// Blocks of it that stay.
    #[serde(default)]
    locked: Vec<LockedBlock>,
    /// Goal of each exposure as a signal to noise; the scenario's where the list is short.
    #[serde(default)]
    goal_snr: Vec<f64>,
    /// Squares of the signal to noise that each exposure has of it already.
    #[serde(default)]
    done_snr2: Vec<f64>,
    /// Its campaign, as in the question.
    #[serde(default)]
    campaign: Option<Campaign>,
}

/// A night that is asked for.
#[derive(Clone, Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct NightQuestion {
    /// Target, sky and rigs.
    pub scenario: Scenario,
    /// Index of the contender whose rig is used.
    #[serde(default)]
    pub contender: usize,
    /// The site.
    pub site: NightSite,
    /// Evening's date, such as 2027-01-10.
    pub date: String,
    /// Where the target is; the catalogue's place of its name where none is given.
    #[serde(default)]
    pub place: Option<SkyPlace>,
    /// Limits.
    #[serde(default)]
    pub limits: NightLimits,
    /// What the plan is for.
    #[serde(default)]
    pub plan: PlanSpec,
    /// The campaign that the night is for: its framing, its goals and what it has from other
    /// evenings stand in the place of `place`, `plan.goal_snr` and `plan.done_snr2`.
    #[serde(default)]
    campaign: Option<Campaign>,
    /// A second target, for when the first has sunk.
    #[serde(default)]
    second: Option<SecondTarget>,
}

/// One target's night.
#[derive(Clone, Debug, Serialize, ToSchema)]
struct TargetNight {
    /// Its name.
    target: String,
    /// Right ascension, degrees.
    ra_deg: f64,
    /// Declination, degrees.
    dec_deg: f64,
    /// The same in hours and degrees with minutes and seconds.
    coordinates: String,
    /// The night.
    view: NightView,
    /// The plan.
    plan: Plan,
    /// What the plan adds to a campaign when all its subs are kept: subs of each exposure, and the
    /// square of the signal to noise of every line.
    shots: Vec<Shot>,
}

impl TargetNight {
    fn new(target: String, at: &Direction, rig: &NightRig, view: NightView, plan: Plan) -> Self {
        let (ra_deg, dec_deg, coordinates) = (at.ra_deg, at.dec_deg, coordinates_text(at));
        Self { target, ra_deg, dec_deg, coordinates, view, shots: shots_of(&plan, rig), plan }
    }
}

/// Where a campaign is framed, what it wants, and what it has from other evenings.
fn of_campaign(
    campaign: &Campaign,
    path: &str,
    date: &str,
) -> Result<(SkyPlace, Vec<f64>, Vec<f64>), Problem> {
    campaign.check().map_err(|mut errors| {
        errors.iter_mut().for_each(|e| e.path = format!("{path}.{}", e.path));
        Problem::fields(errors)
    })?;
    let framed = SkyPlace { ra_deg: campaign.framing.ra_deg, dec_deg: campaign.framing.dec_deg };
    Ok((framed, campaign.goal_snr_of_exposures(), campaign.done_before_snr2(date)))
}

/// A night, seen and planned.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub(crate) struct NightAnswer {
    /// Evening's date.
    date: String,
    /// IANA zone, or an offset.
    zone: String,
    /// Local time.
    clock: Vec<ClockOffset>,
    /// Names of the exposures' filters.
    filters: Vec<String>,
    /// The first target.
    first: TargetNight,
    /// The second, after the first has sunk.
    second: Option<TargetNight>,
    /// Reminders where the work touches them.
    cautions: Vec<String>,
}

fn coordinates_text(d: &Direction) -> String {
    format!("{} {}", ra_text(d.ra_deg), dec_text(d.dec_deg))
}

fn answer(app: &App, mut q: NightQuestion) -> Result<NightAnswer, Problem> {
    if let Some(campaign) = &q.campaign {
        let (framed, goals, done) = of_campaign(campaign, "campaign", &q.date)?;
        (q.place, q.plan.goal_snr, q.plan.done_snr2) = (Some(framed), goals, done);
    }
    let place = q.site.place()?;
    let local = q.site.night(&q.date)?;
    q.limits.check().map_err(Problem::fields)?;
    let name = q.scenario.target.name.clone();
    let at = direction(app, q.place, &name, "place")?;
    q.scenario.target.stands_at(at.ra_deg, at.dec_deg);
    let of_first = q.scenario.clone();
    let scenario = checked(q.scenario)?;
    let (first_rig, filters) = rig(app, &scenario, q.contender)?;
    q.plan.check(first_rig.len()).map_err(Problem::fields)?;
    let view = night_view(place, local.from_s, local.to_s, at, &q.limits, Some(&first_rig))?;
    let mut plan = plan_night(&first_rig, &filters, &view, &q.plan, &local.clock);
    let second = match q.second {
        None => None,
        Some(mut second) => {
            if let Some(campaign) = &second.campaign {
                let (framed, goals, done) = of_campaign(campaign, "second.campaign", &q.date)?;
                (second.place, second.goal_snr, second.done_snr2) = (Some(framed), goals, done);
            }
            let at = direction(app, second.place, &second.target.name, "second.place")?;
            second.target.stands_at(at.ra_deg, at.dec_deg);
            let target = second.target.name.clone();
            let scenario = checked(Scenario { target: second.target, ..of_first })?;
            let (rig, names) = rig(app, &scenario, q.contender)?;
            let mut view = night_view(place, local.from_s, local.to_s, at, &q.limits, Some(&rig))?;
            let spec = PlanSpec {
                locked: second.locked,
                goal_snr: second.goal_snr,
                done_snr2: second.done_snr2,
                ..q.plan.clone()
            };
            spec.check(rig.len()).map_err(|mut errors| {
                errors.iter_mut().for_each(|e| e.path = e.path.replacen("plan.", "second.", 1));
                Problem::fields(errors)
            })?;
            let plan = plan_second(&mut plan, &rig, &names, &mut view, &spec, &local.clock);
            Some(TargetNight::new(target, &at, &rig, view, plan))
        }
    };
    Ok(NightAnswer {
        date: q.date,
        zone: q.site.zone.clone().unwrap_or_else(|| "by longitude".into()),
        clock: offsets(&local.clock),
        filters,
        cautions: cautions(&view, &plan),
        first: TargetNight::new(name, &at, &first_rig, view, plan),
        second,
    })
}

/// A night from noon to noon: darkness, target, moon, every filter's rate, and the plan.
#[utoipa::path(post, operation_id = "night_see", path = "/night", request_body = NightQuestion,
    responses((status = 200, body = NightAnswer), (status = 422, body = Problem)))]
async fn see(
    State(app): State<App>,
    Body(q): Body<NightQuestion>,
) -> Result<Json<NightAnswer>, Problem> {
    app.heavy(move |app, _| answer(app, q)).await?.map(Json)
}

/// A site and a date.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct NightSummaryQuestion {
    /// The site.
    site: NightSite,
    /// Evening's date.
    date: String,
}

/// What the line at the foot says of a night.
#[derive(Serialize, ToSchema)]
struct NightSummary {
    /// Its times; those of a target are left out.
    events: NightEvents,
    /// Local time.
    clock: Vec<ClockOffset>,
}

/// Darkness and moon of a night.
#[utoipa::path(post, operation_id = "night_summary", path = "/night/summary",
    request_body = NightSummaryQuestion,
    responses((status = 200, body = NightSummary), (status = 422, body = Problem)))]
async fn summary(
    State(app): State<App>,
    Body(q): Body<NightSummaryQuestion>,
) -> Result<Json<NightSummary>, Problem> {
    q.site.place()?;
    let local = q.site.night(&q.date)?;
    let work = app.heavy(move |_, _| {
        let events = events(&q.site, &local, &NightLimits::default())?;
        Ok(NightSummary { events, clock: offsets(&local.clock) })
    });
    work.await?.map(Json)
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
    let parts: Vec<(PlanTarget, &Plan)> = std::iter::once(&a.first)
        .chain(&a.second)
        .map(|t| {
            let (target, coordinates) = (t.target.clone(), t.coordinates.clone());
            (PlanTarget { target, ra_deg: t.ra_deg, dec_deg: t.dec_deg, coordinates }, &t.plan)
        })
        .collect();
    let text =
        |mime: &'static str, body: String| ([(header::CONTENT_TYPE, mime)], body).into_response();
    Ok(match file.format {
        PlanKind::Json => Json(plan_document(&head, &parts)).into_response(),
        PlanKind::Csv => text("text/csv; charset=utf-8", plan_csv(&head, &parts)),
        PlanKind::Ics => text("text/calendar; charset=utf-8", plan_ics(&head, &parts)),
    })
}
