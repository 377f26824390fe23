//! The server as a process: how it ends, whom it lets in, and what it says of its folder.

use std::io::{BufRead, BufReader, Read, Write};
use std::net::TcpStream;
use std::path::Path;
use std::process::{Child, Command, ExitStatus, Output, Stdio};
use std::time::{Duration, Instant};

const WORDS: &str = "nine moons over the lake\n";

struct Server {
    child: Child,
    port: u16,
}

impl Drop for Server {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

fn command(args: &[&str], data: &Path) -> Command {
    let mut command = Command::new(env!("CARGO_BIN_EXE_salt-lamp"));
    command.args(args).arg("--data").arg(data).stdin(Stdio::null()).stderr(Stdio::piped());
    command
}

fn served(args: &[&str], data: &Path) -> Server {
    let mut child = command(&[&["serve", "--port", "0"], args].concat(), data)
        .stdout(Stdio::piped())
        .spawn()
        .expect("starts");
    let mut line = String::new();
    BufReader::new(child.stdout.take().expect("a pipe")).read_line(&mut line).expect("a line");
    let address = line.trim().rsplit(':').next().expect("a port");
    let port = address.split('/').next().and_then(|p| p.parse().ok()).expect("a port");
    Server { child, port }
}

fn run(args: &[&str], data: &Path, stdin: &str) -> Output {
    let mut child =
        command(args, data).stdin(Stdio::piped()).stdout(Stdio::piped()).spawn().expect("starts");
    let _ = child.stdin.take().expect("a pipe").write_all(stdin.as_bytes());
    child.wait_with_output().expect("ends")
}

impl Server {
    fn say(&self, text: &str) -> TcpStream {
        let mut stream = TcpStream::connect(("127.0.0.1", self.port)).expect("connects");
        stream.write_all(text.as_bytes()).expect("takes it");
        stream
    }

    fn status(&self, head: &str) -> String {
        let whole = format!("{head}\r\nhost: localhost\r\nconnection: close\r\n\r\n");
        let mut answer = String::new();
        self.say(&whole).read_to_string(&mut answer).expect("an answer");
        answer.split(' ').nth(1).unwrap_or_default().to_owned()
    }

    /// A question that is under way.
    fn asked(&self) -> TcpStream {
        let mut stream = self.say(NEVER_ASKED);
        let mut continued = [0; 12];
        stream.read_exact(&mut continued).expect("it wants the body");
        assert_eq!(&continued, b"HTTP/1.1 100");
        stream
    }

    fn signal(&self) {
        let pid = self.child.id().to_string();
        assert!(Command::new("kill").args(["-TERM", &pid]).status().expect("kill runs").success());
    }

