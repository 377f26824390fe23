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
        let x2 = (2.0 * (wavelength_nm - self.centre_nm - shift_nm) / self.fwhm_nm).powi(2);
        // The usual order is multiplied out: most of the time of an evaluation would go into this power.
        let octaves = if self.order == 3.0 { x2 * x2 * x2 } else { x2.powf(self.order) };
        // Below 2^-64 nothing is left to add up.
        if octaves < 64.0 { self.peak * (-octaves).exp2() } else { 0.0 }
    }

    /// Distance from the centre, nm, beyond which less than `floor` passes.
    fn reach_nm(&self, floor: f64) -> f64 {
        let octaves = (self.peak / floor).log2().max(0.0);
        self.fwhm_nm / 2.0 * octaves.powf(0.5 / self.order)
    }
}
