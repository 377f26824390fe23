//! Electrons per second and pixel in each channel of one exposure, by where they come from.

use crate::light::lines::{LINES, Quantity};
use crate::light::spectrum::Spectrum;
use crate::path::filter::response::Passed;
use crate::path::scene::Scene;
use crate::path::sensor::Channel;
use crate::scenario::rig::Contender;

/// Electrons per second and pixel in one channel, by source.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Rates {
    /// Target, by [`Quantity::ALL`].
    pub target: [f64; 5],
    /// Natural sky, artificial light, moonlight, twilight.
    pub sky: [f64; 4],
    /// Dark current.
    pub dark: f64,
    /// A star of V magnitude zero, all its light in one pixel.
    pub star_v0: f64,
}

impl Rates {
    /// Rate of one quantity.
    pub fn of(&self, quantity: Quantity) -> f64 {
        self.target[quantity as usize]
    }

    /// All of the target's light.
    pub fn target_sum(&self) -> f64 {
        self.target.iter().sum()
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

/// The rates of one channel behind one filter.
///
/// rate = surface brightness x area x throughput x scale^2 x T_cone x QE, with extinction for the target.
pub fn rates(scene: &Scene, contender: &Contender, passed: &Passed, channel: &Channel, response: &[f64]) -> Rates {
    let optics = &contender.optics;
    let scale = optics.pixel_scale_arcsec(contender.sensor.pixel_um);
    let per_pixel = optics.area_m2() * optics.throughput * scale * scale;
    // Filter times sensor once, for all continua.
    let sensitivity: Vec<f64> = passed.weights.iter().zip(response).map(|(w, r)| w * r).collect();
    let integral = |s: &Spectrum| -> f64 { sensitivity.iter().zip(&s.continuum).map(|(a, b)| a * b).sum() };

    let mut out = Rates { dark: contender.sensor.dark.rate_e_per_s(contender.sensor_temperature(scene.ambient_c)), ..Rates::default() };
    for ((line, photons), t) in LINES.iter().zip(scene.line_photons).zip(passed.at_lines) {
        out.target[line.quantity as usize] += photons * t * channel.response(line.wavelength_nm) * per_pixel;
    }
    out.target[Quantity::Continuum as usize] = integral(&scene.continuum) * per_pixel;
    for (i, (_, part)) in scene.sky.named().into_iter().enumerate() {
        let lines: f64 =
            part.lines.iter().zip(&passed.at_sky_lines[i]).map(|(l, t)| l.photons * t * channel.response(l.wavelength_nm)).sum();
        out.sky[i] = (integral(part) + lines) * per_pixel;
    }
    out.star_v0 = integral(&scene.star) * optics.area_m2() * optics.throughput;
    out
}