    fn ended(&mut self, within: Duration) -> (Option<ExitStatus>, String) {
        let until = Instant::now() + within;
        while Instant::now() < until {
            if let Some(status) = self.child.try_wait().expect("known") {
                let mut log = String::new();
                let stderr = self.child.stderr.take().expect("a pipe");
                BufReader::new(stderr).read_to_string(&mut log).expect("text");
                return (Some(status), log);
            }
            std::thread::sleep(Duration::from_millis(20));
        }
        (None, String::new())
    }
}

/// A question whose body never comes: it is under way for as long as it is let. The server says so
/// when it wants the body.
const NEVER_ASKED: &str = "POST /api/v1/evaluate HTTP/1.1\r\nhost: localhost\r\n\
    content-type: application/json\r\nexpect: 100-continue\r\ncontent-length: 100\r\n\r\n";

#[cfg(unix)]
#[test]
fn told_to_stop_it_ends_in_ten_seconds_whatever_clients_do() {
    let data = tempfile::tempdir().expect("a folder");
    let mut server = served(&[], data.path());
    let _half = server.say("GET / HTTP/1.1\r\nhost:");
    let _nothing = server.say("");
    let _asked = server.asked();
    server.signal();
    let (status, log) = server.ended(Duration::from_secs(10));
    assert!(status.is_some_and(|s| s.success()), "{status:?}: {log}");
    assert!(log.contains("told to stop: 1 questions under way"), "{log}");
    assert!(log.contains("1 questions were broken off"), "{log}");
    // Its folder is free at once.
    drop(served(&[], data.path()));
}

#[cfg(unix)]
#[test]
fn told_twice_it_ends_at_once() {
    let data = tempfile::tempdir().expect("a folder");
    let mut server = served(&[], data.path());
    let _asked = server.asked();
    server.signal();
    std::thread::sleep(Duration::from_millis(500));
    server.signal();
    let (status, log) = server.ended(Duration::from_secs(5));
    assert_eq!(status.and_then(|s| s.code()), Some(130), "{log}");
}

#[test]
fn others_are_let_in_with_a_passphrase_only() {
    let data = tempfile::tempdir().expect("a folder");
    for open in [&["--host", "0.0.0.0"][..], &["--host", "::"], &["--behind-proxy"]] {
        let out = run(&[&["serve", "--port", "0"], open].concat(), data.path(), "");
        let said = String::from_utf8_lossy(&out.stderr);
        assert!(!out.status.success() && said.contains("salt-lamp passphrase"), "{open:?}: {said}");
    }
    let short = run(&["passphrase"], data.path(), "short\n");
    assert!(!short.status.success());
    assert!(String::from_utf8_lossy(&short.stderr).contains("8 to 200 characters"));
    assert!(run(&["passphrase"], data.path(), WORDS).status.success());
    let server = served(&["--host", "0.0.0.0"], data.path());
    assert_eq!(server.status("GET /api/v1/scenarios HTTP/1.1"), "401");
    assert_eq!(server.status("GET /tonight HTTP/1.1"), "200");
    // While it is served the folder is its own.
    let out = run(&["passphrase", "--remove"], data.path(), "");
    assert!(String::from_utf8_lossy(&out.stderr).contains("another Salt Lamp uses the folder"));
    drop(server);
    assert!(run(&["passphrase", "--remove"], data.path(), "").status.success());
    let server = served(&[], data.path());
    assert_eq!(server.status("GET /api/v1/scenarios HTTP/1.1"), "200");
}

#[test]
fn a_base_path_and_files_that_are_none_are_refused_by_name() {
    let data = tempfile::tempdir().expect("a folder");
    let file = data.path().join("no.pem");
    std::fs::write(&file, "no certificate").expect("written");
    let pem = file.display().to_string();
    for (args, words) in [
        (vec!["--base-path", "/a b"], "/a b"),
        (vec!["--tls-cert", &pem, "--tls-key", &pem], "no.pem"),
        (vec!["--tls-cert", "missing.pem", "--tls-key", &pem], "missing.pem"),
    ] {
        let out = run(&[&["serve", "--port", "0"][..], &args].concat(), data.path(), "");
        let said = String::from_utf8_lossy(&out.stderr);
        assert!(!out.status.success() && said.contains(words), "{args:?}: {said}");
    }
}

/// The configuration that the documentation shows, on ports and with files of the test's own.
fn proxy_configuration(at: &Path, port: u16, to: u16) -> String {
    let documented = include_str!("../../../docs/security.md");
    let block: String = documented
        .lines()
        .skip_while(|l| !l.starts_with("    server {"))
        .take_while(|l| l.starts_with("    "))
        .map(|l| format!("{l}\n"))
        .collect();
    assert!(block.contains("X-Forwarded-For"), "{block}");
    let of = |name: &str| at.join(name).display().to_string();
    let block = block
        .replace("listen 443 ssl", &format!("listen 127.0.0.1:{port} ssl"))
        .replace("lamp.example", "localhost")
        .replace("/etc/ssl/lamp.pem", &of("cert.pem"))
        .replace("/etc/ssl/lamp.key", &of("key.pem"))
        .replace("127.0.0.1:7373", &format!("127.0.0.1:{to}"));
    let temporary: String = ["client_body", "proxy", "fastcgi", "uwsgi", "scgi"]
        .map(|kind| format!("{kind}_temp_path {};\n", of(kind)))
        .concat();
    format!(
        "pid {};\nerror_log stderr;\ndaemon off;\nmaster_process off;\nevents {{}}\n\
         http {{\naccess_log off;\n{temporary}{block}}}\n",
        of("pid")
    )
}

/// A proxy of the system's, or the one that `cargo xtask test` unpacked.
fn proxy_program() -> std::path::PathBuf {
    let own = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../target/tools/nginx/usr/sbin/nginx");
    let found = [Path::new("/usr/sbin/nginx").to_owned(), own].into_iter().find(|p| p.exists());
    found.expect("nginx is missing: run `cargo xtask test`")
}

#[tokio::test]
async fn behind_a_proxy_it_is_used_under_its_path_and_only_from_its_own_page() {
    let data = tempfile::tempdir().expect("a folder");
    let root = certificate(data.path());
    assert!(run(&["passphrase"], data.path(), WORDS).status.success());
    // Below those that a system hands out: no server of another test is given the same one.
    let first = 20_000 + (std::process::id() % 10_000) as u16;
    let free = |port: &u16| std::net::TcpListener::bind(("127.0.0.1", *port)).is_ok();
    let port = (first..first + 1000).find(free).expect("a port");
    let server = served(&["--behind-proxy", "--base-path", "/lamp"], data.path());
    let file = data.path().join("nginx.conf");
    let text = proxy_configuration(data.path(), port, server.port);
    std::fs::write(&file, text).expect("written");
    let child = Command::new(proxy_program())
        .arg("-p")
        .arg(data.path())
        .arg("-c")
        .arg(&file)
        .stderr(Stdio::null())
        .spawn()
        .expect("the proxy starts");
    // Ends with the test.
    let _proxy = Server { child, port };
    let until = Instant::now() + Duration::from_secs(30);
    while TcpStream::connect(("127.0.0.1", port)).is_err() {
        assert!(Instant::now() < until, "the proxy does not answer");
        std::thread::sleep(Duration::from_millis(50));
    }
    let ask = |text: String| asked_securely(port, root.clone(), text);
    let head = |line: &str, more: &str, body: &str| {
        format!(
            "{line} HTTP/1.1\r\nhost: localhost\r\nconnection: close\r\ncontent-type: \
             application/json\r\n{more}content-length: {}\r\n\r\n{body}",
            body.len()
        )
    };
    let page = ask(head("GET /lamp/night", "", "")).await;
    assert!(page.starts_with("HTTP/1.1 200"), "{page}");
    let health = ask(head("GET /lamp/api/v1/health", "", "")).await;
    assert!(health.contains("\"status\":\"ok\""), "{health}");
    // What a stranger says of itself is not believed: the proxy says it anew.
    let forged = "x-forwarded-for: 127.0.0.1\r\nx-forwarded-host: evil.example\r\n";
    let list = ask(head("GET /lamp/api/v1/scenarios", forged, "")).await;
    assert!(list.starts_with("HTTP/1.1 401"), "{list}");
    let words = format!("{{\"passphrase\":\"{}\"}}", WORDS.trim());
    let sign_in = "POST /lamp/api/v1/access/sign-in";
    let foreign = ask(head(sign_in, "origin: https://evil.example\r\n", &words)).await;
    assert!(foreign.starts_with("HTTP/1.1 403"), "{foreign}");
    let own = ask(head(sign_in, "origin: https://localhost\r\n", &words)).await;
    assert!(own.starts_with("HTTP/1.1 204"), "{own}");
    let set = own.lines().find(|l| l.to_lowercase().starts_with("set-cookie:")).expect("a cookie");
    assert!(set.contains("; Path=/lamp;") && set.contains("; Secure"), "{set}");
    let cookie = set.split_once(' ').and_then(|(_, c)| c.split(';').next()).expect("a pair");
    let cookie = format!("cookie: {cookie}\r\n");
    let list = ask(head("GET /lamp/api/v1/scenarios", &cookie, "")).await;
    assert!(list.starts_with("HTTP/1.1 200"), "{list}");
}

/// Makes a certificate of this machine's name with its key beside it.
fn certificate(at: &Path) -> tokio_rustls::rustls::pki_types::CertificateDer<'static> {
    let made = rcgen::generate_simple_self_signed(["localhost".to_owned()]).expect("made");
    std::fs::write(at.join("cert.pem"), made.cert.pem()).expect("written");
    std::fs::write(at.join("key.pem"), made.signing_key.serialize_pem()).expect("written");
    made.cert.der().clone()
}

