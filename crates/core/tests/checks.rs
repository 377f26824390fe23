//! Every number of a scenario has a range: its ends are taken, what lies beyond is refused with the
//! path of the field and what is accepted, and several mistakes are told at once.

use crate::common::ic_443;
use salt_lamp_core::scenario::Scenario;
use serde_json::{Value, json};

/// A scenario in which every optional part is present.
fn full() -> Value {
    let mut s = serde_json::to_value(ic_443()).expect("JSON");
    s["target"]["continuum"] = json!({"v_mag_arcsec2": 24.0, "temperature_k": 5500.0, "b_v": 0.6});
    s["sky"]["moon"] =
        json!({"phase_angle_deg": 60.0, "altitude_deg": 30.0, "separation_deg": 80.0});
    s["sky"]["toward_target_v_mag"] = json!(19.0);
    s["sky"]["toward_target_altitude_deg"] = json!(50.0);
    s["sky"]["toward_target_azimuth_deg"] = json!(150.0);
    s["sky"]["target_azimuth_deg"] = json!(170.0);
    s["sky"]["k_v"] = json!(0.2);
    s["choices"]["disk_gb"] = json!(500.0);
    s["goals"] =
        json!([{"quantity": "continuum", "snr": 10.0, "detail_arcsec": 5.0, "star_v_mag": 17.0}]);
    s["target"]["knots_factor"] = json!(10.0);
    let c = &mut s["contenders"][0];
    c["price"] = json!(100.0);
    c["total_s"] = json!(7200.0);
    c["optics"]["longest_sub_s"] = json!(600.0);
    c["sensor"]["rise_above_ambient_k"] = json!(5.0);
    c["exposures"][0]["test_frame"] = json!({"sub_s": 60.0, "background_adu": 900.0});
    c["exposures"][0]["filter"]["rear_reflectance"] = json!(0.01);
    c["exposures"][0]["filter"]["price"] = json!(100.0);
    s
}

/// The place that an error path such as `contenders[0].optics.reducer` means.
fn at<'a>(doc: &'a mut Value, path: &str) -> &'a mut Value {
    let pointer: String = path
        .split('.')
        .map(|part| format!("/{}", part.replace('[', "/").replace(']', "")))
        .collect();
    doc.pointer_mut(&pointer).unwrap_or_else(|| panic!("{path} is in the document"))
}

fn errors(doc: &Value) -> Vec<(String, String)> {
    let s: Scenario = serde_json::from_value(doc.clone()).expect("parses");
    s.check().err().unwrap_or_default().into_iter().map(|e| (e.path, e.message)).collect()
}

