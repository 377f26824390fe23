//! Of what the sky's light is made.

use crate::light::per::per;

/// A part of the sky's light.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum SkyPart {
    /// Airglow, zodiacal light and the like.
    Natural,
    /// Lamps.
    Artificial,
    /// Moonlight.
    Moon,
    /// Twilight.
    Twilight,
}

impl SkyPart {
    /// All parts, in the order in which results list them.
    pub const ALL: [Self; 4] = [Self::Natural, Self::Artificial, Self::Moon, Self::Twilight];

    /// Its name in documents.
    pub fn key(self) -> &'static str {
        match self {
            Self::Natural => "natural",
            Self::Artificial => "artificial",
            Self::Moon => "moon",
            Self::Twilight => "twilight",
        }
    }
}

per! {
    /// One value for each [`SkyPart`].
    PerSkyPart, SkyPart, 4
}
