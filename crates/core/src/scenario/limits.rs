//! When a place may be observed from: how deep the sun, how high the target, what stands on the
//! horizon, and between which hours of the clock.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A time of day on the local clock, such as "20:30"; written so, too.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(try_from = "String", into = "String")]
pub struct LocalTime {
    /// Minutes after midnight, 0 to 1439.
    minutes: u16,
}

impl LocalTime {
    /// A time of day; `None` where there is no such time.
    pub fn new(hours: u16, minutes: u16) -> Option<Self> {
        (hours < 24 && minutes < 60).then_some(Self { minutes: hours * 60 + minutes })
    }

    /// When it is in a night that lasts from one local noon to the next, in the same seconds as the
    /// two. Hours of the evening are counted from the first noon and those of the morning back from
    /// the second: a night in which the clocks change has both right.
    pub fn in_night(self, noon_s: f64, next_noon_s: f64) -> f64 {
        let minutes = f64::from(self.minutes);
        if minutes >= 720.0 {
            noon_s + (minutes - 720.0) * 60.0
        } else {
            next_noon_s - (720.0 - minutes) * 60.0
        }
    }
}

impl TryFrom<String> for LocalTime {
    type Error = String;

    fn try_from(text: String) -> Result<Self, String> {
        let number = |s: &str| -> Option<u16> {
            let digits = (1..=2).contains(&s.len()) && s.bytes().all(|b| b.is_ascii_digit());
            digits.then(|| s.parse().ok()).flatten()
        };
        text.trim()
            .split_once(':')
            .filter(|(_, m)| m.len() == 2)
            .and_then(|(h, m)| Self::new(number(h)?, number(m)?))
            .ok_or_else(|| {
                format!("\"{text}\" is no time of day; give hours and minutes such as 20:30")
            })
    }
}

impl From<LocalTime> for String {
    fn from(t: LocalTime) -> Self {
        t.to_string()
    }
}

impl std::fmt::Display for LocalTime {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{:02}:{:02}", self.minutes / 60, self.minutes % 60)
    }
}

/// Limits of a night's work.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct NightLimits {
    /// The sun must stand lower than this, degrees.
    pub sun_below_deg: f64,
    /// The target must stand higher than this, degrees.
    pub altitude_above_deg: f64,
    /// Trees and roofs: pairs of azimuth and altitude, degrees, azimuths ascending; joined by
    /// straight lines around the circle.
    #[schema(value_type = Vec<Vec<f64>>)]
    pub horizon_deg: Vec<[f64; 2]>,
    /// Nothing before this time of the night; null for none.
    #[schema(value_type = Option<String>)]
    pub not_before: Option<LocalTime>,
    /// Nothing after this time of the night; null for none.
    #[schema(value_type = Option<String>)]
    pub not_after: Option<LocalTime>,
}

impl Default for NightLimits {
    fn default() -> Self {
        Self {
            sun_below_deg: -18.0,
            altitude_above_deg: 20.0,
            horizon_deg: Vec::new(),
            not_before: None,
            not_after: None,
        }
    }
}

impl NightLimits {
    /// The hours of the clock that are open in a night from one local noon to the next: from when,
    /// and until when, in the same seconds as the two.
    pub fn hours(&self, noon_s: f64, next_noon_s: f64) -> (f64, f64) {
        let at = |t: Option<LocalTime>| t.map(|t| t.in_night(noon_s, next_noon_s));
        (at(self.not_before).unwrap_or(noon_s), at(self.not_after).unwrap_or(next_noon_s))
    }

    /// How high the obstacles stand at an azimuth, degrees.
    pub fn horizon_at(&self, azimuth_deg: f64) -> f64 {
        around_the_circle(&self.horizon_deg, azimuth_deg).unwrap_or(-90.0)
    }
}

/// A table by azimuth, degrees ascending, read at an azimuth: straight lines around the circle;
/// `None` for an empty table.
pub(crate) fn around_the_circle(table: &[[f64; 2]], azimuth_deg: f64) -> Option<f64> {
    match table {
        [] => None,
        [[_, one]] => Some(*one),
        _ => {
            let n = table.len();
            let after = table.partition_point(|p| p[0] <= azimuth_deg);
            let (a, b) = (table[(after + n - 1) % n], table[after % n]);
            let span = (b[0] - a[0]).rem_euclid(360.0);
            let f = if span > 0.0 { (azimuth_deg - a[0]).rem_euclid(360.0) / span } else { 0.0 };
            Some(a[1] + (b[1] - a[1]) * f)
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn time(text: &str) -> Result<LocalTime, String> {
        LocalTime::try_from(text.to_owned())
    }

    #[test]
    fn times_of_day_are_read_as_people_write_them_and_nothing_else_is() {
        for (text, written) in [("20:30", "20:30"), ("7:05", "07:05"), (" 00:00 ", "00:00")] {
            assert_eq!(time(text).expect(text).to_string(), written);
        }
        for bad in ["", "24:00", "20:60", "20", "8 pm", "20:3", "-1:00", "20:30:00", "+2:30"] {
            let said = time(bad).expect_err(bad);
            assert!(said.contains(bad) && said.contains("such as 20:30"), "{said}");
        }
    }

    #[test]
    fn the_evening_counts_from_noon_and_the_morning_back_from_the_next() {
        // A night of 25 hours, as when the clocks go back.
        let (noon, next) = (1000.0, 1000.0 + 25.0 * 3600.0);
        let limits = NightLimits {
            not_before: time("20:00").ok(),
            not_after: time("03:00").ok(),
            ..NightLimits::default()
        };
        assert_eq!(limits.hours(noon, next), (noon + 8.0 * 3600.0, next - 9.0 * 3600.0));
        assert_eq!(NightLimits::default().hours(noon, next), (noon, next));
        assert_eq!(time("12:00").map(|t| t.in_night(noon, next)), Ok(noon));
    }
}
