//! Photometric bands and synthetic magnitudes.

use crate::light::curve::Curve;
use crate::light::spectrum::Spectrum;
use crate::light::units::ab_photon_rate;

/// AB magnitude minus Vega magnitude in V. Source: Blanton & Roweis 2007, AJ 133, 734, table 1.
pub const V_AB_MINUS_VEGA: f64 = 0.02;

/// A photometric passband on the grid, as a photon-counting response.
#[derive(Clone, Debug)]
pub struct Band {
    response: Vec<f64>,
    curve: Curve,
    ab_zero: f64,
}

impl Band {
    /// A band from its response curve (relative, photon counting).
    pub fn new(curve: Curve) -> Self {
        let response = curve.on_grid();
        let zero = Spectrum::from_fn(|nm| ab_photon_rate(0.0, nm));
        let ab_zero = response.iter().zip(&zero.continuum).map(|(r, s)| r * s).sum();
        Self { response, curve, ab_zero }
    }

    /// Light of `spectrum` in this band, in units of AB magnitude zero.
    ///
    /// The integral of N(lambda) R(lambda) over that of an AB zero spectrum, on the 1 nm grid;
    /// lines are added at their own wavelength.
    pub fn ab_linear(&self, spectrum: &Spectrum) -> f64 {
        let continuum: f64 =
            self.response.iter().zip(&spectrum.continuum).map(|(r, s)| r * s).sum();
        let lines: f64 =
            spectrum.lines.iter().map(|l| self.curve.at(l.wavelength_nm) * l.photons).sum();
        (continuum + lines) / self.ab_zero
    }

    /// Synthetic AB magnitude (per arcsec^2 for a surface brightness); `None` for no light.
    pub fn ab_mag(&self, spectrum: &Spectrum) -> Option<f64> {
        crate::light::units::mag_from_linear(self.ab_linear(spectrum))
    }
}
