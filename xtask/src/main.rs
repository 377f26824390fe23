//! The project's own commands.
//!
//! `cargo xtask demo` builds and serves the application with the demo data; `cargo xtask test`
//! installs what the tests need and runs everything. They need Rust, Node 20 and Python 3, nothing
//! else.

mod heaviest;
mod kills;
mod load;
mod mutants;
mod notices;
mod setup;

use std::env;
use std::ffi::OsStr;
use std::path::{Path, PathBuf};
use std::process::{Command, ExitCode};

use setup::Need;

type Outcome = Result<(), String>;

const USAGE: &str = "usage: cargo xtask COMMAND

  demo [ARGS...]     build, then serve with the demo data (ARGS go to `salt-lamp serve`: --port,
                     --data, --host, --fresh)
  test [FILTER]      install what the tests need, check formats and lints, run all tests
  lint               formats, lints and types only
  bench [--peers] [--browser] [--load] [--log]
                     benchmarks of the core; --peers also times the same sums in NumPy, --browser
                     drags in a headless browser against a release build, --load asks 200 heavy
                     questions at once and a small one beside them, --log reads a folder of frames
                     with the bench beside it: all with limits that can fail
  soak [N]           what the tests try with few seeds, with many: N scenarios (200) made at random,
                     each with truths drawn for it, against the ranges that were stated for it
  soak --kills [N]   kill a server in the middle of its writes N times (1000): what it acknowledged
                     must be there
  soak --nights [N]  play N nights (200) and ask whether the log learns what was so, and nothing else
  soak --trials [N]  judge N seeded trials (2000) of each size of difference
  mutants --sample N [--seed N] [--survivors] | --patches [WORD]
                     break the core's lines one by one and count what its tests notice
  reference          make the tables in reference/ and data/ again, in a Python environment of
                     their own
  screenshots        take the pictures of docs/screenshots again from the demo data
  web                build the front end and gather the licences of what ships
  types              write docs/openapi.json, docs/scenario.schema.json and the front end's types";

fn main() -> ExitCode {
    let args: Vec<String> = env::args().skip(1).collect();
    let rest = args.get(1..).unwrap_or_default();
    let outcome = match args.first().map(String::as_str) {
        Some("demo") => demo(rest),
        Some("test") => test(rest),
        Some("lint") => setup::ready(&[Need::Web, Need::E2e]).and_then(|()| lint()),
        Some("bench") => bench(rest),
        Some("soak") => soak(rest),
        Some("reference") => reference(),
        Some("mutants") => mutants::mutants(rest),
        Some("screenshots") => screenshots(rest),
        Some("web") => setup::ready(&[Need::Web]).and_then(|()| build_web()),
        Some("types") => setup::ready(&[Need::Web]).and_then(|()| types()),
        _ => Err(USAGE.to_owned()),
    };
    match outcome {
        Ok(()) => ExitCode::SUCCESS,
        Err(message) => {
            eprintln!("{message}");
            ExitCode::FAILURE
        }
    }
}

/// Runs the check of the stated ranges over many scenarios, for each quantity and path.
fn soak(args: &[String]) -> Outcome {
    if args.first().is_some_and(|a| a == "--kills") {
        let count = args.get(1).map_or("1000", String::as_str);
        let wrong = |_| format!("xtask: `{count}` is no number of kills; give a whole number");
        let count = count.parse().map_err(wrong)?;
        setup::ready(&[Need::Web])?;
        build_web()?;
        cargo(&["build", "--locked", "--release", "--package", "salt-lamp"])?;
        return kills::run(count);
    }
    if args.first().is_some_and(|a| a == "--nights") {
        let count = args.get(1).map_or("200", String::as_str);
        return many(
            count,
            "nights",
            "test --locked --release --package salt-lamp-standins --test behaviour -- seeded lines_of \
                --nocapture",
            "SALT_LAMP_NIGHTS",
        );
    }
    if args.first().is_some_and(|a| a == "--trials") {
        let count = args.get(1).map_or("2000", String::as_str);
        let tests = "test --locked --release --package salt-lamp-core --package salt-lamp-standins \
            trials -- --nocapture";
        return many(count, "trials", tests, "SALT_LAMP_TRIALS");
    }
    let count = args.first().map_or("200", String::as_str);
    let tests = "test --locked --release --package salt-lamp-core --test behaviour coverage";
    many(count, "scenarios", tests, "SALT_LAMP_COVERAGE")
}

