//! Nights: seen and planned, of one target or several.

use axum::Json;
use axum::extract::State;
use salt_lamp_core::Scenario;
use salt_lamp_core::campaign::{Campaign, Shot, shots_of};
use salt_lamp_core::night::{
    Change, Direction, LocalClock, LockedBlock, MOST_TARGETS, NEAR_THE_MOON_DEG, NIGHTS_AHEAD,
    NightEvents, NightTarget, NightView, OFFERED_DEG, Plan, PlanGoal, PlanSpec, TwilightOffer,
    cautions, dec_text, plan_targets, ra_text, twilight_offer,
};
use salt_lamp_core::scenario::{NightLimits, Target};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use super::asked::{ClockOffset, NightSite, SkyPlace, checked, direction, moved, offsets};
use super::prepared::{Asked, Common, Prepared, further, of_campaign, through};
use super::tonight::events;
use crate::http::extract::Body;
use crate::http::zones::{date, noons};
use crate::{App, Problem};

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(see)).routes(routes!(summary))
}

/// A further target of a night.
#[derive(Clone, Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct FurtherTarget {
    /// Target, sky and rigs of its own; the question's rigs and sky where none is given.
    #[serde(default)]
    pub scenario: Option<Scenario>,
    /// Index of its contender; the question's where none is given.
    #[serde(default)]
    pub contender: Option<usize>,
    /// What it emits, where it has no scenario of its own.
    #[serde(default)]
    pub target: Option<Target>,
    /// Where it is; the catalogue's place of its name where none is given.
    #[serde(default)]
    pub place: Option<SkyPlace>,
    /// Its limits; the question's where none are given.
    #[serde(default)]
    pub limits: Option<NightLimits>,
    /// How it takes over from the target before it.
    #[serde(default)]
    pub change: Change,
    /// What its plan is for; the question's where none is given.
    #[serde(default)]
    pub goal: Option<PlanGoal>,
    /// Blocks of it that stay.
    #[serde(default)]
    pub locked: Vec<LockedBlock>,
    /// Goal of each exposure as a signal to noise; the scenario's where the list is short.
    #[serde(default)]
    pub goal_snr: Vec<f64>,
    /// Squares of the signal to noise that each exposure has of it already.
    #[serde(default)]
    pub done_snr2: Vec<f64>,
    /// Its campaign, as in the question.
    #[serde(default)]
    pub campaign: Option<Campaign>,
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
    /// Limits. The hours of the clock are those of the night: set-up begins no earlier, the last
    /// sub ends no later.
    #[serde(default)]
    pub limits: NightLimits,
    /// Hours between which the first target is shot, within those of the night.
    #[serde(default)]
    pub first_limits: Option<NightLimits>,
    /// What the plan is for.
    #[serde(default)]
    pub plan: PlanSpec,
    /// The campaign that the night is for: its framing, its goals and what it has from other
    /// evenings stand in the place of `place`, `plan.goal_snr` and `plan.done_snr2`.
    #[serde(default)]
    pub campaign: Option<Campaign>,
    /// Whether a campaign's evening is weighed against the nights to come: what has far better ones
    /// ahead waits for them.
    #[serde(default = "yes")]
    #[schema(default = true)]
    pub weigh: bool,
    /// Further targets, in the order in which they come.
    #[serde(default)]
    pub others: Vec<FurtherTarget>,
}

fn yes() -> bool {
    true
}

/// One target's night.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub(crate) struct TargetNight {
    /// Its name.
    pub target: String,
    /// Right ascension, degrees.
    pub ra_deg: f64,
    /// Declination, degrees.
    pub dec_deg: f64,
    /// The same in hours and degrees with minutes and seconds.
    pub coordinates: String,
    /// Its light path.
    pub path: String,
    /// Names of the exposures' filters.
    pub filters: Vec<String>,
    /// How it takes over from the one before it; means nothing for the first.
    pub change: Change,
    /// The night.
    pub view: NightView,
    /// The plan.
    pub plan: Plan,
    /// What waits for better nights than this one, a sentence each.
    pub waits: Vec<String>,
    /// What the plan adds to a campaign when all its subs are kept: subs of each exposure, and the
    /// square of the signal to noise of every line.
    pub shots: Vec<Shot>,
}

/// A night, seen and planned.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub(crate) struct NightAnswer {
    /// Evening's date.
    pub date: String,
    /// IANA zone, or an offset.
    pub zone: String,
    /// Local time.
    pub clock: Vec<ClockOffset>,
    /// The first target.
    pub first: TargetNight,
    /// Further targets, as they were asked.
    pub others: Vec<TargetNight>,
    /// Where the night has less than an hour below the sun's limit: what it needs.
    pub twilight: Option<TwilightOffer>,
    /// Reminders where the work touches them.
    pub cautions: Vec<String>,
    /// What holds for every night.
    pub rules: NightRules,
}

/// What holds for every night.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub(crate) struct NightRules {
    /// Limits of the sun's altitude that are offered, degrees, the darkest first.
    sun_below_deg: Vec<f64>,
    /// Closer than this to the moon a target is near it, degrees.
    near_the_moon_deg: f64,
    /// Most targets of one night.
    most_targets: usize,
}

impl NightRules {
    fn new() -> Self {
        Self {
            sun_below_deg: OFFERED_DEG.to_vec(),
            near_the_moon_deg: NEAR_THE_MOON_DEG,
            most_targets: MOST_TARGETS,
        }
    }
}

