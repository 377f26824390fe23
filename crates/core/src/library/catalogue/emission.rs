//! What a catalogued object emits, as far as the catalogue knows.
//!
//! In the order of trust: a table made by hand for the nebulae that everybody photographs; the
//! magnitude of a galaxy, cluster or planetary nebula spread over its axes; the brightness class
//! that Sharpless gave; and where nothing is known, what is typical of its kind, called so.

use std::collections::HashMap;

use serde::Deserialize;

use crate::library::catalogue::object::{CatalogueEmission, CatalogueObject, EmissionFrom};
use crate::library::presets::{Faintness, TargetPreset, presets};
use crate::light::lines::{HA_NM, LINES};
use crate::light::spectrum::{SpectralLine, Spectrum};
use crate::light::tables::Tables;
use crate::light::units::temperature_from_b_v;
use crate::light::units::{PHOTONS_PER_RAYLEIGH, ab_photon_rate, linear_from_mag};
use crate::scenario::defaults::outskirts_factor;
use crate::scenario::target::{Continuum, LinesRayleigh, Target, TargetKind};
use crate::wording::two_figures;

/// A row of the table made by hand.
#[derive(Clone, Debug, Deserialize)]
pub(super) struct EmissionByHand {
    pub(super) name: String,
    ha_rayleigh: f64,
    peak_factor: f64,
    nii_over_ha: f64,
    oiii_over_ha: f64,
    sii_over_ha: f64,
    v_mag_arcsec2: Option<f64>,
    confidence: Confidence,
}

#[derive(Clone, Copy, Debug, Deserialize)]
#[serde(rename_all = "snake_case")]
enum Confidence {
    Good,
    Fair,
}

/// H-beta against H-alpha with the dust of the galactic plane before it (from memory; 0.35 without
/// any, Osterbrock & Ferland 2006, table 4.4, as photons 0.47).
const HB_OVER_HA: f64 = 0.28;

/// H-alpha of Sharpless' brightness classes, 1 faint to 3 bright, rayleigh (from memory, good to a
/// factor of two: faint ones are 5 to 30).
const SHARPLESS_R: [f64; 3] = [8.0, 20.0, 60.0];

/// B - V of a galaxy of which only B is known (from memory).
const GALAXY_B_V: f64 = 0.8;

/// What the catalogue calls globular clusters, and the temperature of their light, K: old stars,
/// B - V about 0.75 (from memory).
const GLOBULAR: &str = "GCl";
const GLOBULAR_K: f64 = 5500.0;

/// Equivalent width of H-alpha with [N II] in a galaxy's light by its B - V, nm: blue ones make
/// stars, red ones have made theirs (Kennicutt 1983, ApJ 272, 54; from memory, good to a factor of
/// two; dust reddens some that make many).
const HA_WIDTH_NM: [(f64, f64); 4] = [(0.4, 5.0), (0.6, 2.5), (0.8, 0.9), (0.95, 0.3)];

/// Largest and smallest mean surface brightness that a magnitude over a size may mean, V
/// mag/arcsec^2: beyond, one of the two is not of the whole object.
const CREDIBLE_V_MAG: (f64, f64) = (13.0, 27.0);

/// Everything by which the emission of an object is worked out.
pub(super) struct Knowledge<'a> {
    tables: &'a Tables,
    by_hand: HashMap<String, EmissionByHand>,
    presets: Vec<TargetPreset>,
}

impl<'a> Knowledge<'a> {
    pub(super) fn new(tables: &'a Tables, by_hand: HashMap<String, EmissionByHand>) -> Self {
        Self { tables, by_hand, presets: presets() }
    }

    fn preset(&self, kind: TargetKind, faintness: Faintness) -> Option<&TargetPreset> {
        self.presets.iter().find(|p| p.kind == kind && p.faintness == faintness)
    }

