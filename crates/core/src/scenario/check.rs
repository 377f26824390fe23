//! Which scenarios are accepted. A [`Checked`] scenario holds values that the computation can use
//! without asking again; anything else comes back as a list of fields with what is accepted there.

use std::collections::BTreeMap;
use std::fmt::Display;

use crate::light::curve::Curve;
use crate::light::lamp::Lamp;
use crate::scenario::document::Scenario;
use crate::scenario::field_error::FieldError;
use crate::scenario::limits::NightLimits;
use crate::scenario::rig::{Optics, Sensor};
use crate::scenario::site::Site;
use crate::scenario::target::Target;

/// Most contenders in one scenario.
pub const MAX_CONTENDERS: usize = 12;

/// Most exposures of one contender.
pub const MAX_EXPOSURES: usize = 12;

/// Longest note, characters.
const LONGEST_NOTE: usize = 2_000;

/// Most rows of a table by azimuth: one for each half degree.
const MOST_AZIMUTHS: usize = 720;

/// Most entries of a list that a person makes: goals, blocks, struck hours.
pub const MOST_ENTRIES: usize = 200;

/// Most pixels of a sensor: the largest that are made have less than half as many.
pub const MAX_SENSOR_PIXELS: u64 = 400_000_000;

/// How much faster or slower than usual lamp light may grow towards the horizon.
pub const GLOW: (f64, f64) = (0.0, 20.0);
/// By how much lamps that go out may darken a zenith, mag; less than nothing where they go on.
pub const DARKER_MAG: (f64, f64) = (-3.0, 3.0);

/// How far shares may miss a sum of 1.
pub(super) const SHARE_SLACK: f64 = 1e-3;

/// A scenario whose every value can be computed with.
#[derive(Clone, Debug, PartialEq)]
pub struct Checked(Scenario);

impl Checked {
    /// The scenario itself.
    pub fn scenario(&self) -> &Scenario {
        &self.0
    }
}

impl Scenario {
    /// Checks every field.
    ///
    /// # Errors
    /// All fields that are wrong, not only the first.
    pub fn check(self) -> Result<Checked, Vec<FieldError>> {
        Checker::errors_of(|c| c.scenario(&self)).map(|()| Checked(self))
    }
}

impl Target {
    /// Checks every field of a target on its own.
    ///
    /// # Errors
    /// All fields that are wrong, their paths as in a scenario.
    pub fn check(self) -> Result<Self, Vec<FieldError>> {
        Checker::errors_of(|c| c.target(&self)).map(|()| self)
    }
}

impl NightLimits {
    /// Checks every field.
    ///
    /// # Errors
    /// All fields that are wrong, with what is accepted.
    pub fn check(&self) -> Result<(), Vec<FieldError>> {
        Checker::errors_of(|c| c.limits("limits", self))
    }

    /// The ranges of its numbers.
    pub fn ranges() -> Vec<FieldRange> {
        Checker::ranges_of(|c| c.limits("limits", &Self::default()))
    }
}

impl Site {
    /// The ranges of a site's numbers.
    pub fn ranges() -> Vec<FieldRange> {
        let site = Self {
            latitude_deg: 0.0,
            longitude_deg: 0.0,
            height_m: 0.0,
            zenith_v_mag: 21.0,
            lamps: BTreeMap::new(),
            k_v: Some(0.2),
            seeing_fwhm_arcsec: Some(2.5),
            nights_per_year: Some(40.0),
            zone: None,
            horizon_deg: Vec::new(),
            glow: Vec::new(),
            by_hour: Vec::new(),
            known: BTreeMap::new(),
        };
        Checker::ranges_of(|c| c.site("site", &site))
    }
}

/// What is wrong with a telescope and a camera on their own; paths begin with `at`.
pub fn check_rig(at: &str, optics: &Optics, sensor: &Sensor) -> Vec<FieldError> {
    let mut c = Checker::default();
    c.optics(&format!("{at}.optics"), optics);
    c.sensor(&format!("{at}.sensor"), sensor);
    c.errors
}

/// Whether a text is a date of the calendar, year, month and day with two and four digits, from
/// 1980 to 2090.
pub(crate) fn is_date(text: &str) -> bool {
    let parts: Vec<&str> = text.split('-').collect();
    let [y, m, d] = parts[..] else { return false };
    let number = |part: &str, digits: usize| {
        (part.len() == digits && part.bytes().all(|b| b.is_ascii_digit()))
            .then(|| part.parse::<i32>().ok())
            .flatten()
    };
    match (number(y, 4), number(m, 2), number(d, 2)) {
        (Some(y), Some(m), Some(d)) => {
            let leap = y % 4 == 0 && (y % 100 != 0 || y % 400 == 0);
            let days = match m {
                1 | 3 | 5 | 7 | 8 | 10 | 12 => 31,
                4 | 6 | 9 | 11 => 30,
                2 if leap => 29,
                2 => 28,
                _ => 0,
            };
            (1980..=2090).contains(&y) && (1..=days).contains(&d)
        }
        _ => false,
    }
}

