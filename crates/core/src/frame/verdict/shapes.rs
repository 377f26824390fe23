//! What clips, and whether the stars are round and as small as they should be.

use crate::frame::tile::middle;
use crate::frame::verdict::answer::{Sentence, Standing, figure, sentence};
use crate::frame::verdict::seen::Seen;
use crate::wording::{listed, seconds, two_figures};

/// Longer over shorter axis up to which an eye calls a star round (common practice, no source).
const ROUND: f64 = 1.15;
/// From here on nobody keeps it.
const DRAWN_OUT: f64 = 1.4;
/// Stars this much larger than seeing, optics and pixels promise are worth a look.
const LARGE: f64 = 1.3;
/// A corner this much larger than the middle tells tilt, spacing or curvature.
const CORNER: f64 = 1.25;
/// A larger share of pixels at full scale is more than stars.
const MORE_THAN_STARS: f64 = 0.002;

/// Stars and the target's core at full scale; the core beyond `core_clips_s` by the model.
pub(super) fn clipping(v: &Seen, core_clips_s: f64) -> Sentence {
    let (full, of) = (v.own.stars_clipped, v.own.stars);
    let mut figures =
        vec![figure("Pixels that are full", format!("{:.4} %", 100.0 * v.own.clipped_share))];
    figures.extend(v.own.full_adu.map(|full| figure("Full from", format!("{full:.0} ADU"))));
    figures.push(figure("The core clips beyond", seconds(core_clips_s)));
    let stars = match (full, of) {
        (_, 0) => "No star is there to clip".to_owned(),
        (0, _) => "No star clips".to_owned(),
        (1, _) => format!("1 star of {of} clips"),
        _ => format!("{full} stars of {of} clip"),
    };
    let core_clips = core_clips_s < v.sub_s;
    let core = if core_clips {
        format!("; by the model the target's core clips beyond {}", seconds(core_clips_s))
    } else {
        String::new()
    };
    let shorter = half_as_many(v)
        .filter(|s| *s < 0.7 * v.sub_s)
        .map(|s| format!(" In {} half as many would.", seconds(two_figures(s))));
    let text = format!("{stars}{core}.{}", shorter.unwrap_or_default());
    let standing = match () {
        () if v.own.clipped_share > MORE_THAN_STARS => Standing::Wrong,
        () if core_clips || full * 20 > of.max(20) => Standing::Look,
        () => Standing::Good,
    };
    sentence("clipping", standing, text, figures)
}

/// The sub in which half as many stars would clip, s, by the light of those in the list: a star's
/// peak goes with its light where stars are alike.
fn half_as_many(v: &Seen) -> Option<f64> {
    let whole = v.own.brightest.iter().filter(|s| !s.clipped && s.flux_adu > 0.0);
    let per_flux = middle(whole.map(|s| s.peak_adu / s.flux_adu))?;
    let mut peaks: Vec<f64> =
        v.own.brightest.iter().filter(|s| s.clipped).map(|s| s.flux_adu * per_flux).collect();
    if peaks.len() < 4 {
        return None;
    }
    peaks.sort_by(f64::total_cmp);
    let room = v.own.full_adu? - v.own.level_adu;
    Some(v.sub_s * room / peaks[peaks.len() / 2])
}

/// Round or not, and how large against what the site's air promises.
pub(super) fn stars(v: &Seen) -> Sentence {
    let scale = v.model.instrument.scale_arcsec / v.model.instrument.binning.max(1.0)
        * v.taken.frame.read.header.binning.unwrap_or(1.0);
    let (Some(hfr), Some(elongation)) = (v.own.hfr_px, v.own.elongation) else {
        let text = "No star stands out: clouds, far out of focus, or the cap is on.".to_owned();
        return sentence("stars", Standing::Wrong, text, Vec::new());
    };
    let expected = v.model.instrument.star_fwhm_arcsec;
    let fwhm = v.own.fwhm_px.map(|px| px * scale);
    let toward = v.own.elongation_toward_deg.unwrap_or(0.0);
    let mut figures = vec![
        figure("Half-flux radius", format!("{hfr:.2} px")),
        figure("Longer over shorter axis", format!("{elongation:.2}")),
        figure("Stars", format!("{}", v.own.stars)),
    ];
    if let Some(arcsec) = fwhm {
        figures.insert(0, figure("Full width at half maximum", format!("{arcsec:.1}\u{2033}")));
    }
    figures.push(figure("Promised by the site's air", format!("{expected:.1}\u{2033}")));
    let shape = match elongation {
        e if e <= ROUND => "Stars are round".to_owned(),
        e if e < DRAWN_OUT => {
            format!("Stars are a little drawn out, towards {toward:.0}° from the top")
        }
        _ => format!(
            "Stars are drawn out by {elongation:.1}, towards {toward:.0}° from the top: guiding, \
                balance or wind"
        ),
    };
    let size = fwhm.map(|f| match f / expected {
        r if r > LARGE => format!(
            "; at {f:.1}\u{2033} they are larger than the \
            {expected:.1}\u{2033} that the site's air promises: focus, dew or poor air"
        ),
        r if r < 1.0 / LARGE => format!(
            "; at {f:.1}\u{2033} they are smaller than the \
            {expected:.1}\u{2033} assumed: better air than the scene says"
        ),
        _ => format!(", {f:.1}\u{2033} wide, as the site's air promises"),
    });
    let corner = worst_corner(v);
    let text = format!("{shape}{}.{}", size.unwrap_or_default(), corner.as_deref().unwrap_or(""));
    let standing = match () {
        () if elongation >= DRAWN_OUT || fwhm.is_some_and(|f| f > 2.0 * expected) => {
            Standing::Wrong
        }
        () if elongation > ROUND
            || corner.is_some()
            || fwhm.is_some_and(|f| f > LARGE * expected) =>
        {
            Standing::Look
        }
        () => Standing::Good,
    };
    sentence("stars", standing, text, figures)
}

/// What the corners tell against the middle.
fn worst_corner(v: &Seen) -> Option<String> {
    let in_middle = v.own.parts.iter().find(|p| p.part == "middle")?.hfr_px?;
    let corners: Vec<(&str, f64)> = v
        .own
        .parts
        .iter()
        .filter(|p| p.part != "middle")
        .filter_map(|p| Some((p.part.as_str(), p.hfr_px? / in_middle)))
        .collect();
    let large: Vec<&str> = corners.iter().filter(|c| c.1 > CORNER).map(|c| c.0).collect();
    match large.len() {
        0 => None,
        n if n == corners.len() && n > 2 => Some(
            " All corners are softer than the middle: back focus or a curved field.".to_owned(),
        ),
        _ => Some(format!(" Softer {}: tilt, most of all.", listed(&large))),
    }
}
