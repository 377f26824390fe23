//! Twilight's own part of the sky. Patat, Ugolnikov & Postylyakov 2006, A&A 455, 385 (coefficients
//! from memory).
//!
//! The paper fits the whole sky between -5 and -15 degrees of the sun. What belongs to twilight is
//! that less the night sky that shone in it; from -15 on, where the fit ends, it fades
//! exponentially from the value and the slope that it has there, so that no night begins with a
//! step.

use crate::light::spectrum::Spectrum;
use crate::light::tables::Tables;
use crate::light::units::linear_from_mag;

/// With the sun lower than this nothing is left of twilight, degrees: some millionths of the
/// natural sky.
pub const TWILIGHT_FROM_DEG: f64 = -24.0;

/// With the sun higher than this the fit does not hold, degrees.
pub const TWILIGHT_UNTIL_DEG: f64 = -5.0;

/// The fit ends here, degrees.
const FIT_ENDS_DEG: f64 = -15.0;

/// The night sky that is part of the fit, V mag/arcsec^2.
const NIGHT_IN_FIT_MAG: f64 = 21.65;

/// V brightness of the whole sky at the zenith, mag/arcsec^2: 11.84 + 1.518 d - 0.057 d^2 with
/// d = (zenith distance of the sun) - 95 degrees, for the sun between -5 and -15 degrees.
pub fn whole_sky_zenith_mag(sun_altitude_deg: f64) -> f64 {
    let d = -sun_altitude_deg - 5.0;
    11.84 + 1.518 * d - 0.057 * d * d
}

/// Twilight's own V light, in units of magnitude zero per arcsec^2.
///
/// Above -5 degrees the value of -5 is given: callers warn.
pub fn twilight_linear(sun_altitude_deg: f64) -> f64 {
    if sun_altitude_deg < TWILIGHT_FROM_DEG {
        return 0.0;
    }
    let night = linear_from_mag(NIGHT_IN_FIT_MAG);
    let fitted = sun_altitude_deg.clamp(FIT_ENDS_DEG, TWILIGHT_UNTIL_DEG);
    let whole = linear_from_mag(whole_sky_zenith_mag(fitted));
    let own = whole - night;
    if sun_altitude_deg >= FIT_ENDS_DEG {
        return own;
    }
    // d(ln own)/dd at the end of the fit, with d in degrees.
    let d = -FIT_ENDS_DEG - 5.0;
    let slope = -0.4 * std::f64::consts::LN_10 * (1.518 - 0.114 * d) * whole / own;
    own * (slope * (FIT_ENDS_DEG - sun_altitude_deg)).exp()
}

/// Twilight is sunlight times the wavelength to these powers: the first until the sun stands at
/// [`STEEP_UNTIL_DEG`], less and less of it until -18, the second from there (from memory).
pub const TWILIGHT_POWERS: [f64; 2] = [-2.0, -1.0];

/// Until here the colour is the bluest, degrees.
const STEEP_UNTIL_DEG: f64 = -12.0;

/// How much of twilight's V light has each of the two colours; they sum to 1.
pub fn twilight_colours(sun_altitude_deg: f64) -> [f64; 2] {
    let blue = ((sun_altitude_deg + 18.0) / (STEEP_UNTIL_DEG + 18.0)).clamp(0.0, 1.0);
    [blue, 1.0 - blue]
}

/// Sunlight scattered as (lambda / 550)^power, one unit of V light for each colour of twilight.
pub fn twilight_units(tables: &Tables) -> [Spectrum; 2] {
    TWILIGHT_POWERS.map(|power| {
        tables.one_unit_of_v(tables.sunlight.clone().shaped(|nm| (nm / 550.0).powf(power)))
    })
}

/// Twilight as photons.
pub fn twilight_spectrum(tables: &Tables, sun_altitude_deg: f64) -> Spectrum {
    let light = twilight_linear(sun_altitude_deg);
    if light <= 0.0 {
        return Spectrum::dark();
    }
    let mut sum = Spectrum::dark();
    for (unit, share) in twilight_units(tables).into_iter().zip(twilight_colours(sun_altitude_deg))
    {
        sum += unit * (share * light);
    }
    sum
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::light::units::mag_from_linear;

    /// The fit by hand at two heights of the sun (Patat et al. 2006, table 2; coefficients from
    /// memory), and what is left of it without the night sky in it.
    #[test]
    fn twilight_is_the_fit_without_the_night_sky_in_it() {
        assert!((whole_sky_zenith_mag(-10.0) - (11.84 + 7.59 - 1.425)).abs() < 1e-9);
        assert!((whole_sky_zenith_mag(-15.0) - 21.32).abs() < 1e-9);
        for sun in [-5.0, -8.5, -12.0, -15.0] {
            let whole = twilight_linear(sun) + linear_from_mag(21.65);
            let mag = mag_from_linear(whole).unwrap();
            assert!((mag - whole_sky_zenith_mag(sun)).abs() < 1e-9, "{sun}");
        }
        assert_eq!(twilight_linear(-4.0), twilight_linear(-5.0));
    }

    #[test]
    fn it_fades_without_a_step_to_under_a_hundredth_of_the_natural_sky() {
        let natural = linear_from_mag(21.9);
        assert!(twilight_linear(-18.0) < 0.01 * natural, "{}", twilight_linear(-18.0) / natural);
        assert!(twilight_linear(-17.0) > 0.01 * natural);
        // Value and slope go on where the fit ends.
        let ln = |sun: f64| twilight_linear(sun).ln();
        let (above, below) = (ln(-14.99) - ln(-15.0), ln(-15.0) - ln(-15.01));
        assert!((above / below - 1.0).abs() < 0.02, "{above} {below}");
        assert!(twilight_linear(-23.99) < 1e-4 * natural && twilight_linear(-24.1) == 0.0);
    }

    /// The whole sky's magnitude over steps of a tenth of a degree: no second difference over 0.02.
    #[test]
    fn the_sky_darkens_without_a_kink() {
        let natural = linear_from_mag(21.9);
        let mag = |i: i32| -2.5 * (natural + twilight_linear(-f64::from(i) / 10.0)).log10();
        for i in 61..300 {
            let second = mag(i + 1) - 2.0 * mag(i) + mag(i - 1);
            assert!(second.abs() < 0.02, "{i}: {second}");
            assert!(mag(i + 1) >= mag(i), "it darkens as the sun sinks: {i}");
        }
    }

    #[test]
    fn its_colour_is_that_of_scattered_sunlight_and_less_blue_late() {
        let tables = Tables::shipped().unwrap();
        let bluer = |sun: f64| {
            let sky = twilight_spectrum(&tables, sun);
            let of = |nm: f64| sky.continuum_at(nm) / tables.sunlight.continuum_at(nm);
            of(450.0) / of(650.0)
        };
        assert!((bluer(-10.0) / (650.0f64 / 450.0).powi(2) - 1.0).abs() < 1e-9);
        assert!((bluer(-18.0) / (650.0 / 450.0) - 1.0).abs() < 1e-9);
        assert!(bluer(-15.0) < bluer(-12.0) && bluer(-15.0) > bluer(-18.0));
        let v = tables.v_linear(&twilight_spectrum(&tables, -13.0));
        assert!((v / twilight_linear(-13.0) - 1.0).abs() < 1e-9);
    }
}
