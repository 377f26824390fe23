//! What is judged, of one frame.

use crate::frame::header::HeaderFields;
use crate::frame::matching::{Search, match_stars};
use crate::frame::measured::{BrightStar, FrameMeasured};
use crate::frame::patch::BoxMeasured;
use crate::frame::tile::middle;
use crate::light::lines::Quantity;
use crate::log::quality::{FrameJudged, judged_channel};
use crate::log::transparency::starlike;
use crate::trial::data::Judged;

/// What is known of a frame.
#[derive(Clone, Copy, Debug)]
pub struct FrameFacts<'a> {
    /// Its header.
    pub header: &'a HeaderFields,
    /// What the log measured.
    pub judged: &'a FrameJudged,
    /// The marked patch and the sky beside it, in the channel that is judged.
    pub boxes: Option<[BoxMeasured; 2]>,
    /// Light of its stars over that of the same stars on one frame of the trial, each in electrons a
    /// second.
    pub starlight: Option<f64>,
}

/// Pixels under a star of half-flux radius r: a profile's noise-equivalent area is about
/// 4 pi (r / 1.18)^2 of a normal one (King 1983, PASP 95, 163).
fn pixels_under(hfr_px: f64) -> f64 {
    4.0 * std::f64::consts::PI * (hfr_px / 1.18).powi(2)
}

/// The channel that is judged of a frame whose stars are measured in `own`: of a colour camera red
/// for H-alpha and [S II], else that.
pub fn channel_of(quantity: Quantity, own: &str) -> &str {
    let red = matches!(quantity, Quantity::Ha | Quantity::HaAlone | Quantity::Sii);
    if own == "g" && red { "r" } else { own }
}

/// Stars that tell a ratio at least.
const LEAST_STARS: usize = 4;

/// Light of a frame's stars over that of the same stars on another, each in electrons a second;
/// `None` where fewer than four are on both, or gain or exposure are not known.
pub fn starlight_over(own: &FrameMeasured, other: &FrameMeasured) -> Option<f64> {
    let rate = |m: &FrameMeasured| {
        let h = &m.read.header;
        Some(h.e_per_adu? / h.exposure_s.filter(|s| *s > 0.0)?)
    };
    let stars = |m: &FrameMeasured| Some(starlike(judged_channel(m)?));
    let places = |s: &[BrightStar]| s.iter().map(|s| [s.x_px, s.y_px]).collect::<Vec<_>>();
    let (a, b) = (stars(own)?, stars(other)?);
    let matched = match_stars(&places(&a), &places(&b), Search::default())?;
    let ratios: Vec<f64> = matched
        .pairs
        .iter()
        .map(|[i, k]| (a[*i], b[*k]))
        .filter(|(a, b)| !a.clipped && !b.clipped && b.flux_adu > 0.0)
        .map(|(a, b)| a.flux_adu / b.flux_adu)
        .collect();
    let enough = ratios.len() >= LEAST_STARS;
    let ratio = middle(ratios.into_iter()).filter(|_| enough)?;
    Some(ratio * rate(own)? / rate(other)?)
}

