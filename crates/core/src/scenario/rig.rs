//! Telescope and camera as the document states them.

use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::ToSchema;

use crate::scenario::cfa::CfaColour;
use crate::scenario::defaults;

use crate::light::curve::Curve;
use crate::scenario::exposure::Exposure;

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
    /// How the mount follows the sky; null for one that follows it and turns with it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub mount: Option<Mount>,
    /// How often the field is moved between subs, and what a move costs; null where that is part of
    /// `overhead_s_per_sub`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub dither: Option<Dither>,
    /// Its own time on the clock, s, where it is compared over another time than the document's
    /// `total_s`; null for that.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub total_s: Option<f64>,
    /// Price of the rig without its filters, in the user's currency.
    #[serde(default)]
    pub price: Option<f64>,
    /// Distances between faces that throw light to and fro before the sensor, mm; each makes a halo
    /// of its own size. Empty where they are not known.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub ghost_gaps_mm: Vec<f64>,
    /// What is exposed; the shares of the clock sum to 1.
    pub exposures: Vec<Exposure>,
}

/// How a mount follows the sky.
#[derive(
    Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema,
)]
#[serde(rename_all = "snake_case")]
pub enum Following {
    /// It follows and turns with the sky.
    #[default]
    Equatorial,
    /// It follows in altitude and azimuth: the field turns.
    AltAz,
    /// It stands still: stars trail.
    Fixed,
}

/// A mount that may not follow the sky.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Mount {
    /// How it follows.
    pub following: Following,
    /// How far a star may trail in a sub, pixels.
    #[serde(default = "defaults::one")]
    #[schema(default = 1.0)]
    pub trail_px: f64,
}

/// Moving the field between subs.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Dither {
    /// The field is moved after every so many subs.
    pub every: u32,
    /// Time that a move takes with settling, s.
    pub cost_s: f64,
}

/// Pixels that are put together: what one of them does.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct BinningMode {
    /// Pixels on a side.
    pub factor: u32,
    /// Read noise of one binned pixel over that of a single one. Put together after reading, it is
    /// the factor; in the sensor itself it can stay 1.
    pub read_noise_ratio: f64,
    /// Full well of one binned pixel over that of a single one; put together after reading, the
    /// factor squared.
    pub full_well_ratio: f64,
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
    #[serde(default = "defaults::one")]
    #[schema(default = 1.0)]
    pub reducer: f64,
    /// Share of the light that mirrors and lenses pass, 0-1.
    #[serde(default = "defaults::throughput")]
    #[schema(default = 0.9)]
    pub throughput: f64,
    /// Longest sub that stays round on this mount, s; null where there is no limit.
    #[serde(default)]
    pub longest_sub_s: Option<f64>,
    /// Distance of the exit pupil from the sensor, mm: how far behind the sensor's filter the rays
    /// of a corner seem to come from. Null where it is not known, or where they are parallel to the
    /// axis: then all of the field meets the filter as its centre does.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub exit_pupil_mm: Option<f64>,
}

impl Optics {
    /// Focal length after the reducer, mm.
    pub fn effective_focal_length_mm(&self) -> f64 {
        self.focal_length_mm * self.reducer
    }

    /// Focal ratio after the reducer.
    pub fn focal_ratio(&self) -> f64 {
        self.effective_focal_length_mm() / self.aperture_mm
    }
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
    /// Modes in which the camera puts pixels together by itself; any other factor is put together
    /// after reading.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub binning: Vec<BinningMode>,
    /// For a camera without cooling: how much warmer than the air it runs, K. Null for a cooled
    /// one.
    #[serde(default)]
    pub rise_above_ambient_k: Option<f64>,
    /// Time to read out and download a sub, s.
    #[serde(default = "defaults::one")]
    #[schema(default = 1.0)]
    pub readout_s: f64,
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
    #[serde(default = "defaults::doubling_k")]
    #[schema(default = 6.3)]
    pub doubling_k: f64,
}
