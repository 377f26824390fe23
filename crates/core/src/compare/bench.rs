//! The bench: the evaluation with its words and the points of its time chart, in one answer.

use serde::Serialize;
use utoipa::ToSchema;

use super::words::{clock, seconds, times};
use crate::check::Checked;
use crate::evaluate::{ContenderAnswer, Evaluation, ExposureAnswer, Prepared, QuantityAnswer};
use crate::light::{Quantity, Tables};
use crate::scenario::Scenario;

/// Points of a time curve.
const CURVE_POINTS: usize = 49;

/// Everything the bench shows of a scenario.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct BenchAnswer {
    /// The numbers.
    pub evaluation: Evaluation,
    /// The words on each row.
    pub rows: Vec<RowWords>,
    /// Signal to noise against clock time, one chart a quantity.
    pub curves: Vec<Curves>,
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
}

/// A sentence that answers a question, with its reasons.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Verdict {
    /// What is answered: "Sub", "Time", or a quantity.
    pub question: String,
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
    /// Clock times, s, dense at the start: past the given time, and on to where the fastest row reaches the goal.
    pub clock_s: Vec<f64>,
    /// One curve for each row that records the quantity.
    pub snr: Vec<SnrCurve>,
}

/// One curve of signal to noise.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct SnrCurve {
    /// Index of the contender.
    pub contender: usize,
    /// Signal to noise at each of [`Curves::clock_s`], broken subs counted so that the curve is smooth.
    pub snr: Vec<f64>,
}

/// Evaluates a scenario and says what it means.
pub fn bench(scenario: &Checked, tables: &Tables) -> BenchAnswer {
    let prepared = Prepared::new(scenario, tables);
    let evaluation = prepared.answer(scenario);
    let s = scenario.scenario();
    let rows = evaluation
        .contenders
        .iter()
        .enumerate()
        .map(|(i, c)| RowWords {
            rig: rig(s, i),
            verdicts: verdicts(s, c),
            differences: if i == 0 { Vec::new() } else { differences(s, &evaluation.contenders[0], c) },
        })
        .collect();
    BenchAnswer { curves: curves(s, &prepared), evaluation, rows }
}

fn curves(s: &Scenario, prepared: &Prepared) -> Vec<Curves> {
    Quantity::ALL
        .into_iter()
        .filter_map(|quantity| {
            let recording: Vec<_> = prepared.contenders.iter().enumerate().filter(|(_, p)| p.records(quantity)).collect();
            let fastest = recording.iter().filter_map(|(_, p)| p.time_to_goal_s(quantity, s.goal_snr)).min_by(f64::total_cmp)?;
            // The crossing belongs on the chart, unless the given time would shrink to nothing beside it.
            let end = (fastest * 1.15).clamp(s.total_s * 1.5, s.total_s * 6.0);
            let clock_s: Vec<f64> = (0..CURVE_POINTS).map(|i| end * (i as f64 / (CURVE_POINTS - 1) as f64).powi(2)).collect();
            let snr = recording
                .into_iter()
                .map(|(contender, p)| SnrCurve { contender, snr: clock_s.iter().map(|&t| p.snr(quantity, t, false)).collect() })
                .collect();
            Some(Curves { quantity, clock_s, snr })
        })
        .collect()
}

fn rig(s: &Scenario, i: usize) -> String {
    let c = &s.contenders[i];
    let kind = if c.sensor.cfa.is_some() { "colour" } else { "mono" };
    format!("{:.0} mm f/{:.1}, {kind} {} um", c.optics.aperture_mm, c.optics.focal_ratio(), c.sensor.pixel_um)
}

fn filter_name(e: &ExposureAnswer) -> &str {
    e.filter.as_deref().unwrap_or("no filter")
}

fn verdicts(s: &Scenario, c: &ContenderAnswer) -> Vec<Verdict> {
    vec![sub_verdict(s, c), swamp_verdict(c), time_verdict(s, c)]
}

fn each_exposure(c: &ContenderAnswer, say: impl Fn(&ExposureAnswer) -> String) -> String {
    let alone = c.exposures.len() == 1;
    let parts: Vec<_> = c.exposures.iter().map(|e| if alone { say(e) } else { format!("{} {}", filter_name(e), say(e)) }).collect();
    parts.join("; ")
}

