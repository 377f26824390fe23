//! A month or a year of nights, what is worth shooting tonight, and coordinates as people write
//! them.

use axum::Json;
use axum::extract::State;
use salt_lamp_core::Scenario;
use salt_lamp_core::night::{
    ANY_TARGET_V_MAG, DarkHours, RankedFor, TonightSpec, WorthTonight, YearView, any_target,
    dec_text, parse, ra_text, worth_tonight, year_view,
};
use salt_lamp_core::scenario::{FieldRig, NightLimits};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use super::asked::{NightSite, SkyPlace, checked, direction, rig};
use crate::http::extract::{Body, Params};
use crate::http::zones::{date, noons};
use crate::{App, Problem};

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(calendar))
        .routes(routes!(tonight))
        .routes(routes!(coordinates))
}

/// A span of nights.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct CalendarQuestion {
    /// Target, sky and rigs.
    scenario: Scenario,
    /// Index of the contender whose rig is used.
    #[serde(default)]
    contender: usize,
    /// The site.
    site: NightSite,
    /// First evening's date.
    date: String,
    /// Nights, 1 to 370.
    days: usize,
    /// Where the target is.
    #[serde(default)]
    place: Option<SkyPlace>,
    /// Limits.
    #[serde(default)]
    limits: NightLimits,
}

/// A calendar of nights with their dates.
#[derive(Serialize, ToSchema)]
struct CalendarAnswer {
    /// Evening's dates.
    dates: Vec<String>,
    /// Names of the exposures' filters.
    filters: Vec<String>,
    /// The nights.
    #[serde(flatten)]
    year: YearView,
}

/// A month or a year of nights for one target: dark hours above the limit, moonless share, the best
/// dates of each filter.
#[utoipa::path(post, operation_id = "night_calendar", path = "/night/calendar",
    request_body = CalendarQuestion,
    responses((status = 200, body = CalendarAnswer), (status = 422, body = Problem)))]
async fn calendar(
    State(app): State<App>,
    Body(mut q): Body<CalendarQuestion>,
) -> Result<Json<CalendarAnswer>, Problem> {
    if !(1..=370).contains(&q.days) {
        return Err(Problem::field("days", "give 1 to 370 nights"));
    }
    let place = q.site.place()?;
    let from = date(&q.date).map_err(|e| Problem::fields(vec![e]))?;
    q.limits.check().map_err(Problem::fields)?;
    let at = direction(&app, q.place, &q.scenario.target.name, "place")?;
    q.scenario.target.stands_at(at.ra_deg, at.dec_deg);
    let scenario = checked(q.scenario)?;
    let days = noons(from, q.days, &q.site.zone()?)?;
    let stamps: Vec<f64> = days.iter().map(|d| d.1).collect();
    let work = app.heavy(move |app, threads| {
        let (rig, filters) = rig(app, &scenario, q.contender)?;
        let kind = scenario.scenario().target.kind;
        let year =
            year_view(place, &stamps, at, &q.limits, Some(&rig), threads)?.proposed_for(kind);
        Ok::<_, Problem>((filters, year))
    });
    let (filters, year) = work.await??;
    Ok(Json(CalendarAnswer {
        dates: days.iter().map(|d| d.0.to_string()).collect(),
        filters,
        year,
    }))
}

/// What is worth shooting.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct TonightQuestion {
    /// Sky and rigs; its target is not used.
    scenario: Scenario,
    /// Index of the contender whose rig is used.
    #[serde(default)]
    contender: usize,
    /// The site.
    site: NightSite,
    /// Evening's date.
    date: String,
    /// Limits.
    #[serde(default)]
    limits: NightLimits,
    /// Kind and size.
    #[serde(default)]
    spec: TonightSpec,
}

/// The whole catalogue, ranked for this rig, sky and moon.
#[utoipa::path(post, operation_id = "night_tonight", path = "/night/tonight",
    request_body = TonightQuestion,
    responses((status = 200, body = Vec<WorthTonight>), (status = 422, body = Problem)))]
async fn tonight(
    State(app): State<App>,
    Body(q): Body<TonightQuestion>,
) -> Result<Json<Vec<WorthTonight>>, Problem> {
    let place = q.site.place()?;
    let local = q.site.night(&q.date)?;
    q.limits.check().map_err(Problem::fields)?;
    // A document of before goals asks for the same of every object.
    let goal_snr = q.scenario.goals.is_empty().then_some(q.scenario.goal_snr);
    let square_arcsec = q.scenario.detail_arcsec;
    let scenario = checked(any_target(q.scenario))?;
    let work = app.heavy(move |app, _| {
        let (rig, _) = rig(app, &scenario, q.contender)?;
        let c = &scenario.scenario().contenders[q.contender];
        let [width, height] = FieldRig::new(&c.name, &c.optics, &c.sensor).size_arcmin();
        let field_arcmin = width.min(height);
        let night = DarkHours { place, from_s: local.from_s, to_s: local.to_s, limits: &q.limits };
        let on = RankedFor {
            rig: &rig,
            continuum_v_mag: Some(ANY_TARGET_V_MAG),
            field_arcmin,
            goal_snr,
            square_arcsec,
        };
        Ok(worth_tonight(&app.catalogue, &night, &on, &q.spec)?)
    });
    work.await?.map(Json)
}

/// Coordinates as somebody typed or pasted them.
#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct Pasted {
    /// In any usual form.
    text: String,
}

/// A place on the sky in both notations.
#[derive(Serialize, ToSchema)]
struct Coordinates {
    /// Right ascension, degrees.
    ra_deg: f64,
    /// Declination, degrees.
    dec_deg: f64,
    /// Right ascension in hours, minutes, seconds.
    ra: String,
    /// Declination in degrees, minutes, seconds.
    dec: String,
}

/// Reads coordinates in any usual form and says them both ways.
#[utoipa::path(get, operation_id = "coordinates", path = "/coordinates", params(Pasted),
    responses((status = 200, body = Coordinates), (status = 422, body = Problem)))]
async fn coordinates(Params(p): Params<Pasted>) -> Result<Json<Coordinates>, Problem> {
    let d = parse(&p.text).map_err(|e| Problem::field("text", e))?;
    Ok(Json(Coordinates {
        ra_deg: d.ra_deg,
        dec_deg: d.dec_deg,
        ra: ra_text(d.ra_deg),
        dec: dec_text(d.dec_deg),
    }))
}
