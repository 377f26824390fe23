//! The rules of the house: who may depend on whom, what the core may reach, and that generated files are fresh.

use std::collections::{BTreeMap, BTreeSet};
use std::path::PathBuf;
use std::process::Command;

use serde_json::Value;

fn root() -> PathBuf {
    PathBuf::from(concat!(env!("CARGO_MANIFEST_DIR"), "/../.."))
}

fn metadata() -> Value {
    // Only what this machine builds: crates for other systems were never downloaded.
    let version = Command::new("rustc").arg("-vV").output().expect("rustc runs");
    let version = String::from_utf8(version.stdout).expect("text");
    let host = version.lines().find_map(|l| l.strip_prefix("host: ")).expect("a host");
    let args = ["metadata", "--format-version", "1", "--offline", "--filter-platform", host];
    let out = Command::new(env!("CARGO")).args(args).current_dir(root()).output().expect("cargo runs");
    assert!(out.status.success(), "{}", String::from_utf8_lossy(&out.stderr));
    serde_json::from_slice(&out.stdout).expect("JSON")
}

/// What each of our crates depends on outside its tests, by crate name.
fn normal_dependencies(metadata: &Value) -> BTreeMap<String, BTreeSet<String>> {
    let packages = metadata["packages"].as_array().expect("packages");
    let of = |p: &Value| {
        let deps = p["dependencies"].as_array().expect("dependencies").iter();
        deps.filter(|d| d["kind"].is_null()).map(|d| d["name"].as_str().expect("a name").to_owned()).collect()
    };
    packages.iter().map(|p| (p["name"].as_str().expect("a name").to_owned(), of(p))).collect()
}

#[test]
fn dependencies_point_down() {
    let order = ["salt-lamp", "salt-lamp-server", "salt-lamp-store", "salt-lamp-formats", "salt-lamp-core"];
    let rank = |name: &str| order.iter().position(|o| *o == name);
    let deps = normal_dependencies(&metadata());
    for (i, name) in order.iter().enumerate() {
        for dep in &deps[*name] {
            if let Some(j) = rank(dep) {
                assert!(j > i, "{name} must not depend on {dep}");
            }
        }
    }
    assert!(!deps["salt-lamp-formats"].contains("salt-lamp-store") && !deps["salt-lamp-store"].contains("salt-lamp-formats"));
    assert!(!deps["salt-lamp-formats"].contains("sqlx"), "formats knows no database");
    assert!(!deps["salt-lamp-store"].contains("axum"), "the store knows no HTTP");
}

#[test]
fn the_core_reaches_nothing_that_does_io_waits_or_tells_the_time() {
    // The tree of the core alone: a workspace's resolution mixes in features that only tests ask for.
    let args = ["tree", "--offline", "--package", "salt-lamp-core", "--edges", "normal", "--prefix", "none"];
    let out = Command::new(env!("CARGO")).args(args).current_dir(root()).output().expect("cargo runs");
    assert!(out.status.success(), "{}", String::from_utf8_lossy(&out.stderr));
    let tree = String::from_utf8(out.stdout).expect("text");
    let reached: BTreeSet<String> = tree.lines().filter_map(|l| l.split_whitespace().next()).map(str::to_owned).collect();
    assert!(reached.contains("serde"), "the walk works: {reached:?}");
    let forbidden = [
        "tokio",
        "futures",
        "async-std",
        "smol",
        "mio",
        "axum",
        "hyper",
        "reqwest",
        "sqlx",
        "rusqlite",
        "chrono",
        "time",
        "jiff",
        "instant",
        "getrandom",
        "tempfile",
        "walkdir",
        "socket2",
        "tracing-subscriber",
        "rayon",
    ];
    for name in forbidden {
        assert!(!reached.contains(name), "the core must not reach {name}");
    }
    for file in rust_files(&root().join("crates/core/src")) {
        let text = std::fs::read_to_string(&file).expect("readable");
        for word in [
            "std::fs",
            "std::net",
            "std::env",
            "std::process",
            "std::thread",
            "SystemTime",
            "Instant::now",
            "static mut",
            "OnceLock",
            "LazyLock",
            "thread_local!",
        ] {
            assert!(!text.contains(word), "{} uses {word}", file.display());
        }
    }
}

fn rust_files(directory: &std::path::Path) -> Vec<PathBuf> {
    let entries = std::fs::read_dir(directory).expect("a directory").map(|e| e.expect("an entry").path());
    entries.flat_map(|p| if p.is_dir() { rust_files(&p) } else { vec![p] }).collect()
}

fn printed(command: &str) -> Value {
    let out = Command::new(env!("CARGO_BIN_EXE_salt-lamp")).arg(command).output().expect("runs");
    serde_json::from_slice(&out.stdout).expect("JSON")
}

#[test]
fn the_published_descriptions_are_fresh() {
    for (command, file) in
        [("openapi", "docs/openapi.json"), ("schema", "docs/scenario.schema.json"), ("plan-schema", "docs/plan.schema.json")]
    {
        let stored: Value = serde_json::from_str(&std::fs::read_to_string(root().join(file)).expect(file)).expect("JSON");
        assert_eq!(stored, printed(command), "{file} is stale: run `cargo xtask types`");
    }
}

fn npx(directory: &str, args: &[&str]) -> std::process::Output {
    assert!(root().join(directory).join("node_modules").is_dir(), "npm packages are missing in {directory}: run `cargo xtask test`");
    Command::new("npx").arg("--no-install").args(args).current_dir(root().join(directory)).output().expect("npx starts")
}

#[test]
fn the_front_end_s_unit_tests_pass() {
    let out = npx("web", &["vitest", "run"]);
    assert!(out.status.success(), "{}\n{}", String::from_utf8_lossy(&out.stdout), String::from_utf8_lossy(&out.stderr));
}
