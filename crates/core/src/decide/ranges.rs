//! What is uncertain, carried to what each path reaches; what moves a verdict most, and what would turn it.

use std::collections::BTreeMap;

use serde::Serialize;
use utoipa::ToSchema;

use super::draws::{Draws, Range};
use super::model::{PathModel, Scales};
use super::split::wanted;
use crate::light::Quantity;
use crate::path::Rates;
use crate::scenario::Scenario;
use crate::star::StarTerms;

/// The ranges of one quantity of one path.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct QuantityRange {
    /// Signal to noise in the given time.
    pub snr: Range,
    /// Time on the clock to the goal, s; null where more than one draw in ten does not reach it.
    pub time_to_goal_s: Option<Range>,
    /// Target over sky; null where no sky shines.
    pub contrast: Option<Range>,
    /// Signal to noise over the first path's, draw by draw. Null for the first path or where it lacks the quantity.
    pub snr_over_first: Option<Range>,
    /// Time over the first path's time, draw by draw: what both share cancels. Null for the first path or where it lacks the quantity.
    pub time_over_first: Option<Range>,
    /// Contrast over the first path's, draw by draw. Null where either has none.
    pub contrast_over_first: Option<Range>,
}

/// Ranges of every quantity of every path.
pub fn ranges(s: &Scenario, paths: &[PathModel], draws: &Draws) -> Vec<BTreeMap<Quantity, QuantityRange>> {
    let shares: Vec<Vec<f64>> = paths.iter().map(PathModel::shares).collect();
    // What one state of sky, target and filter centres gives on a path.
    type Asked<'f> = &'f dyn Fn(&PathModel, &Scales, &[f64]) -> Option<f64>;
    let every =
        |i: usize, f: Asked| -> Vec<Option<f64>> { draws.of(i).iter().map(|(scales, centres)| f(&paths[i], scales, centres)).collect() };
    let over = |own: &[Option<f64>], first: Option<&Vec<Option<f64>>>| {
        let both = own.iter().zip(first?).filter_map(|(a, b)| Some(((*a)?, (*b)?)));
        Range::of(both.filter(|(_, b)| *b > 0.0).map(|(a, b)| a / b).collect())
    };
    let mut first: BTreeMap<Quantity, [Vec<Option<f64>>; 3]> = BTreeMap::new();
    (0..paths.len())
        .map(|i| {
            let of = |q: Quantity| {
                let snr = every(i, &|p, scales, centres| Some(p.snr(q, s.total_s, &shares[i], scales, centres)));
                let times = every(i, &|p, scales, centres| p.time_s(q, s.goal_snr, &shares[i], scales, centres));
                let contrasts = every(i, &|p, scales, centres| p.contrast(q, scales, centres));
                let reached = times.iter().flatten().count() * 10 >= times.len() * 9;
                let time_to_goal_s = if reached { Range::of(times.iter().map(|t| t.unwrap_or(f64::INFINITY)).collect()) } else { None };
                let against = first.get(&q);
                let range = QuantityRange {
                    snr: Range::of(snr.iter().flatten().copied().collect())?,
                    time_to_goal_s,
                    contrast: Range::of(contrasts.iter().flatten().copied().collect()),
                    snr_over_first: over(&snr, against.map(|a| &a[0])),
                    time_over_first: over(&times, against.map(|a| &a[1])),
                    contrast_over_first: over(&contrasts, against.map(|a| &a[2])),
                };
                Some((q, range, [snr, times, contrasts]))
            };
            let found: Vec<_> = Quantity::ALL.into_iter().filter(|q| paths[i].records(*q)).filter_map(of).collect();
            let mut out = BTreeMap::new();
            for (q, range, draws) in found {
                out.insert(q, range);
                if i == 0 {
                    first.insert(q, draws);
                }
            }
            out
        })
        .collect()
}

/// The faintest star of each exposure, V mag, in its channel that reaches deepest; `None` where nothing was exposed.
pub fn star_limits(s: &Scenario, path: &PathModel, draws: super::PathDraws) -> Vec<Option<Range>> {
    let limit = |at: usize, scales: &Scales, centres: &[f64]| {
        let e = &path.exposures[at];
        let subs = crate::integration::subs_in(s.total_s * e.share, e.sub_s, path.between_s);
        let one = |r: Rates, pixel_share: f64| {
            let star = StarTerms {
                v0_e_per_s: r.star_v0,
                background_e_per_s: r.background() + r.dark,
                read_noise_e: path.gain.read_noise_e,
                sub_s: e.sub_s,
                subs,
                fwhm_arcsec: s.seeing_fwhm_arcsec,
                scale_arcsec: path.scale_arcsec,
                pixel_share,
            };
            star.limit_v_mag()
        };
        let square = (s.detail_arcsec / path.scale_arcsec).powi(2);
        let each = e.channels.iter().map(|c| one(c.rates(scales, centres.get(at).copied().unwrap_or(0.0)), c.pixels / square));
        each.flatten().max_by(f64::total_cmp)
    };
    let of = |at: usize| Range::of(draws.iter().filter_map(|(scales, centres)| limit(at, scales, centres)).collect());
    (0..path.exposures.len()).map(of).collect()
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
