//! What is uncertain, carried to every result: seeded draws of sky, target and filter centre; and what moves a verdict most.

use std::collections::BTreeMap;

use rand::{Rng, RngExt, SeedableRng};
use rand_pcg::Pcg64Mcg;
use serde::Serialize;
use utoipa::ToSchema;

use super::model::{PathModel, Scales};
use super::split::wanted;
use crate::light::Quantity;
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
        let at = |p: f64| draws[((draws.len() - 1) as f64 * p).round() as usize];
        Some(Self { low: at(0.1), middle: at(0.5), high: at(0.9) })
    }
}

/// The ranges of one quantity of one path.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct QuantityRange {
    /// Signal to noise in the given time.
    pub snr: Range,
    /// Time on the clock to the goal, s; null where more than one draw in ten does not reach it.
    pub time_to_goal_s: Option<Range>,
    /// Time over the first path's time, draw by draw: what both share cancels. Null for the first path or where it lacks the quantity.
    pub time_over_first: Option<Range>,
}

/// One random state of the world, the same for all paths.
struct Draw {
    scales: Scales,
    /// One number from -1 to 1 an exposure, contender by contender.
    centres: Vec<Vec<f64>>,
}

/// A normal deviate (Box & Muller 1958).
fn normal(rng: &mut impl Rng) -> f64 {
    let (u, v): (f64, f64) = (rng.random(), rng.random());
    (-2.0 * (1.0 - u).ln()).sqrt() * (std::f64::consts::TAU * v).cos()
}

fn draws(s: &Scenario, paths: &[PathModel]) -> Vec<Draw> {
    let u = &s.choices.uncertainty;
    let mut rng = Pcg64Mcg::seed_from_u64(u64::from(u.seed));
    (0..u.draws)
        .map(|_| {
            let sky = Scales::darker_sky(u.sky_mag * normal(&mut rng));
            // A log-normal factor whose relative width is the stated one.
            let sigma = (1.0 + u.target_relative * u.target_relative).ln().sqrt();
            let target = (sigma * normal(&mut rng)).exp();
            let centres = paths.iter().map(|p| p.exposures.iter().map(|_| rng.random_range(-1.0..=1.0)).collect()).collect();
            Draw { scales: Scales { target, ..sky }, centres }
        })
        .collect()
}

/// Ranges of every quantity of every path.
pub fn ranges(s: &Scenario, paths: &[PathModel]) -> Vec<BTreeMap<Quantity, QuantityRange>> {
    let draws = draws(s, paths);
    let centre = s.choices.uncertainty.filter_centre;
    let shares: Vec<Vec<f64>> = paths.iter().map(PathModel::shares).collect();
    let none: Vec<f64> = Vec::new();
    let time = |i: usize, q: Quantity, d: &Draw| {
        let centres = if centre { &d.centres[i] } else { &none };
        paths[i].time_s(q, s.goal_snr, &shares[i], &d.scales, centres)
    };
    paths
        .iter()
        .enumerate()
        .map(|(i, path)| {
            let of = |q: Quantity| {
                let snr = draws.iter().map(|d| {
                    let centres = if centre { &d.centres[i] } else { &none };
                    path.snr(q, s.total_s, &shares[i], &d.scales, centres)
                });
                let snr = Range::of(snr.collect())?;
                let times: Vec<Option<f64>> = draws.iter().map(|d| time(i, q, d)).collect();
                let reached = times.iter().flatten().count() * 10 >= times.len() * 9;
                let time_to_goal_s = if reached { Range::of(times.iter().map(|t| t.unwrap_or(f64::INFINITY)).collect()) } else { None };
                let time_over_first = (i > 0 && paths[0].records(q)).then(|| {
                    let ratio = |(d, t): (&Draw, &Option<f64>)| Some((*t)? / time(0, q, d)?);
                    Range::of(draws.iter().zip(&times).filter_map(ratio).collect())
                });
                Some((q, QuantityRange { snr, time_to_goal_s, time_over_first: time_over_first.flatten() }))
            };
            Quantity::ALL.into_iter().filter(|q| path.records(*q)).filter_map(of).collect()
        })
        .collect()
}

/// How far one input moves a verdict.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Influence {
    /// The input and the step, in words: "sky 0.5 mag brighter".
    pub input: String,
    /// Time with the step over time without.
    pub time_ratio: f64,
}

/// What would make another path the fastest.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Flip {
    /// What is judged.
    pub quantity: Quantity,
    /// Index of the path that is fastest now.
    pub now: usize,
    /// Index of the path that would be fastest.
    pub then: usize,
    /// Where, in a sentence.
    pub text: String,
}

