//! How a user wants to decide: the school of sub length, limits, how a budget is split, what is
//! uncertain. All optional in a scenario.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::scenario::cfa::CfaColour;
use crate::scenario::defaults;

/// Schools of sub length. Each is a criterion of its own.
#[derive(
    Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema,
)]
#[serde(rename_all = "snake_case")]
pub enum SubCriterion {
    /// Most information per hour of clock.
    #[default]
    Best,
    /// Read noise raises the noise by a chosen fraction.
    Excess,
    /// Background electrons are a chosen multiple of the read noise squared.
    Swamp,
    /// The background's peak stands a chosen number of ADU above the offset.
    HistogramAdu,
    /// The background's peak stands at a chosen fraction of full scale.
    HistogramFraction,
    /// The target is faintly seen in one sub, and its core does not clip; from a test frame where
    /// there is one.
    TestShot,
    /// As long as the mount holds, and nothing of the core clips.
    Longest,
    /// So short that there are enough frames to reject outliers and to dither.
    ManyFrames,
}

impl SubCriterion {
    /// All schools in the order in which they are shown.
    pub const ALL: [Self; 8] = [
        Self::Best,
        Self::Excess,
        Self::Swamp,
        Self::HistogramAdu,
        Self::HistogramFraction,
        Self::TestShot,
        Self::Longest,
        Self::ManyFrames,
    ];
}

/// What a night is for.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Purpose {
    /// A stack to keep.
    #[default]
    Imaging,
    /// Watching a stack grow: short subs.
    Live,
}

/// At which sub the settings of a gain ladder are judged.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum GainSub {
    /// At the sub that the user has and keeps.
    #[default]
    Kept,
    /// Each at the sub that is best with it: gain and sub are chosen as a pair.
    Own,
}

/// How a budget of clock time is split between the exposures of a path.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum SplitMode {
    /// As the shares stand in the scenario.
    #[default]
    AsGiven,
    /// The same clock time each.
    EqualTime,
    /// The same signal to noise in the quantity that each is for.
    EqualSnr,
    /// Signal to noise in proportion to each exposure's weight.
    Weighted,
    /// The widest filter gets a multiple of the time of each other one.
    LuminanceHeavy,
}

/// How well the inputs are known.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Uncertainty {
    /// Standard deviation of the sky's brightness, mag.
    #[serde(default = "defaults::sky_mag")]
    #[schema(default = 0.15)]
    pub sky_mag: f64,
    /// Standard deviation of each of the target's lines and of its continuum, as a fraction, where
    /// the target does not say where its brightness comes from.
    #[serde(default = "defaults::target_relative")]
    #[schema(default = 0.2)]
    pub target_relative: f64,
    /// Standard deviation of [N II] against H-alpha, as a fraction (from memory).
    #[serde(default = "defaults::nii_relative")]
    #[schema(default = 0.25)]
    pub nii_relative: f64,
    /// Standard deviation of what each telescope passes, as a fraction.
    #[serde(default = "defaults::throughput_relative")]
    #[schema(default = 0.1)]
    pub throughput_relative: f64,
    /// Standard deviation of the extinction in V, mag per airmass.
    #[serde(default = "defaults::k_v_mag")]
    #[schema(default = 0.05)]
    pub k_v_mag: f64,
    /// Standard deviation of the airglow with the sun's cycle, mag; what the airglow has more, the
    /// lamps have less of the brightness that was read.
    #[serde(default = "defaults::airglow_mag")]
    #[schema(default = 0.3)]
    pub airglow_mag: f64,
    /// Whether the lamp mix is drawn about the stated one.
    #[serde(default = "defaults::yes")]
    #[schema(default = true)]
    pub lamp_mix: bool,
    /// Whether each filter copy's centre and effective index are drawn.
    #[serde(default = "defaults::yes")]
    #[schema(default = true)]
    pub filter_centre: bool,
    /// Random draws, 20 to 2000.
    #[serde(default = "defaults::draws")]
    #[schema(default = 200)]
    pub draws: u32,
    /// Seed of the draws: the same seed gives the same ranges.
    #[serde(default)]
    #[schema(default = 0)]
    pub seed: u32,
}

impl Default for Uncertainty {
    fn default() -> Self {
        Self {
            sky_mag: defaults::sky_mag(),
            target_relative: defaults::target_relative(),
            nii_relative: defaults::nii_relative(),
            throughput_relative: defaults::throughput_relative(),
            k_v_mag: defaults::k_v_mag(),
            airglow_mag: defaults::airglow_mag(),
            lamp_mix: true,
            filter_centre: true,
            draws: defaults::draws(),
            seed: 0,
        }
    }
}

