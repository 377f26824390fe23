//! Seeded draws of what is uncertain: one random state of sky, target and filter centres each, the same for all paths.
//!
//! A draw is one state of the world, not of the rows that ask about it: a filter copy has one centre in it, however many rows and
//! exposures use that copy, and what a row adds to the question changes nothing for the others.

use rand::{Rng, RngExt, SeedableRng};
use rand_pcg::Pcg64Mcg;
use serde::Serialize;
use utoipa::ToSchema;

use crate::path::rates::Rates;
use crate::path::scales::Scales;
use crate::scenario::document::Scenario;
use crate::scenario::exposure::Filter;
use crate::signal::channel::ChannelModel;
use crate::wording::{seconds, two_figures};

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

/// What tells one filter copy from another, as a number (FNV-1a): everything that its curve hangs on, and its name.
fn copy_id(f: &Filter) -> u64 {
    let text = format!("{:?}", (&f.name, &f.bands, &f.curve, f.off_band_od, f.n_eff, f.centre_tolerance_nm));
    text.bytes().fold(0xcbf2_9ce4_8422_2325, |h, b| (h ^ u64::from(b)).wrapping_mul(0x0100_0000_01b3))
}

/// A normal deviate (Box & Muller 1958).
fn normal(rng: &mut impl Rng) -> f64 {
    let (u, v): (f64, f64) = (rng.random(), rng.random());
    (-2.0 * (1.0 - u).ln()).sqrt() * (std::f64::consts::TAU * v).cos()
}

impl Draws {
    /// Draws by the scenario's statement of what is uncertain.
    pub fn new(s: &Scenario) -> Self {
        let u = &s.choices.uncertainty;
        let mut rng = Pcg64Mcg::seed_from_u64(u64::from(u.seed));
        // Each distinct copy has a generator of its own, seeded by what it is.
        let mut copies: Vec<(u64, Pcg64Mcg)> = Vec::new();
        let copy_of: Vec<Vec<Option<usize>>> = s
            .contenders
            .iter()
            .map(|c| {
                let mut index = |f: &Filter| {
                    let id = copy_id(f);
                    copies.iter().position(|(other, _)| *other == id).unwrap_or_else(|| {
                        copies.push((id, Pcg64Mcg::seed_from_u64(u64::from(u.seed) ^ id)));
                        copies.len() - 1
                    })
                };
                c.exposures.iter().map(|e| e.filter.as_ref().map(&mut index)).collect()
            })
            .collect();
        let one = |_| {
            let sky = Scales::darker_sky(u.sky_mag * normal(&mut rng));
            // A log-normal factor whose relative width is the stated one.
            let sigma = (1.0 + u.target_relative * u.target_relative).ln().sqrt();
            let target = (sigma * normal(&mut rng)).exp();
            let drawn: Vec<f64> = copies.iter_mut().map(|(_, rng)| rng.random_range(-1.0..=1.0)).collect();
            let of = |list: &Vec<Option<usize>>| list.iter().map(|copy| copy.map_or(0.0, |i| drawn[i])).collect();
            let centres = if u.filter_centre { copy_of.iter().map(of).collect() } else { vec![Vec::new(); copy_of.len()] };
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

/// A range of lengths in words: "240 to 410 s".
pub(crate) fn span(r: &Range) -> String {
    let (low, high) = (seconds(r.low), seconds(r.high));
    if low == high { low } else { format!("{} to {high}", low.trim_end_matches(" s")) }
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

    /// The centres that each draw gives to every exposure of every row.
    fn centres(s: &Scenario) -> Vec<Vec<Vec<f64>>> {
        let draws = Draws::new(s);
        (0..s.contenders.len()).map(|i| draws.of(i).iter().map(|(_, c)| c.to_vec()).collect()).collect()
    }

    #[test]
    fn one_copy_in_two_rows_and_two_exposures_is_one_draw() {
        let mut s = crate::common::ic_443();
        let (mono, dual) = (s.contenders[0].clone(), s.contenders[1].clone());
        let mut twice = mono.clone();
        twice.exposures[1].filter = twice.exposures[0].filter.clone();
        s.contenders = vec![mono, twice, dual];
        let c = centres(&s);
        for (a, b) in c[0].iter().zip(&c[1]) {
            assert_eq!(a[0], b[0], "the same copy in another row");
            assert_eq!(b[0], b[1], "and in another exposure");
            assert_ne!(a[0], a[1], "another filter is another copy");
        }
        // The price is no part of what a copy is.
        let mut dearer = s.clone();
        dearer.contenders[0].exposures[0].filter.as_mut().unwrap().price = Some(999.0);
        assert_eq!(centres(&dearer), c);
    }

    #[test]
    fn a_row_more_changes_nothing_for_the_others() {
        let s = crate::common::ic_443();
        let mut more = s.clone();
        more.contenders.insert(1, s.contenders[2].clone());
        let (few, many) = (centres(&s), centres(&more));
        assert_eq!((&few[0], &few[1], &few[2]), (&many[0], &many[2], &many[3]));
        let (a, b) = (Draws::new(&s), Draws::new(&more));
        assert!(a.of(0).iter().zip(b.of(0).iter()).all(|(x, y)| x == y));
    }

    #[test]
    fn ranges_read_as_people_say_them() {
        let r = |low, high| Range { low, middle: (low + high) / 2.0, high };
        assert_eq!(between(&r(40_000.0, 118_000.0)), "11 to 33 h");
        assert_eq!(between(&r(1_200.0, 3_300.0)), "20 to 55 min");
        assert_eq!(between(&r(1_200.0, 1_205.0)), "about 20 min");
    }
}
