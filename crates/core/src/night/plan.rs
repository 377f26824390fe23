//! The plan of a night: which filter in which block, how many subs, and why it stands there.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::pace::NightRig;
use super::view::{NightView, SLOT_S};
use crate::check::FieldError;
use crate::compare::clock;
use crate::light::Quantity;

/// What the night is planned for.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case", tag = "kind")]
pub enum PlanGoal {
    /// The least-served goal gains most.
    Balanced,
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
    /// Its length, min.
    pub minutes: f64,
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

/// What a night costs besides light.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Overheads {
    /// Start-up before the first sub: polar alignment, cooling, focus, min.
    pub setup_min: f64,
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

impl Default for Overheads {
    fn default() -> Self {
        Self {
            setup_min: 20.0,
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
    /// Overheads.
    pub overheads: Overheads,
    /// Blocks that stay.
    pub locked: Vec<LockedBlock>,
}

impl Default for PlanSpec {
    fn default() -> Self {
        Self { goal: PlanGoal::Balanced, goal_snr: Vec::new(), done_snr2: Vec::new(), overheads: Overheads::default(), locked: Vec::new() }
    }
}

impl PlanSpec {
    /// Checks every field against a rig of `exposures` exposures.
    ///
    /// # Errors
    /// All fields that are wrong, with what is accepted.
    pub fn check(&self, exposures: usize) -> Result<(), Vec<FieldError>> {
        let mut errors = Vec::new();
        let mut within = |path: String, v: f64, lo: f64, hi: f64, unit: &str| {
            if !(lo..=hi).contains(&v) {
                errors.push(FieldError { path: format!("plan.{path}"), message: format!("{v} is not accepted; give {lo} to {hi} {unit}") });
            }
        };
        let o = &self.overheads;
        within("overheads.setup_min".into(), o.setup_min, 0.0, 240.0, "min");
        within("overheads.refocus_s".into(), o.refocus_s, 0.0, 3600.0, "s");
        within("overheads.refocus_every_min".into(), o.refocus_every_min.unwrap_or(60.0), 1.0, 1440.0, "min");
        within("overheads.refocus_every_k".into(), o.refocus_every_k.unwrap_or(1.0), 0.1, 50.0, "K");
        within("overheads.temperature_drop_k".into(), o.temperature_drop_k, 0.0, 50.0, "K");
        within("overheads.dither_every".into(), f64::from(o.dither_every), 1.0, 100.0, "subs");
        within("overheads.settle_s".into(), o.settle_s, 0.0, 600.0, "s");
        within("overheads.flip_s".into(), o.flip_s, 0.0, 3600.0, "s");
        within("overheads.flats_min".into(), o.flats_min, 0.0, 240.0, "min");
        within("overheads.least_block_min".into(), o.least_block_min, 5.0, 600.0, "min");
        for (i, g) in self.goal_snr.iter().enumerate() {
            within(format!("goal_snr[{i}]"), *g, 0.1, 1000.0, "");
        }
        let most = exposures.saturating_sub(1) as f64;
        for (i, l) in self.locked.iter().enumerate() {
            within(format!("locked[{i}].exposure"), l.exposure as f64, 0.0, most, "");
            within(format!("locked[{i}].to_s"), l.to_s - l.from_s, 60.0, 86_400.0, "s after its start");
        }
        if let PlanGoal::Fixed { blocks } = &self.goal {
            for (i, b) in blocks.iter().enumerate() {
                within(format!("goal.blocks[{i}].exposure"), b.exposure as f64, 0.0, most, "");
                within(format!("goal.blocks[{i}].minutes"), b.minutes, 1.0, 1440.0, "min");
            }
        }
        if errors.is_empty() { Ok(()) } else { Err(errors) }
    }
}

/// One block of the plan.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Block {
    /// Index of the exposure.
    pub exposure: usize,
    /// Name of its filter.
    pub filter: String,
    /// Start, seconds since 1970 UTC.
    pub from_s: f64,
    /// End, seconds since 1970 UTC.
    pub to_s: f64,
    /// Whole subs.
    pub subs: u32,
    /// Length of a sub, s.
    pub sub_s: f64,
    /// Refocuses in it.
    pub refocuses: u32,
    /// When the mount flips in it, seconds since 1970 UTC.
    pub flip_s: Option<f64>,
    /// Square of the signal to noise that it adds.
    pub snr2: f64,
    /// It stays where it is.
    pub locked: bool,
    /// Why it stands where it does.
    pub why: String,
}

/// What one exposure gets.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct PlanTotal {
    /// Index of the exposure.
    pub exposure: usize,
    /// Name of its filter.
    pub filter: String,
    /// What it is for.
    pub quantity: Option<Quantity>,
    /// Subs.
    pub subs: u32,
    /// Exposed time, s.
    pub exposed_s: f64,
    /// Signal to noise with what was done before.
    pub snr: f64,
    /// Square of that over the square of its goal; 1 is done.
    pub progress: f64,
}

/// A night's plan.
#[derive(Clone, Debug, Default, PartialEq, Serialize, ToSchema)]
pub struct Plan {
    /// The blocks in order.
    pub blocks: Vec<Block>,
    /// What each exposure gets.
    pub totals: Vec<PlanTotal>,
    /// When to be ready to set up, seconds since 1970 UTC; null for an empty plan, or where another target came before.
    pub setup_from_s: Option<f64>,
    /// When the last sub ends.
    pub last_sub_s: Option<f64>,
    /// When flats are done and the night is over; null for an empty plan, or where another target follows.
    pub finished_s: Option<f64>,
    /// Share of the time between the first and the last sub that is not exposed.
    pub overhead: f64,
    /// What does not fit, and what would make it fit.
    pub notes: Vec<String>,
}

/// Offsets of local time from UTC over a night: from when, and how many seconds.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct LocalClock(pub Vec<(f64, f64)>);

impl LocalClock {
    /// "23:40" of a moment.
    pub fn hm(&self, unix_s: f64) -> String {
        let offset = self.0.iter().rev().find(|(from, _)| *from <= unix_s).or(self.0.first()).map_or(0.0, |o| o.1);
        let minutes = ((unix_s + offset) / 60.0).round() as i64;
        format!("{:02}:{:02}", minutes.div_euclid(60).rem_euclid(24), minutes.rem_euclid(60))
    }
}

/// Orders of blocks that are polished.
const POLISHED: usize = 24;

/// The planner's own picture of a night: rates by slot, and a goal for each exposure.
struct Desk<'a> {
    rig: &'a NightRig,
    names: &'a [String],
    spec: &'a PlanSpec,
    view: &'a NightView,
    clock: &'a LocalClock,
    from_s: f64,
    /// Square of the signal to noise per slot, exposure by exposure.
    rates: Vec<Vec<f64>>,
    goal2: Vec<f64>,
    done2: Vec<f64>,
    /// Overhead of a sub: readout, dither with settling, s.
    between_s: Vec<f64>,
}

