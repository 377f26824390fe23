//! What is wanted from a picture: which part of the target shall be how clean, at which detail.
//!
//! A stack is judged by the smallest patch of sky on which a part of the target stands out of its
//! noise: "H-alpha clean at 10 arcsec". The side of that patch compares across lines, rigs and
//! nights, and shrinks as the square root of the time. A document that states no goals keeps the
//! old pair, one signal to noise on one square of the target's mean.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::light::lines::Quantity;
use crate::scenario::defaults;
use crate::scenario::target::{LinesRayleigh, Target, TargetKind};
use crate::wording::{arcsec, two_figures};

/// Signal to noise at which a part is just seen (common practice, no source).
pub const SEEN_SNR: f64 = 3.0;

/// Signal to noise at which a part is clean (common practice, no source).
pub const CLEAN_SNR: f64 = 10.0;

/// Signal to noise at which a part is smooth (common practice, no source).
pub const SMOOTH_SNR: f64 = 20.0;

/// H II regions in a galaxy against the mean of its lines, where nothing is said of them (from
/// memory).
const KNOTS: f64 = 10.0;

/// A line fainter than this against the target's brightest is nobody's goal unless it is asked for
/// (common practice, no source).
const WORTH_A_LINE: f64 = 0.05;

/// Steps of brightness, rayleigh and V mag/arcsec^2, with the detail at which a part that reaches
/// one is asked for, arcsec. The continuum is asked for as finely as an evening or two of broad
/// filters bring (common practice, no source).
const DETAILS: [(f64, f64, f64); 3] = [(100.0, 24.5, 5.0), (30.0, 26.0, 10.0), (8.0, 27.0, 15.0)];

/// The magnitude to which people wait for the stars of a cluster, V mag (common practice, no
/// source).
pub const STARS_V_MAG: f64 = 19.0;

/// The detail at which what is fainter than all of [`DETAILS`] is asked for, arcsec.
const FAINTEST_DETAIL_ARCSEC: f64 = 30.0;

/// What a picture is for: how clean its parts shall be.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum GoalPurpose {
    /// To see that it is there.
    FirstLook,
    /// A picture for the screen.
    Picture,
    /// A large print.
    Print,
}

impl GoalPurpose {
    /// From the least to the most that is asked.
    pub const ALL: [Self; 3] = [Self::FirstLook, Self::Picture, Self::Print];

    /// What it is called.
    pub fn label(self) -> &'static str {
        match self {
            Self::FirstLook => "A first look",
            Self::Picture => "A picture",
            Self::Print => "A large print",
        }
    }

    /// What a part is then.
    pub fn word(self) -> &'static str {
        match self {
            Self::FirstLook => "seen",
            Self::Picture => "clean",
            Self::Print => "smooth",
        }
    }

    /// The signal to noise that it asks of every part.
    pub fn snr(self) -> f64 {
        match self {
            Self::FirstLook => SEEN_SNR,
            Self::Picture => CLEAN_SNR,
            Self::Print => SMOOTH_SNR,
        }
    }
}

/// How bright a part is in the light by which it is judged.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum PartLight {
    /// In a line, rayleigh.
    Line(f64),
    /// In the continuum, V mag/arcsec^2.
    Surface(f64),
}

impl PartLight {
    /// Which part of a target whose mean is so bright people expose for: the outskirts of a bright
    /// one, whose mean is there in minutes, else the mean (common practice, no source).
    pub fn usual_part(self) -> TargetPart {
        let bright = match self {
            Self::Line(mean) => mean >= DETAILS[1].0,
            Self::Surface(mean) => mean <= DETAILS[0].1,
        };
        if bright { TargetPart::Outskirts } else { TargetPart::Body }
    }

    /// In words: "480 R", "20.7 mag/arcsec^2".
    pub fn words(self) -> String {
        match self {
            Self::Line(rayleigh) => format!("{} R", two_figures(rayleigh)),
            Self::Surface(mag) if mag.is_finite() => format!("{mag:.1} mag/\u{2033}\u{b2}"),
            Self::Surface(_) => "none".to_owned(),
        }
    }

