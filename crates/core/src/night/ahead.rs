//! A night against those ahead: what it costs to go out now instead of later in the month.
//!
//! Judged by how fast each filter gathers information while the target may be seen, not by how long
//! that is: a short night is no slow one.

use serde::Serialize;
use utoipa::ToSchema;

use crate::night::calendar::CalendarNight;
use crate::night::view::NightEvents;

/// Nights ahead that count: a month, so that a new moon is among them.
pub const NIGHTS_AHEAD: usize = 30;

/// A night that takes more than so many times as long says so first (common practice, no source).
const SLOW: f64 = 2.0;

/// A night with fewer hours for the target is no night to compare with.
const LEAST_H: f64 = 1.0;

/// Below this share of moonless time the moon is what makes a night slow.
const MOONLIT: f64 = 0.7;

/// A night against those ahead.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct NightAhead {
    /// How many times as long as on a typical night ahead each exposure takes for the same; null
    /// where either gathers nothing.
    pub times: Vec<Option<f64>>,
    /// The best of the nights ahead for all of them together, as their evening's date; null where
    /// none gathers anything.
    pub best_date: Option<String>,
    /// In a sentence or two, where this night is slow through any of them; null where it is as good
    /// as others.
    pub text: Option<String>,
}

/// Squared signal to noise that an exposure gathers in an hour of a night.
fn per_h(n: &CalendarNight, exposure: usize) -> Option<f64> {
    let rate = n.gathered[exposure] / n.usable_h;
    (n.usable_h >= LEAST_H && rate > 0.0).then_some(rate)
}

/// How many times as long as on a typical night ahead (their median) each exposure takes tonight.
fn times(tonight: &CalendarNight, ahead: &[CalendarNight]) -> Vec<Option<f64>> {
    let one = |x: usize| {
        let mut rates: Vec<f64> = ahead.iter().filter_map(|n| per_h(n, x)).collect();
        rates.sort_by(f64::total_cmp);
        let typical = rates.get(rates.len() / 2)?;
        Some(typical / per_h(tonight, x)?)
    };
    (0..tonight.gathered.len()).map(one).collect()
}

/// The night ahead that gathers most, each exposure against its own best.
fn best(ahead: &[CalendarNight], exposures: usize) -> Option<usize> {
    let most = |x: usize| ahead.iter().map(|n| n.gathered[x]).fold(0.0, f64::max);
    let tops: Vec<f64> = (0..exposures).map(most).collect();
    let worth = |n: &CalendarNight| -> f64 {
        let each = n.gathered.iter().zip(&tops).filter(|(_, top)| **top > 0.0);
        each.map(|(g, top)| g / top).sum()
    };
    (0..ahead.len())
        .filter(|i| worth(&ahead[*i]) > 0.0)
        .max_by(|a, b| worth(&ahead[*a]).total_cmp(&worth(&ahead[*b])))
}

impl NightAhead {
    /// Compares a night with those ahead; `filters` are the names of the exposures, `dates` the
    /// evenings of the nights ahead as people say them.
    pub fn new(
        events: &NightEvents,
        (tonight, ahead): (&CalendarNight, &[CalendarNight]),
        filters: &[String],
        dates: &[String],
    ) -> Self {
        let times = times(tonight, ahead);
        let best_date =
            best(ahead, filters.len()).and_then(|i| dates.get(i)).map(ToOwned::to_owned);
        let text = words(events, &times, filters, best_date.as_deref());
        Self { times, best_date, text }
    }
}

/// Times as people say them.
fn told(times: f64) -> String {
    if times < 3.0 { format!("{times:.1}") } else { format!("{times:.0}") }
}

