//! Tonight against the nights to come: how much of this night each filter should have, if the
//! campaign is to be finished in as few nights as can be.
//!
//! An hour of [O III] beside the moon is worth a tenth of one in the dark: where a dark week follows
//! it waits, and H-alpha, which the moon hardly hurts, has the night. Where no dark week follows, or
//! nothing else is left to do, it does not wait. Which of the two holds is a question to all nights
//! ahead at once: a linear program whose unknowns are the hours of each filter in each night, dark
//! and moonlit apart. The nights ahead count by the share of them that is clear.

use microlp::{ComparisonOp, OptimizationDirection, Problem, Variable};

use crate::campaign::document::{Campaign, CampaignGoal};
use crate::night::calendar::MonthNight;
use crate::night::rate::NightRig;
use crate::wording::two_figures;

/// What one goal still wants, and what serves it.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Need {
    /// Index of the exposure.
    pub exposure: usize,
    /// Which of the lines that somebody wants of the exposure: see [`NightRig::lines`].
    pub line: usize,
    /// Square of the signal to noise that it has.
    pub done_snr2: f64,
    /// Square of the signal to noise that it must reach.
    pub goal_snr2: f64,
}

/// Below this share of a night an exposure is not begun: it would be less than a block.
const LEAST_SHARE: f64 = 0.05;

impl Campaign {
    /// What its goals want, as far as they are not reached.
    pub fn needs(&self, rig: &NightRig) -> Vec<Need> {
        let need = |g: &CampaignGoal| {
            let purpose = rig.purpose(g.exposure)?;
            let wanted = g.quantity.unwrap_or(purpose);
            let line = rig.lines(g.exposure).iter().position(|q| *q == wanted)?;
            let done_snr2 = self.done_snr2(g, Some(purpose));
            let goal_snr2 = g.snr * g.snr;
            let need = Need { exposure: g.exposure, line, done_snr2, goal_snr2 };
            (done_snr2 < goal_snr2).then_some(need)
        };
        self.goals.iter().filter_map(need).collect()
    }
}

/// An evening of a campaign, weighed.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct EveningWeighed {
    /// See [`weighed`].
    pub aims_snr2: Vec<f64>,
    /// What waits for better nights, a sentence each.
    pub waits: Vec<String>,
}

/// Weighs an evening of a campaign against the nights to come: `nights` are the evening's and those,
/// `dates` their evenings as people say them, `filters` the names of the exposures. What the evening
/// itself has brought does not count for it.
///
/// `None` where nothing is wanted, or nothing can be gathered.
pub fn evening_weighed(
    campaign: &Campaign,
    evening: &str,
    (rig, filters): (&NightRig, &[String]),
    (nights, dates): (&[MonthNight], &[String]),
) -> Option<EveningWeighed> {
    let mut before = campaign.clone();
    before.nights.retain(|n| n.date != evening);
    let needs = before.needs(rig);
    let aims_snr2 = weighed(&needs, nights, campaign.clear_share)?;
    let waiting = (0..aims_snr2.len())
        .filter(|&x| aims_snr2[x] <= 0.0 && needs.iter().any(|n| n.exposure == x));
    let waits = waiting.filter_map(|x| waits_for(x, filters.get(x)?, nights, dates)).collect();
    Some(EveningWeighed { aims_snr2, waits })
}

