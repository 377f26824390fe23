//! What a document wants: its goals, or the pair that it kept before there were goals.

use crate::light::lines::Quantity;
use crate::scenario::document::Scenario;
use crate::scenario::goal::{Goal, TargetPart};

impl Scenario {
    /// The goal for a quantity: the document's own; for H-alpha alone that of H-alpha; for what it
    /// names no goal for, what its brightness suggests. A document without goals keeps the pair
    /// `goal_snr`, `detail_arcsec` of the mean for everything.
    pub fn goal_of(&self, q: Quantity) -> Goal {
        if self.goals.is_empty() {
            return Goal {
                quantity: q,
                part: TargetPart::Body,
                snr: self.goal_snr,
                detail_arcsec: self.detail_arcsec,
                star_v_mag: None,
            };
        }
        let stated = |q: Quantity| self.goals.iter().find(|g| g.quantity == q).copied();
        let as_ha = || stated(Quantity::Ha).filter(|_| q == Quantity::HaAlone);
        let own = stated(q).or_else(as_ha).map(|g| Goal { quantity: q, ..g });
        own.unwrap_or_else(|| self.target.usual_goal(q))
    }

    /// Its goal for a quantity in words, to follow the name of the light: "clean at 10 arcsec";
    /// "SNR 20" where the document keeps the old pair.
    pub fn goal_words(&self, q: Quantity) -> String {
        if self.goals.is_empty() {
            return format!("SNR {}", self.goal_snr);
        }
        self.goal_of(q).words(self.target.kind)
    }

    /// Its goal for a quantity as what is reached: "H-alpha clean at 10 arcsec", "SNR 20 in
    /// H-alpha", "stars clean to V 16".
    pub fn goal_phrase(&self, q: Quantity) -> String {
        let (name, words) = (self.target.name_of(q), self.goal_words(q));
        if self.goals.is_empty() {
            format!("{words} in {name}")
        } else if self.goal_of(q).star_v_mag.is_some() {
            words
        } else {
            format!("{name} {words}")
        }
    }

    /// The signal to noise of the mean on its square of detail that is asked of what has no goal of
    /// its own.
    pub fn usual_snr(&self) -> f64 {
        self.goals.first().map_or(self.goal_snr, |g| g.snr * self.detail_arcsec / g.detail_arcsec)
    }

    /// What all of it comes to: "SNR 20", or "every goal".
    pub fn goals_words(&self) -> String {
        if self.goals.is_empty() {
            format!("SNR {}", self.goal_snr)
        } else {
            "every goal".to_owned()
        }
    }

    /// Whether a quantity is one of its goals; where it states none, everything is.
    pub fn wants(&self, q: Quantity) -> bool {
        self.goals.is_empty() || self.goals.iter().any(|g| g.quantity == q)
    }
}
