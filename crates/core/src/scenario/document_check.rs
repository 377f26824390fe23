//! Which values of a scenario's fields are accepted: the ranges, field by field.

use crate::light::lines::Quantity;
use crate::scenario::cfa::CfaColour;
use crate::scenario::check::{
    Checker, GLOW, MAX_CONTENDERS, MAX_EXPOSURES, MAX_SENSOR_PIXELS, MOST_ENTRIES, SHARE_SLACK,
};
use crate::scenario::choices::Choices;
use crate::scenario::document::Scenario;
use crate::scenario::exposure::Filter;
use crate::scenario::goal::Goal;
use crate::scenario::rig::{Contender, Dither, Mount, Optics, Sensor};
use crate::scenario::sky::Sky;
use crate::scenario::target::Target;

/// Ways of putting 2, 3 and 4 pixels together.
const MOST_BINNING_MODES: usize = 3;

/// Most distances that make halos.
const MAX_GHOST_GAPS: usize = 6;

impl Checker {
    pub(super) fn scenario(&mut self, s: &Scenario) {
        if s.version != 1 {
            self.wrong(
                "version",
                format!("{} is not known; this program reads version 1", s.version),
            );
        }
        self.note(&"version", 1.0, 1.0);
        self.note(&"choices.uncertainty.seed", 0.0, f64::from(u32::MAX));
        self.text("title", &s.title);
        self.within("detail_arcsec", s.detail_arcsec, 0.1, 3600.0, "arcsec");
        self.within("total_s", s.total_s, 1.0, 3.6e6, "s");
        self.within("goal_snr", s.goal_snr, 0.1, 1000.0, "");
        self.goals(&s.goals);
        self.within("seeing_fwhm_arcsec", s.seeing_fwhm_arcsec, 0.3, 30.0, "arcsec");
        self.within("star_v_mag", s.star_v_mag, -2.0, 30.0, "mag");
        self.within("calibration.dark_frames", s.calibration.dark_frames, 1.0, 10_000.0, "frames");
        self.within("calibration.flat_residue", s.calibration.flat_residue, 0.0, 0.2, "");
        self.choices(&s.choices);
        self.target(&s.target);
        if let Some(f) = &s.frame {
            self.frame_plan("frame", f);
        }
        self.sky(&s.sky);
        match s.contenders.len() {
            0 => self.wrong("contenders", "empty; give at least one light path"),
            n if n > MAX_CONTENDERS => {
                self.wrong("contenders", format!("{n} light paths; give at most {MAX_CONTENDERS}"))
            }
            _ => {}
        }
        for (i, contender) in s.contenders.iter().take(MAX_CONTENDERS).enumerate() {
            self.contender(&format!("contenders[{i}]"), contender);
        }
    }

