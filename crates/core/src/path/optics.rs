//! The telescope: light-gathering area, pixel scale, focal ratio. What the air or a filter does to
//! the light is not here.

use crate::light::units::ARCSEC_PER_UM_OF_MM;
use crate::scenario::rig::{Contender, Optics};

impl Optics {
    /// Collecting area, m^2: pi/4 (D^2 - d^2).
    pub fn area_m2(&self) -> f64 {
        std::f64::consts::FRAC_PI_4
            * (self.aperture_mm.powi(2) - self.obstruction_mm.powi(2))
            * 1e-6
    }

    /// Pixel scale in arcsec per pixel: 206.265 pixel_um / f_mm.
    pub fn pixel_scale_arcsec(&self, pixel_um: f64) -> f64 {
        ARCSEC_PER_UM_OF_MM * pixel_um / self.effective_focal_length_mm()
    }

    /// Obstruction as a fraction of the aperture's diameter, 0-1.
    pub fn obstruction_ratio(&self) -> f64 {
        self.obstruction_mm / self.aperture_mm
    }

    /// Depth of focus either way in micrometres: 2 lambda N^2 (a quarter wave) at `wavelength_nm`.
    pub fn depth_of_focus_um(&self, wavelength_nm: f64) -> f64 {
        2.0 * wavelength_nm * 1e-3 * self.focal_ratio().powi(2)
    }
}

impl Contender {
    /// Tangent of the angle at which the chief ray meets a filter in the sensor's corner: half of
    /// its diagonal over the distance of the exit pupil. `None` where that is not given.
    pub fn corner_tilt(&self) -> Option<f64> {
        let across = f64::from(self.sensor.columns).hypot(f64::from(self.sensor.rows));
        let half_mm = across / 2.0 * self.sensor.pixel_um * 1e-3;
        self.optics.exit_pupil_mm.map(|distance_mm| half_mm / distance_mm)
    }
}

/// Refractive index of a filter's glass at the lines of interest (a usual crown glass; common
/// practice, no source).
pub const GLASS_INDEX: f64 = 1.5;

/// How far a plane filter moves the focus back, mm: t (1 - 1/n), about a third of its thickness.
pub fn filter_focus_shift_mm(thickness_mm: f64, glass_index: f64) -> f64 {
    thickness_mm * (1.0 - 1.0 / glass_index)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn refractor() -> Optics {
        Optics {
            aperture_mm: 100.0,
            obstruction_mm: 0.0,
            focal_length_mm: 500.0,
            reducer: 1.0,
            throughput: 0.9,
            longest_sub_s: None,
            exit_pupil_mm: None,
        }
    }

    #[test]
    fn scale_area_and_ratio() {
        let o = refractor();
        assert!((o.pixel_scale_arcsec(3.76) - 1.551).abs() < 1e-3);
        assert!((o.area_m2() - 0.007_854).abs() < 1e-6);
        assert_eq!(Optics { reducer: 0.8, ..o }.focal_ratio(), 4.0);
    }

    #[test]
    fn focus_figures_of_the_trade() {
        // A 3 mm filter of glass 1.5 moves the focus by a millimetre.
        assert!((filter_focus_shift_mm(3.0, 1.5) - 1.0).abs() < 1e-12);
        assert!((refractor().depth_of_focus_um(500.0) - 25.0).abs() < 1e-9);
    }
}
