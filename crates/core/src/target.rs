//! What a target emits, and presets for those who have not measured it yet.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::light::{LINES, PHOTONS_PER_RAYLEIGH, Quantity, Spectrum, Tables, blackbody_photons, linear_from_mag};
use crate::scenario::{Continuum, LinesRayleigh, Target, TargetKind};

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
}

impl TargetKind {
    /// Whether what people photograph of it is the light of its lines; the others shine, or hide, starlight.
    pub fn glows_in_lines(self) -> bool {
        matches!(self, Self::HIiRegion | Self::PlanetaryNebula | Self::SupernovaRemnant)
    }
}

impl Target {
    /// The quantity to judge by first, of those that are recorded: the continuum of what shines by starlight, else the first line.
    pub fn first_quantity(&self, recorded: impl Fn(Quantity) -> bool) -> Option<Quantity> {
        let starlight = !self.kind.glows_in_lines() && recorded(Quantity::Continuum);
        if starlight { Some(Quantity::Continuum) } else { Quantity::ALL.into_iter().find(|q| recorded(*q)) }
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
            Quantity::Oiii => l.oiii > 0.0,
            Quantity::Sii => l.sii > 0.0,
            Quantity::Hb => l.hb > 0.0,
            Quantity::Continuum => self.continuum.is_some(),
        }
    }
}

/// Temperature of a blackbody of the colour B - V, K: 4600 (1 / (0.92 x + 1.7) + 1 / (0.92 x + 0.62)).
///
/// Source: Ballesteros 2012, EPL 97, 34008, equation 14.
pub fn temperature_from_b_v(b_v: f64) -> f64 {
    4600.0 * (1.0 / (0.92 * b_v + 1.7) + 1.0 / (0.92 * b_v + 0.62))
}

/// The continuum of a target outside the atmosphere as photons: a blackbody scaled to its V.
pub fn continuum_spectrum(tables: &Tables, continuum: &Continuum) -> Spectrum {
    let temperature_k = continuum.b_v.map_or(continuum.temperature_k, temperature_from_b_v);
    let shape = Spectrum::from_fn(|nm| blackbody_photons(temperature_k, nm));
    tables.one_unit_of_v(shape) * linear_from_mag(continuum.v_mag_arcsec2)
}

/// How faint a target is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs)]
pub enum Faintness {
    VeryFaint,
    Faint,
    Moderate,
    Bright,
    VeryBright,
}

impl Faintness {
    /// From faintest to brightest.
    pub const ALL: [Faintness; 5] = [Self::VeryFaint, Self::Faint, Self::Moderate, Self::Bright, Self::VeryBright];

    /// H-alpha of an H II region of this faintness, rayleigh.
    pub fn ha_rayleigh(self) -> f64 {
        match self {
            Self::VeryFaint => 3.0,
            Self::Faint => 10.0,
            Self::Moderate => 40.0,
            Self::Bright => 150.0,
            Self::VeryBright => 1000.0,
        }
    }
}

/// A preset: what a target of a kind and faintness typically emits. Typical values, from memory; a user
/// replaces them by what a test frame measured.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct TargetPreset {
    /// Kind of target.
    pub kind: TargetKind,
    /// The kind in words.
    pub label: &'static str,
    /// How faint.
    pub faintness: Faintness,
    /// Typical lines.
    pub lines_rayleigh: LinesRayleigh,
    /// Typical continuum.
    pub continuum: Option<Continuum>,
    /// Typical ratio of the brightest part to the mean.
    pub peak_factor: f64,
}

struct Typical {
    kind: TargetKind,
    label: &'static str,
    /// H-alpha against that of an H II region of the same faintness, then the lines against H-alpha.
    ha: f64,
    nii: f64,
    oiii: f64,
    sii: f64,
    hb: f64,
    /// V mag/arcsec^2 of the continuum at moderate faintness, and its temperature.
    continuum: Option<(f64, f64)>,
    peak_factor: f64,
}

