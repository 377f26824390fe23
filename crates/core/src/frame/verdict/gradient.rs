//! The slope of the background, and who makes it: the moon, the glow over the horizon, or that of
//! the site's towns.

use crate::frame::verdict::answer::{Sentence, Standing, figure, sentence};
use crate::frame::verdict::seen::Seen;
use crate::night::ephemeris::{Direction, Ephemeris};
use crate::path::sky::artificial::lamp_growth;
use crate::scenario::sky::Sky;

/// A weaker slope is no gradient worth a word, per cent of the sky.
const WEAK: f64 = 3.0;
/// A stronger one is worth a look.
const STRONG: f64 = 25.0;
/// The slope points at what makes it within this, degrees.
const NEAR_DEG: f64 = 40.0;

/// Something that may make a slope, and where it lies in the frame, degrees clockwise from the top.
struct Maker {
    name: &'static str,
    toward_deg: f64,
}

/// The slope and its likely maker.
pub(super) fn slope(v: &Seen) -> Sentence {
    let own = v.own;
    // Of the sky alone: the offset is no light.
    let over = (own.level_adu - v.offset_adu).max(1e-9);
    let percent = own.slope_percent * own.level_adu / over;
    let toward = own.slope_toward_deg;
    let makers = makers(v);
    let mut figures = vec![
        figure("Brightest over darkest corner", format!("{percent:.1} % of the sky")),
        figure("Brighter towards", format!("{toward:.0}° from the top")),
    ];
    for m in &makers {
        figures.push(figure(m.name, format!("towards {:.0}° from the top", m.toward_deg)));
    }
    if !(WEAK..).contains(&percent) {
        let text = format!("The background is even: {percent:.1} % from corner to corner.");
        return sentence("gradient", Standing::Good, text, figures);
    }
    let apart = |m: &Maker| ((m.toward_deg - toward + 180.0).rem_euclid(360.0) - 180.0).abs();
    let nearest = makers.iter().min_by(|a, b| apart(a).total_cmp(&apart(b)));
    let who = match nearest {
        Some(m) if apart(m) <= NEAR_DEG => format!(", where {} lies", m.name.to_lowercase()),
        Some(_) => ", where neither moon nor glow lies: light in the tube, a flat that is \
            missing, a lamp nearby, or the nebula itself"
            .to_owned(),
        None => "; who makes it needs the frame's place, time and angle".to_owned(),
    };
    let text = format!("The sky rises by {percent:.0} % towards {toward:.0}° from the top{who}.");
    let standing = if percent > STRONG { Standing::Look } else { Standing::Good };
    sentence("gradient", standing, text, figures)
}

/// Moon and horizon in the frame, where place, time and angle are known.
fn makers(v: &Seen) -> Vec<Maker> {
    let h = &v.taken.frame.read.header;
    let (Some(ra_deg), Some(dec_deg), Some(angle), Some(site), Some(t)) =
        (h.ra_deg, h.dec_deg, h.position_angle_deg, v.taken.site, v.taken.start_s)
    else {
        return Vec::new();
    };
    Ephemeris::new(site, t - 3600.0, t + 3600.0)
        .map(|e| makers_at((&e, t), &v.scenario.sky, Direction { ra_deg, dec_deg }, angle))
        .unwrap_or_default()
}

/// Moon, horizon and the site's glow in a frame whose upward side has a position angle, degrees.
fn makers_at(
    (e, t): (&Ephemeris, f64),
    sky: &Sky,
    middle: Direction,
    angle_deg: f64,
) -> Vec<Maker> {
    // All in the frame of date, and counted from the pole as the catalogue has it.
    let fixed = e.fixed(&middle.vector(), t);
    let pole = position_angle_deg(&fixed, &e.fixed(&[0.0, 0.0, 1.0], t));
    // In an unmirrored picture position angles grow counter-clockwise.
    let placed = |toward: [f64; 3]| {
        (angle_deg - (position_angle_deg(&fixed, &toward) - pole)).rem_euclid(360.0)
    };
    let down = e.zenith(t).map(|x| -x);
    let moon = e.moon(t);
    let mut out = vec![Maker { name: "The horizon", toward_deg: placed(down) }];
    if !sky.glow.is_empty() {
        let toward_deg = placed(toward_glow(e, sky, &fixed, t));
        out.push(Maker { name: "The site's glow", toward_deg });
    }
    if e.altitude_deg(&moon, t) > 0.0 {
        out.push(Maker { name: "The moon", toward_deg: placed(moon) });
    }
    out
}

