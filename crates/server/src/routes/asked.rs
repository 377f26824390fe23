//! What questions about nights have in common: a site, a place on the sky, a rig; and local time in
//! their answers.

use salt_lamp_core::campaign::CampaignFraming;
use salt_lamp_core::night::{Direction, LocalClock, NightRig, Place};
use salt_lamp_core::scenario::{Pointing, Site};
use salt_lamp_core::{Checked, FieldError, Scenario};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::http::zones::{LocalNight, date, night, zone};
use crate::{App, Problem};

/// A site as a night needs it.
#[derive(Clone, Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct NightSite {
    /// Its name.
    #[serde(default)]
    pub name: String,
    /// Latitude, degrees, north positive.
    pub latitude_deg: f64,
    /// Longitude, degrees, east positive.
    pub longitude_deg: f64,
    /// Height above the sea, m.
    #[serde(default)]
    pub height_m: f64,
    /// IANA time zone; that of its longitude where none is given.
    #[serde(default)]
    pub zone: Option<String>,
}

impl NightSite {
    /// A site of the shelf.
    pub fn of(name: &str, s: &Site) -> Self {
        Self {
            name: name.to_owned(),
            latitude_deg: s.latitude_deg,
            longitude_deg: s.longitude_deg,
            height_m: s.height_m,
            zone: s.zone.clone(),
        }
    }

    pub fn place(&self) -> Result<Place, Problem> {
        let place = Place {
            latitude_deg: self.latitude_deg,
            longitude_deg: self.longitude_deg,
            height_m: self.height_m,
        };
        place.check("site").map_err(Problem::fields)
    }

    pub fn zone(&self) -> Result<jiff::tz::TimeZone, Problem> {
        zone(self.zone.as_deref(), self.longitude_deg).map_err(|mut e| {
            e.path = format!("site.{}", e.path);
            Problem::fields(vec![e])
        })
    }

    pub fn night(&self, on: &str) -> Result<LocalNight, Problem> {
        night(date(on).map_err(|e| Problem::fields(vec![e]))?, &self.zone()?)
    }
}

/// A place on the sky.
#[derive(Clone, Copy, Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct SkyPlace {
    /// Right ascension, degrees, ICRS.
    pub ra_deg: f64,
    /// Declination, degrees, ICRS.
    pub dec_deg: f64,
}

pub(crate) fn direction(
    app: &App,
    given: Option<SkyPlace>,
    name: &str,
    path: &str,
) -> Result<Direction, Problem> {
    match given {
        Some(p) => {
            Direction { ra_deg: p.ra_deg, dec_deg: p.dec_deg }.check(path).map_err(Problem::fields)
        }
        None => app.catalogue.get(name).map(Direction::from).ok_or_else(|| {
            Problem::field(
                path,
                format!(
                    "the catalogue holds no \"{name}\": give right ascension \
                and declination in degrees"
                ),
            )
        }),
    }
}

/// Where a scenario is framed, else where its target stands in the catalogue.
pub(crate) fn framed(app: &App, scenario: &Scenario) -> Result<CampaignFraming, Problem> {
    let at = match &scenario.frame {
        Some(frame) => frame.at,
        None => {
            let Direction { ra_deg, dec_deg } =
                direction(app, None, &scenario.target.name, "scenario.target.name")?;
            Pointing { ra_deg, dec_deg, position_angle_deg: 0.0 }
        }
    };
    Ok(at.into())
}

/// An offset of local time from UTC.
#[derive(Clone, Copy, Debug, Serialize, ToSchema)]
pub(crate) struct ClockOffset {
    /// From when, seconds since 1970 UTC.
    from_s: f64,
    /// Local time less UTC, s.
    offset_s: f64,
}

pub(crate) fn offsets(clock: &LocalClock) -> Vec<ClockOffset> {
    clock.0.iter().map(|&(from_s, offset_s)| ClockOffset { from_s, offset_s }).collect()
}

/// Field errors with the beginning of their paths replaced.
pub(crate) fn moved(from: &'static str, to: String) -> impl Fn(Vec<FieldError>) -> Problem {
    move |mut errors| {
        errors.iter_mut().for_each(|e| e.path = e.path.replacen(from, &to, 1));
        Problem::fields(errors)
    }
}

/// A scenario of a question, accepted.
pub(crate) fn checked(scenario: Scenario) -> Result<Checked, Problem> {
    scenario.check().map_err(moved("", "scenario.".to_owned()))
}

/// The rig of one of its contenders for nights, and the names of its exposures' filters.
pub(crate) fn rig(
    app: &App,
    scenario: &Checked,
    contender: usize,
) -> Result<(NightRig, Vec<String>), Problem> {
    let rig = NightRig::new(scenario, contender, &app.tables).ok_or_else(|| {
        Problem::field("contender", format!("there is no contender {contender}; count from 0"))
    })?;
    let exposures = &scenario.scenario().contenders[contender].exposures;
    Ok((
        rig,
        exposures
            .iter()
            .map(|e| e.filter.as_ref().map_or("no filter".into(), |f| f.name.clone()))
            .collect(),
    ))
}
