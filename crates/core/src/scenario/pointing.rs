//! Where a star falls on a sensor.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::scenario::rig::{Optics, Sensor};
use crate::scenario::target::Target;

/// Where a telescope looks, and how its camera is turned.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Pointing {
    /// Right ascension of the field's middle, degrees.
    pub ra_deg: f64,
    /// Declination, degrees.
    pub dec_deg: f64,
    /// Angle of the sensor's upward side, degrees from north over east.
    #[serde(default)]
    pub position_angle_deg: f64,
}

/// The unit vector of a direction in degrees, in the frame of the direction.
pub(crate) fn unit(ra_deg: f64, dec_deg: f64) -> [f64; 3] {
    let (sr, cr) = ra_deg.to_radians().sin_cos();
    let (sd, cd) = dec_deg.to_radians().sin_cos();
    [cr * cd, sr * cd, sd]
}

impl Target {
    /// Where it stands, north up; `None` where that is not known.
    pub fn place(&self) -> Option<Pointing> {
        let (ra_deg, dec_deg) = self.right_ascension_deg.zip(self.declination_deg)?;
        Some(Pointing { ra_deg, dec_deg, position_angle_deg: 0.0 })
    }
}

impl Pointing {
    /// A direction on the plane that touches the sky at the pointing: arcsec east and north of it;
    /// `None` behind the observer.
    ///
    /// Gnomonic projection (Calabretta & Greisen 2002, A&A 395, 1077, section 5.1.3).
    pub fn east_north_arcsec(&self, ra_deg: f64, dec_deg: f64) -> Option<[f64; 2]> {
        let [a, d, a0, d0] = [ra_deg, dec_deg, self.ra_deg, self.dec_deg].map(f64::to_radians);
        let cos = d0.sin() * d.sin() + d0.cos() * d.cos() * (a - a0).cos();
        let arcsec = 1f64.to_degrees() * 3600.0 / cos;
        (cos > 0.0).then(|| {
            [
                d.cos() * (a - a0).sin() * arcsec,
                (d0.cos() * d.sin() - d0.sin() * d.cos() * (a - a0).cos()) * arcsec,
            ]
        })
    }

    /// The pointing moved so many arcmin east and north on the plane that touches the sky: the
    /// gnomonic projection the other way.
    #[must_use]
    pub fn moved(&self, east_arcmin: f64, north_arcmin: f64) -> Self {
        let [x, y] = [east_arcmin, north_arcmin].map(|a| (a / 60.0).to_radians());
        let (a0, d0) = (self.ra_deg.to_radians(), self.dec_deg.to_radians());
        let ra = a0 + x.atan2(d0.cos() - y * d0.sin());
        let dec = ((d0.sin() + y * d0.cos()) / (1.0 + x * x + y * y).sqrt()).asin();
        Self {
            ra_deg: ra.to_degrees().rem_euclid(360.0),
            dec_deg: dec.to_degrees(),
            position_angle_deg: self.position_angle_deg,
        }
    }

    /// Where a direction falls on a sensor: pixels from its lower left corner, the middle of the
    /// sensor at half its columns and rows; `None` behind the observer. North is turned by the
    /// position angle, east to the left.
    pub fn on_sensor(
        &self,
        optics: &Optics,
        sensor: &Sensor,
        ra_deg: f64,
        dec_deg: f64,
    ) -> Option<[f64; 2]> {
        let scale = optics.pixel_scale_arcsec(sensor.pixel_um);
        let [right, up] = self.right_up_arcsec(ra_deg, dec_deg)?.map(|a| a / scale);
        Some([f64::from(sensor.columns) / 2.0 + right, f64::from(sensor.rows) / 2.0 + up])
    }

    /// A direction from the middle of the turned field: arcsec to the right and up; `None` behind
    /// the observer.
    pub fn right_up_arcsec(&self, ra_deg: f64, dec_deg: f64) -> Option<[f64; 2]> {
        let [east, north] = self.east_north_arcsec(ra_deg, dec_deg)?;
        Some(self.right_up_of(east, north))
    }

    /// What lies so far east and north of the middle: how far to the right and up in the turned
    /// field, in the same unit.
    pub fn right_up_of(&self, east: f64, north: f64) -> [f64; 2] {
        let (sin, cos) = self.position_angle_deg.to_radians().sin_cos();
        [north * sin - east * cos, north * cos + east * sin]
    }

    /// What lies so far to the right and up in the turned field: how far east and north, in the
    /// same unit.
    pub fn east_north_of(&self, right: f64, up: f64) -> [f64; 2] {
        let (sin, cos) = self.position_angle_deg.to_radians().sin_cos();
        [up * sin - right * cos, up * cos + right * sin]
    }

    /// Half the diagonal of a field, degrees: how far from the middle its corners lie.
    pub fn radius_deg(optics: &Optics, sensor: &Sensor) -> f64 {
        let diagonal = f64::from(sensor.columns).hypot(f64::from(sensor.rows));
        let half_arcsec = diagonal / 2.0 * optics.pixel_scale_arcsec(sensor.pixel_um);
        (half_arcsec.to_radians() / 3600.0).atan().to_degrees()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_pointing_that_is_moved_is_found_there() {
        for (ra_deg, dec_deg) in [(10.0, 0.0), (305.6, 40.3), (200.0, -75.0), (0.5, 89.0)] {
            let at = Pointing { ra_deg, dec_deg, position_angle_deg: 12.0 };
            for (east, north) in [(0.0, 0.0), (30.0, -20.0), (-300.0, 90.0)] {
                let there = at.moved(east, north);
                let [e, n] = at.east_north_arcsec(there.ra_deg, there.dec_deg).unwrap();
                assert!((e / 60.0 - east).abs() < 1e-9 && (n / 60.0 - north).abs() < 1e-9);
            }
        }
        // Turned and turned back.
        let turned = Pointing { ra_deg: 0.0, dec_deg: 0.0, position_angle_deg: 33.0 };
        let [right, up] = turned.right_up_of(3.0, -4.0);
        let [east, north] = turned.east_north_of(right, up);
        assert!((east - 3.0).abs() < 1e-12 && (north + 4.0).abs() < 1e-12);
        // A degree east on the equator is a degree of right ascension less the plane's stretch.
        let east =
            Pointing { ra_deg: 10.0, dec_deg: 0.0, position_angle_deg: 0.0 }.moved(60.0, 0.0);
        assert!((east.ra_deg - 11.0).abs() < 2e-4 && east.dec_deg.abs() < 1e-9);
    }
}
