//! Total time: how a budget is split between the exposures of a path, what calibration wants, and what could be added.

use serde::Serialize;
use utoipa::ToSchema;

use crate::decide::max_min::least_served_shares;
use crate::decide::uncertainty::draws::{PathDraws, Range, between};
use crate::light::lines::Quantity;
use crate::path::scales::Scales;
use crate::scenario::choices::SplitMode;
use crate::scenario::document::Scenario;
use crate::scenario::rig::Contender;
use crate::signal::model::{ExposureModel, LightPath};
use crate::signal::stack::{MOST_CLOCK_S, subs_in, time_to_goal_s};
use crate::wording::clock;

/// One exposure's part of the budget.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct SplitPart {
    /// Name of the filter; null for none.
    pub filter: Option<String>,
    /// What the exposure is for; null where it records nothing of the target.
    pub quantity: Option<Quantity>,
    /// Its share of the clock.
    pub share: f64,
    /// The range of the share that this mode of splitting would give it.
    pub share_range: Range,
    /// Its time on the clock, s.
    pub clock_s: f64,
    /// Its subs.
    pub subs: u32,
    /// Signal to noise of its quantity from the whole path; of its own continuum where several filters make colours.
    pub snr: f64,
    /// Its range with the split as it is.
    pub snr_range: Range,
    /// Everything that its filter records, what it is for first.
    pub served: Vec<Served>,
}

/// A quantity that an exposure serves.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Served {
    /// What.
    pub quantity: Quantity,
    /// Its signal to noise from the whole path with this split; of its own continuum where several filters make colours.
    pub snr: f64,
    /// Its range.
    pub snr_range: Range,
    /// Whether the split must serve it; false for a by-product that nobody waits for.
    pub wanted: bool,
}

/// Calibration frames.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct CalibrationFrames {
    /// Darks of each sub length.
    pub darks: u32,
    /// Flats of each filter, half full scale each.
    pub flats: u32,
    /// Bias frames.
    pub bias: u32,
    /// The ranges of darks and flats; bias frames hang on no light.
    pub darks_range: Range,
    /// As for the darks.
    pub flats_range: Range,
    /// How many, and why, in a sentence.
    pub text: String,
}

/// The decision on total time.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct TimeDecision {
    /// How it was split.
    pub mode: SplitMode,
    /// The parts by the chosen mode.
    pub parts: Vec<SplitPart>,
    /// The same by equal signal to noise, whatever the mode: what balance would take.
    pub balanced: Vec<SplitPart>,
    /// Time for every quantity to reach the goal with the best split, s; null where one is out of reach.
    pub all_reach_goal_s: Option<f64>,
    /// Its range, the split decided beforehand; null where more than one draw in ten does not reach it.
    pub all_reach_goal_range_s: Option<Range>,
    /// Calibration frames.
    pub calibration: CalibrationFrames,
    /// The answer in a sentence.
    pub text: String,
    /// The formulas behind it with their numbers.
    pub reasons: Vec<String>,
}

/// What an exposure is there for: the quantity in which it is strongest against its noise; a broad filter is for the continuum
/// where the target has one.
pub fn purpose(e: &ExposureModel, path: &LightPath) -> Option<Quantity> {
    let narrow = !e.is_broad();
    let worth = |q: Quantity| path.exposure_snr2(e, q, e.sub_s, 1.0, &Scales::ONE, 0.0);
    let list = Quantity::ALL.into_iter().filter(|q| (*q != Quantity::Continuum || !narrow) && worth(*q) > 0.0);
    list.max_by(|a, b| worth(*a).total_cmp(&worth(*b)))
}

/// Shares of a budget that make the least of `rates` times share (each divided by its weight squared) as large as can be:
/// in proportion to weight^2 / rate. `rates` are squares of the signal to noise per second; a rate of zero gets no time.
///
/// With one quantity an exposure this is the optimum: moving a minute away from any exposure worsens the least.
pub fn balanced_shares(rates: &[f64], weights: &[f64]) -> Vec<f64> {
    let want: Vec<f64> = rates.iter().zip(weights).map(|(r, w)| if *r > 0.0 { w * w / r } else { 0.0 }).collect();
    let sum: f64 = want.iter().sum();
    if sum > 0.0 { want.iter().map(|w| w / sum).collect() } else { vec![1.0 / rates.len() as f64; rates.len()] }
}