/// Collects what is wrong.
#[derive(Default)]
pub(crate) struct Checker {
    pub(crate) errors: Vec<FieldError>,
    /// Every range that was asked for, where they are collected.
    pub(super) ranges: Option<Vec<FieldRange>>,
}

/// What a number is accepted between.
#[derive(Clone, Debug, PartialEq)]
pub struct FieldRange {
    /// Path of the field, such as `contenders[0].gain`.
    pub path: String,
    /// The least that is accepted.
    pub low: f64,
    /// The most.
    pub high: f64,
}

/// The ranges of every number in a scenario, as [`Scenario::check`] asks for them: those that are
/// published come from here. Ranges that hang on another field (an obstruction on its aperture) are
/// the widest that can be.
pub fn ranges_of(s: &Scenario) -> Vec<FieldRange> {
    Checker::ranges_of(|c| c.scenario(s))
}

impl Checker {
    /// What a check asks for, collected: the ranges that are published come from the checks
    /// themselves.
    pub(crate) fn ranges_of(check: impl FnOnce(&mut Self)) -> Vec<FieldRange> {
        let mut c = Self { ranges: Some(Vec::new()), ..Self::default() };
        check(&mut c);
        c.ranges.unwrap_or_default()
    }

    /// What is wrong by a check, or nothing.
    pub(crate) fn errors_of(check: impl FnOnce(&mut Self)) -> Result<(), Vec<FieldError>> {
        let mut c = Self::default();
        check(&mut c);
        if c.errors.is_empty() { Ok(()) } else { Err(c.errors) }
    }

    pub(crate) fn wrong(&mut self, path: impl Into<String>, message: impl Into<String>) {
        self.errors.push(FieldError { path: path.into(), message: message.into() });
    }

    /// `lo <= value <= hi`; not a number is wrong too.
    pub(crate) fn within(&mut self, path: impl Display, value: f64, lo: f64, hi: f64, unit: &str) {
        self.note(&path, lo, hi);
        if !(lo..=hi).contains(&value) {
            let unit = if unit.is_empty() { String::new() } else { format!(" {unit}") };
            self.wrong(
                path.to_string(),
                format!("{value} is not accepted; give {lo} to {hi}{unit}"),
            );
        }
    }

    /// Remembers a range where ranges are collected.
    pub(super) fn note(&mut self, path: &impl Display, low: f64, high: f64) {
        if let Some(ranges) = &mut self.ranges {
            ranges.push(FieldRange { path: path.to_string(), low, high });
        }
    }

    pub(crate) fn maybe_within(
        &mut self,
        path: impl Display,
        value: Option<f64>,
        lo: f64,
        hi: f64,
        unit: &str,
    ) {
        if let Some(value) = value {
            self.within(path, value, lo, hi, unit);
        }
    }

    /// A name: not empty, not too long.
    pub(crate) fn name(&mut self, path: &str, value: &str) {
        if value.trim().is_empty() {
            self.wrong(path, "empty; give it a name");
        }
        self.text(path, value);
    }

    pub(crate) fn site(&mut self, at: &str, s: &Site) {
        self.place_on_earth(at, s.latitude_deg, s.longitude_deg, s.height_m);
        self.within(format_args!("{at}.zenith_v_mag"), s.zenith_v_mag, 14.0, 22.5, "mag/arcsec^2");
        self.maybe_within(format_args!("{at}.k_v"), s.k_v, 0.05, 2.0, "mag per airmass");
        let nights = s.nights_per_year;
        self.maybe_within(format_args!("{at}.nights_per_year"), nights, 1.0, 366.0, "nights");
        let seeing = s.seeing_fwhm_arcsec;
        self.maybe_within(format_args!("{at}.seeing_fwhm_arcsec"), seeing, 0.3, 30.0, "arcsec");
        self.lamps(&format!("{at}.lamps"), &s.lamps);
        self.horizon(&format!("{at}.horizon_deg"), &s.horizon_deg);
        self.by_azimuth(&format!("{at}.glow"), &s.glow, "a factor", GLOW);
        self.by_hour(&format!("{at}.by_hour"), &s.by_hour);
        for (figure, k) in &s.known {
            if !(k.value.is_finite()
                && k.value >= 0.0
                && k.sd > 0.0
                && k.sd.is_finite()
                && k.nights > 0)
            {
                let message = "give a number of 0 or more, a standard deviation above 0 and the nights, 1 or more";
                self.wrong(format!("{at}.known.{figure:?}"), message);
            }
        }
    }

    pub(crate) fn limits(&mut self, at: &str, l: &NightLimits) {
        self.within(
            format_args!("{at}.sun_below_deg"),
            l.sun_below_deg,
            -18.0,
            -5.0,
            "degrees: brighter twilight is not planned into",
        );
        self.within(
            format_args!("{at}.altitude_above_deg"),
            l.altitude_above_deg,
            0.0,
            85.0,
            "degrees",
        );
        self.horizon(&format!("{at}.horizon_deg"), &l.horizon_deg);
        // A night of a day and no more: from its noon to the next.
        let (from, to) = l.hours(0.0, 86_400.0);
        if from >= to {
            self.wrong(
                format!("{at}.not_after"),
                "not later in the night than not_before; give a time between that and noon",
            );
        }
    }

