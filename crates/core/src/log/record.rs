//! A target's record: night by night and filter by filter what was taken of it, and the sums, as
//! one hands it on beside a picture.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::log::totals::FilterTotal;
use crate::night::ephemeris::{Ephemeris, Place};

/// Name of the format.
pub const RECORD_FORMAT: &str = "salt-lamp-record";
/// Version of the format. Fields may be added without a new one.
pub const RECORD_VERSION: u32 = 1;

/// The moon over some frames.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct MoonOver {
    /// Its lit part in the middle of the frames, per cent.
    pub lit_percent: f64,
    /// Share of the frames in whose middle it stood above the horizon, 0-1.
    pub up_share: f64,
}

impl MoonOver {
    /// The moon over frames whose middles are at these times, seconds since 1970 UTC, ascending;
    /// `None` of no frame, or of times that no ephemeris has.
    pub fn at(place: Place, middles_s: &[f64]) -> Option<Self> {
        let (from, to) = (*middles_s.first()?, *middles_s.last()?);
        let e = Ephemeris::new(place, from - 60.0, to + 60.0).ok()?;
        let up = middles_s.iter().filter(|t| e.altitude_deg(&e.moon(**t), **t) > 0.0).count();
        let phase = e.phase_angle_deg(0.5 * (from + to));
        Some(Self {
            // Illuminated fraction (1 + cos i) / 2 (Meeus, Astronomical Algorithms, chapter 48).
            lit_percent: 50.0 * (1.0 + phase.to_radians().cos()),
            up_share: up as f64 / middles_s.len() as f64,
        })
    }
}

/// What one night brought through one filter.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct RecordLine {
    /// Evening's date.
    pub night: String,
    /// The camera as its headers call it; empty where they do not.
    pub camera: String,
    /// The moon over the frames, where the site is known.
    pub moon: Option<MoonOver>,
    /// What was taken.
    #[serde(flatten)]
    pub total: FilterTotal,
}

/// The sum over nights of one filter at one length.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct RecordSum {
    /// Name of the filter; null for none.
    pub filter: Option<String>,
    /// Length, s.
    pub exposure_s: Option<f64>,
    /// Frames that are kept.
    pub kept: usize,
    /// Seconds of the kept ones.
    pub kept_s: f64,
    /// Nights.
    pub nights: usize,
}

/// A target's record.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct TargetRecord {
    /// `salt-lamp-record`.
    pub format: String,
    /// Version of the format.
    pub version: u32,
    /// The target.
    pub object: String,
    /// Night by night, the first first.
    pub lines: Vec<RecordLine>,
    /// The sums, the filter with most time first.
    pub sums: Vec<RecordSum>,
    /// Seconds of all that is kept.
    pub kept_s: f64,
}

impl TargetRecord {
    /// The record of some lines.
    pub fn new(object: &str, mut lines: Vec<RecordLine>) -> Self {
        lines.sort_by(|a, b| a.night.cmp(&b.night));
        let mut sums: Vec<(RecordSum, Vec<&str>)> = Vec::new();
        for l in &lines {
            let t = &l.total;
            let is = |s: &RecordSum| (&s.filter, s.exposure_s) == (&t.filter, t.exposure_s);
            let at = sums.iter().position(|(s, _)| is(s)).unwrap_or_else(|| {
                let (filter, exposure_s) = (t.filter.clone(), t.exposure_s);
                let sum = RecordSum { filter, exposure_s, kept: 0, kept_s: 0.0, nights: 0 };
                sums.push((sum, Vec::new()));
                sums.len() - 1
            });
            let (sum, nights) = &mut sums[at];
            sum.kept += t.kept;
            sum.kept_s += t.kept_s;
            if t.kept > 0 && !nights.contains(&l.night.as_str()) {
                nights.push(&l.night);
                sum.nights += 1;
            }
        }
        let mut sums: Vec<RecordSum> = sums.into_iter().map(|(s, _)| s).collect();
        sums.sort_by(|a, b| b.kept_s.total_cmp(&a.kept_s));
        Self {
            format: RECORD_FORMAT.to_owned(),
            version: RECORD_VERSION,
            object: object.to_owned(),
            kept_s: sums.iter().map(|s| s.kept_s).sum(),
            sums,
            lines,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::frame::header::FrameKind;

    fn line(night: &str, filter: &str, kept: usize) -> RecordLine {
        RecordLine {
            night: night.to_owned(),
            camera: String::new(),
            moon: None,
            total: FilterTotal {
                kind: Some(FrameKind::Light),
                object: Some("M 1".to_owned()),
                filter: Some(filter.to_owned()),
                exposure_s: Some(120.0),
                gain: None,
                taken: kept + 2,
                kept,
                kept_s: 120.0 * kept as f64,
                worth: kept as f64,
                fwhm_arcsec: None,
                sensor_c: None,
            },
        }
    }

    #[test]
    fn nights_add_up_filter_by_filter() {
        let lines = vec![
            line("2027-01-12", "Ha", 20),
            line("2027-01-10", "Ha", 10),
            line("2027-01-10", "OIII", 45),
            line("2027-01-14", "OIII", 0),
        ];
        let r = TargetRecord::new("M 1", lines);
        assert_eq!(r.lines[0].night, "2027-01-10");
        let told: Vec<_> = r
            .sums
            .iter()
            .map(|s| (s.filter.as_deref().unwrap_or(""), s.kept, s.kept_s, s.nights))
            .collect();
        assert_eq!(told, [("OIII", 45, 5400.0, 1), ("Ha", 30, 3600.0, 2)]);
        assert_eq!(r.kept_s, 9000.0);
    }

    /// The full moon of 2027-01-22 (12:17 UTC) and the new moon of 2027-02-06 (15:56 UTC), from an
    /// almanac's table (from memory, good to the day): full is up all night, new is not.
    #[test]
    fn the_moon_over_the_frames_is_that_of_the_night() {
        use crate::night::ephemeris::unix_midnight;
        let place = Place { latitude_deg: 46.35, longitude_deg: 7.5, height_m: 500.0 };
        let night = |m: i32, d: i32| {
            let midnight = unix_midnight(2027, m, d).expect("a day") + 86_400.0;
            let middles: Vec<f64> = (-3..4).map(|h| midnight + 3600.0 * f64::from(h)).collect();
            MoonOver::at(place, &middles).expect("the moon")
        };
        let (full, new) = (night(1, 22), night(2, 6));
        assert!(full.lit_percent > 98.0 && full.up_share == 1.0, "{full:?}");
        assert!(new.lit_percent < 2.0 && new.up_share == 0.0, "{new:?}");
        assert_eq!(MoonOver::at(place, &[]), None);
    }
}
