//! What a stand-in did, written beside its frames.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

/// The truth of one frame.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Truth {
    /// Name of the frame's file.
    pub file: String,
    /// `LIGHT`, `DARK`, `BIAS` or `FLAT`.
    pub kind: String,
    /// Name of the filter; null for none.
    pub filter: Option<String>,
    /// Length, s.
    pub exposure_s: f64,
    /// When it began, RFC 3339 in UTC.
    pub start: String,
    /// Sky and dark current in a pixel of each channel, e-/s; in a flat its light.
    pub background_e_per_s: BTreeMap<String, f64>,
    /// Dark current, e-/s a pixel.
    pub dark_e_per_s: f64,
    /// What the background comes to in each channel, the offset in it, ADU.
    pub level_adu: BTreeMap<String, f64>,
    /// Electrons per ADU.
    pub e_per_adu: f64,
    /// Read noise, e-.
    pub read_noise_e: f64,
    /// Offset, ADU.
    pub offset_adu: f64,
    /// Full width at half maximum of a star, arcsec; null with the cap on.
    pub star_fwhm_arcsec: Option<f64>,
    /// The same, px.
    pub star_fwhm_px: Option<f64>,
    /// What the air passes against a clear sky, 0-1.
    pub transparency: f64,
    /// Guiding and focus, arcsec root mean square, beside the seeing.
    #[serde(default)]
    pub blur_rms_arcsec: f64,
    /// Whether a satellite crossed it.
    #[serde(default)]
    pub satellite: bool,
    /// Right ascension of the middle, degrees; null with the cap on.
    pub ra_deg: Option<f64>,
    /// Declination of the middle, degrees.
    pub dec_deg: Option<f64>,
    /// Position angle of up, degrees.
    pub position_angle_deg: Option<f64>,
    /// Height of the target, degrees.
    pub target_altitude_deg: Option<f64>,
    /// Height of the moon, degrees; null where the site is not known.
    pub moon_altitude_deg: Option<f64>,
}

/// The truth of a night.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct NightTruth {
    /// `salt-lamp-standin-truth`.
    pub format: String,
    /// Always 1.
    pub version: u32,
    /// The seed of all that is random.
    pub seed: u32,
    /// Frame by frame.
    pub frames: Vec<Truth>,
}
