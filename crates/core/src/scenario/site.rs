//! A place to observe from, as the shelf keeps it.

use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::ToSchema;

use crate::light::lamp::Lamp;
use crate::scenario::defaults;
use crate::scenario::sky::Sky;

/// A place to observe from.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Site {
    /// Latitude, degrees, north positive.
    pub latitude_deg: f64,
    /// Longitude, degrees, east positive.
    pub longitude_deg: f64,
    /// Height above the sea, m.
    pub height_m: f64,
    /// Moonless brightness at the zenith, V mag/arcsec^2.
    pub zenith_v_mag: f64,
    /// Lamps as fractions of artificial V light.
    pub lamps: BTreeMap<Lamp, f64>,
    /// Measured extinction in V, mag per airmass.
    #[serde(default)]
    pub k_v: Option<f64>,
    /// Full width at half maximum of a star at the zenith on a usual night, arcsec; null where it
    /// is not known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub seeing_fwhm_arcsec: Option<f64>,
    /// Clear nights in a year on which one shoots here; null where nobody said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub nights_per_year: Option<f64>,
    /// IANA time zone, such as "America/Toronto"; null for the time of its longitude.
    #[serde(default)]
    pub zone: Option<String>,
    /// Trees and roofs: pairs of azimuth and altitude, degrees, azimuths ascending.
    #[serde(default)]
    #[schema(value_type = Vec<Vec<f64>>)]
    pub horizon_deg: Vec<[f64; 2]>,
    /// Glow of towns: pairs of azimuth, degrees ascending, and how much faster than usual lamp
    /// light grows there towards the horizon, joined by straight lines around the circle.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(value_type = Vec<Vec<f64>>)]
    pub glow: Vec<[f64; 2]>,
}

impl Site {
    /// Its sky before anything is known of a night: no moon, no twilight, a target 60 degrees high.
    pub fn sky(&self, name: &str) -> Sky {
        Sky {
            site: Some(name.to_owned()),
            zenith_v_mag: self.zenith_v_mag,
            lamps: self.lamps.clone(),
            glow: self.glow.clone(),
            latitude_deg: Some(self.latitude_deg),
            site_height_m: self.height_m,
            k_v: self.k_v,
            ..Sky::suburb()
        }
    }
}

impl Sky {
    /// The sky of a usual suburb (Bortle class 6, mostly LED; typical, from memory), where no site
    /// is known.
    pub fn suburb() -> Self {
        Self {
            site: None,
            zenith_v_mag: 19.5,
            natural_v_mag: defaults::natural_v_mag(),
            lamps: [
                (Lamp::Led3000k, 0.35),
                (Lamp::Led4000k, 0.45),
                (Lamp::HighPressureSodium, 0.2),
            ]
            .into(),
            toward_target_v_mag: None,
            toward_target_altitude_deg: None,
            toward_target_azimuth_deg: None,
            target_altitude_deg: 60.0,
            target_azimuth_deg: None,
            glow: Vec::new(),
            latitude_deg: None,
            site_height_m: 0.0,
            k_v: None,
            ambient_c: defaults::ambient_c(),
            moon: None,
            sun_altitude_deg: defaults::sun_altitude_deg(),
        }
    }
}
