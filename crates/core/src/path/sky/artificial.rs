//! Light from lamps.

use std::collections::BTreeMap;

use crate::light::lamp::Lamp;
use crate::light::spectrum::Spectrum;
use crate::light::tables::Tables;
use crate::light::units::linear_from_mag;
use crate::path::sky::air::airmass;
use crate::path::sky::natural::natural_growth;
use crate::scenario::limits::around_the_circle;
use crate::scenario::site::darker_at;
use crate::scenario::sky::Sky;

/// How fast artificial light grows with airmass when only the zenith is known (from memory).
const GROWTH_PER_AIRMASS: f64 = 0.6;

/// V light of lamps towards the target, in units of magnitude zero per arcsec^2; 0 at a natural
/// site. `k_v` is the extinction that dims the natural sky low down, mag per airmass.
pub fn artificial_linear(sky: &Sky, k_v: f64) -> f64 {
    artificial_linear_at(sky, sky.target_altitude_deg, sky.target_azimuth_deg, k_v)
}

/// The same towards another altitude and azimuth, degrees.
///
/// From the zenith reading: total minus natural, times 1 + 0.6 (X - 1). Where the brightness
/// towards the target was measured, that minus the natural light at the altitude of the
/// measurement, and from there by the same growth.
pub fn artificial_linear_at(
    sky: &Sky,
    altitude_deg: f64,
    azimuth_deg: Option<f64>,
    k_v: f64,
) -> f64 {
    let growth = |altitude, azimuth| lamp_growth(altitude, sky.glow_at(azimuth));
    let natural = linear_from_mag(sky.natural_zenith_mag());
    match sky.toward_target_v_mag {
        Some(measured) => {
            let there = sky.toward_target_altitude_deg.unwrap_or(sky.target_altitude_deg);
            let lamps = linear_from_mag(measured) - natural * natural_growth(there, k_v);
            let towards = sky.toward_target_azimuth_deg.or(sky.target_azimuth_deg);
            lamps.max(0.0) * growth(altitude_deg, azimuth_deg) / growth(there, towards)
        }
        None => {
            let zenith = (linear_from_mag(sky.zenith_v_mag) - natural).max(0.0);
            zenith * growth(altitude_deg, azimuth_deg)
        }
    }
}

/// Light of lamps at an altitude against that at the zenith: 1 + 0.6 g (X - 1), g being how much
/// faster than usual it grows in that direction.
pub fn lamp_growth(altitude_deg: f64, glow: f64) -> f64 {
    1.0 + GROWTH_PER_AIRMASS * glow * (airmass(altitude_deg) - 1.0)
}

impl Sky {
    /// How much faster than usual lamp light grows towards the horizon at an azimuth, degrees: 1
    /// where no glow is stated or the azimuth is not known.
    pub fn glow_at(&self, azimuth_deg: Option<f64>) -> f64 {
        azimuth_deg.and_then(|azimuth| around_the_circle(&self.glow, azimuth)).unwrap_or(1.0)
    }

    /// Light of lamps at an hour of mean solar time over that of the evening: what a zenith that is
    /// so much darker has beyond nature.
    pub fn lit_at(&self, solar_hour: f64) -> f64 {
        let darker = darker_at(&self.by_hour, solar_hour);
        let natural = linear_from_mag(self.natural_zenith_mag());
        let lamps = |zenith_v_mag: f64| (linear_from_mag(zenith_v_mag) - natural).max(0.0);
        let evening = lamps(self.zenith_v_mag);
        if darker == 0.0 || evening <= 0.0 {
            return 1.0;
        }
        lamps(self.zenith_v_mag + darker) / evening
    }
}

