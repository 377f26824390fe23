//! Installing what the commands need, only where it is missing.

use std::fs;
use std::path::Path;
use std::process::Command;
use std::time::SystemTime;

use crate::{Outcome, root, run};

/// npm packages of the front end.
pub fn web() -> Outcome {
    npm("web")
}

/// Chromium from Debian's packages and the npm packages that drive it.
pub fn browser() -> Outcome {
    npm("e2e")?;
    if chromium_is_there() {
        return Ok(());
    }
    eprintln!("xtask: Chromium is missing; installing Debian's package");
    apt_get(&["update"])?;
    apt_get(&["install", "--yes", "--no-install-recommends", "chromium"])?;
    if chromium_is_there() {
        Ok(())
    } else {
        Err("xtask: /usr/bin/chromium is still missing; set CHROMIUM to the path of a Chromium".into())
    }
}

fn apt_get(args: &[&str]) -> Outcome {
    if is_root() { run(".", "apt-get", args) } else { run(".", "sudo", &[&["apt-get"], args].concat()) }
}

fn chromium_is_there() -> bool {
    std::env::var_os("CHROMIUM").map_or_else(|| Path::new("/usr/bin/chromium").exists(), |path| Path::new(&path).exists())
}

fn is_root() -> bool {
    Command::new("id").arg("-u").output().is_ok_and(|out| out.stdout == b"0\n")
}

/// Installs what the lock file pins where node_modules is older than it.
///
/// Not `npm ci`: that one refuses a lock file which leaves out optional packages of other platforms, and
/// some registries carry those late or not at all. Versions in package.json are exact.
fn npm(directory: &str) -> Outcome {
    let at = root().join(directory);
    let changed = |path: &str| fs::metadata(at.join(path)).and_then(|m| m.modified()).unwrap_or(SystemTime::UNIX_EPOCH);
    if changed("node_modules/.package-lock.json") >= changed("package-lock.json") && at.join("node_modules").is_dir() {
        return Ok(());
    }
    run(directory, "npm", &["install", "--no-save", "--no-audit", "--no-fund"])
}

/// A Python environment with the pinned reference libraries; returns its interpreter.
///
/// A copy of the requirements in the environment says what was installed to the end.
pub fn python() -> Result<String, String> {
    let venv = root().join(".venv");
    let python = venv.join("bin/python");
    let wanted = fs::read(root().join("reference/requirements.txt")).map_err(|e| format!("xtask: reference/requirements.txt: {e}"))?;
    let stamp = venv.join("installed.txt");
    if fs::read(&stamp).is_ok_and(|done| done == wanted) {
        return Ok(python.to_string_lossy().into_owned());
    }
    if !python.exists() && run(".", "python3", &["-m", "venv", ".venv"]).is_err() {
        eprintln!("xtask: Python's venv module is missing; installing Debian's package");
        apt_get(&["update"])?;
        apt_get(&["install", "--yes", "--no-install-recommends", "python3-venv"])?;
        run(".", "python3", &["-m", "venv", "--clear", ".venv"])?;
    }
    run(".", &python.to_string_lossy(), &["-m", "pip", "install", "--quiet", "--requirement", "reference/requirements.txt"])?;
    fs::write(&stamp, wanted).map_err(|e| format!("xtask: {}: {e}", stamp.display()))?;
    Ok(python.to_string_lossy().into_owned())
}
