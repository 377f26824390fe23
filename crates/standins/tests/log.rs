//! A night with cloud, a drifting focus, lost guiding and a satellite, judged frame by frame and held
//! against what was really done.

use crate::help::{HERON_LAKE, judged, measured};
use salt_lamp_core::frame::plate::PlateQuestion;
use salt_lamp_core::library::Stars;
use salt_lamp_core::light::Tables;
use salt_lamp_core::log::{FrameJudged, NightAir, Rule, StarlightQuestion, starlight};
use salt_lamp_core::scenario::{Pointing, Scenario};
use salt_lamp_core::workers::SingleThread;
use salt_lamp_formats::frame::{open_frame, start_unix_s};
use salt_lamp_standins::weather::Cloud;
use salt_lamp_standins::{
    Camera, Instruments, Kind, Night, Shot, SkyReading, Truth, Weather, read_plan,
};

const PLAN: &str = r#"{"format": "salt-lamp-plan", "version": 1, "target": "NGC 2403",
    "ra_deg": 114.214, "dec_deg": 65.603, "site": "Heron Lake", "blocks": [
    {"filter": "Luminance", "from": "2026-11-20T06:00:00Z", "sub_s": 120, "subs": 30,
        "flip": "2026-11-20T06:50:00Z"}]}"#;

/// Plays the night; its truth beside what the log says.
fn played() -> Vec<(Truth, FrameJudged)> {
    let text = include_str!("../../../data/demo/heron-lake-ngc-2403.json");
    let mut scenario: Scenario = serde_json::from_str(text).expect("the demo");
    let sensor = &mut scenario.contenders[2].sensor;
    (sensor.columns, sensor.rows) = (560, 420);
    let scenario = scenario.check().expect("accepted");
    let tables = Tables::shipped().expect("tables");
    let plan = read_plan(PLAN).expect("a plan");
    let [from_s, to_s] = plan.ends_s().expect("times");
    let mut weather = Weather::new(4, from_s, to_s);
    weather.clouds = vec![Cloud { from_s: from_s + 1200.0, to_s: from_s + 2600.0, takes: 0.6 }];
    let camera = Camera::new(&scenario, 2, (Some(HERON_LAKE), None, 4), &tables);
    let camera = camera.expect("a camera").under(weather);
    let night = Night {
        camera: &camera,
        plan: &plan,
        position_angle_deg: 20.0,
        calibration: 2,
        speed: None,
        seed: 4,
    };
    let dir = tempfile::tempdir().expect("a folder");
    let truth = night.play(dir.path(), &SingleThread, |_, _, _| {}).expect("played");
    let measured = measured(dir.path(), truth.frames.iter().map(|t| &t.file));
    let judged = judged(&measured, &NightAir::default());
    let lights = truth.frames.into_iter().zip(judged).filter(|(t, _)| t.kind == "LIGHT");
    lights.map(|(t, j)| (t, j.expect("judged"))).collect()
}

#[test]
fn the_log_finds_again_what_the_night_did() {
    let night = played();
    assert_eq!(night.len(), 30);
    let (mut misjudged, mut turned) = (0, 0);
    for (t, j) in &night {
        let told = j.transparency.unwrap_or_else(|| panic!("{}: no stars match", t.file));
        assert!(
            (told / t.transparency - 1.0).abs() < 0.02,
            "{}: {told} for {}",
            t.file,
            t.transparency
        );
        // The galaxy's own light lies on a few tiles of the mesh; dark current is in both.
        let sky = j.background_e_per_s.expect("gain, and bias frames, are known");
        let truth = t.background_e_per_s["mono"];
        assert!((sky / truth - 1.0).abs() < 0.03, "{}: {sky} for {truth}", t.file);
        let cloud = j.reasons.iter().any(|r| r.rule == Rule::Cloud);
        misjudged += usize::from(cloud != (t.transparency < 0.7));
        turned += usize::from(j.turned_deg.is_some_and(|d| d.abs() > 90.0));
        // Stars of a frame whose guiding was lost are larger than those of its neighbours by far.
        if t.blur_rms_arcsec > 1.5 {
            assert!(j.reasons.iter().any(|r| r.rule == Rule::Size), "{}: {:?}", t.file, j.reasons);
        }
    }
    // At most 5 % of the frames.
    assert!(misjudged <= 1, "{misjudged} misjudged");
    assert!(night.iter().filter(|(t, _)| t.transparency < 0.7).count() >= 4);
    assert!(turned > 0 && turned < 30, "{turned}");
    // Dither moves the field over the pixels by up to eight to each side.
    let right = || night.iter().filter_map(|(_, j)| Some(j.shift_px?[0]));
    let [low, high] = [right().fold(f64::MAX, f64::min), right().fold(f64::MIN, f64::max)];
    assert!((8.0..17.0).contains(&(high - low)), "{low} to {high}");
    assert!(
        night.iter().any(|(t, _)| t.satellite)
            && night.iter().any(|(t, _)| t.blur_rms_arcsec > 1.5)
    );
}

