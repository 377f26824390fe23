//! The bench: the evaluation with its words and the points of its time chart, in one answer.

use serde::Serialize;
use std::collections::BTreeMap;
use utoipa::ToSchema;

use crate::decide::copies::copies;
use crate::decide::differences::{differences, named};
use crate::decide::gain::GainDecision;
use crate::decide::goals::wanted;
use crate::decide::study::Study;
use crate::decide::sub::decision::SubDecision;
use crate::decide::uncertainty::draws::{between, stated};
use crate::decide::uncertainty::ranges::QuantityRange;
use crate::evaluate::answer::{ContenderAnswer, Evaluation, ExposureAnswer};
use crate::light::lines::Quantity;
use crate::path::scales::Scales;
use crate::scenario::document::Scenario;
use crate::scenario::target::Known;
use crate::signal::model::LightPath;
use crate::wording::{clock, seconds};

/// Points of a time curve.
const CURVE_POINTS: usize = 49;

/// Everything the bench shows of a scenario.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct BenchAnswer {
    /// The quantity to judge by first; null where no path records any.
    pub first_quantity: Option<Quantity>,
    /// What can be judged, with its names: what the target gives off and one of the paths records.
    pub judged: Vec<JudgedQuantity>,
    /// The numbers.
    pub evaluation: Evaluation,
    /// The words on each row.
    pub rows: Vec<RowWords>,
    /// Signal to noise against clock time, one chart a quantity.
    pub curves: Vec<Curves>,
}

/// A quantity that can be judged.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct JudgedQuantity {
    /// Which.
    pub quantity: Quantity,
    /// Its name on this target: where it has [N II], H-alpha is named with it.
    pub name: &'static str,
}

/// The words on one light path.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct RowWords {
    /// What the path is: "90 mm f/5.5, mono 3.76 um".
    pub rig: String,
    /// The verdict, a sentence a question.
    pub verdicts: Vec<Verdict>,
    /// Difference from the first row, by quantity; empty for the first row itself.
    pub differences: Vec<Verdict>,
    /// Ranges of what it reaches, within what is stated as uncertain.
    pub ranges: BTreeMap<Quantity, QuantityRange>,
}

/// A sentence that answers a question, with its reasons.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Verdict {
    /// The quantity that it is about; null where it is about all of them.
    pub quantity: Option<Quantity>,
    /// What is answered: "Sub", "Time", or a quantity.
    pub question: String,
    /// The answer in a few words, for a strip of answers.
    pub short: String,
    /// The answer.
    pub text: String,
    /// The formulas behind it with the numbers put in, a line each.
    pub reasons: Vec<String>,
}

/// Signal to noise of one quantity against clock time.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Curves {
    /// What is judged.
    pub quantity: Quantity,
    /// Clock times, s, dense at the start: past the given time, and on to where the fastest row
    /// reaches the goal.
    pub clock_s: Vec<f64>,
    /// One curve for each row that records the quantity.
    pub snr: Vec<SnrCurve>,
}

/// One curve of signal to noise.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct SnrCurve {
    /// Index of the contender.
    pub contender: usize,
    /// Signal to noise at each of [`Curves::clock_s`], broken subs counted so that the curve is
    /// smooth.
    pub snr: Vec<f64>,
    /// The curve times this is the low and the high end of its range.
    pub range_factors: [f64; 2],
}

/// Says what a study's scenario comes to.
pub fn bench(study: &Study) -> BenchAnswer {
    let (s, evaluation) = (study.scenario(), &study.evaluation);
    let first = &evaluation.contenders[0];
    let row =
        |(i, (c, ranges)): (usize, (&ContenderAnswer, &BTreeMap<Quantity, QuantityRange>))| {
            RowWords {
                rig: rig(s, i),
                verdicts: verdicts(study, i),
                differences: if i == 0 {
                    Vec::new()
                } else {
                    difference_words(s, first, c, ranges)
                },
                ranges: ranges.clone(),
            }
        };
    let seen = |q: &Quantity| evaluation.contenders.iter().any(|c| c.quantities.contains_key(q));
    let judged = s.target.judged().filter(seen);
    BenchAnswer {
        first_quantity: s.target.first_quantity(|q| seen(&q)),
        judged: judged
            .map(|quantity| JudgedQuantity { quantity, name: s.target.name_of(quantity) })
            .collect(),
        curves: curves(study),
        rows: evaluation.contenders.iter().zip(&study.ranges).enumerate().map(row).collect(),
        evaluation: evaluation.clone(),
    }
}