/// Line ratios and colours typical of each kind: from memory.
const TYPICAL: [Typical; 8] = [
    Typical {
        kind: TargetKind::HIiRegion,
        label: "H II region",
        ha: 1.0,
        nii: 0.3,
        oiii: 0.4,
        sii: 0.2,
        hb: 0.28,
        continuum: Some((24.5, 8000.0)),
        peak_factor: 10.0,
    },
    Typical {
        kind: TargetKind::PlanetaryNebula,
        label: "Planetary nebula",
        ha: 1.0,
        nii: 0.7,
        oiii: 2.5,
        sii: 0.08,
        hb: 0.33,
        continuum: Some((25.5, 15000.0)),
        peak_factor: 15.0,
    },
    Typical {
        kind: TargetKind::SupernovaRemnant,
        label: "Supernova remnant",
        ha: 1.0,
        nii: 0.6,
        oiii: 0.9,
        sii: 0.9,
        hb: 0.3,
        continuum: None,
        peak_factor: 6.0,
    },
    Typical {
        kind: TargetKind::ReflectionNebula,
        label: "Reflection nebula",
        ha: 0.05,
        nii: 0.3,
        oiii: 0.0,
        sii: 0.2,
        hb: 0.28,
        continuum: Some((22.5, 12000.0)),
        peak_factor: 15.0,
    },
    Typical {
        kind: TargetKind::Galaxy,
        label: "Galaxy",
        ha: 0.05,
        nii: 0.5,
        oiii: 0.2,
        sii: 0.3,
        hb: 0.28,
        continuum: Some((22.8, 5200.0)),
        peak_factor: 60.0,
    },
    Typical {
        kind: TargetKind::GalaxyWithHIi,
        label: "Galaxy with H II regions",
        ha: 0.6,
        nii: 0.35,
        oiii: 0.4,
        sii: 0.25,
        hb: 0.3,
        continuum: Some((22.8, 6200.0)),
        peak_factor: 40.0,
    },
    Typical {
        kind: TargetKind::DarkNebula,
        label: "Dark nebula and dust",
        ha: 0.02,
        nii: 0.3,
        oiii: 0.0,
        sii: 0.2,
        hb: 0.28,
        continuum: Some((24.0, 5500.0)),
        peak_factor: 4.0,
    },
    Typical {
        kind: TargetKind::Cluster,
        label: "Star cluster",
        ha: 0.0,
        nii: 0.0,
        oiii: 0.0,
        sii: 0.0,
        hb: 0.0,
        continuum: Some((22.5, 7500.0)),
        peak_factor: 100.0,
    },
];

/// All presets: every kind at every faintness.
pub fn presets() -> Vec<TargetPreset> {
    TYPICAL.iter().flat_map(|t| Faintness::ALL.map(|f| preset_of(t, f))).collect()
}

fn preset_of(t: &Typical, faintness: Faintness) -> TargetPreset {
    let ha = t.ha * faintness.ha_rayleigh();
    // The continuum grows fainter by the same ratio as the lines.
    let fainter_mag = -2.5 * (faintness.ha_rayleigh() / Faintness::Moderate.ha_rayleigh()).log10();
    TargetPreset {
        kind: t.kind,
        label: t.label,
        faintness,
        lines_rayleigh: LinesRayleigh { ha, nii: ha * t.nii, oiii: ha * t.oiii, sii: ha * t.sii, hb: ha * t.hb },
        continuum: t.continuum.map(|(v_mag, temperature_k)| Continuum {
            v_mag_arcsec2: ((v_mag + fainter_mag) * 100.0).round() / 100.0,
            temperature_k,
            b_v: None,
        }),
        peak_factor: t.peak_factor,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn forty_presets_and_the_moderate_h_ii_region_is_40_r() {
        let all = presets();
        assert_eq!(all.len(), 40);
        let p = all.iter().find(|p| p.kind == TargetKind::HIiRegion && p.faintness == Faintness::Moderate).unwrap();
        assert_eq!(p.lines_rayleigh.ha, 40.0);
    }

    #[test]
    fn doublets_keep_their_ratios() {
        let each = LinesRayleigh { ha: 1.0, nii: 3.05, oiii: 2.98, sii: 2.3, hb: 1.0 }.each();
        for (got, want) in each.iter().zip([1.0, 1.0, 2.98, 1.0, 1.0, 3.05, 1.3, 1.0]) {
            assert!((got - want).abs() < 1e-12);
        }
    }

    #[test]
    fn the_sun_s_colour_gives_its_temperature() {
        // B - V of the sun 0.65: 5778 K within the spread of the relation.
        assert!((temperature_from_b_v(0.65) - 5778.0).abs() < 100.0);
    }

    #[test]
    fn continuum_has_its_v() {
        let tables = Tables::shipped().unwrap();
        let s = continuum_spectrum(&tables, &Continuum { v_mag_arcsec2: 23.0, temperature_k: 4000.0, b_v: None });
        assert!((tables.v_mag(&s).unwrap() - 23.0).abs() < 1e-9);
    }
}
