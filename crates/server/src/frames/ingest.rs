//! One frame into the log: read, known by its content, measured, drawn small, stored.

use std::path::Path;
use std::sync::Arc;
use std::time::UNIX_EPOCH;

use salt_lamp_core::frame::FrameMeasured;
use salt_lamp_core::log::evening;
use salt_lamp_core::log::quality::judged_channel;
use salt_lamp_formats::frame::{FrameError, FrameFile, open_bytes, read_frame, start_unix_s};
use salt_lamp_store::{FileSeen, NewFrame, TakenIn};
use sha2::{Digest, Sha256};
use tokio::runtime::Handle;

use super::LogNews;
use crate::http::blocking::Threads;
use crate::{App, Problem};

/// Stars that are kept of a frame: enough to lay it on another.
const STARS_KEPT: usize = 120;

/// Why a frame did not come in.
#[derive(Debug, thiserror::Error)]
pub(super) enum NotIn {
    #[error(transparent)]
    Frame(#[from] FrameError),
    #[error("it could not be stored: {0}")]
    Store(#[from] salt_lamp_store::StoreError),
}

/// A file as it lies there.
pub(super) fn seen(path: &Path) -> std::io::Result<(u64, i64)> {
    let meta = std::fs::metadata(path)?;
    let since = meta.modified()?.duration_since(UNIX_EPOCH).unwrap_or_default();
    Ok((meta.len(), i64::try_from(since.as_millis()).unwrap_or(i64::MAX)))
}

/// A frame with all bytes of its file, by which it is known.
struct Arrived {
    bytes: Arc<Vec<u8>>,
    frame: FrameFile,
    file: FileSeen,
    stays: bool,
}

/// Takes a file in. Blocks: it belongs on a thread of its own.
pub(super) fn take_file(
    app: &App,
    path: &Path,
    to: &Handle,
    threads: &Threads,
) -> Result<TakenIn, NotIn> {
    let (bytes, modified_ms) =
        seen(path).map_err(|source| FrameError::Io { file: path.display().to_string(), source })?;
    let (name, content) = open_bytes(path)?;
    let file = FileSeen { path: path.display().to_string(), bytes: bytes as i64, modified_ms };
    let content = Arc::new(content);
    let frame = salt_lamp_formats::frame::read_opened(&name, content.clone())?;
    let arrived = Arrived { bytes: content, frame, file, stays: true };
    store(app, arrived, threads, to)
}

/// How names of contents begin.
const NAMED: &str = "b3:";

/// The name of a content: its BLAKE3 hash.
fn name_of(bytes: &[u8]) -> String {
    format!("{NAMED}{}", blake3::hash(bytes).to_hex())
}

/// The name that versions before this gave a content: its SHA-256 hash, ten times as slow to have
/// where the processor does not help.
fn older_name_of(bytes: &[u8]) -> String {
    Sha256::digest(bytes).iter().map(|b| format!("{b:02x}")).collect()
}

/// Takes in a frame that somebody dropped.
pub(crate) async fn take_upload(
    app: &App,
    name: String,
    bytes: Vec<u8>,
) -> Result<TakenIn, Problem> {
    let to = Handle::current();
    let work = app.heavy(move |app, threads| {
        let (length, bytes) = (bytes.len() as i64, Arc::new(bytes));
        let frame = read_frame(&name, bytes.clone())?;
        let file = FileSeen { path: name.clone(), bytes: length, modified_ms: 0 };
        let arrived = Arrived { bytes, frame, file, stays: false };
        let taken = store(app, arrived, threads, &to)?;
        if taken.is_new {
            let (session, frame) = (taken.session.clone(), taken.frame.clone());
            app.frames.tell(LogNews::Frame { session, frame, file: name });
        }
        Ok(taken)
    });
    work.await?.map_err(|e: NotIn| match e {
        NotIn::Frame(e) => e.into(),
        NotIn::Store(e) => e.into(),
    })
}

fn store(app: &App, arrived: Arrived, threads: &Threads, to: &Handle) -> Result<TakenIn, NotIn> {
    let (store, longitude_deg) = (&app.store, app.frames.longitude_deg());
    let Arrived { bytes, frame, file, stays } = arrived;
    let (mut night, mut start_s) = (String::new(), None);
    let mut first = None;
    let fallback_s = file.modified_ms as f64 / 1000.0;
    let shown = |measured: &FrameMeasured| {
        start_s = begun(measured);
        let east = measured.read.header.longitude_deg.unwrap_or(longitude_deg);
        night = evening(start_s.unwrap_or(fallback_s), east);
        let like = || to.block_on(store.shown_like(&night, measured)).ok().flatten();
        like().or_else(|| {
            // The first of its kind on its night, unless another came in meanwhile: those that are
            // read beside it wait to be drawn as it is.
            first = Some(app.frames.first_of_a_night());
            like().inspect(|_| first = None)
        })
    };
    let content = name_of(&bytes);
    let may_be_older = to.block_on(store.has_older_names(file.bytes, NAMED))?;
    let older_content = may_be_older.then(|| older_name_of(&bytes));
    let (mut measured, preview, shown) = frame.measure_and_draw(shown, threads)?;
    lean(&mut measured);
    let new = NewFrame {
        content: &content,
        older_content: older_content.as_deref(),
        file,
        stays,
        night: &night,
        start_s,
        measured: &measured,
        preview: &preview,
        shown,
    };
    let taken = to.block_on(store.take_in(&new))?;
    drop(first);
    Ok(taken)
}

/// When a frame began; one that does not say its zone is taken as UTC.
fn begun(measured: &FrameMeasured) -> Option<f64> {
    let start = measured.read.header.start.as_deref()?;
    start_unix_s(start).or_else(|| start_unix_s(&format!("{start}Z")))
}

/// Leaves out what a log of thousands does not need: all but the brightest stars of the channel by
/// which a frame is judged, to a hundredth of a pixel.
fn lean(measured: &mut FrameMeasured) {
    let judged = judged_channel(measured).map(|c| c.channel.clone());
    for c in &mut measured.channels {
        if Some(&c.channel) != judged.as_ref() {
            c.brightest.clear();
        }
        c.brightest.truncate(STARS_KEPT);
        for s in &mut c.brightest {
            let round = |v: f64, by: f64| (v * by).round() / by;
            (s.x_px, s.y_px) = (round(s.x_px, 100.0), round(s.y_px, 100.0));
            (s.flux_adu, s.peak_adu) = (round(s.flux_adu, 10.0), round(s.peak_adu, 10.0));
            s.hfr_px = round(s.hfr_px, 1000.0);
        }
    }
}