/// Runs tests that do their work so many times as a variable says.
fn many(count: &str, what: &str, tests: &str, variable: &str) -> Outcome {
    if count.parse::<u32>().is_ok_and(|n| n > 0) {
        eprintln!("xtask: {count} {what}");
        let status = Command::new(env::var("CARGO").unwrap_or_else(|_| "cargo".into()))
            .args(tests.split(' '))
            .env(variable, count)
            .current_dir(root())
            .status();
        return match status {
            Ok(status) if status.success() => Ok(()),
            Ok(status) => Err(format!("xtask: the soak failed ({status})")),
            Err(e) => Err(format!("xtask: `cargo` could not be started: {e}")),
        };
    }
    Err(format!("xtask: `{count}` is no number of {what}; give a whole number from 1"))
}

/// The root of the project.
fn root() -> PathBuf {
    let here = Path::new(env!("CARGO_MANIFEST_DIR"));
    here.parent().unwrap_or(here).to_owned()
}

/// Runs a program in a directory of the project and fails with its name if it fails.
fn run<S: AsRef<OsStr>>(directory: &str, program: &str, args: &[S]) -> Outcome {
    let shown = args.iter().map(|a| a.as_ref().to_string_lossy()).collect::<Vec<_>>().join(" ");
    eprintln!("xtask: {program} {shown}");
    let status = Command::new(program).args(args).current_dir(root().join(directory)).status();
    match status {
        Ok(status) if status.success() => Ok(()),
        Ok(status) => Err(format!("xtask: `{program} {shown}` failed ({status})")),
        Err(e) => Err(format!("xtask: `{program}` could not be started: {e}")),
    }
}

fn cargo<S: AsRef<OsStr>>(args: &[S]) -> Outcome {
    run(".", &env::var("CARGO").unwrap_or_else(|_| "cargo".into()), args)
}

fn build_web() -> Outcome {
    run("web", "npm", &["run", "--silent", "build"])?;
    notices::write()
}

fn demo(args: &[String]) -> Outcome {
    setup::ready(&[Need::Web])?;
    build_web()?;
    cargo(&["build", "--locked", "--release", "--package", "salt-lamp"])?;
    let mut serve = vec!["serve".to_owned(), "--demo".to_owned()];
    serve.extend_from_slice(args);
    run(".", &root().join("target/release/salt-lamp").to_string_lossy(), &serve)
}

fn lint() -> Outcome {
    cargo(&["fmt", "--all", "--", "--check"])?;
    cargo(&["clippy", "--locked", "--workspace", "--all-targets", "--", "--deny", "warnings"])?;
    run("web", "npm", &["run", "--silent", "check"])?;
    run("e2e", "npm", &["run", "--silent", "check"])
}

fn test(args: &[String]) -> Outcome {
    setup::ready(&[Need::Web, Need::E2e, Need::Chromium, Need::Python, Need::Proxy])?;
    build_web()?;
    lint()?;
    let mut all = ["test", "--locked", "--workspace", "--no-fail-fast"].map(str::to_owned).to_vec();
    all.extend_from_slice(args);
    cargo(&all)
}

fn bench(args: &[String]) -> Outcome {
    if args.iter().any(|a| a == "--load") {
        return under_load();
    }
    if args.iter().any(|a| a == "--log") {
        setup::ready(&[Need::Web, Need::Python])?;
        build_web()?;
        cargo(&["build", "--locked", "--release", "--package", "salt-lamp"])?;
        return run("reference/scripts", &setup::python(), &["bench_log.py"]);
    }
    cargo(&["bench", "--locked", "--package", "salt-lamp-core", "--bench", "evaluate"])?;
    if args.iter().any(|a| a == "--peers") {
        setup::ready(&[Need::Python])?;
        run("reference/scripts", &setup::python(), &["bench_peers.py"])?;
        cargo(&["build", "--locked", "--release", "--package", "salt-lamp"])?;
        run("reference/scripts", &setup::python(), &["bench_frames.py"])?;
    }
    if args.iter().any(|a| a == "--browser") {
        browser_speeds()?;
    }
    Ok(())
}

/// How long a small question waits beside many heavy ones, against a release server.
fn under_load() -> Outcome {
    setup::ready(&[Need::Web])?;
    build_web()?;
    cargo(&["build", "--locked", "--release", "--package", "salt-lamp"])?;
    let served = Served::demo("release", "7397", "target/load")?;
    load::run(served.port)?;
    heaviest::run(served.port, served.server.id())
}

