//! Several targets in one night: who has which part of it, and the plan of each.
//!
//! A target takes over from the one before it when that one sinks, when it passes the meridian, at a
//! time, or where the night is best used; or it stands on a mount of its own and has the whole night
//! beside the others. What is locked stays where it is, and nobody else plans over it.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::night::plan::nights::planner;
use crate::night::plan::planner::{Planner, Run};
use crate::night::plan::schedule::Plan;
use crate::night::plan::slots::{LocalClock, SLOT_S, slot_usable, slots_of};
use crate::night::plan::spec::{PlanGoal, PlanSpec, StruckOut};
use crate::night::rate::NightRig;
use crate::night::view::NightView;
use crate::scenario::limits::{LocalTime, NightLimits};

/// Most targets of one night.
pub const MOST_TARGETS: usize = 6;

/// Most targets whose order is tried, where the night is given to each where it is best used.
const ORDERED: usize = 4;

/// What it is worth that a target has a block at all, beside which the shares of light are small:
/// who asks for a target wants it.
const SERVED: f64 = 10.0;

/// How a target takes over from the one before it.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case", tag = "kind")]
pub enum Change {
    /// When the one before has sunk, or its list is done.
    #[default]
    Sinks,
    /// When the one before passes the meridian: it needs no flip then.
    Meridian,
    /// At a time.
    At {
        /// On the local clock.
        #[schema(value_type = String)]
        time: LocalTime,
    },
    /// Where the night is best used: the signal to noise of every target, as a share of what the
    /// whole night would bring it, adds up to most. Where all of a night is given so, the order of
    /// its targets is free as well.
    BestUse,
    /// It stands on a mount of its own, beside the others.
    Alongside,
}

/// One target of a night.
#[derive(Clone, Copy, Debug)]
pub struct NightTarget<'a> {
    /// Its rig.
    pub rig: &'a NightRig,
    /// Names of the rig's exposures.
    pub names: &'a [String],
    /// Its night, from the same noon to the same noon as those of the others.
    pub view: &'a NightView,
    /// What its plan is asked.
    pub spec: &'a PlanSpec,
    /// How it takes over from the one before it; means nothing for the first.
    pub change: Change,
}

/// A target's part of a night: from a slot to before another.
struct Share {
    from: usize,
    to: usize,
}

/// Plans the targets of a night, each within its part. `limits` holds the hours of the clock between
/// which the night is worked, set-up included; set-up comes once, flats come once.
///
/// # Panics
/// Where there is no target at all.
pub fn plan_targets(
    targets: &[NightTarget],
    limits: &NightLimits,
    local: &LocalClock,
) -> Vec<Plan> {
    Night::new(targets, limits, local).planned()
}

/// Plans a night of one target towards the goals of `spec`, the rig's own where it names none.
pub fn plan_night(
    rig: &NightRig,
    names: &[String],
    view: &NightView,
    spec: &PlanSpec,
    local: &LocalClock,
) -> Plan {
    let only = NightTarget { rig, names, view, spec, change: Change::Sinks };
    plan_targets(&[only], &NightLimits::default(), local).remove(0)
}

struct Night<'a> {
    targets: &'a [NightTarget<'a>],
    planners: Vec<Planner<'a>>,
    /// Locked runs of each target, and what was said of them.
    locks: Vec<(Vec<Run>, Vec<String>)>,
    slots: usize,
}

