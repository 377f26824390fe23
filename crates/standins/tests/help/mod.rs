//! What the tests of played nights share: a site for a scenario, and a folder of frames as the log has it.

use std::collections::BTreeMap;
use std::path::Path;

use salt_lamp_core::frame::FrameMeasured;
use salt_lamp_core::log::{FrameJudged, NightAir, NightFrame, night_judged};
use salt_lamp_core::night::Place;
use salt_lamp_core::scenario::{Scenario, Site};
use salt_lamp_core::workers::SingleThread;
use salt_lamp_formats::frame::{open_frame, start_unix_s};

pub const LARCH_LANE: Place = Place { latitude_deg: 46.35, longitude_deg: -72.55, height_m: 30.0 };
pub const HERON_LAKE: Place = Place { latitude_deg: 45.9, longitude_deg: -74.6, height_m: 260.0 };

/// The site under whose sky a scenario is.
pub fn site(s: &Scenario, at: Place) -> Site {
    Site {
        latitude_deg: at.latitude_deg,
        longitude_deg: at.longitude_deg,
        height_m: s.sky.site_height_m,
        zenith_v_mag: s.sky.zenith_v_mag,
        lamps: s.sky.lamps.clone(),
        k_v: s.sky.k_v,
        seeing_fwhm_arcsec: Some(s.seeing_fwhm_arcsec),
        nights_per_year: None,
        zone: None,
        horizon_deg: Vec::new(),
        glow: s.sky.glow.clone(),
        by_hour: Vec::new(),
        known: BTreeMap::new(),
    }
}

/// Frames of a folder, measured.
pub fn measured<'a>(folder: &Path, files: impl Iterator<Item = &'a String>) -> Vec<FrameMeasured> {
    let one = |f: &String| {
        let file = open_frame(&folder.join(f)).expect("read");
        file.measure(&SingleThread).expect("measured")
    };
    files.map(one).collect()
}

/// When a frame began, seconds since 1970 UTC.
pub fn start_of(m: &FrameMeasured) -> f64 {
    m.read.header.start.as_deref().and_then(start_unix_s).expect("a time")
}

/// Frames of a night as the log judges them.
pub fn judged(measured: &[FrameMeasured], air: &NightAir) -> Vec<Option<FrameJudged>> {
    let one = |measured| {
        let start_s = Some(start_of(measured));
        let airmass = air.airmass(measured, start_s);
        NightFrame { measured, start_s, airmass, guiding_arcsec: None }
    };
    let frames: Vec<NightFrame> = measured.iter().map(one).collect();
    night_judged(&frames, &|filter| air.k_mag(filter))
}