fn curves(study: &Study) -> Vec<Curves> {
    let s = study.scenario();
    let snr = |p: &LightPath, q: Quantity, clock_s: f64| {
        p.snr(q, clock_s, &p.shares(), &Scales::ONE, &[])
    };
    s.target
        .judged()
        .filter_map(|quantity| {
            let recording: Vec<_> =
                study.model.paths.iter().enumerate().filter(|(_, p)| p.records(quantity)).collect();
            let times = recording.iter().filter_map(|(i, _)| {
                study.evaluation.contenders[*i].quantities.get(&quantity)?.time_to_goal_s
            });
            let fastest = times.min_by(f64::total_cmp)?;
            // The crossing belongs on the chart, unless the given time would shrink to nothing
            // beside it.
            let end = (fastest * 1.15).clamp(s.total_s * 1.5, s.total_s * 6.0);
            let clock_s: Vec<f64> = (0..CURVE_POINTS)
                .map(|i| end * (i as f64 / (CURVE_POINTS - 1) as f64).powi(2))
                .collect();
            let curve = |(contender, p): (usize, &LightPath)| {
                // The square of the signal to noise grows with time, so a range at one time is the
                // same factor at any other.
                let nominal = snr(p, quantity, s.total_s);
                let range = study.ranges[contender].get(&quantity);
                let range_factors =
                    range.map_or([1.0, 1.0], |r| [r.snr.low / nominal, r.snr.high / nominal]);
                SnrCurve {
                    contender,
                    snr: clock_s.iter().map(|&t| snr(p, quantity, t)).collect(),
                    range_factors,
                }
            };
            let snr = recording.into_iter().map(curve).collect();
            Some(Curves { quantity, clock_s, snr })
        })
        .collect()
}

fn rig(s: &Scenario, i: usize) -> String {
    let c = &s.contenders[i];
    let kind = if c.sensor.cfa.is_some() { "colour" } else { "mono" };
    format!(
        "{:.0} mm f/{:.1}, {kind} {} um",
        c.optics.aperture_mm,
        c.optics.focal_ratio(),
        c.sensor.pixel_um
    )
}

fn filter_name(e: &ExposureAnswer) -> &str {
    e.filter.as_deref().unwrap_or("no filter")
}

fn verdicts(study: &Study, at: usize) -> Vec<Verdict> {
    let (s, c, subs, gain) =
        (study.scenario(), &study.evaluation.contenders[at], &study.subs[at], &study.gains[at]);
    let path = &study.model.paths[at];
    let copies = copies(s, &s.contenders[at], path, study.draws.of(at));
    let alone = subs.len() == 1;
    let each: Vec<String> = subs
        .iter()
        .zip(&c.exposures)
        .map(
            |(d, e)| if alone { d.text.clone() } else { format!("{}: {}", filter_name(e), d.text) },
        )
        .collect();
    let reasons = subs
        .iter()
        .zip(&c.exposures)
        .flat_map(|(d, e)| d.reasons.iter().map(move |r| format!("{}: {r}", filter_name(e))));
    let mut reasons: Vec<String> = reasons.collect();
    reasons.extend(swamp_reasons(c));
    let scale = if gain.scale == "ISO" { "ISO" } else { "Gain" };
    vec![
        Verdict {
            quantity: None,
            question: "Sub".into(),
            short: short_subs(subs),
            text: each.join("; "),
            reasons,
        },
        Verdict {
            quantity: None,
            question: scale.into(),
            short: short_gain(gain),
            text: gain.text.clone(),
            reasons: gain.reasons.clone(),
        },
        time_verdict(s, c, &wanted(path), &study.ranges[at], copies),
    ]
}

fn sum_background(ch: &crate::evaluate::answer::ChannelAnswer) -> f64 {
    let r = &ch.rates_e_per_s;
    r.natural + r.artificial + r.moon + r.twilight + r.dark
}

fn swamp_reasons(c: &ContenderAnswer) -> impl Iterator<Item = String> {
    c.exposures.iter().flat_map(|e| {
        e.channels.iter().filter_map(|ch| {
            let t = ch.sub_exposure.excess_5pct_s?;
            Some(format!(
                "{}, {}: read noise adds 5 % at t = 9.76 R² / (B + D) = 9.76 × {:.2}² / {:.4} = {}",
                filter_name(e),
                ch.channel,
                ch.read_noise_e,
                sum_background(ch),
                seconds(t)
            ))
        })
    })
}

/// What is to be said beside a time where the target's own brightness is not known.
fn unknown(known: Option<Known>) -> &'static str {
    match known {
        Some(Known::Typical) => "; for a brightness that is only typical of its kind",
        _ => "",
    }
}

