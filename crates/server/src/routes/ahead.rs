//! A night against those of the month ahead.

use axum::Json;
use axum::extract::State;
use salt_lamp_core::Scenario;
use salt_lamp_core::night::{NIGHTS_AHEAD, NightAhead, night_view, year_view};
use salt_lamp_core::scenario::NightLimits;
use serde::Deserialize;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use super::asked::{NightSite, SkyPlace, checked, direction, rig};
use crate::http::extract::Body;
use crate::http::zones::{date, noons};
use crate::{App, Problem};

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(ahead))
}

/// A night that is to be weighed against those ahead.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct AheadQuestion {
    /// Target, sky and rigs.
    scenario: Scenario,
    /// Index of the contender whose rig is used.
    #[serde(default)]
    contender: usize,
    /// The site.
    site: NightSite,
    /// Evening's date, such as 2027-01-10.
    date: String,
    /// Where the target is; the catalogue's place of its name where none is given.
    #[serde(default)]
    place: Option<SkyPlace>,
    /// Limits.
    #[serde(default)]
    limits: NightLimits,
}

/// What a night costs against a typical one of the month ahead, and which is the best of those.
#[utoipa::path(post, operation_id = "night_ahead", path = "/night/ahead",
    request_body = AheadQuestion,
    responses((status = 200, body = NightAhead), (status = 422, body = Problem)))]
async fn ahead(
    State(app): State<App>,
    Body(mut q): Body<AheadQuestion>,
) -> Result<Json<NightAhead>, Problem> {
    let (place, local) = (q.site.place()?, q.site.night(&q.date)?);
    q.limits.check().map_err(Problem::fields)?;
    let at = direction(&app, q.place, &q.scenario.target.name, "place")?;
    q.scenario.target.stands_at(at.ra_deg, at.dec_deg);
    let scenario = checked(q.scenario)?;
    let from = date(&q.date).map_err(|e| Problem::fields(vec![e]))?;
    let days = noons(from, NIGHTS_AHEAD + 1, &q.site.zone()?)?;
    let work = app.heavy(move |app, threads| {
        let (rig, filters) = rig(app, &scenario, q.contender)?;
        let events = night_view(place, local.from_s, local.to_s, at, &q.limits, None)?.events;
        let noons_s: Vec<f64> = days.iter().map(|d| d.1).collect();
        let seen = year_view(place, &noons_s, at, &q.limits, Some(&rig), threads)?.nights;
        let dates: Vec<String> =
            days[1..].iter().map(|(d, _)| d.strftime("%-d %B").to_string()).collect();
        Ok(Json(NightAhead::new(&events, (&seen[0], &seen[1..]), &filters, &dates)))
    });
    work.await?
}