/// Path, and the least and the largest value that is accepted.
const RANGES: &[(&str, f64, f64)] = &[
    ("detail_arcsec", 0.1, 3600.0),
    ("total_s", 1.0, 3.6e6),
    ("goal_snr", 0.1, 1000.0),
    ("goals[0].snr", 0.1, 1000.0),
    ("goals[0].detail_arcsec", 0.1, 3600.0),
    ("goals[0].star_v_mag", -2.0, 30.0),
    ("target.outskirts_factor", 0.001, 1.0),
    ("target.knots_factor", 1.0, 1e5),
    ("contenders[0].total_s", 1.0, 3.6e6),
    ("seeing_fwhm_arcsec", 0.3, 30.0),
    ("star_v_mag", -2.0, 30.0),
    ("calibration.dark_frames", 1.0, 10_000.0),
    ("calibration.flat_residue", 0.0, 0.2),
    ("choices.excess", 0.001, 1.0),
    ("choices.swamp_factor", 0.1, 1000.0),
    ("choices.histogram_adu", 1.0, 1e6),
    ("choices.histogram_fraction", 0.001, 0.9),
    ("choices.least_frames", 1.0, 10_000.0),
    ("choices.faint_snr", 0.1, 100.0),
    ("choices.core_fill", 0.01, 100.0),
    ("choices.star_clips_v_mag", -2.0, 20.0),
    ("choices.disk_gb", 0.1, 1e5),
    ("choices.live_sub_s", 0.1, 120.0),
    ("choices.luminance_ratio", 0.1, 100.0),
    ("choices.calibration_excess", 0.001, 0.5),
    ("choices.clear_nights_per_year", 1.0, 366.0),
    ("choices.hours_per_night", 0.1, 24.0),
    ("choices.uncertainty.sky_mag", 0.0, 2.0),
    ("choices.uncertainty.target_relative", 0.0, 2.0),
    ("choices.uncertainty.nii_relative", 0.0, 2.0),
    ("choices.uncertainty.throughput_relative", 0.0, 1.0),
    ("choices.uncertainty.k_v_mag", 0.0, 1.0),
    ("choices.uncertainty.airglow_mag", 0.0, 1.0),
    ("target.lines_rayleigh.ha", 0.0, 1e7),
    ("target.lines_rayleigh.nii", 0.0, 1e7),
    ("target.lines_rayleigh.oiii", 0.0, 1e7),
    ("target.lines_rayleigh.sii", 0.0, 1e7),
    ("target.lines_rayleigh.hb", 0.0, 1e7),
    ("target.continuum.v_mag_arcsec2", 5.0, 35.0),
    ("target.continuum.temperature_k", 1000.0, 60_000.0),
    ("target.continuum.b_v", -0.4, 2.5),
    ("target.peak_factor", 1.0, 1e5),
    ("sky.zenith_v_mag", 14.0, 22.5),
    ("sky.natural_v_mag", 20.5, 22.5),
    ("sky.toward_target_v_mag", 12.0, 22.5),
    ("sky.toward_target_altitude_deg", 1.0, 90.0),
    ("sky.target_altitude_deg", 1.0, 90.0),
    ("sky.target_azimuth_deg", 0.0, 360.0),
    ("sky.toward_target_azimuth_deg", 0.0, 360.0),
    ("sky.site_height_m", -450.0, 6000.0),
    ("sky.k_v", 0.05, 2.0),
    ("sky.ambient_c", -60.0, 60.0),
    ("sky.sun_altitude_deg", -90.0, 90.0),
    ("sky.moon.phase_angle_deg", -180.0, 180.0),
    ("sky.moon.altitude_deg", -90.0, 90.0),
    ("sky.moon.separation_deg", 0.0, 180.0),
    ("contenders[0].gain", 0.0, 1e6),
    ("contenders[0].sensor_temperature_c", -60.0, 60.0),
    ("contenders[0].overhead_s_per_sub", 0.0, 3600.0),
    ("contenders[0].loss_per_hour", 0.0, 60.0),
    ("contenders[0].price", 0.0, 1e7),
    ("contenders[0].exposures[0].sub_s", 0.001, 7200.0),
    ("contenders[0].exposures[1].weight", 0.01, 100.0),
    ("contenders[0].exposures[0].test_frame.sub_s", 0.001, 7200.0),
    ("contenders[0].exposures[0].filter.bands[0].centre_nm", 300.0, 1100.0),
    ("contenders[0].exposures[0].filter.bands[0].fwhm_nm", 0.3, 800.0),
    ("contenders[0].exposures[0].filter.bands[0].peak", 0.001, 1.0),
    ("contenders[0].exposures[0].filter.bands[0].order", 0.5, 20.0),
    ("contenders[0].exposures[0].filter.off_band_od", 0.5, 8.0),
    ("contenders[0].exposures[0].filter.n_eff", 1.2, 4.0),
    ("contenders[0].exposures[0].filter.centre_tolerance_nm", 0.0, 10.0),
    ("contenders[0].exposures[0].filter.rear_reflectance", 0.0, 1.0),
    ("contenders[0].exposures[0].filter.price", 0.0, 1e6),
    ("contenders[0].optics.throughput", 0.01, 1.0),
    ("contenders[0].optics.longest_sub_s", 0.001, 7200.0),
    ("contenders[0].sensor.pixel_um", 0.5, 100.0),
    ("contenders[0].sensor.readout_s", 0.0, 600.0),
    ("contenders[0].sensor.rise_above_ambient_k", 0.0, 60.0),
    ("contenders[0].sensor.dark.e_per_s", 0.0, 1e4),
    ("contenders[0].sensor.dark.at_c", -100.0, 80.0),
    ("contenders[0].sensor.dark.doubling_k", 1.0, 30.0),
    ("contenders[0].sensor.gains[0].e_per_adu", 1e-4, 1e4),
    ("contenders[0].sensor.gains[0].read_noise_e", 0.01, 1000.0),
    ("contenders[0].sensor.gains[0].full_well_e", 10.0, 1e8),
];

#[test]
fn a_full_scenario_is_accepted() {
    assert_eq!(errors(&full()), Vec::new());
}

#[test]
fn the_ends_of_every_range_are_accepted_and_what_lies_beyond_is_named() {
    for &(path, low, high) in RANGES {
        for edge in [low, high] {
            let mut doc = full();
            *at(&mut doc, path) = json!(edge);
            assert_eq!(errors(&doc), Vec::new(), "{path} = {edge}");
        }
        let step = (high - low) * 1e-3 + 1e-3;
        for beyond in [low - step, high + step] {
            let mut doc = full();
            *at(&mut doc, path) = json!(beyond);
            let found = errors(&doc);
            assert_eq!(found.len(), 1, "{path} = {beyond}: {found:?}");
            assert_eq!(found[0].0, path);
            assert!(
                found[0].1.contains("give") && found[0].1.contains(" to "),
                "{path}: {}",
                found[0].1
            );
        }
    }
}

