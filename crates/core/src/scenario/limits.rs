//! When a place may be observed from: how deep the sun, how high the target, and what stands on the
//! horizon.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Limits of a night's work.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct NightLimits {
    /// The sun must stand lower than this, degrees.
    pub sun_below_deg: f64,
    /// The target must stand higher than this, degrees.
    pub altitude_above_deg: f64,
    /// Trees and roofs: pairs of azimuth and altitude, degrees, azimuths ascending; joined by
    /// straight lines around the circle.
    #[schema(value_type = Vec<Vec<f64>>)]
    pub horizon_deg: Vec<[f64; 2]>,
}

impl Default for NightLimits {
    fn default() -> Self {
        Self { sun_below_deg: -18.0, altitude_above_deg: 20.0, horizon_deg: Vec::new() }
    }
}

impl NightLimits {
    /// How high the obstacles stand at an azimuth, degrees.
    pub fn horizon_at(&self, azimuth_deg: f64) -> f64 {
        around_the_circle(&self.horizon_deg, azimuth_deg).unwrap_or(-90.0)
    }
}

/// A table by azimuth, degrees ascending, read at an azimuth: straight lines around the circle;
/// `None` for an empty table.
pub(crate) fn around_the_circle(table: &[[f64; 2]], azimuth_deg: f64) -> Option<f64> {
    match table {
        [] => None,
        [[_, one]] => Some(*one),
        _ => {
            let n = table.len();
            let after = table.partition_point(|p| p[0] <= azimuth_deg);
            let (a, b) = (table[(after + n - 1) % n], table[after % n]);
            let span = (b[0] - a[0]).rem_euclid(360.0);
            let f = if span > 0.0 { (azimuth_deg - a[0]).rem_euclid(360.0) / span } else { 0.0 };
            Some(a[1] + (b[1] - a[1]) * f)
        }
    }
}
