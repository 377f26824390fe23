//! Everything that is decided about a scenario, in one answer.

use crate::decide::add_ons::AddOn;
use crate::decide::differences::{Difference, differences, losses};
use crate::decide::dual_pairs::DualPair;
use crate::decide::gain::GainDecision;
use crate::decide::sensitivity::{Flip, Influence};
use crate::decide::split::TimeDecision;
use crate::decide::study::Study;
use crate::decide::sub::decision::SubDecision;
use crate::decide::uncertainty::draws::{Range, stated};
use crate::decide::uncertainty::ranges::{QuantityRange, star_limits};
use crate::decide::value::Worth;
use crate::decide::{add_ons, dual_pairs, sensitivity, split, value};
use serde::Serialize;
use std::collections::BTreeMap;
use utoipa::ToSchema;

use crate::library::gear::Gear;
use crate::light::lines::Quantity;

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

/// Decides everything about a study's scenario. `shelf` says what could be added, what of it is
/// owned, and what things cost.
pub fn decide(study: &Study, shelf: &Gear) -> DecisionsAnswer {
    let filters = &shelf.filters[..];
    let (s, paths, draws) = (study.scenario(), &study.model.paths, &study.draws);
    let [first, ..] = &study.evaluation.contenders[..] else {
        unreachable!("a scenario has a path")
    };
    let values = value::values(s, paths, draws, shelf);
    let mut pairs_of: Vec<(usize, Vec<DualPair>)> = Vec::new();
    let decided =
        s.contenders.iter().zip(paths).zip(values).enumerate().map(|(i, ((c, path), worth))| {
            // Rows that share a rig share its pairs: they do not depend on the filter in use.
            let same_rig = pairs_of.iter().find(|(j, _)| {
                let other = &s.contenders[*j];
                other.optics == c.optics && other.sensor == c.sensor && other.gain == c.gain
            });
            let dual_pairs = match same_rig {
                Some((_, pairs)) => pairs.clone(),
                None => dual_pairs::dual_pairs(s, &study.model.scene, c, filters, draws.of(i)),
            };
            pairs_of.push((i, dual_pairs.clone()));
            let (own, ranges) = (&study.evaluation.contenders[i], &study.ranges[i]);
            PathDecisions {
                subs: study.subs[i].clone(),
                gain: study.gains[i].clone(),
                time: split::decide_time(s, c, path, draws.of(i)),
                differences: if i == 0 { Vec::new() } else { differences(s, first, own, ranges) },
                losses: if i == 0 { Vec::new() } else { losses(&s.target, first, own) },
                limiting_star_v_mag: star_limits(path, draws.of(i)),
                influences: sensitivity::influences(s, path, draws.of(i)),
                add_ons: add_ons::add_ons(s, &study.model.scene, c, path, filters, draws.of(i)),
                dual_pairs,
                ranges: ranges.clone(),
                worth,
            }
        });
    let decided = decided.collect();
    DecisionsAnswer {
        paths: decided,
        flips: sensitivity::flips(s, paths, draws),
        equal_clock: add_ons::equal_clock(s, paths, &study.ranges),
        uncertainty: stated(s),
    }
}
