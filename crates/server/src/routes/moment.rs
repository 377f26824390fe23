//! The sky of one night over one target: where it culminates in the dark, and where the moon stands
//! then. Fills a scene from a date.

use axum::Json;
use axum::extract::State;
use salt_lamp_core::night::{Ephemeris, dark_moment};
use salt_lamp_core::scenario::{Moon, NightLimits, Sky, lit_share};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use super::asked::{ClockOffset, NightSite, SkyPlace, direction, offsets};
use crate::http::extract::Body;
use crate::{App, Problem};

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(moment))
}

/// A night over a target.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct MomentQuestion {
    /// The site.
    site: NightSite,
    /// Evening's date.
    date: String,
    /// Name of the target; the catalogue knows its place where none is given.
    target: String,
    /// Where the target is.
    #[serde(default)]
    place: Option<SkyPlace>,
}

/// The sky over a target at its best moment of a night.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub(crate) struct SkyNow {
    /// When, seconds since 1970 UTC.
    at_s: f64,
    /// The moment as the clocks there show it, "23:40".
    clock: Vec<ClockOffset>,
    /// Altitude of the target, degrees.
    target_altitude_deg: f64,
    /// Azimuth of the target, degrees.
    target_azimuth_deg: f64,
    /// Altitude of the sun, degrees.
    sun_altitude_deg: f64,
    /// The moon then; null where it is down.
    moon: Option<Moon>,
    /// Share of the moon's disc that is lit, 0-1.
    moon_lit: f64,
    /// Whether it is dark then, by the usual limit.
    dark: bool,
}

impl SkyNow {
    /// Writes it over a sky.
    pub fn put_into(&self, sky: &mut Sky) {
        sky.target_altitude_deg = self.target_altitude_deg;
        sky.target_azimuth_deg = Some(self.target_azimuth_deg);
        sky.sun_altitude_deg = self.sun_altitude_deg;
        sky.moon = self.moon;
    }
}

/// The sky over a target at its best moment of a night; `None` where the target does not rise.
pub(crate) fn sky_now(
    app: &App,
    site: &NightSite,
    date: &str,
    place: Option<SkyPlace>,
    name: &str,
) -> Result<Option<SkyNow>, Problem> {
    let at = direction(app, place, name, "place")?;
    let local = site.night(date)?;
    let e = Ephemeris::new(site.place()?, local.from_s, local.to_s)?;
    let limits = NightLimits::default();
    Ok(dark_moment(&e, &at.vector(), local.from_s, local.to_s, &limits).map(|(at_s, m)| SkyNow {
        at_s,
        clock: offsets(&local.clock),
        target_altitude_deg: m.altitude_deg,
        target_azimuth_deg: m.azimuth_deg,
        sun_altitude_deg: m.sun_altitude_deg,
        moon_lit: lit_share(m.moon.phase_angle_deg),
        moon: (m.moon.altitude_deg > 0.0).then_some(m.moon),
        dark: m.sun_altitude_deg < limits.sun_below_deg,
    }))
}

/// The sky over a target at its best moment of a night: highest while it is dark, or, in a night
/// that does not get dark, while it is darkest. Null where it does not rise.
#[utoipa::path(post, operation_id = "night_moment", path = "/night/moment",
    request_body = MomentQuestion,
    responses((status = 200, body = Option<SkyNow>), (status = 422, body = Problem)))]
async fn moment(
    State(app): State<App>,
    Body(q): Body<MomentQuestion>,
) -> Result<Json<Option<SkyNow>>, Problem> {
    app.heavy(move |app, _| sky_now(app, &q.site, &q.date, q.place, &q.target)).await?.map(Json)
}
