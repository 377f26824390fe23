//! Which input moves a verdict most, and what would turn it: each with its range.

use serde::Serialize;
use utoipa::ToSchema;

use crate::decide::basis::Basis;
use crate::decide::uncertainty::draws::{Draws, PathDraws, Range};
use crate::light::lines::Quantity;
use crate::path::scales::Scales;
use crate::scenario::document::Scenario;
use crate::signal::model::LightPath;

/// The target is looked at up to so many times brighter or fainter, as a natural logarithm.
const FARTHEST: f64 = 3.0;

/// Of the draws, so many are asked here: every question is a search of its own, and a tenth part of
/// 40 is well told.
const ASKED: usize = 40;

/// How far one input moves a verdict.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Influence {
    /// What is judged; null for all that the path is for together.
    pub quantity: Option<Quantity>,
    /// The input and the step, in words: "sky 0.5 mag brighter".
    pub input: String,
    /// Time with the step over time without.
    pub time_ratio: f64,
    /// Its range: each draw with the step against the same draw without.
    pub time_ratio_range: Range,
}

/// What would make another path the fastest.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Flip {
    /// What is judged; null for all that the first path is for together.
    pub quantity: Option<Quantity>,
    /// Index of the path that is fastest now.
    pub now: usize,
    /// Index of the path that would be fastest.
    pub then: usize,
    /// What is turned.
    pub input: FlipInput,
    /// Where the order turns: the zenith's brightness in mag/arcsec^2, or a factor on the target's
    /// light.
    pub edge: f64,
    /// Its range over what else is uncertain; ends beyond what is looked at stand at its border.
    pub edge_range: Range,
    /// Share of the draws in which the order is turned already, 0-1.
    pub turned_already: f64,
    /// Where, in a sentence.
    pub text: String,
}

/// What is turned to make another path the fastest.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum FlipInput {
    /// Brightness of the zenith by the lamps.
    Zenith,
    /// Brightness of the target.
    Target,
}

/// What moves the verdict on a path most: for all that it is for together, then for each quantity,
/// largest first.
pub fn influences(s: &Scenario, path: &LightPath, draws: PathDraws) -> Vec<Influence> {
    Basis::of_path(s, path).iter().flat_map(|b| influences_on(b, path, draws)).collect()
}

fn influences_on(basis: &Basis, path: &LightPath, draws: PathDraws) -> Vec<Influence> {
    let shares = path.shares();
    let time = |scales: &Scales, centres: &[f64]| basis.time_s(path, &shares, scales, centres);
    let Some(baseline) = time(&Scales::ONE, &[]) else { return Vec::new() };
    let drawn: Vec<(&Scales, &[f64], f64)> =
        draws.some(ASKED).filter_map(|(d, c)| Some((d, c, time(d, c)?))).collect();
    let one = Scales::ONE;
    let name = if basis.is_together() { "the target".to_owned() } else { basis.label() };
    let blue = vec![-1.0; path.exposures.len()];
    let steps = [
        ("sky half a magnitude brighter".to_owned(), Scales::darker_sky(-0.5), None),
        ("sky half a magnitude darker".into(), Scales::darker_sky(0.5), None),
        ("lamps half as bright".into(), Scales::dimmer_lamps(0.5), None),
        (format!("{name} a third fainter"), Scales { target: 2.0 / 3.0, ..one }, None),
        (format!("{name} half again brighter"), Scales { target: 1.5, ..one }, None),
        ("twice the dark current".into(), Scales { dark: 2.0, ..one }, None),
        ("read noise a third lower".into(), Scales { read_noise: 2.0 / 3.0, ..one }, None),
        ("no overhead between subs".into(), Scales { overhead: 0.0, ..one }, None),
        ("filters a standard deviation too blue".into(), one, Some(&blue[..])),
    ];
    let of = |(input, step, centres): (String, Scales, Option<&[f64]>)| {
        let time_ratio = time(&step, centres.unwrap_or(&[]))? / baseline;
        let each = drawn
            .iter()
            .filter_map(|(d, c, t)| Some(time(&step.times(d), centres.unwrap_or(c))? / t));
        let time_ratio_range = Range::of(each.collect()).unwrap_or(Range {
            low: time_ratio,
            middle: time_ratio,
            high: time_ratio,
        });
        Some(Influence { quantity: basis.quantity, input, time_ratio, time_ratio_range })
    };
    let mut out: Vec<Influence> = steps.into_iter().filter_map(of).collect();
    out.sort_by(|a, b| b.time_ratio.ln().abs().total_cmp(&a.time_ratio.ln().abs()));
    out
}