/// Where lamp light rises fastest from a direction of the frame of date: down, and aside towards
/// the town. The differences of its growth over a degree of altitude and of azimuth.
fn toward_glow(e: &Ephemeris, sky: &Sky, from: &[f64; 3], t: f64) -> [f64; 3] {
    const STEP_DEG: f64 = 1.0;
    let (altitude, azimuth) = (e.altitude_deg(from, t), e.azimuth_deg(from, t));
    let light =
        |up: f64, right: f64| lamp_growth(altitude + up, sky.glow_at(Some(azimuth + right)));
    let up = light(STEP_DEG, 0.0) - light(-STEP_DEG, 0.0);
    // A degree of azimuth is the shorter the higher it stands.
    let flat = altitude.to_radians().cos().max(0.01);
    let right = (light(0.0, STEP_DEG) - light(0.0, -STEP_DEG)) / flat;
    let long = up.hypot(right).max(1e-12);
    e.toward(azimuth + STEP_DEG * right / long / flat, altitude + STEP_DEG * up / long, t)
}

/// Position angle at `from` of the way to `to`, degrees from north through east.
fn position_angle_deg(from: &[f64; 3], to: &[f64; 3]) -> f64 {
    // East and north at the place.
    let flat = from[0].hypot(from[1]).max(1e-12);
    let east = [-from[1] / flat, from[0] / flat, 0.0];
    let north = [
        from[1] * east[2] - from[2] * east[1],
        from[2] * east[0] - from[0] * east[2],
        from[0] * east[1] - from[1] * east[0],
    ];
    let dot = |a: &[f64; 3]| a[0] * to[0] + a[1] * to[1] + a[2] * to[2];
    dot(&east).atan2(dot(&north)).to_degrees()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::night::ephemeris::Place;

    fn apart(a: f64, b: f64) -> f64 {
        ((a - b + 180.0).rem_euclid(360.0) - 180.0).abs()
    }

    /// In the south at its highest a target has the horizon beneath it where north is up, to the left
    /// where east is up, and above where south is.
    #[test]
    fn the_horizon_lies_south_of_what_stands_in_the_south() {
        let place = Place { latitude_deg: 46.35, longitude_deg: -72.55, height_m: 30.0 };
        let middle = Direction { ra_deg: 94.25, dec_deg: 22.57 };
        // The night of 10 January 2027, noon to noon.
        let from = 1_799_600_400.0;
        let e = Ephemeris::new(place, from, from + 86_400.0).expect("a place");
        let off_south = |t: f64| apart(e.azimuth_deg(&e.fixed(&middle.vector(), t), t), 180.0);
        let times = (0..1440).map(|i| from + 60.0 * f64::from(i));
        let t = times.min_by(|a, b| off_south(*a).total_cmp(&off_south(*b))).expect("minutes");
        assert!(off_south(t) < 1.0);
        for (angle, wanted) in [(0.0, 180.0), (90.0, 270.0), (180.0, 0.0), (-90.0, 90.0)] {
            let horizon = &makers_at((&e, t), &Sky::suburb(), middle, angle)[0];
            assert!(apart(horizon.toward_deg, wanted) < 2.0, "{angle}: {}", horizon.toward_deg);
        }
        // A town in the east draws the rise to the left of what stands in the south, north up; the
        // same glow all around leaves it with the horizon.
        let glow = |glow| Sky { glow, ..Sky::suburb() };
        let town = glow(vec![[0.0, 1.0], [90.0, 8.0], [180.0, 1.0], [270.0, 1.0]]);
        let toward = |sky: &Sky| makers_at((&e, t), sky, middle, 0.0)[1].toward_deg;
        assert!((190.0..270.0).contains(&toward(&town)), "{}", toward(&town));
        let mirrored = glow(vec![[0.0, 1.0], [90.0, 1.0], [180.0, 1.0], [270.0, 8.0]]);
        assert!((90.0..170.0).contains(&toward(&mirrored)), "{}", toward(&mirrored));
        let even = glow(vec![[0.0, 2.0], [180.0, 2.0]]);
        assert!(apart(toward(&even), 180.0) < 2.0, "{}", toward(&even));
    }

    /// North, east and what lies between.
    #[test]
    fn position_angles_count_from_north_through_east() {
        let at = |ra_deg, dec_deg| Direction { ra_deg, dec_deg }.vector();
        let from = at(100.0, 10.0);
        for (to, wanted) in
            [(at(100.0, 11.0), 0.0), (at(101.0, 10.1), 90.0), (at(100.0, 9.0), 180.0)]
        {
            let angle = position_angle_deg(&from, &to);
            assert!(apart(angle, wanted) < 6.0, "{angle}, not {wanted}");
        }
    }
}
