//! The moonless sky far from any lamp.

use crate::light::curve::Curve;
use crate::light::spectrum::{SpectralLine, Spectrum};
use crate::light::tables::Tables;
use crate::light::units::{PHOTONS_PER_RAYLEIGH, ab_photon_rate, linear_from_mag};

/// Continuum of the natural sky, AB mag/arcsec^2 at wavelengths in nm; linear in magnitude between.
const CONTINUUM_AB: [[f64; 2]; 8] =
    [[365.0, 22.8], [440.0, 22.65], [550.0, 22.3], [600.0, 21.9], [650.0, 21.6], [700.0, 21.0], [800.0, 20.2], [900.0, 19.8]];

/// Airglow lines: name, air wavelength in nm, rayleigh (from memory).
pub const AIRGLOW: [(&str, f64, f64); 4] =
    [("airglow O I", 557.7, 250.0), ("airglow Na", 589.3, 40.0), ("airglow O I", 630.0, 100.0), ("airglow O I", 636.4, 33.0)];

/// Radius of the Earth and height of the airglow layer, km, in the van Rhijn factor.
const EARTH_RADIUS_KM: f64 = 6371.0;

const AIRGLOW_HEIGHT_KM: f64 = 90.0;

/// The natural sky at the zenith, photons, scaled as a whole so that its synthetic V is `v_mag`.
///
/// With `v_mag` 21.9 the broad-band values come out within 0.2 mag of the dark sky of La Palma
/// (Benn & Ellison 1998, La Palma Technical Note 115).
pub fn natural_zenith(tables: &Tables, v_mag: f64) -> Spectrum {
    // Magnitudes, not fractions, but a curve's interpolation is the one that is wanted; beyond the ends it holds.
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

/// How much brighter the airglow layer is at an altitude than at the zenith.
///
/// van Rhijn 1921: 1 / sqrt(1 - (R cos(alt) / (R + h))^2), R = 6371 km, h = 90 km.
pub fn van_rhijn(altitude_deg: f64) -> f64 {
    let x = EARTH_RADIUS_KM * altitude_deg.to_radians().cos() / (EARTH_RADIUS_KM + AIRGLOW_HEIGHT_KM);
    1.0 / (1.0 - x * x).sqrt()
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
        // Benn & Ellison 1998: U 22.0, B 22.7, V 21.9, R 21.0, I 20.0; Vega to AB by Blanton & Roweis 2007.
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

    #[test]
    fn airglow_brightens_towards_the_horizon() {
        assert!((van_rhijn(90.0) - 1.0).abs() < 1e-9);
        assert!(van_rhijn(30.0) > 1.8 && van_rhijn(30.0) < 2.0);
    }

    /// van Rhijn's factor by hand: 90 km up, sin z = 6371 / 6461 at the horizon.
    #[test]
    fn the_layer_stands_ninety_kilometres_up() {
        assert!((van_rhijn(0.0) - 6.012).abs() < 0.002, "{}", van_rhijn(0.0));
        assert!((van_rhijn(30.0) - 1.922).abs() < 0.002, "{}", van_rhijn(30.0));
    }

    /// Green airglow over a dark site is a few hundred rayleigh (Roach & Gordon 1973, The Light of the Night Sky; from memory),
    /// and it shares its scale with the continuum: at V 21.9 both are as listed.
    #[test]
    fn airglow_keeps_its_lines_in_proportion() {
        let sky = natural_zenith(&Tables::shipped().unwrap(), 21.9);
        let rayleigh = |nm: f64| sky.lines.iter().find(|l| l.wavelength_nm == nm).unwrap().photons / PHOTONS_PER_RAYLEIGH;
        assert!((rayleigh(557.7) / rayleigh(630.0) - 2.5).abs() < 1e-9 && (rayleigh(589.3) / rayleigh(636.4) - 40.0 / 33.0).abs() < 1e-9);
        // V of the listed sky as it stands is within a tenth of a magnitude of 21.9.
        assert!((rayleigh(557.7) / 250.0).log10().abs() < 0.04, "{}", rayleigh(557.7));
    }
}