/// Weighs tonight, the first of `nights`, against the others, of which a share (0-1) is clear: the
/// square of the signal to noise that tonight should add to each exposure in what it is for, zero
/// for one that waits.
///
/// `None` where nothing is wanted, or nothing can be gathered.
pub fn weighed(needs: &[Need], nights: &[MonthNight], clear_share: f64) -> Option<Vec<f64>> {
    // A goal that none of the nights serves would hold up all the others.
    let gathered = |n: &&Need| {
        let parts = nights.iter().flat_map(|night| &night.parts);
        parts.map(|p| p.of_line(n.exposure, n.line)).any(|r| r > 0.0)
    };
    let needs: Vec<Need> = needs.iter().filter(gathered).copied().collect();
    let needs = &needs[..];
    let exposures = needs.iter().map(|n| n.exposure + 1).max()?;
    let mut nights = nights.to_vec();
    leave_to_better_nights(needs, &mut nights);
    let nights = &nights[..];
    let reached = |n: usize| Program::new(needs, &nights[..n], clear_share, None).solved();
    let all = reached(nights.len())?;
    // The fewest nights in which every goal is reached, found by halving: more nights are never
    // worse.
    let enough = |s: &Solved| s.level >= 1.0 - 1e-9;
    let (best, span) = if enough(&all) {
        let (mut low, mut high, mut best) = (0, nights.len(), all);
        while high - low > 1 {
            let middle = usize::midpoint(low, high);
            match reached(middle).filter(enough) {
                Some(s) => (high, best) = (middle, s),
                None => low = middle,
            }
        }
        (best, high)
    } else {
        (all, nights.len())
    };
    // Which filter comes tonight and which on a night as good is all one to the program, but not to
    // the weather: of the ways that lose little of what tonight is worth, the one that brings all
    // goals on alike.
    let mut seen = nights[..span].to_vec();
    let tonight = std::mem::take(&mut seen[0]);
    let without = Program::new(needs, &seen, clear_share, None).solved()?.level;
    seen[0] = tonight;
    let held = best.level - MAY_LOSE * (best.level - without).max(0.0);
    // What it gave nothing, and what has far better hours ahead, stays out tonight.
    for (k, part) in seen[0].parts.iter_mut().enumerate() {
        for (x, per_h) in part.per_h.iter_mut().enumerate() {
            let given = best.tonight.iter().any(|t| (t.0, t.1) == (x, k) && t.2 > 0.0);
            let ahead = nights[1..].iter().flat_map(|n| &n.parts).map(|p| p.own_per_h(x));
            let now = per_h.first().copied().unwrap_or(0.0);
            if !given && now < NEARLY * ahead.fold(0.0, f64::max) {
                per_h.fill(0.0);
            }
        }
    }
    let best = Program::new(needs, &seen, clear_share, Some(held)).solved()?;
    let usable_h: f64 = nights[0].parts.iter().map(|p| p.hours).sum();
    let mut aims_snr2: Vec<f64> = (0..exposures)
        .map(|x| {
            let hours: f64 = best.tonight.iter().filter(|t| t.0 == x).map(|t| t.2).sum();
            let gained = |t: &(usize, usize, f64)| t.2 * nights[0].parts[t.1].own_per_h(x);
            if hours < LEAST_SHARE * usable_h {
                0.0
            } else {
                best.tonight.iter().filter(|t| t.0 == x).map(gained).sum()
            }
        })
        .collect();
    if aims_snr2.iter().all(|a| *a <= 0.0) {
        // All of it can wait: the night is for what keeps most of its light.
        let whole = |n: &MonthNight, x: usize| {
            n.parts.iter().map(|p| p.hours * p.own_per_h(x)).sum::<f64>()
        };
        let kept = |x: usize| {
            let most = nights.iter().map(|n| whole(n, x)).fold(0.0, f64::max);
            if most > 0.0 { whole(&nights[0], x) / most } else { 0.0 }
        };
        let wanted = needs.iter().map(|n| n.exposure);
        let x = wanted.max_by(|a, b| kept(*a).total_cmp(&kept(*b)))?;
        aims_snr2[x] = whole(&nights[0], x);
    }
    Some(aims_snr2)
}

/// An hour that brings this share of what the best ahead does is nearly as good.
const NEARLY: f64 = 0.8;

/// Share of what tonight is worth that may be lost for goals that come on alike.
const MAY_LOSE: f64 = 0.1;

/// An hour of a filter that brings less than this share of what its best hour ahead does is left to
/// nights like that one, where another filter loses less tonight.
const SLOW: f64 = 0.5;

/// How much better than another a filter must keep its light tonight to have the hour.
const CLEARLY: f64 = 1.3;

/// What is left to do of less than this is no work for a night, h.
const AN_HOUR_H: f64 = 1.0;

/// Takes out of tonight what has far better hours ahead, where something else that is wanted keeps
/// clearly more of its light and has an hour or more to do: nobody shoots [O III] beside the moon
/// that could shoot H-alpha. The program alone would, where H-alpha is nearly done and may come on
/// any other night.
fn leave_to_better_nights(needs: &[Need], nights: &mut [MonthNight]) {
    let mut best = vec![0.0f64; needs.iter().map(|n| n.exposure + 1).max().unwrap_or(0)];
    for part in nights.iter().skip(1).flat_map(|n| &n.parts) {
        best.iter_mut().enumerate().for_each(|(x, b)| *b = b.max(part.own_per_h(x)));
    }
    for part in &mut nights[0].parts {
        let kept = |x: usize| if best[x] > 0.0 { part.own_per_h(x) / best[x] } else { 1.0 };
        let busy = |n: &Need| {
            let per_h = part.of_line(n.exposure, n.line);
            n.goal_snr2 - n.done_snr2 > AN_HOUR_H * per_h
        };
        let most = needs.iter().filter(|n| busy(n)).map(|n| kept(n.exposure)).fold(0.0, f64::max);
        let left: Vec<usize> = needs
            .iter()
            .map(|n| n.exposure)
            .filter(|&x| kept(x) < SLOW && most > CLEARLY * kept(x))
            .collect();
        for x in left {
            part.per_h[x].fill(0.0);
        }
    }
}

