//! What goes into a campaign's book: a plan that is kept, a night that was shot, and what a count
//! of subs is worth.
//!
//! An evening counts once. A planned night does not count towards the goals; what was really taken
//! stands in its place. What a sub is worth was worked out for its night when that was planned: a
//! count that is changed by hand keeps that worth, and only where a night has none to go by is a
//! sub worth what the scenario's own sky gives.

use std::collections::BTreeMap;

use crate::campaign::document::{BlockTaken, Campaign, CampaignGoal, CampaignNight, Shot};
use crate::decide::split::{Served, SplitPart};
use crate::light::lines::Quantity;
use crate::night::plan::schedule::Plan;
use crate::night::rate::NightRig;
use crate::scenario::field_error::FieldError;

/// What a plan adds to a campaign: for each exposure that it uses its subs, and the square of the
/// signal to noise of every line when all of them are kept. A plan counts what is lost on average;
/// who records a night counts what was really kept.
pub fn shots_of(plan: &Plan, rig: &NightRig) -> Vec<Shot> {
    let of = |exposure: usize, subs: u32| {
        let mut shot = Shot { path: None, exposure, subs, snr2: 0.0, lines_snr2: BTreeMap::new() };
        for b in plan.blocks.iter().filter(|b| b.exposure == exposure) {
            let kept = rig.kept_share(exposure);
            shot.snr2 += b.snr2 / kept;
            for (q, v) in &b.lines_snr2 {
                *shot.lines_snr2.entry(*q).or_default() += v / kept;
            }
        }
        shot
    };
    plan.totals.iter().filter(|t| t.subs > 0).map(|t| of(t.exposure, t.subs)).collect()
}

/// The goals with which a campaign begins: every line that somebody wants of a filter is one of its
/// own, so that a dual band has two; an exposure of which nothing is wanted has one all the same.
pub fn first_goals(parts: &[SplitPart], otherwise_snr: f64) -> Vec<CampaignGoal> {
    let of = |(exposure, part): (usize, &SplitPart)| {
        let wanted = || part.served.iter().filter(|v| v.wanted);
        if wanted().next().is_none() {
            return vec![CampaignGoal { exposure, quantity: None, snr: otherwise_snr }];
        }
        let goal =
            |v: &Served| CampaignGoal { exposure, quantity: Some(v.quantity), snr: v.goal_snr };
        wanted().map(goal).collect()
    };
    parts.iter().enumerate().flat_map(of).collect()
}

impl CampaignNight {
    /// The same night with other counts of subs, one an exposure.
    ///
    /// `per_sub[exposure]` is what a sub adds where the night has none to go by: squares of the
    /// signal to noise, what the exposure is for first (see [`crate::campaign::snr2_per_sub`]).
    pub fn with_counts(&self, subs: &[u32], per_sub: &[Vec<(Quantity, f64)>]) -> Self {
        let shot = |exposure: usize, count: u32| {
            let own = || self.shots.iter().filter(move |s| s.exposure == exposure);
            let had: f64 = own().map(|s| f64::from(s.subs)).sum();
            let count_of = f64::from(count);
            let mut shot =
                Shot { path: None, exposure, subs: count, snr2: 0.0, lines_snr2: BTreeMap::new() };
            if had > 0.0 {
                shot.snr2 = own().map(|s| s.snr2).sum::<f64>() * count_of / had;
                for (q, v) in own().flat_map(|s| &s.lines_snr2) {
                    *shot.lines_snr2.entry(*q).or_default() += v * count_of / had;
                }
            } else if let Some(each) = per_sub.get(exposure) {
                shot.snr2 = each.first().map_or(0.0, |(_, v)| v * count_of);
                shot.lines_snr2 = each.iter().map(|(q, v)| (*q, v * count_of)).collect();
            }
            shot
        };
        let counted =
            subs.iter().enumerate().filter(|(_, n)| **n > 0).map(|(x, n)| shot(x, *n)).collect();
        Self { shots: counted, ..self.clone() }
    }
}

impl Campaign {
    /// Enters a night: in the place of `instead_of`, and of what was only planned for its evening.
    ///
    /// # Errors
    /// Where the evening is recorded already, which must not count twice; the campaign is left as
    /// it was.
    pub fn record(
        &mut self,
        night: CampaignNight,
        instead_of: Option<&CampaignNight>,
    ) -> Result<(), FieldError> {
        let others = || self.nights.iter().filter(|n| Some(*n) != instead_of);
        // Two rigs on one evening are two records of it; one rig has one.
        let paths = |n: &CampaignNight| -> Vec<usize> {
            n.shots.iter().map(|s| s.path.unwrap_or(self.contender)).collect()
        };
        let taken = paths(&night);
        let same_rig = |n: &&CampaignNight| {
            let theirs = paths(n);
            theirs.is_empty() || taken.is_empty() || theirs.iter().any(|p| taken.contains(p))
        };
        let on_the_evening = |n: &&CampaignNight| n.date == night.date;
        if others().filter(on_the_evening).filter(same_rig).any(|n| !n.planned) {
            let message = format!(
                "{} is recorded already in {}: change it there, or choose another evening",
                night.date, self.title
            );
            return Err(FieldError { path: "night.date".into(), message });
        }
        let mut nights: Vec<CampaignNight> =
            others().filter(|n| !(on_the_evening(n) && same_rig(n))).cloned().collect();
        nights.push(night);
        nights.sort_by(|a, b| a.date.cmp(&b.date));
        self.nights = nights;
        Ok(())
    }

