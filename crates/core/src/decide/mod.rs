//! The decisions: which sub, which gain, how much time and how it is split, what differs and by how much, what is uncertain, what
//! would turn the verdict, and what a purchase is worth.
//!
//! [`choices`](Choices) is what a user may set; [`PathModel`] holds the electron rates that every decision asks; nothing here
//! integrates a spectrum except through [`PathModel::new`] and the filters of [`extras`](AddOn).

pub(crate) mod add_ons;
pub(crate) mod bandwidth;
pub(crate) mod differences;
pub(crate) mod filter_ranking;
pub(crate) mod gain;
pub(crate) mod max_min;
pub(crate) mod sensitivity;
pub(crate) mod split;
pub(crate) mod sub;
pub(crate) mod uncertainty;
pub(crate) mod value;

pub use add_ons::{AddOn, DualPair};
pub use bandwidth::{BandwidthAnswer, YourFilter, bandwidth};
pub use differences::{Difference, differences, losses, named, no_difference};
pub use filter_ranking::{RankedFilter, rank_filters};
pub use gain::{GainDecision, GainRung};
pub use max_min::least_served_shares;
pub use sensitivity::{Flip, FlipInput, Influence};
pub use split::{CalibrationFrames, SplitPart, TimeDecision, balanced_shares, purpose, wanted};
pub use sub::conflict::{Conflict, ShortSet};
pub use sub::criteria::{Criterion, Wall};
pub use sub::frame::FrameTold;
pub use sub::{SubCurve, SubDecision, SubRange, decide_sub};
pub use uncertainty::draws::{Draws, PathDraws, Range, between, stated};
pub use uncertainty::ranges::{QuantityRange, ranges, star_limits};
pub use value::Worth;

use serde::Serialize;
use std::collections::BTreeMap;
use utoipa::ToSchema;

use crate::library::gear::GearFilter;
use crate::light::lines::Quantity;
use crate::light::tables::Tables;
use crate::scenario::check::Checked;
use crate::scenario::document::Scenario;
use crate::signal::model::PathModel;
use crate::signal::prepare::Prepared;

/// Everything that is decided about a scenario.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct DecisionsAnswer {
    /// One entry a contender, in the scenario's order.
    pub paths: Vec<PathDecisions>,
    /// What would make another path the fastest.
    pub flips: Vec<Flip>,
    /// Every quantity at equal clock, a sentence each.
    pub equal_clock: Vec<String>,
    /// From what the ranges were made, in a sentence.
    pub uncertainty: String,
}

/// Everything that is decided about one light path.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct PathDecisions {
    /// One sub a filter.
    pub subs: Vec<SubDecision>,
    /// The gain.
    pub gain: GainDecision,
    /// The time and its split.
    pub time: TimeDecision,
    /// Ranges of every quantity it records.
    pub ranges: BTreeMap<Quantity, QuantityRange>,
    /// The faintest star of each exposure, V mag; null where nothing was exposed.
    pub limiting_star_v_mag: Vec<Option<Range>>,
    /// Differences from the first path; empty for the first itself.
    pub differences: Vec<Difference>,
    /// What it gives up against the first path.
    pub losses: Vec<String>,
    /// Which inputs move the verdict most.
    pub influences: Vec<Influence>,
    /// What it is worth: judged by all that the first path is for, then by each quantity.
    pub worth: Vec<Worth>,
    /// What could be added.
    pub add_ons: Vec<AddOn>,
    /// Pairs of dual-band filters for S-H-O; empty for a mono camera.
    pub dual_pairs: Vec<DualPair>,
}

/// The models of all paths, copies of filters included.
pub fn models(s: &Scenario, prepared: &Prepared) -> Vec<PathModel> {
    let centre = s.choices.uncertainty.filter_centre;
    s.contenders.iter().zip(&prepared.contenders).map(|(c, p)| PathModel::new(s, prepared, p, c, centre)).collect()
}

/// Decides everything. `filters` is the shelf, for add-ons and pairs.
pub fn decide(scenario: &Checked, filters: &[GearFilter], tables: &Tables) -> DecisionsAnswer {
    let s = scenario.scenario();
    let prepared = Prepared::new(scenario, tables);
    let answer = prepared.answer(scenario);
    let paths = models(s, &prepared);
    let draws = Draws::new(s);
    let all_ranges = ranges(s, &paths, &draws);
    let values = value::values(s, &paths, &draws);
    let equal_clock = add_ons::equal_clock(s, &paths, &all_ranges);
    let mut pairs_of: Vec<(usize, Vec<DualPair>)> = Vec::new();
    let decided = s.contenders.iter().zip(&paths).zip(all_ranges).zip(values).enumerate().map(|(i, (((c, path), ranges), worth))| {
        // Rows that share a rig share its pairs: they do not depend on the filter in use.
        let same_rig = pairs_of.iter().find(|(j, _)| {
            let other = &s.contenders[*j];
            other.optics == c.optics && other.sensor == c.sensor && other.gain == c.gain
        });
        let dual_pairs = match same_rig {
            Some((_, pairs)) => pairs.clone(),
            None => add_ons::dual_pairs(s, &prepared.scene, c, filters, draws.of(i)),
        };
        pairs_of.push((i, dual_pairs.clone()));
        PathDecisions {
            subs: (0..c.exposures.len()).map(|at| decide_sub(s, c, at, path, &path.gain, draws.of(i))).collect(),
            gain: gain::decide_gain(s, c, path, draws.of(i)),
            time: split::decide_time(s, c, path, draws.of(i)),
            differences: if i == 0 { Vec::new() } else { differences(s, &answer.contenders[0], &answer.contenders[i], &ranges) },
            losses: if i == 0 { Vec::new() } else { losses(&answer.contenders[0], &answer.contenders[i]) },
            limiting_star_v_mag: star_limits(s, path, draws.of(i)),
            influences: sensitivity::influences(s, path, draws.of(i)),
            add_ons: add_ons::add_ons(s, &prepared.scene, c, path, filters, draws.of(i)),
            dual_pairs,
            ranges,
            worth,
        }
    });
    let decided = decided.collect();
    DecisionsAnswer { paths: decided, flips: sensitivity::flips(s, &paths, &draws), equal_clock, uncertainty: stated(s) }
}

/// The gain of one contender: see [`GainDecision`].
pub fn decide_gain(s: &Scenario, contender: usize, path: &PathModel, draws: PathDraws) -> GainDecision {
    gain::decide_gain(s, &s.contenders[contender], path, draws)
}