/// Something that a budget must serve: a quantity from all exposures together, or, where several broad filters make colours, the
/// continuum of one of them.
#[derive(Clone, Copy, Debug, PartialEq)]
struct Goal {
    quantity: Quantity,
    alone: Option<usize>,
}

/// The goals of a path, those that are wanted first, then by-products; and how many are wanted.
fn goals(path: &LightPath) -> (Vec<Goal>, usize) {
    let colours: Vec<usize> =
        (0..path.exposures.len()).filter(|&i| purpose(&path.exposures[i], path) == Some(Quantity::Continuum)).collect();
    let of = |quantity: Quantity| -> Vec<Goal> {
        if quantity == Quantity::Continuum && colours.len() > 1 {
            colours.iter().map(|&i| Goal { quantity, alone: Some(i) }).collect()
        } else {
            vec![Goal { quantity, alone: None }]
        }
    };
    let wanted = wanted(path);
    let mut out: Vec<Goal> = wanted.iter().flat_map(|q| of(*q)).collect();
    let count = out.len();
    out.extend(recorded(path).filter(|q| !wanted.contains(q)).flat_map(of));
    (out, count)
}

impl Goal {
    /// Signal to noise after `clock_s` split as `shares`.
    fn snr(&self, path: &LightPath, clock_s: f64, shares: &[f64], scales: &Scales, centres: &[f64]) -> f64 {
        let one = |(i, e): (usize, &ExposureModel)| {
            let subs = clock_s * shares[i] / (e.sub_s + path.instrument.between_s);
            let counts = self.alone.is_none_or(|own| own == i);
            if counts { path.exposure_snr2(e, self.quantity, e.sub_s, subs, scales, centres.get(i).copied().unwrap_or(0.0)) } else { 0.0 }
        };
        path.exposures.iter().enumerate().map(one).sum::<f64>().sqrt()
    }
}

/// gains[i][k]: square of the signal to noise per second that exposure i gives to goal k.
fn gains(path: &LightPath, goals: &[Goal], scales: &Scales, centres: &[f64]) -> Vec<Vec<f64>> {
    let of = |i: usize, e: &ExposureModel, g: &Goal| {
        if g.alone.is_some_and(|own| own != i) {
            return 0.0;
        }
        let subs = 1.0 / (e.sub_s + path.instrument.between_s);
        path.exposure_snr2(e, g.quantity, e.sub_s, subs, scales, centres.get(i).copied().unwrap_or(0.0))
    };
    path.exposures.iter().enumerate().map(|(i, e)| goals.iter().map(|g| of(i, e, g)).collect()).collect()
}

/// A quantity that reaches less than this share of a path's best signal to noise is a by-product: nobody waits for it.
const BY_PRODUCT: f64 = 1.0 / 15.0;

/// What a path records on purpose: not the continuum that leaks through narrow filters.
fn recorded(path: &LightPath) -> impl Iterator<Item = Quantity> + '_ {
    let broad = path.is_broad();
    Quantity::ALL.into_iter().filter(move |&q| path.records(q) && (q != Quantity::Continuum || broad))
}

/// The quantities of a path that someone wants from it: not lines that drown beside what the path is for. Judged with the same time
/// for every exposure: how the clock happens to be split now does not decide what a filter is there for.
pub fn wanted(path: &LightPath) -> Vec<Quantity> {
    let n = path.exposures.len();
    let even = vec![1.0 / n as f64; n];
    let snr: Vec<(Quantity, f64)> = recorded(path).map(|q| (q, path.snr(q, 3600.0, &even, &Scales::ONE, &[]))).collect();
    let best = snr.iter().map(|s| s.1).fold(0.0, f64::max);
    snr.into_iter().filter(|s| s.1 > BY_PRODUCT * best).map(|s| s.0).collect()
}