fn words(
    events: &NightEvents,
    times: &[Option<f64>],
    filters: &[String],
    best_date: Option<&str>,
) -> Option<String> {
    let named: Vec<(&str, f64)> =
        filters.iter().zip(times).filter_map(|(f, t)| Some((f.as_str(), (*t)?))).collect();
    let (slow, good): (Vec<_>, Vec<_>) = named.into_iter().partition(|(_, t)| *t > SLOW);
    if slow.is_empty() {
        return None;
    }
    let why = if events.moonless < MOONLIT {
        format!("The moon is {:.0}\u{b0} away", events.moon_distance_deg)
    } else {
        "The target stands low".to_owned()
    };
    let list = |all: &[(&str, f64)]| {
        let each: Vec<String> =
            all.iter().map(|(f, t)| format!("{f} {} times", told(*t))).collect();
        each.join(", ")
    };
    let cost = match (&slow[..], good.is_empty()) {
        ([(_, t)], true) => format!("takes {} times as long", told(*t)),
        (all, true) => format!("everything takes longer, {} as long", list(all)),
        (all, false) => format!("{} as long", list(all)),
    };
    let instead = match &good[..] {
        [] => String::new(),
        some => {
            let names: Vec<&str> = some.iter().map(|g| g.0).collect();
            format!(" Tonight is good for {} alone.", names.join(" and "))
        }
    };
    let best = best_date.map_or(String::new(), |d| format!(" Best night: {d}."));
    let subject = if slow.len() == 1 && good.is_empty() { ": this " } else { ": " };
    Some(format!("{why}{subject}{cost} as on a typical night of the month ahead.{instead}{best}"))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn night(usable_h: f64, gathered: &[f64]) -> CalendarNight {
        CalendarNight {
            noon_s: 0.0,
            dark_h: 8.0,
            usable_h,
            moonless_h: 0.0,
            moon_lit: 0.5,
            gathered: gathered.to_vec(),
            lines: Vec::new(),
        }
    }

    fn said(tonight: &CalendarNight, ahead: &[CalendarNight], moonless: f64) -> NightAhead {
        let events = NightEvents { moonless, moon_distance_deg: 9.3, ..NightEvents::default() };
        let filters = ["H-alpha 3 nm", "[O III] 3 nm"].map(ToOwned::to_owned);
        let dates: Vec<String> = (1..=ahead.len()).map(|d| format!("{d} December")).collect();
        NightAhead::new(&events, (tonight, ahead), &filters, &dates)
    }

    #[test]
    fn a_night_near_the_moon_says_what_it_costs_and_when_to_come_again() {
        // Typical nights give 8 and 4 an hour over four hours; the third is the best of both.
        let ahead =
            [night(4.0, &[32.0, 16.0]), night(4.0, &[30.0, 15.0]), night(6.0, &[50.0, 26.0])];
        let a = said(&night(4.0, &[24.0, 2.0]), &ahead, 0.0);
        assert!((a.times[0].unwrap() - 8.0 / 6.0).abs() < 1e-12);
        assert!((a.times[1].unwrap() - 4.0 / 0.5).abs() < 1e-12);
        assert_eq!(
            a.text.as_deref(),
            Some(
                "The moon is 9\u{b0} away: [O III] 3 nm 8 times as long as on a typical night of the \
                 month ahead. Tonight is good for H-alpha 3 nm alone. Best night: 3 December."
            )
        );
        let both = said(&night(4.0, &[8.0, 2.0]), &ahead, 0.0).text.expect("slow");
        assert!(
            both.contains("everything takes longer, H-alpha 3 nm 4 times, [O III] 3 nm 8 times"),
            "{both}"
        );
        let low = said(&night(4.0, &[8.0, 2.0]), &ahead, 1.0).text.expect("slow");
        assert!(low.starts_with("The target stands low: "), "{low}");
    }

    #[test]
    fn a_short_night_is_not_a_slow_one_and_a_good_one_says_nothing() {
        let ahead = vec![night(6.0, &[48.0, 24.0]); 5];
        assert_eq!(said(&night(2.0, &[16.0, 8.0]), &ahead, 0.0).text, None);
        // Twice as long is the least that is said.
        assert_eq!(said(&night(2.0, &[8.0, 8.0]), &ahead, 0.0).text, None);
        assert!(said(&night(2.0, &[7.9, 8.0]), &ahead, 0.0).text.is_some());
        // Where nothing can be gathered there is nothing to compare.
        let none = said(&night(0.5, &[4.0, 2.0]), &ahead, 0.0);
        assert_eq!((none.times, none.text), (vec![None, None], None));
        assert_eq!(said(&night(2.0, &[8.0, 8.0]), &[], 0.0).best_date, None);
    }
}
