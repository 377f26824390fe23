//! A goal as the model asks it: which light, how much brighter than the mean, to which signal to
//! noise on the model's own square; and the detail at which a part comes clean.
//!
//! Signal to noise grows with the side of the square, so that a goal at another detail is another
//! signal to noise on the same one.

use crate::light::lines::Quantity;
use crate::path::scales::Scales;
use crate::scenario::document::Scenario;
use crate::scenario::goal::{CLEAN_SNR, Goal, PartFactor, TargetPart};

/// A goal for one quantity: see the module.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Aim {
    /// The goal.
    pub goal: Goal,
    /// Signal to noise on the model's square that meets it; of a star where the goal is one.
    pub snr: f64,
    /// How much brighter the part is than the mean.
    pub part: PartFactor,
}

impl Aim {
    /// The scenario's goal for a quantity.
    pub fn new(s: &Scenario, q: Quantity) -> Self {
        let goal = s.goal_of(q);
        let side =
            if goal.star_v_mag.is_some() { 1.0 } else { s.detail_arcsec / goal.detail_arcsec };
        Self { goal, snr: goal.snr * side, part: s.target.part_factor(goal.part, q) }
    }

    /// Scales under which the mean is as bright as the part.
    pub fn scales(&self, scales: &Scales) -> Scales {
        part_scales(self.part, scales)
    }
}

/// Scales under which the mean of a target is as bright as a part of it.
pub fn part_scales(part: PartFactor, scales: &Scales) -> Scales {
    let mut out = *scales;
    for q in Quantity::JUDGED {
        out.lines[q] *= part.of(q);
    }
    out
}

/// The smallest squares on which the parts of a target come clean, arcsec; `None` where nothing was
/// gathered.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct CleanParts {
    /// The core, or the knots of a galaxy.
    pub core_arcsec: Option<f64>,
    /// The mean.
    pub body_arcsec: Option<f64>,
    /// The faintest part that is wanted.
    pub outskirts_arcsec: Option<f64>,
}

impl CleanParts {
    /// That of one part.
    pub fn of(&self, part: TargetPart) -> Option<f64> {
        match part {
            TargetPart::Core => self.core_arcsec,
            TargetPart::Body => self.body_arcsec,
            TargetPart::Outskirts => self.outskirts_arcsec,
        }
    }
}

/// Side of the square on which a signal to noise of `snr` on `square_arcsec` becomes 10, arcsec,
/// but no smaller than what seeing and pixels allow.
pub fn clean_arcsec(snr: f64, square_arcsec: f64, finest_arcsec: f64) -> Option<f64> {
    (snr > 0.0).then(|| (CLEAN_SNR * square_arcsec / snr).max(finest_arcsec))
}
