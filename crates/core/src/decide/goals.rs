//! What the exposures of a path are there for, what a split of its time must serve, and the shares
//! that each way of splitting gives.

use crate::decide::max_min::least_served_shares;
use crate::light::lines::Quantity;
use crate::path::scales::Scales;
use crate::scenario::choices::SplitMode;
use crate::scenario::rig::Contender;
use crate::signal::model::{ExposureModel, LightPath};

/// What an exposure is there for: the quantity in which it is strongest against its noise; a broad
/// filter is for the continuum where the target has one.
pub fn purpose(e: &ExposureModel) -> Option<Quantity> {
    let narrow = !e.is_broad();
    let worth = |q: Quantity| e.snr2(q, e.sub_s, 1.0, &Scales::ONE, 0.0);
    let list = Quantity::ALL
        .into_iter()
        .filter(|q| (*q != Quantity::Continuum || !narrow) && worth(*q) > 0.0);
    list.max_by(|a, b| worth(*a).total_cmp(&worth(*b)))
}

/// Shares of a budget that make the least of `rates` times share (each divided by its weight
/// squared) as large as can be: in proportion to weight^2 / rate. `rates` are squares of the signal
/// to noise per second; a rate of zero gets no time.
///
/// With one quantity an exposure this is the optimum: moving a minute away from any exposure
/// worsens the least.
pub fn balanced_shares(rates: &[f64], weights: &[f64]) -> Vec<f64> {
    let want: Vec<f64> =
        rates.iter().zip(weights).map(|(r, w)| if *r > 0.0 { w * w / r } else { 0.0 }).collect();
    let sum: f64 = want.iter().sum();
    if sum > 0.0 {
        want.iter().map(|w| w / sum).collect()
    } else {
        vec![1.0 / rates.len() as f64; rates.len()]
    }
}

/// Something that a budget must serve: a quantity from all exposures together, or, where several
/// broad filters make colours, the continuum of one of them.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct Want {
    pub(super) quantity: Quantity,
    pub(super) alone: Option<usize>,
}

/// The goals of a path, those that are wanted first, then by-products; and how many are wanted.
pub(super) fn goals(path: &LightPath) -> (Vec<Want>, usize) {
    let colours: Vec<usize> = (0..path.exposures.len())
        .filter(|&i| purpose(&path.exposures[i]) == Some(Quantity::Continuum))
        .collect();
    let of = |quantity: Quantity| -> Vec<Want> {
        if quantity == Quantity::Continuum && colours.len() > 1 {
            colours.iter().map(|&i| Want { quantity, alone: Some(i) }).collect()
        } else {
            vec![Want { quantity, alone: None }]
        }
    };
    let wanted = wanted(path);
    let mut out: Vec<Want> = wanted.iter().flat_map(|q| of(*q)).collect();
    let count = out.len();
    out.extend(recorded(path).filter(|q| !wanted.contains(q)).flat_map(of));
    (out, count)
}

impl Want {
    /// Whether an exposure counts for it.
    fn counts(&self, exposure: usize) -> bool {
        self.alone.is_none_or(|own| own == exposure)
    }

    /// Square of the part of its goal that `subs` subs of one exposure bring: 1 meets it.
    pub(super) fn progress2(
        &self,
        path: &LightPath,
        exposure: usize,
        subs: f64,
        scales: &Scales,
        centre: f64,
    ) -> f64 {
        if !self.counts(exposure) {
            return 0.0;
        }
        let (e, aim) = (&path.exposures[exposure], &path.aims[self.quantity]);
        let snr2 = match aim.goal.star_v_mag {
            None => e.snr2(self.quantity, e.sub_s, subs, &aim.scales(scales), centre),
            Some(v) => e.instrument.star_snr2(&e.channels, v, e.sub_s, subs, scales, centre),
        };
        snr2 / (aim.snr * aim.snr)
    }

    /// The part of its goal that `clock_s` split as `shares` brings.
    pub(super) fn progress(
        &self,
        path: &LightPath,
        clock_s: f64,
        shares: &[f64],
        scales: &Scales,
        centres: &[f64],
    ) -> f64 {
        let one = |i: usize, subs: f64, centre: f64| self.progress2(path, i, subs, scales, centre);
        root_sum(path, clock_s, shares, centres, one)
    }

    /// Signal to noise of the mean after `clock_s` split as `shares`.
    pub(super) fn snr(
        &self,
        path: &LightPath,
        clock_s: f64,
        shares: &[f64],
        scales: &Scales,
        centres: &[f64],
    ) -> f64 {
        let one = |i: usize, subs: f64, centre: f64| {
            let e = &path.exposures[i];
            let counts = f64::from(u8::from(self.counts(i)));
            counts * e.snr2(self.quantity, e.sub_s, subs, scales, centre)
        };
        root_sum(path, clock_s, shares, centres, one)
    }
}

/// The root of the sum over a path's exposures of what each gives with its subs of `clock_s` split
/// as `shares`: `one` is asked with the exposure's index, its subs and its copy's centre.
fn root_sum(
    path: &LightPath,
    clock_s: f64,
    shares: &[f64],
    centres: &[f64],
    one: impl Fn(usize, f64, f64) -> f64,
) -> f64 {
    let of = |(i, e): (usize, &ExposureModel)| {
        let subs = clock_s * shares[i] / (e.sub_s + path.instrument.between_s);
        one(i, subs, centres.get(i).copied().unwrap_or(0.0))
    };
    path.exposures.iter().enumerate().map(of).sum::<f64>().sqrt()
}

