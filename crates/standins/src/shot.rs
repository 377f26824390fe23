//! What a camera is told to take.

use salt_lamp_core::scenario::Pointing;

/// What a frame is of.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Kind {
    /// The sky.
    Light,
    /// The cap, as long as a light.
    Dark,
    /// The cap, as short as can be.
    Bias,
    /// An even light.
    Flat,
}

impl Kind {
    /// As a header says it.
    pub fn word(self) -> &'static str {
        match self {
            Self::Light => "LIGHT",
            Self::Dark => "DARK",
            Self::Bias => "BIAS",
            Self::Flat => "FLAT",
        }
    }
}

/// One frame to take.
#[derive(Clone, Debug, PartialEq)]
pub struct Shot {
    /// What of.
    pub kind: Kind,
    /// Index of the light path's exposure, for its filter.
    pub exposure: usize,
    /// Length, s.
    pub exposure_s: f64,
    /// When it begins, seconds since 1970 UTC.
    pub start_s: f64,
    /// Where the telescope looks; null with the cap on.
    pub at: Option<Pointing>,
    /// Where the block is framed, around which the field is laid: dither and the mount's half turn
    /// are told from that; null for where the telescope looks.
    pub framed: Option<Pointing>,
    /// What it is of, by name.
    pub object: String,
    /// Counts the frames of a night: noise and file name hang on it.
    pub number: u32,
}