/// A run of slots for one exposure.
#[derive(Clone, Copy, Debug, PartialEq)]
struct Run {
    exposure: usize,
    from: usize,
    to: usize,
    locked: bool,
}

impl Desk<'_> {
    fn slots(&self) -> usize {
        self.view.samples.len().saturating_sub(1)
    }

    fn usable(&self, slot: usize) -> bool {
        self.view.samples[slot].usable && self.view.samples[slot + 1].usable
    }

    fn gained(&self, exposure: usize, from: usize, to: usize) -> f64 {
        let lost = if self.spec.overheads.refocus_on_change { self.spec.overheads.refocus_s / SLOT_S } else { 0.0 };
        let rates = &self.rates[exposure];
        (rates[from..to].iter().sum::<f64>() - lost.min((to - from) as f64) * rates[from]).max(0.0)
    }

    /// Progress of each goal with a list of runs: square of signal to noise over that of the goal.
    fn progress(&self, runs: &[Run]) -> Vec<f64> {
        let mut snr2 = self.done2.clone();
        for r in runs {
            snr2[r.exposure] += self.gained(r.exposure, r.from, r.to);
        }
        snr2.iter().zip(&self.goal2).map(|(s, g)| s / g).collect()
    }

    /// How good a list of runs is: the least progress, and a little of all of it.
    fn worth(&self, runs: &[Run]) -> f64 {
        let p = self.progress(runs);
        let counted: Vec<f64> = p.iter().zip(&self.goal2).filter(|(_, g)| g.is_finite()).map(|(p, _)| *p).collect();
        match self.spec.goal {
            PlanGoal::Most { quantity } => (0..p.len()).filter(|&i| self.rig.purpose(i) == Some(quantity)).map(|i| p[i]).sum(),
            _ => counted.iter().copied().fold(f64::INFINITY, f64::min).min(1e9) + 1e-4 * counted.iter().map(|p| p.min(1.0)).sum::<f64>(),
        }
    }

    /// Free gaps of usable slots between what is locked.
    fn gaps(&self, locked: &[Run]) -> Vec<(usize, usize)> {
        let taken = |s: usize| locked.iter().any(|l| l.from <= s && s < l.to);
        let mut out = Vec::new();
        let mut start = None;
        for s in 0..=self.slots() {
            let free = s < self.slots() && self.usable(s) && !taken(s);
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
    fn fill(&self, (from, to): (usize, usize), weights: &[f64], least: usize) -> Vec<Run> {
        let n = to - from;
        let least = least.min(n);
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
    fn balance(&self, locked: &[Run]) -> Vec<Run> {
        let least = (self.spec.overheads.least_block_min * 60.0 / SLOT_S).ceil().max(1.0) as usize;
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
    fn lengths(&self, locked: &[Run], free: &[usize], least: usize) -> Vec<usize> {
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
    fn orders(&self, used: &[usize], free: &[usize]) -> Vec<Vec<usize>> {
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
    fn polish(&self, mut runs: Vec<Run>, least: usize) -> Vec<Run> {
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
}

/// Plans a night.
pub fn plan_night(rig: &NightRig, names: &[String], goal_snr: f64, view: &NightView, spec: &PlanSpec, local: &LocalClock) -> Plan {
    let n = rig.len();
    let from_s = view.samples.first().map_or(0.0, |s| s.at_s);
    let o = &spec.overheads;
    let settle = o.settle_s / f64::from(o.dither_every);
    let between_s: Vec<f64> = vec![rig.between_s.max(1.0) + settle; n];
    // The rates are per second of the scenario's clock: here a sub costs its settling, too.
    let slowed = |x: usize| (rig.sub_s(x) + rig.between_s) / (rig.sub_s(x) + between_s[x]);
    let focus = 1.0 - (o.refocus_s / 60.0 / o.refocus_every_min.unwrap_or(f64::INFINITY)).min(0.5);
    let rates: Vec<Vec<f64>> = (0..n)
        .map(|x| {
            view.samples
                .windows(2)
                .map(|w| {
                    let mean = (w[0].information_per_h[x] + w[1].information_per_h[x]) / 2.0;
                    if w[0].usable && w[1].usable { mean / 3600.0 * SLOT_S * slowed(x) * focus } else { 0.0 }
                })
                .collect()
        })
        .collect();
    let goal2 = (0..n)
        .map(|x| if rig.purpose(x).is_some() { spec.goal_snr.get(x).copied().unwrap_or(goal_snr).powi(2) } else { f64::INFINITY })
        .collect();
    let done2 = (0..n).map(|x| spec.done_snr2.get(x).copied().unwrap_or(0.0)).collect();
    let desk = Desk { rig, names, spec, view, clock: local, from_s, rates, goal2, done2, between_s };
    let (locked, mut notes) = desk.locked();
    let runs = match &spec.goal {
        PlanGoal::Fixed { blocks } => desk.in_order(blocks, &locked, &mut notes),
        _ => desk.balance(&locked),
    };
    desk.written(&runs, notes)
}

/// Plans a second target for when the first has sunk. Moving to it and recentring take as long as a meridian flip; the night is set
/// up once, before the first block, and its flats are taken once, after the last.
pub fn plan_second(
    first: &mut Plan,
    rig: &NightRig,
    names: &[String],
    goal_snr: f64,
    view: &mut NightView,
    spec: &PlanSpec,
    local: &LocalClock,
) -> Plan {
    if let Some(last) = first.last_sub_s {
        let free_s = last + spec.overheads.flip_s;
        for s in view.samples.iter_mut().filter(|s| s.at_s < free_s) {
            s.usable = false;
            s.information_per_h.iter_mut().for_each(|r| *r = 0.0);
        }
    }
    let mut second = plan_night(rig, names, goal_snr, view, spec, local);
    if !first.blocks.is_empty() && !second.blocks.is_empty() {
        first.finished_s = None;
        second.setup_from_s = None;
    }
    second
}

impl Desk<'_> {
    /// The locked blocks on the slots, cut to what is usable; what is cut is said.
    fn locked(&self) -> (Vec<Run>, Vec<String>) {
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

    /// A fixed list, one block after another through the free gaps.
    fn in_order(&self, blocks: &[FixedBlock], locked: &[Run], notes: &mut Vec<String>) -> Vec<Run> {
        let mut runs = locked.to_vec();
        let gaps = self.gaps(locked);
        let (mut gap, mut at) = (0, gaps.first().map_or(0, |g| g.0));
        for b in blocks {
            let mut left = (b.minutes * 60.0 / SLOT_S).round().max(1.0) as usize;
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

    fn time(&self, slot: usize) -> f64 {
        self.from_s + slot as f64 * SLOT_S
    }

    /// Runs as blocks with subs, refocuses and reasons; totals, times and notes.
    fn written(&self, runs: &[Run], mut notes: Vec<String>) -> Plan {
        let o = &self.spec.overheads;
        let n = self.rig.len();
        let dark_s = self.view.events.dark_h * 3600.0;
        let every_k = o.refocus_every_k.filter(|_| o.temperature_drop_k > 0.0).map(|k| dark_s * k / o.temperature_drop_k);
        let every_s = o.refocus_every_min.map(|m| m * 60.0).into_iter().chain(every_k).fold(f64::INFINITY, f64::min);
        let mut blocks = Vec::new();
        let mut previous: Option<usize> = None;
        for r in runs {
            let (from_s, to_s) = (self.time(r.from), self.time(r.to));
            let length = to_s - from_s;
            let change = previous != Some(r.exposure);
            let refocuses = f64::from(u8::from(change && o.refocus_on_change)) + ((length - 1.0) / every_s).floor().max(0.0);
            let flip_s = self.view.events.transit_s.filter(|t| (from_s..to_s).contains(t));
            let spent = refocuses * o.refocus_s + flip_s.map_or(0.0, |_| o.flip_s);
            let sub = self.rig.sub_s(r.exposure);
            let subs = ((length - spent) / (sub + self.between_s[r.exposure])).floor().max(0.0);
            // What the slots give, for the subs that fit.
            let rate = self.rates[r.exposure][r.from..r.to].iter().sum::<f64>() / length;
            let focus = 1.0 - (o.refocus_s / 60.0 / o.refocus_every_min.unwrap_or(f64::INFINITY)).min(0.5);
            let snr2 = rate / focus * subs * (sub + self.between_s[r.exposure]);
            blocks.push(Block {
                exposure: r.exposure,
                filter: self.names[r.exposure].clone(),
                from_s,
                to_s,
                subs: subs as u32,
                sub_s: sub,
                refocuses: refocuses as u32,
                flip_s,
                snr2,
                locked: r.locked,
                why: self.why(r),
            });
            previous = Some(r.exposure);
        }
        let totals: Vec<PlanTotal> = (0..n)
            .map(|x| {
                let own = || blocks.iter().filter(move |b: &&Block| b.exposure == x);
                let subs = own().map(|b| b.subs).sum::<u32>();
                let snr2 = self.done2[x] + own().map(|b| b.snr2).sum::<f64>();
                PlanTotal {
                    exposure: x,
                    filter: self.names[x].clone(),
                    quantity: self.rig.purpose(x),
                    subs,
                    exposed_s: f64::from(subs) * self.rig.sub_s(x),
                    snr: snr2.sqrt(),
                    progress: if self.goal2[x].is_finite() { snr2 / self.goal2[x] } else { 0.0 },
                }
            })
            .collect();
        self.remarks(&blocks, &totals, &mut notes);
        let (first, last) = (blocks.first().map(|b| b.from_s), blocks.last().map(|b| b.to_s));
        let exposed: f64 = totals.iter().map(|t| t.exposed_s).sum();
        let span: f64 = blocks.iter().map(|b| b.to_s - b.from_s).sum();
        Plan {
            setup_from_s: first.map(|t| t - o.setup_min * 60.0),
            last_sub_s: last,
            finished_s: last.map(|t| t + o.flats_min * 60.0),
            overhead: if span > 0.0 { 1.0 - exposed / span } else { 0.0 },
            blocks,
            totals,
            notes,
        }
    }

    fn remarks(&self, blocks: &[Block], totals: &[PlanTotal], notes: &mut Vec<String>) {
        let ev = &self.view.events;
        if ev.dark_h <= 0.0 {
            notes.push("It does not get dark enough tonight: allow a brighter twilight, or wait for longer nights.".into());
        } else if ev.usable_h <= 0.0 {
            notes.push("The target does not rise above its limit while it is dark: lower the limit, or choose another night.".into());
        }
        if blocks.is_empty() {
            return;
        }
        let hours = ev.usable_h;
        for t in totals.iter().filter(|t| t.quantity.is_some()) {
            if t.subs == 0 && matches!(self.spec.goal, PlanGoal::Balanced) && t.progress < 1.0 {
                notes.push(format!(
                    "{} gets no block: the night has no {:.0} minutes to spare for it. A shorter least block would let it in.",
                    t.filter, self.spec.overheads.least_block_min
                ));
            } else if t.progress < 1.0 && t.subs > 0 {
                let tonight = t.progress * self.goal2[t.exposure] - self.done2[t.exposure];
                let nights = ((1.0 - t.progress) * self.goal2[t.exposure] / tonight.max(1e-12)).ceil();
                if nights < 1000.0 {
                    let s = if nights > 1.0 { "s" } else { "" };
                    notes.push(format!(
                        "{} is at {:.0} % of its goal after tonight: {nights:.0} more night{s} like this ({hours:.1} h) would do.",
                        t.filter,
                        t.progress * 100.0
                    ));
                }
            }
        }
    }

    /// Why a run stands where it does: the moon, the meridian, the limit, or what lags.
    fn why(&self, r: &Run) -> String {
        if r.locked {
            return "Locked by you.".into();
        }
        let label = self.rig.purpose(r.exposure).map_or("it", Quantity::label);
        let ev = &self.view.events;
        let (from, to) = (self.time(r.from), self.time(r.to));
        let samples = &self.view.samples[r.from..=r.to];
        let up = samples.iter().filter(|s| s.moon_deg > 0.0).count();
        let down_all = up == 0;
        let night_has_moon = self.view.samples.iter().any(|s| s.usable && s.moon_deg > 0.0);
        if down_all && night_has_moon {
            let in_the_dark = |t: &f64| ev.dusk_s.is_none_or(|d| *t > d) && ev.dawn_s.is_none_or(|d| *t < d);
            if let Some(rise) = ev.moonrise_s.filter(|t| *t >= to - SLOT_S).filter(in_the_dark) {
                return format!("{label} while the moon is down, before it rises at {}.", self.clock.hm(rise));
            }
            if let Some(set) = ev.moonset_s.filter(|t| *t <= from + SLOT_S).filter(in_the_dark) {
                return format!("{label} after the moon set at {}.", self.clock.hm(set));
            }
        }
        if let Some(rise) = ev.moonrise_s.filter(|t| *t > from && *t < to) {
            // What is left of each exposure's rate once the moon is up, against the slots before.
            let left = |x: usize| {
                let mean = |up: bool| {
                    let own = self.view.samples.iter().zip(&self.rates[x]).filter(|(s, r)| **r > 0.0 && (s.moon_deg > 0.0) == up);
                    let (sum, n) = own.fold((0.0, 0.0), |(sum, n), (_, r)| (sum + r, n + 1.0));
                    if n > 0.0 { sum / n } else { 0.0 }
                };
                mean(true) / mean(false).max(1e-300)
            };
            let hurt_most = (0..self.rig.len()).all(|x| left(x) >= left(r.exposure));
            if samples.first().is_some_and(|s| s.moon_deg <= 0.0) && self.rig.len() > 1 && hurt_most {
                return format!("{label} first: the moon rises at {} and costs it most.", self.clock.hm(rise));
            }
        }
        // How much of its own best rate it has here, against the others.
        let share = |x: usize| {
            let own = &self.rates[x];
            let best = own.iter().copied().fold(0.0, f64::max);
            if best > 0.0 { own[r.from..r.to].iter().sum::<f64>() / (r.to - r.from) as f64 / best } else { 0.0 }
        };
        let mine = share(r.exposure);
        let least_hurt = (0..self.rig.len()).filter(|x| *x != r.exposure).all(|x| share(x) <= mine + 1e-9);
        if up * 2 > samples.len() && least_hurt && self.rig.len() > 1 {
            return format!("{label} under the moon, which costs it least.");
        }
        if let Some(t) = ev.transit_s.filter(|t| (from..to).contains(t)) {
            return format!("{label} around the meridian at {}, where the target is highest.", self.clock.hm(t));
        }
        if let Some(t) = ev.target_down_s.filter(|t| (*t - to).abs() < 2.0 * SLOT_S) {
            return format!("{label} until the target sinks below its limit at {}.", self.clock.hm(t));
        }
        if let Some(t) = ev.dawn_s.filter(|t| (*t - to).abs() < 2.0 * SLOT_S) {
            return format!("{label} until dawn at {}.", self.clock.hm(t));
        }
        format!("{label} here, so that every goal gains alike.")
    }
}