/// What is judged of a frame, above 0; `None` where what it takes is not known, or a patch holds no
/// light over its background.
pub fn measure_of(judged: Judged, f: &FrameFacts) -> Option<f64> {
    let sub_s = f.header.exposure_s.filter(|s| *s > 0.0)?;
    let binning = f.header.binning.unwrap_or(1.0).max(1.0);
    // Electrons a second in a pixel of the sensor, of one ADU.
    let rate = || Some(f.header.e_per_adu? / (sub_s * binning * binning));
    let over = || {
        let [on, beside] = f.boxes?;
        Some((on.mean_adu - beside.mean_adu, on, beside))
    };
    let value = match judged {
        Judged::PatchSnr => {
            let (light, on, beside) = over()?;
            // Noise of one pixel of the sky beside the patch, and what the patch's own light adds (its
            // electrons' root); neither a nebula's structure nor faint stars are noise.
            let sky = beside.noise_adu.powi(2);
            let own = f.header.e_per_adu.map_or(0.0, |gain| light.max(0.0) / gain);
            let pixel = (sky + own).sqrt();
            light / pixel * (on.pixels as f64).sqrt() * (3600.0 / sub_s).sqrt()
        }
        Judged::LineSignal | Judged::StarHalo => over()?.0 * rate()?,
        Judged::Background => f.judged.background_e_per_s?,
        Judged::StarSize => f.judged.fwhm_arcsec.or(f.judged.fwhm_px)?,
        Judged::FaintestStar => {
            let noise = f.judged.sigma_adu * pixels_under(f.judged.hfr_px?).sqrt();
            5.0 * noise * rate()? / f.starlight?
        }
    };
    (value > 0.0 && value.is_finite()).then_some(value)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn box_of(mean_adu: f64, pixel_sd_adu: f64, pixels: usize) -> BoxMeasured {
        let sd_adu = pixel_sd_adu / (pixels as f64).sqrt();
        BoxMeasured { channel: "mono", mean_adu, sd_adu, pixels, noise_adu: pixel_sd_adu }
    }

    fn judged() -> FrameJudged {
        FrameJudged {
            channel: "mono".into(),
            background_adu: 300.0,
            background_e_per_s: Some(0.4),
            sigma_adu: 10.0,
            stars: 100,
            hfr_px: Some(1.5),
            fwhm_px: Some(3.0),
            fwhm_arcsec: None,
            elongation: None,
            clipped_share: 0.0,
            transparency: Some(1.0),
            airmass: Some(1.1),
            guiding_arcsec: None,
            shift_px: None,
            turned_deg: None,
            reasons: Vec::new(),
        }
    }

    #[test]
    fn a_patch_s_signal_to_noise_is_told_for_an_hour() {
        let header = HeaderFields {
            exposure_s: Some(900.0),
            e_per_adu: Some(0.5),
            ..HeaderFields::default()
        };
        let j = judged();
        // 4 ADU over the sky, of 2 electrons; with 392 ADU^2 of the sky 20 ADU of noise in a pixel,
        // 2500 pixels: 10 in a quarter of an hour.
        let sky = 392f64.sqrt();
        let boxes = Some([box_of(104.0, 30.0, 2500), box_of(100.0, sky, 400)]);
        let facts = FrameFacts { header: &header, judged: &j, boxes, starlight: Some(0.5) };
        assert!((measure_of(Judged::PatchSnr, &facts).expect("light") - 20.0).abs() < 1e-9);
        let signal = measure_of(Judged::LineSignal, &facts).expect("light");
        assert!((signal - 4.0 * 0.5 / 900.0).abs() < 1e-12);
        assert_eq!(measure_of(Judged::Background, &facts), Some(0.4));
        assert_eq!(measure_of(Judged::StarSize, &facts), Some(3.0));
        // Half of the light leaves the faintest star twice as bright.
        let faint =
            |starlight| measure_of(Judged::FaintestStar, &FrameFacts { starlight, ..facts });
        assert_eq!(faint(Some(0.5)).expect("stars"), 2.0 * faint(Some(1.0)).expect("stars"));
        let dark = Some([box_of(99.0, 20.0, 400), box_of(100.0, 20.0, 400)]);
        assert_eq!(measure_of(Judged::PatchSnr, &FrameFacts { boxes: dark, ..facts }), None);
        assert_eq!(measure_of(Judged::LineSignal, &FrameFacts { boxes: None, ..facts }), None);
        let channels = [("g", Quantity::Ha), ("g", Quantity::Oiii), ("mono", Quantity::Ha)];
        assert_eq!(channels.map(|(own, q)| channel_of(q, own)), ["r", "g", "mono"]);
    }
}
