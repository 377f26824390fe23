//! The length of a sub: every school's criterion side by side with what it costs, limits as walls, the chart of information
//! per hour, the conflict of two lines behind one filter, and a second short set for bright cores.

use serde::Serialize;
use utoipa::ToSchema;

use super::choices::{Choices, Purpose, School};
use super::draws::{PathDraws, Range, by_light};
use super::gain::peak_rate;
use super::model::{ChannelModel, ExposureModel, PathModel};
use crate::compare::{clock, seconds};
use crate::exposure::{LONGEST_SUB_S, Plateau, SubTerms, excess_sub_s, plateau, read_noise_excess, star_peak_share, swamp_sub_s};
use crate::integration::subs_in;
use crate::light::Quantity;
use crate::path::Rates;
use crate::scenario::{Contender, Exposure, Scenario};
use crate::sensor::GainPoint;

/// Lengths of a sub on the chart.
const CHART_POINTS: usize = 61;
const CHART_FROM_S: f64 = 0.5;

/// One school's answer.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Criterion {
    /// The school.
    pub school: School,
    /// What it asks for, in a few words.
    pub label: String,
    /// The sub it gives, s; null where it gives none (no sky shines, no limit is set).
    pub sub_s: Option<f64>,
    /// Its range; null where it gives none in some draw.
    pub sub_range_s: Option<Range>,
    /// Information per hour at that sub as a share of the best; null without a sub.
    pub information: Option<f64>,
    /// Whole subs in the exposure's share of the clock.
    pub subs: u32,
    /// Room that the subs take on the disk, GB.
    pub disk_gb: f64,
    /// By how much read noise raises the noise at that sub, as a fraction.
    pub read_noise_excess: Option<f64>,
    /// What the choice costs, in a sentence.
    pub cost: String,
}

/// Where a sub runs into a wall.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Wall {
    /// What happens there.
    pub label: String,
    /// Subs longer than this, s.
    pub beyond_s: f64,
    /// Its range; null for a wall that no light moves.
    pub range_s: Option<Range>,
}

/// What is left open about a sub by what is stated as uncertain.
///
/// Of all that is drawn only the light in the pixel moves the curve of information: R^2 over it is the one figure besides
/// overhead and losses. Best sub and both ends of the plateau grow with that figure, so the draws at one and nine tenths of the
/// light give their ranges.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct SubRange {
    /// The advised sub, s.
    pub advised_s: Range,
    /// The most informative sub, s.
    pub best_s: Range,
    /// Where the plateau begins, s.
    pub from_s: Range,
    /// Where it ends, s.
    pub to_s: Range,
    /// On the plateau at both ends of the range, s; null where the plateaus do not meet.
    pub sure_s: Option<[f64; 2]>,
    /// Share of the best at the sub in use.
    pub yours_information: Range,
}

/// Information per hour of one channel against the length of a sub.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct SubCurve {
    /// `mono`, `r`, `g` or `b`.
    pub channel: &'static str,
    /// The line or continuum it carries most of.
    pub quantity: Quantity,
    /// Share of that channel's best at each of [`SubDecision::chart_s`].
    pub information: Vec<f64>,
    /// The lower edge of its range.
    pub low: Vec<f64>,
    /// The upper edge of its range.
    pub high: Vec<f64>,
    /// Its best sub, s.
    pub best_s: f64,
    /// From and to where it is at least 95 % of its best, s.
    pub plateau_s: [f64; 2],
    /// The target's brightest part clips beyond, s.
    pub core_clips_s: f64,
}

/// Two lines behind one filter.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Conflict {
    /// Whether no sub lies on both plateaus.
    pub apart: bool,
    /// The line in each of the two channels.
    pub quantities: [Quantity; 2],
    /// Share of its best information that each line gets at the sub in use.
    pub at_yours: [f64; 2],
    /// The ranges of these shares.
    pub at_yours_range: [Range; 2],
    /// The one sub that leaves the worse-served line best off, s, and what each then gets.
    pub compromise_s: f64,
    /// Its range, s.
    pub compromise_range_s: Range,
    /// Share of its best that each line gets at the compromise.
    pub at_compromise: [f64; 2],
    /// Share of its best that the worse-served line gets from two sets of subs, half the clock each.
    pub two_sets: f64,
    /// What it means, in a sentence.
    pub text: String,
}

