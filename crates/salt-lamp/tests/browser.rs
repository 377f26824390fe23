//! The real interface in headless Chromium: serves the demo twice and an empty store, each on a free port,
//! and runs the Playwright tests in e2e/.

use std::io::{BufRead, BufReader, Write};
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::time::Instant;

/// A server that ends with the test.
struct Served {
    child: Child,
    url: String,
}

impl Drop for Served {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

/// Serves what is kept in a directory, with the demo's data or with none.
fn served(data: &Path, with: &[&str]) -> Served {
    let started = Instant::now();
    let mut child = Command::new(env!("CARGO_BIN_EXE_salt-lamp"))
        .arg("serve")
        .args(with)
        .args(["--port", "0", "--data"])
        .arg(data)
        .stdout(Stdio::piped())
        .spawn()
        .expect("the server starts");
    let mut line = String::new();
    BufReader::new(child.stdout.take().expect("a pipe")).read_line(&mut line).expect("a line");
    let url = line.split_whitespace().last().expect("an address").to_owned();
    assert!(url.starts_with("http://127.0.0.1:"), "{line}");
    println!(
        "server listening {:.0} ms after its start (a debug build, for what it is worth)",
        started.elapsed().as_secs_f64() * 1000.0
    );
    Served { child, url }
}

/// The passphrase that the tests of signing in know.
fn set_passphrase(data: &Path) {
    let mut child = Command::new(env!("CARGO_BIN_EXE_salt-lamp"))
        .args(["passphrase", "--data"])
        .arg(data)
        .stdin(Stdio::piped())
        .spawn()
        .expect("starts");
    let mut stdin = child.stdin.take().expect("a pipe");
    stdin.write_all(b"nine moons over the lake\n").expect("takes it");
    drop(stdin);
    assert!(child.wait().expect("ends").success());
}

#[test]
fn the_interface_does_its_job_in_chromium() {
    let e2e = Path::new(concat!(env!("CARGO_MANIFEST_DIR"), "/../../e2e"));
    assert!(
        e2e.join("node_modules").is_dir(),
        "npm packages are missing in e2e: run `cargo xtask test`"
    );
    let index = Path::new(concat!(env!("CARGO_MANIFEST_DIR"), "/../../web/dist/index.html"));
    assert!(index.exists(), "the front end is not built: run `cargo xtask test`");
    let [data, other, none, guarded] = [(); 4].map(|()| tempfile::tempdir().expect("a directory"));
    // One for each worker of the runner: two cores are what a machine has at least.
    let demos = [&data, &other].map(|of| served(of.path(), &["--demo"]));
    let empty = served(none.path(), &[]);
    set_passphrase(guarded.path());
    // Beneath a path, as a proxy may have it.
    let guarded = served(guarded.path(), &["--demo", "--base-path", "/lamp"]);
    let status = Command::new("npx")
        .args(["--no-install", "playwright", "test"])
        .current_dir(e2e)
        .env("SALT_LAMP_URL", demos.each_ref().map(|d| d.url.as_str()).join(" "))
        .env("SALT_LAMP_EMPTY_URL", &empty.url)
        .env("SALT_LAMP_GUARDED_URL", &guarded.url)
        .status()
        .expect("npx starts");
    assert!(status.success(), "the browser tests failed; see above");
}
