//! Unit conversions between what imagers quote and photons.

/// Full width at half maximum of a Gaussian over its standard deviation: 2 sqrt(2 ln 2).
pub const FWHM_PER_SIGMA: f64 = 2.354_820_045_030_949;

/// Planck constant, J s (SI, exact).
pub const PLANCK_J_S: f64 = 6.626_070_15e-34;

/// Speed of light, m/s (SI, exact).
pub const SPEED_OF_LIGHT_M_S: f64 = 299_792_458.0;

/// Boltzmann constant, J/K (SI, exact).
const BOLTZMANN_J_K: f64 = 1.380_649e-23;

/// Arcseconds that a micrometre takes at a focal length of a millimetre.
pub const ARCSEC_PER_UM_OF_MM: f64 = 206.265;

/// Arcseconds in a radian.
pub const ARCSEC_PER_RAD: f64 = 206_264.806;

/// Square arcseconds in a steradian.
pub const ARCSEC2_PER_SR: f64 = 206_264.806_247_096_36 * 206_264.806_247_096_36;

/// Photons s^-1 m^-2 arcsec^-2 in one rayleigh: 10^10 / (4 pi) photons s^-1 m^-2 sr^-1.
///
/// Source: Hunten, Roach & Chamberlain 1956, J. Atmos. Terr. Phys. 8, 345.
pub const PHOTONS_PER_RAYLEIGH: f64 = 1e10 / (4.0 * std::f64::consts::PI) / ARCSEC2_PER_SR;

/// Photon flux of an object of AB magnitude `mag` (per arcsec^2 for a surface), photons s^-1 m^-2
/// nm^-1.
///
/// 3631 Jy at magnitude zero, divided by h lambda. Source: Oke & Gunn 1983, ApJ 266, 713.
///
/// ```
/// use salt_lamp_core::light::ab_photon_rate;
///
/// assert!((ab_photon_rate(0.0, 550.0) / 9.963e7 - 1.0).abs() < 1e-3);
/// ```
pub fn ab_photon_rate(mag: f64, wavelength_nm: f64) -> f64 {
    3631e-26 * linear_from_mag(mag) / (PLANCK_J_S * wavelength_nm)
}

/// 10^(-0.4 `mag`): light in units of magnitude zero.
pub fn linear_from_mag(mag: f64) -> f64 {
    10f64.powf(-0.4 * mag)
}

/// The magnitude of `linear` units of light; `None` where there is no light.
pub fn mag_from_linear(linear: f64) -> Option<f64> {
    (linear > 0.0).then(|| -2.5 * linear.log10())
}

/// Rayleigh of a line of `erg_s_cm2_arcsec2` erg s^-1 cm^-2 arcsec^-2 at `wavelength_nm`.
///
/// The photon energy is h c / lambda. One rayleigh at H-alpha is 5.67e-18 erg s^-1 cm^-2 arcsec^-2.
pub fn rayleigh_from_erg(erg_s_cm2_arcsec2: f64, wavelength_nm: f64) -> f64 {
    let photon_j = PLANCK_J_S * SPEED_OF_LIGHT_M_S / (wavelength_nm * 1e-9);
    let watt_per_m2 = erg_s_cm2_arcsec2 * 1e-7 * 1e4;
    watt_per_m2 / photon_j / PHOTONS_PER_RAYLEIGH
}

/// Photon spectrum of a blackbody at `temperature_k`, in arbitrary units per nm at `wavelength_nm`.
///
/// Planck's law divided by the photon energy: lambda^-4 / (exp(hc / lambda k T) - 1).
pub fn blackbody_photons(temperature_k: f64, wavelength_nm: f64) -> f64 {
    let metres = wavelength_nm * 1e-9;
    let x = PLANCK_J_S * SPEED_OF_LIGHT_M_S / (metres * BOLTZMANN_J_K * temperature_k);
    (wavelength_nm / 550.0).powi(-4) / x.exp_m1()
}

/// Temperature of a blackbody of the colour B - V, K: 4600 (1 / (0.92 x + 1.7) + 1 / (0.92 x +
/// 0.62)).
///
/// Source: Ballesteros 2012, EPL 97, 34008, equation 14.
pub fn temperature_from_b_v(b_v: f64) -> f64 {
    4600.0 * (1.0 / (0.92 * b_v + 1.7) + 1.0 / (0.92 * b_v + 0.62))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_rayleigh_is_the_published_photon_rate() {
        assert!((PHOTONS_PER_RAYLEIGH - 0.018_704_2).abs() < 1e-7);
    }

    #[test]
    fn ab_zero_at_550_nm() {
        assert!((ab_photon_rate(0.0, 550.0) / 9.963e7 - 1.0).abs() < 1e-3);
    }

    #[test]
    fn one_rayleigh_of_h_alpha_in_cgs() {
        assert!((rayleigh_from_erg(5.67e-18, 656.28) - 1.0).abs() < 2e-3);
    }

    #[test]
    fn no_light_has_no_magnitude() {
        assert_eq!(mag_from_linear(0.0), None);
        assert!((mag_from_linear(linear_from_mag(19.3)).unwrap() - 19.3).abs() < 1e-12);
    }

    #[test]
    fn the_sun_s_colour_gives_its_temperature() {
        // B - V of the sun 0.65: 5778 K within the spread of the relation.
        assert!((temperature_from_b_v(0.65) - 5778.0).abs() < 100.0);
    }
}
