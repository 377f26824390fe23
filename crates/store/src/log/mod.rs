//! The log: nights with a camera, the frames of each, what happened, and which folders are watched.
//!
//! A frame is known by its content: the same file under another name, or a copy of it, is the same
//! frame. Its pixels are not kept here.

mod frames;
mod lessons;
mod names;
mod sessions;

pub use frames::{Decision, FileSeen, LoggedFrame, NewFrame, TakenIn};
pub use lessons::{StoredLesson, Taught};
pub use names::{HeaderName, NameKind};
pub use sessions::{EventKind, LogEvent, LogSession, SessionsAsked};
