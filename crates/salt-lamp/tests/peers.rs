//! What the program writes, read back by general-purpose libraries of another language: astropy for
//! tables and FITS, icalendar for calendars. The Python environment is the one that `cargo xtask
//! test` installs.

use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};

use salt_lamp_core::decide::{Study, decide};
use salt_lamp_core::library::Library;
use salt_lamp_core::light::Tables;
use salt_lamp_core::log::{NightFrame, night_judged};
use salt_lamp_core::look::{Look, LookView, whole_sub};
use salt_lamp_core::report::matrix;
use salt_lamp_core::workers::SingleThread;
use salt_lamp_core::{Scenario, evaluate};
use salt_lamp_formats::fits::{
    Header, Pixels, Pointing, Shape, Value, write_image, write_image_in_bands,
};
use salt_lamp_formats::frame::open_frame;
use salt_lamp_formats::log::{LogLine, LogTable, log_table};
use salt_lamp_formats::table::{TableFormat, write_table};

fn root() -> PathBuf {
    PathBuf::from(concat!(env!("CARGO_MANIFEST_DIR"), "/../.."))
}

/// Runs a script of reference/scripts on a file; what it printed.
fn python(script: &str, file: &Path) -> String {
    let python = root().join(".venv/bin/python");
    assert!(python.exists(), "the Python environment is missing: run `cargo xtask test`");
    let out = Command::new(python)
        .arg(root().join("reference/scripts").join(script))
        .arg(file)
        .stdin(Stdio::null())
        .output()
        .expect("Python starts");
    assert!(out.status.success(), "{script}: {}", String::from_utf8_lossy(&out.stderr));
    String::from_utf8(out.stdout).expect("text")
}

fn demo(name: &str) -> Scenario {
    let path = root().join(format!("data/demo/{name}.json"));
    serde_json::from_str(&std::fs::read_to_string(&path).expect("the demo")).expect("parses")
}

#[test]
fn astropy_reads_a_comparison_with_its_units_and_numbers() {
    let scenario = demo("larch-lane-ic-443").check().expect("accepted");
    let tables = Tables::shipped().expect("tables");
    let shelf = Library::shipped().expect("library").gear;
    let answer = evaluate(&scenario, &tables);
    let study = Study::new(scenario, &tables);
    let table = matrix(&study, &decide(&study, &shelf));
    let directory = tempfile::tempdir().expect("a directory");
    let file = directory.path().join("comparison.ecsv");
    std::fs::write(&file, write_table(&table, TableFormat::Ecsv)).expect("written");
    let said: serde_json::Value =
        serde_json::from_str(&python("check_comparison.py", &file)).expect("JSON");
    assert_eq!(said["units"]["time_ha_h"], "h");
    assert_eq!(said["units"]["pixel_scale_arcsec"], "arcsec");
    assert_eq!(said["title"], "IC 443 from Larch Lane");
    for (i, c) in answer.contenders.iter().enumerate() {
        let ours = c.quantities[&salt_lamp_core::light::Quantity::Ha].snr;
        let theirs = said["snr_ha"][i].as_f64().expect("a number");
        assert!((ours / theirs - 1.0).abs() < 1e-5, "{ours} {theirs}");
        assert_eq!(said["name"][i], c.name.as_str());
    }
    assert!(
        said["missing_sii"].as_array().expect("flags")[0].as_bool().expect("a flag"),
        "mono records no [S II]"
    );
}

/// A night of the log as ECSV: units, truth values, what is missing, and text with commas in it.
#[test]
fn astropy_reads_a_night_of_the_log() {
    let frame = || {
        let at = root().join("reference/frames/round.fits");
        open_frame(&at).expect("read").measure(&SingleThread).expect("measured")
    };
    let frames = [frame(), frame()];
    let night = frames.each_ref().map(|measured| NightFrame {
        measured,
        start_s: None,
        airmass: None,
        guiding_arcsec: None,
    });
    let judged = night_judged(&night, &|_| 0.2);
    let line = |i: usize, kept| LogLine {
        measured: &frames[i],
        judged: judged[i].as_ref(),
        kept,
        why: "a plane, low; \"loud\"",
    };
    let directory = tempfile::tempdir().expect("a directory");
    let file = directory.path().join("night.ecsv");
    let table = log_table(&[line(0, true), line(1, false)], LogTable::Ecsv);
    std::fs::write(&file, table).expect("written");
    let said: serde_json::Value =
        serde_json::from_str(&python("check_log.py", &file)).expect("JSON");
    assert_eq!(said["files"], serde_json::json!(["round.fits", "round.fits"]));
    assert_eq!(said["kept"], serde_json::json!([true, false]));
    assert_eq!(said["airmass_missing"], serde_json::json!([true, true]));
    assert_eq!(said["reasons"][1], "a plane, low; \"loud\"");
    for (name, unit) in [
        ("exposure_s", "s"),
        ("sensor_c", "deg_C"),
        ("background_e_per_s", "electron / s"),
        ("hfr_px", "pix"),
        ("fwhm_arcsec", "arcsec"),
        ("turned_deg", "deg"),
    ] {
        assert_eq!(said["units"][name], unit, "{name}");
    }
    let own = judged[0].as_ref().expect("judged");
    assert_eq!(said["stars"][0], own.stars);
    let hfr_px = said["hfr_px"][0].as_f64().expect("a number");
    assert!((hfr_px - own.hfr_px.expect("known")).abs() < 1e-9);
}