/// A second set of short subs for a bright core.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct ShortSet {
    /// Length of a short sub, s.
    pub sub_s: f64,
    /// Its range, s.
    pub sub_range_s: Range,
    /// How many.
    pub subs: u32,
    /// Their time on the clock, s.
    pub clock_s: f64,
    /// Why, in a sentence.
    pub text: String,
}

/// The decision on one exposure's sub.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct SubDecision {
    /// Name of the filter; null for none.
    pub filter: Option<String>,
    /// The sub in use, s.
    pub yours_s: f64,
    /// Information per hour at the sub in use, as a share of the best.
    pub yours_information: f64,
    /// What the chosen school says, within the limits, s.
    pub advised_s: f64,
    /// The most informative sub, s.
    pub best_s: f64,
    /// The range in which the choice does not matter, s.
    pub plateau_s: [f64; 2],
    /// What is uncertain about it.
    pub range: SubRange,
    /// Every school.
    pub criteria: Vec<Criterion>,
    /// Clips, the mount, the disk.
    pub walls: Vec<Wall>,
    /// Lengths of a sub on the chart, s, evenly spaced in their logarithm.
    pub chart_s: Vec<f64>,
    /// A curve for each channel that carries the target's light.
    pub curves: Vec<SubCurve>,
    /// Two lines behind one filter; null where there is one.
    pub conflict: Option<Conflict>,
    /// A short second set; null where nothing clips.
    pub short_set: Option<ShortSet>,
    /// The answer in a sentence.
    pub text: String,
    /// The formulas behind it with their numbers.
    pub reasons: Vec<String>,
}

/// Everything that a decision on a sub looks at.
struct View<'a> {
    s: &'a Scenario,
    choices: &'a Choices,
    contender: &'a Contender,
    exposure: &'a Exposure,
    path: &'a PathModel,
    at: usize,
    model: &'a ExposureModel,
    gain: &'a GainPoint,
}

/// One channel's terms at one tenth, half and nine tenths of the light that was drawn, with the plateau of each.
struct Spread([(SubTerms, Plateau); 3]);

impl Spread {
    fn new(v: &View, rates: Vec<Rates>) -> Self {
        Self(by_light(rates).map(|r| {
            let terms = v.path.sub_terms(&r, v.gain);
            (terms, plateau(&terms))
        }))
    }

    fn of(&self, f: impl Fn(&Plateau) -> f64) -> Range {
        Range::of_three([0, 1, 2].map(|i| f(&self.0[i].1)))
    }

    /// Share of the best at a sub of `t` seconds. Where the best sub passes over `t` within the range, the share reaches one.
    fn share(&self, t: f64) -> Range {
        let [a, middle, b] = [0, 1, 2].map(|i| self.0[i].0.information(t) / self.0[i].0.information(self.0[i].1.best_s));
        let r = Range::of_three([a, middle, b]);
        let passes = self.0[2].1.best_s <= t && t <= self.0[0].1.best_s;
        if passes { Range { high: 1.0, ..r } } else { r }
    }
}

impl View<'_> {
    /// The sub in which the brightest part of the target reaches the accepted filling of a pixel, s.
    fn core_clips_s(&self, r: &Rates) -> f64 {
        self.choices.core_fill * self.gain.full_scale_e / peak_rate(self.s, r).max(1e-12)
    }

    /// The sub in which a star of the chosen magnitude clips, s.
    fn star_clips_s(&self, r: &Rates) -> f64 {
        let star = r.star_v0
            * star_peak_share(self.s.seeing_fwhm_arcsec, self.path.scale_arcsec)
            * 10f64.powf(-0.4 * self.choices.star_clips_v_mag);
        self.gain.full_scale_e / (star + r.background() + r.dark).max(1e-12)
    }

    fn clock_s(&self) -> f64 {
        self.s.total_s * self.model.share
    }

    /// Subs longer than this are too few to reject outliers from, s; nothing where no length gives enough.
    fn frames_wall_s(&self) -> f64 {
        self.clock_s() / self.choices.least_frames - self.path.between_s
    }

    fn gb_per_sub(&self) -> f64 {
        let bytes = if self.contender.sensor.bits > 8 { 2.0 } else { 1.0 };
        f64::from(self.contender.sensor.columns) * f64::from(self.contender.sensor.rows) * bytes / 1e9
    }

    /// The shortest sub with which the clock's share fits on the disk, s.
    fn disk_from_s(&self) -> Option<f64> {
        let most = (self.choices.disk_gb? * self.model.share / self.gb_per_sub()).max(1.0);
        Some((self.clock_s() / most - self.path.between_s).max(0.0))
    }
}