/// What a server answers over a secure connection that trusts one certificate.
async fn asked_securely(
    port: u16,
    root: tokio_rustls::rustls::pki_types::CertificateDer<'static>,
    text: String,
) -> String {
    use tokio::io::{AsyncReadExt, AsyncWriteExt};
    use tokio_rustls::TlsConnector;
    use tokio_rustls::rustls::{ClientConfig, RootCertStore};

    let mut roots = RootCertStore::empty();
    roots.add(root).expect("a root");
    let config = ClientConfig::builder().with_root_certificates(roots).with_no_client_auth();
    let stream = tokio::net::TcpStream::connect(("127.0.0.1", port)).await.expect("there");
    let name = "localhost".try_into().expect("a name");
    let connector = TlsConnector::from(std::sync::Arc::new(config));
    let mut secure = connector.connect(name, stream).await.expect("a secure connection");
    secure.write_all(text.as_bytes()).await.expect("asked");
    let mut answer = Vec::new();
    let _ = secure.read_to_end(&mut answer).await;
    String::from_utf8_lossy(&answer).into_owned()
}

#[tokio::test]
async fn it_speaks_tls_with_a_certificate_of_one_s_own() {
    let data = tempfile::tempdir().expect("a folder");
    let root = certificate(data.path());
    let [cert, key, other] = ["cert.pem", "key.pem", "other.pem"].map(|n| data.path().join(n));
    let stranger = rcgen::KeyPair::generate().expect("made");
    std::fs::write(&other, stranger.serialize_pem()).expect("written");
    let [cert, key, other] = [cert, key, other].map(|p| p.display().to_string());
    let wrong =
        run(&["serve", "--port", "0", "--tls-cert", &cert, "--tls-key", &other], data.path(), "");
    assert!(String::from_utf8_lossy(&wrong.stderr).contains("does not belong to the certificate"));
    let server = served(&["--tls-cert", &cert, "--tls-key", &key], data.path());
    // Who does not speak TLS is not answered, and holds nothing up.
    let _plain = server.say("GET / HTTP/1.1\r\nhost: localhost\r\n\r\n");
    let health = "GET /api/v1/health HTTP/1.1\r\nhost: localhost\r\nconnection: close\r\n\r\n";
    let answer = asked_securely(server.port, root, health.to_owned()).await;
    assert!(answer.starts_with("HTTP/1.1 200") && answer.contains("\"status\":\"ok\""), "{answer}");
}

