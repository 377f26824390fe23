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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::common::{ic_443, tables};
    use crate::light::Curve;

    /// The reflector of the demo behind a filter that passes half of everything, with a sensor that counts six in ten.
    fn grey(cfa: Option<&str>) -> Scenario {
        let mut s = ic_443();
        s.contenders = vec![s.contenders.remove(1)];
        let c = &mut s.contenders[0];
        c.sensor.cfa = cfa.map(str::to_owned);
        (c.sensor.cfa_curves, c.sensor.qe) = (None, Curve(vec![[300.0, 0.6], [1100.0, 0.6]]));
        c.exposures.truncate(1);
        c.exposures[0].filter =
            Some(Filter { bands: None, curve: Some(Curve(vec![[300.0, 0.5], [1100.0, 0.5]])), ..Filter::of_bands("", vec![]) });
        s
    }

    fn stages_of(s: &Scenario, q: Quantity) -> Option<Stages> {
        let scene = Scene::new(s, &tables());
        let c = &s.contenders[0];
        let passed = Passed::new(&FilterInCone::new(c.exposures[0].filter.as_ref(), &c.optics, 0.0), &scene.sky);
        let channels: Vec<_> = c.sensor.channels().into_iter().map(|ch| (ch.response_on_grid(), ch)).map(|(r, ch)| (ch, r)).collect();
        stages(&scene, &s.target, c, &passed, &channels, q)
    }

    #[test]
    fn every_stage_takes_its_own_share() {
        for cfa in [None, Some("RGGB")] {
            let mut s = grey(cfa);
            s.target.continuum = Some(crate::scenario::Continuum { v_mag_arcsec2: 22.0, temperature_k: 6000.0, b_v: None });
            let air = Scene::new(&s, &tables()).sky.air;
            // 150 mm with 70 in the way.
            let clear = (1.0 - (70.0f64 / 150.0).powi(2)) * s.contenders[0].optics.throughput;
            for q in Quantity::ALL {
                let got = stages_of(&s, q).expect("emitted");
                assert!((got.optics / got.atmosphere - clear).abs() < 1e-12, "{q:?}: {got:?}");
                assert!((got.filter / got.optics - 0.5).abs() < 2e-3, "{q:?}: {got:?}");
                assert!((got.sensor / got.filter - 0.6).abs() < 2e-3, "{q:?}: {got:?}");
            }
            let oiii = stages_of(&s, Quantity::Oiii).expect("emitted").atmosphere;
            assert!((oiii / ((air.transmission(495.89) + 2.98 * air.transmission(500.68)) / 3.98) - 1.0).abs() < 1e-9, "{oiii}");
            let white = stages_of(&s, Quantity::Continuum).expect("emitted").atmosphere;
            assert!(white > air.transmission(400.0) && white < air.transmission(1000.0), "{white}");
        }
    }

    #[test]
    fn what_is_not_emitted_has_no_stages() {
        let mut s = grey(None);
        (s.target.lines_rayleigh.sii, s.target.continuum) = (0.0, None);
        assert_eq!(stages_of(&s, Quantity::Sii), None);
        assert_eq!(stages_of(&s, Quantity::Continuum), None);
        assert!(stages_of(&s, Quantity::Ha).is_some());
    }

    #[test]
    fn all_light_goes_with_area_and_throughput_and_dark_current_does_not() {
        let of = |change: fn(&mut crate::scenario::Optics)| {
            let mut s = grey(None);
            change(&mut s.contenders[0].optics);
            let scene = Scene::new(&s, &tables());
            let c = &s.contenders[0];
            let passed = Passed::new(&FilterInCone::new(c.exposures[0].filter.as_ref(), &c.optics, 0.0), &scene.sky);
            let channel = &c.sensor.channels()[0];
            rates(&scene, c, &passed, channel, &channel.response_on_grid())
        };
        let full = of(|o| o.obstruction_mm = 0.0);
        for (less, share) in
            [(of(|o| (o.obstruction_mm, o.throughput) = (0.0, o.throughput / 2.0)), 0.5), (of(|o| o.obstruction_mm = 75.0), 0.75)]
        {
            let pairs = less.target.iter().zip(full.target).chain(less.sky.iter().zip(full.sky)).chain([(&less.star_v0, full.star_v0)]);
            for (a, b) in pairs.filter(|(_, b)| *b > 0.0) {
                // The cone changes a little with the obstruction.
                assert!((a / b / share - 1.0).abs() < 2e-3, "{a} of {b} is not {share}");
            }
            assert_eq!(less.dark, full.dark);
        }
        assert!(full.star_v0 > 0.0 && full.dark > 0.0 && full.sky[1] > 0.0);
    }
}