    /// That of a part that is so many times as bright.
    #[must_use]
    pub fn times(self, factor: f64) -> Self {
        match self {
            Self::Line(mean) => Self::Line(mean * factor),
            Self::Surface(mean) => Self::Surface(mean - 2.5 * factor.log10()),
        }
    }

    /// The detail at which so bright a part is asked for clean, arcsec: see [`DETAILS`].
    pub fn detail_arcsec(self) -> f64 {
        let reaches = |(rayleigh, mag, _): &&(f64, f64, f64)| match self {
            Self::Line(own) => own >= *rayleigh,
            Self::Surface(own) => own <= *mag,
        };
        DETAILS.iter().find(reaches).map_or(FAINTEST_DETAIL_ARCSEC, |d| d.2)
    }
}

impl LinesRayleigh {
    /// Brightness of the light that counts for a quantity, rayleigh; `None` for the continuum.
    pub fn of(&self, q: Quantity) -> Option<f64> {
        match q {
            Quantity::Ha => Some(self.ha + self.nii),
            Quantity::HaAlone => Some(self.ha),
            Quantity::Oiii => Some(self.oiii),
            Quantity::Sii => Some(self.sii),
            Quantity::Hb => Some(self.hb),
            Quantity::Continuum => None,
        }
    }
}

/// A part of the target.
#[derive(
    Clone,
    Copy,
    Debug,
    Default,
    PartialEq,
    Eq,
    PartialOrd,
    Ord,
    Hash,
    Serialize,
    Deserialize,
    ToSchema,
)]
#[serde(rename_all = "snake_case")]
pub enum TargetPart {
    /// The brightest part; in the lines of a galaxy, its H II regions.
    Core,
    /// The mean over the part of interest.
    #[default]
    Body,
    /// The faintest part that is wanted.
    Outskirts,
}

impl TargetPart {
    /// From the brightest to the faintest.
    pub const ALL: [Self; 3] = [Self::Core, Self::Body, Self::Outskirts];
}

/// A goal: a part of the target at a signal to noise on a square of sky; or stars to a magnitude.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Goal {
    /// In which light.
    pub quantity: Quantity,
    /// Which part of the target.
    #[serde(default)]
    pub part: TargetPart,
    /// Signal to noise: 3 is seen, 10 clean, 20 smooth.
    #[serde(default = "defaults::clean_snr")]
    #[schema(default = 10.0)]
    pub snr: f64,
    /// Side of the square of sky on which it is reached, arcsec.
    pub detail_arcsec: f64,
    /// Where it is given, the goal is not the target's surface but stars of this V magnitude at
    /// that signal to noise; only for the continuum.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub star_v_mag: Option<f64>,
}

impl Goal {
    /// How clean at which detail, in a few words: "clean at 10 arcsec", "stars clean to V 16".
    pub fn how(&self) -> String {
        let level = GoalPurpose::ALL.into_iter().find(|p| p.snr() == self.snr);
        let how = level.map_or_else(|| format!("SNR {}", self.snr), |p| p.word().to_owned());
        match self.star_v_mag {
            Some(v) => format!("stars {how} to V {v}"),
            None => format!("{how} at {}", arcsec(self.detail_arcsec)),
        }
    }

    /// The same with the part that it names, to follow the name of the light: "core seen at 5
    /// arcsec"; the mean needs no name.
    pub fn words(&self, kind: TargetKind) -> String {
        if self.part == TargetPart::Body || self.star_v_mag.is_some() {
            return self.how();
        }
        format!("{} {}", kind.part_name(self.part, self.quantity), self.how())
    }
}

impl TargetKind {
    /// A part's name: the bright spots of a galaxy's lines are its H II regions.
    pub fn part_name(self, part: TargetPart, q: Quantity) -> &'static str {
        let galaxy = matches!(self, Self::Galaxy | Self::GalaxyWithHIi);
        match part {
            TargetPart::Core if galaxy && q != Quantity::Continuum => "knots",
            TargetPart::Core => "core",
            TargetPart::Body => "body",
            TargetPart::Outskirts => "outskirts",
        }
    }
}

