//! The light path: electrons per second in each channel of one exposure, and what each stage left of the
//! target's light.

use crate::filter::FilterInCone;
use crate::light::{LINES, PHOTONS_PER_RAYLEIGH, Quantity, Spectrum, Tables};
use crate::scenario::{Contender, Filter, Scenario, Target};
use crate::sensor::Channel;
use crate::sky::SkyParts;
use crate::target::continuum_spectrum;

/// Everything about target and sky that all contenders share.
pub struct Scene {
    /// The sky towards the target.
    pub sky: SkyParts,
    /// The target's lines as they arrive at the telescope, photons s^-1 m^-2 arcsec^-2, as in [`LINES`].
    pub line_photons: [f64; LINES.len()],
    /// The target's continuum as it arrives at the telescope.
    pub continuum: Spectrum,
    /// The target's continuum outside the atmosphere.
    pub continuum_outside: Spectrum,
    /// Temperature of the air, degrees Celsius.
    pub ambient_c: f64,
    /// A star of V magnitude zero as it arrives at the telescope, photons s^-1 m^-2 nm^-1.
    pub star: Spectrum,
}

/// Colour of the star by which clipping and limiting magnitude are judged, K.
const STAR_TEMPERATURE_K: f64 = 6000.0;

impl Scene {
    /// The scene of a checked scenario.
    pub fn new(scenario: &Scenario, tables: &Tables) -> Self {
        let sky = SkyParts::new(&scenario.sky, tables);
        let air = sky.air;
        let continuum_outside = match &scenario.target.continuum {
            Some(c) => continuum_spectrum(tables, c),
            None => Spectrum::dark(),
        };
        let mut line_photons = scenario.target.line_photons();
        for (photons, line) in line_photons.iter_mut().zip(&LINES) {
            *photons *= air.transmission(line.wavelength_nm);
        }
        let star =
            continuum_spectrum(tables, &crate::scenario::Continuum { v_mag_arcsec2: 0.0, temperature_k: STAR_TEMPERATURE_K, b_v: None });
        let through_air = |s: Spectrum| s.shaped(|nm| air.transmission(nm));
        Self {
            ambient_c: scenario.sky.ambient_c,
            sky,
            line_photons,
            continuum: through_air(continuum_outside.clone()),
            continuum_outside,
            star: through_air(star),
        }
    }
}

/// A filter in a telescope's cone, reduced to what the sums need.
pub struct Passed {
    /// Grid weights, nm.
    pub weights: Vec<f64>,
    /// Transmission at each of [`LINES`].
    pub at_lines: [f64; LINES.len()],
    /// Transmission at each line of each sky part.
    at_sky_lines: [Vec<f64>; 4],
}

impl Passed {
    /// Reduces a filter for the given sky.
    pub fn new(filter: &FilterInCone, sky: &SkyParts) -> Self {
        Self {
            weights: filter.weights(),
            at_lines: LINES.map(|l| filter.at(l.wavelength_nm)),
            at_sky_lines: sky.named().map(|(_, s)| s.lines.iter().map(|l| filter.at(l.wavelength_nm)).collect()),
        }
    }

    /// Equivalent width: the integral of the transmission, nm.
    pub fn equivalent_width_nm(&self) -> f64 {
        self.weights.iter().sum()
    }
}

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

/// What is left of a quantity's photons after each stage, as a fraction of those that reach the top of the
/// atmosphere over the full, unobstructed aperture.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Stages {
    /// After the air.
    pub atmosphere: f64,
    /// After obstruction, mirrors and lenses.
    pub optics: f64,
    /// After the filter.
    pub filter: f64,
    /// Counted as electrons, over all pixels of the sensor.
    pub sensor: f64,
}

/// The stages of one quantity for one exposure; `None` where the target does not emit it.
pub fn stages(
    scene: &Scene,
    target: &Target,
    contender: &Contender,
    passed: &Passed,
    channels: &[(Channel, Vec<f64>)],
    quantity: Quantity,
) -> Option<Stages> {
    let o = &contender.optics;
    let clear = 1.0 - o.obstruction_ratio().powi(2);
    let optics_share = clear * o.throughput;
    let pixels = |nm: f64| channels.iter().map(|(c, _)| c.pixel_share * c.response(nm)).sum::<f64>();
    if !target.emits(quantity) {
        return None;
    }
    // (outside, after air, after filter, as electrons)
    let mut sums = [0.0; 4];
    if quantity == Quantity::Continuum {
        let outside: f64 = scene.continuum_outside.continuum.iter().sum();
        let air: f64 = scene.continuum.continuum.iter().sum();
        let filtered = passed.weights.iter().zip(&scene.continuum.continuum).map(|(w, s)| w * s);
        let mut counted = 0.0;
        for (channel, response) in channels {
            let sum: f64 = passed.weights.iter().zip(&scene.continuum.continuum).zip(response).map(|((w, s), r)| w * s * r).sum();
            counted += channel.pixel_share * sum;
        }
        sums = [outside, air, filtered.sum(), counted];
    } else {
        let outside = target.lines_rayleigh.each();
        for (i, line) in LINES.iter().enumerate().filter(|(_, l)| l.quantity == quantity) {
            sums[0] += outside[i] * PHOTONS_PER_RAYLEIGH;
            sums[1] += scene.line_photons[i];
            sums[2] += scene.line_photons[i] * passed.at_lines[i];
            sums[3] += scene.line_photons[i] * passed.at_lines[i] * pixels(line.wavelength_nm);
        }
    }
    let [outside, air, filtered, counted] = sums;
    Some(Stages {
        atmosphere: air / outside,
        optics: air / outside * optics_share,
        filter: filtered / outside * optics_share,
        sensor: counted / outside * optics_share,
    })
}

/// A filter of a contender, remembered so that exposures which share one compute it once.
pub struct FilterCache<'a> {
    seen: Vec<(Option<&'a Filter>, [f64; 2], Passed)>,
}

impl<'a> FilterCache<'a> {
    /// Nothing remembered yet.
    pub fn new() -> Self {
        Self { seen: Vec::new() }
    }

    /// The filter in this contender's cone.
    pub fn get(&mut self, filter: Option<&'a Filter>, contender: &'a Contender, sky: &SkyParts) -> &Passed {
        let cone = [contender.optics.focal_ratio(), contender.optics.obstruction_ratio()];
        let same = |(f, c, _): &(Option<&Filter>, [f64; 2], Passed)| *f == filter && (*c == cone || filter.is_none());
        let at = match self.seen.iter().position(same) {
            Some(at) => at,
            None => {
                let passed = Passed::new(&FilterInCone::new(filter, &contender.optics, 0.0), sky);
                self.seen.push((filter, cone, passed));
                self.seen.len() - 1
            }
        };
        &self.seen[at].2
    }
}

impl Default for FilterCache<'_> {
    fn default() -> Self {
        Self::new()
    }
}