impl<'a> Night<'a> {
    fn new(targets: &'a [NightTarget<'a>], limits: &NightLimits, local: &'a LocalClock) -> Self {
        let slots = slots_of(targets[0].view);
        let mut planners: Vec<Planner> =
            targets.iter().map(|t| planner(t.rig, t.names, t.view, t.spec, local)).collect();
        let hours = working_slots(&targets[0], limits);
        for (p, t) in planners.iter_mut().zip(targets) {
            let struck_out = struck_out_slots(p.from_s, &t.spec.struck_out);
            for s in 0..slots {
                let worked = hours.0 <= s && s < hours.1;
                let clear = !struck_out.iter().any(|(from, to)| *from <= s && s < *to);
                p.open[s] = slot_usable(t.view, s) && worked && clear;
            }
        }
        // The first to lock a slot has it; mounts of their own do not ask each other.
        let mut taken = vec![false; slots];
        let mut locks = Vec::new();
        for (p, t) in planners.iter_mut().zip(targets) {
            let alone = t.change == Change::Alongside;
            if !alone {
                p.open.iter_mut().zip(&taken).for_each(|(o, t)| *o &= !t);
            }
            let own = p.locked();
            if !alone {
                own.0.iter().for_each(|r| taken[r.from..r.to].fill(true));
            }
            locks.push(own);
        }
        Self { targets, planners, locks, slots }
    }

    /// Slots that moving to another target and centring it take.
    fn move_slots(&self, target: usize) -> usize {
        (self.targets[target].spec.overheads.flip_s / SLOT_S).ceil() as usize
    }

    /// The targets that share one mount, in the order in which they come.
    fn chain(&self) -> Vec<usize> {
        (0..self.targets.len())
            .filter(|&i| i == 0 || self.targets[i].change != Change::Alongside)
            .collect()
    }

    fn planned(mut self) -> Vec<Plan> {
        let mut plans: Vec<Plan> = vec![Plan::default(); self.targets.len()];
        for i in (1..self.targets.len()).filter(|&i| self.targets[i].change == Change::Alongside) {
            plans[i] = self.plan_of(i, &Share { from: 0, to: self.slots }, &[]);
        }
        let (chain, free_order) = self.in_order();
        let mut at = 0;
        let mut start = 0;
        while at < chain.len() {
            // This target, and those behind it that share the night with it where it is best used.
            let behind = (at + 1..chain.len())
                .find(|&k| !free_order && self.targets[chain[k]].change != Change::BestUse)
                .unwrap_or(chain.len());
            let group = &chain[at..behind];
            let next = chain.get(behind).copied();
            let end = next.map_or(self.slots, |n| self.handed_over(chain[behind - 1], n, start));
            let (_, shares) = self.best_shares(group, start, end);
            for (&i, share) in group.iter().zip(&shares) {
                plans[i] = self.plan_of(i, share, &chain);
            }
            if let Some(n) = next {
                // The move comes behind the last sub; a time and a meridian are waited for, too.
                // What is locked for later does not hold the next one up: it comes back for that.
                let end_s = self.planners[0].from_s + end as f64 * SLOT_S;
                let blocks = group.iter().flat_map(|&i| &plans[i].blocks);
                let last = blocks.filter(|b| b.from_s < end_s).map(|b| b.to_s).reduce(f64::max);
                start = last.map_or(start, |t| self.slot_after(t) + self.move_slots(n));
                // In a polar night the last sub may end with it.
                start = start.min(self.slots);
                if self.targets[n].change != Change::Sinks {
                    start = start.max(end);
                }
            }
            at = behind;
        }
        self.set_up_once(&chain, &mut plans);
        plans
    }

    /// The targets of one mount in the order in which they come, and whether that order was free.
    fn in_order(&self) -> (Vec<usize>, bool) {
        let chain = self.chain();
        let best_use = |i: &usize| self.targets[*i].change == Change::BestUse;
        let free = (2..=ORDERED).contains(&chain.len()) && chain[1..].iter().all(best_use);
        if !free {
            return (chain, false);
        }
        let best = orders_of(&chain)
            .into_iter()
            .map(|o| (self.best_shares(&o, 0, self.slots).0, o))
            // The order as it was given stands first and wins a tie.
            .reduce(|a, b| if b.0 > a.0 * (1.0 + 1e-9) { b } else { a });
        (best.map_or(chain, |b| b.1), true)
    }

    /// The slot at which `next` takes over from `last` at the latest.
    fn handed_over(&self, last: usize, next: usize, start: usize) -> usize {
        let p = &self.planners[last];
        let slot =
            |t: f64| (((t - p.from_s) / SLOT_S).floor().max(0.0) as usize).clamp(start, self.slots);
        match self.targets[next].change {
            Change::Meridian => self.targets[last].view.events.transit_s.map_or(self.slots, slot),
            Change::At { time } => {
                let to_s = p.from_s + (self.slots as f64) * SLOT_S;
                slot(time.in_night(p.from_s, to_s))
            }
            Change::Sinks | Change::BestUse | Change::Alongside => self.slots,
        }
    }

    fn slot_after(&self, t: f64) -> usize {
        ((t - self.planners[0].from_s) / SLOT_S).ceil().max(0.0) as usize
    }

    /// A target's plan within its share; `chain` names those whose locks are not planned over.
    fn plan_of(&mut self, target: usize, share: &Share, chain: &[usize]) -> Plan {
        let (locked, notes) = self.locks[target].clone();
        let open = &self.planners[target].open;
        let others = || chain.iter().filter(|&&i| i != target);
        let taken = |s: usize| {
            let before = self.move_slots(target);
            others().any(|&i| {
                let near = |r: &Run| r.from < s + 1 + before && s < r.to + before;
                self.locks[i].0.iter().any(near)
            })
        };
        let free: Vec<bool> = (0..self.slots)
            .map(|s| share.from <= s && s < share.to && open[s] && !taken(s))
            .collect();
        self.planners[target].free = free;
        self.planners[target].planned(&locked, notes)
    }

    /// The parts of the slots from `start` to before `end` that serve a group of targets best, in
    /// its order, and what they come to: the sum over the targets of their signal to noise as a
    /// share of what all of the night would bring.
    fn best_shares(&self, group: &[usize], start: usize, end: usize) -> (f64, Vec<Share>) {
        if group.len() == 1 {
            return (0.0, vec![Share { from: start, to: end }]);
        }
        let n = end - start;
        // best[b]: the sum with the first targets done by slot b, and where the last of them began.
        let mut best: Vec<(f64, Vec<usize>)> = vec![(0.0, Vec::new()); n + 1];
        for (k, &i) in group.iter().enumerate() {
            let (value, enough) = self.value(i);
            let open = self.open_before(i);
            let lead = if k == 0 { 0 } else { self.move_slots(i) };
            let least = self.planners[i].least_slots();
            let mut next: Vec<(f64, Vec<usize>)> = Vec::with_capacity(n + 1);
            for b in 0..=n {
                let mut top: Option<(f64, usize)> = None;
                for (a, before) in best.iter().enumerate().take(b + 1) {
                    let from = a + lead;
                    let fits = from + least <= b && open[start + b] - open[start + from] >= least;
                    let own = if fits {
                        let light = value[start + b] - value[start + from];
                        let served = if enough > 0.0 { SERVED } else { 0.0 };
                        served + light.clamp(0.0, enough).sqrt()
                    } else {
                        0.0
                    };
                    let sum = before.0 + own;
                    if top.is_none_or(|t| sum > t.0 + 1e-12) {
                        top = Some((sum, a));
                    }
                }
                let (sum, a) = top.expect("at least one beginning");
                let mut cuts = best[a].1.clone();
                cuts.push(a);
                next.push((sum, cuts));
            }
            best = next;
        }
        let (sum, cuts) = &best[n];
        let shares = (0..group.len())
            .map(|k| Share {
                from: start + cuts[k] + if k == 0 { 0 } else { self.move_slots(group[k]) },
                to: start + cuts.get(k + 1).copied().unwrap_or(n),
            })
            .collect();
        (*sum, shares)
    }

    /// What each slot is worth to a target, summed up to before it: the mean over what it is planned
    /// for of the share of a whole night's light. A target whose goals are met has nothing; the
    /// second is how much of it reaches them, beyond which nothing more is worth anything.
    fn value(&self, target: usize) -> (Vec<f64>, f64) {
        let p = &self.planners[target];
        let wanted: Vec<usize> = (0..p.rig.len())
            .filter(|&x| match &p.spec.goal {
                PlanGoal::Most { quantity } => p.rig.purpose(x) == Some(*quantity),
                PlanGoal::Fixed { blocks } => blocks.iter().any(|b| b.exposure == x),
                _ => p.goal2[x].is_finite() && p.done2[x] < p.goal2[x],
            })
            .collect();
        let whole: Vec<f64> = wanted
            .iter()
            .map(|&x| (0..self.slots).filter(|&s| p.open[s]).map(|s| p.rates[x][s]).sum())
            .collect();
        let mut sum = vec![0.0; self.slots + 1];
        for s in 0..self.slots {
            let each = wanted.iter().zip(&whole).filter(|(_, w)| **w > 0.0);
            let own: f64 = each.map(|(&x, w)| p.rates[x][s] / w).sum();
            let light = if p.open[s] { own / wanted.len().max(1) as f64 } else { 0.0 };
            sum[s + 1] = sum[s] + light;
        }
        // The part of the night that each goal still wants, if it had all of it, with what
        // overheads and short blocks cost on top (common practice, no source).
        let asked = matches!(p.spec.goal, PlanGoal::Most { .. } | PlanGoal::Fixed { .. });
        let missing = |(&x, w): (&usize, &f64)| (p.goal2[x] - p.done2[x]) / w;
        let wanted_share: f64 =
            wanted.iter().zip(&whole).filter(|(_, w)| **w > 0.0).map(missing).sum();
        // Every filter has a block at least, however little its goal wants.
        let open = p.open.iter().filter(|o| **o).count().max(1) as f64;
        let blocks = (p.least_slots() * wanted.len()) as f64 / open;
        let enough = match (asked, wanted.is_empty()) {
            (_, true) => 0.0,
            (true, _) => 1.0,
            _ => (1.1 * wanted_share).max(blocks).min(1.0),
        };
        (sum, enough)
    }

    /// How many slots before each can be used for a target.
    fn open_before(&self, target: usize) -> Vec<usize> {
        let mut sum = vec![0];
        for o in &self.planners[target].open {
            sum.push(sum[sum.len() - 1] + usize::from(*o));
        }
        sum
    }

    /// One mount is set up once, before its first block, and its flats are taken once, after the
    /// last.
    fn set_up_once(&self, chain: &[usize], plans: &mut [Plan]) {
        let used: Vec<usize> =
            chain.iter().copied().filter(|&i| !plans[i].blocks.is_empty()).collect();
        let by = |of: &dyn Fn(&Plan) -> Option<f64>, later: bool| {
            used.iter().copied().reduce(|a, b| {
                let (x, y) = (of(&plans[a]), of(&plans[b]));
                if (y > x) == later { b } else { a }
            })
        };
        let first = by(&|p| p.blocks.first().map(|b| b.from_s), false);
        let last = by(&|p| p.last_sub_s, true);
        for &i in &used {
            if Some(i) != first {
                plans[i].setup_from_s = None;
            }
            if Some(i) != last {
                plans[i].finished_s = None;
            }
        }
    }
}