/// Shares by a mode, from what each exposure gives to each goal: see [`gains`].
fn shares_for(path: &LightPath, contender: &Contender, goals: &[Goal], gains: &[Vec<f64>], mode: SplitMode, luminance: f64) -> Vec<f64> {
    let n = path.exposures.len();
    match mode {
        SplitMode::AsGiven => path.shares(),
        SplitMode::EqualTime => vec![1.0 / n as f64; n],
        SplitMode::LuminanceHeavy => {
            let widest = (0..n).max_by(|&a, &b| path.exposures[a].equivalent_width_nm.total_cmp(&path.exposures[b].equivalent_width_nm));
            let raw: Vec<f64> = (0..n).map(|i| if Some(i) == widest { luminance } else { 1.0 }).collect();
            let sum: f64 = raw.iter().sum();
            raw.iter().map(|r| r / sum).collect()
        }
        SplitMode::EqualSnr => fair_shares(gains, n),
        SplitMode::Weighted => {
            let weight_of = |g: &Goal| {
                let own = |(i, e): (usize, &ExposureModel)| g.alone.map_or(purpose(e, path) == Some(g.quantity), |own| own == i);
                path.exposures.iter().enumerate().position(own).map_or(1.0, |i| contender.exposures[i].weight)
            };
            let weights: Vec<f64> = goals.iter().map(weight_of).collect();
            let weighted: Vec<Vec<f64>> = gains.iter().map(|row| row.iter().zip(&weights).map(|(g, w)| g / (w * w)).collect()).collect();
            fair_shares(&weighted, n)
        }
    }
}

/// [`least_served_shares`], by the closed form where each goal has an exposure of its own.
fn fair_shares(gains: &[Vec<f64>], n: usize) -> Vec<f64> {
    let own = |i: usize| gains[i].iter().enumerate().all(|(k, g)| k == i || *g <= 0.0);
    if gains.first().is_some_and(|row| row.len() == n) && (0..n).all(own) {
        let rates: Vec<f64> = (0..n).map(|i| gains[i][i]).collect();
        return balanced_shares(&rates, &vec![1.0; n]);
    }
    least_served_shares(gains, n)
}

/// Signal to noise of every goal after `clock_s` split as `shares`, in one draw.
fn snrs(path: &LightPath, goals: &[Goal], gains: &[Vec<f64>], clock_s: f64, shares: &[f64], scales: &Scales, centres: &[f64]) -> Vec<f64> {
    // With dithered frames the squares grow with time: what one second gives is enough.
    if path.instrument.calibration.dithered {
        let served = |k: usize| shares.iter().zip(gains).map(|(x, row)| x * row[k]).sum::<f64>();
        return (0..goals.len()).map(|k| (clock_s * served(k)).sqrt()).collect();
    }
    goals.iter().map(|g| g.snr(path, clock_s, shares, scales, centres)).collect()
}

/// One way of splitting, with what it gives in every draw.
struct Outcome {
    shares: Vec<f64>,
    share_ranges: Vec<Range>,
    snrs: Vec<f64>,
    snr_ranges: Vec<Range>,
    slowest_s: Option<f64>,
    slowest_range_s: Option<Range>,
}

/// What is asked of a split.
struct Question<'a> {
    s: &'a Scenario,
    contender: &'a Contender,
    path: &'a LightPath,
    /// What must be served, then by-products.
    goals: Vec<Goal>,
    /// How many must be served.
    wanted: usize,
}

/// Rounds in which a split settles where frames are not dithered.
const ROUNDS: usize = 24;

