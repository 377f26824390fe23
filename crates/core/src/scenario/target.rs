//! The target as the document states it: its kind, its lines and its continuum.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::scenario::defaults;

/// Kinds of target.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema)]
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