/// The quantity that a channel carries most light of.
fn main_quantity(c: &ChannelModel) -> Option<Quantity> {
    let r = c.nominal();
    Quantity::ALL.into_iter().filter(|q| c.records[*q as usize]).max_by(|a, b| r.of(*a).total_cmp(&r.of(*b)))
}

fn view<'a>(s: &'a Scenario, contender: &'a Contender, at: usize, path: &'a PathModel, gain: &'a GainPoint) -> View<'a> {
    View { s, choices: &s.choices, contender, exposure: &contender.exposures[at], path, at, model: &path.exposures[at], gain }
}

/// The sub by the chosen school and purpose under one state of sky and target, within the mount's limit, s.
fn advised(v: &View, deciding: &ChannelModel, r: &Rates) -> f64 {
    let longest = v.path.longest_s.unwrap_or(LONGEST_SUB_S);
    let best = || plateau(&v.path.sub_terms(r, v.gain));
    let wanted = match v.choices.school {
        _ if v.choices.purpose == Purpose::Live => v.choices.live_sub_s,
        // Anywhere on the plateau is as good: rather there where enough frames fit and the core does not clip.
        School::Best => {
            let p = best();
            p.best_s.min(v.frames_wall_s()).min(v.core_clips_s(r)).max(p.from_s)
        }
        school => school_sub(v, deciding, school, r).unwrap_or_else(|| best().best_s),
    };
    wanted.min(longest)
}

/// The advised sub of one exposure at one gain under given rates of its deciding channel, s.
pub(super) fn advised_sub_s(s: &Scenario, contender: &Contender, at: usize, path: &PathModel, gain: &GainPoint, rates: &Rates) -> f64 {
    let v = view(s, contender, at, path, gain);
    advised(&v, v.model.deciding(), rates)
}

/// Decides the sub of one exposure at one gain.
pub fn decide_sub(s: &Scenario, contender: &Contender, at: usize, path: &PathModel, gain: &GainPoint, draws: PathDraws) -> SubDecision {
    let view = view(s, contender, at, path, gain);
    let deciding = view.model.deciding();
    let terms = path.sub_terms(deciding.nominal(), gain);
    let p = plateau(&terms);
    let most = terms.information(p.best_s);
    let share = |t: f64| terms.information(t) / most;
    let drawn = draws.rates(deciding, at);
    let criteria: Vec<Criterion> = School::ALL.into_iter().map(|school| criterion(&view, deciding, school, &share, &drawn)).collect();
    let live = s.choices.purpose == Purpose::Live;
    let advised_s = advised(&view, deciding, deciding.nominal());
    let yours = view.exposure.sub_s;
    let yours_information = share(yours);
    let range = sub_range(&view, deciding, drawn);
    let chart_s = chart_lengths(path.longest_s.unwrap_or(LONGEST_SUB_S));
    let curves: Vec<SubCurve> = view.model.channels.iter().filter_map(|c| curve(&view, c, &chart_s, draws)).collect();
    let walls = walls(&view, draws);
    let conflict = conflict(&view, draws);
    let short_set = short_set(&view, advised_s, draws);
    let text = words(&view, &p, advised_s, yours_information, live, &range);
    let r = deciding.nominal();
    let mut reasons = vec![
        format!(
            "Most of S² t² e^(-λt) / [((S+B+D) t + R²)(t + o)] lies at {}: S+B+D = {:.4} e-/s, R = {:.2} e-, o = {:.1} s, λ = {} per hour, channel {}.",
            seconds(p.best_s),
            r.total(),
            gain.read_noise_e,
            path.between_s,
            path.loss_per_hour,
            deciding.name
        ),
        format!(
            "At {} it is {:.0} % of that, at {} again: between them the choice does not matter.",
            seconds(p.from_s),
            95.0,
            seconds(p.to_s)
        ),
        format!("Your {}: {:.0} % of the best.", seconds(yours), yours_information * 100.0),
    ];
    if range.best_s.is_open() || range.from_s.is_open() {
        reasons.push(format!(
            "With sky and target as uncertain as stated the best sub is {}, the plateau begins at {} and ends at {}; yours gives {:.0} to {:.0} %.",
            span(&range.best_s),
            span(&range.from_s),
            span(&range.to_s),
            range.yours_information.low * 100.0,
            range.yours_information.high * 100.0,
        ));
    }
    SubDecision {
        filter: view.exposure.filter.as_ref().map(|f| f.name.clone()),
        yours_s: yours,
        yours_information,
        advised_s,
        best_s: p.best_s,
        plateau_s: [p.from_s, p.to_s],
        range,
        criteria,
        walls,
        chart_s,
        curves,
        conflict,
        short_set,
        text,
        reasons,
    }
}

