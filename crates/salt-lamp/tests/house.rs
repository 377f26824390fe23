//! The rules of the house: who may depend on whom, what the core may reach, and that generated
//! files are fresh.

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
    let out =
        Command::new(env!("CARGO")).args(args).current_dir(root()).output().expect("cargo runs");
    assert!(out.status.success(), "{}", String::from_utf8_lossy(&out.stderr));
    serde_json::from_slice(&out.stdout).expect("JSON")
}

/// What each of our crates depends on outside its tests, by crate name.
fn normal_dependencies(metadata: &Value) -> BTreeMap<String, BTreeSet<String>> {
    let packages = metadata["packages"].as_array().expect("packages");
    let of = |p: &Value| {
        let deps = p["dependencies"].as_array().expect("dependencies").iter();
        deps.filter(|d| d["kind"].is_null())
            .map(|d| d["name"].as_str().expect("a name").to_owned())
            .collect()
    };
    packages.iter().map(|p| (p["name"].as_str().expect("a name").to_owned(), of(p))).collect()
}

#[test]
fn dependencies_point_down() {
    let order =
        ["salt-lamp", "salt-lamp-server", "salt-lamp-store", "salt-lamp-formats", "salt-lamp-core"];
    let rank = |name: &str| order.iter().position(|o| *o == name);
    let deps = normal_dependencies(&metadata());
    for (i, name) in order.iter().enumerate() {
        for dep in &deps[*name] {
            if let Some(j) = rank(dep) {
                assert!(j > i, "{name} must not depend on {dep}");
            }
        }
    }
    assert!(
        !deps["salt-lamp-formats"].contains("salt-lamp-store")
            && !deps["salt-lamp-store"].contains("salt-lamp-formats")
    );
    assert!(!deps["salt-lamp-formats"].contains("sqlx"), "formats knows no database");
    assert!(!deps["salt-lamp-store"].contains("axum"), "the store knows no HTTP");
}

#[test]
fn the_core_reaches_nothing_that_does_io_waits_or_tells_the_time() {
    // The tree of the core alone: a workspace's resolution mixes in features that only tests ask
    // for.
    let args = [
        "tree",
        "--offline",
        "--package",
        "salt-lamp-core",
        "--edges",
        "normal",
        "--prefix",
        "none",
    ];
    let out =
        Command::new(env!("CARGO")).args(args).current_dir(root()).output().expect("cargo runs");
    assert!(out.status.success(), "{}", String::from_utf8_lossy(&out.stderr));
    let tree = String::from_utf8(out.stdout).expect("text");
    let reached: BTreeSet<String> =
        tree.lines().filter_map(|l| l.split_whitespace().next()).map(str::to_owned).collect();
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
    let entries =
        std::fs::read_dir(directory).expect("a directory").map(|e| e.expect("an entry").path());
    entries.flat_map(|p| if p.is_dir() { rust_files(&p) } else { vec![p] }).collect()
}

/// The rooms of the core in the order in which light and decisions go: each may use only those
/// before it.
const ROOMS: [&str; 16] = [
    "workers", "wording", "light", "scenario", "library", "path", "signal", "evaluate", "decide",
    "report", "look", "night", "campaign", "frame", "log", "trial",
];

