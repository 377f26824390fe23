//! Installing what the commands need, only where it is missing, and only after saying what.

use std::fs;
use std::io::{BufRead, IsTerminal, Write};
use std::path::{Path, PathBuf};
use std::process::Command;
use std::time::SystemTime;

use crate::{Outcome, root, run};

/// The version of the tool that makes mutations.
const MUTANTS: &str = "27.1.0";

/// What a command may need besides Rust, Node and Python.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Need {
    /// npm packages of the front end.
    Web,
    /// npm packages that drive a browser.
    E2e,
    /// A Chromium to be driven.
    Chromium,
    /// A Python environment with the pinned reference libraries.
    Python,
    /// A reverse proxy that the tests stand before the server.
    Proxy,
    /// The tool that makes mutations.
    Mutants,
}

impl Need {
    fn missing(self) -> bool {
        match self {
            Self::Web => !npm_is_there("web"),
            Self::E2e => !npm_is_there("e2e"),
            Self::Chromium => !chromium_is_there(),
            Self::Python => !python_is_there(),
            Self::Proxy => !proxy_is_there(),
            Self::Mutants => !mutants_tool().exists(),
        }
    }

    /// What is installed, from where, and to which place.
    fn said(self) -> String {
        match self {
            Self::Web => "npm packages of web/package-lock.json, into web/node_modules".into(),
            Self::E2e => "npm packages of e2e/package-lock.json, into e2e/node_modules".into(),
            Self::Chromium => format!(
                "Debian's package chromium, into the system, with {}apt-get",
                if is_root() { "" } else { "sudo " }
            ),
            Self::Python => {
                "Python packages of reference/requirements.txt, into .venv (and Debian's \
                    python3-venv, if Python cannot make it)"
                    .into()
            }
            Self::Proxy => {
                "Debian's package nginx, unpacked and not started, into target/tools/nginx".into()
            }
            Self::Mutants => format!("cargo-mutants {MUTANTS}, into target/tools"),
        }
    }

    fn install(self) -> Outcome {
        match self {
            Self::Web => npm("web"),
            Self::E2e => npm("e2e"),
            Self::Chromium => chromium(),
            Self::Python => python_environment(),
            Self::Proxy => proxy(),
            Self::Mutants => {
                let at = root().join("target/tools").to_string_lossy().into_owned();
                crate::cargo(&[
                    "install",
                    "cargo-mutants",
                    "--version",
                    MUTANTS,
                    "--locked",
                    "--root",
                    &at,
                ])
            }
        }
    }
}

/// Says what is missing, asks where somebody sits at a terminal, and installs it.
pub fn ready(needs: &[Need]) -> Outcome {
    let missing: Vec<Need> = needs.iter().copied().filter(|n| n.missing()).collect();
    if missing.is_empty() {
        return Ok(());
    }
    if missing.contains(&Need::Chromium) && !has_apt() {
        return Err(NO_CHROMIUM.into());
    }
    if missing.contains(&Need::Proxy) && !has_apt() {
        return Err(
            "xtask: the tests stand nginx before the server, and apt-get, by which it would \
            be brought, is not here: install nginx by your system's own means"
                .into(),
        );
    }
    eprintln!("xtask: this will be installed:");
    missing.iter().for_each(|n| eprintln!("  - {}", n.said()));
    if std::io::stdin().is_terminal() && !agreed(&mut std::io::stdin().lock())? {
        return Err("xtask: nothing was installed".into());
    }
    missing.iter().try_for_each(|n| n.install())
}

const NO_CHROMIUM: &str = "xtask: the browser tests need Chromium, and apt-get, by which it would \
    be installed, is not here: this is no Debian. \
     Install Chromium by your system's own means and set CHROMIUM to its path";

fn agreed(answers: &mut impl BufRead) -> Result<bool, String> {
    eprint!("Go on? [Y/n] ");
    let _ = std::io::stderr().flush();
    let mut line = String::new();
    answers
        .read_line(&mut line)
        .map_err(|e| format!("xtask: the answer could not be read: {e}"))?;
    Ok(matches!(line.trim().to_lowercase().as_str(), "" | "y" | "yes") && !line.is_empty())
}

fn has_apt() -> bool {
    Command::new("apt-get").arg("--version").output().is_ok()
}

fn apt_get(args: &[&str]) -> Outcome {
    if is_root() {
        run(".", "apt-get", args)
    } else {
        run(".", "sudo", &[&["apt-get"], args].concat())
    }
}

fn is_root() -> bool {
    Command::new("id").arg("-u").output().is_ok_and(|out| out.stdout == b"0\n")
}

fn chromium_is_there() -> bool {
    std::env::var_os("CHROMIUM")
        .map_or_else(|| Path::new("/usr/bin/chromium").exists(), |path| Path::new(&path).exists())
}

