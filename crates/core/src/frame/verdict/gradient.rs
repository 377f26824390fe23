//! The slope of the background, and who makes it: the moon, or the glow over the horizon.

use crate::frame::verdict::answer::{Sentence, Standing, figure, sentence};
use crate::frame::verdict::seen::Seen;
use crate::night::ephemeris::{Direction, Ephemeris};

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
        Some(_) => ", where neither moon nor horizon lies: light in the tube, a flat that is \
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
    let Ok(e) = Ephemeris::new(site, t - 3600.0, t + 3600.0) else { return Vec::new() };
    let middle = Direction { ra_deg, dec_deg }.vector();
    let fixed = e.fixed(&middle, t);
    let down = e.zenith(t).map(|x| -x);
    let of_date = |toward: [f64; 3]| {
        // Both in the frame of date; the turn between the frames is the same for all.
        let off = position_angle_deg(&fixed, &toward);
        let pole = position_angle_deg(&fixed, &e.fixed(&[0.0, 0.0, 1.0], t));
        off - pole
    };
    // In an unmirrored picture position angles grow counter-clockwise.
    let placed = |toward: [f64; 3]| (angle - of_date(toward)).rem_euclid(360.0);
    let moon = e.moon(t);
    let mut out = vec![Maker { name: "The horizon", toward_deg: placed(down) }];
    if e.altitude_deg(&moon, t) > 0.0 {
        out.push(Maker { name: "The moon", toward_deg: placed(moon) });
    }
    out
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
