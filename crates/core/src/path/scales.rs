//! Factors on what comes in: a darker sky, a fainter target, another gain. Rates are linear in
//! light, so that a changed world needs no spectrum to be integrated again.

use crate::light::lamp::PerLamp;
use crate::light::lines::{PerQuantity, Quantity};
use crate::path::rates::Rates;
use crate::path::sky::part::{PerSkyPart, SkyPart};

/// Factors on the inputs of a path; 1 is as the scenario says.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Scales {
    /// All light of the target.
    pub target: f64,
    /// The light of each quantity besides that; H-alpha alone as H-alpha.
    pub lines: PerQuantity<f64>,
    /// [N II] against H-alpha.
    pub nii: f64,
    /// A star's light besides what the optics pass.
    pub star: f64,
    /// Each part of the sky.
    pub sky: PerSkyPart<f64>,
    /// Each lamp's share of the lamps' light.
    pub lamps: PerLamp<f64>,
    /// What the optics pass, of target and sky alike.
    pub throughput: f64,
    /// Dark current.
    pub dark: f64,
    /// Read noise.
    pub read_noise: f64,
    /// Time lost after each sub.
    pub overhead: f64,
}

impl Scales {
    /// As the scenario says.
    pub const ONE: Self = Self {
        target: 1.0,
        lines: PerQuantity([1.0; 6]),
        nii: 1.0,
        star: 1.0,
        sky: PerSkyPart([1.0; 4]),
        lamps: PerLamp([1.0; 6]),
        throughput: 1.0,
        dark: 1.0,
        read_noise: 1.0,
        overhead: 1.0,
    };

    /// A sky that is `mag` magnitudes darker in all its parts.
    pub fn darker_sky(mag: f64) -> Self {
        Self { sky: PerSkyPart([10f64.powf(-0.4 * mag); 4]), ..Self::ONE }
    }

    /// Lamps that give `factor` of their light.
    pub fn dimmer_lamps(factor: f64) -> Self {
        let mut out = Self::ONE;
        out.sky[SkyPart::Artificial] = factor;
        out
    }

    /// One after the other.
    pub fn times(&self, by: &Self) -> Self {
        let mut out = *self;
        out.target *= by.target;
        out.lines.iter_mut().zip(by.lines).for_each(|(a, b)| *a *= b);
        out.nii *= by.nii;
        out.star *= by.star;
        out.sky.iter_mut().zip(by.sky).for_each(|(a, b)| *a *= b);
        out.lamps.iter_mut().zip(by.lamps).for_each(|(a, b)| *a *= b);
        out.throughput *= by.throughput;
        out.dark *= by.dark;
        out.read_noise *= by.read_noise;
        out.overhead *= by.overhead;
        out
    }
}

impl Rates {
    /// The rates under scaled light and dark current; `lamp_parts` says how the lamps' light is
    /// shared between them, and sums to 1.
    pub fn scaled(mut self, scales: &Scales, lamp_parts: &PerLamp<f64>) -> Self {
        let target = scales.target * scales.throughput;
        self.target[Quantity::Ha] = self.target[Quantity::HaAlone] + self.nii() * scales.nii;
        self.target.iter_mut().zip(scales.lines).for_each(|(t, own)| *t *= target * own);
        let mix: f64 = lamp_parts.iter().zip(scales.lamps).map(|(part, own)| part * own).sum();
        for part in SkyPart::ALL {
            self.sky[part] *= scales.sky[part] * scales.throughput;
        }
        self.sky[SkyPart::Artificial] *= mix;
        self.star_v0 *= scales.star * scales.throughput;
        self.dark *= scales.dark;
        self
    }
}
