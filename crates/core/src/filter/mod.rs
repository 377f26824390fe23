//! Filters in the cone of a telescope: at which angle light falls in, where the band then lies, and what
//! passes of a line or of a continuum.

mod cone;
mod report;
mod weights;

pub use cone::{Cone, band_centre_shifted_nm};
pub use report::{LineTransmission, line_transmissions};
pub use weights::FilterInCone;

use crate::scenario::Passband;

impl Passband {
    /// Transmission in parallel light with the centre moved by `shift_nm`.
    ///
    /// Flat top: peak 2^-(|2 (lambda - c) / FWHM|^(2 m)); m = 1 is a Gaussian.
    pub fn transmission(&self, wavelength_nm: f64, shift_nm: f64) -> f64 {
        let x = (2.0 * (wavelength_nm - self.centre_nm - shift_nm) / self.fwhm_nm).abs();
        self.peak * (-x.powf(2.0 * self.order)).exp2()
    }

    /// Distance from the centre, nm, beyond which less than `floor` passes.
    fn reach_nm(&self, floor: f64) -> f64 {
        let octaves = (self.peak / floor).log2().max(0.0);
        self.fwhm_nm / 2.0 * octaves.powf(0.5 / self.order)
    }
}
