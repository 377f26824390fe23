//! Twilight. Patat, Ugolnikov & Postylyakov 2006, A&A 455, 385 (coefficients from memory).

use crate::light::spectrum::Spectrum;
use crate::light::tables::Tables;
use crate::light::units::linear_from_mag;

/// Twilight begins to count with the sun this low, degrees.
pub const TWILIGHT_FROM_DEG: f64 = -18.0;

/// With the sun higher than this the fit does not hold, degrees.
pub const TWILIGHT_UNTIL_DEG: f64 = -5.0;

/// V brightness of twilight at the zenith, mag/arcsec^2: 11.84 + 1.518 d - 0.057 d^2 with
/// d = (zenith distance of the sun) - 95 degrees.
///
/// `None` below -18 degrees. Above -5 degrees the value of -5 is given: callers warn.
pub fn twilight_zenith_mag(sun_altitude_deg: f64) -> Option<f64> {
    if sun_altitude_deg < TWILIGHT_FROM_DEG {
        return None;
    }
    let d = 90.0 - sun_altitude_deg.min(TWILIGHT_UNTIL_DEG) - 95.0;
    Some(11.84 + 1.518 * d - 0.057 * d * d)
}

/// Twilight is sunlight times the wavelength to this power (from memory).
pub const TWILIGHT_POWER: f64 = -2.0;

/// Twilight as photons: sunlight scattered as (lambda / 550)^-2, scaled to its V.
pub fn twilight_spectrum(tables: &Tables, sun_altitude_deg: f64) -> Spectrum {
    match twilight_zenith_mag(sun_altitude_deg) {
        Some(v_mag) => {
            tables.one_unit_of_v(tables.sunlight.clone().shaped(|nm| (nm / 550.0).powf(TWILIGHT_POWER))) * linear_from_mag(v_mag)
        }
        None => Spectrum::dark(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn darker_as_the_sun_sinks_and_gone_below_18() {
        assert_eq!(twilight_zenith_mag(-18.1), None);
        assert!((twilight_zenith_mag(-5.0).unwrap() - 11.84).abs() < 1e-12);
        let mags: Vec<_> = (-17..=-5).map(|a| twilight_zenith_mag(f64::from(a)).unwrap()).collect();
        assert!(mags.windows(2).all(|w| w[0] > w[1]), "{mags:?}");
    }

    /// The fit by hand at two heights of the sun (Patat et al. 2006, table 2; coefficients from memory).
    #[test]
    fn the_fit_and_its_colour() {
        assert!((twilight_zenith_mag(-10.0).unwrap() - (11.84 + 7.59 - 1.425)).abs() < 1e-9);
        assert!((twilight_zenith_mag(-15.0).unwrap() - 21.32).abs() < 1e-9);
        assert!(twilight_zenith_mag(-18.0).is_some() && twilight_zenith_mag(-4.0) == twilight_zenith_mag(-5.0));
        let tables = Tables::shipped().unwrap();
        let (sky, sun) = (twilight_spectrum(&tables, -12.0), &tables.sunlight);
        let bluer = |nm: f64| sky.continuum_at(nm) / sun.continuum_at(nm);
        assert!((bluer(450.0) / bluer(650.0) / (650.0f64 / 450.0).powi(2) - 1.0).abs() < 1e-9);
        assert!((tables.v_mag(&sky).unwrap() - twilight_zenith_mag(-12.0).unwrap()).abs() < 1e-9);
    }
}
