//! The decision on one exposure's sub: what is advised, how wide the good range is, and the
//! sentence that says so.

use crate::decide::sub::frame;
use serde::Serialize;
use utoipa::ToSchema;

use crate::decide::sub::conflict::{Conflict, ShortSet, conflict, short_set};
use crate::decide::sub::criteria::{Criterion, SubLimit, advised, criterion, limits};
use crate::decide::sub::frame::FrameTold;
use crate::decide::sub::view::{Spread, View, fastest, main_quantity, view};
use crate::decide::uncertainty::draws::{PathDraws, Range, by_light, span};
use crate::light::lines::Quantity;
use crate::path::rates::Rates;
use crate::path::sensor::GainPoint;
use crate::scenario::choices::{Purpose, SubCriterion};
use crate::scenario::document::Scenario;
use crate::scenario::rig::Contender;
use crate::signal::channel::ChannelModel;
use crate::signal::model::LightPath;
use crate::signal::sub::{LONGEST_SUB_S, Plateau, plateau};
use crate::wording::seconds;

/// Lengths of a sub on the chart.
pub(super) const CHART_POINTS: usize = 61;

const CHART_FROM_S: f64 = 0.5;

/// What is left open about a sub by what is stated as uncertain.
///
/// Of all that is drawn only the light in the pixel moves the curve of information: R^2 over it is
/// the one figure besides overhead and losses. Best sub and both ends of the plateau grow with that
/// figure, so the draws at one and nine tenths of the light give their ranges.
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
    /// The test frame against the model; null where there is none.
    pub test_frame: Option<FrameTold>,
    /// Every school.
    pub criteria: Vec<Criterion>,
    /// Clips, the mount, the disk.
    pub limits: Vec<SubLimit>,
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

/// A larger share of the background that is dark current is said.
const DARK_WORTH_SAYING: f64 = 0.1;

