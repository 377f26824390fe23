//! The published answer to a scenario, as it stands in JSON; it is made in [`super::making`].
//! Fields may be added; none changes its meaning within version 1.

use std::collections::BTreeMap;

use serde::Serialize;
use utoipa::ToSchema;

use crate::light::lines::Quantity;
use crate::path::filter::report::LineTransmission;
use crate::signal::aim::CleanParts;

/// The name of the answer's format.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, ToSchema)]
pub enum EvaluationFormat {
    /// The only value.
    #[default]
    #[serde(rename = "salt-lamp-evaluation")]
    Evaluation,
}

/// The answer to a scenario.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Evaluation {
    /// Always `salt-lamp-evaluation`.
    pub format: EvaluationFormat,
    /// Always 1.
    pub version: u32,
    /// The sky towards the target.
    pub sky: SkyAnswer,
    /// The contenders in the scenario's order.
    pub contenders: Vec<ContenderAnswer>,
    /// What the user should know about the input, such as a value taken from the end of a table.
    pub warnings: Vec<Warning>,
}

/// Something worth knowing about one field of the scenario.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, ToSchema)]
pub struct Warning {
    /// Path of the field.
    pub path: String,
    /// What was done about it, in a sentence.
    pub message: String,
}

/// V brightness of the sky towards the target, mag/arcsec^2; null for no light.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct SkyAnswer {
    /// Natural sky.
    pub natural_v_mag: Option<f64>,
    /// Lamps.
    pub artificial_v_mag: Option<f64>,
    /// Moonlight.
    pub moon_v_mag: Option<f64>,
    /// Twilight.
    pub twilight_v_mag: Option<f64>,
    /// All together.
    pub total_v_mag: Option<f64>,
    /// Airmass of the target.
    pub airmass: f64,
    /// Extinction at 550 nm, mag per airmass.
    pub k_v: f64,
}

/// One light path.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct ContenderAnswer {
    /// Its name.
    pub name: String,
    /// Pixel scale, arcsec.
    pub pixel_scale_arcsec: f64,
    /// Focal ratio after the reducer.
    pub focal_ratio: f64,
    /// Its time on the clock, s.
    pub clock_s: f64,
    /// Temperature of the sensor: its set point, or the air's plus its rise, degrees Celsius.
    pub sensor_temperature_c: f64,
    /// Dark current at that temperature, e-/s per pixel.
    pub dark_e_per_s: f64,
    /// Its share of what a pixel collects besides the target, 0-1, in the channel and exposure
    /// where it is largest.
    pub dark_share: f64,
    /// Its exposures in order.
    pub exposures: Vec<ExposureAnswer>,
    /// What it reaches in each quantity that it records.
    pub quantities: BTreeMap<Quantity, QuantityAnswer>,
}

/// One exposure of a light path.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct ExposureAnswer {
    /// Name of the filter; null for none.
    pub filter: Option<String>,
    /// Integral of the filter's transmission in this telescope's cone, nm.
    pub equivalent_width_nm: f64,
    /// Pixel scale with its binning, arcsec.
    pub pixel_scale_arcsec: f64,
    /// Whole subs that fit.
    pub subs: u32,
    /// Of those, how many are kept on average at the contender's rate of losses: they are what
    /// every signal to noise counts.
    pub subs_kept: f64,
    /// Length of a sub, s.
    pub sub_s: f64,
    /// Time on the clock, s.
    pub clock_s: f64,
    /// Its channels.
    pub channels: Vec<ChannelAnswer>,
    /// Its sub, judged by the channel that carries most of the signal.
    pub sub_exposure: SubAnswer,
    /// What is left of each quantity's light after each stage.
    pub stages: BTreeMap<Quantity, StagesAnswer>,
    /// What the filter passes of each line in this cone, head-on, and for copies at the ends of its
    /// tolerance.
    pub transmissions: BTreeMap<Quantity, LineTransmission>,
    /// Sky over each quantity before and after the filter, in the channel that sees the quantity
    /// best.
    pub sky_over_signal: BTreeMap<Quantity, SkyOverSignal>,
}

/// How many sky electrons there are for one of the quantity.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct SkyOverSignal {
    /// Without the filter.
    pub before_filter: f64,
    /// With it; null where nothing of the quantity passes.
    pub after_filter: Option<f64>,
}

/// Fractions of the light that reaches the top of the atmosphere over the full aperture.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct StagesAnswer {
    /// After the air.
    pub atmosphere: f64,
    /// After obstruction, mirrors and lenses.
    pub optics: f64,
    /// After the filter.
    pub filter: f64,
    /// Counted as electrons over all pixels.
    pub sensor: f64,
}