fn time_verdict(
    s: &Scenario,
    c: &ContenderAnswer,
    wanted: &[Quantity],
    ranges: &BTreeMap<Quantity, QuantityRange>,
    copies: Vec<String>,
) -> Verdict {
    // A line that is mixed with a brighter one is no part of the goal: no picture shows it alone.
    let (mut slowest, mut alone) = (None::<(Quantity, f64)>, 0);
    let worth = || named(c).filter(|(q, _)| wanted.contains(q));
    let parts: Vec<String> = worth()
        .map(|(q, a)| match (a.mixed_with, a.time_to_goal_s) {
            (Some(other), _) => {
                format!("{} mixed with {}", s.target.name_of(q), s.target.mixed_name(q, other))
            }
            (None, Some(t)) => {
                alone += 1;
                if slowest.is_none_or(|(_, other)| t > other) {
                    slowest = Some((q, t));
                }
                let range = ranges
                    .get(&q)
                    .and_then(|r| r.time_to_goal_s)
                    .map_or(String::new(), |r| format!(" ({})", between(&r)));
                format!("{} {}{range}", s.target.name_of(q), clock(t))
            }
            (None, None) => {
                alone += 1;
                format!("{} out of reach", s.target.name_of(q))
            }
        })
        .collect();
    let weak = match slowest {
        Some((q, _)) if alone > 1 => format!("; {} is the weak one", s.target.name_of(q)),
        _ => String::new(),
    };
    let text = if parts.is_empty() {
        "records none of the target's light".to_owned()
    } else {
        format!("{}{weak}{}", parts.join(", "), unknown(s.target.known))
    };
    let mut reasons: Vec<String> = worth()
        .filter(|(_, a)| a.mixed_with.is_none())
        .map(|(q, a)| {
            let reach = a.time_to_goal_s.map_or("never".to_owned(), clock);
            let range = ranges
                .get(&q)
                .and_then(|r| r.time_to_goal_s)
                .map_or(String::new(), |r| format!(" ({})", between(&r)));
            format!(
                "{}: SNR {:.1} after {} on {}\" of sky; SNR grows as the square root of time, so \
                    SNR {} takes {reach}{range}",
                s.target.name_of(q),
                a.snr,
                clock(s.total_s),
                s.detail_arcsec,
                s.goal_snr
            )
        })
        .collect();
    reasons.extend(copies);
    reasons.push(format!("Ranges: {}", stated(s)));
    let short = match (slowest, parts.len()) {
        (_, 0) => "records none of it".to_owned(),
        (Some((q, t)), n) if n > 1 => {
            format!("{}, for {}, the slowest", clock(t), s.target.name_of(q))
        }
        (Some((_, t)), _) => clock(t),
        (None, _) => text.clone(),
    };
    let question = format!("Time to SNR {}", s.goal_snr);
    Verdict { quantity: None, question, short, text, reasons }
}

/// The subs of a path's filters in a few words: one for all where one length is as good for each.
fn short_subs(subs: &[SubDecision]) -> String {
    let all = |f: fn(&SubDecision) -> f64, pick: fn(f64, f64) -> f64, from: f64| {
        subs.iter().map(f).fold(from, pick)
    };
    let from_s = all(|d| d.plateau_s[0], f64::max, 0.0);
    let to_s = all(|d| d.plateau_s[1], f64::min, f64::INFINITY);
    let (least_s, most_s) =
        (all(|d| d.advised_s, f64::min, f64::INFINITY), all(|d| d.advised_s, f64::max, 0.0));
    let agreed = from_s < to_s && least_s >= from_s && most_s <= to_s;
    match subs {
        [] => String::new(),
        [d, ..] if agreed && (subs.len() == 1 || most_s < 1.3 * least_s) => {
            let span = format!("{} to {} is as good", seconds(from_s), seconds(to_s));
            let each = if subs.len() == 1 { "" } else { " through each" };
            format!("{}{each}; {span}", seconds(d.advised_s))
        }
        _ => {
            let each = subs.iter().map(|d| {
                let filter = d.filter.as_deref().unwrap_or("no filter");
                format!("{filter} {}", seconds(d.advised_s))
            });
            each.collect::<Vec<_>>().join(", ")
        }
    }
}

/// The advised gain in a few words, beside the one in use where that is another.
fn short_gain(gain: &GainDecision) -> String {
    if (gain.advised - gain.yours).abs() < 1e-9 {
        format!("{}, as you have it", gain.advised)
    } else {
        format!("{} instead of your {}", gain.advised, gain.yours)
    }
}

fn difference_words(
    s: &Scenario,
    baseline: &ContenderAnswer,
    c: &ContenderAnswer,
    ranges: &BTreeMap<Quantity, QuantityRange>,
) -> Vec<Verdict> {
    let all = differences(s, baseline, c, ranges).into_iter();
    all.map(|d| Verdict {
        quantity: Some(d.quantity),
        question: s.target.name_of(d.quantity).to_owned(),
        short: d.text.clone(),
        text: d.text,
        reasons: d.reasons,
    })
    .collect()
}
