//! What is asked of a trial's frames, and what they answer: effects with their intervals, what would
//! have faked them, frames that are odd.

use serde::Serialize;
use utoipa::ToSchema;

use crate::trial::data::{Covariate, Judged, Treatment, TrialFrame};
use crate::trial::power::critical_t;

/// Frames that one column of a fit takes (common practice: five to ten).
pub const FRAMES_A_COLUMN: usize = 6;
/// A frame further off than so many of its own standard deviations is odd: of a hundred good frames
/// one in twenty nights.
pub const ODD: f64 = 3.5;
/// Fewest frames of one kind.
pub const FEWEST: usize = 3;

/// A comparison that was made.
#[derive(Clone, Copy, Debug)]
pub struct TrialQuestion<'a> {
    /// What differs.
    pub treatment: Treatment,
    /// What is judged.
    pub judged: Judged,
    /// Number of kinds, of which the first is what the others are held against.
    pub kinds: usize,
    /// The frames, in any order.
    pub frames: &'a [TrialFrame],
    /// Frames of a kind that were taken before the next.
    pub frames_a_slot: usize,
}

/// An effect as a ratio to the first kind.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct Effect {
    /// Logarithm of the ratio of what is judged.
    pub ln: f64,
    /// Its standard error.
    pub ln_sd: f64,
    /// The same as a share: 0.04 is four per cent more.
    pub share: f64,
    /// Between which shares it lies, 95 %.
    #[schema(value_type = Vec<f64>)]
    pub interval: [f64; 2],
    /// Degrees of freedom.
    pub freedom: usize,
}

impl Effect {
    pub(crate) fn of(ln: f64, ln_sd: f64, freedom: usize) -> Self {
        let reach = critical_t(freedom.max(1)) * ln_sd;
        let interval = [(ln - reach).exp_m1(), (ln + reach).exp_m1()];
        Self { ln, ln_sd, share: ln.exp_m1(), interval, freedom }
    }

    /// Whether nothing lies within the interval.
    pub fn is_something(&self) -> bool {
        self.interval[0] > 0.0 || self.interval[1] < 0.0
    }
}

/// Why something that differs between frames is allowed for, or not.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Kept {
    /// It is.
    Kept,
    /// Not every frame's is known.
    NotKnown,
    /// What is compared may change it.
    Changed,
    /// It hardly moved.
    Still,
    /// It moved with the kind or with another that is kept.
    Together,
    /// The frames are too few for another.
    TooFew,
}

/// What else differed between the frames.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct Confounder {
    /// What.
    pub covariate: Covariate,
    /// Whether it is allowed for.
    pub kept: Kept,
    /// By how much what is judged goes with one unit of it (its logarithm); null where not kept.
    pub ln_per_unit: Option<f64>,
    /// What it alone would have made of no difference, as a share; null where not kept.
    pub would_fake: Option<f64>,
}

/// One kind against the first.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Against {
    /// The kind, from 1.
    pub kind: usize,
    /// With all frames.
    pub all: Effect,
    /// Without the odd ones; null where there are none.
    pub without_odd: Option<Effect>,
    /// The plain difference of pairs; null with fewer than three pairs.
    pub paired: Option<Effect>,
    /// Pairs.
    pub pairs: usize,
    /// Smallest difference that this trial would have called four times in five, as a share.
    pub smallest_seen: f64,
    /// What each confounder would have faked.
    pub confounders: Vec<Confounder>,
}

/// A frame that is far from what the fit says.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct OddFrame {
    /// What it is called.
    pub name: String,
    /// How far, in standard deviations.
    pub off: f64,
    /// What is odd about it besides, in words.
    pub reason: String,
}

/// What a trial's frames say.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Analysis {
    /// Each further kind against the first.
    pub against: Vec<Against>,
    /// Scatter of one frame's logarithm once everything is allowed for.
    pub scatter: f64,
    /// Frames of each kind.
    pub frames: Vec<usize>,
    /// Frames that are odd.
    pub odd: Vec<OddFrame>,
    /// How far the kinds' own scales of clearness were apart, as a share; null where it is not known.
    pub scale_apart: Option<f64>,
}

/// Why frames say nothing yet.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum TrialError {
    /// Of a kind there are too few.
    #[error("only {frames} frames of kind {}: at least {FEWEST} are needed", letter(*kind))]
    TooFew {
        /// Which, from 0.
        kind: usize,
        /// How many there are.
        frames: usize,
    },
    /// A frame's measure is nothing that has a logarithm.
    #[error("frame {0} holds no light over its background: mark another patch")]
    Nothing(usize),
}

/// The letter by which a kind is called.
pub fn letter(kind: usize) -> char {
    (b'A' + kind.min(25) as u8) as char
}
