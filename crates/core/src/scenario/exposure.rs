//! What is exposed: filters as bands or as a curve, the length of a sub, its share of the clock,
//! and how frames are calibrated. What a filter does to light is worked out in
//! [`crate::path::filter`].

use serde::{Deserialize, Deserializer, Serialize};
use utoipa::ToSchema;

use crate::scenario::defaults;

use crate::light::curve::Curve;
use crate::scenario::choices::TestFrame;

/// Makes a key that may be null, but not left out.
fn nullable<'de, D: Deserializer<'de>, T: Deserialize<'de>>(d: D) -> Result<Option<T>, D::Error> {
    Option::deserialize(d)
}

/// Calibration frames and what they leave behind.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Calibration {
    /// Frames in the master dark.
    #[serde(default = "defaults::dark_frames")]
    #[schema(default = 50.0)]
    pub dark_frames: f64,
    /// Whether the field moves between subs, so that calibration noise averages out.
    #[serde(default = "defaults::yes")]
    #[schema(default = true)]
    pub dithered: bool,
    /// What flat-fielding leaves, as a fraction of the light in a sub.
    #[serde(default)]
    #[schema(default = 0.0)]
    pub flat_residue: f64,
}

impl Default for Calibration {
    fn default() -> Self {
        Self { dark_frames: defaults::dark_frames(), dithered: true, flat_residue: 0.0 }
    }
}

/// What is exposed through one filter.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Exposure {
    /// The filter; null for none.
    #[serde(deserialize_with = "nullable")]
    #[schema(required = true)]
    pub filter: Option<Filter>,
    /// Length of a sub, s.
    pub sub_s: f64,
    /// Pixels on a side that are put together into one, 1 to 4; on a colour camera those of a
    /// colour.
    #[serde(default = "defaults::unbinned")]
    #[schema(default = 1)]
    pub binning: u32,
    /// This exposure's fraction of the time on the clock.
    pub share: f64,
    /// Weight of its quantity where a budget is split by weights.
    #[serde(default = "defaults::one")]
    #[schema(default = 1.0)]
    pub weight: f64,
    /// A test frame through this filter; null for none.
    #[serde(default)]
    pub test_frame: Option<TestFrame>,
}

/// A filter: passbands or a sampled curve.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Filter {
    /// Free text.
    pub name: String,
    /// Passbands; null where there is a curve.
    #[serde(default)]
    pub bands: Option<Vec<Passband>>,
    /// Sampled transmission; null where there are bands.
    #[serde(default)]
    pub curve: Option<Curve>,
    /// Optical density outside the bands.
    #[serde(default = "defaults::off_band_od")]
    #[schema(default = 4.0)]
    pub off_band_od: f64,
    /// Effective refractive index, which sets how far tilted light shifts the band.
    #[serde(default = "defaults::n_eff")]
    #[schema(default = 1.9)]
    pub n_eff: f64,
    /// How far the centre of a copy may lie from its nominal value, nm either way.
    #[serde(default = "defaults::centre_tolerance_nm")]
    #[schema(default = 0.5)]
    pub centre_tolerance_nm: f64,
    /// Share of the band's light that the side towards the sensor reflects, 0-1; null where it is
    /// not known.
    #[serde(default)]
    pub rear_reflectance: Option<f64>,
    /// Focal ratios, fastest and slowest, that the filter is made for; null for no such claim.
    #[serde(default)]
    #[schema(value_type = Option<Vec<f64>>)]
    pub design_focal_ratios: Option<[f64; 2]>,
    /// Thickness of the glass, mm: how far it moves the focus. Null where it is not known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub thickness_mm: Option<f64>,
    /// Price in the user's currency.
    #[serde(default)]
    pub price: Option<f64>,
}

/// One passband.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Passband {
    /// Centre in parallel light, nm.
    pub centre_nm: f64,
    /// Full width at half maximum, nm.
    pub fwhm_nm: f64,
    /// Peak transmission, 0-1.
    pub peak: f64,
    /// Steepness of the edges; 1 is a Gaussian, 3 a usual flat top.
    #[serde(default = "defaults::order")]
    #[schema(default = 3.0)]
    pub order: f64,
}

impl Filter {
    /// A filter of passbands with the usual blocking, index and tolerance.
    pub fn of_bands(name: &str, bands: Vec<Passband>) -> Self {
        Self {
            name: name.to_owned(),
            bands: Some(bands),
            curve: None,
            off_band_od: defaults::off_band_od(),
            n_eff: defaults::n_eff(),
            centre_tolerance_nm: defaults::centre_tolerance_nm(),
            rear_reflectance: None,
            design_focal_ratios: None,
            thickness_mm: None,
            price: None,
        }
    }
}
