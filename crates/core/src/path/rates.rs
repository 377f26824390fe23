//! Electrons per second and pixel in each channel of one exposure, by where they come from.

use crate::light::lamp::PerLamp;
use crate::light::lines::{EmissionLine, LINES, PerQuantity, Quantity};
use crate::light::spectrum::Spectrum;
use crate::path::filter::response::FilterResponse;
use crate::path::scene::Scene;
use crate::path::sensor::Channel;
use crate::path::sky::part::{PerSkyPart, SkyPart};
use crate::scenario::rig::Contender;

/// Electrons per second and pixel in one channel, by source.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Rates {
    /// Target; H-alpha with the [N II] light that the filter also passes, and beside it that part
    /// of it which is H-alpha alone.
    pub target: PerQuantity<f64>,
    /// Sky.
    pub sky: PerSkyPart<f64>,
    /// Dark current.
    pub dark: f64,
    /// A star of V magnitude zero, all its light in one pixel.
    pub star_v0: f64,
}

/// Below this share of the light of lines, a line does not stand for itself.
const OWN_SHARE: f64 = 0.5;

impl Rates {
    /// Whether a line stands for itself: at least half of the light of lines is its own (common
    /// practice, no source).
    pub fn stands_alone(&self, line: Quantity) -> bool {
        let lines = Quantity::ALL.into_iter().filter(|l| *l != Quantity::Continuum);
        self.of(line) >= OWN_SHARE * lines.map(|l| self.of(l)).sum::<f64>()
    }

    /// Rate of one quantity.
    pub fn of(&self, quantity: Quantity) -> f64 {
        self.target[quantity]
    }

    /// Of H-alpha's, the light of [N II].
    pub fn nii(&self) -> f64 {
        self.target[Quantity::Ha] - self.target[Quantity::HaAlone]
    }

    /// All of the target's light.
    pub fn target_sum(&self) -> f64 {
        Quantity::ALL.iter().map(|q| self.target[*q]).sum()
    }

    /// Counts the light of one line where it belongs.
    pub fn add_line(&mut self, line: &EmissionLine, rate_e_per_s: f64) {
        self.target[line.quantity] += rate_e_per_s;
        if line.is_ha() {
            self.target[Quantity::HaAlone] += rate_e_per_s;
        }
    }

    /// All of the sky's light.
    pub fn background(&self) -> f64 {
        self.sky.iter().sum()
    }

    /// What a pixel collects in all.
    pub fn total(&self) -> f64 {
        self.target_sum() + self.background() + self.dark
    }
}

impl Contender {
    /// What a surface brightness of one photon s^-1 m^-2 arcsec^-2 sends to a pixel, photons s^-1:
    /// area x throughput x scale^2.
    pub fn photons_per_pixel(&self) -> f64 {
        let scale_arcsec = self.optics.pixel_scale_arcsec(self.sensor.pixel_um);
        self.optics.area_m2() * self.optics.throughput * scale_arcsec * scale_arcsec
    }
}

/// The rates of one channel behind one filter.
///
/// rate = surface brightness x area x throughput x scale^2 x T_cone x QE, with extinction for the
/// target.
pub fn rates(
    scene: &Scene,
    contender: &Contender,
    filter: &FilterResponse,
    channel: &Channel,
    response: &[f64],
) -> Rates {
    let optics = &contender.optics;
    let per_pixel = contender.photons_per_pixel();
    // Filter times sensor once, for all continua.
    let sensitivity: Vec<f64> = filter.weights.iter().zip(response).map(|(w, r)| w * r).collect();
    let integral =
        |s: &Spectrum| -> f64 { sensitivity.iter().zip(&s.continuum).map(|(a, b)| a * b).sum() };

    let mut out = Rates {
        dark: contender.sensor.dark.rate_e_per_s(contender.sensor_temperature(scene.ambient_c)),
        ..Rates::default()
    };
    for ((line, photons), t) in LINES.iter().zip(scene.line_photons).zip(filter.at_lines) {
        out.add_line(line, photons * t * channel.response(line.wavelength_nm) * per_pixel);
    }
    out.target[Quantity::Continuum] = integral(&scene.continuum) * per_pixel;
    let parts = scene.sky.each();
    for part in SkyPart::ALL {
        let (light, through) = (parts[part], &filter.at_sky_lines[part]);
        let lines: f64 = light
            .lines
            .iter()
            .zip(through)
            .map(|(l, t)| l.photons * t * channel.response(l.wavelength_nm))
            .sum();
        out.sky[part] = (integral(light) + lines) * per_pixel;
    }
    out.star_v0 = integral(&scene.star) * optics.area_m2() * optics.throughput;
    out
}

/// How the lamps' light in a channel behind a filter is shared between the kinds of lamp; the
/// shares sum to 1, or are all 0 where no lamp shines.
pub fn lamp_parts(
    scene: &Scene,
    filter: &FilterResponse,
    channel: &Channel,
    response: &[f64],
) -> PerLamp<f64> {
    let mut out = PerLamp::default();
    let mut through = filter.at_sky_lines[SkyPart::Artificial].iter();
    for (lamp, light) in &scene.sky.lamps {
        let continuum: f64 = filter
            .weights
            .iter()
            .zip(response)
            .zip(&light.continuum)
            .map(|((w, r), photons)| w * r * photons)
            .sum();
        // The lines of all lamps stand one after the other in the lamps' spectrum.
        let lines: f64 = light
            .lines
            .iter()
            .map(|l| l.photons * through.next().unwrap_or(&0.0) * channel.response(l.wavelength_nm))
            .sum();
        out[*lamp] = continuum + lines;
    }
    let sum: f64 = out.iter().sum();
    if sum > 0.0 { out.map(|part| part / sum) } else { out }
}
