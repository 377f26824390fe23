//! What a frame's header means, whatever its dialect; reading one is not known here.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::light::units::ARCSEC_PER_UM_OF_MM;

/// What a frame is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum FrameKind {
    /// Of the sky.
    Light,
    /// With the cap on, as long as a light.
    Dark,
    /// With the cap on, as short as can be.
    Bias,
    /// Of an even light.
    Flat,
    /// With the cap on, as long as a flat.
    DarkFlat,
}

impl FrameKind {
    /// The kind of a word in any spelling: "Light Frame", "LIGHT", "object", "Flat Field".
    pub fn from_word(word: &str) -> Option<Self> {
        let letters: String =
            word.chars().filter(|c| c.is_alphabetic()).flat_map(char::to_lowercase).collect();
        let has = |part: &str| letters.contains(part);
        match () {
            () if has("flat") && has("dark") => Some(Self::DarkFlat),
            () if has("flat") => Some(Self::Flat),
            () if has("dark") => Some(Self::Dark),
            () if has("bias") || has("zero") || has("offset") => Some(Self::Bias),
            () if has("light") || has("object") || has("science") => Some(Self::Light),
            () => None,
        }
    }
}

/// What a header says. Null where it says nothing.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(default)]
pub struct HeaderFields {
    /// What the frame is.
    #[serde(rename = "type")]
    pub kind: Option<FrameKind>,
    /// Exposure, s.
    pub exposure_s: Option<f64>,
    /// When it began: UTC such as 2027-01-28T18:40:00Z, or without a Z where the zone is not known.
    pub start: Option<String>,
    /// Name of the filter.
    pub filter: Option<String>,
    /// The camera's gain or ISO setting.
    pub gain: Option<f64>,
    /// Electrons per ADU.
    pub e_per_adu: Option<f64>,
    /// The camera's offset setting, in its own counts.
    pub offset: Option<f64>,
    /// Level of no light, ADU, where that is known.
    pub offset_adu: Option<f64>,
    /// Temperature of the sensor, degrees Celsius.
    pub sensor_c: Option<f64>,
    /// Temperature that the cooler was set to, degrees Celsius.
    pub set_c: Option<f64>,
    /// Pixels on a side that were put together.
    pub binning: Option<f64>,
    /// Side of a pixel as it was read out, um.
    pub pixel_um: Option<f64>,
    /// Focal length, mm.
    pub focal_length_mm: Option<f64>,
    /// Right ascension of the middle, degrees.
    pub ra_deg: Option<f64>,
    /// Declination of the middle, degrees.
    pub dec_deg: Option<f64>,
    /// Position angle of the frame's upward side, degrees from north through east.
    pub position_angle_deg: Option<f64>,
    /// Side of a pixel on the sky by a plate solution, arcsec.
    pub scale_arcsec: Option<f64>,
    /// What it is of.
    pub object: Option<String>,
    /// Airmass.
    pub airmass: Option<f64>,
    /// Side of the mount's pier: `east` or `west`.
    pub pier_side: Option<String>,
    /// The focuser's position, steps.
    pub focuser_steps: Option<f64>,
    /// Temperature at the focuser, degrees Celsius.
    pub focuser_c: Option<f64>,
    /// Latitude of the site, degrees.
    pub latitude_deg: Option<f64>,
    /// Longitude of the site, degrees, east positive.
    pub longitude_deg: Option<f64>,
    /// Height of the site, m.
    pub height_m: Option<f64>,
    /// The camera's name.
    pub camera: Option<String>,
    /// The telescope's name.
    pub telescope: Option<String>,
}

impl HeaderFields {
    /// Side of a pixel on the sky, arcsec: by a plate solution, else by pixel and focal length.
    pub fn pixel_scale_arcsec(&self) -> Option<f64> {
        let by_optics = || Some(ARCSEC_PER_UM_OF_MM * self.pixel_um? / self.focal_length_mm?);
        self.scale_arcsec.or_else(by_optics)
    }
}

/// A header and where each of its meanings comes from.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct HeaderRead {
    /// What it says.
    pub header: HeaderFields,
    /// The key that each field comes from, by the field's name.
    #[serde(default)]
    pub understood: BTreeMap<String, String>,
    /// What was assumed, in sentences.
    #[serde(default)]
    pub assumed: Vec<String>,
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn kinds_in_many_spellings() {
        use FrameKind::{Bias, Dark, DarkFlat, Flat, Light};
        for (word, kind) in [
            ("LIGHT", Light),
            ("Light Frame", Light),
            ("object", Light),
            ("Science", Light),
            ("dark", Dark),
            ("Dark Frame", Dark),
            ("Bias Frame", Bias),
            ("zero", Bias),
            ("FLAT", Flat),
            ("Flat Field", Flat),
            ("sky_flat", Flat),
            ("DARKFLAT", DarkFlat),
            ("Flat Dark", DarkFlat),
        ] {
            assert_eq!(FrameKind::from_word(word), Some(kind), "{word}");
        }
        assert_eq!(FrameKind::from_word("test"), None);
    }
}
