//! The scenario: one open document for a whole comparison.
//!
//! Field names carry their units. Unknown keys are refused. [`crate::check`] says which values are
//! accepted; a scenario that passed is a [`crate::Checked`].

use std::collections::BTreeMap;

use serde::{Deserialize, Deserializer, Serialize};
use utoipa::ToSchema;

use crate::decide::{Choices, TestFrame};
use crate::light::{Curve, Lamp};

macro_rules! defaults {
    ($($name:ident: $value:expr;)*) => { $(fn $name() -> f64 { $value })* };
}
defaults! {
    detail_arcsec: 5.0; goal_snr: 20.0; natural_v_mag: 21.9; sun_altitude_deg: -40.0; one: 1.0; throughput: 0.9;
    order: 3.0; off_band_od: 4.0; n_eff: 1.9; centre_tolerance_nm: 0.5; seeing_fwhm_arcsec: 2.5; dark_frames: 50.0;
    doubling_k: 6.3; ambient_c: 10.0; star_v_mag: 16.0;
}

fn yes() -> bool {
    true
}

/// Makes a key that may be null, but not left out.
fn nullable<'de, D: Deserializer<'de>, T: Deserialize<'de>>(d: D) -> Result<Option<T>, D::Error> {
    Option::deserialize(d)
}

/// The name of the document format. There is one.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub enum FormatName {
    /// The only value.
    #[default]
    #[serde(rename = "salt-lamp-scenario")]
    Scenario,
}

/// A whole comparison: one target under one sky, and the light paths to compare.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Scenario {
    /// Always `salt-lamp-scenario`.
    pub format: FormatName,
    /// Always 1.
    #[schema(minimum = 1, maximum = 1)]
    pub version: u32,
    /// Free text.
    pub title: String,
    /// Side of the square on which signal to noise is judged, arcsec.
    #[serde(default = "detail_arcsec")]
    #[schema(default = 5.0)]
    pub detail_arcsec: f64,
    /// Time on the clock, s, that each contender may use.
    pub total_s: f64,
    /// The signal to noise at which a picture is good enough.
    #[serde(default = "goal_snr")]
    #[schema(default = 20.0)]
    pub goal_snr: f64,
    /// Full width at half maximum of a star, arcsec.
    #[serde(default = "seeing_fwhm_arcsec")]
    #[schema(default = 2.5)]
    pub seeing_fwhm_arcsec: f64,
    /// V magnitude of the star whose signal to noise is reported.
    #[serde(default = "star_v_mag")]
    #[schema(default = 16.0)]
    pub star_v_mag: f64,
    /// How the frames are calibrated.
    #[serde(default)]
    pub calibration: Calibration,
    /// How the user wants to decide.
    #[serde(default)]
    pub choices: Choices,
    /// What is photographed.
    pub target: Target,
    /// Under which sky.
    pub sky: Sky,
    /// The light paths to compare; the first is the baseline.
    pub contenders: Vec<Contender>,
}

/// Calibration frames and what they leave behind.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Calibration {
    /// Frames in the master dark.
    #[serde(default = "dark_frames")]
    #[schema(default = 50.0)]
    pub dark_frames: f64,
    /// Whether the field moves between subs, so that calibration noise averages out.
    #[serde(default = "yes")]
    #[schema(default = true)]
    pub dithered: bool,
    /// What flat-fielding leaves, as a fraction of the light in a sub.
    #[serde(default)]
    #[schema(default = 0.0)]
    pub flat_residue: f64,
}

impl Default for Calibration {
    fn default() -> Self {
        Self { dark_frames: dark_frames(), dithered: true, flat_residue: 0.0 }
    }
}

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
    #[serde(default = "one")]
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

/// The sky.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Sky {
    /// Name of the site on the shelf that this sky is of; null for a sky of its own.
    #[serde(default)]
    pub site: Option<String>,
    /// Moonless brightness at the zenith, V mag/arcsec^2 (or a sky meter's reading).
    pub zenith_v_mag: f64,
    /// Brightness of the natural sky at the zenith, V mag/arcsec^2.
    #[serde(default = "natural_v_mag")]
    #[schema(default = 21.9)]
    pub natural_v_mag: f64,
    /// Lamps as fractions of artificial V light; they sum to 1.
    pub lamps: BTreeMap<Lamp, f64>,
    /// Measured moonless brightness towards the target, V mag/arcsec^2.
    #[serde(default)]
    pub toward_target_v_mag: Option<f64>,
    /// Altitude of the target, degrees.
    pub target_altitude_deg: f64,
    /// Height of the site above the sea, m.
    #[serde(default)]
    #[schema(default = 0.0)]
    pub site_height_m: f64,
    /// Measured extinction in V, mag per airmass; null for a clear night's air.
    #[serde(default)]
    pub k_v: Option<f64>,
    /// Temperature of the air, degrees Celsius; a camera without cooling follows it.
    #[serde(default = "ambient_c")]
    #[schema(default = 10.0)]
    pub ambient_c: f64,
    /// The moon; null for none.
    #[serde(default)]
    pub moon: Option<Moon>,
    /// Altitude of the sun, degrees.
    #[serde(default = "sun_altitude_deg")]
    #[schema(default = -40.0)]
    pub sun_altitude_deg: f64,
}