/// A wide frame of the Pleiades' neighbourhood, rendered with the real stars at their places.
#[test]
fn where_a_rendered_frame_looks_is_found_again_and_its_stars_weigh_the_rig() {
    let text = include_str!("../../../data/demo/heron-lake-ngc-2403.json");
    let mut scenario: Scenario = serde_json::from_str(text).expect("the demo");
    let own = &mut scenario.contenders[2];
    // A short telescope: many stars of the catalogue on the frame.
    (own.optics.focal_length_mm, own.sensor.columns, own.sensor.rows) = (400.0, 2600, 1900);
    let scenario = scenario.check().expect("accepted");
    let tables = Tables::shipped().expect("tables");
    let camera = Camera::new(&scenario, 2, (Some(HERON_LAKE), None, 4), &tables).expect("a camera");
    let truth = Pointing { ra_deg: 114.4, dec_deg: 65.9, position_angle_deg: 200.3 };
    let shot = Shot {
        kind: Kind::Light,
        exposure: 0,
        exposure_s: 2.0,
        start_s: 1_795_154_400.0,
        at: Some(truth),
        // After the half turn, and a little beside where it is framed.
        framed: Some(Pointing { ra_deg: 114.404, dec_deg: 65.902, position_angle_deg: 20.3 }),
        object: "NGC 2403".to_owned(),
        number: 1,
    };
    let dir = tempfile::tempdir().expect("a folder");
    let told = camera.take(&shot, dir.path(), &SingleThread).expect("taken");
    let measured = open_frame(&dir.path().join(&told.file))
        .and_then(|f| f.measure(&SingleThread))
        .expect("measured");
    let stars = Stars::nameless();
    let scale = measured.read.header.pixel_scale_arcsec().expect("pixel and focal length");
    let question = PlateQuestion {
        stars: &measured.channels[0].brightest,
        size: [measured.columns, measured.rows],
        near_deg: [114.3, 65.7],
        scale_arcsec: scale,
    };
    let solved = question
        .solve(&|[ra, dec], radius| stars.around(ra, dec, radius, 10.5))
        .expect("enough stars stand there");
    let p = solved.plate;
    let [east, north] = truth.east_north_arcsec(p.ra_deg, p.dec_deg).expect("near");
    // A fifth of a pixel of two arcsec.
    assert!(east.hypot(north) < 0.4, "{east} {north}");
    assert!((p.position_angle_deg - 200.3).abs() < 0.01, "{}", p.position_angle_deg);
    assert!((p.scale_arcsec / scale - 1.0).abs() < 1e-3 && !p.mirrored);
    let start_s = measured.read.header.start.as_deref().and_then(start_unix_s);
    let air = NightAir::default();
    let background = told.background_e_per_s["mono"];
    let weighed = starlight(
        &StarlightQuestion {
            frame: &measured,
            solved: &solved,
            path: [2, 0],
            airmass: air.airmass(&measured, start_s),
            k_mag: 0.12,
            background_e_per_s: Some(background),
        },
        &scenario,
        &tables,
    )
    .expect("whole stars");
    assert!(weighed.stars >= 8, "{weighed:?}");
    // Throughput within 3 %.
    assert!((weighed.of_promised - 1.0).abs() < 0.03, "{weighed:?}");
    assert!(weighed.scatter_mag < 0.1, "{weighed:?}");
}

#[test]
fn a_sky_meter_sees_the_cloud_s_light_and_a_watcher_the_cloud() {
    let text = include_str!("../../../data/demo/heron-lake-ngc-2403.json");
    let scenario: Scenario = serde_json::from_str(text).expect("the demo");
    let scenario = scenario.check().expect("accepted");
    let tables = Tables::shipped().expect("tables");
    // Half past three in the morning there: the moon is down, and dawn is far.
    let from_s = 1_795_163_400.0;
    let mut weather = Weather::new(4, from_s, from_s + 3600.0);
    weather.clouds = vec![Cloud { from_s: from_s + 900.0, to_s: from_s + 3300.0, takes: 0.6 }];
    let camera = Camera::new(&scenario, 2, (Some(HERON_LAKE), None, 4), &tables);
    let camera = camera.expect("a camera").under(weather);
    let seen = Instruments { camera: &camera, span_s: [from_s, from_s + 3600.0], seed: 4 };
    let (sky, clouds) = (seen.sky().expect("read"), seen.clouds().expect("read"));
    assert_eq!((sky.len(), clouds.len()), (61, 61));
    assert_eq!(seen.sky().expect("read"), sky);
    assert_eq!(clouds[10].cover, 0.0);
    assert!((clouds[35].cover - 0.6).abs() < 0.01, "{}", clouds[35].cover);
    // A cloud that takes 0.6 makes the sky 1.6 times brighter.
    let mean = |from: usize| sky[from..from + 5].iter().map(|r| r.sky_v_mag).sum::<f64>() / 5.0;
    let brighter = mean(5) - mean(33);
    assert!((brighter - 2.5 * 1.6f64.log10()).abs() < 0.1, "{brighter}");
    let zenith = scenario.scenario().sky.zenith_v_mag;
    assert!((mean(5) - zenith).abs() < 0.3, "{} at a site of {zenith}", mean(5));
    let dir = tempfile::tempdir().expect("a folder");
    seen.write_sky(dir.path()).and_then(|()| seen.write_clouds(dir.path())).expect("written");
    let lines = std::fs::read_to_string(dir.path().join("sky-meter.jsonl")).expect("there");
    let back: Vec<SkyReading> =
        lines.lines().map(|l| serde_json::from_str(l).expect("a reading")).collect();
    assert_eq!(back, sky);
    let table = std::fs::read_to_string(dir.path().join("clouds.csv")).expect("there");
    assert_eq!(table.lines().next(), Some("at_utc,cover"));
    assert_eq!(table.lines().count(), 62);
}