#[test]
fn a_folder_is_checked_and_copied() {
    let data = tempfile::tempdir().expect("a folder");
    let nothing = run(&["check"], data.path(), "");
    assert!(String::from_utf8_lossy(&nothing.stderr).contains("is not there, or empty"));
    // While it is served, too.
    let server = served(&["--demo"], data.path());
    assert_eq!(server.status("GET /api/v1/health HTTP/1.1"), "200");
    let out = run(&["check"], data.path(), "");
    assert!(out.status.success(), "{}", String::from_utf8_lossy(&out.stdout));
    let copy = data.path().join("copy.db").display().to_string();
    assert!(run(&["backup", &copy], data.path(), "").status.success());
    assert!(!run(&["backup", &copy], data.path(), "").status.success(), "it is there already");
    drop(server);
    // Closed in order, all of it stands in the one file.
    assert!(run(&["passphrase", "--remove"], data.path(), "").status.success());
    // A page in the middle is overwritten.
    let file = data.path().join("salt-lamp.db");
    let mut bytes = std::fs::read(&file).expect("read");
    bytes[4096..8192].fill(0xA5);
    std::fs::write(&file, bytes).expect("written");
    let out = run(&["check"], data.path(), "");
    let said = String::from_utf8_lossy(&out.stderr);
    assert!(!out.status.success() && said.contains("is damaged"), "{said}");
    std::fs::rename(&copy, &file).expect("put back");
    assert!(run(&["check"], data.path(), "").status.success());
}

/// Killed while it reads a folder, as by a power cut, again and again: at the end each frame is in the
/// log once.
#[test]
fn killed_in_the_middle_of_a_folder_each_frame_comes_in_once() {
    let [data, frames] = [(); 2].map(|()| tempfile::tempdir().expect("a folder"));
    let root = frames.path().canonicalize().expect("whole");
    let reference = concat!(env!("CARGO_MANIFEST_DIR"), "/../../reference/frames/round.fits");
    let sound = std::fs::read(reference).expect("the reference frame");
    const FRAMES: usize = 16;
    for i in 0..FRAMES {
        // Another pixel, another frame.
        let mut bytes = sound.clone();
        bytes[3000] = bytes[3000].wrapping_add(i as u8);
        std::fs::write(root.join(format!("{i:02}.fits")), bytes).expect("written");
    }
    let folder = root.display().to_string();
    let start = || served(&["--frames", &folder], data.path());
    let server = start();
    let body = serde_json::json!({"folder": folder, "what": "watch"}).to_string();
    let told = server.say(&format!(
        "POST /api/v1/log/folders HTTP/1.1\r\nhost: localhost\r\nconnection: close\r\n\
         content-type: application/json\r\ncontent-length: {}\r\n\r\n{body}",
        body.len()
    ));
    let mut answer = String::new();
    { told }.read_to_string(&mut answer).expect("an answer");
    assert!(answer.starts_with("HTTP/1.1 202"), "{answer}");
    let lights = |server: &Server| {
        let mut answer = String::new();
        let question = "GET /api/v1/log/sessions HTTP/1.1\r\nhost: localhost\r\nconnection: \
                        close\r\n\r\n";
        server.say(question).read_to_string(&mut answer).expect("an answer");
        let list = answer.split("\r\n\r\n").nth(1).and_then(|b| serde_json::from_str(b).ok());
        let list: serde_json::Value = list.unwrap_or_else(|| panic!("{answer}"));
        list.as_array().map_or(0, |l| l.iter().filter_map(|n| n["frames"].as_u64()).sum::<u64>())
    };
    let mut running = server;
    let (mut kills, mut last) = (0, 0);
    for _ in 0..600 {
        let now = lights(&running);
        assert!(now >= last, "{last} frames had come in, {now} are there");
        if now > last && now < FRAMES as u64 && kills < 4 {
            last = now;
            // Dropped is killed: nothing is said before.
            drop(running);
            running = start();
            kills += 1;
        }
        if now == FRAMES as u64 {
            break;
        }
        std::thread::sleep(std::time::Duration::from_millis(100));
    }
    assert!(kills > 0, "it was never killed in the middle");
    std::thread::sleep(std::time::Duration::from_millis(1000));
    assert_eq!(lights(&running), FRAMES as u64);
}
