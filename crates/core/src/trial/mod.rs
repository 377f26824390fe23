//! Fair trials: which of two filters, gains, subs or rigs is better, by frames taken so that cloud,
//! hour, focus and moon serve both alike.
//!
//! [`design`] says before a night what the model expects and how many pairs of frames would show
//! it; [`order`] in which order they are taken; [`assign`] and [`measure`] what each frame of the
//! log is and holds; [`analysis`] what they say once everything else is allowed for; [`verdict`]
//! says it in words; [`beside`] lays frames upon each other for the eye, [`predicted`] says what the
//! model has a pixel hold, and [`blind`] hides which is which. Nothing here knows where frames lie or
//! when it is.

pub mod analysis;
pub mod answer;
pub mod assign;
pub mod beside;
pub mod blind;
pub mod data;
pub mod design;
pub mod document;
pub mod expected;
mod eye;
pub mod measure;
pub mod order;
pub mod power;
pub mod predicted;
mod prepared;
mod regression;
pub mod table;
pub mod verdict;

pub use analysis::analysed;
pub use answer::{
    Against, Analysis, Confounder, Effect, FEWEST, Kept, OddFrame, TrialError, TrialQuestion,
    letter,
};
pub use assign::kind_of;
pub use beside::{
    Alike, InElectrons, MOST_SIDE, Piece, Shown, difference, drawn, in_electrons, piece_of, stacked,
};
pub use blind::{
    BlindRound, KindFigures, MOST_BLIND_FRAMES, blind_rounds, edged_alike, kind_figures,
};
pub use data::{COVARIATES, Covariate, JUDGED, Judged, Treatment, TrialFrame};
pub use design::{Designed, Sheet, sheet};
pub use document::{FrameInTrial, MOST_FRAMES, Trial, TrialDesign, TrialKind, TrialMarks};
pub use expected::{Expected, KindAt, expected};
pub use measure::{FrameFacts, channel_of, measure_of, starlight_over};
pub use order::{SlotTimes, TrialSlot, blocks, run_sheet};
pub use power::{FALSE_ALARM, MATTERS, MOST_PAIRS, POWER, pairs_needed, power};
pub use predicted::{FrameAsked, PixelPredicted, pixel_predicted};
pub use table::{TrialRow, TrialTable, table};
pub use verdict::{Found, Stakes, TrialVerdict, verdicts};
