//! The published answer of measuring a frame.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::frame::header::HeaderRead;
use crate::frame::stars::{Star, StarsBrighter};
use crate::night::ephemeris::Place;

/// Name of the format.
pub const FORMAT: &str = "salt-lamp-frame";
/// Version of the format. Fields may be added without a new one.
pub const VERSION: u32 = 1;

/// A frame, measured.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct FrameMeasured {
    /// `salt-lamp-frame`.
    pub format: String,
    /// Version of the format.
    pub version: u32,
    /// Name of the file.
    pub file: String,
    /// What its header says, from which key, and what was assumed.
    #[serde(flatten)]
    pub read: HeaderRead,
    /// Pixels across.
    pub columns: usize,
    /// Pixels down.
    pub rows: usize,
    /// Colours of the upper left 2 x 2 pixels, row by row from the top, such as `RGGB`; null for
    /// none.
    pub cfa: Option<String>,
    /// Each channel.
    pub channels: Vec<ChannelMeasured>,
    /// What is odd about it, in sentences.
    pub problems: Vec<String>,
}

impl FrameMeasured {
    /// The site, where the header says it.
    pub fn site(&self) -> Option<Place> {
        let h = &self.read.header;
        let place = Place {
            latitude_deg: h.latitude_deg?,
            longitude_deg: h.longitude_deg?,
            height_m: h.height_m.unwrap_or(0.0),
        };
        place.check("site").ok()
    }
}

/// One channel of a frame.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct ChannelMeasured {
    /// `mono`, `r`, `g` or `b`.
    pub channel: String,
    /// Background as the frame has it, the offset in it, ADU: the median over a mesh of tiles of
    /// each one's median after cuts at three standard deviations.
    pub level_adu: f64,
    /// Standard deviation of single pixels about it, ADU, by the median absolute deviation.
    pub sigma_adu: f64,
    /// Smallest value, ADU.
    pub min_adu: f64,
    /// Largest value, ADU.
    pub max_adu: f64,
    /// The value that counts as full, ADU; null where none is known.
    pub full_adu: Option<f64>,
    /// Share of its pixels that are full, 0-1.
    pub clipped_share: f64,
    /// Share of its pixels at zero or under it, 0-1.
    pub zero_share: f64,
    /// Brightest corner over the darkest one of the plane through the background, per cent of
    /// `level_adu`.
    pub slope_percent: f64,
    /// Direction in which it rises, degrees clockwise from the frame's top, 0-360.
    pub slope_toward_deg: f64,
    /// Stars that stand five standard deviations above nothing.
    pub stars: usize,
    /// Light of a star that stands just so far above nothing, ADU; null of no star.
    #[serde(default)]
    pub depth_adu: Option<f64>,
    /// How many stars are brighter than round amounts of light from that depth on, the least
    /// first: frames are counted to a common depth by them.
    #[serde(default)]
    pub brighter: Vec<StarsBrighter>,
    /// How many of those that were measured are full.
    pub stars_clipped: usize,
    /// Half-flux radius, px of the sensor, as a median; null of no star. So are those below.
    pub hfr_px: Option<f64>,
    /// Full width at half maximum, px of the sensor.
    pub fwhm_px: Option<f64>,
    /// Longer over shorter axis, at least 1.
    pub elongation: Option<f64>,
    /// Direction in which the stars are drawn out, degrees clockwise from the frame's top, 0-180.
    pub elongation_toward_deg: Option<f64>,
    /// The same sizes in the four corners and in the middle; null where fewer than five stars stand
    /// there.
    pub parts: Vec<SizesOfPart>,
    /// Radius of the aperture in which stars are measured, px of the sensor.
    pub aperture_px: f64,
    /// Background over offset, e-/s a pixel of the sensor; null where gain, offset or exposure is
    /// not known.
    pub background_e_per_s: Option<f64>,
    /// Sky by catalogue stars, V mag/arcsec^2; null where no star is known.
    pub sky_v_mag: Option<f64>,
    /// The brightest stars, at most two hundred, the brightest first.
    pub brightest: Vec<BrightStar>,
}

/// A star of the list.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct BrightStar {
    /// Pixels from the middle of the upper left one, to the right.
    pub x_px: f64,
    /// The same downwards.
    pub y_px: f64,
    /// Light in the aperture, ADU.
    pub flux_adu: f64,
    /// Brightest pixel over the background, ADU.
    pub peak_adu: f64,
    /// Half-flux radius, px.
    pub hfr_px: f64,
    /// Whether its core is full.
    pub clipped: bool,
}

/// Sizes of stars in a part of the frame.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SizesOfPart {
    /// `upper left`, `upper right`, `lower left`, `lower right` or `middle`.
    pub part: String,
    /// Stars there that tell.
    pub stars: usize,
    /// Half-flux radius, px of the sensor.
    pub hfr_px: Option<f64>,
    /// Longer over shorter axis.
    pub elongation: Option<f64>,
    /// Direction in which they are drawn out, degrees clockwise from the frame's top, 0-180.
    pub elongation_toward_deg: Option<f64>,
}

impl From<&Star> for BrightStar {
    fn from(s: &Star) -> Self {
        Self {
            x_px: s.at_px[0],
            y_px: s.at_px[1],
            flux_adu: s.flux_adu,
            peak_adu: s.peak_adu,
            hfr_px: s.hfr_px,
            clipped: s.saturated,
        }
    }
}
