//! Light from lamps.

use std::collections::BTreeMap;

use crate::light::{Lamp, Spectrum, Tables, linear_from_mag};
use crate::scenario::Sky;

use super::air::airmass;

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
            zenith.max(0.0) * (1.0 + GROWTH_PER_AIRMASS * (airmass(altitude_deg) - 1.0))
        }
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
