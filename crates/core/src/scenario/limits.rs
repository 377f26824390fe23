//! When a place may be observed from: how deep the sun, how high the target, and what stands on the horizon.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::scenario::field_error::FieldError;

/// Limits of a night's work.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct NightLimits {
    /// The sun must stand lower than this, degrees.
    pub sun_below_deg: f64,
    /// The target must stand higher than this, degrees.
    pub altitude_above_deg: f64,
    /// Trees and roofs: pairs of azimuth and altitude, degrees, azimuths ascending; joined by straight lines around the circle.
    #[schema(value_type = Vec<Vec<f64>>)]
    pub horizon_deg: Vec<[f64; 2]>,
}

impl Default for NightLimits {
    fn default() -> Self {
        Self { sun_below_deg: -18.0, altitude_above_deg: 20.0, horizon_deg: Vec::new() }
    }
}

impl NightLimits {
    /// Checks every field.
    ///
    /// # Errors
    /// All fields that are wrong, with what is accepted.
    pub fn check(&self) -> Result<(), Vec<FieldError>> {
        let mut errors = Vec::new();
        let mut wrong = |path: String, message: &str| errors.push(FieldError { path, message: message.to_owned() });
        if !(-18.0..=-5.0).contains(&self.sun_below_deg) {
            wrong("limits.sun_below_deg".into(), "give -18 to -5 degrees: brighter twilight is not planned into");
        }
        if !(0.0..=85.0).contains(&self.altitude_above_deg) {
            wrong("limits.altitude_above_deg".into(), "give 0 to 85 degrees");
        }
        for (i, [az, alt]) in self.horizon_deg.iter().enumerate() {
            if !(0.0..=360.0).contains(az) || !(-5.0..=89.0).contains(alt) {
                wrong(format!("limits.horizon_deg[{i}]"), "give an azimuth of 0 to 360 and an altitude of -5 to 89 degrees");
            }
        }
        if let Some(i) = self.horizon_deg.windows(2).position(|w| w[1][0] <= w[0][0]) {
            wrong(format!("limits.horizon_deg[{}]", i + 1), "its azimuth is not above the one before it; azimuths must ascend");
        }
        if errors.is_empty() { Ok(()) } else { Err(errors) }
    }

    /// How high the obstacles stand at an azimuth, degrees.
    pub fn horizon_at(&self, azimuth_deg: f64) -> f64 {
        let h = &self.horizon_deg;
        match h.len() {
            0 => -90.0,
            1 => h[0][1],
            n => {
                let after = h.partition_point(|p| p[0] <= azimuth_deg);
                let (a, b) = (h[(after + n - 1) % n], h[after % n]);
                let span = (b[0] - a[0]).rem_euclid(360.0);
                let f = if span > 0.0 { (azimuth_deg - a[0]).rem_euclid(360.0) / span } else { 0.0 };
                a[1] + (b[1] - a[1]) * f
            }
        }
    }
}
