//! Target and sky as they arrive at the telescope: what all light paths of a scenario share.

use crate::light::lines::LINES;
use crate::light::spectrum::Spectrum;
use crate::light::tables::Tables;
use crate::path::sky::parts::SkyParts;
use crate::path::target::continuum_spectrum;
use crate::scenario::document::Scenario;

/// Everything about target and sky that all contenders share.
#[derive(Clone, Debug)]
pub struct Scene {
    /// The sky towards the target.
    pub sky: SkyParts,
    /// The target's lines as they arrive at the telescope, photons s^-1 m^-2 arcsec^-2, as in
    /// [`LINES`].
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

/// Colour of the star by which clipping and limiting magnitude are judged and pictures are balanced,
/// K: about the sun's.
pub const STAR_TEMPERATURE_K: f64 = 6000.0;

impl Scene {
    /// The scene of a checked scenario.
    pub fn new(scenario: &Scenario, tables: &Tables) -> Self {
        let sky = SkyParts::towards(&scenario.sky, scenario.natural_light_towards_target(), tables);
        let air = sky.air;
        let continuum_outside = match &scenario.target.continuum {
            Some(c) => continuum_spectrum(tables, c),
            None => Spectrum::dark(),
        };
        let mut line_photons = scenario.target.line_photons();
        for (photons, line) in line_photons.iter_mut().zip(&LINES) {
            *photons *= air.transmission(line.wavelength_nm);
        }
        let star = continuum_spectrum(
            tables,
            &crate::scenario::target::Continuum {
                v_mag_arcsec2: 0.0,
                temperature_k: STAR_TEMPERATURE_K,
                b_v: None,
            },
        );
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
