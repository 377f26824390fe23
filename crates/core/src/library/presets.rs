//! Presets of targets, for those who have not measured theirs yet.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::scenario::defaults::outskirts_factor;
use crate::scenario::target::{Continuum, Known, LinesRayleigh, Target, TargetKind};

/// How faint a target is.
#[derive(
    Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema,
)]
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
    pub const ALL: [Faintness; 5] =
        [Self::VeryFaint, Self::Faint, Self::Moderate, Self::Bright, Self::VeryBright];

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

/// A preset: what a target of a kind and faintness typically emits. Typical values, from memory; a
/// user replaces them by what a test frame measured.
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

impl TargetPreset {
    /// An object that emits what is typical of its kind at this faintness.
    pub fn named(&self, name: &str, known: Known) -> Target {
        Target {
            name: name.to_owned(),
            kind: self.kind,
            lines_rayleigh: self.lines_rayleigh,
            continuum: self.continuum,
            right_ascension_deg: None,
            declination_deg: None,
            peak_factor: self.peak_factor,
            outskirts_factor: outskirts_factor(),
            knots_factor: None,
            known: Some(known),
        }
    }
}

/// What is typical of a kind at moderate brightness.
pub fn moderate(presets: &[TargetPreset], kind: TargetKind) -> Option<&TargetPreset> {
    presets.iter().find(|p| p.kind == kind && p.faintness == Faintness::Moderate)
}

struct Typical {
    kind: TargetKind,
    label: &'static str,
    /// H-alpha against that of an H II region of the same faintness, then the lines against
    /// H-alpha.
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
        // The hydrogen's own continuum is about 26.7 beside 40 R (H-beta's equivalent width about
        // 100 nm); dust that reflects gives twice that.
        continuum: Some((25.5, 8000.0)),
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
        lines_rayleigh: LinesRayleigh {
            ha,
            nii: ha * t.nii,
            oiii: ha * t.oiii,
            sii: ha * t.sii,
            hb: ha * t.hb,
        },
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
        let p = all
            .iter()
            .find(|p| p.kind == TargetKind::HIiRegion && p.faintness == Faintness::Moderate)
            .unwrap();
        assert_eq!(p.lines_rayleigh.ha, 40.0);
    }
}