/// One input that is swept for a change of the fastest path.
struct Sweep<'f> {
    input: FlipInput,
    /// The scenario's value.
    from: f64,
    /// How far it is looked at on either side, with the word for that side.
    ends: [(f64, &'static str); 2],
    /// Scales at a value, the rest as given. What is swept is taken as true: of it, nothing is
    /// drawn.
    scales: &'f dyn Fn(f64, &Scales) -> Scales,
}

/// The comparison that flips are looked for in.
struct Field<'a> {
    s: &'a Scenario,
    paths: &'a [LightPath],
    shares: Vec<Vec<f64>>,
    draws: &'a Draws,
}

impl Field<'_> {
    fn time(&self, i: usize, b: &Basis, scales: &Scales, centres: &[f64]) -> Option<f64> {
        b.time_s(&self.paths[i], &self.shares[i], scales, centres)
    }

    /// The fastest path for a quantity under scaled inputs.
    fn fastest(&self, b: &Basis, scales: &Scales) -> Option<usize> {
        let times = (0..self.paths.len()).filter_map(|i| Some((i, self.time(i, b, scales, &[])?)));
        times.min_by(|a, b| a.1.total_cmp(&b.1)).map(|(i, _)| i)
    }

    /// "B (dual band 7 nm)": what a row is told by.
    fn name(&self, i: usize) -> String {
        let filters: Vec<&str> = self.s.contenders[i]
            .exposures
            .iter()
            .map(|e| e.filter.as_ref().map_or("no filter", |f| f.name.as_str()))
            .collect();
        format!("{} ({})", char::from(b'A' + i as u8), filters.join(", "))
    }

    /// How far `then` lags behind `now`, as the logarithm of their times; above zero where `now` is
    /// faster.
    fn lag(
        &self,
        b: &Basis,
        [now, then]: [usize; 2],
        scales: &Scales,
        centres: [&[f64]; 2],
    ) -> f64 {
        let t = |i: usize, c: &[f64]| self.time(i, b, scales, c).unwrap_or(1e12);
        (t(then, centres[1]) / t(now, centres[0])).ln()
    }

    fn look(
        &self,
        b: &Basis,
        now: usize,
        sweep: &Sweep,
        (end, word): (f64, &'static str),
    ) -> Option<Flip> {
        let winner = |x: f64| self.fastest(b, &(sweep.scales)(x, &Scales::ONE));
        let (edge, then) = edge_between(sweep.from, end, now, &winner)?;
        let pair = [now, then];
        // Looked at around the edge, and no further than the sweep itself goes.
        let reach = 0.5 * (sweep.ends[0].0 - sweep.ends[1].0).abs();
        let (least, most) =
            (sweep.ends[0].0.min(sweep.ends[1].0), sweep.ends[0].0.max(sweep.ends[1].0));
        let (near, far) = if end > sweep.from {
            (edge - reach, edge + reach)
        } else {
            (edge + reach, edge - reach)
        };
        let (near, far) = (near.clamp(least, most), far.clamp(least, most));
        let both = self.draws.of(now).some(ASKED).zip(self.draws.of(then).some(ASKED));
        let (mut edges, mut already, mut asked) = (Vec::new(), 0.0, 0.0);
        for ((drawn, a), (_, c)) in both {
            let lag = |x: f64| self.lag(b, pair, &(sweep.scales)(x, drawn), [a, c]);
            edges.push(crossing(near, far, &lag));
            asked += 1.0;
            already += f64::from(u8::from(self.lag(b, pair, drawn, [a, c]) < 0.0));
        }
        let edge_range = Range::of(edges)?;
        let turned_already = already / asked;
        let (names, flip) = (
            [self.name(then), self.name(now)],
            Flip {
                quantity: b.quantity,
                now,
                then,
                input: sweep.input,
                edge,
                edge_range,
                turned_already,
                text: String::new(),
            },
        );
        let line = b.label();
        let text = sentence(&flip.in_user_units(), &line, word, &names);
        Some(Flip { text, ..flip.in_user_units() })
    }
}

impl Flip {
    /// The target's factor out of the logarithm in which it is swept.
    fn in_user_units(&self) -> Self {
        match self.input {
            FlipInput::Zenith => self.clone(),
            FlipInput::Target => Self {
                edge: self.edge.exp(),
                edge_range: self.edge_range.map(f64::exp),
                ..self.clone()
            },
        }
    }
}

