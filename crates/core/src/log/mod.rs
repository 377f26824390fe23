//! A night's frames, understood: which belong together, what each was worth, which were bad and
//! why.
//!
//! Frames of one filter, length, gain and object are held against each other: what a frame lost of
//! its starlight against the clearest of its group is cloud, stars that grew are focus or seeing, a
//! background that jumped is a lamp or dawn. A frame is never thrown away: it is put aside with its
//! reason, and whoever was there may overrule that. Where frames lie and how they are kept is not
//! known here.

pub mod evening;
pub mod quality;
pub mod totals;
pub mod transparency;

pub use evening::evening;
pub use quality::{FrameJudged, NightFrame, Reason, Rule, night_judged};
pub use totals::{FilterTotal, totals};