/// gains\[i\]\[k\]: by how much one second through exposure i brings goal k nearer, as the square of
/// its part of the goal.
pub(super) fn gains(
    path: &LightPath,
    goals: &[Want],
    scales: &Scales,
    centres: &[f64],
) -> Vec<Vec<f64>> {
    let of = |i: usize, g: &Want| {
        let subs = 1.0 / (path.exposures[i].sub_s + path.instrument.between_s);
        g.progress2(path, i, subs, scales, centres.get(i).copied().unwrap_or(0.0))
    };
    (0..path.exposures.len()).map(|i| goals.iter().map(|g| of(i, g)).collect()).collect()
}

/// A quantity that reaches less than this share of a path's best signal to noise is a by-product:
/// nobody waits for it.
const BY_PRODUCT: f64 = 1.0 / 15.0;

/// What a path records on purpose: not the continuum that leaks through narrow filters.
fn recorded(path: &LightPath) -> impl Iterator<Item = Quantity> + '_ {
    let broad = path.is_broad();
    Quantity::ALL
        .into_iter()
        .filter(move |&q| path.records(q) && (q != Quantity::Continuum || broad))
}

/// The quantities of a path that someone wants from it: those that the scenario has a goal for, but
/// not lines that drown beside what the path is for. Judged with the same time for every exposure: how the clock happens to be split now does
/// not decide what a filter is there for.
pub fn wanted(path: &LightPath) -> Vec<Quantity> {
    let n = path.exposures.len();
    let even = vec![1.0 / n as f64; n];
    let own = recorded(path).filter(|q| path.wants[*q]);
    let snr: Vec<(Quantity, f64)> =
        own.map(|q| (q, path.snr(q, 3600.0, &even, &Scales::ONE, &[]))).collect();
    let best = snr.iter().map(|s| s.1).fold(0.0, f64::max);
    snr.into_iter().filter(|s| s.1 > BY_PRODUCT * best).map(|s| s.0).collect()
}

/// Shares by a mode, from what each exposure gives to each goal: see [`gains`].
pub(super) fn shares_for(
    path: &LightPath,
    contender: &Contender,
    goals: &[Want],
    gains: &[Vec<f64>],
    mode: SplitMode,
    luminance: f64,
) -> Vec<f64> {
    let n = path.exposures.len();
    match mode {
        SplitMode::AsGiven => path.shares(),
        SplitMode::EqualTime => vec![1.0 / n as f64; n],
        SplitMode::LuminanceHeavy => {
            let widest = (0..n).max_by(|&a, &b| {
                path.exposures[a]
                    .equivalent_width_nm
                    .total_cmp(&path.exposures[b].equivalent_width_nm)
            });
            let raw: Vec<f64> =
                (0..n).map(|i| if Some(i) == widest { luminance } else { 1.0 }).collect();
            let sum: f64 = raw.iter().sum();
            raw.iter().map(|r| r / sum).collect()
        }
        SplitMode::EqualSnr => fair_shares(gains, n),
        SplitMode::Weighted => {
            let weight_of = |g: &Want| {
                let own = |(i, e): (usize, &ExposureModel)| {
                    g.alone.map_or(purpose(e) == Some(g.quantity), |own| own == i)
                };
                path.exposures
                    .iter()
                    .enumerate()
                    .position(own)
                    .map_or(1.0, |i| contender.exposures[i].weight)
            };
            let weights: Vec<f64> = goals.iter().map(weight_of).collect();
            let weighted: Vec<Vec<f64>> = gains
                .iter()
                .map(|row| row.iter().zip(&weights).map(|(g, w)| g / (w * w)).collect())
                .collect();
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

/// The part of every goal that `clock_s` split as `shares` brings in one draw.
pub(super) fn progresses(
    path: &LightPath,
    goals: &[Want],
    gains: &[Vec<f64>],
    (clock_s, shares): (f64, &[f64]),
    scales: &Scales,
    centres: &[f64],
) -> Vec<f64> {
    // With dithered frames the squares grow with time: what one second gives is enough.
    if path.instrument.calibration.dithered {
        let served = |k: usize| shares.iter().zip(gains).map(|(x, row)| x * row[k]).sum::<f64>();
        return (0..goals.len()).map(|k| (clock_s * served(k)).sqrt()).collect();
    }
    goals.iter().map(|g| g.progress(path, clock_s, shares, scales, centres)).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// No transfer of a minute improves the least-served goal.
        #[test]
        fn balanced_shares_cannot_be_bettered_by_a_minute(
            rates in proptest::collection::vec(0.001..50.0f64, 2..7),
            weights in proptest::collection::vec(0.3..3.0f64, 7),
        ) {
            let weights = &weights[..rates.len()];
            let shares = balanced_shares(&rates, weights);
            prop_assert!((shares.iter().sum::<f64>() - 1.0).abs() < 1e-9);
            let least = |s: &[f64]| s.iter().zip(&rates).zip(weights)
                .map(|((s, r), w)| s * r / (w * w)).fold(f64::INFINITY, f64::min);
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
