//! The evening that a frame belongs to.

/// Seconds of a day.
const DAY_S: f64 = 86_400.0;

/// The evening's date of a moment, such as "2027-01-28": a night runs from one mean noon of its
/// place to the next. `unix_s` in seconds since 1970 UTC; longitude in degrees, east positive; of a
/// place that is not known, 0.
pub fn evening(unix_s: f64, longitude_deg: f64) -> String {
    let local_s = unix_s + longitude_deg / 360.0 * DAY_S;
    date(((local_s - DAY_S / 2.0) / DAY_S).floor() as i64)
}

/// The date of a day counted from 1970-01-01, in the Gregorian calendar: eras of 400 years that
/// begin in March, so that the leap day is a year's last.
fn date(day: i64) -> String {
    let day = day + 719_468;
    let era = day.div_euclid(146_097);
    let of_era = day.rem_euclid(146_097);
    let year = (of_era - of_era / 1460 + of_era / 36_524 - of_era / 146_096) / 365;
    let of_year = of_era - (365 * year + year / 4 - year / 100);
    let month = (5 * of_year + 2) / 153;
    let day = of_year - (153 * month + 2) / 5 + 1;
    let month = if month < 10 { month + 3 } else { month - 9 };
    let year = year + era * 400 + i64::from(month <= 2);
    format!("{year:04}-{month:02}-{day:02}")
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::night::ephemeris::unix_midnight;

    #[test]
    fn a_night_is_called_by_its_evening() {
        let at = |y, m, d, h: f64| unix_midnight(y, m, d).expect("a day") + h * 3600.0;
        // Larch Lane and a place on the other side of the world.
        for (unix_s, longitude_deg, told) in [
            (at(2027, 1, 28, 18.5), 8.0, "2027-01-28"),
            (at(2027, 1, 29, 4.9), 8.0, "2027-01-28"),
            (at(2027, 1, 29, 11.4), 8.0, "2027-01-28"),
            (at(2027, 1, 29, 11.6), 8.0, "2027-01-29"),
            (at(2027, 1, 28, 10.0), 150.0, "2027-01-28"),
            (at(2027, 1, 28, 20.0), 150.0, "2027-01-28"),
            (at(2027, 1, 29, 3.0), -110.0, "2027-01-28"),
        ] {
            assert_eq!(evening(unix_s, longitude_deg), told, "{unix_s} {longitude_deg}");
        }
    }

    #[test]
    fn dates_agree_with_the_calendar_of_the_ephemeris() {
        for (y, m, d) in [(1970, 1, 1), (2000, 2, 29), (2024, 2, 29), (2026, 12, 31), (2090, 3, 1)]
        {
            let noon = unix_midnight(y, m, d).expect("a day") + 13.0 * 3600.0;
            assert_eq!(evening(noon, 0.0), format!("{y:04}-{m:02}-{d:02}"));
        }
        assert_eq!(date(-1), "1969-12-31");
    }
}
