//! Frames beside what was predicted of them: background, star size, and which zenith each speaks of.

use serde::Serialize;
use utoipa::ToSchema;

use crate::frame::measured::FrameMeasured;
use crate::log::predicted::{NightModel, Predicted};
use crate::log::quality::FrameJudged;

/// Full width over standard deviation of a Gaussian, squared, over 12: a square pixel widens a star
/// as that many of its own areas would (its variance is a twelfth of its side squared).
const OF_A_PIXEL: f64 = 5.545 / 12.0;

/// A frame of the sky, and through which exposure of the light path it was taken.
#[derive(Clone, Copy, Debug)]
pub struct NightSub<'a> {
    /// It.
    pub measured: &'a FrameMeasured,
    /// What it was worth.
    pub judged: &'a FrameJudged,
    /// Index of the exposure.
    pub exposure: usize,
    /// Whether it is kept.
    pub kept: bool,
    /// When it began, seconds since 1970 UTC.
    pub start_s: f64,
}

/// A frame beside its prediction.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct FrameBeside {
    /// Its middle, seconds since 1970 UTC.
    pub at_s: f64,
    /// Index of the exposure.
    pub exposure: usize,
    /// Whether it is kept.
    pub kept: bool,
    /// Background with dark current, e-/s in a pixel of the sensor; null where gain or offset is
    /// not known.
    pub background_e_per_s: Option<f64>,
    /// Brightness of a zenith without moon that makes that background, V mag/arcsec^2.
    pub zenith_v_mag: Option<f64>,
    /// Full width at half maximum of its stars without what the pixels add, arcsec.
    pub fwhm_arcsec: Option<f64>,
    /// Starlight against the clearest frames of its group, about 0-1.
    pub transparency: Option<f64>,
    /// Airmass.
    pub airmass: Option<f64>,
    /// What the model says.
    pub predicted: Predicted,
}

/// Lays every frame of a night beside its prediction, in the order of time; frames without one are
/// left out.
pub fn beside(model: &NightModel, subs: &[NightSub]) -> Vec<FrameBeside> {
    let one = |s: &NightSub| {
        let h = &s.measured.read.header;
        let at_s = s.start_s + h.exposure_s.unwrap_or(0.0) / 2.0;
        let predicted = model.at(s.exposure, &s.judged.channel, at_s)?;
        let n = h.binning.unwrap_or(1.0).max(1.0);
        let background_e_per_s = s.judged.background_e_per_s.map(|b| b / (n * n));
        let scale = s.judged.fwhm_px.zip(s.judged.fwhm_arcsec).map(|(px, arcsec)| arcsec / px);
        let fwhm_arcsec =
            s.judged.fwhm_arcsec.zip(scale).map(|(arcsec, scale)| {
                (arcsec * arcsec - OF_A_PIXEL * scale * scale).max(0.0).sqrt()
            });
        Some(FrameBeside {
            at_s,
            exposure: s.exposure,
            kept: s.kept,
            background_e_per_s,
            zenith_v_mag: background_e_per_s.and_then(|b| predicted.zenith_v_mag(b)),
            fwhm_arcsec,
            transparency: s.judged.transparency,
            airmass: s.judged.airmass,
            predicted,
        })
    };
    let mut all: Vec<FrameBeside> = subs.iter().filter_map(one).collect();
    all.sort_by(|a, b| a.at_s.total_cmp(&b.at_s));
    all
}