    /// What each exposure must reach, as a signal to noise: the first of its goals, which is what
    /// it is for; the scenario's goal where it has none.
    pub fn goal_snr_of_exposures(&self) -> Vec<f64> {
        let otherwise = self.scenario.usual_snr();
        let of =
            |x: usize| self.goals.iter().find(|g| g.exposure == x).map_or(otherwise, |g| g.snr);
        (0..self.exposures()).map(of).collect()
    }

    /// Square of the signal to noise that each exposure has in what it is for. The evening that is
    /// being planned does not count for itself.
    pub fn done_before_snr2(&self, evening: &str) -> Vec<f64> {
        let shots = || {
            self.nights.iter().filter(|n| !n.planned && n.date != evening).flat_map(|n| &n.shots)
        };
        let own = |x: usize| shots().filter(move |s| self.is_own(s) && s.exposure == x);
        // What other light paths brought to the line of an exposure's first goal.
        let foreign = |n: &CampaignNight| CampaignNight {
            shots: n.shots.iter().filter(|s| !self.is_own(s)).cloned().collect(),
            ..n.clone()
        };
        let of_others = Self {
            nights: self.nights.iter().filter(|n| n.date != evening).map(foreign).collect(),
            ..self.clone()
        };
        let others = |x: usize| {
            let goal = self.goals.iter().find(|g| g.exposure == x);
            goal.map_or(0.0, |g| of_others.done_snr2(g, None))
        };
        (0..self.exposures()).map(|x| own(x).map(|s| s.snr2).sum::<f64>() + others(x)).collect()
    }

    fn exposures(&self) -> usize {
        self.exposures_of(self.contender)
    }

    /// The campaign as another of its light paths sees it: a goal for every line that a goal of its
    /// own is of, and what all rigs together have brought to that. `None` where the path is not
    /// one of the campaign's. `own` and `other` are the rigs of the two paths.
    pub fn through(&self, path: usize, own: &NightRig, other: &NightRig) -> Option<Self> {
        if path == self.contender {
            return Some(self.clone());
        }
        if !self.also.contains(&path) {
            return None;
        }
        let name = |path: usize, x: usize| {
            let e = &self.scenario.contenders[path].exposures[x];
            e.filter.as_ref().map_or("", |f| f.name.as_str())
        };
        let served = |x: usize, q: Quantity| {
            self.goals.iter().find(|g| {
                g.quantity.or_else(|| own.purpose(g.exposure)) == Some(q)
                    && (q != Quantity::Continuum
                        || name(path, x) == name(self.contender, g.exposure))
            })
        };
        let pairs: Vec<(usize, Quantity, &CampaignGoal)> = (0..other.len())
            .flat_map(|x| other.lines(x).iter().map(move |q| (x, *q)))
            .filter_map(|(x, q)| Some((x, q, served(x, q)?)))
            .collect();
        let goals: Vec<CampaignGoal> = pairs
            .iter()
            .map(|(x, q, g)| CampaignGoal { exposure: *x, quantity: Some(*q), snr: g.snr })
            .collect();
        let night = |n: &CampaignNight| {
            let alone = Self { nights: vec![n.clone()], ..self.clone() };
            let shot = |x: usize| {
                let lines: BTreeMap<Quantity, f64> = pairs
                    .iter()
                    .filter(|p| p.0 == x)
                    .map(|(_, q, g)| (*q, alone.done_snr2(g, own.purpose(g.exposure))))
                    .collect();
                let snr2 =
                    other.purpose(x).and_then(|q| lines.get(&q)).copied().unwrap_or_default();
                Shot { path: None, exposure: x, subs: 0, snr2, lines_snr2: lines }
            };
            CampaignNight { shots: (0..other.len()).map(shot).collect(), ..n.clone() }
        };
        let nights = self.nights.iter().map(night).collect();
        Some(Self { contender: path, also: Vec::new(), goals, nights, ..self.clone() })
    }
}