impl Question<'_> {
    /// Shares by a mode in one draw, from what each exposure gives to each goal.
    fn shares(&self, mode: SplitMode, gains: &[Vec<f64>], scales: &Scales, centres: &[f64]) -> Vec<f64> {
        let goals = &self.goals[..self.wanted];
        let of = |gains: &[Vec<f64>]| {
            let asked: Vec<Vec<f64>> = gains.iter().map(|row| row[..self.wanted].to_vec()).collect();
            shares_for(self.path, self.contender, goals, &asked, mode, self.s.choices.luminance_ratio)
        };
        let mut shares = of(gains);
        let moves = matches!(mode, SplitMode::EqualSnr | SplitMode::Weighted);
        if self.path.instrument.calibration.dithered || !moves {
            return shares;
        }
        // Noise that calibration leaves in every frame alike does not average out: the squares grow ever more slowly with time. What
        // a second is worth hangs on how many there are, so the split is asked again at its own answer until it settles.
        for _ in 0..ROUNDS {
            let there = self.gains_after(&shares, gains, scales, centres);
            let next = of(&there);
            shares.iter_mut().zip(next).for_each(|(a, b)| *a = 0.5 * (*a + b));
        }
        shares
    }

    /// gains[i][k] as a mean over the time that each exposure has.
    fn gains_after(&self, shares: &[f64], at_first: &[Vec<f64>], scales: &Scales, centres: &[f64]) -> Vec<Vec<f64>> {
        let of = |(i, e): (usize, &ExposureModel)| -> Vec<f64> {
            let clock_s = self.s.total_s * shares[i];
            if clock_s < 1.0 {
                return at_first[i].clone();
            }
            let (subs, centre) = (clock_s / (e.sub_s + self.path.instrument.between_s), centres.get(i).copied().unwrap_or(0.0));
            let one = |g: &Goal| match g.alone {
                Some(own) if own != i => 0.0,
                _ => self.path.exposure_snr2(e, g.quantity, e.sub_s, subs, scales, centre) / clock_s,
            };
            self.goals.iter().map(one).collect()
        };
        self.path.exposures.iter().enumerate().map(of).collect()
    }
}

fn outcome(q: &Question, mode: SplitMode, draws: PathDraws) -> Outcome {
    let Question { s, path, goals, .. } = q;
    let nominal = gains(path, goals, &Scales::ONE, &[]);
    let shares = q.shares(mode, &nominal, &Scales::ONE, &[]);
    let slowest = |gains: &[Vec<f64>], scales: &Scales, centres: &[f64]| -> Option<f64> {
        if path.instrument.calibration.dithered {
            let least = snrs(path, goals, gains, 1.0, &shares, scales, centres).into_iter().take(q.wanted).fold(f64::INFINITY, f64::min);
            return (least > 0.0).then(|| (s.goal_snr / least).powi(2)).filter(|t| *t <= MOST_CLOCK_S);
        }
        let each = goals.iter().take(q.wanted).map(|g| time_to_goal_s(s.goal_snr, |t| g.snr(path, t, &shares, scales, centres)));
        each.into_iter().try_fold(0.0f64, |most, t| Some(most.max(t?)))
    };
    let moves = matches!(mode, SplitMode::EqualSnr | SplitMode::Weighted) && path.exposures.len() > 1;
    let (mut all_shares, mut all_snrs, mut times) = (Vec::new(), Vec::new(), Vec::new());
    for (scales, centres) in draws.iter() {
        let drawn = gains(path, goals, scales, centres);
        all_snrs.push(snrs(path, goals, &drawn, s.total_s, &shares, scales, centres));
        times.push(slowest(&drawn, scales, centres).unwrap_or(f64::INFINITY));
        if moves {
            all_shares.push(q.shares(mode, &drawn, scales, centres));
        }
    }
    let column = |rows: &[Vec<f64>], i: usize| Range::of(rows.iter().map(|row| row[i]).collect());
    let reached = times.iter().filter(|t| t.is_finite()).count() * 10 >= times.len() * 9;
    Outcome {
        share_ranges: (0..shares.len()).map(|i| column(&all_shares, i).unwrap_or(Range::of_three([shares[i]; 3]))).collect(),
        snrs: snrs(path, goals, &nominal, s.total_s, &shares, &Scales::ONE, &[]),
        snr_ranges: (0..goals.len()).filter_map(|k| column(&all_snrs, k)).collect(),
        slowest_s: slowest(&nominal, &Scales::ONE, &[]),
        slowest_range_s: Range::of(times).filter(|_| reached),
        shares,
    }
}

