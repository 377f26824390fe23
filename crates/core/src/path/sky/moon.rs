//! Moonlight scattered in the air. Krisciunas & Schaefer 1991, PASP 103, 1033.

use crate::light::spectrum::Spectrum;
use crate::light::tables::Tables;
use crate::light::units::linear_from_mag;
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
        let mie = if rho_deg < 10.0 { 6.2e7 * rho_deg.max(0.25).powi(-2) } else { 10f64.powf(6.15 - rho_deg / 40.0) };
        Self { rayleigh, mie }
    }
}

/// The paper's own airmass for scattered light: (1 - 0.96 sin^2 z)^-0.5.
fn scattering_airmass(altitude_deg: f64) -> f64 {
    let sin_z = (90.0 - altitude_deg).to_radians().sin();
    (1.0 - 0.96 * sin_z * sin_z).powf(-0.5)
}

/// V brightness of moonlight towards the target, mag/arcsec^2; `None` with the moon below the horizon.
///
/// Krisciunas & Schaefer 1991, equations 1, 3, 15, 20 and 21. `k_v` is the extinction in mag/airmass.
pub fn moon_mag_krisciunas_schaefer(moon: &Moon, target_altitude_deg: f64, k_v: f64) -> Option<f64> {
    if moon.altitude_deg <= 0.0 {
        return None;
    }
    let alpha = moon.phase_angle_deg.abs();
    let illuminance = 10f64.powf(-0.4 * (3.84 + 0.026 * alpha + 4e-9 * alpha.powi(4)));
    let terms = MoonTerms::at(moon.separation_deg);
    let (to_moon, to_target) = (scattering_airmass(moon.altitude_deg), scattering_airmass(target_altitude_deg));
    let nanolambert =
        (terms.rayleigh + terms.mie) * illuminance * 10f64.powf(-0.4 * k_v * to_moon) * (1.0 - 10f64.powf(-0.4 * k_v * to_target));
    Some((20.7233 - (nanolambert / 34.08).ln()) / 0.92104)
}

/// Molecules scatter as the wavelength to this power (Rayleigh).
pub const MOLECULES_POWER: f64 = -4.0;

/// Aerosols scatter as the wavelength to this power (from memory).
pub const AEROSOLS_POWER: f64 = -1.3;

impl MoonTerms {
    /// Scattered light at a wavelength, the two kinds of scattering each in its colour, against that at 550 nm.
    pub fn scattered(&self, wavelength_nm: f64) -> f64 {
        let x = wavelength_nm / 550.0;
        self.rayleigh * x.powf(MOLECULES_POWER) + self.mie * x.powf(AEROSOLS_POWER)
    }
}

/// Moonlight towards the target as photons.
///
/// Sunlight, reddened by neither and scattered by molecules as lambda^-4 and by aerosols as lambda^-1.3
/// in the proportion of the two terms at this separation, scaled to the V of the model.
pub fn moon_spectrum(tables: &Tables, moon: &Moon, target_altitude_deg: f64, k_v: f64) -> Spectrum {
    let Some(v_mag) = moon_mag_krisciunas_schaefer(moon, target_altitude_deg, k_v) else {
        return Spectrum::dark();
    };
    let terms = MoonTerms::at(moon.separation_deg);
    tables.one_unit_of_v(tables.sunlight.clone().shaped(|nm| terms.scattered(nm))) * linear_from_mag(v_mag)
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

    #[test]
    fn a_set_moon_gives_nothing() {
        assert_eq!(moon_mag_krisciunas_schaefer(&moon(0.0, -0.1, 90.0), 60.0, 0.2), None);
    }

    #[test]
    fn moonlight_is_bluer_far_from_the_moon() {
        let tables = Tables::shipped().unwrap();
        let ratio = |sep| {
            let s = moon_spectrum(&tables, &moon(10.0, 40.0, sep), 60.0, 0.2);
            s.continuum_at(501.0) / s.continuum_at(656.0)
        };
        assert!(ratio(90.0) > ratio(15.0));
    }

    /// Rayleigh scattering goes with the fourth power of the wavelength; aerosols, in the model, with 1.3.
    #[test]
    fn each_part_of_moonlight_has_its_own_colour() {
        let tables = Tables::shipped().unwrap();
        for sep in [5.0, 30.0, 90.0] {
            let (s, t) = (moon_spectrum(&tables, &moon(20.0, 40.0, sep), 60.0, 0.2), MoonTerms::at(sep));
            let expected = |nm: f64| t.rayleigh * (550.0 / nm).powi(4) + t.mie * (550.0 / nm).powf(1.3);
            let scattered = |nm: f64| s.continuum_at(nm) / tables.sunlight.continuum_at(nm);
            assert!((scattered(450.0) / scattered(700.0) / (expected(450.0) / expected(700.0)) - 1.0).abs() < 1e-9, "{sep}");
        }
    }

    /// Both branches of the paper's aerosol term meet within its own accuracy at ten degrees, and the disc has an end.
    #[test]
    fn the_aureole_joins_and_is_finite() {
        let (inside, outside) = (MoonTerms::at(9.999).mie, MoonTerms::at(10.0).mie);
        assert!((inside / outside - 1.0).abs() < 0.25, "{inside} {outside}");
        assert!((MoonTerms::at(5.0).mie / (6.2e7 / 25.0) - 1.0).abs() < 1e-12);
        assert_eq!(MoonTerms::at(0.0), MoonTerms { rayleigh: MoonTerms::at(0.0).rayleigh, mie: 6.2e7 * 16.0 });
        assert!((MoonTerms::at(90.0).rayleigh / (1.06 * 10f64.powf(5.36)) - 1.0).abs() < 1e-9);
    }
}
