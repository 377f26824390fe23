//! Seeded draws of what is uncertain: one random state of sky, target and filter centres each, the same for all paths.

use rand::{Rng, RngExt, SeedableRng};
use rand_pcg::Pcg64Mcg;
use serde::Serialize;
use utoipa::ToSchema;

use super::model::{ChannelModel, PathModel, Scales};
use crate::path::Rates;
use crate::scenario::Scenario;

/// A result with its range.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct Range {
    /// One draw in ten lies below.
    pub low: f64,
    /// Half of the draws lie below.
    pub middle: f64,
    /// One draw in ten lies above.
    pub high: f64,
}

impl Range {
    /// The range of a list of draws; `None` for an empty one.
    pub fn of(mut draws: Vec<f64>) -> Option<Self> {
        if draws.is_empty() {
            return None;
        }
        draws.sort_by(f64::total_cmp);
        let [low, middle, high] = tenths(draws.len()).map(|i| draws[i]);
        Some(Self { low, middle, high })
    }

    /// The range of three values of a quantity that rises or falls steadily with what was drawn.
    pub fn of_three([a, middle, b]: [f64; 3]) -> Self {
        Self { low: a.min(b).min(middle), middle, high: a.max(b).max(middle) }
    }

    /// Each end through a function that rises or falls steadily.
    pub fn map(&self, f: impl Fn(f64) -> f64) -> Self {
        Self::of_three([f(self.low), f(self.middle), f(self.high)])
    }

    /// Whether low and high are told apart: more than 2 % between them.
    pub fn is_open(&self) -> bool {
        (self.high - self.low).abs() > 0.02 * self.middle.abs()
    }
}

/// Where one tenth, half and nine tenths of a sorted list lie.
fn tenths(len: usize) -> [usize; 3] {
    [0.1, 0.5, 0.9].map(|p| ((len - 1) as f64 * p).round() as usize)
}

struct Draw {
    scales: Scales,
    /// One number from -1 to 1 an exposure, contender by contender; empty where filters are taken as they are written.
    centres: Vec<Vec<f64>>,
}

/// All draws.
pub struct Draws(Vec<Draw>);

/// The draws as one path meets them.
#[derive(Clone, Copy)]
pub struct PathDraws<'a> {
    draws: &'a Draws,
    path: usize,
}

/// A normal deviate (Box & Muller 1958).
fn normal(rng: &mut impl Rng) -> f64 {
    let (u, v): (f64, f64) = (rng.random(), rng.random());
    (-2.0 * (1.0 - u).ln()).sqrt() * (std::f64::consts::TAU * v).cos()
}

impl Draws {
    /// Draws by the scenario's statement of what is uncertain.
    pub fn new(s: &Scenario, paths: &[PathModel]) -> Self {
        let u = &s.choices.uncertainty;
        let mut rng = Pcg64Mcg::seed_from_u64(u64::from(u.seed));
        let one = |_| {
            let sky = Scales::darker_sky(u.sky_mag * normal(&mut rng));
            // A log-normal factor whose relative width is the stated one.
            let sigma = (1.0 + u.target_relative * u.target_relative).ln().sqrt();
            let target = (sigma * normal(&mut rng)).exp();
            let centres: Vec<Vec<f64>> = paths.iter().map(|p| p.exposures.iter().map(|_| rng.random_range(-1.0..=1.0)).collect()).collect();
            let centres = if u.filter_centre { centres } else { vec![Vec::new(); paths.len()] };
            Draw { scales: Scales { target, ..sky }, centres }
        };
        Self((0..u.draws.max(1)).map(one).collect())
    }

    /// As the path at an index meets them.
    pub fn of(&self, path: usize) -> PathDraws<'_> {
        PathDraws { draws: self, path }
    }
}

impl<'a> PathDraws<'a> {
    /// Scales and the centres of the path's filters, draw by draw.
    pub fn iter(&self) -> impl Iterator<Item = (&'a Scales, &'a [f64])> + use<'a> {
        let path = self.path;
        self.draws.0.iter().map(move |d| (&d.scales, d.centres.get(path).map_or(&[][..], |c| &c[..])))
    }

    /// At most so many of them, evenly spaced over all.
    pub fn some(&self, most: usize) -> impl Iterator<Item = (&'a Scales, &'a [f64])> + use<'a> {
        self.iter().step_by(self.draws.0.len().div_ceil(most.max(1)).max(1))
    }

    /// The range of what a function gives.
    pub fn range(&self, f: impl Fn(&Scales, &[f64]) -> f64) -> Range {
        Range::of(self.iter().map(|(s, c)| f(s, c)).collect()).unwrap_or_else(|| unreachable!("there is a draw"))
    }

    /// The rates of one channel of the exposure `at`, draw by draw.
    pub fn rates(&self, channel: &ChannelModel, at: usize) -> Vec<Rates> {
        self.iter().map(|(s, c)| channel.rates(s, c.get(at).copied().unwrap_or(0.0))).collect()
    }
}

/// The rates at one tenth, half and nine tenths of the draws, ordered by all that a pixel collects.
pub fn by_light(mut rates: Vec<Rates>) -> [Rates; 3] {
    rates.sort_by(|a, b| a.total().total_cmp(&b.total()));
    tenths(rates.len()).map(|i| rates[i])
}

/// A range of times in words: "11 to 33 h", "20 to 55 min", "95 to 400 s".
pub fn between(range: &Range) -> String {
    let (unit_s, unit) = if range.high >= 7200.0 { (3600.0, "h") } else { (60.0, "min") };
    let (low, high) = (two_figures(range.low / unit_s), two_figures(range.high / unit_s));
    if low == high { format!("about {low} {unit}") } else { format!("{low} to {high} {unit}") }
}

/// Two figures of a number.
pub(super) fn two_figures(x: f64) -> String {
    let step = 10f64.powf(x.abs().max(1e-9).log10().floor() - 1.0);
    format!("{}", ((x / step).round() * step * 1e6).round() / 1e6)
}

/// What the draws were made from, in a sentence.
pub fn stated(s: &Scenario) -> String {
    let u = &s.choices.uncertainty;
    format!(
        "{} draws with the sky known to {:.2} mag, the target to {:.0} %{}; eight in ten lie in the range.",
        u.draws,
        u.sky_mag,
        u.target_relative * 100.0,
        if u.filter_centre { ", each filter's centre anywhere within its tolerance" } else { "" }
    )
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_range_holds_eight_in_ten() {
        let r = Range::of((0..=100).map(f64::from).rev().collect()).unwrap();
        assert_eq!((r.low, r.middle, r.high), (10.0, 50.0, 90.0));
        let halved = r.map(|x| -x);
        assert_eq!((halved.low, halved.middle, halved.high), (-90.0, -50.0, -10.0));
        assert!(r.is_open() && !Range::of(vec![5.0; 9]).unwrap().is_open());
        assert_eq!(Range::of(Vec::new()), None);
    }

    #[test]
    fn ranges_read_as_people_say_them() {
        let r = |low, high| Range { low, middle: (low + high) / 2.0, high };
        assert_eq!(between(&r(40_000.0, 118_000.0)), "11 to 33 h");
        assert_eq!(between(&r(1_200.0, 3_300.0)), "20 to 55 min");
        assert_eq!(between(&r(1_200.0, 1_205.0)), "about 20 min");
    }
}
