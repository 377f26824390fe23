//! Local dates and clocks: IANA zones, shipped with the program.

use crate::Problem;
use jiff::civil::Date;
use jiff::tz::{Offset, TimeZone};
use salt_lamp_core::FieldError;
use salt_lamp_core::night::LocalClock;

/// A local day from noon to noon.
#[derive(Clone, Debug)]
pub(crate) struct LocalNight {
    /// Noon of the evening's date, seconds since 1970 UTC.
    pub from_s: f64,
    /// Noon of the next day.
    pub to_s: f64,
    /// Offsets from UTC over the night: a change of clocks gives two.
    pub clock: LocalClock,
}

fn wrong(path: &str, message: String) -> FieldError {
    FieldError { path: path.to_owned(), message }
}

/// The zone of a name, or that of a longitude's own time where there is none.
pub(crate) fn zone(name: Option<&str>, longitude_deg: f64) -> Result<TimeZone, FieldError> {
    match name {
        Some(name) if !name.trim().is_empty() => TimeZone::get(name).map_err(|_| {
            wrong(
                "zone",
                format!(
                    "\"{name}\" is no time zone of the IANA database; \
                give one such as \"America/Toronto\""
                ),
            )
        }),
        _ => {
            let hours = (longitude_deg / 15.0).round() as i8;
            Ok(TimeZone::fixed(Offset::from_hours(hours).unwrap_or(Offset::UTC)))
        }
    }
}

pub(crate) fn date(text: &str) -> Result<Date, FieldError> {
    let accepted = || {
        wrong(
            "date",
            format!("\"{text}\" is no date; give one such as 2027-01-10, between 1980 and 2090"),
        )
    };
    let date: Date = text.parse().map_err(|_| accepted())?;
    if (1980..=2090).contains(&date.year()) { Ok(date) } else { Err(accepted()) }
}

fn noon(date: Date, zone: &TimeZone) -> Result<f64, Problem> {
    Ok(zone.to_timestamp(date.at(12, 0, 0, 0)).map_err(Problem::fault)?.as_second() as f64)
}

/// The night of an evening's date.
pub(crate) fn night(on: Date, zone: &TimeZone) -> Result<LocalNight, Problem> {
    let next = on.tomorrow().map_err(Problem::fault)?;
    let (from_s, to_s) = (noon(on, zone)?, noon(next, zone)?);
    // Sampled every quarter of an hour: clocks change on such marks everywhere.
    let mut offsets: Vec<(f64, f64)> = Vec::new();
    let mut t = from_s;
    while t <= to_s {
        let stamp = jiff::Timestamp::from_second(t as i64).map_err(Problem::fault)?;
        let offset = f64::from(zone.to_offset(stamp).seconds());
        if offsets.last().is_none_or(|o| o.1 != offset) {
            offsets.push((t, offset));
        }
        t += 900.0;
    }
    Ok(LocalNight { from_s, to_s, clock: LocalClock(offsets) })
}

/// Local noons of a number of days from a date.
pub(crate) fn noons(from: Date, days: usize, zone: &TimeZone) -> Result<Vec<(Date, f64)>, Problem> {
    from.series(jiff::Span::new().days(1)).take(days).map(|d| Ok((d, noon(d, zone)?))).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_night_with_a_change_of_clocks_has_25_hours_or_23() {
        let zone = zone(Some("America/Toronto"), -72.5).unwrap();
        let hours = |d: &str| {
            let n = night(date(d).unwrap(), &zone).unwrap();
            ((n.to_s - n.from_s) / 3600.0, n.clock.0.len())
        };
        assert_eq!(hours("2026-10-31"), (25.0, 2));
        assert_eq!(hours("2027-03-13"), (23.0, 2));
        assert_eq!(hours("2027-01-10"), (24.0, 1));
        let back = night(date("2026-10-31").unwrap(), &zone).unwrap();
        // 05:30 UTC is 01:30 summer time; an hour later it is 01:30 again.
        let half_past_five = 1_793_511_000.0;
        assert_eq!(
            (back.clock.hm(half_past_five), back.clock.hm(half_past_five + 3600.0)),
            ("01:30".into(), "01:30".into())
        );
    }

    #[test]
    fn wrong_zones_and_dates_are_named() {
        assert_eq!(zone(Some("Mars/Olympus"), 0.0).unwrap_err().path, "zone");
        assert_eq!(date("2027-02-30").unwrap_err().path, "date");
        assert!(date("2028-02-29").is_ok());
    }
}