/// A crop and a whole sub as FITS: astropy verifies them without a word, and their world
/// coordinates come back.
#[test]
fn astropy_verifies_frames_and_their_coordinates() {
    let mut s = demo("larch-lane-ic-443");
    (s.contenders[1].sensor.columns, s.contenders[1].sensor.rows) = (640, 430);
    let scenario = s.clone().check().expect("accepted");
    let tables = Tables::shipped().expect("tables");
    let view = LookView { field_arcsec: 240.0, ..LookView::default() };
    let directory = tempfile::tempdir().expect("a directory");
    let pointing =
        Pointing { ra_deg: 94.25, dec_deg: 22.57, position_angle_deg: 30.0, scale_arcsec: 1.8466 };
    let header = |size: [usize; 2], pixels: Pixels| {
        let mut h = Header::image(size[0], size[1], pixels);
        h.set("EXPTIME", Value::Real(180.0), "[s]");
        h.set("FILTER", Value::Text("Dual band 7 nm".into()), "");
        h.set("OBJECT", Value::Text("it's IC 443".into()), "");
        h.point(&pointing, size[0], size[1]);
        h
    };
    let look = Look::new(scenario.clone(), view, &tables, &SingleThread);
    let (size, stack) = (look.contenders[1].size, look.stack(1, 0, 1.0, false));
    let crop = directory.path().join("crop.fits");
    let mut out = Vec::new();
    write_image(&mut out, &header(size, Pixels::Float), size[0], size[1], |j, row| {
        row.copy_from_slice(&stack.e[j * size[0]..][..size[0]])
    })
    .expect("written");
    std::fs::write(&crop, out).expect("written");
    let sub = whole_sub(&scenario, 1, 0, (&view, None), &tables, &SingleThread).expect("a sub");
    let frame = directory.path().join("sub.fits");
    let mut out = Vec::new();
    let shape = Shape { columns: sub.size[0], rows: sub.size[1], pixels: Pixels::Unsigned16 };
    write_image_in_bands(&mut out, &header(sub.size, shape.pixels), shape, 2, |j, row| {
        sub.row(j, row)
    })
    .expect("written");
    std::fs::write(&frame, out).expect("written");
    for (file, size, bitpix, top_left) in [
        (&crop, size, -32, f64::from(stack.e[0])),
        (&frame, sub.size, 16, {
            let mut row = vec![0f32; sub.size[0]];
            sub.row(0, &mut row);
            f64::from(row[0])
        }),
    ] {
        let said: serde_json::Value =
            serde_json::from_str(&python("check_fits.py", file)).expect("JSON");
        assert_eq!(said["shape"], serde_json::json!([size[1], size[0]]));
        assert_eq!(said["bitpix"], bitpix);
        assert_eq!(
            (&said["exptime"], &said["filter"], &said["object"]),
            (&180.0.into(), &"Dual band 7 nm".into(), &"it's IC 443".into())
        );
        // The last row of the file is the picture's first.
        assert!((said["top_left"].as_f64().expect("a number") - top_left).abs() < 1e-3);
        let near = |key: &str, want: f64, allowed: f64| {
            let got = said[key].as_f64().expect(key);
            assert!((got - want).abs() < allowed, "{key}: {got} against {want}");
        };
        near("ra_deg", 94.25, 1e-9);
        near("dec_deg", 22.57, 1e-9);
        // A hundred pixels up lies towards 30 degrees east of north, a hundred pixels' length away.
        near("up_position_angle_deg", 30.0, 0.05);
        near("up_arcsec", 184.66, 0.01);
        near("right_position_angle_deg", 300.0, 0.05);
        near("round_trip_px", 0.0, 1e-6);
        assert_eq!(said["objctra"], "06 17 00.00");
        assert_eq!(said["objctdec"], "+22 34 12.0");
        near("sexagesimal_offset_arcsec", 0.0, 0.1);
    }
}