/// The level that the least-served goal reaches, and tonight's hours: exposure, part, hours.
struct Solved {
    level: f64,
    tonight: Vec<(usize, usize, f64)>,
}

/// All nights as a linear program: the least-served goal is brought as far as it can be, twice its
/// measure at most, so that no hour lies idle. With a level to be held, what is brought as far as can
/// be is the least-served goal of this very night.
struct Program {
    problem: Problem,
    level: Variable,
    tonight: Vec<(usize, usize, Variable)>,
}

impl Program {
    fn new(needs: &[Need], nights: &[MonthNight], clear_share: f64, held: Option<f64>) -> Self {
        let mut problem = Problem::new(OptimizationDirection::Maximize);
        let weight = if held.is_some() { 0.01 } else { 1.0 };
        let level = problem.add_var(weight, (held.unwrap_or(0.0), 2.0));
        let even = problem.add_var(1.0 - weight, (0.0, 2.0));
        let mut serves: Vec<Vec<(Variable, f64)>> = vec![Vec::new(); needs.len()];
        let mut after_tonight: Vec<Vec<(Variable, f64)>> = Vec::new();
        let mut tonight = Vec::new();
        let mut used: Vec<usize> = needs.iter().map(|n| n.exposure).collect();
        used.sort_unstable();
        used.dedup();
        for (i, night) in nights.iter().enumerate() {
            for (k, part) in night.parts.iter().enumerate() {
                let hours = part.hours * if i == 0 { 1.0 } else { clear_share };
                let each: Vec<(usize, Variable)> =
                    used.iter().map(|&x| (x, problem.add_var(0.0, (0.0, hours)))).collect();
                for (n, s) in needs.iter().zip(&mut serves) {
                    let var = each.iter().find(|(x, _)| *x == n.exposure);
                    let per_h = part.of_line(n.exposure, n.line);
                    // In shares of the goal: numbers near one.
                    s.extend(var.map(|v| (v.1, per_h / n.goal_snr2)));
                }
                let sum: Vec<(Variable, f64)> = each.iter().map(|(_, v)| (*v, 1.0)).collect();
                problem.add_constraint(sum, ComparisonOp::Le, hours);
                if i == 0 {
                    tonight.extend(each.into_iter().map(|(x, v)| (x, k, v)));
                }
            }
            if i == 0 {
                after_tonight.clone_from(&serves);
            }
        }
        for (of, least) in [(serves, level), (after_tonight, even)] {
            for (n, mut s) in needs.iter().zip(of) {
                s.push((least, -1.0));
                problem.add_constraint(s, ComparisonOp::Ge, -n.done_snr2 / n.goal_snr2);
            }
        }
        Self { problem, level, tonight }
    }

    fn solved(self) -> Option<Solved> {
        let solution = self.problem.solve().ok()?.into_solution().ok()?;
        let tonight = self.tonight.iter().map(|&(x, k, v)| (x, k, solution[v].max(0.0))).collect();
        Some(Solved { level: solution[self.level], tonight })
    }
}

/// Why an exposure has none of tonight, in a sentence; `None` where it does not wait for a better
/// night. `nights` are tonight and those ahead, `dates` their evenings as people say them.
pub fn waits_for(
    exposure: usize,
    filter: &str,
    nights: &[MonthNight],
    dates: &[String],
) -> Option<String> {
    let per_h = |n: &MonthNight| {
        let hours: f64 = n.parts.iter().map(|p| p.hours).sum();
        let light: f64 = n.parts.iter().map(|p| p.hours * p.own_per_h(exposure)).sum();
        if hours >= 1.0 { light / hours } else { 0.0 }
    };
    let now = per_h(nights.first()?);
    // The first night that is nearly as good as the best: nobody waits longer for a little.
    let best = nights[1..].iter().map(per_h).fold(0.0, f64::max);
    let next = (1..nights.len()).find(|&i| per_h(&nights[i]) >= 0.8 * best)?;
    let times = per_h(&nights[next]) / now;
    (now > 0.0 && times > 1.2).then(|| {
        format!(
            "{filter} waits for darker nights: an hour on {} brings {} times as much.",
            dates.get(next).map_or("a later night", String::as_str),
            two_figures(times)
        )
    })
}
