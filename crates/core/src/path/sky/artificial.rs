//! Light from lamps.

use std::collections::BTreeMap;

use crate::light::lamp::Lamp;
use crate::light::spectrum::Spectrum;
use crate::light::tables::Tables;
use crate::light::units::linear_from_mag;
use crate::path::sky::air::airmass;
use crate::scenario::sky::Sky;

/// How fast artificial light grows with airmass when only the zenith is known (from memory).
const GROWTH_PER_AIRMASS: f64 = 0.6;

/// V light of lamps towards the target, in units of magnitude zero per arcsec^2; 0 at a natural site.
///
/// From the zenith reading: total minus natural, times 1 + 0.6 (X - 1). Where the brightness towards
/// the target was measured, that minus the natural light there (`natural_toward`).
pub fn artificial_linear(sky: &Sky, natural_toward: f64) -> f64 {
    artificial_linear_at(sky, sky.target_altitude_deg, natural_toward)
}

/// The same towards another altitude, degrees.
pub fn artificial_linear_at(sky: &Sky, altitude_deg: f64, natural_toward: f64) -> f64 {
    match sky.toward_target_v_mag {
        Some(measured) => (linear_from_mag(measured) - natural_toward).max(0.0),
        None => {
            let zenith = linear_from_mag(sky.zenith_v_mag) - linear_from_mag(sky.natural_v_mag);
            zenith.max(0.0) * lamp_growth(altitude_deg)
        }
    }
}

/// Light of lamps at an altitude against that at the zenith: 1 + 0.6 (X - 1).
pub fn lamp_growth(altitude_deg: f64) -> f64 {
    1.0 + GROWTH_PER_AIRMASS * (airmass(altitude_deg) - 1.0)
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
        let sky = Sky { zenith_v_mag: 19.5, natural_v_mag: 21.9, toward_target_v_mag: None, ..ic_443().sky };
        let zenith = linear_from_mag(19.5) - linear_from_mag(21.9);
        assert!((artificial_linear_at(&sky, 90.0, 0.0) / zenith - 1.0).abs() < 1e-3);
        // Two airmasses less a little at 30 degrees (Kasten & Young 1989): six tenths more per airmass.
        assert!((artificial_linear_at(&sky, 30.0, 0.0) / zenith - (1.0 + 0.6 * 0.9943)).abs() < 1e-3);
        let dark = Sky { zenith_v_mag: 22.0, ..sky.clone() };
        assert_eq!(artificial_linear_at(&dark, 30.0, 0.0), 0.0);
        let measured = Sky { toward_target_v_mag: Some(19.0), ..sky };
        let natural = linear_from_mag(21.7);
        assert!((artificial_linear_at(&measured, 30.0, natural) - (linear_from_mag(19.0) - natural)).abs() < 1e-20);
        assert_eq!(artificial_linear_at(&measured, 30.0, 1.0), 0.0);
    }
}