fn sub_verdict(s: &Scenario, c: &ContenderAnswer) -> Verdict {
    let text = each_exposure(c, |e| {
        let x = &e.sub_exposure;
        let [from, to] = x.plateau_s;
        let clip = if x.core_clips_s < from && s.target.peak_factor > 1.0 {
            format!(", though the core clips from {}", seconds(x.core_clips_s))
        } else {
            String::new()
        };
        format!("{}, anything from {} to {} is as good{clip}", seconds(x.best_s), seconds(from), seconds(to))
    });
    let reasons = c
        .exposures
        .iter()
        .map(|e| {
            let x = &e.sub_exposure;
            let channel = e.channels.iter().find(|ch| ch.channel == x.channel);
            let (read, r) = channel.map_or((0.0, 0.0), |ch| (ch.read_noise_e, sum_background(ch)));
            format!(
                "{}: most of S² t² e^(-λt) / [((S+B+D) t + R²)(t + o)] per hour of clock lies at {}; R = {read:.2} e-, B + D = {r:.3} e-/s per pixel in channel {}",
                filter_name(e),
                seconds(x.best_s),
                x.channel
            )
        })
        .collect();
    Verdict { question: "Sub".into(), text, reasons }
}

fn sum_background(ch: &crate::evaluate::ChannelAnswer) -> f64 {
    let r = &ch.rates_e_per_s;
    r.natural + r.artificial + r.moon + r.twilight + r.dark
}

fn swamp_verdict(c: &ContenderAnswer) -> Verdict {
    let text = each_exposure(c, |e| match e.sub_exposure.excess_5pct_s {
        Some(t) => format!("read noise adds 5 % at {}", seconds(t)),
        None => "nothing swamps the read noise".to_owned(),
    });
    let reasons = c
        .exposures
        .iter()
        .flat_map(|e| {
            e.channels.iter().filter_map(|ch| {
                let t = ch.sub_exposure.excess_5pct_s?;
                Some(format!(
                    "{}, {}: t = 9.76 R² / (B + D) = 9.76 × {:.2}² / {:.4} = {}",
                    filter_name(e),
                    ch.channel,
                    ch.read_noise_e,
                    sum_background(ch),
                    seconds(t)
                ))
            })
        })
        .collect();
    Verdict { question: "Swamp".into(), text, reasons }
}

/// The quantities of a row that are worth naming: those it was built to record.
fn named(c: &ContenderAnswer) -> impl Iterator<Item = (Quantity, QuantityAnswer)> {
    // A narrow filter records a little continuum too; that is not what it is there for.
    let broad = c.exposures.iter().any(|e| e.equivalent_width_nm > 40.0);
    c.quantities.iter().map(|(q, a)| (*q, *a)).filter(move |(q, _)| broad || *q != Quantity::Continuum)
}

fn time_verdict(s: &Scenario, c: &ContenderAnswer) -> Verdict {
    let mut slowest: Option<(Quantity, f64)> = None;
    let parts: Vec<String> = named(c)
        .map(|(q, a)| match a.time_to_goal_s {
            Some(t) => {
                if slowest.is_none_or(|(_, other)| t > other) {
                    slowest = Some((q, t));
                }
                format!("{} {}", q.label(), clock(t))
            }
            None => format!("{} out of reach", q.label()),
        })
        .collect();
    let weak = match slowest {
        Some((q, _)) if parts.len() > 1 => format!("; {} is the weak one", q.label()),
        _ => String::new(),
    };
    let text = if parts.is_empty() { "records none of the target's light".to_owned() } else { format!("{}{weak}", parts.join(", ")) };
    let reasons = named(c)
        .map(|(q, a)| {
            let reach = a.time_to_goal_s.map_or("never".to_owned(), clock);
            format!(
                "{}: SNR {:.1} after {} on {}\" of sky; SNR grows as the square root of time, so SNR {} takes {reach}",
                q.label(),
                a.snr,
                clock(s.total_s),
                s.detail_arcsec,
                s.goal_snr
            )
        })
        .collect();
    Verdict { question: format!("Time to SNR {}", s.goal_snr), text, reasons }
}

fn differences(s: &Scenario, base: &ContenderAnswer, c: &ContenderAnswer) -> Vec<Verdict> {
    let mut out = Vec::new();
    for q in Quantity::ALL {
        let has = |c: &ContenderAnswer| named(c).find(|(other, _)| *other == q).map(|(_, a)| a);
        let text = match (has(base), has(c)) {
            (Some(a), Some(b)) => match (a.time_to_goal_s, b.time_to_goal_s) {
                (Some(ta), Some(tb)) => format!("{} for the same {}", times(tb / ta), q.label()),
                _ => continue,
            },
            (Some(_), None) => format!("records no {}", q.label()),
            (None, Some(b)) => match b.time_to_goal_s {
                Some(t) => format!("adds {}: SNR {} in {}", q.label(), s.goal_snr, clock(t)),
                None => continue,
            },
            (None, None) => continue,
        };
        let reasons = match (has(base), has(c)) {
            (Some(a), Some(b)) => vec![format!("SNR {:.1} against {:.1} after {}", b.snr, a.snr, clock(s.total_s))],
            _ => Vec::new(),
        };
        out.push(Verdict { question: q.label().to_owned(), text, reasons });
    }
    out
}