/// The core's files with the files that each imports, drawn from its `use` lines and from paths
/// that begin with `crate::`; tests apart. Keys are paths within the core's sources.
fn arrows_of_the_core() -> BTreeMap<String, BTreeSet<String>> {
    let src = root().join("crates/core/src");
    let files: BTreeMap<String, String> = rust_files(&src)
        .into_iter()
        .map(|p| {
            let name = p.strip_prefix(&src).expect("inside").to_string_lossy().replace('\\', "/");
            (name, std::fs::read_to_string(&p).expect("readable"))
        })
        .filter(|(name, _)| name != "lib.rs" && !name.ends_with("_tests.rs"))
        .collect();
    let file_of = |path: &[&str]| {
        (1..=path.len()).rev().find_map(|n| {
            let at = path[..n].join("/");
            [format!("{at}.rs"), format!("{at}/mod.rs")].into_iter().find(|f| files.contains_key(f))
        })
    };
    let arrows = |name: &str, text: &str| {
        let code = text.split("#[cfg(test)]\nmod tests {").next().expect("a first part");
        let code: String = code
            .lines()
            .filter(|l| !l.trim_start().starts_with("//"))
            .collect::<Vec<_>>()
            .join(" ");
        let mut out = BTreeSet::new();
        for after in code.split("crate::").skip(1) {
            let path: String =
                after.chars().take_while(|c| c.is_alphanumeric() || "_:".contains(*c)).collect();
            let rest = &after[path.len()..];
            let several =
                rest.strip_prefix('{').and_then(|list| list.split('}').next()).unwrap_or("");
            for item in several.split(',') {
                let item = item.split_whitespace().next().unwrap_or("");
                let whole = format!("{path}{item}");
                let parts: Vec<&str> = whole.split("::").filter(|p| !p.is_empty()).collect();
                let to = file_of(&parts)
                    .unwrap_or_else(|| panic!("{name}: nothing stands at crate::{whole}"));
                out.insert(to);
            }
        }
        out.remove(name);
        out
    };
    files.iter().map(|(name, text)| (name.clone(), arrows(name, text))).collect()
}

#[test]
fn arrows_inside_the_core_point_to_earlier_rooms_and_never_in_a_circle() {
    let arrows = arrows_of_the_core();
    let room = |file: &str| {
        let first = file.split(['/', '.']).next().expect("a room");
        ROOMS
            .iter()
            .position(|r| *r == first)
            .unwrap_or_else(|| panic!("{file} stands in no room: name it in ROOMS"))
    };
    for (from, all) in &arrows {
        for to in all {
            assert!(room(to) <= room(from), "{from} uses {to}, which comes after it");
            assert!(
                !to.ends_with("/mod.rs"),
                "{from} imports the façade {to}: import the file behind it"
            );
        }
    }
    // Whoever uses nothing that is left is taken away, until all are gone or a circle stands.
    let mut left = arrows;
    while !left.is_empty() {
        let free: Vec<String> = left
            .iter()
            .filter(|(_, to)| to.iter().all(|t| !left.contains_key(t)))
            .map(|(f, _)| f.clone())
            .collect();
        assert!(
            !free.is_empty(),
            "these files use each other in a circle, or hang on one: {:?}",
            left.keys().collect::<Vec<_>>()
        );
        left.retain(|f, _| !free.contains(f));
    }
}

fn printed(command: &str) -> Value {
    let out = Command::new(env!("CARGO_BIN_EXE_salt-lamp")).arg(command).output().expect("runs");
    serde_json::from_slice(&out.stdout).expect("JSON")
}

#[test]
fn the_published_descriptions_are_fresh() {
    for (command, file) in [
        ("openapi", "docs/openapi.json"),
        ("schema", "docs/scenario.schema.json"),
        ("plan-schema", "docs/plan.schema.json"),
        ("sequence-schema", "docs/sequence.schema.json"),
        ("rig-schema", "docs/rig.schema.json"),
    ] {
        let stored: Value =
            serde_json::from_str(&std::fs::read_to_string(root().join(file)).expect(file))
                .expect("JSON");
        assert_eq!(stored, printed(command), "{file} is stale: run `cargo xtask types`");
    }
}

fn npx(directory: &str, args: &[&str]) -> std::process::Output {
    assert!(
        root().join(directory).join("node_modules").is_dir(),
        "npm packages are missing in {directory}: run `cargo xtask test`"
    );
    Command::new("npx")
        .arg("--no-install")
        .args(args)
        .current_dir(root().join(directory))
        .output()
        .expect("npx starts")
}

#[test]
fn the_front_end_s_unit_tests_pass() {
    let out = npx("web", &["vitest", "run"]);
    assert!(
        out.status.success(),
        "{}\n{}",
        String::from_utf8_lossy(&out.stdout),
        String::from_utf8_lossy(&out.stderr)
    );
}