fn sentence(f: &Flip, q: &str, word: &str, [then, now]: &[String; 2]) -> String {
    let text = match f.input {
        FlipInput::Zenith => {
            let [at, low, high] =
                [f.edge, f.edge_range.low, f.edge_range.high].map(|m| format!("{m:.1}"));
            let open = if low == high { String::new() } else { format!(" ({low} to {high})") };
            format!("{q}: {word} than {at} mag/arcsec²{open}, {then} is faster than {now}")
        }
        FlipInput::Target => {
            // A factor above one, whichever way.
            let times = |x: f64| if f.edge < 1.0 { 1.0 / x } else { x };
            let (a, b) = (times(f.edge_range.low), times(f.edge_range.high));
            let (low, high) = (a.min(b), a.max(b));
            // Where the range reaches over to the other side, the share of draws that are turned
            // already says it better.
            let open = if low < 1.0 || format!("{low:.1}") == format!("{high:.1}") {
                String::new()
            } else if high > 0.98 * FARTHEST.exp() {
                format!(" ({low:.1} to over {:.0})", FARTHEST.exp())
            } else {
                format!(" ({low:.1} to {high:.1})")
            };
            let at = format!("{:.1}", times(f.edge));
            format!("{q}: on a target {at} times{open} {word}, {then} is faster than {now}")
        }
    };
    if f.turned_already >= 0.05 {
        format!("{text}; so it is already in {:.0} % of the draws.", f.turned_already * 100.0)
    } else {
        format!("{text}.")
    }
}

/// What would make another path the fastest: a darker or brighter site, a fainter or brighter
/// target.
///
/// The lamps' light is what changes with the site; the zenith reading at which the order turns is
/// found by halving.
pub fn flips(s: &Scenario, paths: &[LightPath], draws: &Draws) -> Vec<Flip> {
    let mut out = Vec::new();
    if paths.len() < 2 {
        return out;
    }
    let linear = |m: f64| 10f64.powf(-0.4 * m);
    let natural = linear(s.sky.natural_zenith_mag());
    let lamps_now = linear(s.sky.zenith_v_mag) - natural;
    let site = |zenith: f64, drawn: &Scales| {
        let lamps = Scales::dimmer_lamps((linear(zenith) - natural).max(0.0) / lamps_now);
        Scales { sky: lamps.sky, ..*drawn }
    };
    let target = |log: f64, drawn: &Scales| Scales { target: log.exp(), ..*drawn };
    let mut sweeps = Vec::new();
    if lamps_now > 0.0 && s.sky.toward_target_v_mag.is_none() {
        let ends = [(s.sky.natural_v_mag, "darker"), (17.0, "brighter")];
        sweeps.push(Sweep {
            input: FlipInput::Zenith,
            from: s.sky.zenith_v_mag,
            ends,
            scales: &site,
        });
    }
    sweeps.push(Sweep {
        input: FlipInput::Target,
        from: 0.0,
        ends: [(-FARTHEST, "fainter"), (FARTHEST, "brighter")],
        scales: &target,
    });
    let field = Field { s, paths, shares: paths.iter().map(LightPath::shares).collect(), draws };
    for b in &Basis::all(s, paths) {
        let Some(now) = field.fastest(b, &Scales::ONE) else { continue };
        for sweep in &sweeps {
            out.extend(sweep.ends.iter().filter_map(|end| field.look(b, now, sweep, *end)));
        }
    }
    out
}

/// The first place between two values where the winner is no longer `now`, and who wins there.
fn edge_between(
    from: f64,
    to: f64,
    now: usize,
    winner: &impl Fn(f64) -> Option<usize>,
) -> Option<(f64, usize)> {
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

/// Where a function that is above zero at `near` and below at `far` crosses zero, by false position
/// with the Illinois rule (Dowell & Jarratt 1971). Where it does not change its sign, the end
/// towards which the crossing lies.
fn crossing(near: f64, far: f64, f: &impl Fn(f64) -> f64) -> f64 {
    let (mut a, mut b) = (near, far);
    let (mut fa, mut fb) = (f(a), f(b));
    if fa <= 0.0 {
        return near;
    }
    if fb >= 0.0 {
        return far;
    }
    for _ in 0..12 {
        let x = (a * fb - b * fa) / (fb - fa);
        let fx = f(x);
        if fx.abs() < 1e-4 || (b - a).abs() < 1e-3 {
            return x;
        }
        if fx * fb < 0.0 {
            (a, fa) = (b, fb);
        } else {
            fa /= 2.0;
        }
        (b, fb) = (x, fx);
    }
    b
}

#[cfg(test)]
#[path = "sensitivity_tests.rs"]
mod tests;
