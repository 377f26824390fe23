//! The target as the document states it: its kind, its lines and its continuum.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::scenario::defaults;

/// Kinds of target.
#[derive(
    Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema,
)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs)]
pub enum TargetKind {
    HIiRegion,
    PlanetaryNebula,
    SupernovaRemnant,
    ReflectionNebula,
    Galaxy,
    GalaxyWithHIi,
    DarkNebula,
    Cluster,
}

/// Where the brightness of a target comes from: how well it is known.
#[derive(
    Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema,
)]
#[serde(rename_all = "snake_case")]
pub enum Known {
    /// Measured in one's own frames: each line to 10 %.
    Measured,
    /// A preset that was chosen for this target: each line to 50 %.
    Preset,
    /// A table made by hand: each line to a factor of 2.
    HandTable,
    /// Only what is typical of its kind: each line to a factor of 3.
    Typical,
}

impl Known {
    /// One standard deviation of the logarithm of a line's brightness.
    pub fn sigma_ln(self) -> f64 {
        match self {
            Self::Measured => sigma_of_relative(0.1),
            Self::Preset => sigma_of_relative(0.5),
            Self::HandTable => std::f64::consts::LN_2,
            Self::Typical => 3f64.ln(),
        }
    }
}

/// The standard deviation of the logarithm of a log-normal factor whose relative width is given.
pub fn sigma_of_relative(relative: f64) -> f64 {
    (1.0 + relative * relative).ln().sqrt()
}

/// What is photographed.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Target {
    /// Free text.
    pub name: String,
    /// What it is.
    pub kind: TargetKind,
    /// Brightness of its lines outside the atmosphere, rayleigh, mean over the part of interest.
    pub lines_rayleigh: LinesRayleigh,
    /// Its continuum, if any.
    #[serde(default)]
    pub continuum: Option<Continuum>,
    /// How many times brighter the brightest part is than the mean.
    #[serde(default = "defaults::one")]
    #[schema(default = 1.0)]
    pub peak_factor: f64,
    /// How bright the faintest wanted part is against the mean.
    #[serde(default = "defaults::outskirts_factor")]
    #[schema(default = 0.2)]
    pub outskirts_factor: f64,
    /// In a galaxy, how many times brighter its H II regions are than the mean of its lines; null
    /// for ten in a galaxy that is known for them, and as the core in any other.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub knots_factor: Option<f64>,
    /// Right ascension, degrees (J2000): with the declination it says how much zodiacal light and
    /// Milky Way stand before it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub right_ascension_deg: Option<f64>,
    /// Declination, degrees (J2000): also how fast it trails on a mount that does not follow.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub declination_deg: Option<f64>,
    /// Where its brightness comes from; null for what the choices say of it
    /// ([`crate::scenario::Uncertainty::target_relative`]).
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub known: Option<Known>,
}

/// Line brightnesses in rayleigh.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct LinesRayleigh {
    /// H-alpha alone.
    pub ha: f64,
    /// [N II] 658.35 alone.
    pub nii: f64,
    /// [O III] 500.68 alone.
    pub oiii: f64,
    /// [S II], both lines summed.
    pub sii: f64,
    /// H-beta.
    pub hb: f64,
}

impl LinesRayleigh {
    /// All lines so many times as bright.
    #[must_use]
    pub fn times(self, times: f64) -> Self {
        let Self { ha, nii, oiii, sii, hb } = self;
        Self {
            ha: ha * times,
            nii: nii * times,
            oiii: oiii * times,
            sii: sii * times,
            hb: hb * times,
        }
    }
}

/// Continuum light of a target.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Continuum {
    /// V surface brightness outside the atmosphere, mag/arcsec^2.
    pub v_mag_arcsec2: f64,
    /// Colour, as the temperature of a blackbody, K.
    pub temperature_k: f64,
    /// Colour as B - V; where it is given it stands for the temperature.
    #[serde(default)]
    pub b_v: Option<f64>,
}
