//! The planner's search: how the free slots of a night are given to the filters.

use crate::night::plan::slots::{LocalClock, SLOT_S};
use crate::night::plan::spec::{FixedBlock, PlanGoal, PlanSpec};
use crate::night::rate::NightRig;
use crate::night::view::NightView;
use crate::wording::clock;

/// The planner's own picture of a night: rates by slot, and a goal for each exposure.
pub(super) struct Planner<'a> {
    pub(super) rig: &'a NightRig,
    pub(super) names: &'a [String],
    pub(super) spec: &'a PlanSpec,
    pub(super) view: &'a NightView,
    pub(super) clock: &'a LocalClock,
    pub(super) from_s: f64,
    /// Square of the signal to noise per slot, exposure by exposure.
    pub(super) rates: Vec<Vec<f64>>,
    pub(super) goal2: Vec<f64>,
    pub(super) done2: Vec<f64>,
    /// What this night is for, and what is there of that already: the goals and what was done, or
    /// what the weighing against the nights to come gave this one.
    pub(super) aim2: Vec<f64>,
    pub(super) had2: Vec<f64>,
    /// Slots that can be used at all.
    pub(super) open: Vec<bool>,
    /// Slots that are free for this target.
    pub(super) free: Vec<bool>,
    /// Overhead of a sub: readout, dither with settling, s.
    pub(super) between_s: Vec<f64>,
}

/// A run of slots for one exposure.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct Run {
    pub(super) exposure: usize,
    pub(super) from: usize,
    pub(super) to: usize,
    pub(super) locked: bool,
}

/// Runs in their order, those of one filter that touch as one; a locked run stays on its own.
pub(super) fn merged(mut runs: Vec<Run>) -> Vec<Run> {
    runs.sort_by_key(|r| r.from);
    let mut out: Vec<Run> = Vec::with_capacity(runs.len());
    for r in runs {
        match out.last_mut() {
            Some(last)
                if last.exposure == r.exposure
                    && last.to == r.from
                    && !last.locked
                    && !r.locked =>
            {
                last.to = r.to
            }
            _ => out.push(r),
        }
    }
    out
}