/// The campaign as its evening `date` is planned anew: what that has brought so far counts as done
/// on an evening long gone, and nothing else of it.
pub fn with_brought(campaign: &Campaign, date: &str, brought: Option<CampaignNight>) -> Campaign {
    /// An evening before all others.
    const DONE: &str = "1980-01-01";
    let mut counted = campaign.clone();
    counted.nights.retain(|n| n.date != date);
    counted.nights.extend(brought.map(|n| CampaignNight { date: DONE.to_owned(), ..n }));
    counted
}

/// Puts a plan for the rest of an evening, from a moment in seconds since 1970 UTC on, in place of
/// what was planned for it; what was planned until then stays, cut where it would go on. `shots` is
/// what the plan adds.
pub fn plan_rest(
    campaign: &mut Campaign,
    date: &str,
    at_s: f64,
    (plan, shots): (&Plan, Vec<Shot>),
) {
    let before = campaign.nights.iter().position(|n| n.planned && n.date == date);
    let old = before.map(|i| campaign.nights.remove(i));
    let past = old.iter().flat_map(|n| &n.blocks).filter(|b| b.from_s < at_s).map(|b| {
        let share = ((at_s - b.from_s) / (b.to_s - b.from_s).max(1.0)).min(1.0);
        let subs = (share * f64::from(b.subs)).floor() as u32;
        BlockTaken { to_s: b.to_s.min(at_s), subs, ..b.clone() }
    });
    let rest = plan.blocks.iter().map(|b| BlockTaken {
        exposure: b.exposure,
        from_s: b.from_s,
        to_s: b.to_s,
        subs: b.subs,
        lost_to_cloud: 0,
        note: String::new(),
    });
    let night = CampaignNight {
        date: date.to_owned(),
        shots,
        blocks: past.chain(rest).collect(),
        struck_out: old.as_ref().map_or_else(Vec::new, |n| n.struck_out.clone()),
        note: old.as_ref().map_or_else(String::new, |n| n.note.clone()),
        planned: true,
    };
    campaign.nights.push(night);
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::common::campaign_of_ic_443;
    use crate::decide::split::Served;
    use crate::decide::uncertainty::draws::Range;
    use crate::night::plan::schedule::Block;
    use crate::night::plan::spec::StruckOut;
    use crate::scenario::document::Scenario;

    fn shot(exposure: usize, subs: u32, snr2: f64, lines: &[(Quantity, f64)]) -> Shot {
        Shot { path: None, exposure, subs, snr2, lines_snr2: lines.iter().copied().collect() }
    }

    fn night(date: &str, snr2: f64, planned: bool) -> CampaignNight {
        CampaignNight {
            date: date.into(),
            shots: vec![shot(0, 10, snr2, &[])],
            blocks: Vec::new(),
            struck_out: Vec::new(),
            note: String::new(),
            planned,
        }
    }

    /// The path of the demo that has two filters.
    fn campaign() -> Campaign {
        let own = campaign_of_ic_443();
        Campaign {
            scenario: Scenario { goal_snr: 15.0, ..own.scenario },
            goals: vec![CampaignGoal { exposure: 1, quantity: None, snr: 30.0 }],
            nights: vec![
                night("2027-01-10", 40.0, false),
                night("2027-01-11", 25.0, false),
                night("2027-01-28", 60.0, false),
                night("2027-02-01", 99.0, true),
            ],
            ..own
        }
    }

    fn taken(exposure: usize, from_s: f64, to_s: f64, subs: u32) -> BlockTaken {
        BlockTaken { exposure, from_s, to_s, subs, lost_to_cloud: 0, note: String::new() }
    }

    #[test]
    fn the_rest_of_an_evening_is_planned_and_what_was_before_stays_cut() {
        let mut c = campaign();
        let old = c.nights.iter_mut().find(|n| n.planned).expect("a plan");
        old.blocks = vec![taken(0, 0.0, 1000.0, 10), taken(1, 1000.0, 3000.0, 20)];
        old.note = "mind the trees".into();
        old.struck_out = vec![StruckOut { from_s: 1.0, to_s: 2.0 }];
        let block = |from_s: f64| Block {
            exposure: 1,
            filter: String::new(),
            from_s,
            to_s: from_s + 500.0,
            subs: 5,
            sub_s: 100.0,
            refocuses: 0,
            flip_s: None,
            snr2: 1.0,
            lines_snr2: BTreeMap::new(),
            locked: false,
            why: String::new(),
        };
        let plan = Plan {
            blocks: vec![block(1600.0)],
            totals: Vec::new(),
            setup_from_s: None,
            last_sub_s: None,
            finished_s: None,
            flip_lasts_s: 0.0,
            overhead: 0.0,
            notes: Vec::new(),
            offered: None,
        };
        plan_rest(&mut c, "2027-02-01", 1550.0, (&plan, vec![shot(1, 5, 3.0, &[])]));
        let own: Vec<&CampaignNight> = c.nights.iter().filter(|n| n.date == "2027-02-01").collect();
        assert_eq!(own.len(), 1);
        // Of the block that ran a quarter and a bit is over: five whole subs of twenty.
        let wanted =
            [taken(0, 0.0, 1000.0, 10), taken(1, 1000.0, 1550.0, 5), taken(1, 1600.0, 2100.0, 5)];
        assert_eq!(own[0].blocks, wanted);
        assert_eq!((own[0].note.as_str(), own[0].struck_out.len()), ("mind the trees", 1));
        assert!(own[0].planned && own[0].shots[0].snr2 == 3.0);
    }

    #[test]
    fn what_an_evening_brought_counts_as_done_before_it() {
        let c = campaign();
        let brought = night("2027-01-28", 7.0, false);
        let counted = with_brought(&c, "2027-01-28", Some(brought));
        // 40 and 25 of earlier evenings, and 7 instead of the 60 that stood there.
        assert_eq!(counted.done_before_snr2("2027-01-28")[0], 72.0);
        assert_eq!(with_brought(&c, "2027-01-28", None).done_before_snr2("2027-01-28")[0], 65.0);
    }

    #[test]
    fn a_campaign_begins_with_a_goal_for_every_line_that_is_wanted() {
        let range = Range::of_three([0.0; 3]);
        let served = |quantity, wanted| Served {
            quantity,
            snr: 0.0,
            goal_snr: 20.0,
            clean_arcsec: None,
            snr_range: range,
            wanted,
        };
        let part = |served: Vec<Served>| SplitPart {
            filter: None,
            quantity: None,
            share: 0.5,
            share_range: range,
            clock_s: 0.0,
            subs: 0,
            snr: 0.0,
            clean_arcsec: None,
            snr_range: range,
            served,
        };
        let dual = part(vec![
            served(Quantity::Ha, true),
            served(Quantity::Oiii, true),
            served(Quantity::Hb, false),
        ]);
        let goals: Vec<_> = first_goals(&[dual, part(Vec::new())], 20.0)
            .iter()
            .map(|g| (g.exposure, g.quantity, g.snr))
            .collect();
        assert_eq!(
            goals,
            [(0, Some(Quantity::Ha), 20.0), (0, Some(Quantity::Oiii), 20.0), (1, None, 20.0)]
        );
    }

    #[test]
    fn an_exposure_without_a_goal_has_the_scenario_s() {
        assert_eq!(campaign().goal_snr_of_exposures(), [15.0, 30.0]);
    }

    #[test]
    fn what_is_only_planned_and_the_evening_in_question_are_not_done_before() {
        assert_eq!(campaign().done_before_snr2("2027-01-28"), [65.0, 0.0]);
        assert_eq!(campaign().done_before_snr2("2027-03-01"), [125.0, 0.0]);
    }

    #[test]
    fn other_counts_are_worth_in_proportion_what_was_planned_and_else_what_the_sky_gives() {
        use Quantity::{Ha, Oiii, Sii};
        let planned = CampaignNight {
            shots: vec![shot(0, 40, 80.0, &[(Ha, 80.0), (Oiii, 20.0)])],
            ..night("2027-01-28", 0.0, true)
        };
        let per_sub = [vec![(Ha, 2.0)], vec![(Sii, 0.5)]];
        let of = |subs: &[u32], per_sub: &[Vec<(Quantity, f64)>]| {
            planned.with_counts(subs, per_sub).shots
        };
        assert_eq!(of(&[30, 0], &per_sub), [shot(0, 30, 60.0, &[(Ha, 60.0), (Oiii, 15.0)])]);
        assert_eq!(of(&[0, 10], &per_sub), [shot(1, 10, 5.0, &[(Sii, 5.0)])]);
        assert_eq!(of(&[0, 10], &[]), [shot(1, 10, 0.0, &[])]);
    }

    #[test]
    fn an_evening_counts_once_and_takes_the_place_of_its_plan() {
        let mut c = campaign();
        let refused =
            c.record(night("2027-01-28", 1.0, false), None).expect_err("recorded already");
        assert!(refused.path == "night.date" && refused.message.contains("IC 443"), "{refused:?}");
        assert_eq!(c, campaign());
        c.record(night("2027-02-01", 42.5, false), None).expect("only planned so far");
        assert_eq!(c.nights.len(), 4);
        assert_eq!(c.nights.last(), Some(&night("2027-02-01", 42.5, false)));
        // One that is edited does not stand in its own way, and may move to another evening.
        let was = c.nights[2].clone();
        c.record(night("2027-01-05", 60.0, false), Some(&was)).expect("moved");
        let dates: Vec<&str> = c.nights.iter().map(|n| n.date.as_str()).collect();
        assert_eq!(dates, ["2027-01-05", "2027-01-10", "2027-01-11", "2027-02-01"]);
    }
}
