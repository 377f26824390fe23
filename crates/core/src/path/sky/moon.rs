//! Moonlight scattered in the air. Krisciunas & Schaefer 1991, PASP 103, 1033.

use crate::light::spectrum::Spectrum;
use crate::light::tables::Tables;
use crate::light::units::{linear_from_mag, mag_from_linear};
use crate::path::sky::air::airmass;
use crate::path::sky::natural::diffuse_airmass;
use crate::scenario::sky::Moon;

/// The two parts of the scattering function at one separation.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct MoonTerms {
    /// Scattering by molecules, 10^5.36 (1.06 + cos^2 rho).
    pub rayleigh: f64,
    /// Scattering by aerosols, 10^(6.15 - rho / 40), or 6.2e7 rho^-2 below 10 degrees.
    pub mie: f64,
}

impl MoonTerms {
    /// The terms at a separation of `rho_deg` degrees between moon and target.
    pub fn at(rho_deg: f64) -> Self {
        let rayleigh = 10f64.powf(5.36) * (1.06 + rho_deg.to_radians().cos().powi(2));
        // Closer than a quarter of a degree is on the disc itself.
        let mie = if rho_deg < 10.0 {
            6.2e7 * rho_deg.max(0.25).powi(-2)
        } else {
            10f64.powf(6.15 - rho_deg / 40.0)
        };
        Self { rayleigh, mie }
    }
}

/// What reaches the ground of the scattered moonlight, V light in units of magnitude zero per
/// arcsec^2: equations 1, 3, 15, 20 and 21 of the paper, the moon's own beam through
/// `beam_airmass`.
fn scattered_linear(moon: &Moon, target_altitude_deg: f64, k_v: f64, beam_airmass: f64) -> f64 {
    let alpha = moon.phase_angle_deg.abs();
    let illuminance = 10f64.powf(-0.4 * (3.84 + 0.026 * alpha + 4e-9 * alpha.powi(4)));
    let terms = MoonTerms::at(moon.separation_deg);
    let to_target = diffuse_airmass(target_altitude_deg);
    let nanolambert = (terms.rayleigh + terms.mie)
        * illuminance
        * 10f64.powf(-0.4 * k_v * beam_airmass)
        * (1.0 - 10f64.powf(-0.4 * k_v * to_target));
    linear_from_mag((20.7233 - (nanolambert / 34.08).ln()) / 0.92104)
}

/// V brightness of moonlight towards the target by the paper to the letter, mag/arcsec^2; `None`
/// with the moon below the horizon. `k_v` is the extinction in mag/airmass.
pub fn moon_mag_krisciunas_schaefer(
    moon: &Moon,
    target_altitude_deg: f64,
    k_v: f64,
) -> Option<f64> {
    let beam = diffuse_airmass(moon.altitude_deg);
    let light = || scattered_linear(moon, target_altitude_deg, k_v, beam);
    (moon.altitude_deg > 0.0).then(light).and_then(mag_from_linear)
}

/// Under this share of the natural sky the light of a moon below the horizon is none.
const LEAST_OF_NATURAL: f64 = 0.01;

/// V light of the moon towards the target, in units of magnitude zero per arcsec^2.
///
/// As the paper, but for a low moon: the paper's airmass ends at 5 at the horizon, so the moon's
/// own beam goes through that of Kasten & Young, and moonlight grows in over the first half hour
/// after moonrise. With the moon below the horizon it falls on with the slope that it has at zero
/// degrees, until it is under a hundredth of the natural sky (`natural_linear`); then it is none.
pub fn moon_linear(moon: &Moon, target_altitude_deg: f64, k_v: f64, natural_linear: f64) -> f64 {
    let light = scattered_linear(moon, target_altitude_deg, k_v, airmass(moon.altitude_deg));
    if moon.altitude_deg >= 0.0 {
        return light;
    }
    const STEP_DEG: f64 = 0.001;
    let per_deg = (airmass(STEP_DEG) - airmass(0.0)) / STEP_DEG;
    let fallen = light * 10f64.powf(-0.4 * k_v * per_deg * moon.altitude_deg);
    if fallen < LEAST_OF_NATURAL * natural_linear { 0.0 } else { fallen }
}

/// Molecules scatter as the wavelength to this power (Rayleigh).
pub const MOLECULES_POWER: f64 = -4.0;

/// Aerosols scatter as the wavelength to this power (from memory).
pub const AEROSOLS_POWER: f64 = -1.3;

impl MoonTerms {
    /// Scattered light at a wavelength, the two kinds of scattering each in its colour, against
    /// that at 550 nm.
    pub fn scattered(&self, wavelength_nm: f64) -> f64 {
        let x = wavelength_nm / 550.0;
        self.rayleigh * x.powf(MOLECULES_POWER) + self.mie * x.powf(AEROSOLS_POWER)
    }
}