/// Speeds in the browser against a release server, with limits that can fail.
fn browser_speeds() -> Outcome {
    setup::ready(&[Need::Web, Need::E2e, Need::Chromium])?;
    build_web()?;
    cargo(&["build", "--locked", "--release", "--package", "salt-lamp"])?;
    let served = Served::demo("release", "7398", "target/speed")?;
    let url = format!("http://127.0.0.1:{}", served.port);
    let status = Command::new("npx")
        .args(["--no-install", "playwright", "test", "--config", "speed.config.ts"])
        .current_dir(root().join("e2e"))
        .env("SALT_LAMP_URL", url)
        .status()
        .map_err(|e| format!("xtask: npx could not be started: {e}"))?;
    if status.success() {
        Ok(())
    } else {
        Err("xtask: a speed is over its limit; see above".into())
    }
}

/// A demo that is served from new data until it is let go.
struct Served {
    server: std::process::Child,
    port: &'static str,
}

impl Served {
    fn demo(profile: &str, port: &'static str, data: &str) -> Result<Self, String> {
        // Of the demo as it ships, not as it is kept between starts.
        let data = root().join(data);
        let _ = std::fs::remove_dir_all(&data);
        let server = Command::new(root().join("target").join(profile).join("salt-lamp"))
            .args(["serve", "--demo", "--port", port, "--data"])
            .arg(&data)
            .spawn()
            .map_err(|e| format!("xtask: the server could not be started: {e}"))?;
        let mut served = Self { server, port };
        served.answers()?;
        Ok(served)
    }

    /// Waits until the server takes connections: at once on a quick machine, up to a minute on a
    /// slow one.
    fn answers(&mut self) -> Outcome {
        for _ in 0..600 {
            if let Ok(Some(status)) = self.server.try_wait() {
                return Err(format!(
                    "xtask: the server stopped before it answered ({status}); is port {} taken?",
                    self.port
                ));
            }
            if std::net::TcpStream::connect(format!("127.0.0.1:{}", self.port)).is_ok() {
                return Ok(());
            }
            std::thread::sleep(std::time::Duration::from_millis(100));
        }
        Err(format!("xtask: nothing answers on port {} after a minute", self.port))
    }
}

impl Drop for Served {
    fn drop(&mut self) {
        let _ = self.server.kill();
        let _ = self.server.wait();
    }
}

fn reference() -> Outcome {
    setup::ready(&[Need::Python])?;
    for script in [
        "make_spectra.py",
        "make_gear.py",
        "make_catalogue.py",
        "make_stars.py",
        "make_figures.py",
        "make_headers.py",
        "make_plate.py",
        "make_matching.py",
        "make_places.py",
        "make_tables.py",
        "make_night.py",
        "make_decisions.py",
        "make_picture.py",
        "make_frames.py",
        "make_trials.py",
    ] {
        run("reference/scripts", &setup::python(), &[script])?;
    }
    Ok(())
}

fn types() -> Outcome {
    for (command, file) in [
        ("openapi", "docs/openapi.json"),
        ("schema", "docs/scenario.schema.json"),
        ("plan-schema", "docs/plan.schema.json"),
        ("sequence-schema", "docs/sequence.schema.json"),
        ("rig-schema", "docs/rig.schema.json"),
    ] {
        let cargo = env::var("CARGO").unwrap_or_else(|_| "cargo".into());
        let out = Command::new(cargo)
            .args(["run", "--locked", "--quiet", "--package", "salt-lamp", "--", command])
            .current_dir(root())
            .output();
        let out = out.map_err(|e| format!("xtask: cargo could not be started: {e}"))?;
        if !out.status.success() {
            return Err(String::from_utf8_lossy(&out.stderr).into_owned());
        }
        std::fs::write(root().join(file), out.stdout).map_err(|e| format!("xtask: {file}: {e}"))?;
    }
    run("web", "npm", &["run", "--silent", "types"])
}

fn screenshots(names: &[String]) -> Outcome {
    setup::ready(&[Need::Web, Need::E2e, Need::Chromium])?;
    build_web()?;
    cargo(&["build", "--locked", "--package", "salt-lamp"])?;
    let served = Served::demo("debug", "7399", "target/screenshots")?;
    let mut args = vec![
        "screenshots.mjs".to_owned(),
        format!("http://127.0.0.1:{}", served.port),
        "../docs/screenshots".to_owned(),
    ];
    args.extend_from_slice(names);
    run("e2e", "node", &args)
}
