//! The planner's search: how the free slots of a night are given to the filters.

use crate::night::plan::slots::{LocalClock, SLOT_S, slot_usable, slots_of};
use crate::night::plan::spec::{FixedBlock, PlanGoal, PlanSpec};
use crate::night::rate::NightRig;
use crate::night::view::NightView;
use crate::wording::clock;

/// Orders of blocks that are polished.
const POLISHED: usize = 24;

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
fn merged(mut runs: Vec<Run>) -> Vec<Run> {
    runs.sort_by_key(|r| r.from);
    let mut out: Vec<Run> = Vec::with_capacity(runs.len());
    for r in runs {
        match out.last_mut() {
            Some(last) if last.exposure == r.exposure && last.to == r.from && !last.locked && !r.locked => last.to = r.to,
            _ => out.push(r),
        }
    }
    out
}

impl Planner<'_> {
    pub(super) fn slots(&self) -> usize {
        slots_of(self.view)
    }

    /// Slots of the shortest block.
    pub(super) fn least_slots(&self) -> usize {
        (self.spec.overheads.least_block_min * 60.0 / SLOT_S).ceil().max(1.0) as usize
    }

    pub(super) fn usable(&self, slot: usize) -> bool {
        slot_usable(self.view, slot)
    }

    fn gained(&self, exposure: usize, from: usize, to: usize) -> f64 {
        let lost = if self.spec.overheads.refocus_on_change { self.spec.overheads.refocus_s / SLOT_S } else { 0.0 };
        let rates = &self.rates[exposure];
        (rates[from..to].iter().sum::<f64>() - lost.min((to - from) as f64) * rates[from]).max(0.0)
    }

    /// Progress of each goal with a list of runs: square of signal to noise over that of the goal.
    pub(super) fn progress(&self, runs: &[Run]) -> Vec<f64> {
        let mut snr2 = self.done2.clone();
        for r in runs {
            snr2[r.exposure] += self.gained(r.exposure, r.from, r.to);
        }
        snr2.iter().zip(&self.goal2).map(|(s, g)| s / g).collect()
    }

    /// How good a list of runs is: the least progress, and a little of all of it.
    pub(super) fn worth(&self, runs: &[Run]) -> f64 {
        let p = self.progress(runs);
        let counted: Vec<f64> = p.iter().zip(&self.goal2).filter(|(_, g)| g.is_finite()).map(|(p, _)| *p).collect();
        match self.spec.goal {
            PlanGoal::Most { quantity } => (0..p.len()).filter(|&i| self.rig.purpose(i) == Some(quantity)).map(|i| p[i]).sum(),
            _ => counted.iter().copied().fold(f64::INFINITY, f64::min).min(1e9) + 1e-4 * counted.iter().map(|p| p.min(1.0)).sum::<f64>(),
        }
    }

    /// Free gaps of usable slots between what is locked.
    pub(super) fn gaps(&self, locked: &[Run]) -> Vec<(usize, usize)> {
        let locked_slot = |s: usize| locked.iter().any(|l| l.from <= s && s < l.to);
        let mut out = Vec::new();
        let mut start = None;
        for s in 0..=self.slots() {
            let free = s < self.slots() && self.usable(s) && !locked_slot(s);
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

    /// The best runs of a gap for given weights of the exposures, by dynamic programming over block ends.
    pub(super) fn fill(&self, (from, to): (usize, usize), weights: &[f64], least: usize) -> Vec<Run> {
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
        let lost = if self.spec.overheads.refocus_on_change { self.spec.overheads.refocus_s / SLOT_S } else { 0.0 };
        // best[i]: value of the first i slots, the exposure that ends there, and where its block began.
        let mut best: Vec<(f64, usize, usize)> = vec![(f64::NEG_INFINITY, usize::MAX, 0); n + 1];
        best[0] = (0.0, usize::MAX, 0);
        for end in least.max(1)..=n {
            for start in 0..=end - least.max(1) {
                let (value, previous, _) = best[start];
                if !value.is_finite() {
                    continue;
                }
                for (x, w) in weights.iter().enumerate().filter(|(x, w)| **w > 0.0 && *x != previous) {
                    let light = prefix[x][end] - prefix[x][start] - lost * self.rates[x][from + start];
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

    /// The balanced plan: how long each filter must run for the least-served goal to be as well served as can be, laid out in
    /// every order (or, with many filters, in that of their taste for the night's first half), and polished.
    pub(super) fn balance(&self, locked: &[Run]) -> Vec<Run> {
        let least = self.least_slots();
        let gaps = self.gaps(locked);
        let n = self.rig.len();
        if let PlanGoal::Most { quantity } = self.spec.goal {
            let weights: Vec<f64> = (0..n).map(|i| f64::from(u8::from(self.rig.purpose(i) == Some(quantity)))).collect();
            let mut runs = locked.to_vec();
            gaps.iter().for_each(|g| runs.extend(self.fill(*g, &weights, least)));
            runs.sort_by_key(|r| r.from);
            return runs;
        }
        let free: Vec<usize> = gaps.iter().flat_map(|g| g.0..g.1).collect();
        let lengths = self.lengths(locked, &free, least);
        let used: Vec<usize> = (0..n).filter(|&x| lengths[x] > 0).collect();
        let mut tried: Vec<(f64, Vec<Run>)> = Vec::new();
        for order in self.orders(&used, &free) {
            let mut runs = locked.to_vec();
            let mut slots = free.iter().copied().peekable();
            for x in order {
                let mut left = lengths[x];
                while left > 0 {
                    let Some(from) = slots.next() else { break };
                    let mut to = from + 1;
                    left -= 1;
                    while left > 0 && slots.peek() == Some(&to) {
                        slots.next();
                        to += 1;
                        left -= 1;
                    }
                    runs.push(Run { exposure: x, from, to, locked: false });
                }
            }
            runs.sort_by_key(|r| r.from);
            tried.push((self.worth(&runs), runs));
        }
        // An order shows its worth only once its borders have moved: the most promising are polished before they are judged.
        tried.sort_by(|a, b| b.0.total_cmp(&a.0));
        tried.truncate(POLISHED);
        let polished = tried.into_iter().map(|(_, runs)| self.polish(runs, least)).map(|runs| (self.worth(&runs), runs));
        let mut best: (f64, Vec<Run>) = (f64::NEG_INFINITY, locked.to_vec());
        for (worth, runs) in polished {
            if worth > best.0 * (1.0 + 1e-9) || best.0.is_infinite() {
                best = (worth, runs);
            }
        }
        best.1
    }

    /// Slots for each filter: the level z at which the time to bring every goal to z fills what is free, found by halving.
    pub(super) fn lengths(&self, locked: &[Run], free: &[usize], least: usize) -> Vec<usize> {
        let n = self.rig.len();
        let total = free.len();
        let mut done = self.done2.clone();
        locked.iter().for_each(|r| done[r.exposure] += self.gained(r.exposure, r.from, r.to));
        let mean = |x: usize| free.iter().map(|&s| self.rates[x][s]).sum::<f64>() / total.max(1) as f64;
        let rates: Vec<f64> = (0..n).map(|x| if self.goal2[x].is_finite() { mean(x) } else { 0.0 }).collect();
        // A night too short for all serves those that lag most.
        let mut served: Vec<usize> = (0..n).filter(|&x| rates[x] > 0.0).collect();
        served.sort_by(|&a, &b| (done[a] / self.goal2[a]).total_cmp(&(done[b] / self.goal2[b])));
        served.truncate((total / least).max(1));
        let want = |z: f64| -> Vec<f64> {
            (0..n).map(|x| if served.contains(&x) { ((z * self.goal2[x] - done[x]) / rates[x]).max(0.0) } else { 0.0 }).collect()
        };
        let (mut lo, mut hi) = (0.0, 1e6);
        for _ in 0..80 {
            let mid: f64 = (lo + hi) / 2.0;
            if want(mid).iter().sum::<f64>() < total as f64 { lo = mid } else { hi = mid }
        }
        let mut out: Vec<usize> = want(hi).iter().map(|w| w.round() as usize).collect();
        // Whole blocks: what is shorter than the least is raised to it, at the cost of the longest.
        for slots in out.iter_mut().filter(|s| **s > 0 && **s < least) {
            *slots = least.min(total);
        }
        let longest = |out: &[usize]| (0..n).max_by_key(|&x| out[x]);
        while out.iter().sum::<usize>() > total {
            let Some(x) = longest(&out) else { break };
            out[x] -= 1;
        }
        while out.iter().sum::<usize>() < total {
            let Some(x) = longest(&out).filter(|&x| out[x] > 0) else { break };
            out[x] += 1;
        }
        out
    }

    /// Orders of filters that are tried: all of up to six, else one by where in the night each one's light lies.
    pub(super) fn orders(&self, used: &[usize], free: &[usize]) -> Vec<Vec<usize>> {
        if used.len() > 6 {
            let middle = |x: usize| {
                let sum: f64 = free.iter().map(|&s| self.rates[x][s]).sum();
                free.iter().map(|&s| self.rates[x][s] * s as f64).sum::<f64>() / sum.max(1e-300)
            };
            let mut order = used.to_vec();
            order.sort_by(|&a, &b| middle(a).total_cmp(&middle(b)));
            return vec![order];
        }
        let mut all: Vec<Vec<usize>> = vec![Vec::new()];
        for &x in used {
            all = all
                .into_iter()
                .flat_map(|o| {
                    (0..=o.len()).map(move |i| {
                        let mut next = o.clone();
                        next.insert(i, x);
                        next
                    })
                })
                .collect();
        }
        all
    }

    /// Exchanges and moved borders, as long as one betters the plan: at the end no single one does.
    pub(super) fn polish(&self, mut runs: Vec<Run>, least: usize) -> Vec<Run> {
        for _ in 0..200 {
            let now = self.worth(&runs);
            let mut found: Option<(f64, Vec<Run>)> = None;
            let mut try_it = |candidate: Vec<Run>| {
                let worth = self.worth(&candidate);
                if worth > now * (1.0 + 1e-9) + 1e-15 && found.as_ref().is_none_or(|f| worth > f.0) {
                    found = Some((worth, candidate));
                }
            };
            for i in 0..runs.len() {
                for j in i + 1..runs.len() {
                    if !runs[i].locked && !runs[j].locked && runs[i].exposure != runs[j].exposure {
                        let mut c = runs.clone();
                        (c[i].exposure, c[j].exposure) = (c[j].exposure, c[i].exposure);
                        try_it(c);
                    }
                }
                if i + 1 < runs.len() && runs[i].to == runs[i + 1].from && !runs[i].locked && !runs[i + 1].locked {
                    for by in [-1i64, 1] {
                        let at = (runs[i].to as i64 + by) as usize;
                        if at - runs[i].from >= least && runs[i + 1].to - at >= least {
                            let mut c = runs.clone();
                            (c[i].to, c[i + 1].from) = (at, at);
                            try_it(c);
                        }
                    }
                }
            }
            match found {
                Some((_, better)) => runs = better,
                None => break,
            }
        }
        runs
    }

    /// Runs as blocks should stand: neighbours of one filter are one, and what is shorter than the least block goes to the neighbour
    /// whose goal it serves best; where it has none, it stays free. Locked runs stay as they are.
    pub(super) fn tidied(&self, runs: Vec<Run>, least: usize) -> Vec<Run> {
        let mut runs = merged(runs);
        while let Some(i) = runs.iter().position(|r| !r.locked && r.to - r.from < least) {
            let short = runs.remove(i);
            let before = i.checked_sub(1).filter(|&k| runs[k].to == short.from && !runs[k].locked);
            let after = (i < runs.len() && runs[i].from == short.to && !runs[i].locked).then_some(i);
            let with = |k: usize| {
                let mut c = runs.clone();
                (c[k].from, c[k].to) = (c[k].from.min(short.from), c[k].to.max(short.to));
                c
            };
            let candidates = before.into_iter().chain(after).map(with);
            if let Some(best) = candidates.max_by(|a, b| self.worth(a).total_cmp(&self.worth(b))) {
                runs = best;
            }
            runs = merged(runs);
        }
        runs
    }

    /// The locked blocks on the slots, cut to what is usable; what is cut is said.
    pub(super) fn locked(&self) -> (Vec<Run>, Vec<String>) {
        let mut notes = Vec::new();
        let mut out: Vec<Run> = Vec::new();
        let mut wanted = self.spec.locked.clone();
        wanted.sort_by(|a, b| a.from_s.total_cmp(&b.from_s));
        for l in &wanted {
            let slot = |t: f64| ((t - self.from_s) / SLOT_S).round().clamp(0.0, self.slots() as f64) as usize;
            let (mut from, mut to) = (slot(l.from_s), slot(l.to_s));
            let asked = (from, to);
            while from < to && (!self.usable(from) || out.iter().any(|o| o.from <= from && from < o.to)) {
                from += 1;
            }
            let mut end = from;
            while end < to && self.usable(end) && !out.iter().any(|o| o.from <= end && end < o.to) {
                end += 1;
            }
            to = end;
            if from >= to {
                notes.push(format!("The locked block of {} lies in daylight or below the limit: it is left out.", self.names[l.exposure]));
                continue;
            }
            if (from, to) != asked {
                notes.push(format!("The locked block of {} is cut to what is dark and high enough.", self.names[l.exposure]));
            }
            out.push(Run { exposure: l.exposure, from, to, locked: true });
        }
        (out, notes)
    }

    /// A fixed list, one block after another through the free gaps. What is locked is part of the list: it is not asked for again.
    pub(super) fn in_order(&self, blocks: &[FixedBlock], locked: &[Run], notes: &mut Vec<String>) -> Vec<Run> {
        let mut runs = locked.to_vec();
        let mut laid = vec![0; self.rig.len()];
        locked.iter().for_each(|r| laid[r.exposure] += r.to - r.from);
        let gaps = self.gaps(locked);
        let (mut gap, mut at) = (0, gaps.first().map_or(0, |g| g.0));
        for b in blocks {
            let asked = (b.minutes * 60.0 / SLOT_S).round().max(1.0) as usize;
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
                notes.push(format!("{} of {} do not fit before dawn or the limit.", clock(missing), self.names[b.exposure]));
            }
        }
        runs.sort_by_key(|r| r.from);
        runs
    }
}