fn parts(q: &Question, out: &Outcome) -> Vec<SplitPart> {
    let Question { s, contender, path, goals, .. } = q;
    let part = |(i, e): (usize, &ExposureModel)| {
        let quantity = purpose(e, path);
        let clock_s = s.total_s * out.shares[i];
        let records = |g: &Goal| g.alone.map_or_else(|| e.channels.iter().any(|c| c.records[g.quantity]), |own| own == i);
        let mut served: Vec<Served> = goals
            .iter()
            .enumerate()
            .filter(|(_, g)| records(g))
            .map(|(k, g)| Served { quantity: g.quantity, snr: out.snrs[k], snr_range: out.snr_ranges[k], wanted: k < q.wanted })
            .collect();
        served.sort_by_key(|v| (Some(v.quantity) != quantity, !v.wanted));
        let own = served.iter().find(|v| Some(v.quantity) == quantity);
        SplitPart {
            filter: contender.exposures[i].filter.as_ref().map(|f| f.name.clone()),
            quantity,
            share: out.shares[i],
            share_range: out.share_ranges[i],
            clock_s,
            subs: subs_in(clock_s, e.sub_s, path.instrument.between_s) as u32,
            snr: own.map_or(0.0, |v| v.snr),
            snr_range: own.map_or(Range::of_three([0.0; 3]), |v| v.snr_range),
            served,
        }
    };
    path.exposures.iter().enumerate().map(part).collect()
}

/// Times closer than this are the same: a split is said to be the fastest only where it is, to what a screen can show.
const SAME_TIME: f64 = 1.005;

/// The answer in a sentence: when all goals are reached as the clock is split, and whether another split is faster.
fn words(q: &Question, chosen: &Outcome, fair: &Outcome) -> String {
    let (goal, path) = (q.s.goal_snr, q.path);
    let told = |o: &Outcome, t: f64| {
        let range = o.slowest_range_s.filter(Range::is_open).map_or(String::new(), |r| format!(" ({})", between(&r)));
        format!("{}{range}", clock(t))
    };
    let unserved = |o: &Outcome| {
        let k = (0..q.wanted).find(|&k| o.snrs[k] <= 0.0)?;
        Some(q.goals[k].quantity.label())
    };
    match (path.exposures.len(), chosen.slowest_s, fair.slowest_s) {
        (_, None, None) => "one of its quantities is out of reach".to_owned(),
        (1, Some(t), _) => format!("all it is for reaches SNR {goal} in {}", told(chosen, t)),
        (_, None, Some(best)) => {
            let why = unserved(chosen).map_or_else(|| "one of its quantities is never there".to_owned(), |l| format!("{l} gets no time"));
            format!("as the clock is split, {why}; split evenly in SNR, all reach SNR {goal} in {}", told(fair, best))
        }
        (_, Some(yours), Some(best)) if yours > SAME_TIME * best => {
            format!("all reach SNR {goal} in {}; split evenly in SNR it takes {}", told(chosen, yours), told(fair, best))
        }
        // What is not dithered is split for the time that is given, not for the goal's: nothing is claimed then.
        (_, Some(yours), _) if path.instrument.calibration.dithered => {
            format!("all reach SNR {goal} in {}, and no other split is faster", told(chosen, yours))
        }
        (_, Some(yours), _) => format!("all reach SNR {goal} in {}", told(chosen, yours)),
    }
}

/// Decides the total time of one contender.
pub fn decide_time(s: &Scenario, contender: &Contender, path: &LightPath, draws: PathDraws) -> TimeDecision {
    let mode = s.choices.split;
    let (goals, wanted) = goals(path);
    let q = Question { s, contender, path, goals, wanted };
    let fair = outcome(&q, SplitMode::EqualSnr, draws);
    let other = (mode != SplitMode::EqualSnr).then(|| outcome(&q, mode, draws));
    let chosen = other.as_ref().unwrap_or(&fair);
    let split_reason = |(i, e): (usize, &ExposureModel)| {
        let q = purpose(e, path);
        let per_h = q.map_or(0.0, |q| path.exposure_snr2(e, q, e.sub_s, 3600.0 / (e.sub_s + path.instrument.between_s), &Scales::ONE, 0.0));
        let r = fair.share_ranges[i];
        let open = if r.is_open() { format!(" ({})", between(&r.map(|x| x * s.total_s))) } else { String::new() };
        format!(
            "{}: SNR² grows by {per_h:.1} per hour of its own clock, so its fair part (1/rate) of {} is {}{open}.",
            q.map_or("nothing", Quantity::label),
            clock(s.total_s),
            clock(fair.shares[i] * s.total_s)
        )
    };
    TimeDecision {
        mode,
        parts: parts(&q, chosen),
        balanced: parts(&q, &fair),
        all_reach_goal_s: fair.slowest_s,
        all_reach_goal_range_s: fair.slowest_range_s,
        calibration: calibration(s, path, draws),
        text: words(&q, chosen, &fair),
        reasons: path.exposures.iter().enumerate().map(split_reason).collect(),
    }
}

