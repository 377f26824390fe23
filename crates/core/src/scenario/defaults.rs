//! What a key of the document is worth that was left out: one place for all of them.

/// Share by which neighbouring panels of a mosaic overlap where nothing else is said (common
/// practice, no source).
pub const PANEL_OVERLAP: f64 = 0.15;

/// The most by which they may.
pub const MOST_OVERLAP: f64 = 0.6;

macro_rules! defaults {
    ($($name:ident: $value:expr;)*) => { $(pub(crate) fn $name() -> f64 { $value })* };
}

// The document, target, sky, rig and filter.
defaults! {
    detail_arcsec: 5.0; goal_snr: 20.0; natural_v_mag: 21.9; sun_altitude_deg: -40.0;
    one: 1.0; throughput: 0.9; order: 3.0; off_band_od: 4.0; n_eff: 1.9;
    centre_tolerance_nm: 0.5; seeing_fwhm_arcsec: 2.5; dark_frames: 50.0;
    doubling_k: 6.3; clean_snr: 10.0; outskirts_factor: 0.2; ambient_c: 10.0; star_v_mag: 16.0; panel_overlap: PANEL_OVERLAP;
}

// How a user wants to decide.
defaults! {
    excess: 0.05; swamp_factor: 10.0; histogram_adu: 500.0; histogram_fraction: 0.05;
    least_frames: 20.0; faint_snr: 3.0; core_fill: 1.0; star_clips_v_mag: 13.0;
    live_sub_s: 10.0; calibration_excess: 0.02;
    clear_nights_per_year: 40.0;
    hours_per_night: 5.0; sky_mag: 0.15; target_relative: 0.2; luminance_ratio: 3.0;
    throughput_relative: 0.1; nii_relative: 0.25; k_v_mag: 0.05; airglow_mag: 0.3;
}

pub(super) fn draws() -> u32 {
    200
}

pub(super) fn one_panel() -> u32 {
    1
}

pub(crate) fn unbinned() -> u32 {
    1
}

pub(super) fn yes() -> bool {
    true
}

/// Time lost after a sub with a cooled camera on a guided mount, s (common practice, no source).
pub(crate) fn rig_overhead_s() -> f64 {
    4.0
}

/// How often something spoils a sub, per hour (common practice, no source).
pub(crate) fn rig_loss_per_hour() -> f64 {
    0.2
}

/// Clock time of a comparison that is begun, s: a good part of a night (common practice, no source).
pub(super) fn begun_total_s() -> f64 {
    14_400.0
}
