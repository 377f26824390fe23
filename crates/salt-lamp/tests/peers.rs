//! What the program writes, read back by general-purpose libraries of another language: astropy for tables and FITS,
//! icalendar for calendars. The Python environment is the one that `cargo xtask test` installs.

use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};

use salt_lamp_core::compare::matrix;
use salt_lamp_core::decide::decide;
use salt_lamp_core::gear::Library;
use salt_lamp_core::light::Tables;
use salt_lamp_core::{Scenario, evaluate};
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
    let filters = Library::shipped().expect("library").gear.filters;
    let answer = evaluate(&scenario, &tables);
    let table = matrix(&scenario, &answer, &decide(&scenario, &filters, &tables));
    let directory = tempfile::tempdir().expect("a directory");
    let file = directory.path().join("comparison.ecsv");
    std::fs::write(&file, write_table(&table, TableFormat::Ecsv)).expect("written");
    let said: serde_json::Value = serde_json::from_str(&python("check_comparison.py", &file)).expect("JSON");
    assert_eq!(said["units"]["time_ha_h"], "h");
    assert_eq!(said["units"]["pixel_scale_arcsec"], "arcsec");
    assert_eq!(said["title"], "IC 443 from Larch Lane");
    for (i, c) in answer.contenders.iter().enumerate() {
        let ours = c.quantities[&salt_lamp_core::light::Quantity::Ha].snr;
        let theirs = said["snr_ha"][i].as_f64().expect("a number");
        assert!((ours / theirs - 1.0).abs() < 1e-5, "{ours} {theirs}");
        assert_eq!(said["name"][i], c.name.as_str());
    }
    assert!(said["missing_sii"].as_array().expect("flags")[0].as_bool().expect("a flag"), "mono records no [S II]");
}
