//! Breaking the core on purpose, to see whether its tests notice.
//!
//! `--sample N` draws mutations that `cargo mutants` makes (operators, constants, whole bodies),
//! evenly from the rooms of the core, and runs its tests against each. The draw depends on the seed
//! and the names of the mutations alone; each runs by itself, and what a former call finished is
//! not run again. `--patches` applies the committed list of single lines that such tools do not
//! break: factors, dropped terms, wrong inputs.
//!
//! Both work in a copy of the tree beneath target/, so that the sources are never touched.

use std::collections::{BTreeMap, BTreeSet};
use std::fs;
use std::path::{Path, PathBuf};
use std::process::Command;

use serde::{Deserialize, Serialize};

use crate::setup::Need;
use crate::{Outcome, root, setup};

/// The rooms whose mutations are drawn, by the beginning of their path within the core; a file is
/// of the first that fits.
const ROOMS: [&str; 9] = [
    "light/",
    "path/sky/",
    "path/filter/",
    "path/",
    "signal/sub.rs",
    "signal/",
    "decide/",
    "look/",
    "night/",
];
const SOURCES: &str = "crates/core/src/";
const PATCHES: &str = "xtask/patches.json";
/// The core's tests take about ten seconds; a mutation that makes them endless is stopped here.
const TIMEOUT_S: &str = "120";
const TESTS: [&str; 7] =
    ["test", "--locked", "--quiet", "--package", "salt-lamp-core", "--profile", "mutants"];

/// One mutation, as the tool lists it.
#[derive(Clone, Debug, Deserialize, Serialize)]
struct Mutant {
    name: String,
    file: String,
    /// Its place in the tool's list, by which it is asked for.
    #[serde(skip)]
    at: usize,
}

/// What became of a mutation.
#[derive(Clone, Copy, Debug, Deserialize, Serialize, PartialEq, Eq)]
enum Fate {
    Caught,
    Missed,
    /// It did not compile, and counts for nothing.
    Unviable,
}

/// One line that is broken by hand.
#[derive(Debug, Deserialize)]
struct Patch {
    what: String,
    file: String,
    old: String,
    new: String,
}

/// Reads `--sample N`, `--seed N`, `--survivors`, `--patches [WORD]` and does what they say.
pub fn mutants(args: &[String]) -> Outcome {
    const USAGE: &str =
        "usage: cargo xtask mutants --sample N [--seed N] [--survivors] | --patches [WORD]";
    let number = |name: &str, otherwise: Option<u64>| match args.iter().position(|a| a == name) {
        Some(at) => args
            .get(at + 1)
            .and_then(|v| v.parse().ok())
            .ok_or(format!("{name} takes a whole number; {USAGE}")),
        None => otherwise.ok_or(USAGE.to_owned()),
    };
    if let Some(at) = args.iter().position(|a| a == "--patches") {
        return patches(args.get(at + 1).map(String::as_str));
    }
    let wanted = usize::try_from(number("--sample", None)?).map_err(|e| e.to_string())?;
    sample(wanted, number("--seed", Some(1))?, args.iter().any(|a| a == "--survivors"))
}

/// Copies the files that git knows or would take, those that changed only, so that builds stay
/// warm, and drops what is gone.
fn tree() -> Result<PathBuf, String> {
    let to = root().join("target/mutants/tree");
    let out = Command::new("git")
        .args([
            "ls-files",
            "--cached",
            "--others",
            "--exclude-standard",
            "-z",
            "--",
            "Cargo.toml",
            "Cargo.lock",
            "crates",
            "xtask",
        ])
        .args(["data", "reference"])
        .current_dir(root())
        .output()
        .map_err(|e| format!("xtask: git could not be started: {e}"))?;
    let mut copied = BTreeSet::new();
    for name in String::from_utf8_lossy(&out.stdout).split('\0').filter(|n| !n.is_empty()) {
        let Ok(bytes) = fs::read(root().join(name)) else { continue };
        let at = to.join(name);
        copied.insert(at.clone());
        if fs::read(&at).is_ok_and(|there| there == bytes) {
            continue;
        }
        fs::create_dir_all(at.parent().unwrap_or(&to))
            .map_err(|e| format!("xtask: {}: {e}", at.display()))?;
        fs::write(&at, bytes).map_err(|e| format!("xtask: {}: {e}", at.display()))?;
    }
    // A file that moved must not stand in both places.
    for sources in ["crates", "xtask/src"] {
        drop_others(&to.join(sources), &copied)?;
    }
    Ok(to)
}

/// Removes the files beneath a folder that are not among those wanted.
fn drop_others(folder: &Path, wanted: &BTreeSet<PathBuf>) -> Result<(), String> {
    let told = |e: std::io::Error| format!("xtask: {}: {e}", folder.display());
    for entry in fs::read_dir(folder).map_err(told)? {
        let path = entry.map_err(told)?.path();
        if path.is_dir() {
            drop_others(&path, wanted)?;
        } else if !wanted.contains(&path) {
            fs::remove_file(&path).map_err(told)?;
        }
    }
    Ok(())
}

