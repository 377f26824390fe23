//! The target's light outside the air, as photons: eight lines from five brightnesses, and a
//! blackbody scaled to its V.

use crate::light::lines::{LINES, Quantity};
use crate::light::spectrum::Spectrum;
use crate::light::tables::Tables;
use crate::light::units::{
    PHOTONS_PER_RAYLEIGH, blackbody_photons, linear_from_mag, temperature_from_b_v,
};
use crate::scenario::target::{Continuum, LinesRayleigh, Target, TargetKind};

/// Ratio of [O III] 500.68 to 495.89 (NIST ASD transition probabilities).
const OIII_RATIO: f64 = 2.98;

/// Ratio of [N II] 658.35 to 654.80.
const NII_RATIO: f64 = 3.05;

/// Share of [S II] 671.64 in the doublet at low density, 1.3 : 1.
const SII_FIRST_SHARE: f64 = 1.3 / 2.3;

impl LinesRayleigh {
    /// Brightness of each of [`LINES`], rayleigh, in their order.
    pub fn each(&self) -> [f64; LINES.len()] {
        [
            self.hb,
            self.oiii / OIII_RATIO,
            self.oiii,
            self.nii / NII_RATIO,
            self.ha,
            self.nii,
            self.sii * SII_FIRST_SHARE,
            self.sii * (1.0 - SII_FIRST_SHARE),
        ]
    }

    /// The name of a quantity of a target with these lines: see [`Target::name_of`].
    pub fn name_of(&self, quantity: Quantity) -> &'static str {
        let nitrogen = self.nii > 0.0;
        match quantity {
            Quantity::Ha if nitrogen => "H-alpha + [N II]",
            Quantity::HaAlone if !nitrogen => Quantity::Ha.label(),
            q => q.label(),
        }
    }
}

impl TargetKind {
    /// Whether what people photograph of it is the light of its lines; the others shine, or hide,
    /// starlight.
    pub fn glows_in_lines(self) -> bool {
        matches!(self, Self::HIiRegion | Self::PlanetaryNebula | Self::SupernovaRemnant)
    }
}

impl Target {
    /// The quantity to judge by first, of those that are recorded: the continuum of what shines by
    /// starlight, else the first line.
    pub fn first_quantity(&self, recorded: impl Fn(Quantity) -> bool) -> Option<Quantity> {
        let starlight = !self.kind.glows_in_lines() && recorded(Quantity::Continuum);
        if starlight {
            Some(Quantity::Continuum)
        } else {
            Quantity::ALL.into_iter().find(|q| recorded(*q))
        }
    }

    /// Says where it stands, degrees of J2000.
    pub fn stands_at(&mut self, right_ascension_deg: f64, declination_deg: f64) {
        self.right_ascension_deg = Some(right_ascension_deg);
        self.declination_deg = Some(declination_deg);
    }

    /// The name of a quantity of this target, as a screen says it: where it has [N II], H-alpha is
    /// named with it, since few filters tell the two apart.
    pub fn name_of(&self, quantity: Quantity) -> &'static str {
        self.lines_rayleigh.name_of(quantity)
    }

    /// What a quantity is mixed with, by name: H-alpha alone with [N II].
    pub fn mixed_name(&self, quantity: Quantity, with: Quantity) -> &'static str {
        match (quantity, with) {
            (Quantity::HaAlone, Quantity::Ha) => "[N II]",
            _ => self.name_of(with),
        }
    }

    /// The quantities that can be judged apart: H-alpha alone only where [N II] stands beside it.
    pub fn judged(&self) -> impl Iterator<Item = Quantity> + use<> {
        let l = self.lines_rayleigh;
        let alone = (l.ha > 0.0 && l.nii > 0.0).then_some(Quantity::HaAlone);
        let [first, rest @ ..] = Quantity::ALL;
        std::iter::once(first).chain(alone).chain(rest)
    }

    /// Brightness of each of [`LINES`] outside the atmosphere, photons s^-1 m^-2 arcsec^-2.
    pub fn line_photons(&self) -> [f64; LINES.len()] {
        self.lines_rayleigh.each().map(|r| r * PHOTONS_PER_RAYLEIGH)
    }

    /// Whether the target gives off any light of this quantity.
    pub fn emits(&self, quantity: Quantity) -> bool {
        let l = &self.lines_rayleigh;
        match quantity {
            Quantity::Ha => l.ha + l.nii > 0.0,
            Quantity::HaAlone => l.ha > 0.0,
            Quantity::Oiii => l.oiii > 0.0,
            Quantity::Sii => l.sii > 0.0,
            Quantity::Hb => l.hb > 0.0,
            Quantity::Continuum => self.continuum.is_some(),
        }
    }
}

/// The continuum of a target outside the atmosphere as photons: a blackbody scaled to its V.
pub fn continuum_spectrum(tables: &Tables, continuum: &Continuum) -> Spectrum {
    let temperature_k = continuum.b_v.map_or(continuum.temperature_k, temperature_from_b_v);
    let shape = Spectrum::from_fn(|nm| blackbody_photons(temperature_k, nm));
    tables.one_unit_of_v(shape) * linear_from_mag(continuum.v_mag_arcsec2)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn doublets_keep_their_ratios() {
        let each = LinesRayleigh { ha: 1.0, nii: 3.05, oiii: 2.98, sii: 2.3, hb: 1.0 }.each();
        for (got, want) in each.iter().zip([1.0, 1.0, 2.98, 1.0, 1.0, 3.05, 1.3, 1.0]) {
            assert!((got - want).abs() < 1e-12);
        }
    }

    #[test]
    fn continuum_has_its_v() {
        let tables = Tables::shipped().unwrap();
        let s = continuum_spectrum(
            &tables,
            &Continuum { v_mag_arcsec2: 23.0, temperature_k: 4000.0, b_v: None },
        );
        assert!((tables.v_mag(&s).unwrap() - 23.0).abs() < 1e-9);
    }
}