impl NightAnswer {
    /// The first target and those after it.
    pub fn targets(&self) -> impl Iterator<Item = &TargetNight> {
        std::iter::once(&self.first).chain(&self.others)
    }
}

fn coordinates_text(d: &Direction) -> String {
    format!("{} {}", ra_text(d.ra_deg), dec_text(d.dec_deg))
}

pub(crate) fn answer(app: &App, mut q: NightQuestion) -> Result<NightAnswer, Problem> {
    q.campaign = through(app, q.campaign, q.contender, "")?;
    if let Some(campaign) = &q.campaign {
        let (framed, goals, done) = of_campaign(campaign, "campaign", &q.date)?;
        (q.place, q.plan.goal_snr, q.plan.done_snr2) = (Some(framed), goals, done);
    }
    if q.others.len() + 1 > MOST_TARGETS {
        let message = format!("{} targets; give at most {MOST_TARGETS}", q.others.len() + 1);
        return Err(Problem::field("others", message));
    }
    let (place, local) = (q.site.place()?, q.site.night(&q.date)?);
    q.limits.check().map_err(Problem::fields)?;
    let first_limits = q.first_limits.clone().unwrap_or_else(|| q.limits.clone());
    first_limits.check().map_err(moved("limits", "first_limits".to_owned()))?;
    let at = direction(app, q.place, &q.scenario.target.name, "place")?;
    let from = date(&q.date).map_err(|e| Problem::fields(vec![e]))?;
    let ahead = noons(from, NIGHTS_AHEAD + 1, &q.site.zone()?)?;
    let common = Common {
        app,
        place,
        local: &local,
        evening: &q.date,
        weigh: q.weigh,
        noons_s: ahead.iter().map(|d| d.1).collect(),
        dates: ahead.iter().map(|(d, _)| d.strftime("%-d %B").to_string()).collect(),
    };
    let mut own = q.scenario.clone();
    own.target.stands_at(at.ra_deg, at.dec_deg);
    let scenario = checked(own)?;
    let exposures =
        scenario.scenario().contenders.get(q.contender).map_or(0, |c| c.exposures.len());
    if exposures > 0 {
        q.plan.check(exposures).map_err(Problem::fields)?;
    }
    let mut targets = vec![common.prepared(Asked {
        scenario: &scenario,
        contender: q.contender,
        at,
        limits: &first_limits,
        spec: q.plan.clone(),
        campaign: q.campaign.as_ref(),
        change: Change::Sinks,
    })?];
    for (i, t) in q.others.clone().into_iter().enumerate() {
        targets.push(further(&common, &q, t, &format!("others[{i}]"))?);
    }
    let twilight = twilight_of(&common, &q, &targets[0].view)?;
    let mut nights = planned(targets, &q.limits, &local.clock).into_iter();
    let first = nights.next().expect("one target at least");
    let others: Vec<TargetNight> = nights.collect();
    let all = std::iter::once(&first).chain(&others);
    let mut reminders: Vec<String> =
        all.flat_map(|t: &TargetNight| cautions(&t.view, &t.plan)).collect();
    let mut said = std::collections::BTreeSet::new();
    reminders.retain(|r| said.insert(r.clone()));
    Ok(NightAnswer {
        zone: q.site.zone.clone().unwrap_or_else(|| "by longitude".into()),
        clock: offsets(&local.clock),
        cautions: reminders,
        date: q.date,
        rules: NightRules::new(),
        twilight,
        first,
        others,
    })
}

fn planned(targets: Vec<Prepared>, limits: &NightLimits, clock: &LocalClock) -> Vec<TargetNight> {
    let asked: Vec<NightTarget> = targets
        .iter()
        .map(|t| NightTarget {
            rig: &t.rig,
            names: &t.filters,
            view: &t.view,
            spec: &t.spec,
            change: t.change,
        })
        .collect();
    let plans = plan_targets(&asked, limits, clock);
    let night = |(t, plan): (Prepared, Plan)| TargetNight {
        target: t.name,
        ra_deg: t.at.ra_deg,
        dec_deg: t.at.dec_deg,
        coordinates: coordinates_text(&t.at),
        path: t.path,
        filters: t.filters,
        change: t.change,
        shots: shots_of(&plan, &t.rig),
        view: t.view,
        plan,
        waits: t.waits,
    };
    targets.into_iter().zip(plans).map(night).collect()
}

/// Nights in which the next one with some darkness is looked for.
const A_YEAR: usize = 366;

/// What a night without an hour below the sun's limit needs.
fn twilight_of(
    c: &Common,
    q: &NightQuestion,
    view: &NightView,
) -> Result<Option<TwilightOffer>, Problem> {
    if view.events.dark_h >= 1.0 {
        return Ok(None);
    }
    let from = date(&q.date).map_err(|e| Problem::fields(vec![e]))?;
    let ahead: Vec<(String, f64)> = noons(from, A_YEAR, &q.site.zone()?)?
        .into_iter()
        .skip(1)
        .map(|(d, noon_s)| (d.strftime("%-d %B").to_string(), noon_s))
        .collect();
    let span = (c.local.from_s, c.local.to_s);
    Ok(twilight_offer(c.place, span, q.limits.sun_below_deg, &ahead)?)
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
