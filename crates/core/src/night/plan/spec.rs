//! What a plan is asked: the goal, what was done before, what a night costs besides light, and
//! blocks that stay.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::light::lines::Quantity;
use crate::scenario::check::{Checker, FieldRange, MOST_ENTRIES};
use crate::scenario::field_error::FieldError;

/// What the night is planned for.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case", tag = "kind")]
pub enum PlanGoal {
    /// The least-served goal gains most.
    Balanced,
    /// The same lengths, in the order of the moon: what it hurts most while it is down.
    ByMoon,
    /// The same, H-alpha first: it shows the framing.
    HaFirst,
    /// As much as can be of one quantity.
    Most {
        /// Which.
        quantity: Quantity,
    },
    /// These blocks in this order, as far as they fit.
    Fixed {
        /// Exposure and minutes.
        blocks: Vec<FixedBlock>,
    },
}

/// A block of a fixed list.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct FixedBlock {
    /// Index of the exposure.
    pub exposure: usize,
    /// Its length, min; what its subs need where they are given.
    pub minutes: f64,
    /// How many subs it shall hold, its focusing and flip beside them; null for as many as its
    /// minutes do.
    #[serde(default)]
    pub subs: Option<u32>,
}

/// A block that stays where it is.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct LockedBlock {
    /// Index of the exposure.
    pub exposure: usize,
    /// Start, seconds since 1970 UTC.
    pub from_s: f64,
    /// End, seconds since 1970 UTC.
    pub to_s: f64,
}

/// Hours that are struck out of a night, as for cloud.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct StruckOut {
    /// Start, seconds since 1970 UTC.
    pub from_s: f64,
    /// End, seconds since 1970 UTC.
    pub to_s: f64,
}

/// What a night costs besides light.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Overheads {
    /// Start-up before the first sub: polar alignment, cooling, focus, min.
    pub setup_min: f64,
    /// The start-up waits for the dark (a polar alignment by stars), and takes its time from there.
    pub setup_in_dark: bool,
    /// One refocus, s.
    pub refocus_s: f64,
    /// Refocus on every change of filter.
    pub refocus_on_change: bool,
    /// Refocus every so many minutes; null for never.
    pub refocus_every_min: Option<f64>,
    /// Refocus every so many kelvin; null for never.
    pub refocus_every_k: Option<f64>,
    /// How far the temperature falls over the night, K.
    pub temperature_drop_k: f64,
    /// A dither after every so many subs.
    pub dither_every: u32,
    /// Settling after a dither, s.
    pub settle_s: f64,
    /// Meridian flip with recentring, s.
    pub flip_s: f64,
    /// Flats after the last block, min.
    pub flats_min: f64,
    /// Shortest block, min.
    pub least_block_min: f64,
}

impl Overheads {
    /// Share of the time that focusing every so many minutes leaves, at least a half.
    pub fn left_by_focusing(&self) -> f64 {
        1.0 - (self.refocus_s / 60.0 / self.refocus_every_min.unwrap_or(f64::INFINITY)).min(0.5)
    }
}

impl Default for Overheads {
    fn default() -> Self {
        Self {
            setup_min: 20.0,
            setup_in_dark: false,
            refocus_s: 180.0,
            refocus_on_change: true,
            refocus_every_min: Some(60.0),
            refocus_every_k: None,
            temperature_drop_k: 6.0,
            dither_every: 1,
            settle_s: 12.0,
            flip_s: 300.0,
            flats_min: 15.0,
            least_block_min: 30.0,
        }
    }
}

/// What a plan is asked.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct PlanSpec {
    /// What for.
    pub goal: PlanGoal,
    /// Goal of each exposure as a signal to noise; the scenario's where the list is short.
    pub goal_snr: Vec<f64>,
    /// Squares of the signal to noise that each exposure has already.
    pub done_snr2: Vec<f64>,
    /// Squares of the signal to noise that this night should add to each exposure, where it was
    /// weighed against the nights to come; zero for one that waits. Empty where it was not.
    pub aims_snr2: Vec<f64>,
    /// Overheads.
    pub overheads: Overheads,
    /// Blocks that stay.
    pub locked: Vec<LockedBlock>,
    /// Hours in which nothing is shot.
    pub struck_out: Vec<StruckOut>,
}

