//! One channel of one exposure over a crop.

use crate::light::lines::{PerQuantity, Quantity};
use crate::look::gradient::Seen;
use crate::look::star_light::StarLight;
use crate::path::rates::Rates;

/// One channel of one exposure over the crop.
#[derive(Clone, Debug)]
pub struct Plane {
    /// Index of the exposure.
    pub exposure: usize,
    /// `mono`, `r`, `g` or `b`.
    pub channel: &'static str,
    /// Share of the pixels.
    pub share: f64,
    /// What it sees of stars by their colour.
    pub star: StarLight,
    /// Integral of the filter's transmission, nm.
    pub equivalent_width_nm: f64,
    /// Rates of a pixel at the target's mean.
    pub rates: Rates,
    /// Quantities that it records.
    pub records: PerQuantity<bool>,
    /// Lines that come through filter and pixel at least half as well as through the best of the
    /// exposure's, whether the target sends any or not.
    pub passes: PerQuantity<bool>,
    /// Electrons per second and pixel, row by row from the top.
    pub e_per_s: Vec<f32>,
    /// The same without the sky and dark current.
    pub target_e_per_s: Vec<f32>,
}

impl Plane {
    /// As its slope is asked for, with `square` pixels of the sensor on the square of detail.
    pub(super) fn seen(&self, square: f64) -> Seen<'_> {
        Seen {
            rates: &self.rates,
            pixels: self.share * square,
            wavelength_nm: self.star.wavelength_nm,
        }
    }

    /// Rate of a quantity at the target's mean, e-/s per pixel.
    pub fn of(&self, q: Quantity) -> f64 {
        if self.records[q] { self.rates.of(q) } else { 0.0 }
    }
}
