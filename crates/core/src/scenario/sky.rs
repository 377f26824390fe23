//! The sky as the document states it; how bright each part of it is, is worked out in [`crate::path::sky`].

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
    /// Altitude of the target, degrees.
    pub target_altitude_deg: f64,
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
