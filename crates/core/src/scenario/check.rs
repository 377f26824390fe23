//! Which scenarios are accepted. A [`Checked`] scenario holds values that the computation can use
//! without asking again; anything else comes back as a list of fields with what is accepted there.

use std::collections::BTreeMap;
use std::fmt::Display;

use crate::light::curve::Curve;
use crate::light::lamp::Lamp;
use crate::scenario::choices::Choices;
use crate::scenario::document::Scenario;
use crate::scenario::exposure::Filter;
use crate::scenario::field_error::FieldError;
use crate::scenario::limits::NightLimits;
use crate::scenario::rig::{CfaColour, Contender, Optics, Sensor};
use crate::scenario::site::Site;
use crate::scenario::sky::Sky;
use crate::scenario::target::Target;

/// Most contenders in one scenario.
pub const MAX_CONTENDERS: usize = 12;

/// Most exposures of one contender.
pub const MAX_EXPOSURES: usize = 12;

/// Most pixels of a sensor: the largest that are made have less than half as many.
pub const MAX_SENSOR_PIXELS: u64 = 400_000_000;

/// How far shares may miss a sum of 1.
const SHARE_SLACK: f64 = 1e-3;

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
            zone: None,
            horizon_deg: Vec::new(),
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

/// Collects what is wrong.
#[derive(Default)]
pub(crate) struct Checker {
    pub(crate) errors: Vec<FieldError>,
    /// Every range that was asked for, where they are collected.
    ranges: Option<Vec<FieldRange>>,
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

/// The ranges of every number in a scenario, as [`Scenario::check`] asks for them: those that are published come from here. Ranges that
/// hang on another field (an obstruction on its aperture) are the widest that can be.
pub fn ranges_of(s: &Scenario) -> Vec<FieldRange> {
    Checker::ranges_of(|c| c.scenario(s))
}

impl Checker {
    /// What a check asks for, collected: the ranges that are published come from the checks themselves.
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
            self.wrong(path.to_string(), format!("{value} is not accepted; give {lo} to {hi}{unit}"));
        }
    }

    /// Remembers a range where ranges are collected.
    fn note(&mut self, path: &impl Display, low: f64, high: f64) {
        if let Some(ranges) = &mut self.ranges {
            ranges.push(FieldRange { path: path.to_string(), low, high });
        }
    }

    pub(crate) fn maybe_within(&mut self, path: impl Display, value: Option<f64>, lo: f64, hi: f64, unit: &str) {
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
        self.lamps(&format!("{at}.lamps"), &s.lamps);
        self.horizon(&format!("{at}.horizon_deg"), &s.horizon_deg);
    }

    pub(crate) fn limits(&mut self, at: &str, l: &NightLimits) {
        self.within(format_args!("{at}.sun_below_deg"), l.sun_below_deg, -18.0, -5.0, "degrees: brighter twilight is not planned into");
        self.within(format_args!("{at}.altitude_above_deg"), l.altitude_above_deg, 0.0, 85.0, "degrees");
        self.horizon(&format!("{at}.horizon_deg"), &l.horizon_deg);
    }

    fn horizon(&mut self, at: &str, horizon_deg: &[[f64; 2]]) {
        for (i, [az, alt]) in horizon_deg.iter().enumerate() {
            if !(0.0..=360.0).contains(az) || !(-5.0..=89.0).contains(alt) {
                self.wrong(format!("{at}[{i}]"), "give an azimuth of 0 to 360 and an altitude of -5 to 89 degrees");
            }
        }
        if let Some(i) = horizon_deg.windows(2).position(|w| w[1][0] <= w[0][0]) {
            self.wrong(format!("{at}[{}]", i + 1), "its azimuth is not above the one before it; azimuths must ascend");
        }
    }

    /// Where somebody observes from.
    pub(crate) fn place_on_earth(&mut self, at: &str, latitude_deg: f64, longitude_deg: f64, height_m: f64) {
        self.within(format_args!("{at}.latitude_deg"), latitude_deg, -90.0, 90.0, "degrees");
        self.within(format_args!("{at}.longitude_deg"), longitude_deg, -180.0, 180.0, "degrees");
        self.within(format_args!("{at}.height_m"), height_m, -450.0, 6000.0, "m");
    }

    /// Where something is on the sky.
    pub(crate) fn place_on_sky(&mut self, at: &str, ra_deg: f64, dec_deg: f64) {
        if !(0.0..360.0).contains(&ra_deg) {
            self.wrong(format!("{at}.ra_deg"), format!("{ra_deg} is not accepted; give 0 to less than 360 degrees"));
        }
        self.within(format_args!("{at}.dec_deg"), dec_deg, -90.0, 90.0, "degrees");
    }

    fn lamps(&mut self, at: &str, lamps: &BTreeMap<Lamp, f64>) {
        for (lamp, &share) in lamps {
            self.within(format_args!("{at}.{}", lamp.key()), share, 0.0, 1.0, "");
        }
        let sum: f64 = lamps.values().sum();
        if (sum - 1.0).abs() > SHARE_SLACK || sum.is_nan() {
            self.wrong(at, format!("the fractions sum to {sum:.3}; they must sum to 1"));
        }
    }

    fn text(&mut self, path: impl Display, value: &str) {
        if value.chars().count() > 200 {
            self.wrong(path.to_string(), "too long; give at most 200 characters");
        }
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

    fn scenario(&mut self, s: &Scenario) {
        if s.version != 1 {
            self.wrong("version", format!("{} is not known; this program reads version 1", s.version));
        }
        self.note(&"version", 1.0, 1.0);
        self.note(&"choices.uncertainty.seed", 0.0, f64::from(u32::MAX));
        self.text("title", &s.title);
        self.within("detail_arcsec", s.detail_arcsec, 0.1, 3600.0, "arcsec");
        self.within("total_s", s.total_s, 1.0, 3.6e6, "s");
        self.within("goal_snr", s.goal_snr, 0.1, 1000.0, "");
        self.within("seeing_fwhm_arcsec", s.seeing_fwhm_arcsec, 0.3, 30.0, "arcsec");
        self.within("star_v_mag", s.star_v_mag, -2.0, 30.0, "mag");
        self.within("calibration.dark_frames", s.calibration.dark_frames, 1.0, 10_000.0, "frames");
        self.within("calibration.flat_residue", s.calibration.flat_residue, 0.0, 0.2, "");
        self.choices(&s.choices);
        self.target(&s.target);
        self.sky(&s.sky);
        match s.contenders.len() {
            0 => self.wrong("contenders", "empty; give at least one light path"),
            n if n > MAX_CONTENDERS => self.wrong("contenders", format!("{n} light paths; give at most {MAX_CONTENDERS}")),
            _ => {}
        }
        for (i, contender) in s.contenders.iter().take(MAX_CONTENDERS).enumerate() {
            self.contender(&format!("contenders[{i}]"), contender);
        }
    }

    fn choices(&mut self, c: &Choices) {
        self.within("choices.excess", c.excess, 0.001, 1.0, "");
        self.within("choices.swamp_factor", c.swamp_factor, 0.1, 1000.0, "");
        self.within("choices.histogram_adu", c.histogram_adu, 1.0, 1e6, "ADU");
        self.within("choices.histogram_fraction", c.histogram_fraction, 0.001, 0.9, "");
        self.within("choices.least_frames", c.least_frames, 1.0, 10_000.0, "frames");
        self.within("choices.faint_snr", c.faint_snr, 0.1, 100.0, "");
        self.within("choices.core_fill", c.core_fill, 0.01, 100.0, "");
        self.within("choices.star_clips_v_mag", c.star_clips_v_mag, -2.0, 20.0, "mag");
        self.maybe_within("choices.disk_gb", c.disk_gb, 0.1, 1e5, "GB");
        self.within("choices.live_sub_s", c.live_sub_s, 0.1, 120.0, "s");
        self.within("choices.luminance_ratio", c.luminance_ratio, 0.1, 100.0, "");
        self.within("choices.calibration_excess", c.calibration_excess, 0.001, 0.5, "");
        self.within("choices.clear_nights_per_year", c.clear_nights_per_year, 1.0, 366.0, "nights");
        self.within("choices.hours_per_night", c.hours_per_night, 0.1, 24.0, "h");
        let u = &c.uncertainty;
        self.within("choices.uncertainty.sky_mag", u.sky_mag, 0.0, 2.0, "mag");
        self.within("choices.uncertainty.target_relative", u.target_relative, 0.0, 2.0, "");
        self.within("choices.uncertainty.draws", f64::from(u.draws), 20.0, 2000.0, "draws");
    }

    fn target(&mut self, t: &Target) {
        self.text("target.name", &t.name);
        let l = &t.lines_rayleigh;
        for (name, value) in [("ha", l.ha), ("nii", l.nii), ("oiii", l.oiii), ("sii", l.sii), ("hb", l.hb)] {
            self.within(format_args!("target.lines_rayleigh.{name}"), value, 0.0, 1e7, "rayleigh");
        }
        if let Some(c) = &t.continuum {
            self.within("target.continuum.v_mag_arcsec2", c.v_mag_arcsec2, 5.0, 35.0, "mag/arcsec^2");
            self.within("target.continuum.temperature_k", c.temperature_k, 1000.0, 60_000.0, "K");
            self.maybe_within("target.continuum.b_v", c.b_v, -0.4, 2.5, "mag");
        }
        self.within("target.peak_factor", t.peak_factor, 1.0, 1e5, "");
    }

    fn sky(&mut self, s: &Sky) {
        self.within("sky.zenith_v_mag", s.zenith_v_mag, 14.0, 22.5, "mag/arcsec^2");
        self.within("sky.natural_v_mag", s.natural_v_mag, 20.5, 22.5, "mag/arcsec^2");
        self.maybe_within("sky.toward_target_v_mag", s.toward_target_v_mag, 12.0, 22.5, "mag/arcsec^2");
        self.within("sky.target_altitude_deg", s.target_altitude_deg, 1.0, 90.0, "degrees");
        self.within("sky.site_height_m", s.site_height_m, -450.0, 6000.0, "m");
        self.maybe_within("sky.k_v", s.k_v, 0.05, 2.0, "mag per airmass");
        self.within("sky.ambient_c", s.ambient_c, -60.0, 60.0, "degrees Celsius");
        self.within("sky.sun_altitude_deg", s.sun_altitude_deg, -90.0, 90.0, "degrees");
        self.lamps("sky.lamps", &s.lamps);
        if let Some(m) = &s.moon {
            self.within("sky.moon.phase_angle_deg", m.phase_angle_deg, -180.0, 180.0, "degrees");
            self.within("sky.moon.altitude_deg", m.altitude_deg, -90.0, 90.0, "degrees");
            self.within("sky.moon.separation_deg", m.separation_deg, 0.0, 180.0, "degrees");
        }
    }

    fn contender(&mut self, at: &str, c: &Contender) {
        self.text(format_args!("{at}.name"), &c.name);
        self.optics(&format!("{at}.optics"), &c.optics);
        self.sensor(&format!("{at}.sensor"), &c.sensor);
        self.within(format_args!("{at}.gain"), c.gain, 0.0, 1e6, "");
        self.within(format_args!("{at}.sensor_temperature_c"), c.sensor_temperature_c, -60.0, 60.0, "degrees Celsius");
        self.within(format_args!("{at}.overhead_s_per_sub"), c.overhead_s_per_sub, 0.0, 3600.0, "s");
        self.within(format_args!("{at}.loss_per_hour"), c.loss_per_hour, 0.0, 60.0, "per hour");
        self.maybe_within(format_args!("{at}.price"), c.price, 0.0, 1e7, "");
        match c.exposures.len() {
            0 => self.wrong(format!("{at}.exposures"), "empty; give at least one exposure"),
            n if n > MAX_EXPOSURES => self.wrong(format!("{at}.exposures"), format!("{n} exposures; give at most {MAX_EXPOSURES}")),
            _ => {
                let sum: f64 = c.exposures.iter().map(|e| e.share).sum();
                if (sum - 1.0).abs() > SHARE_SLACK || sum.is_nan() {
                    self.wrong(format!("{at}.exposures"), format!("the shares sum to {sum:.3}; they must sum to 1"));
                }
            }
        }
        for (i, e) in c.exposures.iter().take(MAX_EXPOSURES).enumerate() {
            let at = format!("{at}.exposures[{i}]");
            self.within(format_args!("{at}.sub_s"), e.sub_s, 0.001, 7200.0, "s");
            self.within(format_args!("{at}.share"), e.share, 0.0, 1.0, "");
            self.within(format_args!("{at}.weight"), e.weight, 0.01, 100.0, "");
            self.note(&format_args!("{at}.test_frame.background_adu"), 0.0, 2f64.powi(32) - 1.0);
            if let Some(frame) = e.test_frame {
                self.within(format_args!("{at}.test_frame.sub_s"), frame.sub_s, 0.001, 7200.0, "s");
                let full = 2f64.powi(c.sensor.bits.min(32) as i32) - 1.0;
                let ranges = self.ranges.take();
                self.within(format_args!("{at}.test_frame.background_adu"), frame.background_adu, c.sensor.offset_adu, full, "ADU");
                self.ranges = ranges;
            }
            if let Some(f) = &e.filter {
                self.filter(&format!("{at}.filter"), f);
            }
        }
    }

    pub(crate) fn optics(&mut self, at: &str, o: &Optics) {
        self.within(format_args!("{at}.aperture_mm"), o.aperture_mm, 5.0, 20_000.0, "mm");
        self.within(format_args!("{at}.focal_length_mm"), o.focal_length_mm, 10.0, 200_000.0, "mm");
        self.within(format_args!("{at}.reducer"), o.reducer, 0.1, 5.0, "");
        self.within(format_args!("{at}.throughput"), o.throughput, 0.01, 1.0, "");
        self.maybe_within(format_args!("{at}.longest_sub_s"), o.longest_sub_s, 0.001, 7200.0, "s");
        self.note(&format_args!("{at}.obstruction_mm"), 0.0, 19_000.0);
        if !(0.0..o.aperture_mm * 0.95).contains(&o.obstruction_mm) && o.aperture_mm > 0.0 {
            self.wrong(
                format!("{at}.obstruction_mm"),
                format!("{} is not accepted; give 0 to less than 95 % of the aperture ({} mm)", o.obstruction_mm, o.aperture_mm),
            );
        }
        let ratio = o.focal_ratio();
        if self.errors.is_empty() && !(0.9..=100.0).contains(&ratio) {
            self.wrong(format!("{at}.focal_length_mm"), format!("the focal ratio is f/{ratio:.2}; f/0.9 to f/100 is accepted"));
        }
    }

    pub(crate) fn sensor(&mut self, at: &str, s: &Sensor) {
        self.text(format_args!("{at}.name"), &s.name);
        self.within(format_args!("{at}.pixel_um"), s.pixel_um, 0.5, 100.0, "um");
        self.within(format_args!("{at}.columns"), f64::from(s.columns), 1.0, 100_000.0, "pixels");
        self.within(format_args!("{at}.rows"), f64::from(s.rows), 1.0, 100_000.0, "pixels");
        let pixels = u64::from(s.columns) * u64::from(s.rows);
        if pixels > MAX_SENSOR_PIXELS && s.columns <= 100_000 && s.rows <= 100_000 {
            let (own, most) = (pixels as f64 / 1e6, MAX_SENSOR_PIXELS / 1_000_000);
            self.wrong(
                format!("{at}.columns"),
                format!("{} x {} are {own:.0} million pixels; at most {most} million are accepted", s.columns, s.rows),
            );
        }
        self.curve(format_args!("{at}.qe"), &s.qe);
        self.within(format_args!("{at}.bits"), f64::from(s.bits), 8.0, 32.0, "bits");
        let full = 2f64.powi(s.bits.min(32) as i32) - 1.0;
        self.note(&format_args!("{at}.offset_adu"), 0.0, 0.9 * (2f64.powi(32) - 1.0));
        if !(0.0..full * 0.9).contains(&s.offset_adu) {
            self.wrong(
                format!("{at}.offset_adu"),
                format!("{} is not accepted; give 0 to less than 90 % of full scale ({full} ADU)", s.offset_adu),
            );
        }
        self.within(format_args!("{at}.readout_s"), s.readout_s, 0.0, 600.0, "s");
        self.maybe_within(format_args!("{at}.rise_above_ambient_k"), s.rise_above_ambient_k, 0.0, 60.0, "K");
        self.within(format_args!("{at}.dark.e_per_s"), s.dark.e_per_s, 0.0, 1e4, "e-/s per pixel");
        self.within(format_args!("{at}.dark.at_c"), s.dark.at_c, -100.0, 80.0, "degrees Celsius");
        self.within(format_args!("{at}.dark.doubling_k"), s.dark.doubling_k, 1.0, 30.0, "K");
        if s.gains.is_empty() {
            self.wrong(format!("{at}.gains"), "empty; give at least one row");
        }
        for (i, g) in s.gains.iter().enumerate() {
            let at = format!("{at}.gains[{i}]");
            self.within(format_args!("{at}.setting"), g.setting, 0.0, 1e6, "");
            self.within(format_args!("{at}.e_per_adu"), g.e_per_adu, 1e-4, 1e4, "e-/ADU");
            self.within(format_args!("{at}.read_noise_e"), g.read_noise_e, 0.01, 1000.0, "e-");
            self.within(format_args!("{at}.full_well_e"), g.full_well_e, 10.0, 1e8, "e-");
        }
        if let Some(i) = s.gains.windows(2).position(|w| w[1].setting <= w[0].setting) {
            self.wrong(format!("{at}.gains[{}].setting", i + 1), "not above the setting before it; settings must ascend");
        }
        self.cfa(at, s);
    }

    fn cfa(&mut self, at: &str, s: &Sensor) {
        let Some(pattern) = &s.cfa else {
            if s.cfa_curves.is_some() {
                self.wrong(format!("{at}.cfa_curves"), "a mono sensor (cfa null) has no colour curves; leave them out or give cfa");
            }
            return;
        };
        if pattern.len() != 4 || !pattern.chars().all(|c| CfaColour::from_letter(c).is_some()) {
            self.wrong(
                format!("{at}.cfa"),
                format!("\"{pattern}\" is not accepted; give four letters of R, G and B in row order, such as \"RGGB\", or null"),
            );
            return;
        }
        for colour in pattern.chars().filter_map(CfaColour::from_letter) {
            match s.cfa_curves.as_ref().and_then(|curves| curves.get(&colour)) {
                Some(curve) => self.curve(format_args!("{at}.cfa_curves.{}", colour.key()), curve),
                None => {
                    let path = format!("{at}.cfa_curves.{}", colour.key());
                    if !self.errors.iter().any(|e| e.path == path) {
                        self.wrong(path, "missing; each colour of the array needs its curve");
                    }
                }
            }
        }
    }

    pub(crate) fn filter(&mut self, at: &str, f: &Filter) {
        self.text(format_args!("{at}.name"), &f.name);
        match (&f.bands, &f.curve) {
            (Some(_), Some(_)) => self.wrong(format!("{at}.curve"), "a filter has bands or a curve, not both; set one of them to null"),
            (None, None) => self.wrong(format!("{at}.bands"), "missing; a filter has bands or a curve"),
            (None, Some(curve)) => self.curve(format_args!("{at}.curve"), curve),
            (Some(bands), None) => {
                if bands.is_empty() || bands.len() > 12 {
                    self.wrong(format!("{at}.bands"), format!("{} bands; give 1 to 12", bands.len()));
                }
                for (i, b) in bands.iter().enumerate() {
                    let at = format!("{at}.bands[{i}]");
                    self.within(format_args!("{at}.centre_nm"), b.centre_nm, 300.0, 1100.0, "nm");
                    self.within(format_args!("{at}.fwhm_nm"), b.fwhm_nm, 0.3, 800.0, "nm");
                    self.within(format_args!("{at}.peak"), b.peak, 0.001, 1.0, "");
                    self.within(format_args!("{at}.order"), b.order, 0.5, 20.0, "");
                }
            }
        }
        self.within(format_args!("{at}.off_band_od"), f.off_band_od, 0.5, 8.0, "");
        self.within(format_args!("{at}.n_eff"), f.n_eff, 1.2, 4.0, "");
        self.within(format_args!("{at}.centre_tolerance_nm"), f.centre_tolerance_nm, 0.0, 10.0, "nm");
        self.maybe_within(format_args!("{at}.rear_reflectance"), f.rear_reflectance, 0.0, 1.0, "");
        if let Some([fast, slow]) = f.design_focal_ratios {
            self.within(format_args!("{at}.design_focal_ratios[0]"), fast, 0.9, 100.0, "");
            self.within(format_args!("{at}.design_focal_ratios[1]"), slow, fast.max(0.9), 100.0, "");
        }
        self.maybe_within(format_args!("{at}.price"), f.price, 0.0, 1e6, "");
    }
}
