//! Everything that is decided about a scenario, in one answer.

use crate::decide::add_ons::{AddOn, DualPair};
use crate::decide::differences::{Difference, differences, losses};
use crate::decide::gain::GainDecision;
use crate::decide::sensitivity::{Flip, Influence};
use crate::decide::split::TimeDecision;
use crate::decide::sub::decision::{SubDecision, decide_sub};
use crate::decide::uncertainty::draws::{Draws, Range, stated};
use crate::decide::uncertainty::ranges::{QuantityRange, ranges, star_limits};
use crate::decide::value::Worth;
use crate::decide::{add_ons, gain, sensitivity, split, value};
use serde::Serialize;
use std::collections::BTreeMap;
use utoipa::ToSchema;

use crate::library::gear::GearFilter;
use crate::light::lines::Quantity;
use crate::light::tables::Tables;
use crate::scenario::check::Checked;
use crate::signal::model::models;
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
