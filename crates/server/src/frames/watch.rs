//! The watch over folders: what lies in them is walked through now and then, the system says when
//! something changes, and a file that has been still for a moment is taken in.
//!
//! A walk finds everything again after a restart, on a share that tells of no changes, and after a
//! rename; what the system says only makes it sooner. So each frame comes in once, whatever
//! happened meanwhile.

use std::path::{Path, PathBuf};
use std::time::{Duration, Instant};

use notify::{RecommendedWatcher, RecursiveMode, Watcher};
use tokio::runtime::Handle;
use walkdir::WalkDir;

use super::ingest::{NotIn, seen, take_file};
use super::{LogNews, MOST_TROUBLES, State, Waiting};
use crate::App;
use crate::http::blocking::Threads;

/// A file that has not changed for so long is tried.
const STILL: Duration = Duration::from_millis(300);
/// How often files that wait are looked at.
const TICK: Duration = Duration::from_millis(150);
/// How often folders are walked through though nobody said that anything changed.
const WALK_EVERY: Duration = Duration::from_secs(5);
/// After so long a file that is cut off is told of.
const CUT_OFF_TOLD: Duration = Duration::from_secs(10);
/// Folders within folders.
const DEEPEST: usize = 12;

/// Whether a file's name is that of a frame.
fn is_frame(path: &Path) -> bool {
    const KINDS: [&str; 8] = ["fits", "fit", "fts", "fz", "tif", "tiff", "dng", "cr2"];
    let kind = path.extension().map(|e| e.to_string_lossy().to_lowercase());
    kind.is_some_and(|k| KINDS.contains(&k.as_str()))
}

impl App {
    /// Watches over the folders of frames, as long as it is asked to.
    pub async fn watch_frames(self) {
        if let Err(e) = self.remembered().await {
            tracing::error!("the folders of frames are not watched: {e}");
            return;
        }
        let app = self.clone();
        let told = notify::recommended_watcher(move |e: notify::Result<notify::Event>| {
            // To walk through a folder is to open it: that is told too, and is nothing new.
            if !e.is_ok_and(|e| e.kind.is_access()) {
                app.frames.wake.notify_one();
            }
        });
        let mut watcher = told
            .inspect_err(|e| {
                tracing::warn!("changes of folders are not told ({e}): they are walked through")
            })
            .ok();
        let mut walked: Option<Instant> = None;
        let mut subscribed = Vec::new();
        loop {
            self.subscribe(watcher.as_mut(), &mut subscribed);
            let due = walked.is_none_or(|at| at.elapsed() >= WALK_EVERY);
            let app = self.clone();
            let to = Handle::current();
            let busy = tokio::task::spawn_blocking(move || {
                if due {
                    app.walk(&to);
                }
                app.take_ready(&to)
            })
            .await
            .unwrap_or(false);
            if due {
                walked = Some(Instant::now());
            }
            if busy {
                continue;
            }
            let waiting = !self.frames.state().waiting.is_empty();
            let pause = if waiting { TICK } else { WALK_EVERY };
            tokio::select! {
                () = self.frames.wake.notified() => {
                    // A file that grows says so with every piece of it.
                    tokio::time::sleep(TICK).await;
                    walked = None;
                }
                () = tokio::time::sleep(pause) => {}
            }
        }
    }

    /// What the database knows from before.
    async fn remembered(&self) -> Result<(), salt_lamp_store::StoreError> {
        let files = self.store.known_files().await?;
        let watched = self.store.watched_folders().await?;
        let mut state = self.frames.state();
        for f in files {
            state.known.insert(PathBuf::from(f.path), (f.bytes.unsigned_abs(), f.modified_ms));
        }
        // A folder whose root is not named any more is not watched.
        let named = |w: &PathBuf| self.frames.roots.iter().any(|r| w.starts_with(r));
        state.watched.extend(watched.into_iter().map(PathBuf::from).filter(named));
        Ok(())
    }

    fn subscribe(&self, watcher: Option<&mut RecommendedWatcher>, had: &mut Vec<PathBuf>) {
        let Some(watcher) = watcher else { return };
        let wanted: Vec<PathBuf> = self.frames.state().watched.iter().cloned().collect();
        if *had == wanted {
            return;
        }
        for folder in had.iter().filter(|f| !wanted.contains(f)) {
            let _ = watcher.unwatch(folder);
        }
        for folder in wanted.iter().filter(|f| !had.contains(f)) {
            if let Err(e) = watcher.watch(folder, RecursiveMode::Recursive) {
                tracing::warn!(
                    "{} tells of no changes ({e}): it is walked through",
                    folder.display()
                );
            }
        }
        *had = wanted;
    }

