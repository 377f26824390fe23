//! What a trial is judged by, and the frames that say it.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What is different between the kinds of a trial.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Treatment {
    /// The filter.
    Filter,
    /// The camera's gain.
    Gain,
    /// The length of a sub.
    Sub,
    /// Telescope or camera.
    Rig,
}

/// What the kinds are judged by.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Judged {
    /// Signal to noise of a marked patch, in one hour of exposure.
    PatchSnr,
    /// Light of the sky, electrons a second in a pixel.
    Background,
    /// Light of a marked patch over one beside it, electrons a second in a pixel.
    LineSignal,
    /// Light around a bright star as a share of the star's.
    StarHalo,
    /// Size of stars, arcsec.
    StarSize,
    /// The faintest star that is found, as a flux.
    FaintestStar,
}

/// All that a trial can be judged by.
pub const JUDGED: [Judged; 6] = [
    Judged::PatchSnr,
    Judged::Background,
    Judged::LineSignal,
    Judged::StarHalo,
    Judged::StarSize,
    Judged::FaintestStar,
];

impl Judged {
    /// Whether more of it is better.
    pub fn more_is_better(self) -> bool {
        matches!(self, Self::PatchSnr | Self::LineSignal)
    }

    /// Whether it is measured on a patch that somebody marks.
    pub fn of_a_patch(self) -> bool {
        matches!(self, Self::PatchSnr | Self::LineSignal)
    }

    /// How it is said.
    pub fn name(self) -> &'static str {
        match self {
            Self::PatchSnr => "signal to noise of the patch",
            Self::Background => "light of the sky",
            Self::LineSignal => "light of the patch",
            Self::StarHalo => "halo of the star",
            Self::StarSize => "size of the stars",
            Self::FaintestStar => "light of the faintest star",
        }
    }

    /// What an eye is asked that shall judge it without knowing which is which.
    pub fn asks(self) -> &'static str {
        match self {
            Self::PatchSnr => "Where does the object stand out better from the noise?",
            Self::LineSignal => "Which shows the object brighter?",
            Self::Background => "Which sky is quieter?",
            Self::StarHalo => "Whose stars have the weaker halos?",
            Self::StarSize => "Which has the smaller stars?",
            Self::FaintestStar => "Which shows the fainter stars?",
        }
    }

    /// How its figure is called where the better comes first.
    pub fn figure_name(self) -> String {
        let less = if self.more_is_better() { "" } else { " (less is better: A's over its own)" };
        format!("{}{less}", self.name())
    }

    /// Signal to noise in a given time goes with this power of it, all else alike; `None` where it
    /// says nothing of that. Under a sky that drowns the camera's own noise, noise is the root of
    /// the sky's light; a star's noise is of the pixels under it.
    pub fn snr_power(self) -> Option<f64> {
        match self {
            Self::PatchSnr | Self::LineSignal => Some(1.0),
            Self::Background => Some(-0.5),
            Self::StarSize | Self::FaintestStar => Some(-1.0),
            Self::StarHalo => None,
        }
    }
}

/// What may differ between frames besides the kind.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Covariate {
    /// Logarithm of the starlight that came through.
    Transparency,
    /// Airmass.
    Airmass,
    /// Share of the sky's light that is the moon's, 0-1.
    Moonlight,
    /// Time within the night, hours.
    Hours,
    /// Logarithm of the stars' half-flux radius.
    StarSize,
    /// Root mean square of the guider's errors, arcsec.
    Guiding,
}

/// All of them, in the order in which they are kept while frames last: what usually spoils most
/// first (common practice, no source).
pub const COVARIATES: [Covariate; 6] = [
    Covariate::Transparency,
    Covariate::Airmass,
    Covariate::Moonlight,
    Covariate::Hours,
    Covariate::StarSize,
    Covariate::Guiding,
];

impl Covariate {
    /// Its name in files.
    pub fn key(self) -> &'static str {
        match self {
            Self::Transparency => "transparency",
            Self::Airmass => "airmass",
            Self::Moonlight => "moonlight",
            Self::Hours => "hours",
            Self::StarSize => "star_size",
            Self::Guiding => "guiding",
        }
    }

    /// How it is said.
    pub fn name(self) -> &'static str {
        match self {
            Self::Transparency => "clearness",
            Self::Airmass => "airmass",
            Self::Moonlight => "moonlight",
            Self::Hours => "the hour",
            Self::StarSize => "size of the stars",
            Self::Guiding => "guiding",
        }
    }

    /// Whether a frame's own figure of it can be changed by what is compared, so that to allow for
    /// it would take part of the effect away.
    pub fn changed_by(self, treatment: Treatment, judged: Judged) -> bool {
        match self {
            Self::StarSize => {
                matches!(judged, Judged::StarSize | Judged::FaintestStar | Judged::StarHalo)
                    || matches!(treatment, Treatment::Rig | Treatment::Sub)
            }
            Self::Guiding => matches!(treatment, Treatment::Rig | Treatment::Sub),
            Self::Transparency | Self::Airmass | Self::Moonlight | Self::Hours => false,
        }
    }
}

/// One frame of a trial.
#[derive(Clone, Debug, PartialEq)]
pub struct TrialFrame {
    /// What it is called.
    pub name: String,
    /// Its kind, from 0.
    pub kind: usize,
    /// When it began, seconds since 1970 UTC.
    pub start_s: f64,
    /// What is judged, above 0.
    pub measure: f64,
    /// What is known of the rest, transparency and star size as they are (their logarithm is
    /// taken here).
    pub known: BTreeMap<Covariate, f64>,
}

impl TrialFrame {
    /// A covariate as it goes into the fit.
    pub(crate) fn covariate(&self, of: Covariate) -> Option<f64> {
        let value = *self.known.get(&of)?;
        let value = match of {
            Covariate::Transparency | Covariate::StarSize if value > 0.0 => value.ln(),
            Covariate::Transparency | Covariate::StarSize => return None,
            _ => value,
        };
        value.is_finite().then_some(value)
    }
}
