//! Which frames are accepted: the ranges of a place, a rig's field and a mosaic.

use crate::scenario::check::Checker;
use crate::scenario::defaults::MOST_OVERLAP;
use crate::scenario::field_error::FieldError;
use crate::scenario::frame_plan::{FieldRig, FramePlan, MAX_PANELS};
use crate::scenario::pointing::Pointing;

impl Pointing {
    /// Checks every field; paths begin with `at`.
    pub fn check(&self, at: &str) -> Vec<FieldError> {
        Checker::errors_of(|c| c.pointing(at, self)).err().unwrap_or_default()
    }
}

impl FieldRig {
    /// Checks every field; paths begin with `at`.
    pub fn check(&self, at: &str) -> Vec<FieldError> {
        Checker::errors_of(|c| c.field_rig(at, self)).err().unwrap_or_default()
    }
}

impl Checker {
    pub(super) fn field_rig(&mut self, at: &str, r: &FieldRig) {
        self.text(format_args!("{at}.name"), &r.name);
        self.within(format_args!("{at}.focal_length_mm"), r.focal_length_mm, 1.0, 100_000.0, "mm");
        self.within(format_args!("{at}.pixel_um"), r.pixel_um, 0.1, 200.0, "um");
        for (name, n) in [("columns", r.columns), ("rows", r.rows)] {
            self.within(format_args!("{at}.{name}"), f64::from(n), 1.0, 1e5, "pixels");
        }
    }

    pub(super) fn pointing(&mut self, at: &str, p: &Pointing) {
        self.place_on_sky(at, p.ra_deg, p.dec_deg);
        let turned = p.position_angle_deg;
        self.within(format_args!("{at}.position_angle_deg"), turned, -360.0, 360.0, "degrees");
    }

    pub(super) fn frame_plan(&mut self, at: &str, f: &FramePlan) {
        self.pointing(&format!("{at}.at"), &f.at);
        self.field_rig(&format!("{at}.rig"), &f.rig);
        for (name, n) in [("panels_wide", f.panels_wide), ("panels_high", f.panels_high)] {
            let most = f64::from(MAX_PANELS);
            self.within(format_args!("{at}.{name}"), f64::from(n), 1.0, most, "panels");
        }
        self.within(format_args!("{at}.overlap"), f.overlap, 0.0, MOST_OVERLAP, "");
    }
}