impl Default for PlanSpec {
    fn default() -> Self {
        Self {
            goal: PlanGoal::Balanced,
            goal_snr: Vec::new(),
            done_snr2: Vec::new(),
            aims_snr2: Vec::new(),
            overheads: Overheads::default(),
            locked: Vec::new(),
            struck_out: Vec::new(),
        }
    }
}

/// Largest square of a signal to noise that is taken as done: that of a million.
pub const MOST_SNR2: f64 = 1e12;

impl PlanSpec {
    /// Checks every field against a rig of `exposures` exposures.
    ///
    /// # Errors
    /// All fields that are wrong, with what is accepted.
    pub fn check(&self, exposures: usize) -> Result<(), Vec<FieldError>> {
        Checker::errors_of(|c| self.checked_by(c, exposures))
    }

    /// The ranges of the numbers of every plan.
    pub fn ranges() -> Vec<FieldRange> {
        let overheads = Overheads {
            refocus_every_min: Some(60.0),
            refocus_every_k: Some(1.0),
            ..Overheads::default()
        };
        let goal = PlanGoal::Fixed {
            blocks: vec![FixedBlock { exposure: 0, minutes: 60.0, subs: Some(1) }],
        };
        Checker::ranges_of(|c| Self { overheads, goal, ..Self::default() }.checked_by(c, 1))
    }