fn target() -> PathBuf {
    root().join("target/mutants/build")
}

/// Whether the core's tests pass in the copy; an error if they cannot be built.
fn tests_pass(tree: &Path) -> Result<bool, String> {
    let cargo = |more: &[&str]| {
        Command::new("cargo")
            .args(TESTS)
            .args(more)
            .current_dir(tree)
            .env("CARGO_TARGET_DIR", target())
            .env("PROPTEST_FAILURE_PERSISTENCE", "off")
            .output()
            .map_err(|e| format!("xtask: cargo could not be started: {e}"))
    };
    let built = cargo(&["--tests", "--no-run"])?;
    if !built.status.success() {
        return Err(String::from_utf8_lossy(&built.stderr).into_owned());
    }
    Ok(cargo(&["--tests"])?.status.success())
}

fn sample(wanted: usize, seed: u64, survivors: bool) -> Outcome {
    setup::ready(&[Need::Mutants])?;
    let tool = setup::mutants_tool();
    let tree = tree()?;
    if !tests_pass(&tree)? {
        return Err("xtask: the core's tests fail as they are; there is nothing to learn from \
            breaking them"
            .into());
    }
    let listing = listed(&tool, &tree)?;
    let order = drawn(&listing, seed);
    let record = root().join(format!("target/mutants/seed-{seed}.json"));
    let mut fates: BTreeMap<String, Fate> = fs::read(&record)
        .ok()
        .and_then(|bytes| serde_json::from_slice(&bytes).ok())
        .unwrap_or_default();
    if survivors {
        fates.retain(|_, fate| *fate != Fate::Missed);
    }
    let mut tried = 0;
    for mutant in &order {
        if tried >= wanted {
            break;
        }
        let fate = match fates.get(&mutant.name) {
            Some(fate) => *fate,
            None => run_one(&tool, &tree, mutant, listing.len())?,
        };
        tried += usize::from(fate != Fate::Unviable);
        fates.insert(mutant.name.clone(), fate);
        let bytes = serde_json::to_vec_pretty(&fates).map_err(|e| e.to_string())?;
        fs::write(&record, bytes).map_err(|e| format!("xtask: {}: {e}", record.display()))?;
    }
    report(&order, &fates, wanted, seed);
    Ok(())
}

/// Those of the drawn mutations that compiled, in the order of the draw.
fn viable<'a>(
    order: &'a [Mutant],
    fates: &'a BTreeMap<String, Fate>,
) -> impl Iterator<Item = (&'a Mutant, Fate)> {
    order
        .iter()
        .filter_map(|m| fates.get(&m.name).map(|fate| (m, *fate)))
        .filter(|(_, fate)| *fate != Fate::Unviable)
}

fn listed(tool: &Path, tree: &Path) -> Result<Vec<Mutant>, String> {
    let out = Command::new(tool)
        .args(["mutants", "--list", "--json", "--package", "salt-lamp-core", "--dir"])
        .arg(tree)
        .output()
        .map_err(|e| format!("xtask: cargo-mutants could not be started: {e}"))?;
    let mut all: Vec<Mutant> = serde_json::from_slice(&out.stdout)
        .map_err(|e| format!("xtask: the list of mutations: {e}"))?;
    all.iter_mut().enumerate().for_each(|(at, mutant)| mutant.at = at);
    Ok(all)
}

/// The room that a mutation's file stands in.
fn room_of(m: &Mutant) -> Option<&'static str> {
    let file = m.file.strip_prefix(SOURCES)?;
    ROOMS.into_iter().find(|room| file.starts_with(room))
}

/// Every room's mutations in an order that the seed draws, one of each room in turn.
fn drawn(all: &[Mutant], seed: u64) -> Vec<Mutant> {
    let mut rooms: Vec<Vec<&Mutant>> = ROOMS
        .iter()
        .map(|room| {
            let mut inside: Vec<&Mutant> =
                all.iter().filter(|m| room_of(m) == Some(room)).collect();
            inside.sort_by_key(|m| std::cmp::Reverse(scattered(seed, &m.name)));
            inside
        })
        .collect();
    let mut order = Vec::new();
    while rooms.iter().any(|room| !room.is_empty()) {
        order.extend(rooms.iter_mut().filter_map(Vec::pop).cloned());
    }
    order
}

