//! How long a sub may be on a mount that does not follow the sky, or follows it without turning
//! with it.

use crate::light::units::ARCSEC_PER_RAD;
use crate::scenario::document::Scenario;
use crate::scenario::rig::{Contender, Following};

/// How fast the sky turns, arcsec per second (one turn in a sidereal day of 86 164.1 s).
pub const SKY_TURNS_ARCSEC_PER_S: f64 = 15.041_07;

/// How fast a star at a declination trails past a camera that stands still, arcsec/s: 15.04 cos
/// dec.
pub fn trail_arcsec_per_s(declination_deg: f64) -> f64 {
    SKY_TURNS_ARCSEC_PER_S * declination_deg.to_radians().cos()
}

/// How fast the field turns on an alt-az mount, arcsec of angle per second: 15.04 cos lat |cos az|
/// / cos alt, azimuth from the north. Without bound towards the zenith.
pub fn field_turns_arcsec_per_s(latitude_deg: f64, azimuth_deg: f64, altitude_deg: f64) -> f64 {
    let [lat, az, alt] = [latitude_deg, azimuth_deg, altitude_deg].map(f64::to_radians);
    SKY_TURNS_ARCSEC_PER_S * lat.cos() * az.cos().abs() / alt.cos().max(1e-6)
}

/// Azimuth from the north of a declination at an altitude, degrees, 0 to 180: cos az = (sin dec -
/// sin lat sin alt) / (cos lat cos alt). A declination that never comes to that altitude stands due
/// north or south.
pub fn azimuth_deg(latitude_deg: f64, declination_deg: f64, altitude_deg: f64) -> f64 {
    let [lat, dec, alt] = [latitude_deg, declination_deg, altitude_deg].map(f64::to_radians);
    let cos = (dec.sin() - lat.sin() * alt.sin()) / (lat.cos() * alt.cos()).max(1e-9);
    cos.clamp(-1.0, 1.0).acos().to_degrees()
}

impl Contender {
    /// The longest sub before stars trail by what the mount is allowed, s; `None` for a mount that
    /// follows the sky. On an alt-az mount it is the corners that turn. Where the scenario does not
    /// say where the target stands, it is taken where it moves fastest.
    pub fn trails_from_s(&self, s: &Scenario) -> Option<f64> {
        let mount = self.mount?;
        let scale_arcsec = self.optics.pixel_scale_arcsec(self.sensor.pixel_um);
        let dec = s.target.declination_deg;
        let px_per_s = match mount.following {
            Following::Equatorial => return None,
            Following::Fixed => trail_arcsec_per_s(dec.unwrap_or(0.0)) / scale_arcsec,
            Following::AltAz => {
                let altitude = s.sky.target_altitude_deg;
                let (lat, az) = match (s.sky.latitude_deg, dec) {
                    (Some(lat), Some(dec)) => (lat, azimuth_deg(lat, dec, altitude)),
                    (lat, _) => (lat.unwrap_or(0.0), 0.0),
                };
                let across = f64::from(self.sensor.columns).hypot(f64::from(self.sensor.rows));
                field_turns_arcsec_per_s(lat, az, altitude) / ARCSEC_PER_RAD * across / 2.0
            }
        };
        Some(mount.trail_px / px_per_s.max(1e-9))
    }

    /// Time lost after each sub, s: overhead, readout, and its part of moving the field.
    pub fn between_s(&self) -> f64 {
        let moves = self.dither.map_or(0.0, |d| d.cost_s / f64::from(d.every.max(1)));
        self.overhead_s_per_sub + self.sensor.readout_s + moves
    }

    /// The longest sub that stays round, s: what the guiding holds and what the mount's way of
    /// following allows; `None` where there is no limit.
    pub fn longest_sub_s(&self, s: &Scenario) -> Option<f64> {
        let both = [self.optics.longest_sub_s, self.trails_from_s(s)];
        both.into_iter().flatten().min_by(f64::total_cmp)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::common::ic_443;
    use crate::scenario::rig::Mount;

    #[test]
    fn a_sidereal_day_is_one_turn() {
        assert!((SKY_TURNS_ARCSEC_PER_S * 86_164.1 / 3600.0 - 360.0).abs() < 1e-3);
        assert!((trail_arcsec_per_s(60.0) - SKY_TURNS_ARCSEC_PER_S / 2.0).abs() < 1e-9);
    }

    /// A fixed camera at 1.57 arcsec a pixel: at the equator a pixel is crossed in 0.104 s; towards
    /// the pole later.
    #[test]
    fn stars_trail_past_a_camera_that_stands_still() {
        let mut s = ic_443();
        let c = &mut s.contenders[0];
        c.mount = Some(Mount { following: Following::Fixed, trail_px: 1.0 });
        let scale = c.optics.pixel_scale_arcsec(c.sensor.pixel_um);
        let limit = |s: &Scenario| s.contenders[0].longest_sub_s(s).expect("a limit");
        assert!((limit(&s) - scale / SKY_TURNS_ARCSEC_PER_S).abs() < 1e-9);
        s.target.declination_deg = Some(60.0);
        assert!((limit(&s) / (2.0 * scale / SKY_TURNS_ARCSEC_PER_S) - 1.0).abs() < 1e-9);
        s.contenders[0].mount = None;
        assert_eq!(s.contenders[0].longest_sub_s(&s), s.contenders[0].optics.longest_sub_s);
    }

    #[test]
    fn an_alt_az_field_turns_fastest_over_the_meridian_and_not_due_east() {
        assert!(field_turns_arcsec_per_s(46.0, 90.0, 40.0) < 1e-9);
        let south = field_turns_arcsec_per_s(46.0, 180.0, 40.0);
        // 15.041 x 0.694658 / 0.766044 by hand.
        assert!((south - 13.6394).abs() < 1e-3, "{south}");
        // A star of declination lat - 90 + alt culminates in the south at that altitude.
        assert!((azimuth_deg(46.0, -4.0, 40.0) - 180.0).abs() < 1e-3);
        let mut s = ic_443();
        let c = &mut s.contenders[0];
        c.mount = Some(Mount { following: Following::AltAz, trail_px: 1.0 });
        c.optics.longest_sub_s = None;
        (s.sky.latitude_deg, s.target.declination_deg) = (Some(46.0), Some(-4.0));
        s.sky.target_altitude_deg = 40.0;
        // Corners of 6248 x 4176 lie 3757.6 pixels out: 13.64 arcsec/s there are 0.2485 px/s.
        let limit = s.contenders[0].longest_sub_s(&s).expect("a limit");
        assert!((limit - 1.0 / 0.248_47).abs() < 0.01, "{limit}");
    }
}