/// A range of lengths in words: "240 to 410 s".
pub(super) fn span(r: &Range) -> String {
    let (low, high) = (seconds(r.low), seconds(r.high));
    if low == high { low } else { format!("{} to {high}", low.trim_end_matches(" s")) }
}

fn sub_range(v: &View, deciding: &ChannelModel, drawn: Vec<Rates>) -> SubRange {
    let three = || Range::of_three(by_light(drawn.clone()).map(|r| advised(v, deciding, &r)));
    // What a school asks for is solved in a line: every draw is asked. The optimum is searched: three draws do.
    let advised_s = match v.choices.school {
        School::Best => three(),
        _ => Range::of(drawn.iter().map(|r| advised(v, deciding, r)).collect()).unwrap_or_else(three),
    };
    let spread = Spread::new(v, drawn);
    let (from_s, to_s) = (spread.of(|p| p.from_s), spread.of(|p| p.to_s));
    SubRange {
        advised_s,
        best_s: spread.of(|p| p.best_s),
        from_s,
        to_s,
        sure_s: (from_s.high < to_s.low).then_some([from_s.high, to_s.low]),
        yours_information: spread.share(v.exposure.sub_s),
    }
}

fn curve(v: &View, c: &ChannelModel, chart_s: &[f64], draws: PathDraws) -> Option<SubCurve> {
    let quantity = main_quantity(c)?;
    let terms = v.path.sub_terms(c.nominal(), v.gain);
    let p = plateau(&terms);
    let most = terms.information(p.best_s);
    let information: Vec<f64> = chart_s.iter().map(|&t| terms.information(t) / most).collect();
    let spread = Spread::new(v, draws.rates(c, v.at));
    let band: Vec<Range> = chart_s.iter().map(|&t| spread.share(t)).collect();
    Some(SubCurve {
        channel: c.name,
        quantity,
        low: band.iter().zip(&information).map(|(b, i)| b.low.min(*i)).collect(),
        high: band.iter().zip(&information).map(|(b, i)| b.high.max(*i)).collect(),
        information,
        best_s: p.best_s,
        plateau_s: [p.from_s, p.to_s],
        core_clips_s: v.core_clips_s(c.nominal()),
    })
}

fn chart_lengths(longest_s: f64) -> Vec<f64> {
    let ratio = (longest_s.max(60.0) * 2.0 / CHART_FROM_S).powf(1.0 / (CHART_POINTS - 1) as f64);
    (0..CHART_POINTS).map(|i| CHART_FROM_S * ratio.powi(i as i32)).collect()
}

/// What a school asks for under one state of sky and target, s; `None` where it gives no length.
fn school_sub(v: &View, deciding: &ChannelModel, school: School, r: &Rates) -> Option<f64> {
    let c = v.choices;
    let terms = v.path.sub_terms(r, v.gain);
    let background = r.background() + r.dark;
    let sub_s = match school {
        School::Best => Some(plateau(&terms).best_s),
        School::Excess => excess_sub_s(&terms, c.excess),
        School::Swamp => swamp_sub_s(&terms, c.swamp_factor),
        School::HistogramAdu => (background > 0.0).then(|| c.histogram_adu * v.gain.e_per_adu / background),
        School::HistogramFraction => (background > 0.0).then(|| c.histogram_fraction * v.gain.full_scale_e / background),
        School::TestShot => test_shot_s(v, deciding, r),
        School::Longest => v.path.longest_s.map(|l| l.min(v.core_clips_s(r))),
        School::ManyFrames => Some(v.frames_wall_s()),
    };
    sub_s.filter(|t| t.is_finite() && *t > 0.0)
}

