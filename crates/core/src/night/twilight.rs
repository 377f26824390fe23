//! Short nights: how bright a twilight must be allowed for an hour of work, or when the next night
//! comes that has one.

use serde::Serialize;
use utoipa::ToSchema;

use crate::night::ephemeris::{Ephemeris, EphemerisError, Place, crossings};
use crate::wording::clock;

/// Limits of the sun's altitude that are offered, degrees, the darkest first: the end of astronomical
/// twilight, the middle between, the end of nautical twilight, and bright twilight (common practice,
/// no source).
pub const OFFERED_DEG: [f64; 4] = [-18.0, -15.0, -12.0, -10.0];

/// The least time with the sun below a limit that is worth going out for, s (common practice, no
/// source).
const LEAST_S: f64 = 3600.0;

const DAY_S: f64 = 86_400.0;

/// What a night without darkness needs.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct TwilightOffer {
    /// The darkest of [`OFFERED_DEG`] below which the sun stays an hour, degrees; null where none of
    /// them has it.
    pub sun_below_deg: Option<f64>,
    /// How long it stays there, s.
    pub lasts_s: f64,
    /// The next evening that has an hour below one of the limits; null where this night has it, or
    /// where none in a year does.
    pub next_date: Option<String>,
    /// All of it in a sentence.
    pub text: String,
}

/// Seconds of a span in which the sun stands lower than a limit.
fn below_s(e: &Ephemeris, from_s: f64, to_s: f64, limit_deg: f64) -> f64 {
    let over = |t: f64| e.altitude_deg(&e.sun(t), t) - limit_deg;
    let mut edges = vec![from_s];
    edges.extend(crossings(from_s, to_s, 600.0, over).into_iter().map(|c| c.0));
    edges.push(to_s);
    let dark = |w: &&[f64]| over(f64::midpoint(w[0], w[1])) < 0.0;
    edges.windows(2).filter(dark).map(|w| w[1] - w[0]).sum()
}

/// The darkest limit that a night has for an hour, and how long it has it.
fn darkest(e: &Ephemeris, from_s: f64, to_s: f64) -> Option<(f64, f64)> {
    let lasts = OFFERED_DEG.iter().map(|&limit| (limit, below_s(e, from_s, to_s, limit)));
    lasts.into_iter().find(|(_, s)| *s >= LEAST_S)
}

/// What a night needs that has less than an hour below `limit_deg`; `None` where it has more.
/// `ahead` are the evenings to come, as people say them, with their local noons, seconds since 1970
/// UTC.
///
/// # Errors
/// Where the sun cannot be placed.
pub fn twilight_offer(
    place: Place,
    (from_s, to_s): (f64, f64),
    limit_deg: f64,
    ahead: &[(String, f64)],
) -> Result<Option<TwilightOffer>, EphemerisError> {
    let e = Ephemeris::new(place, from_s, to_s)?;
    let now_s = below_s(&e, from_s, to_s, limit_deg);
    if now_s >= LEAST_S {
        return Ok(None);
    }
    let now = if now_s < 60.0 {
        format!("The sun does not sink below {limit_deg:.0}\u{b0} tonight")
    } else {
        format!("The sun is below {limit_deg:.0}\u{b0} for only {} tonight", clock(now_s))
    };
    if let Some((sun_below_deg, lasts_s)) = darkest(&e, from_s, to_s) {
        let text = format!(
            "{now}; it stays {} below {sun_below_deg:.0}\u{b0}, in brighter twilight.",
            clock(lasts_s)
        );
        return Ok(Some(TwilightOffer {
            sun_below_deg: Some(sun_below_deg),
            lasts_s,
            next_date: None,
            text,
        }));
    }
    let mut next_date = None;
    for (date, noon_s) in ahead {
        let e = Ephemeris::new(place, *noon_s, noon_s + DAY_S)?;
        if darkest(&e, *noon_s, noon_s + DAY_S).is_some() {
            next_date = Some(date.clone());
            break;
        }
    }
    let brightest = OFFERED_DEG[OFFERED_DEG.len() - 1];
    let next = next_date.as_ref().map_or("No night in a year has one.".to_owned(), |d| {
        format!("The next night that has one is that of {d}.")
    });
    let text = format!("{now}, and not for an hour below {brightest:.0}\u{b0}. {next}");
    Ok(Some(TwilightOffer { sun_below_deg: None, lasts_s: 0.0, next_date, text }))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::night::ephemeris::unix_midnight;

    fn june(latitude_deg: f64) -> Option<TwilightOffer> {
        let place = Place { latitude_deg, longitude_deg: 0.0, height_m: 0.0 };
        let noon =
            |d: i32| unix_midnight(2027, 6, 21).expect("a date") + (f64::from(d) + 0.5) * DAY_S;
        let ahead: Vec<(String, f64)> = (1..120).map(|d| (format!("day {d}"), noon(d))).collect();
        twilight_offer(place, (noon(0), noon(1)), -18.0, &ahead).expect("a sun")
    }

    /// The sun's depth at midnight is 90 degrees less the latitude and its declination of 23.44: at
    /// 51 degrees 15.56, at 56 degrees 10.56, at 60 degrees 6.56.
    #[test]
    fn june_is_offered_what_it_has() {
        let at_51 = june(51.0).expect("no darkness");
        assert_eq!(at_51.sun_below_deg, Some(-15.0), "{at_51:?}");
        assert!((3600.0..7200.0).contains(&at_51.lasts_s), "{at_51:?}");
        assert!(
            at_51.text.starts_with("The sun does not sink below -18\u{b0} tonight; it stays 1 h")
        );
        let at_56 = june(56.0).expect("no darkness");
        assert_eq!(at_56.sun_below_deg, Some(-10.0), "{at_56:?}");
        let at_60 = june(60.0).expect("no darkness");
        assert_eq!(at_60.sun_below_deg, None, "{at_60:?}");
        // An hour below -10 asks for about 10.5 degrees of depth: a declination of 19.5 or less,
        // which the sun has from 25 July on.
        let days: i32 =
            at_60.next_date.expect("a night").trim_start_matches("day ").parse().expect("a number");
        assert!((29..=38).contains(&days), "{days}");
        assert!(
            at_60.text.contains("The next night that has one is that of day"),
            "{}",
            at_60.text
        );
        // A night that is dark needs nothing.
        assert_eq!(june(30.0), None);
        assert_eq!(june(-60.0), None);
    }
}
