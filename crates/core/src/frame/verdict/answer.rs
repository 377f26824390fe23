//! A verdict as it is told: sentences, each with its standing and the numbers behind it.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::decide::sub::frame::FrameTold;
use crate::scenario::choices::TestFrame;

/// How a part of the verdict stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Standing {
    /// As it should be.
    Good,
    /// Worth a look.
    Look,
    /// Wrong, or against the model.
    Wrong,
}

/// One question and its answer.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Sentence {
    /// What it is about: `header`, `sub`, `clipping`, `stars`, `sky`, `noise`, `target`,
    /// `gradient`.
    pub about: String,
    /// How it stands.
    pub standing: Standing,
    /// The answer.
    pub text: String,
    /// The numbers behind it, each with its unit.
    pub figures: Vec<Figure>,
}

/// A number behind an answer.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Figure {
    /// What it is.
    pub name: String,
    /// Its value with its unit.
    pub value: String,
}

/// The verdict on a test frame.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct FrameVerdict {
    /// All in one sentence.
    pub headline: String,
    /// Question by question.
    pub sentences: Vec<Sentence>,
    /// The sub to use with this path and filter, s.
    pub sub_s: f64,
    /// The range in which the choice does not matter, s.
    pub plateau_s: [f64; 2],
    /// The channel that decides.
    pub channel: String,
    /// The frame as the exposure keeps it.
    pub test_frame: TestFrame,
    /// The sky against the model, with what would bring them together.
    pub sky: Option<FrameTold>,
    /// Electrons per ADU that were used.
    pub e_per_adu: f64,
    /// Offset that was used, ADU.
    pub offset_adu: f64,
}

/// A number behind an answer.
pub(super) fn figure(name: &str, value: String) -> Figure {
    Figure { name: name.to_owned(), value }
}

/// An answer.
pub(super) fn sentence(
    about: &str,
    standing: Standing,
    text: String,
    figures: Vec<Figure>,
) -> Sentence {
    Sentence { about: about.to_owned(), standing, text, figures }
}