/// Decides the sub of one exposure at one gain.
pub fn decide_sub(
    s: &Scenario,
    contender: &Contender,
    at: usize,
    path: &LightPath,
    gain: &GainPoint,
    draws: PathDraws,
) -> SubDecision {
    let view = view(s, contender, at, path, gain);
    let deciding = view.model.deciding();
    let terms = view.model.instrument.sub_terms_at(deciding.nominal(), gain);
    let p = plateau(&terms);
    let most = terms.information(p.best_s);
    // A sub that is longer than the mount holds gathers no more than all there is to be had.
    let share = |t: f64| (terms.information(t) / most).min(1.0);
    let drawn = draws.rates(deciding, at);
    let criteria: Vec<Criterion> = SubCriterion::ALL
        .into_iter()
        .map(|school| criterion(&view, deciding, school, &share, &drawn))
        .collect();
    let live = s.choices.purpose == Purpose::Live;
    let advised_s = advised(&view, deciding, deciding.nominal());
    let yours = view.exposure.sub_s;
    let yours_information = share(yours);
    let range = sub_range(&view, deciding, drawn);
    let chart_s = chart_lengths(path.instrument.longest_s.unwrap_or(LONGEST_SUB_S));
    let curves: Vec<SubCurve> =
        view.model.channels.iter().filter_map(|c| curve(&view, c, &chart_s, draws)).collect();
    let limits = limits(&view, draws);
    let conflict = conflict(&view, draws);
    let short_set = short_set(&view, advised_s, draws);
    let text = words(&view, &p, advised_s, yours_information, live, &range);
    let r = deciding.nominal();
    let mut reasons = vec![
        format!(
            "Most of S² t² e^(-λt) / [((S+B+D) t + R²)(t + o)] lies at {}: S+B+D = {:.4} e-/s, R = \
                {:.2} e-, o = {:.1} s, λ = {} per hour, channel {}.",
            seconds(p.best_s),
            r.total(),
            gain.read_noise_e,
            path.instrument.between_s,
            path.instrument.loss_per_hour,
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
    let dark = r.dark / (r.background() + r.dark);
    if dark > DARK_WORTH_SAYING {
        let t = contender.sensor_temperature(s.sky.ambient_c);
        reasons.push(format!(
            "{:.0} % of the background is dark current: {:.4} e-/s at {t:.0} °C.",
            dark * 100.0,
            r.dark
        ));
    }
    reasons.extend(moves(&view));
    reasons.extend(put_together(&view));
    if range.best_s.is_open() || range.from_s.is_open() {
        reasons.push(format!(
            "With sky and target as uncertain as stated the best sub is {}, the plateau begins at \
                {} and ends at {}; yours gives {:.0} to {:.0} %.",
            span(&range.best_s),
            span(&range.from_s),
            span(&range.to_s),
            range.yours_information.low * 100.0,
            range.yours_information.high * 100.0,
        ));
    }
    SubDecision {
        test_frame: frame::told(&view, deciding),
        filter: view.exposure.filter.as_ref().map(|f| f.name.clone()),
        yours_s: yours,
        yours_information,
        advised_s,
        best_s: p.best_s,
        plateau_s: [p.from_s, p.to_s],
        range,
        criteria,
        limits,
        chart_s,
        curves,
        conflict,
        short_set,
        text,
        reasons,
    }
}

/// What moving the field costs as it is done, and after every sub; nothing where it is not told
/// apart from the other overhead.
fn moves(v: &View) -> Option<String> {
    let dither = v.contender.dither?;
    let (n, sub_s) = (dither.every.max(1), v.exposure.sub_s);
    let besides = v.contender.between_s() - dither.cost_s / f64::from(n);
    let lost = |every: f64| {
        let move_s = dither.cost_s / every;
        100.0 * move_s / (sub_s + besides + move_s)
    };
    let places = |every: f64| {
        let subs = v.clock_s() / (sub_s + besides + dither.cost_s / every);
        (subs / every).floor().max(1.0)
    };
    let own = f64::from(n);
    let now = format!("takes {:.1} % of the clock and gives {:.0} places", lost(own), places(own));
    Some(match n {
        1 => format!(
            "Moving the field after every sub {now}; after every third it would be {:.1} % and \
                {:.0}.",
            lost(3.0),
            places(3.0)
        ),
        _ => format!(
            "Moving the field after every {n} subs {now} for fixed patterns to average over; after \
                every sub it would be {:.1} % and {:.0}.",
            lost(1.0),
            places(1.0)
        ),
    })
}

/// What putting pixels together costs in detail.
fn put_together(v: &View) -> Option<String> {
    let i = &v.model.instrument;
    (i.binning > 1.0).then(|| {
        let (n, scale) = (i.binning, i.scale_arcsec * i.binning);
        format!(
            "{n} x {n} pixels put together are {scale:.1}\" wide: detail finer than {:.1}\" is lost, \
                and a star of {:.1}\" is {:.1} of them across.",
            2.0 * scale,
            i.star_fwhm_arcsec,
            i.star_fwhm_arcsec / scale
        )
    })
}

fn sub_range(v: &View, deciding: &ChannelModel, drawn: Vec<Rates>) -> SubRange {
    let three = || Range::of_three(by_light(drawn.clone()).map(|r| advised(v, deciding, &r)));
    // What a school asks for is solved in a line: every draw is asked. The optimum is searched:
    // three draws do.
    let advised_s = match v.choices.school {
        SubCriterion::Best => three(),
        _ => {
            Range::of(drawn.iter().map(|r| advised(v, deciding, r)).collect()).unwrap_or_else(three)
        }
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
    let terms = v.model.instrument.sub_terms_at(c.nominal(), v.gain);
    let p = plateau(&terms);
    let most = terms.information(p.best_s);
    let information: Vec<f64> =
        chart_s.iter().map(|&t| (terms.information(t) / most).min(1.0)).collect();
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

pub(super) fn chart_lengths(longest_s: f64) -> Vec<f64> {
    let ratio = (longest_s.max(60.0) * 2.0 / CHART_FROM_S).powf(1.0 / (CHART_POINTS - 1) as f64);
    (0..CHART_POINTS).map(|i| CHART_FROM_S * ratio.powi(i as i32)).collect()
}

fn words(v: &View, p: &Plateau, advised_s: f64, yours: f64, live: bool, open: &SubRange) -> String {
    let uncertain = match open.sure_s {
        _ if !open.from_s.is_open() && !open.to_s.is_open() => String::new(),
        Some([from, to]) => {
            format!(" ({} in eight cases of ten)", span(&Range { low: from, middle: to, high: to }))
        }
        None => format!(" (the best lies at {})", span(&open.best_s)),
    };
    let core = fastest(v, &|r| v.core_clips_s(r));
    let clips = v.s.target.peak_factor > 1.0 && core < p.to_s;
    let mount = v.model.instrument.longest_s.is_some_and(|limit| p.to_s >= limit * 0.999_999);
    let (from, to) = (seconds(p.from_s), seconds(p.to_s));
    let range = if clips && core > p.from_s {
        format!(
            "anything from {from} to {} is as good{uncertain}: from there to {to} as much is \
                gathered, but the core clips",
            seconds(core)
        )
    } else if clips {
        format!("{from} to {to} gathers the most{uncertain}, with the core clipped in all of it")
    } else if mount {
        format!("anything from {from} to the mount's {to} is as good{uncertain}")
    } else {
        format!("anything from {from} to {to} is as good{uncertain}")
    };
    let mut text = if live {
        format!("{} for live viewing; for a stack {range}", seconds(advised_s))
    } else if (p.from_s..=p.to_s).contains(&advised_s) {
        format!("{}, {range}", seconds(advised_s))
    } else {
        let by = if open.advised_s.is_open() {
            format!(" ({})", span(&open.advised_s))
        } else {
            String::new()
        };
        format!("{}{by} by your school, though {range}", seconds(advised_s))
    };
    if yours < 0.95 {
        text += &format!(
            "; your {} takes {:.0} % more time",
            seconds(v.exposure.sub_s),
            (1.0 / yours - 1.0) * 100.0
        );
    }
    if clips && core < advised_s {
        text += &format!("; the core clips from {}", seconds(core));
    }
    text
}
