//! Halos where they are: the stars that really stand on the sensor, and the rings that show around
//! them at the stretch of the picture.

use serde::Serialize;
use utoipa::ToSchema;

use crate::library::stars::{CatalogueStar, Stars};
use crate::light::units::temperature_from_b_v;
use crate::look::ghost::Between;
use crate::look::planes::Planes;
use crate::look::real_stars::{StarOnSensor, on_sensor};
use crate::look::shown::Shown;
use crate::look::star_words::{across, called, v_mag};
use crate::look::view::LookView;
use crate::scenario::document::Scenario;
use crate::scenario::rig::Contender;
use crate::wording::capital;

/// Stars with their rings in an answer, at most.
const MOST: usize = 8;

/// A ring that shows.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Ring {
    /// Index of the exposure in whose light it stands.
    pub exposure: usize,
    /// Between which faces its light goes back and forth.
    pub between: Between,
    /// Outer diameter, arcsec.
    pub diameter_arcsec: f64,
}

/// A star of the field whose rings show.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct StarHalo {
    /// The star.
    pub star: CatalogueStar,
    /// Where it stands, arcsec to the right and up of where the rig looks.
    #[schema(value_type = Vec<f64>)]
    pub at_arcsec: [f64; 2],
    /// Whether it stands in the crop.
    pub in_crop: bool,
    /// Its rings, from the smallest to the largest.
    pub rings: Vec<Ring>,
}

/// What the stars of the field show of the ghosts, at the stretch of the picture.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Halos {
    /// Stars brighter than this show a ring, V mag; null where none ever would.
    pub from_v_mag: Option<f64>,
    /// The stars on the sensor that do, brightest first; empty where it is not known where the rig
    /// looks.
    pub stars: Vec<StarHalo>,
    /// In a sentence.
    pub text: String,
    /// In a few words.
    pub short: String,
}

/// The bright stars on a contender's sensor; `None` where it is not known where it looks.
pub(super) fn sensor_stars(
    stars: &Stars,
    s: &Scenario,
    c: &Contender,
) -> Option<Vec<StarOnSensor>> {
    let at = s.pointing()?;
    Some(on_sensor(stars, &at, &c.optics, &c.sensor))
}

/// Which of the stars show rings.
pub(super) fn halos(
    shown: &Shown,
    planes: &Planes,
    c: &Contender,
    (stars, view): (Option<&[StarOnSensor]>, &LookView),
) -> Halos {
    // From which magnitude each ghost shows, a sunlike star's.
    let thresholds: Vec<(Ring, f64)> = planes
        .ghosts
        .iter()
        .enumerate()
        .flat_map(|(exposure, all)| all.iter().map(move |g| (exposure, g)))
        .filter_map(|(exposure, g)| {
            let from = shown.ring_from_v_mag(exposure, g.share / g.area_px())?;
            let ring = Ring { exposure, between: g.between, diameter_arcsec: g.diameter_arcsec };
            Some((ring, from))
        })
        .collect();
    let from_v_mag = thresholds.iter().map(|t| t.1).max_by(f64::total_cmp);
    let middle = [c.sensor.columns, c.sensor.rows].map(|n| f64::from(n) / 2.0);
    let scale = c.optics.pixel_scale_arcsec(c.sensor.pixel_um);
    let half = view.field_arcsec / 2.0;
    let of = |s: &StarOnSensor| {
        let mut rings: Vec<Ring> = thresholds
            .iter()
            .filter(|(ring, from)| as_seen(&s.star, planes, ring.exposure) < *from)
            .map(|(ring, _)| ring.clone())
            .collect();
        rings.sort_by(|a, b| a.diameter_arcsec.total_cmp(&b.diameter_arcsec));
        let at_arcsec = [(s.x_px - middle[0]) * scale, (s.y_px - middle[1]) * scale];
        let in_crop = (0..2).all(|k| (at_arcsec[k] - view.at_arcsec()[k]).abs() <= half);
        (!rings.is_empty()).then(|| StarHalo { star: s.star.clone(), at_arcsec, in_crop, rings })
    };
    let found: Vec<StarHalo> = stars.unwrap_or_default().iter().filter_map(of).collect();
    let brightest = stars.and_then(|all| all.first()).map(|s| &s.star);
    let (text, short) = words(from_v_mag, &found, stars.is_some(), brightest);
    Halos { from_v_mag, stars: found.into_iter().take(MOST).collect(), text, short }
}

/// The magnitude of the sunlike star that gives an exposure as much light, V mag.
fn as_seen(star: &CatalogueStar, planes: &Planes, exposure: usize) -> f64 {
    let own = planes.planes.iter().filter(|p| p.exposure == exposure);
    let brightest = own.max_by(|a, b| a.rates.star_v0.total_cmp(&b.rates.star_v0));
    let factor =
        star.b_v.zip(brightest).map_or(1.0, |(b_v, p)| p.star.all_of(temperature_from_b_v(b_v)));
    star.v_mag - 2.5 * factor.log10()
}

/// How wide rings are that stand around one star, the same ones in several filters told once.
fn widths(rings: &[Ring]) -> (usize, String) {
    let mut all: Vec<f64> = Vec::new();
    for r in rings {
        if all.last().is_none_or(|last| r.diameter_arcsec > last * 1.02) {
            all.push(r.diameter_arcsec);
        }
    }
    let told = match all[..] {
        [] => String::new(),
        [one] => across(one),
        [first, .., last] => format!("{} to {}", across(first), across(last)),
    };
    (all.len(), told)
}

fn words(
    from_v_mag: Option<f64>,
    found: &[StarHalo],
    place_known: bool,
    brightest: Option<&CatalogueStar>,
) -> (String, String) {
    let Some(from) = from_v_mag else {
        return (
            "Nothing throws light back and forth before this sensor.".into(),
            "no halos".into(),
        );
    };
    let takes = format!("it takes a star of V {}", v_mag(from));
    let Some(first) = found.first() else {
        return match (place_known, brightest) {
            (false, _) => (
                format!(
                    "Where the rig looks is not known, so no real star stands in the picture. At \
                     this stretch {takes} to grow a ring."
                ),
                format!("halos from V {}", v_mag(from)),
            ),
            (true, None) => {
                ("No star down to about V 10 stands on the sensor.".into(), "no halos".into())
            }
            (true, Some(star)) => (
                format!(
                    "No star on the sensor grows a ring at this stretch: {takes}, and the \
                     brightest is {}.",
                    called(star)
                ),
                "no halos".into(),
            ),
        };
    };
    let (count, told) = widths(&first.rings);
    let rings = if count == 1 { "a ring".to_owned() } else { format!("{count} rings") };
    let place = if first.in_crop { "" } else { ", beside this crop" };
    let more = match found.len() {
        1 => String::new(),
        2 => format!(" One more on the sensor does, from V {} on.", v_mag(from)),
        n => format!(" {} more on the sensor do, from V {} on.", n - 1, v_mag(from)),
    };
    let star = capital(&called(&first.star));
    let text = format!("{star}{place}, grows {rings} {told} wide at this stretch.{more}");
    let name = first.star.name.as_deref().unwrap_or("a bright star");
    let others =
        if found.len() > 1 { format!(" and {} more", found.len() - 1) } else { String::new() };
    (text, format!("{rings} at {name}{others}"))
}