    fn goals(&mut self, goals: &[Goal]) {
        let goals = &goals[..self.at_most("goals", goals.len(), MOST_ENTRIES)];
        for (i, g) in goals.iter().enumerate() {
            let at = format!("goals[{i}]");
            if goals[..i].iter().any(|other| other.quantity == g.quantity) {
                self.wrong(
                    format!("{at}.quantity"),
                    format!("{} has a goal already; give one each", g.quantity.label()),
                );
            }
            self.within(format_args!("{at}.snr"), g.snr, 0.1, 1000.0, "");
            self.within(format_args!("{at}.detail_arcsec"), g.detail_arcsec, 0.1, 3600.0, "arcsec");
            self.maybe_within(format_args!("{at}.star_v_mag"), g.star_v_mag, -2.0, 30.0, "mag");
            if g.star_v_mag.is_some() && g.quantity != Quantity::Continuum {
                self.wrong(
                    format!("{at}.star_v_mag"),
                    "stars shine in the continuum; leave it out of a line's goal",
                );
            }
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
        self.within("choices.uncertainty.nii_relative", u.nii_relative, 0.0, 2.0, "");
        let passes = u.throughput_relative;
        self.within("choices.uncertainty.throughput_relative", passes, 0.0, 1.0, "");
        self.within("choices.uncertainty.k_v_mag", u.k_v_mag, 0.0, 1.0, "mag per airmass");
        self.within("choices.uncertainty.airglow_mag", u.airglow_mag, 0.0, 1.0, "mag");
        self.within("choices.uncertainty.draws", f64::from(u.draws), 20.0, 2000.0, "draws");
    }

    pub(super) fn target(&mut self, t: &Target) {
        self.text("target.name", &t.name);
        let l = &t.lines_rayleigh;
        for (name, value) in
            [("ha", l.ha), ("nii", l.nii), ("oiii", l.oiii), ("sii", l.sii), ("hb", l.hb)]
        {
            self.within(format_args!("target.lines_rayleigh.{name}"), value, 0.0, 1e7, "rayleigh");
        }
        if let Some(c) = &t.continuum {
            self.within(
                "target.continuum.v_mag_arcsec2",
                c.v_mag_arcsec2,
                5.0,
                35.0,
                "mag/arcsec^2",
            );
            self.within("target.continuum.temperature_k", c.temperature_k, 1000.0, 60_000.0, "K");
            self.maybe_within("target.continuum.b_v", c.b_v, -0.4, 2.5, "mag");
        }
        self.within("target.peak_factor", t.peak_factor, 1.0, 1e5, "");
        self.within("target.outskirts_factor", t.outskirts_factor, 0.001, 1.0, "");
        self.maybe_within("target.knots_factor", t.knots_factor, 1.0, 1e5, "");
        let ra = t.right_ascension_deg;
        self.maybe_within("target.right_ascension_deg", ra, 0.0, 360.0, "degrees");
        self.maybe_within("target.declination_deg", t.declination_deg, -90.0, 90.0, "degrees");
    }

    fn sky(&mut self, s: &Sky) {
        self.within("sky.zenith_v_mag", s.zenith_v_mag, 14.0, 22.5, "mag/arcsec^2");
        self.within("sky.natural_v_mag", s.natural_v_mag, 20.5, 22.5, "mag/arcsec^2");
        self.maybe_within(
            "sky.toward_target_v_mag",
            s.toward_target_v_mag,
            12.0,
            22.5,
            "mag/arcsec^2",
        );
        self.maybe_within("sky.latitude_deg", s.latitude_deg, -90.0, 90.0, "degrees");
        self.maybe_within(
            "sky.toward_target_altitude_deg",
            s.toward_target_altitude_deg,
            1.0,
            90.0,
            "degrees",
        );
        for (path, azimuth) in [
            ("sky.toward_target_azimuth_deg", s.toward_target_azimuth_deg),
            ("sky.target_azimuth_deg", s.target_azimuth_deg),
        ] {
            self.maybe_within(path, azimuth, 0.0, 360.0, "degrees");
        }
        self.by_azimuth("sky.glow", &s.glow, "a factor", GLOW);
        self.by_hour("sky.by_hour", &s.by_hour);
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
        self.within(
            format_args!("{at}.sensor_temperature_c"),
            c.sensor_temperature_c,
            -60.0,
            60.0,
            "degrees Celsius",
        );
        self.within(
            format_args!("{at}.overhead_s_per_sub"),
            c.overhead_s_per_sub,
            0.0,
            3600.0,
            "s",
        );
        self.following(at, c.mount, c.dither);
        self.maybe_within(format_args!("{at}.total_s"), c.total_s, 1.0, 3.6e6, "s");
        self.within(format_args!("{at}.loss_per_hour"), c.loss_per_hour, 0.0, 60.0, "per hour");
        self.maybe_within(format_args!("{at}.price"), c.price, 0.0, 1e7, "");
        self.ghost_gaps(at, &c.ghost_gaps_mm);
        match c.exposures.len() {
            0 => self.wrong(format!("{at}.exposures"), "empty; give at least one exposure"),
            n if n > MAX_EXPOSURES => self.wrong(
                format!("{at}.exposures"),
                format!("{n} exposures; give at most {MAX_EXPOSURES}"),
            ),
            _ => {
                let sum: f64 = c.exposures.iter().map(|e| e.share).sum();
                if (sum - 1.0).abs() > SHARE_SLACK || sum.is_nan() {
                    self.wrong(
                        format!("{at}.exposures"),
                        format!("the shares sum to {sum:.3}; they must sum to 1"),
                    );
                }
            }
        }
        for (i, e) in c.exposures.iter().take(MAX_EXPOSURES).enumerate() {
            let at = format!("{at}.exposures[{i}]");
            self.within(format_args!("{at}.sub_s"), e.sub_s, 0.001, 7200.0, "s");
            self.within(format_args!("{at}.binning"), f64::from(e.binning), 1.0, 4.0, "pixels");
            self.within(format_args!("{at}.share"), e.share, 0.0, 1.0, "");
            self.within(format_args!("{at}.weight"), e.weight, 0.01, 100.0, "");
            self.note(&format_args!("{at}.test_frame.background_adu"), 0.0, 2f64.powi(32) - 1.0);
            if let Some(frame) = e.test_frame {
                self.within(format_args!("{at}.test_frame.sub_s"), frame.sub_s, 0.001, 7200.0, "s");
                let full = 2f64.powi(c.sensor.bits.min(32) as i32) - 1.0;
                let ranges = self.ranges.take();
                self.within(
                    format_args!("{at}.test_frame.background_adu"),
                    frame.background_adu,
                    if frame.with_offset { c.sensor.offset_adu } else { 0.0 },
                    full,
                    "ADU",
                );
                self.ranges = ranges;
            }
            if let Some(f) = &e.filter {
                self.filter(&format!("{at}.filter"), f);
            }
        }
    }

    /// How a mount follows, and how the field is moved between subs.
    pub(crate) fn following(&mut self, at: &str, mount: Option<Mount>, dither: Option<Dither>) {
        self.maybe_within(
            format_args!("{at}.mount.trail_px"),
            mount.map(|m| m.trail_px),
            0.1,
            100.0,
            "pixels",
        );
        self.maybe_within(
            format_args!("{at}.dither.every"),
            dither.map(|d| f64::from(d.every)),
            1.0,
            1000.0,
            "subs",
        );
        self.maybe_within(
            format_args!("{at}.dither.cost_s"),
            dither.map(|d| d.cost_s),
            0.0,
            3600.0,
            "s",
        );
    }

    /// Distances that make halos.
    pub(crate) fn ghost_gaps(&mut self, at: &str, gaps_mm: &[f64]) {
        if gaps_mm.len() > MAX_GHOST_GAPS {
            let message = format!("{} gaps; at most {MAX_GHOST_GAPS} are accepted", gaps_mm.len());
            self.wrong(format!("{at}.ghost_gaps_mm"), message);
        }
        for (i, gap_mm) in gaps_mm.iter().enumerate().take(MAX_GHOST_GAPS) {
            self.within(format_args!("{at}.ghost_gaps_mm[{i}]"), *gap_mm, 0.1, 50.0, "mm");
        }
    }

    pub(crate) fn optics(&mut self, at: &str, o: &Optics) {
        self.within(format_args!("{at}.aperture_mm"), o.aperture_mm, 5.0, 20_000.0, "mm");
        self.within(format_args!("{at}.focal_length_mm"), o.focal_length_mm, 10.0, 200_000.0, "mm");
        self.within(format_args!("{at}.reducer"), o.reducer, 0.1, 5.0, "");
        self.within(format_args!("{at}.throughput"), o.throughput, 0.01, 1.0, "");
        self.maybe_within(format_args!("{at}.longest_sub_s"), o.longest_sub_s, 0.001, 7200.0, "s");
        self.maybe_within(
            format_args!("{at}.exit_pupil_mm"),
            o.exit_pupil_mm,
            10.0,
            100_000.0,
            "mm",
        );
        self.note(&format_args!("{at}.obstruction_mm"), 0.0, 19_000.0);
        if !(0.0..o.aperture_mm * 0.95).contains(&o.obstruction_mm) && o.aperture_mm > 0.0 {
            self.wrong(
                format!("{at}.obstruction_mm"),
                format!(
                    "{} is not accepted; give 0 to less than 95 % of the aperture ({} mm)",
                    o.obstruction_mm, o.aperture_mm
                ),
            );
        }
        let ratio = o.focal_ratio();
        if self.errors.is_empty() && !(0.9..=100.0).contains(&ratio) {
            self.wrong(
                format!("{at}.focal_length_mm"),
                format!("the focal ratio is f/{ratio:.2}; f/0.9 to f/100 is accepted"),
            );
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
                format!(
                    "{} x {} are {own:.0} million pixels; at most {most} million are accepted",
                    s.columns, s.rows
                ),
            );
        }
        self.curve(format_args!("{at}.qe"), &s.qe);
        self.within(format_args!("{at}.bits"), f64::from(s.bits), 8.0, 32.0, "bits");
        let full = 2f64.powi(s.bits.min(32) as i32) - 1.0;
        self.note(&format_args!("{at}.offset_adu"), 0.0, 0.9 * (2f64.powi(32) - 1.0));
        if !(0.0..full * 0.9).contains(&s.offset_adu) {
            self.wrong(
                format!("{at}.offset_adu"),
                format!(
                    "{} is not accepted; give 0 to less than 90 % of full scale ({full} ADU)",
                    s.offset_adu
                ),
            );
        }
        self.within(format_args!("{at}.readout_s"), s.readout_s, 0.0, 600.0, "s");
        self.maybe_within(
            format_args!("{at}.rise_above_ambient_k"),
            s.rise_above_ambient_k,
            0.0,
            60.0,
            "K",
        );
        self.within(format_args!("{at}.dark.e_per_s"), s.dark.e_per_s, 0.0, 1e4, "e-/s per pixel");
        self.within(format_args!("{at}.dark.at_c"), s.dark.at_c, -100.0, 80.0, "degrees Celsius");
        self.within(format_args!("{at}.dark.doubling_k"), s.dark.doubling_k, 1.0, 30.0, "K");
        if s.binning.len() > MOST_BINNING_MODES {
            self.wrong(
                format!("{at}.binning"),
                format!("{} modes; give at most {MOST_BINNING_MODES}", s.binning.len()),
            );
        }
        for (i, b) in s.binning.iter().enumerate().take(MOST_BINNING_MODES) {
            let (at, n) = (format!("{at}.binning[{i}]"), f64::from(b.factor));
            self.within(format_args!("{at}.factor"), n, 2.0, 4.0, "pixels");
            self.within(format_args!("{at}.read_noise_ratio"), b.read_noise_ratio, 0.5, 4.0, "");
            self.within(format_args!("{at}.full_well_ratio"), b.full_well_ratio, 0.5, 16.0, "");
        }
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
            self.wrong(
                format!("{at}.gains[{}].setting", i + 1),
                "not above the setting before it; settings must ascend",
            );
        }
        self.cfa(at, s);
    }

    fn cfa(&mut self, at: &str, s: &Sensor) {
        let Some(pattern) = &s.cfa else {
            if s.cfa_curves.is_some() {
                self.wrong(
                    format!("{at}.cfa_curves"),
                    "a mono sensor (cfa null) has no colour curves; leave them out or give cfa",
                );
            }
            return;
        };
        if pattern.len() != 4 || !pattern.chars().all(|c| CfaColour::from_letter(c).is_some()) {
            self.wrong(
                format!("{at}.cfa"),
                format!(
                    "\"{pattern}\" is not accepted; give four letters of R, G and B in row \
                    order, such as \"RGGB\", or null"
                ),
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
            (Some(_), Some(_)) => self.wrong(
                format!("{at}.curve"),
                "a filter has bands or a curve, not both; set one of them to null",
            ),
            (None, None) => {
                self.wrong(format!("{at}.bands"), "missing; a filter has bands or a curve")
            }
            (None, Some(curve)) => self.curve(format_args!("{at}.curve"), curve),
            (Some(bands), None) => {
                if bands.is_empty() || bands.len() > 12 {
                    self.wrong(
                        format!("{at}.bands"),
                        format!("{} bands; give 1 to 12", bands.len()),
                    );
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
        self.within(
            format_args!("{at}.centre_tolerance_nm"),
            f.centre_tolerance_nm,
            0.0,
            10.0,
            "nm",
        );
        self.maybe_within(format_args!("{at}.rear_reflectance"), f.rear_reflectance, 0.0, 1.0, "");
        if let Some([fast, slow]) = f.design_focal_ratios {
            self.within(format_args!("{at}.design_focal_ratios[0]"), fast, 0.9, 100.0, "");
            self.within(
                format_args!("{at}.design_focal_ratios[1]"),
                slow,
                fast.max(0.9),
                100.0,
                "",
            );
        }
        self.maybe_within(format_args!("{at}.thickness_mm"), f.thickness_mm, 0.1, 20.0, "mm");
        self.maybe_within(format_args!("{at}.price"), f.price, 0.0, 1e6, "");
    }
}