    fn horizon(&mut self, at: &str, horizon_deg: &[[f64; 2]]) {
        self.by_azimuth(at, horizon_deg, "an altitude in degrees", (-5.0, 89.0));
    }

    /// A table by azimuth: pairs of an azimuth, ascending, and something else within its range.
    pub(crate) fn by_azimuth(
        &mut self,
        at: &str,
        table: &[[f64; 2]],
        what: &str,
        (low, high): (f64, f64),
    ) {
        let said = format!("give an azimuth of 0 to 360 degrees and {what} of {low} to {high}");
        self.ascending(at, table, ("azimuth", 360.0), (low, high, &said));
    }

    /// What a zenith is darker by from hours of mean solar time on.
    pub(crate) fn by_hour(&mut self, at: &str, table: &[[f64; 2]]) {
        let (low, high) = DARKER_MAG;
        let said = format!("give an hour of 0 to 24 and {low} to {high} mag");
        self.ascending(at, table, ("hour", 24.0), (low, high, &said));
    }

    /// A table of pairs whose first numbers ascend from 0.
    fn ascending(
        &mut self,
        at: &str,
        table: &[[f64; 2]],
        (what, most): (&str, f64),
        (low, high, said): (f64, f64, &str),
    ) {
        let table = &table[..self.at_most(at, table.len(), MOST_AZIMUTHS)];
        for (i, [first, value]) in table.iter().enumerate() {
            if !(0.0..=most).contains(first) || !(low..=high).contains(value) {
                self.wrong(format!("{at}[{i}]"), said);
            }
        }
        if let Some(i) = table.windows(2).position(|w| w[1][0] <= w[0][0]) {
            self.wrong(
                format!("{at}[{}]", i + 1),
                format!("its {what} is not above the one before it; {what}s must ascend"),
            );
        }
    }

    /// Where somebody observes from.
    pub(crate) fn place_on_earth(
        &mut self,
        at: &str,
        latitude_deg: f64,
        longitude_deg: f64,
        height_m: f64,
    ) {
        self.within(format_args!("{at}.latitude_deg"), latitude_deg, -90.0, 90.0, "degrees");
        self.within(format_args!("{at}.longitude_deg"), longitude_deg, -180.0, 180.0, "degrees");
        self.within(format_args!("{at}.height_m"), height_m, -450.0, 6000.0, "m");
    }

    /// Where something is on the sky.
    pub(crate) fn place_on_sky(&mut self, at: &str, ra_deg: f64, dec_deg: f64) {
        self.note(&format_args!("{at}.ra_deg"), 0.0, 360.0);
        if !(0.0..360.0).contains(&ra_deg) {
            self.wrong(
                format!("{at}.ra_deg"),
                format!("{ra_deg} is not accepted; give 0 to less than 360 degrees"),
            );
        }
        self.within(format_args!("{at}.dec_deg"), dec_deg, -90.0, 90.0, "degrees");
    }

    pub(super) fn lamps(&mut self, at: &str, lamps: &BTreeMap<Lamp, f64>) {
        for (lamp, &share) in lamps {
            self.within(format_args!("{at}.{}", lamp.key()), share, 0.0, 1.0, "");
        }
        let sum: f64 = lamps.values().sum();
        if (sum - 1.0).abs() > SHARE_SLACK || sum.is_nan() {
            self.wrong(at, format!("the fractions sum to {sum:.3}; they must sum to 1"));
        }
    }

    pub(crate) fn title(&mut self, path: &str, value: &str) {
        if value.trim().is_empty() || value.chars().count() > 200 {
            self.wrong(path, "give a title of 1 to 200 characters");
        } else {
            self.text(path, value);
        }
    }

    pub(crate) fn text(&mut self, path: impl Display, value: &str) {
        if value.chars().count() > 200 {
            self.wrong(path.to_string(), "too long; give at most 200 characters");
        }
        if value.chars().any(char::is_control) {
            self.wrong(
                path.to_string(),
                "has a control character in it; give a line of plain text",
            );
        }
    }

    /// A note: as long as a page, with lines of its own.
    pub(crate) fn page(&mut self, path: impl Display, value: &str) {
        if value.chars().count() > LONGEST_NOTE {
            self.wrong(
                path.to_string(),
                format!("longer than {LONGEST_NOTE} characters; shorten it"),
            );
        }
        if value.chars().any(|c| c.is_control() && !matches!(c, '\n' | '\r' | '\t')) {
            self.wrong(path.to_string(), "has a control character in it; give plain text");
        }
    }

    /// A list that is not too long; what follows looks at so many of it and no more.
    pub(crate) fn at_most(&mut self, path: &str, length: usize, most: usize) -> usize {
        if length > most {
            self.wrong(path, format!("{length} entries; give at most {most}"));
        }
        length.min(most)
    }

    pub(crate) fn curve(&mut self, path: impl Display, curve: &Curve) {
        if let Err(e) = curve.check() {
            let path = match e.row() {
                Some(row) => format!("{path}[{row}]"),
                None => path.to_string(),
            };
            self.wrong(path, e.to_string());
        }
    }
}