#[test]
fn what_must_fit_together_is_checked_together() {
    type Change = fn(&mut Value);
    let cases: &[(&str, &str, Change)] = &[
        ("contenders", "at least one", |d| d["contenders"] = json!([])),
        ("contenders[0].exposures", "at least one", |d| {
            d["contenders"][0]["exposures"] = json!([])
        }),
        ("contenders[0].exposures", "must sum to 1", |d| {
            d["contenders"][0]["exposures"][0]["share"] = json!(0.9)
        }),
        ("sky.lamps", "must sum to 1", |d| d["sky"]["lamps"] = json!({"led_4000k": 0.4})),
        ("contenders[0].optics.obstruction_mm", "95 %", |d| {
            d["contenders"][0]["optics"]["obstruction_mm"] = json!(89.0)
        }),
        ("contenders[0].optics.focal_length_mm", "focal ratio", |d| {
            d["contenders"][0]["optics"]["focal_length_mm"] = json!(50.0)
        }),
        ("contenders[0].sensor.gains", "at least one", |d| {
            d["contenders"][0]["sensor"]["gains"] = json!([])
        }),
        ("contenders[0].sensor.gains[1].setting", "ascend", |d| {
            d["contenders"][0]["sensor"]["gains"][1]["setting"] = json!(0.0)
        }),
        ("contenders[0].sensor.offset_adu", "full scale", |d| {
            d["contenders"][0]["sensor"]["offset_adu"] = json!(65_000.0)
        }),
        ("contenders[0].sensor.cfa_curves", "mono", |d| {
            d["contenders"][0]["sensor"]["cfa_curves"] = json!({"r": [[400.0, 0.1], [700.0, 0.9]]});
        }),
        ("contenders[1].sensor.cfa", "four letters", |d| {
            d["contenders"][1]["sensor"]["cfa"] = json!("RGB")
        }),
        ("contenders[1].sensor.cfa_curves.g", "missing", |d| {
            d["contenders"][1]["sensor"]["cfa_curves"].as_object_mut().expect("curves").remove("g");
        }),
        ("contenders[0].exposures[0].filter.curve", "not both", |d| {
            d["contenders"][0]["exposures"][0]["filter"]["curve"] =
                json!([[500.0, 0.0], [600.0, 1.0]]);
        }),
        ("contenders[0].exposures[0].filter.bands", "bands or a curve", |d| {
            d["contenders"][0]["exposures"][0]["filter"]["bands"] = Value::Null;
        }),
        ("contenders[0].exposures[0].filter.bands", "1 to 12", |d| {
            d["contenders"][0]["exposures"][0]["filter"]["bands"] = json!([])
        }),
        ("contenders[0].exposures[0].test_frame.background_adu", "ADU", |d| {
            d["contenders"][0]["exposures"][0]["test_frame"]["background_adu"] = json!(100.0);
        }),
        ("contenders[0].exposures[0].filter.design_focal_ratios[1]", "give 4 to 100", |d| {
            d["contenders"][0]["exposures"][0]["filter"]["design_focal_ratios"] = json!([4.0, 3.0]);
        }),
        ("choices.uncertainty.draws", "20 to 2000", |d| {
            d["choices"]["uncertainty"]["draws"] = json!(5)
        }),
        ("version", "version 1", |d| d["version"] = json!(2)),
        ("title", "200 characters", |d| d["title"] = json!("x".repeat(201))),
    ];
    for (path, says, change) in cases {
        let mut doc = full();
        change(&mut doc);
        let found = errors(&doc);
        assert!(found.iter().any(|(p, m)| p == path && m.contains(says)), "{path}: {found:?}");
    }
}

#[test]
fn curves_are_named_by_their_row() {
    let mut doc = full();
    doc["contenders"][0]["sensor"]["qe"] = json!([[400.0, 0.5], [390.0, 0.6], [700.0, 0.7]]);
    let found = errors(&doc);
    assert_eq!(found.len(), 1, "{found:?}");
    assert!(found[0].0.starts_with("contenders[0].sensor.qe["), "{found:?}");
}

#[test]
fn several_mistakes_are_told_at_once() {
    let mut doc = full();
    doc["goal_snr"] = json!(-1.0);
    doc["sky"]["zenith_v_mag"] = json!(30.0);
    doc["contenders"][1]["gain"] = json!(-5.0);
    let paths: Vec<String> = errors(&doc).into_iter().map(|e| e.0).collect();
    assert_eq!(paths, ["goal_snr", "sky.zenith_v_mag", "contenders[1].gain"]);
}

#[test]
fn a_quantity_has_one_goal_and_stars_shine_in_the_continuum() {
    let mut doc = full();
    let goal = |q: &str| json!({"quantity": q, "detail_arcsec": 10.0});
    doc["goals"] = json!([goal("ha"), goal("oiii"), goal("ha")]);
    doc["goals"][1]["star_v_mag"] = json!(16.0);
    let errors = errors(&doc);
    let paths: Vec<&str> = errors.iter().map(|e| e.0.as_str()).collect();
    assert_eq!(paths, ["goals[1].star_v_mag", "goals[2].quantity"]);
    assert_eq!(errors[1].1, "H-alpha has a goal already; give one each");
}