    fn checked_by(&self, c: &mut Checker, exposures: usize) {
        let o = &self.overheads;
        c.within("plan.overheads.setup_min", o.setup_min, 0.0, 240.0, "min");
        c.within("plan.overheads.refocus_s", o.refocus_s, 0.0, 3600.0, "s");
        c.maybe_within("plan.overheads.refocus_every_min", o.refocus_every_min, 1.0, 1440.0, "min");
        c.maybe_within("plan.overheads.refocus_every_k", o.refocus_every_k, 0.1, 50.0, "K");
        c.within("plan.overheads.temperature_drop_k", o.temperature_drop_k, 0.0, 50.0, "K");
        c.within("plan.overheads.dither_every", f64::from(o.dither_every), 1.0, 100.0, "subs");
        c.within("plan.overheads.settle_s", o.settle_s, 0.0, 600.0, "s");
        c.within("plan.overheads.flip_s", o.flip_s, 0.0, 3600.0, "s");
        c.within("plan.overheads.flats_min", o.flats_min, 0.0, 240.0, "min");
        c.within("plan.overheads.least_block_min", o.least_block_min, 5.0, 600.0, "min");
        // What is too long is told, and no more of it looked at than that.
        for (list, length) in [
            ("goal_snr", self.goal_snr.len()),
            ("done_snr2", self.done_snr2.len()),
            ("aims_snr2", self.aims_snr2.len()),
            ("locked", self.locked.len()),
            ("struck_out", self.struck_out.len()),
        ] {
            c.at_most(&format!("plan.{list}"), length, MOST_ENTRIES);
        }
        for (i, g) in self.goal_snr.iter().enumerate().take(MOST_ENTRIES) {
            c.within(format_args!("plan.goal_snr[{i}]"), *g, 0.1, 1000.0, "");
        }
        for (i, d) in self.done_snr2.iter().enumerate().take(MOST_ENTRIES) {
            c.within(format_args!("plan.done_snr2[{i}]"), *d, 0.0, MOST_SNR2, "");
        }
        for (i, a) in self.aims_snr2.iter().enumerate().take(MOST_ENTRIES) {
            c.within(format_args!("plan.aims_snr2[{i}]"), *a, 0.0, MOST_SNR2, "");
        }
        let most = exposures.saturating_sub(1) as f64;
        for (i, l) in self.locked.iter().enumerate().take(MOST_ENTRIES) {
            c.within(format_args!("plan.locked[{i}].exposure"), l.exposure as f64, 0.0, most, "");
            c.within(
                format_args!("plan.locked[{i}].to_s"),
                l.to_s - l.from_s,
                60.0,
                86_400.0,
                "s after its start",
            );
        }
        for (i, s) in self.struck_out.iter().enumerate().take(MOST_ENTRIES) {
            let at = format_args!("plan.struck_out[{i}].to_s");
            c.within(at, s.to_s - s.from_s, 60.0, 86_400.0, "s after its start");
        }
        if let PlanGoal::Fixed { blocks } = &self.goal {
            let count = c.at_most("plan.goal.blocks", blocks.len(), MOST_ENTRIES);
            for (i, b) in blocks.iter().enumerate().take(count) {
                c.within(
                    format_args!("plan.goal.blocks[{i}].exposure"),
                    b.exposure as f64,
                    0.0,
                    most,
                    "",
                );
                let subs = b.subs.map(f64::from);
                let at = format_args!("plan.goal.blocks[{i}].subs");
                c.maybe_within(at, subs, 1.0, 10_000.0, "subs");
                c.within(
                    format_args!("plan.goal.blocks[{i}].minutes"),
                    b.minutes,
                    1.0,
                    1440.0,
                    "min",
                );
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The paths of what is not accepted.
    fn wrong(spec: &PlanSpec) -> Vec<String> {
        spec.check(2).err().unwrap_or_default().into_iter().map(|e| e.path).collect()
    }

    #[test]
    fn the_defaults_are_accepted() {
        assert_eq!(wrong(&PlanSpec::default()), Vec::<String>::new());
    }

    #[test]
    fn every_overhead_has_its_range() {
        type Setter = fn(&mut Overheads, f64);
        let cases: [(&str, Setter, f64, f64); 8] = [
            ("setup_min", |o, v| o.setup_min = v, 0.0, 240.0),
            ("refocus_s", |o, v| o.refocus_s = v, 0.0, 3600.0),
            ("refocus_every_min", |o, v| o.refocus_every_min = Some(v), 1.0, 1440.0),
            ("refocus_every_k", |o, v| o.refocus_every_k = Some(v), 0.1, 50.0),
            ("temperature_drop_k", |o, v| o.temperature_drop_k = v, 0.0, 50.0),
            ("settle_s", |o, v| o.settle_s = v, 0.0, 600.0),
            ("flats_min", |o, v| o.flats_min = v, 0.0, 240.0),
            ("least_block_min", |o, v| o.least_block_min = v, 5.0, 600.0),
        ];
        for (name, set, lo, hi) in cases {
            for (value, good) in
                [(lo, true), (hi, true), (lo - 0.01, false), (hi + 0.01, false), (f64::NAN, false)]
            {
                let mut spec = PlanSpec::default();
                set(&mut spec.overheads, value);
                let expected =
                    if good { Vec::new() } else { vec![format!("plan.overheads.{name}")] };
                assert_eq!(wrong(&spec), expected, "{value}");
            }
        }
        let mut spec = PlanSpec::default();
        (spec.overheads.refocus_every_min, spec.overheads.refocus_every_k) = (None, None);
        assert_eq!(wrong(&spec), Vec::<String>::new(), "never is accepted");
    }

    #[test]
    fn goals_locks_and_lists_are_checked_against_the_rig_and_told_all_at_once() {
        let block = |exposure, minutes| FixedBlock { exposure, minutes, subs: None };
        let spec = PlanSpec {
            goal: PlanGoal::Fixed { blocks: vec![block(1, 30.0), block(2, 30.0), block(0, 0.5)] },
            goal_snr: vec![20.0, 0.0],
            done_snr2: vec![-1.0, 4.0, f64::NAN],
            locked: vec![
                LockedBlock { exposure: 5, from_s: 0.0, to_s: 3600.0 },
                LockedBlock { exposure: 0, from_s: 100.0, to_s: 100.0 },
            ],
            ..PlanSpec::default()
        };
        let expected = [
            "plan.goal_snr[1]",
            "plan.done_snr2[0]",
            "plan.done_snr2[2]",
            "plan.locked[0].exposure",
            "plan.locked[1].to_s",
            "plan.goal.blocks[1].exposure",
            "plan.goal.blocks[2].minutes",
        ];
        assert_eq!(wrong(&spec), expected);
    }

    #[test]
    fn what_is_said_of_a_field_says_what_is_accepted() {
        let spec = PlanSpec {
            overheads: Overheads { dither_every: 0, ..Overheads::default() },
            ..PlanSpec::default()
        };
        let errors = spec.check(1).expect_err("refused");
        assert_eq!(errors[0].message, "0 is not accepted; give 1 to 100 subs");
    }
}