    /// Walks through the folders: what is new waits, what is gone is marked.
    fn walk(&self, to: &Handle) {
        let (once, watched) = {
            let mut state = self.frames.state();
            (std::mem::take(&mut state.once), state.watched.clone())
        };
        let mut found = Vec::new();
        for folder in once.iter().chain(&watched) {
            let all = WalkDir::new(folder).max_depth(DEEPEST).into_iter().filter_map(Result::ok);
            let files = all.filter(|e| e.file_type().is_file() && is_frame(e.path()));
            found.extend(files.map(walkdir::DirEntry::into_path));
        }
        let (mut back, mut gone) = (Vec::new(), Vec::new());
        let mut state = self.frames.state();
        let before = state.waiting.len();
        for path in &found {
            let Ok(now) = seen(path) else { continue };
            if state.known.get(path) == Some(&now) {
                if state.gone.remove(path) {
                    back.push(path.display().to_string());
                }
            } else {
                state.look(path, now);
            }
        }
        let here: std::collections::HashSet<&PathBuf> = found.iter().collect();
        let beneath = |p: &&PathBuf| once.iter().chain(&watched).any(|f| p.starts_with(f));
        let missing: Vec<PathBuf> = state
            .known
            .keys()
            .filter(beneath)
            .filter(|p| !here.contains(p) && !state.gone.contains(*p))
            .cloned()
            .collect();
        gone.extend(missing.iter().map(|p| p.display().to_string()));
        state.gone.extend(missing);
        let changed = state.waiting.len() != before;
        drop(state);
        for (paths, is_gone) in [(back, false), (gone, true)] {
            if !paths.is_empty()
                && let Err(e) = to.block_on(self.store.files_gone(&paths, is_gone))
            {
                tracing::error!("{e}");
            }
        }
        if changed {
            self.frames.tell(LogNews::Reading);
        }
    }

    /// Takes in what has been still for a moment, until folders are to be walked through again; whether
    /// there may be more. One file has all processors, of many each has its own: reading, naming and
    /// drawing one are for one processor alone.
    fn take_ready(&self, to: &Handle) -> bool {
        let until = Instant::now() + WALK_EVERY;
        let machine = Threads::of_machine();
        // Nothing is being read: what a thread left that broke is tried again.
        self.frames.state().now.clear();
        if self.frames.state().waiting.len() < 2 * machine.count() {
            return self.take_next(to, &machine);
        }
        std::thread::scope(|scope| {
            let share = || {
                let mut any = false;
                while Instant::now() < until && self.take_next(to, &Threads::of(1)) {
                    any = true;
                }
                any
            };
            let all: Vec<_> = (0..machine.count()).map(|_| scope.spawn(share)).collect();
            let any: Vec<bool> = all.into_iter().map(|t| t.join().unwrap_or(false)).collect();
            any.contains(&true)
        })
    }

    /// Takes the next file in that has been still for a moment; whether there was one.
    fn take_next(&self, to: &Handle, threads: &Threads) -> bool {
        let Some(path) = self.frames.state().next() else { return false };
        self.frames.tell(LogNews::Reading);
        let before = seen(&path).ok();
        let outcome = take_file(self, &path, to, threads);
        let mut state = self.frames.state();
        state.now.remove(&path);
        match outcome {
            Ok(taken) => {
                state.waiting.remove(&path);
                state.troubles.remove(&path);
                state.gone.remove(&path);
                state.done += 1;
                if let Some(before) = before {
                    state.known.insert(path.clone(), before);
                }
                drop(state);
                let file = path.file_name().unwrap_or_default().to_string_lossy().into_owned();
                self.frames.tell(LogNews::Frame {
                    session: taken.session,
                    frame: taken.frame,
                    file,
                });
                true
            }
            Err(e) => {
                state.failed(&path, before, &e);
                drop(state);
                self.frames.tell(LogNews::Reading);
                true
            }
        }
    }
}

impl State {
    /// A file that is not in the log as it is now.
    fn look(&mut self, path: &Path, (bytes, modified_ms): (u64, i64)) {
        if self.waiting.is_empty() {
            self.done = 0;
        }
        let new = Waiting { bytes, modified_ms, still_since: Instant::now(), tried: false };
        match self.waiting.get_mut(path) {
            Some(w) if (w.bytes, w.modified_ms) == (bytes, modified_ms) => {}
            Some(w) => *w = new,
            None => {
                self.waiting.insert(path.to_owned(), new);
            }
        }
    }

    /// The first file that has been still for a moment; those that still change are looked at again.
    fn next(&mut self) -> Option<PathBuf> {
        let mut lost = Vec::new();
        let mut next = None;
        for (path, w) in &mut self.waiting {
            if self.now.contains(path) {
                continue;
            }
            let Ok(now) = seen(path) else {
                lost.push(path.clone());
                continue;
            };
            if now != (w.bytes, w.modified_ms) {
                (w.bytes, w.modified_ms) = now;
                (w.still_since, w.tried) = (Instant::now(), false);
            } else if w.tried {
                if w.still_since.elapsed() > CUT_OFF_TOLD && !self.troubles.contains_key(path) {
                    let why = "it is cut off, and does not grow any more: it waits for its rest";
                    self.troubles.insert(path.clone(), why.to_owned());
                }
            } else if w.still_since.elapsed() >= STILL {
                next = Some(path.clone());
                break;
            }
        }
        self.waiting.retain(|p, _| !lost.contains(p));
        self.now.extend(next.clone());
        next
    }

    /// A file that could not be taken in as it was.
    fn failed(&mut self, path: &Path, was: Option<(u64, i64)>, e: &NotIn) {
        let may_grow = matches!(e, NotIn::Frame(e) if e.may_grow());
        let later = may_grow || matches!(e, NotIn::Store(_));
        if later && let Some(w) = self.waiting.get_mut(path) {
            w.tried = may_grow;
            w.still_since = Instant::now();
        } else {
            // Until it changes it is not tried again.
            self.waiting.remove(path);
            self.known.extend(was.map(|was| (path.to_owned(), was)));
        }
        if !may_grow && (self.troubles.len() < MOST_TROUBLES || self.troubles.contains_key(path)) {
            self.troubles.insert(path.to_owned(), e.to_string());
        }
    }
}
