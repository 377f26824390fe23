//! A night that the camera plays is found again in its frames.

use std::path::Path;

use crate::help::LARCH_LANE;
use salt_lamp_core::Checked;
use salt_lamp_core::frame::FrameMeasured;
use salt_lamp_core::frame::verdict::{FrameVerdict, Standing, Taken, judge};
use salt_lamp_core::light::Tables;
use salt_lamp_core::workers::SingleThread;
use salt_lamp_formats::frame::{open_frame, start_unix_s};
use salt_lamp_standins::{Camera, Night, read_plan};

const PLAN: &str = r#"{"format": "salt-lamp-plan", "version": 1, "target": "IC 443", "ra_deg":
    94.25,
    "dec_deg": 22.57, "site": "Larch Lane", "blocks": [
    {"filter": "H-alpha 3 nm", "from": "2027-01-11T02:00:00Z", "to": "2027-01-11T02:11:00Z",
        "sub_s": 300, "subs": 2, "target": "IC 443"},
    {"filter": "[O III] 3 nm", "from": "2027-01-11T02:20:00Z", "to": "2027-01-11T02:26:00Z",
        "sub_s": 300, "subs": 1}]}"#;

fn scenario(change: impl FnOnce(&mut salt_lamp_core::Scenario)) -> Checked {
    let text = include_str!("../../../data/demo/larch-lane-ic-443.json");
    let mut scenario: salt_lamp_core::Scenario = serde_json::from_str(text).expect("the demo");
    change(&mut scenario);
    scenario.check().expect("accepted")
}

fn play(scenario: &Checked, to: &Path, seed: u32) -> salt_lamp_standins::truth::NightTruth {
    let tables = Tables::shipped().expect("tables");
    let with = (Some(LARCH_LANE), Some(700), seed);
    let camera = Camera::new(scenario, 0, with, &tables).expect("a camera");
    let plan = read_plan(PLAN).expect("a plan");
    let night = Night {
        camera: &camera,
        plan: &plan,
        position_angle_deg: 20.0,
        calibration: 1,
        speed: None,
        seed,
    };
    night.play(to, &SingleThread, |_, _, _| {}).expect("played")
}

fn measured(at: &Path) -> FrameMeasured {
    let file = open_frame(at).unwrap_or_else(|e| panic!("{e}"));
    file.measure(&SingleThread).unwrap_or_else(|e| panic!("{e}"))
}

#[test]
fn what_is_measured_is_what_was_played() {
    let dir = tempfile::tempdir().expect("a folder");
    let truth = play(&scenario(|_| {}), dir.path(), 7);
    let kinds: Vec<&str> = truth.frames.iter().map(|f| f.kind.as_str()).collect();
    assert_eq!(kinds, ["LIGHT", "LIGHT", "LIGHT", "FLAT", "FLAT", "DARK", "BIAS"]);
    let told: salt_lamp_standins::truth::NightTruth = serde_json::from_str(
        &std::fs::read_to_string(dir.path().join("truth.json")).expect("written"),
    )
    .expect("JSON");
    assert_eq!(told, truth);
    for t in &truth.frames {
        let frame = measured(&dir.path().join(&t.file));
        let own = &frame.channels[0];
        let level = t.level_adu["mono"];
        let noise_e2 = (level - t.offset_adu) * t.e_per_adu + t.read_noise_e.powi(2);
        let sigma = noise_e2.sqrt() / t.e_per_adu;
        // The nebula lies on the sky of a light; a flat's noise is its light's.
        let within = if t.kind == "LIGHT" {
            0.03 * (level - t.offset_adu) + 0.1 * sigma
        } else {
            0.1 * sigma
        };
        assert!(
            (own.level_adu - level).abs() < within,
            "{}: {} against {level}",
            t.file,
            own.level_adu
        );
        assert!(
            (own.sigma_adu / sigma - 1.0).abs() < 0.03,
            "{}: {} against {sigma}",
            t.file,
            own.sigma_adu
        );
        let h = &frame.read.header;
        assert_eq!(h.exposure_s, Some(t.exposure_s));
        assert!((h.e_per_adu.expect("said") - t.e_per_adu).abs() < 1e-9);
        assert_eq!(
            h.start.as_deref().and_then(start_unix_s).map(|s| s as i64 % 60),
            t.start.get(17..19).map(|s| s.parse().expect("seconds"))
        );
        if t.kind == "LIGHT" {
            assert_eq!(h.filter, t.filter);
            let [ra, dec] = [h.ra_deg, h.dec_deg].map(|v| v.expect("a place"));
            assert!(
                (ra - t.ra_deg.expect("said")).abs() < 1e-4
                    && (dec - t.dec_deg.expect("said")).abs() < 1e-4
            );
            let fwhm = own.fwhm_px.expect("there are stars");
            let wanted = t.star_fwhm_px.expect("said");
            // A pixel's own width is in what is measured.
            assert!((fwhm / wanted.hypot(0.7) - 1.0).abs() < 0.15, "{fwhm} against {wanted}");
        }
    }
}