/// A number that looks random and depends on the seed and the name alone (FNV-1a, then the
/// finaliser of `SplitMix64`).
fn scattered(seed: u64, name: &str) -> u64 {
    let hash = name.bytes().fold(0xcbf2_9ce4_8422_2325 ^ seed, |h, b| {
        (h ^ u64::from(b)).wrapping_mul(0x0100_0000_01b3)
    });
    let mixed = (hash ^ (hash >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
    let mixed = (mixed ^ (mixed >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
    mixed ^ (mixed >> 31)
}

/// Runs the tests against one mutation: the tool's list cut into as many shards as it has entries.
///
/// Not by its name: the tool's patterns do not hold back the deletions of fields.
fn run_one(tool: &Path, tree: &Path, mutant: &Mutant, all: usize) -> Result<Fate, String> {
    let out = root().join("target/mutants/one");
    let _ = fs::remove_dir_all(&out);
    fs::create_dir_all(&out).map_err(|e| format!("xtask: {}: {e}", out.display()))?;
    let status = Command::new(tool)
        .args([
            "mutants",
            "--in-place",
            "--package",
            "salt-lamp-core",
            "--profile",
            "mutants",
            "--baseline",
            "skip",
        ])
        .args([
            "--timeout",
            TIMEOUT_S,
            "--cargo-test-arg=--tests",
            "--colors",
            "never",
            "--no-times",
            "--sharding",
            "slice",
        ])
        .arg(format!("--shard={}/{all}", mutant.at))
        .arg("--dir")
        .arg(tree)
        .arg("--output")
        .arg(&out)
        .env("CARGO_TARGET_DIR", target())
        .env("PROPTEST_FAILURE_PERSISTENCE", "off")
        .stdout(std::process::Stdio::null())
        .status()
        .map_err(|e| format!("xtask: cargo-mutants could not be started: {e}"))?;
    // Two, three: it was missed, it took too long. Both are answers, not failures of the run.
    if !matches!(status.code(), Some(0 | 2 | 3)) {
        return Err(format!("xtask: cargo-mutants failed ({status}) at {}", mutant.name));
    }
    let says = |file: &str| {
        fs::read_to_string(out.join("mutants.out").join(file))
            .is_ok_and(|text| text.lines().any(|line| line == mutant.name))
    };
    let fates = [
        ("caught.txt", Fate::Caught),
        ("timeout.txt", Fate::Caught),
        ("missed.txt", Fate::Missed),
        ("unviable.txt", Fate::Unviable),
    ];
    let found = fates.into_iter().find(|(file, _)| says(file));
    let (_, fate) =
        found.ok_or_else(|| format!("xtask: cargo-mutants says nothing of {}", mutant.name))?;
    println!("{fate:?} {}", mutant.name);
    Ok(fate)
}

fn report(order: &[Mutant], fates: &BTreeMap<String, Fate>, wanted: usize, seed: u64) {
    let tried: Vec<(&Mutant, Fate)> = viable(order, fates).take(wanted).collect();
    let caught =
        |of: &[&(&Mutant, Fate)]| of.iter().filter(|(_, fate)| *fate == Fate::Caught).count();
    for room in ROOMS {
        let inside: Vec<_> = tried.iter().filter(|(m, _)| room_of(m) == Some(room)).collect();
        println!("{room:16} {:3} of {:3} caught", caught(&inside), inside.len());
    }
    let all: Vec<_> = tried.iter().collect();
    println!("seed {seed}: {} of {} viable mutations caught", caught(&all), all.len());
    for (mutant, _) in tried.iter().filter(|(_, fate)| *fate == Fate::Missed) {
        println!("missed: {}", mutant.name);
    }
}

fn read_patches() -> Result<Vec<Patch>, String> {
    let bytes = fs::read(root().join(PATCHES)).map_err(|e| format!("xtask: {PATCHES}: {e}"))?;
    serde_json::from_slice(&bytes).map_err(|e| format!("xtask: {PATCHES}: {e}"))
}

/// The text of the patch's file with its line broken; an error if that line is not there just once.
fn patched(patch: &Patch, within: &Path) -> Result<(PathBuf, String, String), String> {
    let at = within.join(SOURCES).join(&patch.file);
    let text = fs::read_to_string(&at)
        .map_err(|e| format!("xtask: patch \"{}\": {}: {e}", patch.what, patch.file))?;
    match text.matches(&patch.old).count() {
        1 => Ok((at, text.replacen(&patch.old, &patch.new, 1), text)),
        n => Err(format!(
            "xtask: patch \"{}\": {} holds its line {n} times, once is wanted: {}",
            patch.what, patch.file, patch.old
        )),
    }
}

fn patches(word: Option<&str>) -> Outcome {
    let tree = tree()?;
    if !tests_pass(&tree)? {
        return Err("xtask: the core's tests fail as they are; there is nothing to learn from \
            breaking them"
            .into());
    }
    let mut missed = Vec::new();
    for patch in read_patches()?.iter().filter(|p| word.is_none_or(|w| p.what.contains(w))) {
        let (at, broken, whole) = patched(patch, &tree)?;
        let write =
            |text: &str| fs::write(&at, text).map_err(|e| format!("xtask: {}: {e}", at.display()));
        write(&broken)?;
        let passed = tests_pass(&tree);
        write(&whole)?;
        let passed = passed
            .map_err(|e| format!("xtask: patch \"{}\" does not compile:\n{e}", patch.what))?;
        println!("{} {}", if passed { "MISSED" } else { "caught" }, patch.what);
        if passed {
            missed.push(patch.what.clone());
        }
    }
    if missed.is_empty() {
        Ok(())
    } else {
        Err(format!("xtask: {} not caught: {}", missed.len(), missed.join(", ")))
    }
}

#[cfg(test)]
#[path = "mutants_tests.rs"]
mod tests;