impl Planner<'_> {
    pub(super) fn slots(&self) -> usize {
        self.open.len()
    }

    /// Slots of the shortest block.
    pub(super) fn least_slots(&self) -> usize {
        (self.spec.overheads.least_block_min * 60.0 / SLOT_S).ceil().max(1.0) as usize
    }

    pub(super) fn usable(&self, slot: usize) -> bool {
        self.open[slot]
    }

    pub(super) fn gained(&self, exposure: usize, from: usize, to: usize) -> f64 {
        let lost = if self.spec.overheads.refocus_on_change {
            self.spec.overheads.refocus_s / SLOT_S
        } else {
            0.0
        };
        let rates = &self.rates[exposure];
        (rates[from..to].iter().sum::<f64>() - lost.min((to - from) as f64) * rates[from]).max(0.0)
    }

    /// Progress of each goal with a list of runs: square of signal to noise over that of the goal.
    pub(super) fn progress(&self, runs: &[Run]) -> Vec<f64> {
        let mut snr2 = self.had2.clone();
        for r in runs {
            snr2[r.exposure] += self.gained(r.exposure, r.from, r.to);
        }
        snr2.iter().zip(&self.aim2).map(|(s, g)| s / g).collect()
    }

    /// How good a list of runs is: the least progress, and a little of all of it.
    pub(super) fn worth(&self, runs: &[Run]) -> f64 {
        let p = self.progress(runs);
        let counted: Vec<f64> =
            p.iter().zip(&self.aim2).filter(|(_, g)| g.is_finite()).map(|(p, _)| *p).collect();
        match self.spec.goal {
            PlanGoal::Most { quantity } => {
                (0..p.len()).filter(|&i| self.rig.purpose(i) == Some(quantity)).map(|i| p[i]).sum()
            }
            _ => {
                counted.iter().copied().fold(f64::INFINITY, f64::min).min(1e9)
                    + 1e-4 * counted.iter().map(|p| p.min(1.0)).sum::<f64>()
            }
        }
    }

    /// Gaps of free slots between what is locked.
    pub(super) fn gaps(&self, locked: &[Run]) -> Vec<(usize, usize)> {
        let locked_slot = |s: usize| locked.iter().any(|l| l.from <= s && s < l.to);
        let mut out = Vec::new();
        let mut start = None;
        for s in 0..=self.slots() {
            let free = s < self.slots() && self.free[s] && !locked_slot(s);
            match (start, free) {
                (None, true) => start = Some(s),
                (Some(from), false) => {
                    out.push((from, s));
                    start = None;
                }
                _ => {}
            }
        }
        out
    }

    /// The best runs of a gap for given weights of the exposures, by dynamic programming over block
    /// ends.
    pub(super) fn fill(
        &self,
        (from, to): (usize, usize),
        weights: &[f64],
        least: usize,
    ) -> Vec<Run> {
        let n = to - from;
        if n < least {
            return Vec::new();
        }
        let prefix: Vec<Vec<f64>> = self
            .rates
            .iter()
            .map(|r| {
                let mut sum = vec![0.0; n + 1];
                for i in 0..n {
                    sum[i + 1] = sum[i] + r[from + i];
                }
                sum
            })
            .collect();
        let lost = if self.spec.overheads.refocus_on_change {
            self.spec.overheads.refocus_s / SLOT_S
        } else {
            0.0
        };
        // best[i]: value of the first i slots, the exposure that ends there, and where its block
        // began.
        let mut best: Vec<(f64, usize, usize)> = vec![(f64::NEG_INFINITY, usize::MAX, 0); n + 1];
        best[0] = (0.0, usize::MAX, 0);
        for end in least.max(1)..=n {
            for start in 0..=end - least.max(1) {
                let (value, previous, _) = best[start];
                if !value.is_finite() {
                    continue;
                }
                for (x, w) in
                    weights.iter().enumerate().filter(|(x, w)| **w > 0.0 && *x != previous)
                {
                    let light =
                        prefix[x][end] - prefix[x][start] - lost * self.rates[x][from + start];
                    let total = value + w * light;
                    if total > best[end].0 {
                        best[end] = (total, x, start);
                    }
                }
            }
        }
        let mut runs = Vec::new();
        let mut end = n;
        while end > 0 && best[end].1 != usize::MAX {
            let (_, exposure, start) = best[end];
            runs.push(Run { exposure, from: from + start, to: from + end, locked: false });
            end = start;
        }
        runs.reverse();
        runs
    }

    /// The locked blocks on the slots, cut to what is usable; what is cut is said.
    pub(super) fn locked(&self) -> (Vec<Run>, Vec<String>) {
        let mut notes = Vec::new();
        let mut out: Vec<Run> = Vec::new();
        let mut wanted = self.spec.locked.clone();
        wanted.sort_by(|a, b| a.from_s.total_cmp(&b.from_s));
        for l in &wanted {
            let slot = |t: f64| {
                ((t - self.from_s) / SLOT_S).round().clamp(0.0, self.slots() as f64) as usize
            };
            let (mut from, mut to) = (slot(l.from_s), slot(l.to_s));
            let asked = (from, to);
            while from < to
                && (!self.usable(from) || out.iter().any(|o| o.from <= from && from < o.to))
            {
                from += 1;
            }
            let mut end = from;
            while end < to && self.usable(end) && !out.iter().any(|o| o.from <= end && end < o.to) {
                end += 1;
            }
            to = end;
            if from >= to {
                notes.push(format!(
                    "The locked block of {} lies in daylight, below the limit or in hours struck out: it is left out.",
                    self.names[l.exposure]
                ));
                continue;
            }
            if (from, to) != asked {
                notes.push(format!(
                    "The locked block of {} is cut to what is dark, high enough and not struck out.",
                    self.names[l.exposure]
                ));
            }
            out.push(Run { exposure: l.exposure, from, to, locked: true });
        }
        (out, notes)
    }

    /// Slots that a block of a list wants when it begins at a slot: its minutes, or what its subs
    /// need with their focusing, and with a flip that falls into them.
    fn slots_for(&self, b: &FixedBlock, at: usize) -> usize {
        let slots = |s: f64| (s / SLOT_S).ceil().max(1.0) as usize;
        let Some(subs) = b.subs else {
            return (b.minutes * 60.0 / SLOT_S).round().max(1.0) as usize;
        };
        let o = &self.spec.overheads;
        let light = f64::from(subs) * (self.rig.sub_s(b.exposure) + self.between_s[b.exposure]);
        let every_s = o.refocus_every_min.map_or(f64::INFINITY, |m| m * 60.0);
        let focus = f64::from(u8::from(o.refocus_on_change)) + (light / every_s).floor();
        let length_s = light + focus * o.refocus_s;
        let from_s = self.from_s + at as f64 * SLOT_S;
        let flips =
            self.view.events.transit_s.is_some_and(|t| (from_s..from_s + length_s).contains(&t));
        slots(length_s + if flips { o.flip_s } else { 0.0 })
    }

    /// A fixed list, one block after another through the free gaps. What is locked is part of the
    /// list: it is not asked for again.
    pub(super) fn in_order(
        &self,
        blocks: &[FixedBlock],
        locked: &[Run],
        notes: &mut Vec<String>,
    ) -> Vec<Run> {
        let mut runs = locked.to_vec();
        let mut laid = vec![0; self.rig.len()];
        locked.iter().for_each(|r| laid[r.exposure] += r.to - r.from);
        let gaps = self.gaps(locked);
        let (mut gap, mut at) = (0, gaps.first().map_or(0, |g| g.0));
        for b in blocks {
            let asked = self.slots_for(b, at);
            let there = asked.min(laid[b.exposure]);
            laid[b.exposure] -= there;
            let mut left = asked - there;
            while left > 0 && gap < gaps.len() {
                let room = gaps[gap].1 - at;
                let take = left.min(room);
                if take > 0 {
                    runs.push(Run { exposure: b.exposure, from: at, to: at + take, locked: false });
                    left -= take;
                    at += take;
                }
                if at >= gaps[gap].1 {
                    gap += 1;
                    at = gaps.get(gap).map_or(at, |g| g.0);
                }
            }
            if left > 0 {
                let missing = left as f64 * SLOT_S;
                notes.push(format!(
                    "{} of {} do not fit before dawn or the limit.",
                    clock(missing),
                    self.names[b.exposure]
                ));
            }
        }
        runs.sort_by_key(|r| r.from);
        runs
    }
}
