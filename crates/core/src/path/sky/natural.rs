//! The moonless sky far from any lamp.

use crate::light::curve::Curve;
use crate::light::lines::SODIUM_NM;
use crate::light::spectrum::{SpectralLine, Spectrum};
use crate::light::tables::Tables;
use crate::light::units::{PHOTONS_PER_RAYLEIGH, ab_photon_rate, linear_from_mag};

/// Continuum of the natural sky, AB mag/arcsec^2 at wavelengths in nm; linear in magnitude between.
const CONTINUUM_AB: [[f64; 2]; 8] = [
    [365.0, 22.8],
    [440.0, 22.65],
    [550.0, 22.3],
    [600.0, 21.9],
    [650.0, 21.6],
    [700.0, 21.0],
    [800.0, 20.2],
    [900.0, 19.8],
];

/// Airglow lines: name, air wavelength in nm, rayleigh (from memory).
pub const AIRGLOW: [(&str, f64, f64); 4] = [
    ("airglow O I", 557.7, 250.0),
    ("airglow Na", SODIUM_NM, 40.0),
    ("airglow O I", 630.0, 100.0),
    ("airglow O I", 636.4, 33.0),
];

/// Share of the natural sky that is airglow and grows with the airmass; the rest, zodiacal light
/// and starlight, lies outside the air (Patat 2003, A&A 400, 1183).
const AIRGLOW_SHARE: f64 = 0.6;

/// The natural sky at the zenith, photons, scaled as a whole so that its synthetic V is `v_mag`.
///
/// With `v_mag` 21.9 the broad-band values come out within 0.2 mag of the dark sky of La Palma
/// (Benn & Ellison 1998, La Palma Technical Note 115).
pub fn natural_zenith(tables: &Tables, v_mag: f64) -> Spectrum {
    // Magnitudes, not fractions, but a curve's interpolation is the one that is wanted; beyond the
    // ends it holds.
    let mags = Curve(CONTINUUM_AB.to_vec());
    let (first, last) = (CONTINUUM_AB[0][0], CONTINUUM_AB[CONTINUUM_AB.len() - 1][0]);
    let mut spectrum = Spectrum::from_fn(|nm| ab_photon_rate(mags.at(nm.clamp(first, last)), nm));
    spectrum.lines = AIRGLOW
        .iter()
        .map(|&(name, wavelength_nm, rayleigh)| SpectralLine {
            name: name.to_owned(),
            wavelength_nm,
            photons: rayleigh * PHOTONS_PER_RAYLEIGH,
        })
        .collect();
    tables.one_unit_of_v(spectrum) * linear_from_mag(v_mag)
}

/// Airmass of scattered and diffuse light, 1 at the zenith and 5 at the horizon:
/// (1 - 0.96 sin^2 z)^-0.5 (Krisciunas & Schaefer 1991, PASP 103, 1033, equation 3).
pub fn diffuse_airmass(altitude_deg: f64) -> f64 {
    let cos_altitude = altitude_deg.clamp(0.0, 90.0).to_radians().cos();
    (1.0 - 0.96 * cos_altitude * cos_altitude).powf(-0.5)
}

/// The natural sky at an altitude against that at the zenith, as seen from the ground.
///
/// (0.4 + 0.6 X) 10^(-0.4 k (X - 1)) with X of [`diffuse_airmass`] and the extinction `k_v`, mag
/// per airmass: a longer way through the glowing layer, dimmed by the air below it (Patat 2003,
/// A&A 400, 1183, equation 4).
pub fn natural_growth(altitude_deg: f64, k_v: f64) -> f64 {
    let x = diffuse_airmass(altitude_deg);
    (1.0 - AIRGLOW_SHARE + AIRGLOW_SHARE * x) * 10f64.powf(-0.4 * k_v * (x - 1.0))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_zenith_has_the_v_that_was_asked_for() {
        let tables = Tables::shipped().unwrap();
        let v = tables.v_mag(&natural_zenith(&tables, 21.6)).unwrap();
        assert!((v - 21.6).abs() < 1e-9);
    }

    #[test]
    fn broad_bands_agree_with_the_dark_sky_of_la_palma() {
        // Benn & Ellison 1998: U 22.0, B 22.7, V 21.9, R 21.0, I 20.0; Vega to AB by Blanton &
        // Roweis 2007.
        let tables = Tables::shipped().unwrap();
        let sky = natural_zenith(&tables, 21.9);
        for (band, ab_minus_vega, published, ours) in [
            ('U', 0.79, 22.0, 22.05),
            ('B', -0.09, 22.7, 22.78),
            ('V', 0.02, 21.9, 21.90),
            ('R', 0.21, 21.0, 21.06),
            ('I', 0.45, 20.0, 19.83),
        ] {
            let vega = tables.band(band).ab_mag(&sky).unwrap() - ab_minus_vega;
            assert!((vega - published).abs() < 0.2, "{band}: {vega:.2} against {published}");
            assert!((vega - ours).abs() < 0.03, "{band}: {vega:.2} against {ours}");
        }
    }

    /// By hand at 30 degrees with k 0.172: X = (1 - 0.72)^-0.5 = 1.890, and 21.9 becomes 21.59.
    #[test]
    fn low_down_the_layer_is_longer_and_the_air_dims_it() {
        let at = |altitude: f64, k: f64| 21.9 - 2.5 * natural_growth(altitude, k).log10();
        assert!((at(90.0, 0.172) - 21.9).abs() < 1e-9);
        assert!((at(30.0, 0.172) - 21.59).abs() < 0.005, "{}", at(30.0, 0.172));
        // Thick air darkens a natural sky low down; without any it only brightens.
        assert!(at(10.0, 0.6) > 21.9 && at(10.0, 0.0) < 21.0);
    }

    /// Nowhere brighter than a sky that is all airglow: Krisciunas & Schaefer 1991, equation 2.
    #[test]
    fn it_is_never_brighter_than_a_sky_of_airglow_alone() {
        for altitude in 5..=90 {
            let x = diffuse_airmass(f64::from(altitude));
            for k in [0.0, 0.1, 0.3] {
                let all = x * 10f64.powf(-0.4 * k * (x - 1.0));
                assert!(natural_growth(f64::from(altitude), k) <= all + 1e-12, "{altitude} {k}");
            }
        }
    }

    /// Green airglow over a dark site is a few hundred rayleigh (Roach & Gordon 1973, The Light of
    /// the Night Sky; from memory), and it shares its scale with the continuum: at V 21.9 both are
    /// as listed.
    #[test]
    fn airglow_keeps_its_lines_in_proportion() {
        let sky = natural_zenith(&Tables::shipped().unwrap(), 21.9);
        let rayleigh = |nm: f64| {
            sky.lines.iter().find(|l| l.wavelength_nm == nm).unwrap().photons / PHOTONS_PER_RAYLEIGH
        };
        assert!(
            (rayleigh(557.7) / rayleigh(630.0) - 2.5).abs() < 1e-9
                && (rayleigh(589.3) / rayleigh(636.4) - 40.0 / 33.0).abs() < 1e-9
        );
        // V of the listed sky as it stands is within a tenth of a magnitude of 21.9.
        assert!((rayleigh(557.7) / 250.0).log10().abs() < 0.04, "{}", rayleigh(557.7));
    }
}