    /// What an object emits.
    pub(super) fn emission(&self, o: &CatalogueObject) -> CatalogueEmission {
        let Some(usual) = self.preset(o.kind, typical_faintness(o.kind)) else {
            return CatalogueEmission::NONE;
        };
        if let Some(row) = self.by_hand.get(&o.name) {
            return row.emission(usual);
        }
        let own = match o.kind {
            TargetKind::HIiRegion => {
                sharpless_r(o).map(|ha| of(usual, ha / usual.lines_rayleigh.ha))
            }
            TargetKind::Galaxy | TargetKind::GalaxyWithHIi => mean_v_mag(o).map(|mag| {
                let out = self.by_magnitude(usual, mag);
                o.b_mag.zip(o.v_mag).map_or(out, |(b, v)| with_lines_of_its_colour(out, b - v))
            }),
            TargetKind::Cluster if o.code == GLOBULAR => mean_v_mag(o).map(|mag| {
                let out = self.by_magnitude(usual, mag);
                let old = |c| Continuum { temperature_k: GLOBULAR_K, ..c };
                CatalogueEmission { continuum: out.continuum.map(old), ..out }
            }),
            _ => mean_v_mag(o).map(|mag| self.by_magnitude(usual, mag)),
        };
        own.unwrap_or_else(|| CatalogueEmission { from: EmissionFrom::Kind, ..of(usual, 1.0) })
    }

    /// What is usual of the kind, as bright as the magnitude says: its continuum, or for a planetary
    /// nebula, whose magnitude is light of lines, those.
    fn by_magnitude(&self, usual: &TargetPreset, v_mag_arcsec2: f64) -> CatalogueEmission {
        let usually = match (usual.kind, &usual.continuum) {
            (TargetKind::PlanetaryNebula, _) | (_, None) => self.v_linear_of(&usual.lines_rayleigh),
            (_, Some(c)) => linear_from_mag(c.v_mag_arcsec2),
        };
        let out = of(usual, linear_from_mag(v_mag_arcsec2) / usually);
        CatalogueEmission { from: EmissionFrom::Magnitude, ..out }
    }

    /// V light of lines, in units of magnitude zero per arcsec^2.
    fn v_linear_of(&self, lines: &LinesRayleigh) -> f64 {
        let mut spectrum = Spectrum::dark();
        spectrum.lines = LINES
            .iter()
            .zip(lines.each())
            .map(|(l, rayleigh)| SpectralLine {
                name: l.name.to_owned(),
                wavelength_nm: l.wavelength_nm,
                photons: rayleigh * PHOTONS_PER_RAYLEIGH,
            })
            .collect();
        self.tables.v_linear(&spectrum)
    }
}

/// The colour of a galaxy's continuum by its B - V, and the lines that it has beside it.
fn with_lines_of_its_colour(galaxy: CatalogueEmission, b_v: f64) -> CatalogueEmission {
    let l = galaxy.lines_rayleigh;
    let Some(c) = galaxy.continuum.filter(|_| l.ha > 0.0) else { return galaxy };
    let [first, .., last] = HA_WIDTH_NM;
    let b_v = b_v.clamp(first.0, last.0);
    let width_nm = HA_WIDTH_NM.windows(2).find(|w| b_v <= w[1].0).map_or(last.1, |w| {
        let along = (b_v - w[0].0) / (w[1].0 - w[0].0);
        w[0].1 + along * (w[1].1 - w[0].1)
    });
    let photons = width_nm * ab_photon_rate(c.v_mag_arcsec2, HA_NM);
    let times = photons / PHOTONS_PER_RAYLEIGH / (l.ha + l.nii);
    // Its stars have its colour, to a hundred kelvin.
    let temperature_k = (temperature_from_b_v(b_v) / 100.0).round() * 100.0;
    CatalogueEmission {
        lines_rayleigh: l.times(times),
        continuum: Some(Continuum { temperature_k, ..c }),
        ..galaxy
    }
}

/// A preset so many times as bright, as from a class.
fn of(usual: &TargetPreset, times: f64) -> CatalogueEmission {
    CatalogueEmission {
        lines_rayleigh: usual.lines_rayleigh.times(times),
        continuum: usual
            .continuum
            .map(|c| Continuum { v_mag_arcsec2: c.v_mag_arcsec2 - 2.5 * times.log10(), ..c }),
        peak_factor: usual.peak_factor,
        from: EmissionFrom::Class,
    }
}

impl EmissionByHand {
    fn emission(&self, usual: &TargetPreset) -> CatalogueEmission {
        let ha = self.ha_rayleigh;
        CatalogueEmission {
            lines_rayleigh: LinesRayleigh {
                ha,
                nii: ha * self.nii_over_ha,
                oiii: ha * self.oiii_over_ha,
                sii: ha * self.sii_over_ha,
                hb: ha * HB_OVER_HA,
            },
            continuum: self.v_mag_arcsec2.map(|v_mag_arcsec2| Continuum {
                v_mag_arcsec2,
                temperature_k: usual.continuum.map_or(12_000.0, |c| c.temperature_k),
                b_v: None,
            }),
            peak_factor: self.peak_factor,
            from: match self.confidence {
                Confidence::Good => EmissionFrom::HandTable,
                Confidence::Fair => EmissionFrom::RoughHandTable,
            },
        }
    }
}