fn chromium() -> Outcome {
    if let Some(path) = std::env::var_os("CHROMIUM") {
        return Err(format!(
            "xtask: CHROMIUM names {}, which is not there",
            Path::new(&path).display()
        ));
    }
    apt_get(&["update"])?;
    apt_get(&["install", "--yes", "--no-install-recommends", "chromium"])?;
    if chromium_is_there() { Ok(()) } else { Err(NO_CHROMIUM.into()) }
}

/// The proxy that the tests use: the system's, or the one that was unpacked.
fn proxy_is_there() -> bool {
    Path::new("/usr/sbin/nginx").exists()
        || root().join("target/tools/nginx/usr/sbin/nginx").exists()
}

/// Unpacks the package instead of installing it: installed, it would serve on port 80 from then on.
fn proxy() -> Outcome {
    let at = "target/tools/nginx";
    fs::create_dir_all(root().join(at)).map_err(|e| format!("xtask: {at}: {e}"))?;
    if run(at, "apt-get", &["download", "nginx"]).is_err() {
        apt_get(&["update"])?;
        run(at, "apt-get", &["download", "nginx"])?;
    }
    let files = fs::read_dir(root().join(at)).map_err(|e| format!("xtask: {at}: {e}"))?;
    let package = files
        .filter_map(|f| f.ok()?.file_name().into_string().ok())
        .find(|name| name.ends_with(".deb"))
        .ok_or("xtask: apt-get brought no package of nginx")?;
    run(at, "dpkg-deb", &["-x", &package, "."])
}

fn npm_is_there(directory: &str) -> bool {
    let at = root().join(directory);
    let changed = |path: &str| {
        fs::metadata(at.join(path)).and_then(|m| m.modified()).unwrap_or(SystemTime::UNIX_EPOCH)
    };
    changed("node_modules/.package-lock.json") >= changed("package-lock.json")
        && at.join("node_modules").is_dir()
}

/// Installs what the lock file pins where node_modules is older than it.
///
/// Not `npm ci`: that one refuses a lock file which leaves out optional packages of other
/// platforms, and some registries carry those late or not at all. Versions in package.json are
/// exact.
fn npm(directory: &str) -> Outcome {
    run(directory, "npm", &["install", "--no-save", "--no-audit", "--no-fund"])
}

/// The interpreter of the project's own environment.
pub fn python() -> String {
    root().join(".venv/bin/python").to_string_lossy().into_owned()
}

/// A copy of the requirements in the environment says what was installed to the end.
fn python_is_there() -> bool {
    let wanted = fs::read(root().join("reference/requirements.txt")).unwrap_or_default();
    fs::read(root().join(".venv/installed.txt")).is_ok_and(|done| done == wanted)
}

fn python_environment() -> Outcome {
    let wanted = fs::read(root().join("reference/requirements.txt"))
        .map_err(|e| format!("xtask: reference/requirements.txt: {e}"))?;
    if !root().join(".venv/bin/python").exists()
        && run(".", "python3", &["-m", "venv", ".venv"]).is_err()
    {
        if !has_apt() {
            return Err(
                "xtask: Python's venv module is missing, and this is no Debian: install it \
                by your system's own means"
                    .into(),
            );
        }
        eprintln!(
            "xtask: Python's venv module is missing; installing Debian's package python3-venv"
        );
        apt_get(&["update"])?;
        apt_get(&["install", "--yes", "--no-install-recommends", "python3-venv"])?;
        run(".", "python3", &["-m", "venv", "--clear", ".venv"])?;
    }
    run(
        ".",
        &python(),
        &["-m", "pip", "install", "--quiet", "--requirement", "reference/requirements.txt"],
    )?;
    let stamp = root().join(".venv/installed.txt");
    fs::write(&stamp, wanted).map_err(|e| format!("xtask: {}: {e}", stamp.display()))
}

/// Where the tool that makes mutations is installed.
pub fn mutants_tool() -> PathBuf {
    root().join("target/tools/bin/cargo-mutants")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_answered_is_meant() -> Outcome {
        for (answer, yes) in [
            ("\n", true),
            ("y\n", true),
            ("Yes\n", true),
            ("n\n", false),
            ("what?\n", false),
            ("", false),
        ] {
            assert_eq!(agreed(&mut answer.as_bytes())?, yes, "{answer:?}");
        }
        Ok(())
    }

    #[test]
    fn every_need_says_what_comes_and_where_to() {
        for need in [Need::Web, Need::E2e, Need::Chromium, Need::Python, Need::Proxy, Need::Mutants]
        {
            assert!(need.said().contains(", into "), "{}", need.said());
        }
    }
}
