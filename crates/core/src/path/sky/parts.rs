//! The sky towards the target, part by part.

use crate::light::lamp::Lamp;
use crate::light::spectrum::Spectrum;
use crate::light::tables::Tables;
use crate::light::units::linear_from_mag;
use crate::path::sky::air;
use crate::path::sky::artificial::artificial_linear;
use crate::path::sky::moon::moon_spectrum;
use crate::path::sky::natural::{natural_growth, natural_zenith};
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
    /// The same, kind by kind, in the order in which their lines stand in it.
    pub lamps: Vec<(Lamp, Spectrum)>,
    /// Moonlight.
    pub moon: Spectrum,
    /// Twilight.
    pub twilight: Spectrum,
    /// The air between the target and the telescope.
    pub air: air::Air,
}

impl SkyParts {
    /// Builds the sky of a scenario, away from the ecliptic and from the Milky Way. The scenario
    /// must have been checked: see [`crate::scenario::check::Checked`].
    pub fn new(sky: &Sky, tables: &Tables) -> Self {
        Self::towards(sky, 1.0, tables)
    }

    /// The same towards a direction whose natural light is `beyond` times the default's.
    pub fn towards(sky: &Sky, beyond: f64, tables: &Tables) -> Self {
        let air = air::Air::new(sky.site_height_m, sky.k_v, air::airmass(sky.target_altitude_deg));
        let k_v = air.k(550.0);
        let natural = natural_zenith(tables, sky.natural_zenith_mag())
            * (natural_growth(sky.target_altitude_deg, k_v) * beyond);
        let light = artificial_linear(sky, k_v);
        let lamps: Vec<(Lamp, Spectrum)> = sky
            .lamps
            .iter()
            .filter(|(_, share)| **share > 0.0 && light > 0.0)
            .map(|(lamp, share)| (*lamp, tables.lamp(*lamp).clone() * (share * light)))
            .collect();
        let mut artificial = Spectrum::dark();
        lamps.iter().for_each(|(_, one)| artificial += one.clone());
        let moon = match &sky.moon {
            Some(moon) => {
                let natural_linear = linear_from_mag(sky.natural_zenith_mag());
                moon_spectrum(tables, moon, sky.target_altitude_deg, k_v, natural_linear)
            }
            None => Spectrum::dark(),
        };
        let twilight = twilight_spectrum(tables, sky.sun_altitude_deg);
        Self { natural, artificial, lamps, moon, twilight, air }
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