/// How a user wants to decide.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Choices {
    /// SubCriterion of sub length.
    #[serde(default)]
    pub school: SubCriterion,
    /// Excess noise that is accepted by [`SubCriterion::Excess`], as a fraction.
    #[serde(default = "defaults::excess")]
    #[schema(default = 0.05)]
    pub excess: f64,
    /// Multiple of the read noise squared for [`SubCriterion::Swamp`].
    #[serde(default = "defaults::swamp_factor")]
    #[schema(default = 10.0)]
    pub swamp_factor: f64,
    /// ADU above the offset for [`SubCriterion::HistogramAdu`].
    #[serde(default = "defaults::histogram_adu")]
    #[schema(default = 500.0)]
    pub histogram_adu: f64,
    /// Fraction of full scale for [`SubCriterion::HistogramFraction`].
    #[serde(default = "defaults::histogram_fraction")]
    #[schema(default = 0.05)]
    pub histogram_fraction: f64,
    /// Frames that outlier rejection and dithering want.
    #[serde(default = "defaults::least_frames")]
    #[schema(default = 20.0)]
    pub least_frames: f64,
    /// Signal to noise on the square of detail at which a target is faintly seen in one sub.
    #[serde(default = "defaults::faint_snr")]
    #[schema(default = 3.0)]
    pub faint_snr: f64,
    /// How full the target's brightest part may make a pixel; 1 is full scale.
    #[serde(default = "defaults::core_fill")]
    #[schema(default = 1.0)]
    pub core_fill: f64,
    /// Stars fainter than this must not clip, V mag.
    #[serde(default = "defaults::star_clips_v_mag")]
    #[schema(default = 13.0)]
    pub star_clips_v_mag: f64,
    /// Room on the disk for one night's lights, GB; null for no limit.
    #[serde(default)]
    pub disk_gb: Option<f64>,
    /// What the night is for.
    #[serde(default)]
    pub purpose: Purpose,
    /// At which sub the settings of the gain ladder are judged.
    #[serde(default)]
    pub gain_sub: GainSub,
    /// Sub for live viewing, s.
    #[serde(default = "defaults::live_sub_s")]
    #[schema(default = 10.0)]
    pub live_sub_s: f64,
    /// How the clock is split between exposures.
    #[serde(default)]
    pub split: SplitMode,
    /// For [`SplitMode::LuminanceHeavy`]: time of the widest filter over that of each other one.
    #[serde(default = "defaults::luminance_ratio")]
    #[schema(default = 3.0)]
    pub luminance_ratio: f64,
    /// Noise that calibration frames may add, as a fraction.
    #[serde(default = "defaults::calibration_excess")]
    #[schema(default = 0.02)]
    pub calibration_excess: f64,
    /// Clear nights in a year on which one goes out.
    #[serde(default = "defaults::clear_nights_per_year")]
    #[schema(default = 40.0)]
    pub clear_nights_per_year: f64,
    /// Hours of exposure in such a night.
    #[serde(default = "defaults::hours_per_night")]
    #[schema(default = 5.0)]
    pub hours_per_night: f64,
    /// How well the inputs are known.
    #[serde(default)]
    pub uncertainty: Uncertainty,
}

impl Default for Choices {
    fn default() -> Self {
        Self {
            school: SubCriterion::default(),
            excess: defaults::excess(),
            swamp_factor: defaults::swamp_factor(),
            histogram_adu: defaults::histogram_adu(),
            histogram_fraction: defaults::histogram_fraction(),
            least_frames: defaults::least_frames(),
            faint_snr: defaults::faint_snr(),
            core_fill: defaults::core_fill(),
            star_clips_v_mag: defaults::star_clips_v_mag(),
            disk_gb: None,
            purpose: Purpose::default(),
            gain_sub: GainSub::default(),
            live_sub_s: defaults::live_sub_s(),
            split: SplitMode::default(),
            luminance_ratio: defaults::luminance_ratio(),
            calibration_excess: defaults::calibration_excess(),
            clear_nights_per_year: defaults::clear_nights_per_year(),
            hours_per_night: defaults::hours_per_night(),
            uncertainty: Uncertainty::default(),
        }
    }
}

/// Background of a user's own test frame behind this filter.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TestFrame {
    /// Length of the test sub, s.
    pub sub_s: f64,
    /// Median of the background, ADU.
    pub background_adu: f64,
    /// Whether the camera's offset is still in it; a calibrated frame has lost it.
    #[serde(default = "defaults::yes")]
    #[schema(default = true)]
    pub with_offset: bool,
    /// The channel of which it is the median, on a colour camera; null for the one that decides the
    /// sub.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub channel: Option<CfaColour>,
}