/// The slots in which the night is worked: after the set-up, where that cannot begin before its
/// hour or the dark, and before the hour at which all ends.
fn working_slots(target: &NightTarget, limits: &NightLimits) -> (usize, usize) {
    let samples = &target.view.samples;
    let (Some(first), Some(last)) = (samples.first(), samples.last()) else { return (0, 0) };
    let o = &target.spec.overheads;
    let (from_s, to_s) = limits.hours(first.at_s, last.at_s);
    let dusk_s = target.view.events.dusk_s.filter(|_| o.setup_in_dark);
    let begins: Vec<f64> = limits.not_before.map(|_| from_s).into_iter().chain(dusk_s).collect();
    let ready = begins.into_iter().reduce(f64::max).map(|t| t + o.setup_min * 60.0);
    let slot = |t: f64| ((t - first.at_s) / SLOT_S).max(0.0);
    (
        ready.map_or(0, |t| slot(t).ceil() as usize),
        limits.not_after.map_or(usize::MAX, |_| slot(to_s).floor() as usize),
    )
}

/// The slots that hours which are struck out touch.
fn struck_out_slots(from_s: f64, hours: &[StruckOut]) -> Vec<(usize, usize)> {
    let slot = |t: f64| (t - from_s) / SLOT_S;
    hours
        .iter()
        .map(|h| (slot(h.from_s).floor().max(0.0) as usize, slot(h.to_s).ceil().max(0.0) as usize))
        .collect()
}

/// Every order of a list, its own first.
fn orders_of(list: &[usize]) -> Vec<Vec<usize>> {
    let Some((&last, before)) = list.split_last() else { return vec![Vec::new()] };
    let mut all: Vec<Vec<usize>> = Vec::new();
    for o in orders_of(before) {
        for i in (0..=o.len()).rev() {
            let mut next = o.clone();
            next.insert(i, last);
            all.push(next);
        }
    }
    all
}