/// The spectrum of a lamp mix (fractions of V light), one unit of V light in all.
pub fn lamp_mix(tables: &Tables, mix: &BTreeMap<Lamp, f64>) -> Spectrum {
    let mut sum = Spectrum::dark();
    for (&lamp, &share) in mix.iter().filter(|(_, share)| **share > 0.0) {
        sum += tables.lamp(lamp).clone() * share;
    }
    sum
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::common::ic_443;

    #[test]
    fn lamp_light_is_what_the_zenith_has_beyond_nature_and_grows_with_the_air() {
        let sky = Sky {
            zenith_v_mag: 19.5,
            natural_v_mag: 21.9,
            toward_target_v_mag: None,
            ..ic_443().sky
        };
        let zenith = linear_from_mag(19.5) - linear_from_mag(21.9);
        assert!((artificial_linear_at(&sky, 90.0, None, 0.0) / zenith - 1.0).abs() < 1e-3);
        // Two airmasses less a little at 30 degrees (Kasten & Young 1989): six tenths more per
        // airmass.
        assert!(
            (artificial_linear_at(&sky, 30.0, None, 0.0) / zenith - (1.0 + 0.6 * 0.9943)).abs()
                < 1e-3
        );
        let dark = Sky { zenith_v_mag: 22.0, ..sky.clone() };
        assert_eq!(artificial_linear_at(&dark, 30.0, None, 0.0), 0.0);
        // What was read is believed: the natural sky itself is darker there.
        assert_eq!((sky.natural_zenith_mag(), dark.natural_zenith_mag()), (21.9, 22.0));
    }

    /// A town in the south: at the zenith as before, low in the south brighter, low in the north
    /// darker, and a reading taken over the town is less of lamps where the town is not.
    #[test]
    fn a_town_s_glow_stands_over_the_town() {
        let free = Sky { zenith_v_mag: 19.5, toward_target_v_mag: None, ..ic_443().sky };
        let town = Sky { glow: vec![[0.0, 0.2], [180.0, 3.0]], ..free.clone() };
        let at = |sky: &Sky, altitude, azimuth| artificial_linear_at(sky, altitude, azimuth, 0.2);
        let usual = at(&free, 30.0, Some(180.0));
        assert_eq!(usual, at(&town, 30.0, None));
        assert!((at(&town, 90.0, Some(180.0)) / at(&free, 90.0, None) - 1.0).abs() < 1e-3);
        // 0.9943 airmasses more: 1 + 0.6 g 0.9943, g three, a fifth, and 1.6 half way.
        for (azimuth, g) in [(180.0, 3.0), (0.0, 0.2), (360.0, 0.2), (90.0, 1.6), (270.0, 1.6)] {
            let expected = (1.0 + 0.6 * g * 0.9943) / (1.0 + 0.6 * 0.9943);
            assert!((at(&town, 30.0, Some(azimuth)) / usual - expected).abs() < 1e-3, "{azimuth}");
        }
        let read = Sky {
            toward_target_v_mag: Some(18.5),
            toward_target_altitude_deg: Some(30.0),
            toward_target_azimuth_deg: Some(180.0),
            ..town
        };
        let [over, away] = [180.0, 0.0].map(|azimuth| at(&read, 30.0, Some(azimuth)));
        assert!((over / away - (1.0 + 1.8 * 0.9943) / (1.0 + 0.12 * 0.9943)).abs() < 2e-3);
    }

    #[test]
    fn a_measured_sky_is_scaled_from_the_altitude_of_its_measurement() {
        let sky =
            Sky { toward_target_v_mag: Some(19.0), target_altitude_deg: 45.0, ..ic_443().sky };
        let lamps = |at: f64| {
            linear_from_mag(19.0) - linear_from_mag(sky.natural_v_mag) * natural_growth(at, 0.2)
        };
        // Without its own altitude it was measured where the target stands.
        assert!((artificial_linear(&sky, 0.2) / lamps(45.0) - 1.0).abs() < 1e-12);
        let growth = lamp_growth(30.0, 1.0) / lamp_growth(45.0, 1.0);
        let low = artificial_linear_at(&sky, 30.0, None, 0.2);
        assert!((low / (lamps(45.0) * growth) - 1.0).abs() < 1e-12 && growth > 1.2);
        let high = Sky { toward_target_altitude_deg: Some(70.0), ..sky.clone() };
        let expected = lamps(70.0) * lamp_growth(45.0, 1.0) / lamp_growth(70.0, 1.0);
        assert!((artificial_linear(&high, 0.2) / expected - 1.0).abs() < 1e-12);
        let dark = Sky { toward_target_v_mag: Some(22.4), ..sky };
        assert_eq!(artificial_linear(&dark, 0.2), 0.0);
    }
}
