//! Frames that come in by themselves: folders that are read once or watched, each file taken into
//! the log when it is whole, and everybody who looks told of it.

mod ingest;
mod watch;

use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};

use serde::Serialize;
use tokio::sync::{Notify, OwnedSemaphorePermit, Semaphore, broadcast};
use utoipa::ToSchema;

pub(crate) use ingest::take_upload;

/// Messages that a listener may be behind; a slower one misses some and asks again.
const BEHIND: usize = 256;
/// Files that could not be read, of which are told.
const MOST_TROUBLES: usize = 200;

/// What is told to whoever looks at the log.
#[derive(Clone, Debug, Serialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub(crate) enum LogNews {
    /// A frame came in.
    Frame {
        /// Id of its night.
        session: String,
        /// Its id.
        frame: String,
        /// Name of its file.
        file: String,
    },
    /// How far the reading is, or what could not be read, has changed.
    Reading,
    /// More came than this listener took: everything is to be asked for anew.
    Missed,
}

/// A file that could not be read.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub(crate) struct FileTrouble {
    /// Its path.
    pub path: String,
    /// Why, and what is accepted.
    pub why: String,
}

/// How far the reading of folders is.
#[derive(Clone, Debug, Default, Serialize, ToSchema)]
pub(crate) struct Reading {
    /// Whether a stand-in is playing a night.
    pub playing: bool,
    /// Files that wait to be read; not those that wait to grow.
    pub waiting: usize,
    /// Files that were read since nothing waited.
    pub done: usize,
    /// The file that is being read.
    pub now: Option<String>,
    /// Files that could not be read.
    pub troubles: Vec<FileTrouble>,
}

/// A file that was seen and is not in the log yet.
struct Waiting {
    bytes: u64,
    modified_ms: i64,
    /// Since when it has not changed.
    still_since: std::time::Instant,
    /// It was tried as it is, and is cut off: it waits until it grows.
    tried: bool,
}

#[derive(Default)]
struct State {
    waiting: BTreeMap<PathBuf, Waiting>,
    /// Length and time of every file that was read, by path.
    known: HashMap<PathBuf, (u64, i64)>,
    gone: BTreeSet<PathBuf>,
    /// Folders to read once.
    once: BTreeSet<PathBuf>,
    watched: BTreeSet<PathBuf>,
    troubles: BTreeMap<PathBuf, String>,
    done: usize,
    /// Files that are being read.
    now: BTreeSet<PathBuf>,
}

/// Folders of frames.
pub(crate) struct Frames {
    /// Folders beneath which frames may be read; no others are.
    roots: Vec<PathBuf>,
    /// Longitude of a frame that does not say its site, degrees.
    longitude_deg: f64,
    news: broadcast::Sender<LogNews>,
    state: Mutex<State>,
    /// Held from asking how the frames of a night are drawn until the first of them is stored.
    first: Mutex<()>,
    wake: Notify,
    /// One place for who plays a night.
    playing: Arc<Semaphore>,
}

impl Default for Frames {
    fn default() -> Self {
        Self::new(Vec::new(), 0.0)
    }
}

impl Frames {
    /// Frames beneath some folders, which must be there, each with its whole path; where frames do not
    /// say where they were taken, at a longitude, degrees east.
    pub fn new(roots: Vec<PathBuf>, longitude_deg: f64) -> Self {
        let (news, _) = broadcast::channel(BEHIND);
        Self {
            roots,
            longitude_deg,
            news,
            state: Mutex::default(),
            first: Mutex::default(),
            wake: Notify::new(),
            playing: Arc::new(Semaphore::new(1)),
        }
    }

    fn state(&self) -> MutexGuard<'_, State> {
        self.state.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Held while the first frame of its kind on its night is drawn and stored.
    fn first_of_a_night(&self) -> MutexGuard<'_, ()> {
        self.first.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// The folders that were named at start.
    pub fn roots(&self) -> &[PathBuf] {
        &self.roots
    }

    fn longitude_deg(&self) -> f64 {
        self.longitude_deg
    }

    /// A folder beneath a root.
    ///
    /// # Errors
    /// In words, where it is not there or not beneath one.
    pub fn beneath(&self, folder: &str) -> Result<PathBuf, String> {
        let roots = || self.roots.iter().map(|r| r.display().to_string()).collect::<Vec<_>>();
        if self.roots.is_empty() {
            return Err("no folder of frames was named at start: start with --frames FOLDER".into());
        }
        let whole = Path::new(folder)
            .canonicalize()
            .map_err(|e| format!("{folder} cannot be opened: {e}"))?;
        if !whole.is_dir() {
            return Err(format!("{folder} is no folder"));
        }
        if !self.roots.iter().any(|r| whole.starts_with(r)) {
            return Err(format!("{folder} does not lie beneath {}", roots().join(" or ")));
        }
        Ok(whole)
    }

    /// Reads a folder once.
    pub fn read_once(&self, folder: PathBuf) {
        self.state().once.insert(folder);
        self.wake.notify_one();
    }

    /// Watches a folder, or no longer.
    pub fn watch(&self, folder: PathBuf, watched: bool) {
        let mut state = self.state();
        if watched {
            state.watched.insert(folder);
        } else {
            state.watched.remove(&folder);
            state.waiting.retain(|p, _| !p.starts_with(&folder));
        }
        drop(state);
        self.wake.notify_one();
    }

    /// Calls off what is being read from folders that are read once.
    pub fn call_off(&self) {
        let mut state = self.state();
        let watched = state.watched.clone();
        state.once.clear();
        state.waiting.retain(|p, _| watched.iter().any(|w| p.starts_with(w)));
        drop(state);
        self.tell(LogNews::Reading);
    }

    /// The place of who plays a night; `None` where one is being played.
    pub fn begin_to_play(&self) -> Option<OwnedSemaphorePermit> {
        let place = Arc::clone(&self.playing).try_acquire_owned().ok();
        self.tell(LogNews::Reading);
        place
    }

    /// Says that a night is over.
    pub fn over(&self) {
        self.tell(LogNews::Reading);
    }

    /// How far it is.
    pub fn reading(&self) -> Reading {
        let state = self.state();
        let told = |(path, why): (&PathBuf, &String)| FileTrouble {
            path: path.display().to_string(),
            why: why.clone(),
        };
        Reading {
            playing: self.playing.available_permits() == 0,
            waiting: state.waiting.values().filter(|w| !w.tried).count(),
            done: state.done,
            now: state.now.first().map(|p| p.display().to_string()),
            troubles: state.troubles.iter().map(told).collect(),
        }
    }

    /// Hears what comes in.
    pub fn listen(&self) -> broadcast::Receiver<LogNews> {
        self.news.subscribe()
    }

    fn tell(&self, news: LogNews) {
        // Nobody may be listening.
        let _ = self.news.send(news);
    }
}