/// The moon.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Moon {
    /// Phase angle, degrees: 0 is full, 90 a half moon, 180 new.
    pub phase_angle_deg: f64,
    /// Altitude, degrees.
    pub altitude_deg: f64,
    /// Angle between moon and target, degrees.
    pub separation_deg: f64,
}

/// One light path: a rig and what it exposes.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Contender {
    /// Free text.
    pub name: String,
    /// The telescope.
    pub optics: Optics,
    /// The camera.
    pub sensor: Sensor,
    /// Gain setting (or ISO), on the scale of the sensor's gain table.
    pub gain: f64,
    /// Set point of the cooling, degrees Celsius; without meaning for a camera that has none.
    pub sensor_temperature_c: f64,
    /// Time lost after each sub besides readout (dither, settling), s.
    #[serde(default)]
    #[schema(default = 0.0)]
    pub overhead_s_per_sub: f64,
    /// How often something spoils a sub (gusts, aircraft), per hour.
    #[serde(default)]
    #[schema(default = 0.0)]
    pub loss_per_hour: f64,
    /// Price of the rig without its filters, in the user's currency.
    #[serde(default)]
    pub price: Option<f64>,
    /// What is exposed; the shares of the clock sum to 1.
    pub exposures: Vec<Exposure>,
}

/// A telescope.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Optics {
    /// Aperture, mm.
    pub aperture_mm: f64,
    /// Diameter of the central obstruction, mm.
    #[serde(default)]
    #[schema(default = 0.0)]
    pub obstruction_mm: f64,
    /// Focal length before the reducer, mm.
    pub focal_length_mm: f64,
    /// Factor of a reducer or extender.
    #[serde(default = "one")]
    #[schema(default = 1.0)]
    pub reducer: f64,
    /// Share of the light that mirrors and lenses pass, 0-1.
    #[serde(default = "throughput")]
    #[schema(default = 0.9)]
    pub throughput: f64,
    /// Longest sub that stays round on this mount, s; null where there is no limit.
    #[serde(default)]
    pub longest_sub_s: Option<f64>,
}

/// A camera.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Sensor {
    /// Free text.
    pub name: String,
    /// Side of a pixel, um.
    pub pixel_um: f64,
    /// Pixels across.
    pub columns: u32,
    /// Pixels down.
    pub rows: u32,
    /// Colour filter array in row order, such as "RGGB"; null for mono.
    #[serde(default)]
    pub cfa: Option<String>,
    /// Quantum efficiency.
    pub qe: Curve,
    /// Transmission of each colour of the array, multiplying `qe`.
    #[serde(default)]
    pub cfa_curves: Option<BTreeMap<CfaColour, Curve>>,
    /// Bits of the converter.
    pub bits: u32,
    /// Offset, ADU.
    pub offset_adu: f64,
    /// The gain table, settings ascending.
    pub gains: Vec<GainRow>,
    /// Dark current.
    pub dark: Dark,
    /// For a camera without cooling: how much warmer than the air it runs, K. Null for a cooled one.
    #[serde(default)]
    pub rise_above_ambient_k: Option<f64>,
    /// Time to read out and download a sub, s.
    #[serde(default = "one")]
    #[schema(default = 1.0)]
    pub readout_s: f64,
}

/// A colour of a colour filter array.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs)]
pub enum CfaColour {
    R,
    G,
    B,
}

/// One row of a gain table.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct GainRow {
    /// Gain setting, or ISO.
    pub setting: f64,
    /// Electrons per ADU.
    pub e_per_adu: f64,
    /// Read noise, e-.
    pub read_noise_e: f64,
    /// Full well, e-.
    pub full_well_e: f64,
}

/// Dark current and how it grows with temperature.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Dark {
    /// Dark current, e-/s per pixel, at the reference temperature.
    pub e_per_s: f64,
    /// The reference temperature, degrees Celsius.
    pub at_c: f64,
    /// Temperature step that doubles it, K.
    #[serde(default = "doubling_k")]
    #[schema(default = 6.3)]
    pub doubling_k: f64,
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
    /// This exposure's fraction of the time on the clock.
    pub share: f64,
    /// Weight of its quantity where a budget is split by weights.
    #[serde(default = "one")]
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
    #[serde(default = "off_band_od")]
    #[schema(default = 4.0)]
    pub off_band_od: f64,
    /// Effective refractive index, which sets how far tilted light shifts the band.
    #[serde(default = "n_eff")]
    #[schema(default = 1.9)]
    pub n_eff: f64,
    /// How far the centre of a copy may lie from its nominal value, nm either way.
    #[serde(default = "centre_tolerance_nm")]
    #[schema(default = 0.5)]
    pub centre_tolerance_nm: f64,
    /// Share of the band's light that the side towards the sensor reflects, 0-1; null where it is not known.
    #[serde(default)]
    pub rear_reflectance: Option<f64>,
    /// Focal ratios, fastest and slowest, that the filter is made for; null for no such claim.
    #[serde(default)]
    #[schema(value_type = Option<Vec<f64>>)]
    pub design_focal_ratios: Option<[f64; 2]>,
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
    #[serde(default = "order")]
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
            off_band_od: off_band_od(),
            n_eff: n_eff(),
            centre_tolerance_nm: centre_tolerance_nm(),
            rear_reflectance: None,
            design_focal_ratios: None,
            price: None,
        }
    }
}
