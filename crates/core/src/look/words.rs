//! What there is to say about a crop: its ghosts, the slope of its sky, the cast of its colours.

use crate::look::cast::Cast;
use crate::look::ghost::{Ghost, Gradient, GradientPoint};
use crate::look::planes::Planes;
use serde::Serialize;
use utoipa::ToSchema;

/// What there is to say about one crop.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct LookWords {
    /// Pixels across and down.
    #[schema(value_type = Vec<usize>)]
    pub size: [usize; 2],
    /// Pixel scale, arcsec.
    pub scale_arcsec: f64,
    /// Subs of each exposure in the stack.
    pub subs: Vec<u32>,
    /// Colours of background and target.
    pub cast: Cast,
    /// Ghost of each exposure; null without a filter.
    pub ghosts: Vec<Option<Ghost>>,
    /// In a sentence.
    pub ghost_text: String,
    /// The steepest slope of its channels.
    pub gradient: Option<Gradient>,
    /// That slope against the distance from the moon; empty without a moon.
    pub gradient_by_distance: Vec<GradientPoint>,
    /// In a sentence.
    pub gradient_text: String,
}

pub(crate) fn ghost_words(
    brightest: Option<&Ghost>,
    planes: &Planes,
    c: &crate::scenario::rig::Contender,
) -> String {
    let shown: Vec<(&str, &Ghost)> = c
        .exposures
        .iter()
        .zip(&planes.ghosts)
        .filter_map(|(e, g)| {
            Some((e.filter.as_ref().map_or("no filter", |f| f.name.as_str()), g.as_ref()?))
        })
        .collect();
    if shown.len() > 1 && brightest.is_some_and(|g| g.shows_from_v_mag >= 1.0) {
        let each: Vec<String> = shown
            .iter()
            .map(|(name, g)| format!("{name} from V {}", v_mag(g.shows_from_v_mag)))
            .collect();
        return format!(
            "Ghosts {:.0}″ wide ({:.0} px): {}.",
            shown[0].1.diameter_arcsec,
            shown[0].1.diameter_px,
            each.join(", ")
        );
    }
    match brightest {
        None => "No filter, no ghost of one.".into(),
        Some(g) if g.shows_from_v_mag < 1.0 => {
            format!(
                "No star is bright enough for a ghost: it would take V {}, spread over {:.0}″.",
                v_mag(g.shows_from_v_mag),
                g.diameter_arcsec
            )
        }
        Some(g) => format!(
            "Stars brighter than V {} grow a ghost {:.0}″ wide ({:.0} px).",
            v_mag(g.shows_from_v_mag),
            g.diameter_arcsec,
            g.diameter_px
        ),
    }
}

pub(crate) fn gradient_words(g: &Gradient) -> String {
    let from = match (g.below_noise_from_deg, g.shows_again_from_deg) {
        (Some(d), None) => format!(" Below the noise from {d:.0}° off the moon."),
        (Some(d), Some(again)) => {
            format!(" Below the noise between {d:.0}° and {again:.0}° off the moon.")
        }
        (None, Some(again)) => format!(" It shows from {again:.0}° off the moon."),
        (None, None) => String::new(),
    };
    let shows = if g.over_noise < 1.0 { "below the noise" } else { "it shows" };
    format!("The sky slopes by {:.1} % across the sensor: {shows}.{from}", g.percent)
}

/// A magnitude to a tenth; a star of nearly zero is "0.0", not "-0.0".
pub(crate) fn v_mag(v: f64) -> String {
    format!("{:.1}", (v * 10.0).round() / 10.0 + 0.0)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_slope_says_whether_it_shows_and_from_where() {
        let of = |over_noise, below_noise_from_deg, shows_again_from_deg| {
            gradient_words(&Gradient {
                percent: 3.21,
                moon_percent: 3.0,
                lamps_percent: 0.2,
                over_noise,
                below_noise_from_deg,
                shows_again_from_deg,
            })
        };
        assert_eq!(
            of(0.5, None, None),
            "The sky slopes by 3.2 % across the sensor: below the noise."
        );
        assert_eq!(of(1.0, None, None), "The sky slopes by 3.2 % across the sensor: it shows.");
        assert!(
            of(2.0, Some(60.0), None)
                .ends_with("it shows. Below the noise from 60\u{b0} off the moon.")
        );
        assert!(
            of(2.0, Some(60.0), Some(110.0))
                .ends_with(" Below the noise between 60\u{b0} and 110\u{b0} off the moon.")
        );
        assert!(of(2.0, None, Some(110.0)).ends_with(" It shows from 110\u{b0} off the moon."));
    }

    #[test]
    fn a_magnitude_of_nearly_zero_is_zero() {
        assert_eq!(
            (v_mag(-0.04), v_mag(0.04), v_mag(-1.26)),
            ("0.0".to_owned(), "0.0".to_owned(), "-1.3".to_owned())
        );
    }
}
