//! The search for a plan: which lengths and which order of blocks serve the goals best.

use crate::light::lines::Quantity;
use crate::night::plan::planner::{Planner, Run, merged};
use crate::night::plan::slots::PER_SLOT;
use crate::night::plan::spec::PlanGoal;

/// Orders of blocks that are polished.
const POLISHED: usize = 24;

impl Planner<'_> {
    /// The balanced plan: how long each filter must run for the least-served goal to be as well
    /// served as can be, laid out in every order (or, with many filters, in that of their taste for
    /// the night's first half), and polished.
    pub(super) fn balance(&self, locked: &[Run]) -> Vec<Run> {
        let least = self.least_slots();
        let gaps = self.gaps(locked);
        let n = self.rig.len();
        if let PlanGoal::Most { quantity } = self.spec.goal {
            let weights: Vec<f64> = (0..n)
                .map(|i| f64::from(u8::from(self.rig.purpose(i) == Some(quantity))))
                .collect();
            let mut runs = locked.to_vec();
            gaps.iter().for_each(|g| runs.extend(self.fill(*g, &weights, least)));
            runs.sort_by_key(|r| r.from);
            return runs;
        }
        let free: Vec<usize> = gaps.iter().flat_map(|g| g.0..g.1).collect();
        let lengths = self.lengths(locked, &free, least);
        let used: Vec<usize> = (0..n).filter(|&x| lengths[x] > 0).collect();
        let mut tried: Vec<(f64, Vec<Run>)> = Vec::new();
        for order in self.wanted_orders(self.orders(&used, &free), &lengths, &free) {
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
        // An order shows its worth only once its borders have moved: the most promising are
        // polished before they are judged.
        tried.sort_by(|a, b| b.0.total_cmp(&a.0));
        tried.truncate(POLISHED);
        let polished = tried
            .into_iter()
            .map(|(_, runs)| self.polish(runs, least))
            .map(|runs| (self.worth(&runs), runs));
        let mut best: (f64, Vec<Run>) = (f64::NEG_INFINITY, locked.to_vec());
        for (worth, runs) in polished {
            if worth > best.0 * (1.0 + 1e-9) || best.0.is_infinite() {
                best = (worth, runs);
            }
        }
        best.1
    }

    /// Slots for each filter: the level z at which the time to bring every goal to z fills what is
    /// free, found by halving.
    pub(super) fn lengths(&self, locked: &[Run], free: &[usize], least: usize) -> Vec<usize> {
        let n = self.rig.len();
        let total = free.len();
        let mut done = self.had2.clone();
        locked.iter().for_each(|r| done[r.exposure] += self.gained(r.exposure, r.from, r.to));
        let mean =
            |x: usize| free.iter().map(|&s| self.rates[x][s]).sum::<f64>() / total.max(1) as f64;
        let rates: Vec<f64> =
            (0..n).map(|x| if self.aim2[x].is_finite() { mean(x) } else { 0.0 }).collect();
        // A night too short for all serves those that lag most.
        let mut served: Vec<usize> = (0..n).filter(|&x| rates[x] > 0.0).collect();
        served.sort_by(|&a, &b| (done[a] / self.aim2[a]).total_cmp(&(done[b] / self.aim2[b])));
        served.truncate((total / least).max(1));
        let want = |z: f64| -> Vec<f64> {
            (0..n)
                .map(|x| {
                    if served.contains(&x) {
                        ((z * self.aim2[x] - done[x]) / rates[x]).max(0.0)
                    } else {
                        0.0
                    }
                })
                .collect()
        };
        let (mut lo, mut hi) = (0.0, 1e6);
        for _ in 0..80 {
            let mid: f64 = (lo + hi) / 2.0;
            if want(mid).iter().sum::<f64>() < total as f64 { lo = mid } else { hi = mid }
        }
        let mut out: Vec<usize> = want(hi).iter().map(|w| w.round() as usize).collect();
        // The framing is seen in H-alpha, however far that has come.
        if self.spec.goal == PlanGoal::HaFirst
            && let Some(x) = (0..n).find(|&x| rates[x] > 0.0 && self.shows_framing(x))
        {
            out[x] = out[x].max(least.min(total));
        }
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

    /// Orders of filters that are tried: all of up to six, else one by where in the night each
    /// one's light lies.
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

    /// Whether an exposure shows the framing first.
    fn shows_framing(&self, x: usize) -> bool {
        matches!(self.rig.purpose(x), Some(Quantity::Ha | Quantity::HaAlone))
    }

    /// Of the orders those that the user wants: H-alpha first, or the one in which the moon costs
    /// least light, by how much each exposure loses to it.
    fn wanted_orders(
        &self,
        orders: Vec<Vec<usize>>,
        lengths: &[usize],
        free: &[usize],
    ) -> Vec<Vec<usize>> {
        match self.spec.goal {
            PlanGoal::HaFirst => {
                let first = |o: &Vec<usize>| o.first().is_some_and(|&x| self.shows_framing(x));
                let some: Vec<Vec<usize>> = orders.iter().filter(|o| first(o)).cloned().collect();
                if some.is_empty() { orders } else { some }
            }
            PlanGoal::ByMoon => {
                let moonlit = |s: usize| self.view.samples[s * PER_SLOT].moon_deg > 0.0;
                if free.iter().all(|&s| moonlit(s)) || !free.iter().any(|&s| moonlit(s)) {
                    return orders;
                }
                let lost: Vec<f64> =
                    (0..self.rig.len()).map(|x| 1.0 - self.left_by_moon(x)).collect();
                let cost = |o: &Vec<usize>| {
                    let whose = o.iter().flat_map(|&x| std::iter::repeat_n(x, lengths[x]));
                    let under = free.iter().zip(whose).filter(|(s, _)| moonlit(**s));
                    under.map(|(_, x)| lost[x]).sum::<f64>()
                };
                let least = orders.iter().map(cost).fold(f64::INFINITY, f64::min);
                orders.into_iter().filter(|o| cost(o) <= least + 1e-9).collect()
            }
            _ => orders,
        }
    }

    /// Exchanges and moved borders, as long as one betters the plan: at the end no single one does.
    pub(super) fn polish(&self, mut runs: Vec<Run>, least: usize) -> Vec<Run> {
        for _ in 0..200 {
            let now = self.worth(&runs);
            let mut found: Option<(f64, Vec<Run>)> = None;
            let mut try_it = |candidate: Vec<Run>| {
                let worth = self.worth(&candidate);
                if worth > now * (1.0 + 1e-9) + 1e-15 && found.as_ref().is_none_or(|f| worth > f.0)
                {
                    found = Some((worth, candidate));
                }
            };
            let free_order = self.spec.goal == PlanGoal::Balanced;
            for i in 0..runs.len() {
                for j in (i + 1..runs.len()).filter(|_| free_order) {
                    if !runs[i].locked && !runs[j].locked && runs[i].exposure != runs[j].exposure {
                        let mut c = runs.clone();
                        (c[i].exposure, c[j].exposure) = (c[j].exposure, c[i].exposure);
                        try_it(c);
                    }
                }
                if i + 1 < runs.len()
                    && runs[i].to == runs[i + 1].from
                    && !runs[i].locked
                    && !runs[i + 1].locked
                {
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

    /// Runs as blocks should stand: neighbours of one filter are one, and what is shorter than the
    /// least block goes to the neighbour whose goal it serves best; where it has none, it stays
    /// free. Locked runs stay as they are.
    pub(super) fn tidied(&self, runs: Vec<Run>, least: usize) -> Vec<Run> {
        let mut runs = merged(runs);
        while let Some(i) = runs.iter().position(|r| !r.locked && r.to - r.from < least) {
            let short = runs.remove(i);
            let before = i.checked_sub(1).filter(|&k| runs[k].to == short.from && !runs[k].locked);
            let after =
                (i < runs.len() && runs[i].from == short.to && !runs[i].locked).then_some(i);
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
}
