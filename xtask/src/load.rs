//! Many heavy questions at once, and a small one beside them: how long the small one waits.

use std::io::{Read, Write};
use std::net::TcpStream;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::{Duration, Instant};

use crate::Outcome;

/// Questions at once.
const AT_ONCE: usize = 200;
/// The small question's 95th percentile may be this long, ms.
const LIMIT_MS: f64 = 50.0;

/// One question over a connection of its own: status and body. `head` is a method and an address,
/// and may bring headers of its own.
pub fn ask(port: &str, head: &str, body: &str) -> Result<(u16, String), String> {
    let failed = |e: std::io::Error| format!("xtask: {head}: {e}");
    let mut stream = TcpStream::connect(format!("127.0.0.1:{port}")).map_err(failed)?;
    let head =
        if head.contains(" HTTP/1.1") { head.to_owned() } else { format!("{head} HTTP/1.1") };
    let whole = format!(
        "{head}\r\nhost: localhost\r\nconnection: close\r\n\
         content-type: application/json\r\ncontent-length: {}\r\n\r\n{body}",
        body.len()
    );
    stream.write_all(whole.as_bytes()).map_err(failed)?;
    let mut answer = Vec::new();
    stream.read_to_end(&mut answer).map_err(failed)?;
    let text = String::from_utf8_lossy(&answer);
    let status = text.split(' ').nth(1).and_then(|s| s.parse().ok()).unwrap_or(0);
    let (head, body) = text.split_once("\r\n\r\n").unwrap_or((&text, ""));
    let chunked = head.to_lowercase().contains("transfer-encoding: chunked");
    Ok((status, if chunked { joined(body) } else { body.to_owned() }))
}

/// A body that came in chunks (RFC 9112, section 7.1).
fn joined(mut body: &str) -> String {
    let mut out = String::new();
    while let Some((size, rest)) = body.split_once("\r\n") {
        let size = usize::from_str_radix(size.trim(), 16).unwrap_or(0);
        let Some(chunk) = rest.get(..size).filter(|c| !c.is_empty()) else { break };
        out.push_str(chunk);
        body = rest[size..].trim_start_matches("\r\n");
    }
    out
}

/// What the small question took, ms, sorted.
struct Waits(Vec<f64>);

impl Waits {
    fn at(&self, share: f64) -> f64 {
        let last = self.0.len().saturating_sub(1);
        self.0.get((last as f64 * share).round() as usize).copied().unwrap_or(f64::NAN)
    }
}

/// Asks whether the server is up, every ten milliseconds, while `meanwhile` goes on.
fn health(port: &'static str, meanwhile: impl FnOnce()) -> Waits {
    let over = Arc::new(AtomicBool::new(false));
    let ends = Arc::clone(&over);
    let asking = std::thread::spawn(move || {
        let mut took = Vec::new();
        while !ends.load(Ordering::Relaxed) {
            let from = Instant::now();
            if matches!(ask(port, "GET /api/v1/health", ""), Ok((200, _))) {
                took.push(from.elapsed().as_secs_f64() * 1000.0);
            } else {
                took.push(f64::INFINITY);
            }
            std::thread::sleep(Duration::from_millis(10));
        }
        took.sort_by(f64::total_cmp);
        Waits(took)
    });
    meanwhile();
    over.store(true, Ordering::Relaxed);
    asking.join().unwrap_or(Waits(Vec::new()))
}

/// The questions of a kind that are made of one stored comparison.
fn questions(scenario: &serde_json::Value) -> Vec<(&'static str, String)> {
    let site = serde_json::json!({"latitude_deg": 46.35, "longitude_deg": -72.55, "height_m": 30.0,
        "zone": "America/Toronto"});
    let night = serde_json::json!({"scenario": scenario, "site": site, "date": "2027-01-28"});
    let calendar = serde_json::json!({"scenario": scenario, "site": site, "date": "2027-01-01",
        "days": 370});
    let look = serde_json::json!({"scenario": scenario, "view": {"field_arcsec": 900}});
    vec![
        ("POST /api/v1/night", night.to_string()),
        ("POST /api/v1/decisions", scenario.to_string()),
        ("POST /api/v1/night/calendar", calendar.to_string()),
        ("POST /api/v1/look/frames", look.to_string()),
    ]
}

/// Prints how long the small question waits under each kind of load.
///
/// # Errors
/// Where it waits too long, or a heavy question is answered by an error.
pub fn run(port: &'static str) -> Outcome {
    let (_, stored) = ask(port, "GET /api/v1/scenarios/larch-lane-ic-443", "")?;
    let stored: serde_json::Value = serde_json::from_str(&stored)
        .map_err(|e| format!("xtask: the demo's comparison cannot be read: {e}"))?;
    let alone = health(port, || std::thread::sleep(Duration::from_secs(1)));
    println!("{:<28} {:>9} {:>9} {:>9}   answered", "load", "median", "95 %", "worst");
    let say = |name: &str, w: &Waits, what: &str| {
        println!(
            "{name:<28} {:>6.1} ms {:>6.1} ms {:>6.1} ms   {what}",
            w.at(0.5),
            w.at(0.95),
            w.at(1.0)
        );
    };
    say("none", &alone, "");
    let mut slow = Vec::new();
    for (head, body) in questions(&stored["scenario"]) {
        let counts: Arc<Mutex<[usize; 3]>> = Arc::default();
        let from = Instant::now();
        let waits = health(port, || {
            let all: Vec<_> = (0..AT_ONCE)
                .map(|i| {
                    let counts = Arc::clone(&counts);
                    // No two are the same question: nothing is answered from what was kept.
                    let body = body.replacen(
                        "\"zenith_v_mag\":19.3",
                        &format!("\"zenith_v_mag\":{}", 18.5 + i as f64 * 0.01),
                        1,
                    );
                    std::thread::spawn(move || {
                        // As a browser asks.
                        let head = format!("{head} HTTP/1.1\r\naccept-encoding: gzip");
                        let status = ask(port, &head, &body).map_or(0, |a| a.0);
                        let mut counts = counts.lock().unwrap_or_else(PoisonError::into_inner);
                        counts[match status {
                            200 => 0,
                            429 => 1,
                            _ => 2,
                        }] += 1;
                    })
                })
                .collect();
            all.into_iter().for_each(|one| drop(one.join()));
        });
        let [done, later, failed] = *counts.lock().unwrap_or_else(PoisonError::into_inner);
        let took = from.elapsed().as_secs_f64();
        let what = format!("{done} in {took:.1} s, {later} told to come again, {failed} failed");
        say(head.trim_start_matches("POST /api/v1/"), &waits, &what);
        if failed > 0 || done == 0 || waits.at(0.95) > LIMIT_MS {
            slow.push(head);
        }
    }
    if slow.is_empty() {
        return Ok(());
    }
    Err(format!("xtask: over {LIMIT_MS} ms, or failed: {}", slow.join(", ")))
}
