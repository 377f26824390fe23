//! The document itself.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::scenario::choices::Choices;
use crate::scenario::defaults;
use crate::scenario::exposure::Calibration;
use crate::scenario::frame_plan::FramePlan;
use crate::scenario::goal::Goal;
use crate::scenario::pointing::Pointing;
use crate::scenario::rig::Contender;
use crate::scenario::sky::Sky;
use crate::scenario::target::Target;

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
    #[serde(default = "defaults::detail_arcsec")]
    #[schema(default = 5.0)]
    pub detail_arcsec: f64,
    /// Time on the clock, s, that each contender may use.
    pub total_s: f64,
    /// The signal to noise at which a picture is good enough.
    #[serde(default = "defaults::goal_snr")]
    #[schema(default = 20.0)]
    pub goal_snr: f64,
    /// What is wanted, at most one goal a quantity; they take the place of `goal_snr` on
    /// `detail_arcsec` for the mean, which hold where there are none.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub goals: Vec<Goal>,
    /// Full width at half maximum of a star at the zenith, arcsec; lower down it grows as
    /// airmass^0.6.
    #[serde(default = "defaults::seeing_fwhm_arcsec")]
    #[schema(default = 2.5)]
    pub seeing_fwhm_arcsec: f64,
    /// V magnitude of the star whose signal to noise is reported.
    #[serde(default = "defaults::star_v_mag")]
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
    /// How it is framed; left out, its middle stands in the middle, north up.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub frame: Option<FramePlan>,
    /// Under which sky.
    pub sky: Sky,
    /// The light paths to compare; the first is the baseline.
    pub contenders: Vec<Contender>,
}

impl Scenario {
    /// A comparison of light paths on a target under a sky, everything else as it usually is.
    pub fn of(target: Target, sky: Sky, contenders: Vec<Contender>) -> Self {
        Self {
            format: FormatName::Scenario,
            version: 1,
            title: target.name.clone(),
            detail_arcsec: defaults::detail_arcsec(),
            total_s: defaults::begun_total_s(),
            goal_snr: defaults::goal_snr(),
            goals: target.usual_goals(),
            seeing_fwhm_arcsec: defaults::seeing_fwhm_arcsec(),
            star_v_mag: defaults::star_v_mag(),
            calibration: Calibration::default(),
            choices: Choices::default(),
            target,
            frame: None,
            sky,
            contenders,
        }
    }

    /// Time on the clock that a contender may use, s.
    pub fn clock_s(&self, contender: &Contender) -> f64 {
        contender.total_s.unwrap_or(self.total_s)
    }

    /// Where its rigs look: where the frame stands, else where the target does; `None` where
    /// neither is known.
    pub fn pointing(&self) -> Option<Pointing> {
        self.frame.as_ref().map(|f| f.at).or_else(|| self.target.place())
    }
}