#[test]
fn the_same_seed_plays_the_same_night() {
    let dirs = [1, 1, 2].map(|seed| {
        let dir = tempfile::tempdir().expect("a folder");
        play(&scenario(|_| {}), dir.path(), seed);
        dir
    });
    let name = std::fs::read_dir(dirs[0].path())
        .expect("listed")
        .filter_map(|e| e.expect("an entry").file_name().into_string().ok())
        .find(|n| n.starts_with("light"))
        .expect("a light");
    let [a, b, c] = dirs.each_ref().map(|d| std::fs::read(d.path().join(&name)).expect("read"));
    assert!(a == b && a != c);
}

fn verdict(scenario: &Checked, frame: &FrameMeasured, exposure: usize) -> FrameVerdict {
    let tables = Tables::shipped().expect("tables");
    let taken = Taken {
        contender: 0,
        exposure,
        site: frame.site(),
        start_s: frame.read.header.start.as_deref().and_then(start_unix_s),
        frame,
    };
    judge(scenario, &taken, &tables).unwrap_or_else(|e| panic!("{e:?}"))
}

fn of<'a>(v: &'a FrameVerdict, about: &str) -> &'a salt_lamp_core::frame::verdict::Sentence {
    v.sentences.iter().find(|s| s.about == about).unwrap_or_else(|| panic!("no {about}: {v:?}"))
}

/// The frame's own sky agrees; one half a magnitude brighter than the frame's is said, with the
/// reading that explains the frame: with that it agrees.
#[test]
fn the_verdict_knows_the_sky_that_was_played() {
    let dir = tempfile::tempdir().expect("a folder");
    // As high as the target stands in the first sub: the model's sky is the frame's.
    let played = play(&scenario(|_| {}), dir.path(), 3);
    let t = &played.frames[0];
    let frame = measured(&dir.path().join(&t.file));
    let height = t.target_altitude_deg.expect("said");
    let own = scenario(|s| s.sky.target_altitude_deg = height);
    let v = verdict(&own, &frame, 0);
    assert_eq!(of(&v, "sky").standing, Standing::Good, "{}", of(&v, "sky").text);
    assert_eq!(of(&v, "noise").standing, Standing::Good, "{}", of(&v, "noise").text);
    assert_eq!(of(&v, "stars").standing, Standing::Good, "{}", of(&v, "stars").text);
    let [from, to] = v.plateau_s;
    assert!(from < to && (0.9 * from..=to).contains(&v.sub_s), "{v:?}");
    let bright = scenario(|s| {
        s.sky.target_altitude_deg = height;
        s.sky.zenith_v_mag -= 0.6;
    });
    let v = verdict(&bright, &frame, 0);
    let sky = of(&v, "sky");
    assert_eq!(sky.standing, Standing::Look);
    assert!(sky.text.contains("mag darker"), "{}", sky.text);
    let taken = v.sky.as_ref().and_then(|s| s.toward_target_v_mag).expect("a reading");
    let mended = scenario(|s| {
        s.sky.target_altitude_deg = height;
        s.sky.zenith_v_mag -= 0.6;
        s.sky.toward_target_v_mag = Some(taken);
        s.sky.toward_target_altitude_deg = Some(height);
    });
    assert_eq!(of(&verdict(&mended, &frame, 0), "sky").standing, Standing::Good);
}