/// How bright an object of a kind is when nothing is known of it: a nebula that no list of bright
/// ones holds is a faint one, and most remnants are known by their radio waves alone.
fn typical_faintness(kind: TargetKind) -> Faintness {
    match kind {
        TargetKind::HIiRegion => Faintness::Faint,
        TargetKind::SupernovaRemnant => Faintness::VeryFaint,
        _ => Faintness::Moderate,
    }
}

fn sharpless_r(o: &CatalogueObject) -> Option<f64> {
    SHARPLESS_R.get(usize::from(o.class?).checked_sub(1)?).copied()
}

/// Mean surface brightness of an object that shines as a whole, V mag/arcsec^2: its magnitude
/// spread over its ellipse, m + 2.5 log10(pi/4 a b) with a and b in arcsec. `None` for nebulae,
/// whose catalogued magnitudes are those of their stars, and where the result is not credible.
pub fn mean_v_mag(o: &CatalogueObject) -> Option<f64> {
    let (a, b) = (o.major_arcmin?, o.minor_arcmin.or(o.major_arcmin)?);
    let v_mag = match o.kind {
        TargetKind::Galaxy | TargetKind::GalaxyWithHIi => {
            o.v_mag.or(o.b_mag.map(|b| b - GALAXY_B_V))?
        }
        TargetKind::Cluster | TargetKind::PlanetaryNebula => o.v_mag.or(o.b_mag)?,
        _ => return None,
    };
    let mean = v_mag + 2.5 * (std::f64::consts::FRAC_PI_4 * a * b * 3600.0).log10();
    (CREDIBLE_V_MAG.0..=CREDIBLE_V_MAG.1).contains(&mean).then_some(mean)
}

impl CatalogueObject {
    /// The object as a target, with what the catalogue knows of it.
    pub fn target(&self) -> Target {
        let e = &self.emission;
        let round = two_figures;
        let l = e.lines_rayleigh;
        let mut target = Target {
            name: self.name.clone(),
            kind: self.kind,
            lines_rayleigh: LinesRayleigh {
                ha: round(l.ha),
                nii: round(l.nii),
                oiii: round(l.oiii),
                sii: round(l.sii),
                hb: round(l.hb),
            },
            continuum: e.continuum.map(|c| Continuum {
                v_mag_arcsec2: (c.v_mag_arcsec2 * 100.0).round() / 100.0,
                ..c
            }),
            peak_factor: e.peak_factor,
            outskirts_factor: outskirts_factor(),
            knots_factor: None,
            right_ascension_deg: None,
            declination_deg: None,
            known: Some(e.from.known()),
        };
        target.stands_at(self.ra_deg, self.dec_deg);
        target
    }

    /// Where its brightness comes from, in a sentence.
    pub fn emission_words(&self) -> String {
        let own = match self.emission.from {
            EmissionFrom::HandTable => {
                "Its lines from a table made by hand, from memory: good to a factor of two."
            }
            EmissionFrom::RoughHandTable => {
                "Its lines from a table made by hand, from memory: a guess, good to a factor of \
                three."
            }
            EmissionFrom::Magnitude => {
                return self.size_words().map_or_else(String::new, |size| {
                    format!(
                        "From its magnitude spread over {size}: a mean of {:.1} mag/arcsec² in V.",
                        mean_v_mag(self).unwrap_or_default()
                    )
                });
            }
            EmissionFrom::Class => {
                return format!(
                    "From its brightness class, {} of 3 in Sharpless' list: good to a factor of \
                    two.",
                    self.class.unwrap_or_default()
                );
            }
            EmissionFrom::Kind if self.kind == TargetKind::SupernovaRemnant => {
                "How bright it is, nobody here knows, only what is typical of its kind: many \
                remnants are known by their radio waves alone and show nothing."
            }
            EmissionFrom::Kind if !self.kind_known => {
                "How bright it is, nobody here knows, nor whether it shines of itself or reflects \
                starlight: what is typical of its kind, to a factor of three."
            }
            EmissionFrom::Kind => {
                "How bright it is, nobody here knows: only what is typical of its kind, to a \
                factor of three."
            }
        };
        own.to_owned()
    }

