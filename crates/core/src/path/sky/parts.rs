//! The sky towards the target, part by part.

use crate::light::spectrum::Spectrum;
use crate::light::tables::Tables;
use crate::light::units::linear_from_mag;
use crate::path::sky::air;
use crate::path::sky::artificial::{artificial_linear, lamp_mix};
use crate::path::sky::moon::moon_spectrum;
use crate::path::sky::natural::{natural_zenith, van_rhijn};
use crate::path::sky::part::PerSkyPart;
use crate::path::sky::twilight::twilight_spectrum;
use crate::scenario::sky::Sky;

/// The sky towards the target, part by part.
#[derive(Clone, Debug)]
pub struct SkyParts {
    /// Airglow, zodiacal light and the like.
    pub natural: Spectrum,
    /// Lamps.
    pub artificial: Spectrum,
    /// Moonlight.
    pub moon: Spectrum,
    /// Twilight.
    pub twilight: Spectrum,
    /// The air between the target and the telescope.
    pub air: air::Air,
}

impl SkyParts {
    /// Builds the sky of a scenario. The scenario must have been checked: see [`crate::scenario::check::Checked`].
    pub fn new(sky: &Sky, tables: &Tables) -> Self {
        let air = air::Air::new(sky.site_height_m, sky.k_v, air::airmass(sky.target_altitude_deg));
        let natural = natural_zenith(tables, sky.natural_v_mag) * van_rhijn(sky.target_altitude_deg);
        let artificial = match artificial_linear(sky, tables.v_linear(&natural)) {
            0.0 => Spectrum::dark(),
            light => lamp_mix(tables, &sky.lamps) * light,
        };
        let moon = match &sky.moon {
            Some(moon) => moon_spectrum(tables, moon, sky.target_altitude_deg, air.k(550.0)),
            None => Spectrum::dark(),
        };
        let twilight = twilight_spectrum(tables, sky.sun_altitude_deg);
        Self { natural, artificial, moon, twilight, air }
    }

    /// The four parts.
    pub fn each(&self) -> PerSkyPart<&Spectrum> {
        PerSkyPart([&self.natural, &self.artificial, &self.moon, &self.twilight])
    }
}

/// Sum of magnitudes as light; `None` entries are no light.
pub fn total_mag(parts: &PerSkyPart<Option<f64>>) -> Option<f64> {
    crate::light::units::mag_from_linear(parts.iter().flatten().map(|&m| linear_from_mag(m)).sum())
}