/// How much brighter than the mean a part is.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct PartFactor {
    /// All lines.
    pub lines: f64,
    /// The continuum.
    pub continuum: f64,
}

impl PartFactor {
    /// That of the light that is judged.
    pub fn of(&self, q: Quantity) -> f64 {
        if q == Quantity::Continuum { self.continuum } else { self.lines }
    }
}

impl Target {
    /// How much brighter than the mean a part is that is judged by `q`. H II regions of a galaxy
    /// stand in its body: there the lines alone are brighter.
    pub fn part_factor(&self, part: TargetPart, q: Quantity) -> PartFactor {
        let both = |x: f64| PartFactor { lines: x, continuum: x };
        match (part, self.knots()) {
            (TargetPart::Body, _) => both(1.0),
            (TargetPart::Outskirts, _) => both(self.outskirts_factor),
            (TargetPart::Core, Some(lines)) if q != Quantity::Continuum => {
                PartFactor { lines, continuum: 1.0 }
            }
            (TargetPart::Core, _) => both(self.peak_factor),
        }
    }

    /// How much brighter its H II regions are in lines than its mean, where it is a galaxy that has
    /// them or says so.
    pub fn knots(&self) -> Option<f64> {
        let of_kind = (self.kind == TargetKind::GalaxyWithHIi).then_some(KNOTS);
        self.knots_factor.or(of_kind)
    }

    /// How bright its mean is in the light of a quantity.
    pub fn light(&self, q: Quantity) -> PartLight {
        let surface = || self.continuum.map_or(f64::INFINITY, |c| c.v_mag_arcsec2);
        self.lines_rayleigh.of(q).map_or_else(|| PartLight::Surface(surface()), PartLight::Line)
    }

    /// The goal for a quantity of which nobody said more.
    pub fn usual_goal(&self, q: Quantity) -> Goal {
        self.goal_for(q, self.light(q).usual_part())
    }

    /// The goal that a part's brightness suggests: clean at 5 arcsec from 100 R on, at 10 from 30
    /// R, at 15 from 8 R, at 30 below, and likewise in the continuum. Of a cluster its stars are
    /// asked for.
    pub fn goal_for(&self, q: Quantity, part: TargetPart) -> Goal {
        let factor = self.part_factor(part, q).of(q);
        let light = self.light(q).times(factor);
        let stars = self.kind == TargetKind::Cluster && q == Quantity::Continuum;
        Goal {
            quantity: q,
            part,
            snr: CLEAN_SNR,
            detail_arcsec: light.detail_arcsec(),
            star_v_mag: stars.then_some(STARS_V_MAG),
        }
    }

    /// What people want of such a target: the lines of a nebula that are not far fainter than its
    /// brightest, the light of what shines by starlight, and the H II regions of a galaxy that has
    /// them.
    pub fn usual_goals(&self) -> Vec<Goal> {
        let usual = |q: Quantity| self.usual_goal(q);
        if self.kind.glows_in_lines() {
            let lines = [Quantity::Ha, Quantity::Oiii, Quantity::Sii];
            let of = |q: Quantity| self.lines_rayleigh.of(q).unwrap_or(0.0);
            let most = lines.into_iter().map(of).fold(0.0, f64::max);
            let worth = lines.into_iter().filter(|q| of(*q) > WORTH_A_LINE * most);
            let goals: Vec<Goal> = worth.map(usual).collect();
            if !goals.is_empty() {
                return goals;
            }
        }
        let mut goals = vec![usual(Quantity::Continuum)];
        if self.kind == TargetKind::GalaxyWithHIi && self.lines_rayleigh.ha > 0.0 {
            goals.push(self.goal_for(Quantity::Ha, TargetPart::Core));
        }
        goals
    }
}

#[cfg(test)]
#[path = "goal_tests.rs"]
mod tests;