    fn size_words(&self) -> Option<String> {
        let a = self.major_arcmin?;
        Some(self.minor_arcmin.map_or(format!("{a}′"), |b| format!("{a}′ × {b}′")))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::library::catalogue::list::Catalogue;
    use crate::scenario::target::Known;

    /// Mean surface brightness is the magnitude spread over the ellipse: m + 2.5 log10(pi/4 a b)
    /// with the axes in arcsec.
    #[test]
    fn an_object_s_light_is_spread_over_its_ellipse() {
        let mut o = Catalogue::shipped().unwrap().get("NGC 2403").unwrap().clone();
        (o.v_mag, o.b_mag) = (Some(8.0), None);
        (o.major_arcmin, o.minor_arcmin) = (Some(10.0), Some(6.0));
        let by_hand =
            |a: f64, b: f64| 8.0 + 2.5 * (std::f64::consts::FRAC_PI_4 * a * b * 3600.0).log10();
        assert!((mean_v_mag(&o).unwrap() - by_hand(10.0, 6.0)).abs() < 1e-12);
        // One axis stands for both; of a galaxy with a B alone, V is less by its colour.
        o.minor_arcmin = None;
        assert!((mean_v_mag(&o).unwrap() - by_hand(10.0, 10.0)).abs() < 1e-12);
        (o.v_mag, o.b_mag) = (None, Some(8.8));
        assert!((mean_v_mag(&o).unwrap() - by_hand(10.0, 10.0)).abs() < 1e-12);
        // Without a magnitude or an axis nothing is known, nor where the result is absurd.
        (o.b_mag, o.v_mag) = (None, None);
        assert_eq!(mean_v_mag(&o), None);
        (o.v_mag, o.major_arcmin) = (Some(8.0), None);
        assert_eq!(mean_v_mag(&o), None);
        (o.major_arcmin, o.v_mag) = (Some(10.0), Some(19.0));
        assert_eq!(mean_v_mag(&o), None);
    }

    /// A planetary nebula's V magnitude is light of its lines: the lines that come out have it.
    #[test]
    fn a_planetary_nebula_s_magnitude_becomes_its_lines() {
        let c = Catalogue::shipped().unwrap();
        let (o, tables) = (c.get("NGC 7048").unwrap(), Tables::shipped().unwrap());
        assert_eq!(o.emission.from, EmissionFrom::Magnitude);
        let v = Knowledge::new(&tables, HashMap::new()).v_linear_of(&o.emission.lines_rayleigh);
        let mean = linear_from_mag(mean_v_mag(o).unwrap());
        assert!((v / mean - 1.0).abs() < 1e-9, "{v} {mean}");
        assert!(o.emission.lines_rayleigh.oiii > o.emission.lines_rayleigh.ha);
    }

    #[test]
    fn classes_and_kinds_say_where_a_brightness_comes_from() {
        let c = Catalogue::shipped().unwrap();
        let of = |name: &str| c.get(name).unwrap();
        // A class of Sharpless: brighter where it says brighter.
        let classed: Vec<(u8, f64)> = c
            .objects()
            .iter()
            .filter(|o| o.emission.from == EmissionFrom::Class)
            .map(|o| (o.class.unwrap(), o.emission.lines_rayleigh.ha))
            .collect();
        assert!(classed.len() > 100, "{}", classed.len());
        assert!(
            classed
                .iter()
                .all(|(k, ha)| (*ha - [8.0, 20.0, 60.0][usize::from(*k) - 1]).abs() < 1e-9)
        );
        let lbn = of("LBN 5");
        assert!(!lbn.emission.is_its_own() && !lbn.kind_known);
        assert!(
            lbn.emission_words().contains("nor whether it shines of itself"),
            "{}",
            lbn.emission_words()
        );
        assert!(of("NGC 7000").emission_words().contains("factor of two"));
        assert!(of("NGC 2403").emission_words().contains("mag/arcsec² in V"));
        let target = of("SNR G 065.2+05.7").target();
        assert_eq!(target.known, Some(Known::Typical));
        assert_eq!((target.right_ascension_deg.is_some(), target.check().is_ok()), (true, true));
    }

    /// Every object of the catalogue is a target that may be computed with.
    #[test]
    fn every_object_is_a_target_within_all_limits() {
        for o in Catalogue::shipped().unwrap().objects() {
            let target = o.target();
            assert!(target.clone().check().is_ok(), "{target:?}: {:?}", target.clone().check());
            assert!(!o.emission_words().is_empty(), "{}", o.name);
        }
    }
}