fn school_label(v: &View, school: School) -> String {
    let c = v.choices;
    match school {
        School::Best => "most information per hour".into(),
        School::Excess => format!("read noise adds {:.0} %", c.excess * 100.0),
        School::Swamp => format!("sky is {} × read noise²", c.swamp_factor),
        School::HistogramAdu => format!("peak {:.0} ADU above the offset", c.histogram_adu),
        School::HistogramFraction => format!("peak at {:.0} % of full scale", c.histogram_fraction * 100.0),
        School::TestShot if v.exposure.test_frame.is_some() => "your test frame, sky 10 × read noise²".into(),
        School::TestShot => format!("target faintly seen (SNR {})", c.faint_snr),
        School::Longest => "as long as the mount holds".into(),
        School::ManyFrames => format!("{:.0} frames or more", c.least_frames),
    }
}

fn criterion(v: &View, deciding: &ChannelModel, school: School, share: &impl Fn(f64) -> f64, drawn: &[Rates]) -> Criterion {
    let r = deciding.nominal();
    let sub_s = school_sub(v, deciding, school, r);
    let sub_range_s = match school {
        School::Best => Some(Range::of_three(by_light(drawn.to_vec()).map(|r| plateau(&v.path.sub_terms(&r, v.gain)).best_s))),
        _ => drawn.iter().map(|r| school_sub(v, deciding, school, r)).collect::<Option<Vec<f64>>>().and_then(Range::of),
    };
    let information = sub_s.map(share);
    let subs = sub_s.map_or(0.0, |t| subs_in(v.clock_s(), t, v.path.between_s));
    Criterion {
        school,
        label: school_label(v, school),
        sub_s,
        sub_range_s,
        information,
        subs: subs as u32,
        disk_gb: subs * v.gb_per_sub(),
        read_noise_excess: sub_s.filter(|_| r.total() > 0.0).map(|t| read_noise_excess(v.gain.read_noise_e, r.total(), t)),
        cost: cost(v, r, sub_s, information, subs),
    }
}

/// The shortest sub that shows the target faintly, or, from a test frame, that swamps the read noise ten times. What a frame
/// measured is not uncertain.
fn test_shot_s(v: &View, deciding: &ChannelModel, r: &Rates) -> Option<f64> {
    let r2 = v.gain.read_noise_e.powi(2);
    if let Some(frame) = v.exposure.test_frame {
        let measured = (frame.background_adu - v.contender.sensor.offset_adu) * v.gain.e_per_adu / frame.sub_s;
        return (measured > 0.0).then(|| 10.0 * r2 / measured);
    }
    // SNR = S t n / sqrt((rate t + R^2) n) = k, solved for t.
    let (signal, n, k2) = (r.target_sum() * deciding.pixels, deciding.pixels, v.choices.faint_snr.powi(2));
    let b = k2 * n * r.total();
    (signal > 0.0).then(|| (b + (b * b + 4.0 * signal * signal * k2 * n * r2).sqrt()) / (2.0 * signal * signal))
}

fn cost(v: &View, r: &Rates, sub_s: Option<f64>, information: Option<f64>, subs: f64) -> String {
    let (Some(t), Some(share)) = (sub_s, information) else { return "Gives no length here.".into() };
    let mut parts = Vec::new();
    let core = v.core_clips_s(r);
    if t > core {
        parts.push(format!("the core clips from {}", seconds(core)));
    }
    if v.path.longest_s.is_some_and(|l| t > l) {
        parts.push("longer than the mount holds".into());
    }
    match subs {
        n if n < 1.0 => parts.push("not one fits into its share of the clock".into()),
        n if n < 2.0 => parts.push("only one frame".into()),
        n if n < v.choices.least_frames => parts.push(format!("only {n:.0} frames to reject outliers from")),
        _ => {}
    }
    if v.disk_from_s().is_some_and(|least| t < least) {
        parts.push("more than the disk holds".into());
    }
    let lost = 1.0 / share - 1.0;
    if lost > 0.05 {
        parts.push(format!("{:.0} % more time for the same picture", lost * 100.0));
    }
    match parts.is_empty() {
        true => "Costs nothing: on the plateau.".into(),
        false => {
            let text = parts.join("; ");
            let mut letters = text.chars();
            letters.next().map_or(String::new(), |l| l.to_uppercase().chain(letters).collect::<String>() + ".")
        }
    }
}