/// A header that lies about its gain shows in the noise; a bias frame is no sub.
#[test]
fn the_verdict_says_what_contradicts_the_model() {
    let dir = tempfile::tempdir().expect("a folder");
    let played = play(&scenario(|_| {}), dir.path(), 4);
    let mut frame = measured(&dir.path().join(&played.frames[0].file));
    let own = scenario(|_| {});
    frame.read.header.e_per_adu = frame.read.header.e_per_adu.map(|e| 2.0 * e);
    let v = verdict(&own, &frame, 0);
    assert!(of(&v, "header").text.contains("e-/ADU"), "{}", of(&v, "header").text);
    let noise = of(&v, "noise");
    assert_eq!(noise.standing, Standing::Look, "{}", noise.text);
    assert!(noise.text.contains("e-/ADU may be smaller"), "{}", noise.text);
    let bias = played.frames.iter().find(|f| f.kind == "BIAS").expect("a bias frame");
    let v = verdict(&own, &measured(&dir.path().join(&bias.file)), 0);
    assert!(v.headline.starts_with("Stop"), "{}", v.headline);
    assert_eq!(of(&v, "stars").standing, Standing::Wrong, "{}", of(&v, "stars").text);
    // What a header cannot mean is refused by its field.
    let with = |change: &dyn Fn(&mut FrameMeasured)| {
        let mut odd = frame.clone();
        change(&mut odd);
        let taken = Taken { contender: 0, exposure: 0, site: None, start_s: None, frame: &odd };
        let tables = Tables::shipped().expect("tables");
        judge(&own, &taken, &tables).expect_err("refused")[0].path.clone()
    };
    assert_eq!(with(&|f| f.read.header.e_per_adu = Some(-1.0)), "frame.header.e_per_adu");
    assert_eq!(with(&|f| f.read.header.binning = Some(1e300)), "frame.header.binning");
    // Without an exposure nothing can be judged, and the field is named.
    frame.read.header.exposure_s = None;
    let taken = Taken { contender: 0, exposure: 0, site: None, start_s: None, frame: &frame };
    let e = judge(&own, &taken, &Tables::shipped().expect("tables")).expect_err("refused");
    assert_eq!(e[0].path, "frame.header.exposure_s");
    let e = judge(&own, &Taken { contender: 2, ..taken }, &Tables::shipped().expect("tables"));
    assert!(e.is_err(), "a colour camera's path");
}

#[test]
fn plans_that_cannot_be_played_say_why() {
    let refused = |text: &str| read_plan(text).expect_err("refused").to_string();
    assert!(refused("{}").contains("format"));
    assert!(refused(&PLAN.replace("salt-lamp-plan", "x")).contains("salt-lamp-plan is played"));
    let empty = r#"{"format": "salt-lamp-plan", "target": "a", "ra_deg": 1, "dec_deg": 1,
    "site": "", "blocks": []}"#;
    assert!(refused(empty).contains("no block"));
    let tables = Tables::shipped().expect("tables");
    let camera = Camera::new(&scenario(|_| {}), 2, (None, Some(64), 1), &tables).expect("a camera");
    let plan = read_plan(PLAN).expect("a plan");
    let night = Night {
        camera: &camera,
        plan: &plan,
        position_angle_deg: 0.0,
        calibration: 1,
        speed: None,
        seed: 1,
    };
    let e = night.shots().expect_err("other filters").to_string();
    assert!(e.contains("H-alpha 3 nm") && e.contains("no filter"), "{e}");
    assert!(Camera::new(&scenario(|_| {}), 9, (None, None, 1), &tables).is_err());
}