/// The plan of a night with a change of clocks as iCalendar, read by a general library, its times
/// in another zone.
#[test]
fn a_calendar_library_reads_the_plan_with_its_alarms_and_zones() {
    use salt_lamp_core::night::{
        Change, Direction, LocalClock, NightRig, NightTarget, Place, PlanSpec, night_view,
        plan_targets, unix_midnight,
    };
    use salt_lamp_core::scenario::NightLimits;
    use salt_lamp_formats::plan::{PlanHead, PlanTarget, plan_ics};
    let scenario = demo("larch-lane-ic-443").check().expect("accepted");
    let rig = NightRig::new(&scenario, 0, &Tables::shipped().expect("tables")).expect("a rig");
    let names = ["H-alpha 3 nm".to_owned(), "[O III] 3 nm".to_owned()];
    // Clocks go back in this night; noon is 16:00 UTC, noon next day 17:00 UTC.
    let from_s = unix_midnight(2026, 10, 31).expect("a date") + 16.0 * 3600.0;
    let place = Place { latitude_deg: 46.35, longitude_deg: -72.55, height_m: 30.0 };
    let target = Direction { ra_deg: 0.9, dec_deg: 67.15 };
    let clock = LocalClock(vec![(0.0, -14_400.0), (1_793_512_800.0, -18_000.0)]);
    // The first stands from 60 degrees up only, so that the night has room for a second.
    let high = NightLimits { altitude_above_deg: 60.0, ..NightLimits::default() };
    let view = night_view(place, from_s, from_s + 25.0 * 3600.0, target, &high, Some(&rig))
        .expect("sun and moon");
    let later = Direction { ra_deg: 94.25, dec_deg: 22.57 };
    let view_later = night_view(
        place,
        from_s,
        from_s + 25.0 * 3600.0,
        later,
        &NightLimits::default(),
        Some(&rig),
    )
    .expect("sun and moon");
    let spec = PlanSpec::default();
    let of =
        |view| NightTarget { rig: &rig, names: &names, view, spec: &spec, change: Change::Sinks };
    let plans = plan_targets(&[of(&view), of(&view_later)], &NightLimits::default(), &clock);
    let (plan, second) = (&plans[0], &plans[1]);
    let head = PlanHead {
        site: "Larch Lane".into(),
        zone: "America/Toronto".into(),
        date: "2026-10-31".into(),
    };
    let place_of = |name: &str, at: Direction| PlanTarget {
        target: name.into(),
        ra_deg: at.ra_deg,
        dec_deg: at.dec_deg,
        coordinates: "06h 17m 00.0s +22\u{b0} 34\u{2032} 12\u{2033}".into(),
    };
    assert!(
        !second.blocks.is_empty() && plan.finished_s.is_none() && second.setup_from_s.is_none()
    );
    let directory = tempfile::tempdir().expect("a directory");
    let file = directory.path().join("plan.ics");
    std::fs::write(
        &file,
        plan_ics(
            &head,
            &[(place_of("NGC 7822", target), plan), (place_of("IC 443", later), second)],
        ),
    )
    .expect("written");
    let said: serde_json::Value =
        serde_json::from_str(&python("check_ics.py", &file)).expect("JSON");
    let events = said["events"].as_array().expect("events");
    let blocks = || plan.blocks.iter().chain(&second.blocks);
    let flips = blocks().filter(|b| b.flip_s.is_some()).count();
    // Set-up, the move to the second target, and the end, besides blocks and flips.
    assert_eq!(events.len(), blocks().count() + flips + 3);
    assert_eq!(
        events.iter().map(|e| e["alarms"].as_u64().expect("a count")).sum::<u64>() as usize,
        flips + 3
    );
    assert!(events.iter().any(|e| e["summary"] == "Move to IC 443"), "{said}");
    for b in blocks() {
        let own = events
            .iter()
            .find(|e| {
                e["start_unix"].as_f64() == Some(b.from_s) && e["end_unix"].as_f64() == Some(b.to_s)
            })
            .unwrap_or_else(|| panic!("{b:?} in {said}"));
        assert_eq!(own["end_unix"].as_f64(), Some(b.to_s));
        // In Auckland the evening is the next day's afternoon, thirteen hours ahead of UTC.
        let utc = own["start_utc"].as_str().expect("a time");
        let there = own["start_auckland"].as_str().expect("a time");
        assert!(utc.ends_with("+00:00") && there.ends_with("+13:00") && utc != there);
    }
}
