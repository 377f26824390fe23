//! The stars that really stand in a field: which halo, and which clip.

use serde::Serialize;
use utoipa::ToSchema;

use crate::evaluate::answer::ContenderAnswer;
use crate::library::stars::{CatalogueStar, Stars};
use crate::look::ghost::{Ghost, ghosts_of};
use crate::look::star_words::{across, called};
use crate::scenario::pointing::Pointing;
use crate::scenario::rig::{Contender, Optics, Sensor};
use crate::signal::model::LightPath;

use crate::wording::{capital, seconds};

/// A star on a sensor.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct StarOnSensor {
    /// The star.
    pub star: CatalogueStar,
    /// Pixels from the left side of the sensor.
    pub x_px: f64,
    /// Pixels from its lower side.
    pub y_px: f64,
}

/// What an exposure makes of the stars in its field.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct ExposureStars {
    /// Its filter; null for none.
    pub filter: Option<String>,
    /// Stars brighter than this clip in the sub that is kept, V mag.
    pub clips_from_v_mag: Option<f64>,
    /// How many of the field's stars clip.
    pub clipped: usize,
    /// The ghosts that bright stars throw, from the smallest to the largest.
    pub ghosts: Vec<Ghost>,
    /// Length of a sub from which the field's brightest star clips, s: its light and the clip's
    /// are as their magnitudes, the sky beneath left out of account.
    pub brightest_clips_from_s: Option<f64>,
    /// How many of the field's stars show one plainly.
    pub haloed: usize,
    /// In a sentence.
    pub text: String,
}

/// The stars on a rig's sensor, and what each exposure makes of them.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct FieldStars {
    /// Where the rig looks.
    pub at: Pointing,
    /// Width and height of its field, arcmin.
    #[schema(value_type = Vec<f64>)]
    pub size_arcmin: [f64; 2],
    /// The brightest, at most [`MOST_STARS`].
    pub stars: Vec<StarOnSensor>,
    /// How many of the catalogue stand on the sensor.
    pub count: usize,
    /// Exposure by exposure.
    pub exposures: Vec<ExposureStars>,
}

/// Stars in an answer.
pub const MOST_STARS: usize = 300;

/// All stars of the catalogue that fall on a sensor, brightest first.
pub fn on_sensor(
    stars: &Stars,
    at: &Pointing,
    optics: &Optics,
    sensor: &Sensor,
) -> Vec<StarOnSensor> {
    let radius_deg = Pointing::radius_deg(optics, sensor);
    let (columns, rows) = (f64::from(sensor.columns), f64::from(sensor.rows));
    stars
        .around(at.ra_deg, at.dec_deg, radius_deg, f64::INFINITY)
        .into_iter()
        .filter_map(|star| {
            let [x_px, y_px] = at.on_sensor(optics, sensor, star.ra_deg, star.dec_deg)?;
            let inside = (0.0..columns).contains(&x_px) && (0.0..rows).contains(&y_px);
            inside.then_some(StarOnSensor { star, x_px, y_px })
        })
        .collect()
}

/// The stars of a contender's field and what its exposures make of them; `gap_mm` is the way from
/// filter to sensor where the rig states none.
pub fn field_stars(
    stars: &Stars,
    at: &Pointing,
    c: &Contender,
    (path, answer): (&LightPath, &ContenderAnswer),
    (gap_mm, total_s): (f64, f64),
) -> FieldStars {
    let mut found = on_sensor(stars, at, &c.optics, &c.sensor);
    let exposures = c
        .exposures
        .iter()
        .enumerate()
        .map(|(i, e)| {
            let ghosts = ghosts_of(c, (i, &path.exposures[i]), gap_mm, total_s);
            let plain = ghosts.iter().map(|g| g.plain_from_v_mag).max_by(f64::total_cmp);
            let clips_from_v_mag = answer.exposures[i]
                .channels
                .iter()
                .filter_map(|c| c.clip_star_v_mag)
                .max_by(f64::total_cmp);
            let brighter = |than: Option<f64>| {
                than.map_or(0, |mag| found.iter().filter(|s| s.star.v_mag < mag).count())
            };
            let shorter = |mag: f64| {
                let star = found.first()?;
                Some(e.sub_s * 10f64.powf(0.4 * (star.star.v_mag - mag)))
            };
            let mut out = ExposureStars {
                brightest_clips_from_s: clips_from_v_mag.and_then(shorter),
                filter: e.filter.as_ref().map(|f| f.name.clone()),
                clipped: brighter(clips_from_v_mag),
                clips_from_v_mag,
                haloed: brighter(plain),
                ghosts,
                text: String::new(),
            };
            out.text = words(&out, found.first().map(|s| &s.star), e.sub_s);
            out
        })
        .collect();
    let count = found.len();
    found.truncate(MOST_STARS);
    let arcmin = c.optics.pixel_scale_arcsec(c.sensor.pixel_um) / 60.0;
    FieldStars {
        at: *at,
        size_arcmin: [c.sensor.columns, c.sensor.rows].map(|n| f64::from(n) * arcmin),
        stars: found,
        count,
        exposures,
    }
}

fn words(e: &ExposureStars, brightest: Option<&CatalogueStar>, sub_s: f64) -> String {
    let Some(brightest) = brightest else {
        return "No star down to about V 10 stands on the sensor.".into();
    };
    let plain: Vec<&Ghost> =
        e.ghosts.iter().filter(|g| brightest.v_mag < g.plain_from_v_mag).collect();
    let rings = match plain[..] {
        [] => String::new(),
        [one] => format!("a halo {} wide", across(one.diameter_arcsec)),
        [first, .., last] => format!(
            "{} halos {} to {} wide",
            plain.len(),
            across(first.diameter_arcsec),
            across(last.diameter_arcsec)
        ),
    };
    let halo = match e.haloed {
        0 => format!("No halo shows plainly: the brightest is {}. ", called(brightest)),
        1 => format!("{} grows {rings}. ", called(brightest)),
        n => format!("{n} stars grow halos; {}, the brightest, {rings}. ", called(brightest)),
    };
    let clip = match (e.clips_from_v_mag, e.clipped) {
        (_, 0) => "No star of the catalogue clips".to_owned(),
        (Some(mag), 1) => format!("One star clips (from V {mag:.1})"),
        (Some(mag), n) => format!("{n} stars clip (from V {mag:.1})"),
        (None, _) => String::new(),
    };
    let already = match e.brightest_clips_from_s {
        Some(s) if e.clipped > 0 => format!(", the brightest from {} on", seconds(s)),
        _ => String::new(),
    };
    capital(&format!("{halo}{clip} in {}{already}.", seconds(sub_s)))
}
