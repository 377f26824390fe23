//! A night against those of the month ahead.

use jiff::tz::TimeZone;
use salt_lamp_core::night::{
    Direction, NIGHTS_AHEAD, NightAhead, NightEvents, NightRig, Place, year_view,
};
use salt_lamp_core::scenario::NightLimits;

use crate::Problem;
use crate::http::blocking::Threads;
use crate::http::zones::{date, noons};

/// An evening at a place.
pub(super) struct Evening<'a> {
    pub place: Place,
    /// Its date, such as 2027-01-10.
    pub date: &'a str,
    pub zone: TimeZone,
    pub limits: &'a NightLimits,
}

/// Compares a target's night with those of the month that follows it.
pub(super) fn ahead(
    evening: &Evening,
    at: Direction,
    (events, rig, filters): (&NightEvents, &NightRig, &[String]),
    threads: &Threads,
) -> Result<NightAhead, Problem> {
    let from = date(evening.date).map_err(|e| Problem::fields(vec![e]))?;
    let days = noons(from, NIGHTS_AHEAD + 1, &evening.zone)?;
    let noons_s: Vec<f64> = days.iter().map(|d| d.1).collect();
    let seen = year_view(evening.place, &noons_s, at, evening.limits, Some(rig), threads)?.nights;
    let dates: Vec<String> =
        days[1..].iter().map(|(d, _)| d.strftime("%-d %B").to_string()).collect();
    Ok(NightAhead::new(events, (&seen[0], &seen[1..]), filters, &dates))
}