/// What moves the verdict on a path most, largest first.
pub fn influences(s: &Scenario, path: &PathModel) -> Vec<Influence> {
    let shares = path.shares();
    let quantities = wanted(path);
    // The slowest quantity is what the verdict hangs on.
    let time = |q: Quantity, scales: &Scales, centres: &[f64]| path.time_s(q, s.goal_snr, &shares, scales, centres);
    let slowest = quantities.iter().filter_map(|q| Some((*q, time(*q, &Scales::ONE, &[])?))).max_by(|a, b| a.1.total_cmp(&b.1));
    let Some((q, base)) = slowest else { return Vec::new() };
    let one = Scales::ONE;
    let mut out = Vec::new();
    let mut add = |input: String, scales: Scales, centres: &[f64]| {
        if let Some(t) = time(q, &scales, centres) {
            out.push(Influence { input, time_ratio: t / base });
        }
    };
    add("sky half a magnitude brighter".into(), Scales::darker_sky(-0.5), &[]);
    add("sky half a magnitude darker".into(), Scales::darker_sky(0.5), &[]);
    add("lamps half as bright".into(), Scales { artificial: 0.5, ..one }, &[]);
    add(format!("{} a third fainter", q.label()), Scales { target: 2.0 / 3.0, ..one }, &[]);
    add(format!("{} half again brighter", q.label()), Scales { target: 1.5, ..one }, &[]);
    add("twice the dark current".into(), Scales { dark: 2.0, ..one }, &[]);
    add("read noise a third lower".into(), Scales { read_noise: 2.0 / 3.0, ..one }, &[]);
    add("no overhead between subs".into(), Scales { overhead: 0.0, ..one }, &[]);
    let tolerant = vec![-1.0; path.exposures.len()];
    add("filters at the blue end of their tolerance".into(), one, &tolerant);
    out.sort_by(|a, b| b.time_ratio.ln().abs().total_cmp(&a.time_ratio.ln().abs()));
    out
}

/// The fastest path for a quantity under scaled inputs.
fn fastest(s: &Scenario, paths: &[PathModel], q: Quantity, scales: &Scales) -> Option<usize> {
    let time = |p: &PathModel| p.time_s(q, s.goal_snr, &p.shares(), scales, &[]);
    let times = paths.iter().enumerate().filter_map(|(i, p)| Some((i, time(p)?)));
    times.min_by(|a, b| a.1.total_cmp(&b.1)).map(|(i, _)| i)
}

/// What would make another path the fastest: a darker or brighter site, a fainter or brighter target, faster subs.
///
/// The lamps' light is what changes with the site; the zenith reading at which the order turns is found by halving.
pub fn flips(s: &Scenario, paths: &[PathModel]) -> Vec<Flip> {
    let mut out = Vec::new();
    if paths.len() < 2 {
        return out;
    }
    let linear = |m: f64| 10f64.powf(-0.4 * m);
    let lamps_now = linear(s.sky.zenith_v_mag) - linear(s.sky.natural_v_mag);
    // "B (dual band 7 nm)": what a row is told by.
    let name = |i: usize| {
        let filters: Vec<&str> =
            s.contenders[i].exposures.iter().map(|e| e.filter.as_ref().map_or("no filter", |f| f.name.as_str())).collect();
        format!("{} ({})", char::from(b'A' + i as u8), filters.join(", "))
    };
    let mut quantities: Vec<Quantity> = paths.iter().flat_map(wanted).collect();
    quantities.sort();
    quantities.dedup();
    for q in quantities {
        let Some(now) = fastest(s, paths, q, &Scales::ONE) else { continue };
        if lamps_now > 0.0 && s.sky.toward_target_v_mag.is_none() {
            let at = |zenith: f64| {
                let lamps = (linear(zenith) - linear(s.sky.natural_v_mag)).max(0.0);
                fastest(s, paths, q, &Scales { artificial: lamps / lamps_now, ..Scales::ONE })
            };
            for (end, word) in [(s.sky.natural_v_mag, "darker"), (17.0, "brighter")] {
                if let Some((edge, then)) = edge_between(s.sky.zenith_v_mag, end, now, &at) {
                    let text = format!("{}: {word} than {edge:.1} mag/arcsec², {} is faster than {}.", q.label(), name(then), name(now));
                    out.push(Flip { quantity: q, now, then, text });
                }
            }
        }
        let at = |log: f64| fastest(s, paths, q, &Scales { target: log.exp(), ..Scales::ONE });
        for (end, word) in [(-3.0, "fainter"), (3.0, "brighter")] {
            if let Some((edge, then)) = edge_between(0.0, end, now, &at) {
                let times = if edge < 0.0 { (-edge).exp() } else { edge.exp() };
                let text = format!("{}: on a target {times:.1} times {word}, {} is faster than {}.", q.label(), name(then), name(now));
                out.push(Flip { quantity: q, now, then, text });
            }
        }
    }
    out
}

/// The first place between two values where the winner is no longer `now`, and who wins there.
fn edge_between(from: f64, to: f64, now: usize, winner: &impl Fn(f64) -> Option<usize>) -> Option<(f64, usize)> {
    const STEPS: u32 = 24;
    let at = |i: u32| from + (to - from) * f64::from(i) / f64::from(STEPS);
    let hit = (1..=STEPS).find(|&i| winner(at(i)).is_some_and(|w| w != now))?;
    let (mut lo, mut hi) = (at(hit - 1), at(hit));
    for _ in 0..30 {
        let mid = (lo + hi) / 2.0;
        if winner(mid).is_some_and(|w| w != now) { hi = mid } else { lo = mid }
    }
    Some((hi, winner(hi)?))
}

/// A range of times in words: "11 to 33 h", "20 to 55 min".
pub fn between(range: &Range) -> String {
    let two = |x: f64| {
        let step = 10f64.powf(x.max(1e-9).log10().floor() - 1.0);
        format!("{}", ((x / step).round() * step * 1e6).round() / 1e6)
    };
    let (unit_s, unit) = if range.high >= 7200.0 { (3600.0, "h") } else { (60.0, "min") };
    let (low, high) = (two(range.low / unit_s), two(range.high / unit_s));
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