fn walls(v: &View, draws: PathDraws) -> Vec<Wall> {
    let mut out = Vec::new();
    let mut by_light = |label: String, f: &dyn Fn(&Rates) -> f64| {
        let beyond_s = fastest(v, f);
        out.push(Wall { label, beyond_s, range_s: Some(fastest_range(v, draws, f)) });
    };
    if v.s.target.peak_factor > 1.0 || v.choices.core_fill < 1.0 {
        by_light("core clips".into(), &|r| v.core_clips_s(r));
    }
    by_light(format!("stars of V {} clip", v.choices.star_clips_v_mag), &|r| v.star_clips_s(r));
    if let Some(limit) = v.path.longest_s {
        out.push(Wall { label: "mount's limit".into(), beyond_s: limit, range_s: None });
    }
    let frames = v.frames_wall_s();
    if frames > 0.0 {
        out.push(Wall { label: format!("under {:.0} frames", v.choices.least_frames), beyond_s: frames, range_s: None });
    }
    out
}

/// The least over the channels of what a function gives for each.
fn fastest(v: &View, f: &dyn Fn(&Rates) -> f64) -> f64 {
    v.model.channels.iter().map(|c| f(c.nominal())).fold(f64::INFINITY, f64::min)
}

fn fastest_range(v: &View, draws: PathDraws, f: &dyn Fn(&Rates) -> f64) -> Range {
    draws.range(|scales, centres| {
        let centre = centres.get(v.at).copied().unwrap_or(0.0);
        v.model.channels.iter().map(|c| f(&c.rates(scales, centre))).fold(f64::INFINITY, f64::min)
    })
}

/// The one sub that leaves the worse-served of two channels best off, s.
fn compromise(ta: &SubTerms, tb: &SubTerms, pa: &Plateau, pb: &Plateau) -> f64 {
    let (most_a, most_b) = (ta.information(pa.best_s), tb.information(pb.best_s));
    let worse = |t: f64| (ta.information(t) / most_a).min(tb.information(t) / most_b);
    // Between the two best subs the lesser of two single-peaked curves has one peak.
    let (mut lo, mut hi) = (pa.best_s.min(pb.best_s).ln(), pa.best_s.max(pb.best_s).ln());
    for _ in 0..40 {
        let (m1, m2) = (lo + (hi - lo) / 3.0, hi - (hi - lo) / 3.0);
        if worse(m1.exp()) < worse(m2.exp()) { lo = m1 } else { hi = m2 }
    }
    ((lo + hi) / 2.0).exp()
}

