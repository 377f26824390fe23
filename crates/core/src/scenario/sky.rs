//! The sky as the document states it; how bright each part of it is, is worked out in
//! [`crate::path::sky`].

use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::ToSchema;

use crate::scenario::defaults;

use crate::light::lamp::Lamp;

/// The sky.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Sky {
    /// Name of the site on the shelf that this sky is of; null for a sky of its own.
    #[serde(default)]
    pub site: Option<String>,
    /// Moonless brightness at the zenith, V mag/arcsec^2 (or a sky meter's reading).
    pub zenith_v_mag: f64,
    /// Brightness of the natural sky at the zenith, V mag/arcsec^2.
    #[serde(default = "defaults::natural_v_mag")]
    #[schema(default = 21.9)]
    pub natural_v_mag: f64,
    /// Lamps as fractions of artificial V light; they sum to 1.
    pub lamps: BTreeMap<Lamp, f64>,
    /// Measured moonless brightness towards the target, V mag/arcsec^2.
    #[serde(default)]
    pub toward_target_v_mag: Option<f64>,
    /// Altitude at which that was measured, degrees; the target's where it is left out.
    #[serde(default)]
    pub toward_target_altitude_deg: Option<f64>,
    /// Azimuth at which that was measured, degrees; the target's where it is left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub toward_target_azimuth_deg: Option<f64>,
    /// Altitude of the target, degrees.
    pub target_altitude_deg: f64,
    /// Azimuth of the target, degrees from north through east: what of the glow it stands in.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub target_azimuth_deg: Option<f64>,
    /// Glow of towns: pairs of azimuth, degrees ascending, and how much faster than usual lamp
    /// light grows there towards the horizon, joined by straight lines around the circle.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(value_type = Vec<Vec<f64>>)]
    pub glow: Vec<[f64; 2]>,
    /// Lamps that go out at night: pairs of the hour of mean solar time, 0 to 24 ascending, and how
    /// much darker than `zenith_v_mag` the zenith is from then on, mag. A night counts them, a sky
    /// of no hour does not.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(value_type = Vec<Vec<f64>>)]
    pub by_hour: Vec<[f64; 2]>,
    /// Latitude of the site, degrees, north positive: how fast the field of an alt-az mount turns.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub latitude_deg: Option<f64>,
    /// Height of the site above the sea, m.
    #[serde(default)]
    #[schema(default = 0.0)]
    pub site_height_m: f64,
    /// Measured extinction in V, mag per airmass; null for a clear night's air.
    #[serde(default)]
    pub k_v: Option<f64>,
    /// Temperature of the air, degrees Celsius; a camera without cooling follows it.
    #[serde(default = "defaults::ambient_c")]
    #[schema(default = 10.0)]
    pub ambient_c: f64,
    /// The moon; null for none.
    #[serde(default)]
    pub moon: Option<Moon>,
    /// Altitude of the sun, degrees.
    #[serde(default = "defaults::sun_altitude_deg")]
    #[schema(default = -40.0)]
    pub sun_altitude_deg: f64,
}

impl Sky {
    /// Brightness of the natural sky at the zenith, V mag/arcsec^2: as stated, or what was read
    /// there where that is darker. A meter under a sky darker than most is believed.
    pub fn natural_zenith_mag(&self) -> f64 {
        self.natural_v_mag.max(self.zenith_v_mag)
    }
}

/// Share of the moon's disc that is lit at a phase angle in degrees, 0-1: (1 + cos i) / 2 (Meeus,
/// Astronomical Algorithms, 48.1).
pub fn lit_share(phase_angle_deg: f64) -> f64 {
    (1.0 + phase_angle_deg.to_radians().cos()) / 2.0
}

/// The moon.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Moon {
    /// Phase angle, degrees: 0 is full, 90 a half moon, 180 new.
    pub phase_angle_deg: f64,
    /// Altitude, degrees.
    pub altitude_deg: f64,
    /// Angle between moon and target, degrees.
    pub separation_deg: f64,
}
