//! Factors on what comes in: a darker sky, a fainter target, another gain. Rates are linear in light, so that a changed world
//! needs no spectrum to be integrated again.

use crate::path::rates::Rates;
use crate::path::sky::part::SkyPart;

/// Factors on the inputs of a path; 1 is as the scenario says.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Scales {
    /// All light of the target.
    pub target: f64,
    /// Lamps.
    pub artificial: f64,
    /// Natural sky, moonlight and twilight.
    pub rest_of_sky: f64,
    /// Dark current.
    pub dark: f64,
    /// Read noise.
    pub read_noise: f64,
    /// Time lost after each sub.
    pub overhead: f64,
}

impl Scales {
    /// As the scenario says.
    pub const ONE: Self = Self { target: 1.0, artificial: 1.0, rest_of_sky: 1.0, dark: 1.0, read_noise: 1.0, overhead: 1.0 };

    /// A sky that is `mag` magnitudes darker in all its parts.
    pub fn darker_sky(mag: f64) -> Self {
        let f = 10f64.powf(-0.4 * mag);
        Self { artificial: f, rest_of_sky: f, ..Self::ONE }
    }

    /// One after the other.
    pub fn times(&self, by: &Self) -> Self {
        Self {
            target: self.target * by.target,
            artificial: self.artificial * by.artificial,
            rest_of_sky: self.rest_of_sky * by.rest_of_sky,
            dark: self.dark * by.dark,
            read_noise: self.read_noise * by.read_noise,
            overhead: self.overhead * by.overhead,
        }
    }
}

impl Rates {
    /// The rates under scaled light and dark current.
    pub fn scaled(mut self, scales: &Scales) -> Self {
        self.target.iter_mut().for_each(|t| *t *= scales.target);
        for part in SkyPart::ALL {
            self.sky[part] *= if part == SkyPart::Artificial { scales.artificial } else { scales.rest_of_sky };
        }
        self.dark *= scales.dark;
        self
    }
}
