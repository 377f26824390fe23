//! What there is to say about a crop: the colours it comes out in, the halos of the stars that
//! really stand in the field, the slope of its sky, how large its stars stand; a few words each,
//! with the sentence one step away.

use serde::Serialize;
use utoipa::ToSchema;

use crate::library::stars::Stars;
use crate::look::cast::{Cast, cast};
use crate::look::ghost::Ghost;
use crate::look::gradient::{Gradient, GradientPoint, gradient, gradient_by_distance};
use crate::look::halos::{Halos, halos, sensor_stars};
use crate::look::plane::Plane;
use crate::look::planes::Planes;
use crate::look::shown::{SLOPE_STEP, Shown};
use crate::look::stacked::Look;
use crate::look::star_size::{StarSizes, star_sizes};
use crate::look::view::LookView;

/// What there is to say about one crop.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct LookWords {
    /// Pixels across and down.
    #[schema(value_type = Vec<usize>)]
    pub size: [usize; 2],
    /// Pixel scale, arcsec.
    pub scale_arcsec: f64,
    /// What of its own time on the clock the stack holds, s; 0 for one sub.
    pub stacked_s: f64,
    /// Subs of each exposure in the stack.
    pub subs: Vec<u32>,
    /// The caption, in a few words.
    pub caption: String,
    /// Colours of background and target.
    pub cast: Cast,
    /// Ghosts of each exposure, from the smallest to the largest.
    pub ghosts: Vec<Vec<Ghost>>,
    /// Which stars of the field show them.
    pub halos: Halos,
    /// The steepest slope of its channels.
    pub gradient: Option<Gradient>,
    /// What the slope of all of them makes between the sensor's corners on the screen, 0-1.
    pub gradient_step: f64,
    /// That slope against the distance from the moon; empty without a moon.
    pub gradient_by_distance: Vec<GradientPoint>,
    /// In a sentence.
    pub gradient_text: String,
    /// How large its stars stand.
    pub stars: StarSizes,
}

impl Look {
    /// What there is to say about every crop.
    pub fn words(&self, view: &LookView) -> Vec<LookWords> {
        let s = self.scenario();
        let white = self.white(view);
        // A name that cannot be read leaves a star without one; a test reads them all.
        let stars = Stars::shipped().unwrap_or_else(|_| Stars::nameless());
        let mut out: Vec<LookWords> = Vec::new();
        for (i, planes) in self.contenders.iter().enumerate() {
            let c = &s.contenders[i];
            let colours = planes.colours(view.palette, view.single);
            let noise = self.noise_e_per_s(i, view.time_fraction);
            let shown = Shown::new(planes, &colours, view, white, noise);
            let square = (s.detail_arcsec / planes.scale_arcsec).powi(2);
            let sides: Vec<(&Plane, Gradient)> = planes
                .planes
                .iter()
                .map(|p| (p, gradient(s, c, p.exposure, p.seen(square))))
                .collect();
            let step = slope_step(&shown, planes, &sides);
            let steepest =
                sides.into_iter().max_by(|a, b| a.1.over_noise.total_cmp(&b.1.over_noise));
            let by_distance = steepest.as_ref().map_or(Vec::new(), |(p, _)| {
                gradient_by_distance(s, c, p.exposure, p.seen(square))
            });
            let steepest = steepest.map(|(_, g)| g);
            let cast = cast(&colours, view.palette, &s.target);
            let halos = halos(&shown, planes, c, (sensor_stars(&stars, s, c).as_deref(), view));
            let first = out.first().map(|w| &w.stars);
            let sizes = star_sizes(&shown, planes, (c, view), first);
            let slope = slope_short(steepest.as_ref(), step);
            out.push(LookWords {
                size: planes.size,
                scale_arcsec: planes.scale_arcsec,
                stacked_s: s.clock_s(c) * view.time_fraction,
                subs: (0..c.exposures.len())
                    .map(|e| self.subs(i, e, view.time_fraction) as u32)
                    .collect(),
                caption: format!("{}; {}; {slope}", cast.short, halos.short),
                cast,
                ghosts: planes.ghosts.clone(),
                halos,
                gradient_step: step,
                gradient_text: steepest.as_ref().map_or(String::new(), |g| gradient_words(g, step)),
                gradient: steepest,
                gradient_by_distance: by_distance,
                stars: sizes,
            });
        }
        out
    }
}

/// What the slopes of all planes make between the sensor's corners on the screen, 0-1.
fn slope_step(shown: &Shown, planes: &Planes, sides: &[(&Plane, Gradient)]) -> f64 {
    let half = |i: usize| {
        let (p, g) = &sides[i];
        g.percent / 200.0 * (p.rates.background() + p.rates.dark)
    };
    debug_assert_eq!(sides.len(), planes.planes.len());
    shown.brightness_step(&half) - shown.brightness_step(&|i| -half(i))
}

fn slope_short(g: Option<&Gradient>, step: f64) -> String {
    match g {
        None => "no slope".into(),
        Some(g) if step < SLOPE_STEP => format!("slope {:.1} %, not minded", g.percent),
        Some(g) => format!("slope {:.1} %, seen", g.percent),
    }
}

fn gradient_words(g: &Gradient, step: f64) -> String {
    let from = match (g.below_noise_from_deg, g.shows_again_from_deg) {
        (Some(d), None) => format!(" Below the noise from {d:.0}° off the moon."),
        (Some(d), Some(again)) => {
            format!(" Below the noise between {d:.0}° and {again:.0}° off the moon.")
        }
        (None, Some(again)) => format!(" Above the noise from {again:.0}° off the moon."),
        (None, None) => String::new(),
    };
    let shows = match (step < SLOPE_STEP, g.over_noise < 1.0) {
        (_, true) => "below the noise",
        (true, false) => "above the noise, and at this stretch nobody minds",
        (false, false) => "everybody sees it at this stretch",
    };
    format!("The sky slopes by {:.1} % across the sensor: {shows}.{from}", g.percent)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_slope_says_whether_it_is_minded_and_from_where_it_shows() {
        let of = |over_noise, below_noise_from_deg, shows_again_from_deg, step| {
            let g = Gradient {
                percent: 3.21,
                moon_percent: 3.0,
                lamps_percent: 0.2,
                over_noise,
                below_noise_from_deg,
                shows_again_from_deg,
            };
            gradient_words(&g, step)
        };
        let slopes = "The sky slopes by 3.2 % across the sensor: ";
        assert_eq!(of(0.5, None, None, 0.01), format!("{slopes}below the noise."));
        assert_eq!(
            of(1.0, None, None, 0.01),
            format!("{slopes}above the noise, and at this stretch nobody minds.")
        );
        assert_eq!(
            of(1.0, None, None, SLOPE_STEP),
            format!("{slopes}everybody sees it at this stretch.")
        );
        assert!(
            of(2.0, Some(60.0), None, 0.2)
                .ends_with("stretch. Below the noise from 60\u{b0} off the moon.")
        );
        assert!(
            of(2.0, Some(60.0), Some(110.0), 0.2)
                .ends_with(" Below the noise between 60\u{b0} and 110\u{b0} off the moon.")
        );
        assert!(
            of(2.0, None, Some(110.0), 0.2)
                .ends_with(" Above the noise from 110\u{b0} off the moon.")
        );
    }
}