/// One channel of an exposure.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct ChannelAnswer {
    /// `mono`, `r`, `g` or `b`.
    pub channel: &'static str,
    /// Share of the pixels.
    pub pixel_share: f64,
    /// Electrons per second and pixel by source; of a binned pixel where pixels are put together,
    /// as everything in this list.
    pub rates_e_per_s: RatesAnswer,
    /// Read noise with quantisation noise, e-.
    pub read_noise_e: f64,
    /// Full scale, e-.
    pub full_scale_e: f64,
    /// By how much read noise raises the noise of a sub, as a fraction; null where nothing shines.
    pub read_noise_excess: Option<f64>,
    /// Sky electrons in a sub over the read noise squared.
    pub background_per_read_noise2: f64,
    /// Stars brighter than this clip, V mag; null where the sky alone fills the pixel.
    pub clip_star_v_mag: Option<f64>,
    /// Faintest star at signal to noise 5 in the stack, V mag; null where nothing was exposed.
    pub limiting_star_v_mag: Option<f64>,
    /// Signal to noise of the scenario's star in the stack, fitted with its own profile.
    pub star_snr: f64,
    /// How full the brightest part of the target makes a pixel in one sub; above 1 it clips.
    pub peak_fraction_of_full_scale: f64,
    /// Signal to noise of the whole target in one pixel of one sub.
    pub snr_sub_px: f64,
    /// Signal to noise of each recorded quantity in the stack, on the square of detail.
    pub snr: BTreeMap<Quantity, f64>,
    /// Share of the target's electrons that belongs to each quantity.
    pub purity: BTreeMap<Quantity, f64>,
    /// Target over sky, for each recorded quantity; null where no sky shines.
    pub contrast: BTreeMap<Quantity, Option<f64>>,
    /// Its sub-exposure.
    pub sub_exposure: SubAnswer,
}

/// Electrons per second and pixel by source. `ha_alone` is the part of `ha` that is not [N II].
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
#[allow(missing_docs)]
pub struct RatesAnswer {
    pub ha: f64,
    pub ha_alone: f64,
    pub oiii: f64,
    pub sii: f64,
    pub hb: f64,
    pub continuum: f64,
    pub natural: f64,
    pub artificial: f64,
    pub moon: f64,
    pub twilight: f64,
    pub dark: f64,
}

/// Lengths of a sub by several criteria, s.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct SubAnswer {
    /// The channel that this is about.
    pub channel: &'static str,
    /// Read noise adds 5 % to the noise of sky and dark current; null where there is neither.
    pub excess_5pct_s: Option<f64>,
    /// Sky electrons are ten times the read noise squared; null where no sky shines.
    pub swamp_10x_s: Option<f64>,
    /// Most information per hour of clock, within the mount's limit.
    pub best_s: f64,
    /// From and to where the information per hour is at least 95 % of the best.
    pub plateau_s: [f64; 2],
    /// The brightest part of the target clips in subs longer than this.
    pub core_clips_s: f64,
    /// The mount's limit; null for none.
    pub longest_s: Option<f64>,
}

/// The smallest square of sky on which each part of the target comes clean, arcsec; null where
/// nothing is gathered.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct CleanAnswer {
    /// The core; in the lines of a galaxy its H II regions.
    pub core_arcsec: Option<f64>,
    /// The mean.
    pub body_arcsec: Option<f64>,
    /// The faintest part that is wanted.
    pub outskirts_arcsec: Option<f64>,
}

impl From<CleanParts> for CleanAnswer {
    fn from(c: CleanParts) -> Self {
        let CleanParts { core_arcsec, body_arcsec, outskirts_arcsec } = c;
        Self { core_arcsec, body_arcsec, outskirts_arcsec }
    }
}

/// What a light path reaches in one quantity.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct QuantityAnswer {
    /// Signal to noise in the given time, whole subs.
    pub snr: f64,
    /// Side of the smallest square of sky on which the part that the goal names comes clean (signal
    /// to noise 10) in the given time, arcsec; never finer than `finest_arcsec`. Null where nothing
    /// is gathered.
    pub clean_arcsec: Option<f64>,
    /// The same of each part of the target.
    pub clean: CleanAnswer,
    /// Where the goal is one of stars, the faintest that meets it in the given time, V mag.
    pub stars_to_v_mag: Option<f64>,
    /// The finest detail that seeing and pixels allow, arcsec.
    pub finest_arcsec: f64,
    /// Time on the clock to the goal, s; null where it is out of reach.
    pub time_to_goal_s: Option<f64>,
    /// Target over sky in the channel that sees the quantity best; null where no sky shines.
    pub contrast: Option<f64>,
    /// The line that the quantity cannot be told from: in the channel that sees it best, less than
    /// half of the light of lines is its own, and most of the rest is this one's. Null where it
    /// stands for itself; always for the continuum.
    pub mixed_with: Option<Quantity>,
    /// The name of that line on this target: beside H-alpha alone it is [N II].
    pub mixed_with_name: Option<&'static str>,
}
