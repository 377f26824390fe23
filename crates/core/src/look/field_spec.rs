//! What is asked of a field of the sky, and the stars that stand in it.

use crate::scenario::pointing::Pointing;
use crate::scenario::target::TargetKind;

/// A star of the field.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Star {
    /// Position from the field's centre, arcsec to the right.
    pub x_arcsec: f64,
    /// Position from the field's centre, arcsec up.
    pub y_arcsec: f64,
    /// V magnitude.
    pub v_mag: f64,
    /// Temperature of its blackbody, K.
    pub temperature_k: f64,
}

/// What is asked of a field.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct FieldSpec {
    /// Kind of target.
    pub kind: TargetKind,
    /// Seed.
    pub seed: u32,
    /// Width and height, arcsec.
    pub size_arcsec: [f64; 2],
    /// Where its middle lies in the frame, arcsec right and up of where the rigs look.
    pub centre_arcsec: [f64; 2],
    /// How far beyond its border the light of a bright star reaches in, arcsec: so far out stars
    /// are taken along.
    pub beyond_arcsec: f64,
    /// Span over which the target's own structure is laid out, arcsec.
    pub object_arcsec: f64,
    /// How many times brighter the brightest part is than the mean.
    pub peak_factor: f64,
    /// Full width at half maximum of a star, arcsec.
    pub fwhm_arcsec: f64,
    /// No structure: the target's mean everywhere, and no stars.
    pub flat: bool,
    /// Where the field looks; its brighter stars are then the real ones.
    pub at: Option<Pointing>,
}