fn conflict(v: &View, draws: PathDraws) -> Option<Conflict> {
    let mut lines: Vec<(Quantity, &ChannelModel)> = Vec::new();
    for q in Quantity::ALL.into_iter().filter(|q| *q != Quantity::Continuum) {
        let leading = v.model.leading(q);
        if leading.records[q as usize] && leading.nominal().of(q) > 0.0 && lines.iter().all(|(_, c)| c.name != leading.name) {
            lines.push((q, leading));
        }
    }
    let [(qa, a), (qb, b)] = lines[..] else { return None };
    let (ta, tb) = (v.path.sub_terms(a.nominal(), v.gain), v.path.sub_terms(b.nominal(), v.gain));
    let (pa, pb) = (plateau(&ta), plateau(&tb));
    let share = |t: f64| [ta.information(t) / ta.information(pa.best_s), tb.information(t) / tb.information(pb.best_s)];
    let compromise_s = compromise(&ta, &tb, &pa, &pb);
    let spreads = [a, b].map(|c| Spread::new(v, draws.rates(c, v.at)));
    let compromises = [0, 1, 2].map(|i| {
        let ((ta, pa), (tb, pb)) = (&spreads[0].0[i], &spreads[1].0[i]);
        compromise(ta, tb, pa, pb)
    });
    let at_compromise = share(compromise_s);
    let (one, two) = (share(pa.best_s), share(pb.best_s));
    let two_sets = ((one[0] + two[0]) / 2.0).min((one[1] + two[1]) / 2.0);
    let apart = pa.from_s.max(pb.from_s) > pa.to_s.min(pb.to_s);
    let at_yours = share(v.exposure.sub_s);
    let clips = [(qa, v.core_clips_s(a.nominal()), at_yours[0]), (qb, v.core_clips_s(b.nominal()), at_yours[1])];
    let sub = v.exposure.sub_s;
    let suffers = |i: usize| format!("{} loses {:.0} % of its information", clips[i].0.label(), (1.0 - clips[i].2) * 100.0);
    let text = match (clips.iter().position(|c| sub > c.1), apart) {
        (Some(i), _) => {
            format!("At {} the core clips in {} (from {}) while {}.", seconds(sub), clips[i].0.label(), seconds(clips[i].1), suffers(1 - i))
        }
        (None, false) => format!(
            "One sub serves both lines: anything from {} to {} is on both plateaus.",
            seconds(pa.from_s.max(pb.from_s)),
            seconds(pa.to_s.min(pb.to_s))
        ),
        (None, true) => {
            let i = usize::from(at_yours[1] < at_yours[0]);
            let gain = two_sets - at_compromise[0].min(at_compromise[1]);
            let sets = if gain > 0.02 {
                format!("; two sets would give the worse line {:.0} % more", gain * 100.0)
            } else {
                "; two sets would gain nothing".into()
            };
            format!("No sub is on both plateaus: at {} {}, {} is fairer{sets}.", seconds(sub), suffers(i), seconds(compromise_s))
        }
    };
    Some(Conflict {
        apart,
        quantities: [qa, qb],
        at_yours,
        at_yours_range: [0, 1].map(|i| spreads[i].share(sub)),
        compromise_s,
        compromise_range_s: Range::of_three(compromises),
        at_compromise,
        two_sets,
        text,
    })
}

fn short_set(v: &View, advised_s: f64, draws: PathDraws) -> Option<ShortSet> {
    if v.s.target.peak_factor <= 1.0 {
        return None;
    }
    let core = |r: &Rates| v.core_clips_s(r);
    let clips_s = fastest(v, &core);
    if advised_s <= clips_s {
        return None;
    }
    let sub_s = (0.7 * clips_s).max(0.001);
    let subs = v.choices.least_frames.ceil();
    let clock_s = subs * (sub_s + v.path.between_s);
    let sub_range_s = fastest_range(v, draws, &core).map(|t| (0.7 * t).max(0.001));
    let text = format!(
        "At {} the core clips (from {}): add {subs:.0} subs of {}{}, {} on the clock, and lay them over the core.",
        seconds(advised_s),
        seconds(clips_s),
        seconds(sub_s),
        if sub_range_s.is_open() { format!(" ({} as the core may be)", span(&sub_range_s)) } else { String::new() },
        clock(clock_s)
    );
    Some(ShortSet { sub_s, sub_range_s, subs: subs as u32, clock_s, text })
}

fn words(v: &View, p: &Plateau, advised_s: f64, yours: f64, live: bool, open: &SubRange) -> String {
    let uncertain = match open.sure_s {
        _ if !open.from_s.is_open() && !open.to_s.is_open() => String::new(),
        Some([from, to]) => format!(" ({} in eight cases of ten)", span(&Range { low: from, middle: to, high: to })),
        None => format!(" (the best lies at {})", span(&open.best_s)),
    };
    let range = format!("anything from {} to {} is as good{uncertain}", seconds(p.from_s), seconds(p.to_s));
    let mut text = if live {
        format!("{} for live viewing; for a stack {range}", seconds(advised_s))
    } else if (p.from_s..=p.to_s).contains(&advised_s) {
        format!("{}, {range}", seconds(advised_s))
    } else {
        let by = if open.advised_s.is_open() { format!(" ({})", span(&open.advised_s)) } else { String::new() };
        format!("{}{by} by your school, though {range}", seconds(advised_s))
    };
    if yours < 0.95 {
        text += &format!("; your {} takes {:.0} % more time", seconds(v.exposure.sub_s), (1.0 / yours - 1.0) * 100.0);
    }
    let core = fastest(v, &|r| v.core_clips_s(r));
    if v.s.target.peak_factor > 1.0 && core < advised_s {
        text += &format!("; the core clips from {}", seconds(core));
    }
    text
}