/// Moonlight towards the target as photons; `natural_linear` is the V light of the natural sky at
/// the zenith.
///
/// Sunlight, reddened by neither and scattered by molecules as lambda^-4 and by aerosols as
/// lambda^-1.3 in the proportion of the two terms at this separation, scaled to the V of the model.
pub fn moon_spectrum(
    tables: &Tables,
    moon: &Moon,
    target_altitude_deg: f64,
    k_v: f64,
    natural_linear: f64,
) -> Spectrum {
    let light = moon_linear(moon, target_altitude_deg, k_v, natural_linear);
    if light <= 0.0 {
        return Spectrum::dark();
    }
    let terms = MoonTerms::at(moon.separation_deg);
    tables.one_unit_of_v(tables.sunlight.clone().shaped(|nm| terms.scattered(nm))) * light
}

#[cfg(test)]
mod tests {
    use super::*;

    fn moon(phase_angle_deg: f64, altitude_deg: f64, separation_deg: f64) -> Moon {
        Moon { phase_angle_deg, altitude_deg, separation_deg }
    }

    #[test]
    fn the_worked_case() {
        let v = moon_mag_krisciunas_schaefer(&moon(45.0, 20.0, 50.0), 70.0, 0.15).unwrap();
        assert!((v - 19.855).abs() < 0.001, "{v}");
    }

    /// A dark site's natural sky, V 21.9.
    const NATURAL: f64 = 1.738e-9;

    /// The same case with Kasten & Young's airmass for the beam, by hand: sec-like 2.904 at 20
    /// degrees where the paper has 2.563.
    #[test]
    fn the_worked_case_with_the_moon_s_beam_through_the_real_air() {
        let light = moon_linear(&moon(45.0, 20.0, 50.0), 70.0, 0.15, NATURAL);
        let v = mag_from_linear(light).unwrap();
        assert!((v - 19.906).abs() < 0.001, "{v}");
    }

    /// Through moonrise the whole sky's magnitude has no second difference over 0.02 in steps of a
    /// tenth of a degree, and it only brightens.
    #[test]
    fn moonlight_grows_in_without_a_step() {
        for (phase, separation, k) in [(0.0, 90.0, 0.17), (0.0, 30.0, 0.3), (60.0, 60.0, 0.15)] {
            let mag = |i: i32| {
                let m = moon(phase, f64::from(i) / 10.0, separation);
                -2.5 * (NATURAL + moon_linear(&m, 60.0, k, NATURAL)).log10()
            };
            for i in -80..400 {
                let second = mag(i + 1) - 2.0 * mag(i) + mag(i - 1);
                assert!(second.abs() < 0.02, "{phase} {separation} {k} {i}: {second}");
                assert!(mag(i + 1) <= mag(i) + 1e-12, "{phase} {separation} {k} {i}");
            }
        }
    }

    #[test]
    fn a_set_moon_gives_nothing() {
        assert_eq!(moon_mag_krisciunas_schaefer(&moon(0.0, -0.1, 90.0), 60.0, 0.2), None);
        assert_eq!(moon_linear(&moon(0.0, -8.0, 90.0), 60.0, 0.2, NATURAL), 0.0);
    }

    #[test]
    fn moonlight_is_bluer_far_from_the_moon() {
        let tables = Tables::shipped().unwrap();
        let ratio = |sep| {
            let s = moon_spectrum(&tables, &moon(10.0, 40.0, sep), 60.0, 0.2, NATURAL);
            s.continuum_at(501.0) / s.continuum_at(656.0)
        };
        assert!(ratio(90.0) > ratio(15.0));
    }

    /// Rayleigh scattering goes with the fourth power of the wavelength; aerosols, in the model,
    /// with 1.3.
    #[test]
    fn each_part_of_moonlight_has_its_own_colour() {
        let tables = Tables::shipped().unwrap();
        for sep in [5.0, 30.0, 90.0] {
            let (s, t) = (
                moon_spectrum(&tables, &moon(20.0, 40.0, sep), 60.0, 0.2, NATURAL),
                MoonTerms::at(sep),
            );
            let expected =
                |nm: f64| t.rayleigh * (550.0 / nm).powi(4) + t.mie * (550.0 / nm).powf(1.3);
            let scattered = |nm: f64| s.continuum_at(nm) / tables.sunlight.continuum_at(nm);
            assert!(
                (scattered(450.0) / scattered(700.0) / (expected(450.0) / expected(700.0)) - 1.0)
                    .abs()
                    < 1e-9,
                "{sep}"
            );
        }
    }

    /// Both branches of the paper's aerosol term meet within its own accuracy at ten degrees, and
    /// the disc has an end.
    #[test]
    fn the_aureole_joins_and_is_finite() {
        let (inside, outside) = (MoonTerms::at(9.999).mie, MoonTerms::at(10.0).mie);
        assert!((inside / outside - 1.0).abs() < 0.25, "{inside} {outside}");
        assert!((MoonTerms::at(5.0).mie / (6.2e7 / 25.0) - 1.0).abs() < 1e-12);
        assert_eq!(
            MoonTerms::at(0.0),
            MoonTerms { rayleigh: MoonTerms::at(0.0).rayleigh, mie: 6.2e7 * 16.0 }
        );
        assert!((MoonTerms::at(90.0).rayleigh / (1.06 * 10f64.powf(5.36)) - 1.0).abs() < 1e-9);
    }
}
