//! How large stars stand on the screen, and why: seeing makes them as wide as they are, the stretch
//! shows more or less of their wings.

use serde::Serialize;
use utoipa::ToSchema;

use crate::light::lines::INFRARED_NM;
use crate::look::planes::Planes;
use crate::look::shown::Shown;
use crate::look::star_light::infrared_fwhm_arcsec;
use crate::look::view::{LookView, Match};
use crate::scenario::rig::Contender;

/// The star whose size is told, V mag: a bright one of a crop.
const TOLD_V_MAG: f64 = 9.0;

/// Sizes that differ by less are called the same.
const SAME: f64 = 1.08;

/// Below this share the infrared is not worth a word.
const LEAST_INFRARED: f64 = 0.05;

/// How large the stars of a crop stand.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct StarSizes {
    /// Full width at half maximum of a star's light, arcsec: how sharp the picture is.
    pub fwhm_arcsec: f64,
    /// The star that sizes are told of, V mag.
    pub v_mag: f64,
    /// How wide it stands on the screen, out to half way from the background to white, arcsec.
    pub shown_arcsec: f64,
    /// The same in red, green and blue: where they differ, stars wear coloured rings. Empty for a
    /// grey picture.
    pub rgb_arcsec: Vec<f64>,
    /// Share of a sunlike star's light beyond 700 nm, in the channel that sees most of it.
    pub infrared_share: f64,
    /// Full width at half maximum of that light, arcsec: a lens leaves it out of focus.
    pub infrared_fwhm_arcsec: f64,
    /// In a sentence or two.
    pub text: String,
}

/// Says how large the stars stand, beside those of the `first` path where this is another.
pub(super) fn star_sizes(
    shown: &Shown,
    planes: &Planes,
    (c, view): (&Contender, &LookView),
    first: Option<&StarSizes>,
) -> StarSizes {
    let (rgb, shown_arcsec) = shown.star_arcsec(TOLD_V_MAG, &planes.profiles);
    let fwhm_arcsec = planes.profiles[0].fwhm_px() * planes.scale_arcsec;
    let infrared_share = planes.planes.iter().map(|p| p.star.infrared_share()).fold(0.0, f64::max);
    let mut out = StarSizes {
        fwhm_arcsec,
        v_mag: TOLD_V_MAG,
        shown_arcsec,
        rgb_arcsec: if rgb.windows(2).all(|w| w[0] == w[1]) { Vec::new() } else { rgb },
        infrared_share,
        infrared_fwhm_arcsec: infrared_fwhm_arcsec(&c.optics, fwhm_arcsec),
        text: String::new(),
    };
    let against = first.map_or(String::new(), |first| beside(&out, first, view));
    out.text = format!(
        "A star of V {TOLD_V_MAG:.0} stands {shown_arcsec:.0}″ wide at this stretch; the FWHM of all \
         is {fwhm_arcsec:.1}″.{}{against}{}",
        rings(&out.rgb_arcsec),
        infrared(&out)
    );
    out
}

/// Whether stars wear coloured rings.
fn rings(rgb: &[f64]) -> String {
    let [r, g, b] = rgb else { return String::new() };
    let (most, least) = (r.max(*g).max(*b), r.min(*g).min(*b));
    if most < SAME * least {
        return String::new();
    }
    let wide = [r, g, b].map(|w| *w * SAME > most);
    let colour = match wide {
        [true, false, false] => "red",
        [false, true, false] => "green",
        [false, false, true] => "blue",
        [true, true, false] => "yellow",
        [false, true, true] => "teal",
        _ => "magenta",
    };
    format!(" Bright ones wear a {colour} ring {:.0}″ wider than their core.", most - least)
}

/// What "tighter stars" beside the first path are.
fn beside(own: &StarSizes, first: &StarSizes, view: &LookView) -> String {
    let ratio = own.shown_arcsec / first.shown_arcsec.max(1e-9);
    let sharp = own.fwhm_arcsec / first.fwhm_arcsec;
    if (1.0 / SAME..SAME).contains(&ratio) {
        return String::new();
    }
    let (looks, less) = if ratio < 1.0 { ("smaller", "less") } else { ("larger", "more") };
    let looks = if ratio > 1.6 {
        format!("{ratio:.1} times as wide as")
    } else {
        format!("{:.0} % {looks} than", (100.0 * (ratio - 1.0)).abs())
    };
    if (1.0 / SAME..SAME).contains(&sharp) {
        let why = match view.matched {
            Match::Background => format!("{less} starlight for the same target"),
            Match::Exposure => format!("{less} light at the same brightness of screen"),
        };
        format!(" They look {looks} in A and are as sharp: {why} shows {less} of their wings.")
    } else {
        format!(" They stand {looks} in A.")
    }
}

fn infrared(own: &StarSizes) -> String {
    if own.infrared_share < LEAST_INFRARED {
        return String::new();
    }
    let percent = 100.0 * own.infrared_share;
    let bloats = if own.infrared_fwhm_arcsec > 1.2 * own.fwhm_arcsec {
        format!(
            "a lens leaves it out of focus, {:.0}″ wide, and it washes out colour",
            own.infrared_fwhm_arcsec
        )
    } else {
        "it washes out colour".to_owned()
    };
    format!(
        " {percent:.0} % of a star's light lies beyond {INFRARED_NM:.0} nm: {bloats}. A UV-IR cut \
         keeps it out."
    )
}