/// How many darks, flats and bias frames until each adds less than the chosen share of noise.
///
/// Per sub, a master dark of N adds (D t + R^2)/N, times the number of subs where nothing is dithered; a master flat of N frames
/// of F electrons adds (L t)^2/(N F); a bias master adds R^2/N to each flat of variance F. Each is held below
/// ((1 + p)^2 - 1) of the variance that it adds to.
fn calibration(s: &Scenario, path: &LightPath, draws: PathDraws) -> CalibrationFrames {
    let p = s.choices.calibration_excess;
    let allowed = (1.0 + p).powi(2) - 1.0;
    let r2 = path.instrument.gain.read_noise_e.powi(2);
    let flat_e = path.instrument.gain.full_scale_e / 2.0;
    let whole = |n: f64| n.ceil().clamp(10.0, 5000.0);
    let need = |scales: &Scales, centres: &[f64]| {
        let (mut darks, mut flats) = (0.0f64, 0.0f64);
        for (i, e) in path.exposures.iter().enumerate() {
            let subs = subs_in(s.total_s * e.share, e.sub_s, path.instrument.between_s).max(1.0);
            let repeats = if path.instrument.calibration.dithered { 1.0 } else { subs };
            for c in &e.channels {
                let r = c.rates(scales, centres.get(i).copied().unwrap_or(0.0));
                let variance = r.total() * e.sub_s + r2;
                darks = darks.max(repeats * (r.dark * e.sub_s + r2) / (variance * allowed));
                let light = (r.total() - r.dark) * e.sub_s;
                flats = flats.max(repeats * light * light / (flat_e * variance * allowed));
            }
        }
        (whole(darks), whole(flats))
    };
    let (darks, flats) = need(&Scales::ONE, &[]);
    let bias = whole(r2 / (flat_e * allowed));
    let (darks_range, flats_range) = (draws.range(|s, c| need(s, c).0), draws.range(|s, c| need(s, c).1));
    let open = |r: &Range| if r.is_open() { format!(" ({:.0} to {:.0})", r.low, r.high) } else { String::new() };
    let how = if path.instrument.calibration.dithered { "dithered" } else { "not dithered, so their noise does not average out" };
    let text = format!(
        "{darks} darks{}, {flats} flats{} of each filter, {bias} bias frames: each adds under {:.0} % noise ({how})",
        open(&darks_range),
        open(&flats_range),
        p * 100.0
    );
    CalibrationFrames { darks: darks as u32, flats: flats as u32, bias: bias as u32, darks_range, flats_range, text }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// No transfer of a minute improves the least-served goal.
        #[test]
        fn balanced_shares_cannot_be_bettered_by_a_minute(rates in proptest::collection::vec(0.001..50.0f64, 2..7), weights in proptest::collection::vec(0.3..3.0f64, 7)) {
            let weights = &weights[..rates.len()];
            let shares = balanced_shares(&rates, weights);
            prop_assert!((shares.iter().sum::<f64>() - 1.0).abs() < 1e-9);
            let least = |s: &[f64]| s.iter().zip(&rates).zip(weights).map(|((s, r), w)| s * r / (w * w)).fold(f64::INFINITY, f64::min);
            let minute = 1.0 / 600.0;
            for from in 0..rates.len() {
                for to in 0..rates.len() {
                    let mut moved = shares.clone();
                    moved[from] -= minute;
                    moved[to] += minute;
                    prop_assert!(from == to || least(&moved) <= least(&shares) + 1e-12);
                }
            }
        }
    }
}
