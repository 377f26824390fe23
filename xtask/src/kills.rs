//! A server that is killed in the middle of its writes, again and again: what it acknowledged is
//! there after each start.

use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::time::{Duration, Instant};

use serde_json::Value;

use crate::load::ask;
use crate::{Outcome, root};

const PORT: &str = "7396";
/// Clients that write at once, each into a comparison of its own.
const WRITERS: usize = 6;
/// A start after a kill may take this long until it answers, s.
const LONGEST_START_S: f64 = 0.5;

struct Server(Child);

impl Drop for Server {
    fn drop(&mut self) {
        // SIGKILL: nothing is closed, nothing is told.
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

/// Starts the server and waits until it answers; how long that took, s.
fn started(data: &Path) -> Result<(Server, f64), String> {
    let from = Instant::now();
    let child = Command::new(root().join("target/release/salt-lamp"))
        .args(["serve", "--demo", "--port", PORT, "--data"])
        .arg(data)
        .stdout(Stdio::null())
        .spawn()
        .map_err(|e| format!("xtask: the server could not be started: {e}"))?;
    let server = Server(child);
    while from.elapsed() < Duration::from_secs(30) {
        if matches!(ask(PORT, "GET /api/v1/health", ""), Ok((200, _))) {
            return Ok((server, from.elapsed().as_secs_f64()));
        }
        std::thread::sleep(Duration::from_millis(2));
    }
    Err("xtask: the server does not answer within 30 s of its start".into())
}

fn stored(id: &str) -> Result<Value, String> {
    let (status, text) = ask(PORT, &format!("GET /api/v1/scenarios/{id}"), "")?;
    if status != 200 {
        return Err(format!("xtask: comparison {id} is answered {status}: {text}"));
    }
    serde_json::from_str(&text).map_err(|e| format!("xtask: comparison {id}: {e}"))
}

/// The number in a title such as "write 17".
fn number(stored: &Value) -> u64 {
    let title = stored["scenario"]["title"].as_str().unwrap_or_default();
    title.rsplit(' ').next().and_then(|n| n.parse().ok()).unwrap_or(0)
}

/// Saves a comparison again and again until the server is gone; `acknowledged` is the last that was
/// answered as stored, `count` all of them.
fn write(
    id: &str,
    mut scenario: Value,
    acknowledged: &AtomicU64,
    count: &AtomicU64,
    over: &AtomicBool,
) {
    let mut next = acknowledged.load(Ordering::Relaxed) + 1;
    while !over.load(Ordering::Relaxed) {
        scenario["title"] = format!("write {next}").into();
        let head = format!("PUT /api/v1/scenarios/{id} HTTP/1.1\r\nif-match: *");
        match ask(PORT, &head, &scenario.to_string()) {
            Ok((200, _)) => {
                acknowledged.store(next, Ordering::Relaxed);
                count.fetch_add(1, Ordering::Relaxed);
                next += 1;
            }
            _ => return,
        }
    }
}

/// Kills a server that is being written to so many times.
///
/// # Errors
/// Where a write that was acknowledged is not there, or a start takes too long.
pub fn run(kills: u32) -> Outcome {
    let data = root().join("target/kills");
    let _ = std::fs::remove_dir_all(&data);
    let (mut server, _) = started(&data)?;
    let demo = stored("larch-lane-ic-443")?["scenario"].clone();
    let mut ids = Vec::new();
    for _ in 0..WRITERS {
        let (status, text) = ask(PORT, "POST /api/v1/scenarios", &demo.to_string())?;
        let made: Value = serde_json::from_str(&text).unwrap_or_default();
        match (status, made["id"].as_str()) {
            (201, Some(id)) => ids.push(id.to_owned()),
            _ => return Err(format!("xtask: a comparison was not stored ({status}): {text}")),
        }
    }
    let acknowledged: Arc<Vec<AtomicU64>> =
        Arc::new((0..WRITERS).map(|_| AtomicU64::new(0)).collect());
    let count = Arc::new(AtomicU64::new(0));
    let (mut starts, mut lost) = (Vec::new(), 0);
    for kill in 0..kills {
        let over = Arc::new(AtomicBool::new(false));
        let writers: Vec<_> = (0..WRITERS)
            .map(|w| {
                let (id, demo) = (ids[w].clone(), demo.clone());
                let (acknowledged, count) = (Arc::clone(&acknowledged), Arc::clone(&count));
                let over = Arc::clone(&over);
                std::thread::spawn(move || write(&id, demo, &acknowledged[w], &count, &over))
            })
            .collect();
        // Each kill comes at another moment: steps of the golden section between 20 and 170 ms.
        let part = (f64::from(kill) * 0.618_033_988_749_895).fract();
        std::thread::sleep(Duration::from_secs_f64(0.02 + 0.15 * part));
        drop(server);
        over.store(true, Ordering::Relaxed);
        writers.into_iter().for_each(|w| drop(w.join()));
        let took;
        (server, took) = started(&data)?;
        starts.push(took);
        for (id, last) in ids.iter().zip(acknowledged.iter()) {
            let (there, last_told) = (number(&stored(id)?), last.load(Ordering::Relaxed));
            if there < last_told {
                lost += 1;
                eprintln!(
                    "xtask: kill {kill}: write {last_told} of {id} was acknowledged; {there} is there"
                );
            }
            // One more may have been stored whose answer was cut off.
            last.store(there.max(last_told), Ordering::Relaxed);
        }
    }
    starts.sort_by(f64::total_cmp);
    let worst = starts.last().copied().unwrap_or(0.0);
    println!(
        "{kills} kills, {} acknowledged writes, {lost} lost; a start takes {:.2} s (median), {worst:.2} s (worst)",
        count.load(Ordering::Relaxed),
        starts.get(starts.len() / 2).copied().unwrap_or(0.0)
    );
    if lost > 0 || worst > LONGEST_START_S {
        return Err(format!("xtask: writes were lost, or a start took over {LONGEST_START_S} s"));
    }
    Ok(())
}
