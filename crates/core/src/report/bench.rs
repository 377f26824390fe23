//! The bench: the evaluation with its words and the points of its time chart, in one answer.

use serde::Serialize;
use std::collections::BTreeMap;
use utoipa::ToSchema;

use crate::decide::basis::Basis;
use crate::decide::differences::differences;
use crate::decide::study::Study;
use crate::decide::uncertainty::ranges::QuantityRange;
use crate::evaluate::answer::{ContenderAnswer, Evaluation};
use crate::light::lines::Quantity;
use crate::path::scales::Scales;
use crate::report::verdict::{Verdict, VerdictOn, verdicts};
use crate::scenario::document::Scenario;
use crate::scenario::goal::{Goal, STARS_V_MAG, TargetPart};
use crate::signal::model::LightPath;
use crate::wording::times;

/// Points of a time curve.
const CURVE_POINTS: usize = 49;

/// Everything the bench shows of a scenario.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct BenchAnswer {
    /// The quantity to judge by first; null where no path records any.
    pub first_quantity: Option<Quantity>,
    /// What can be judged, with its names: what the target gives off and one of the paths records.
    pub judged: Vec<JudgedQuantity>,
    /// The goals that are usual for this target.
    pub usual_goals: Vec<Goal>,
    /// How much brighter the H II regions of a galaxy are than the mean of its lines; null for what
    /// has a core instead.
    pub knots_factor: Option<f64>,
    /// The numbers.
    pub evaluation: Evaluation,
    /// The words on each row.
    pub rows: Vec<RowWords>,
    /// Signal to noise against clock time, one chart a quantity.
    pub curves: Vec<Curves>,
}

/// A quantity that can be judged.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct JudgedQuantity {
    /// Which.
    pub quantity: Quantity,
    /// Its name on this target: where it has [N II], H-alpha is named with it.
    pub name: &'static str,
    /// What is wanted of it.
    pub goal: Goal,
    /// The same in words, to follow its name.
    pub goal_words: String,
    /// The same without the part that it names.
    pub goal_how: String,
    /// The same as what is reached: "H-alpha clean at 10 arcsec".
    pub goal_phrase: String,
    /// The signal to noise of the mean at which the first path meets the goal.
    pub goal_mean_snr: f64,
    /// Whether the scenario names a goal for it; where it names none at all, it has one for each.
    pub wanted: bool,
    /// The goal that is usual for it on this target.
    pub usual: Goal,
    /// The parts of the target, from the brightest to the faintest.
    pub parts: Vec<PartOption>,
    /// The magnitude to which stars are usually asked for, V mag.
    pub stars_v_mag: f64,
}

/// A part of the target that a goal may name.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct PartOption {
    /// Which.
    pub part: TargetPart,
    /// Its name: the bright spots of a galaxy's lines are its knots.
    pub name: &'static str,
    /// How much brighter it is than the mean.
    pub factor: f64,
    /// How bright it is in this light, in words.
    pub brightness: String,
    /// The goal that its brightness suggests.
    pub usual: Goal,
}

fn judged_quantity(study: &Study, q: Quantity) -> JudgedQuantity {
    let s = study.scenario();
    let option = |part: TargetPart| PartOption {
        part,
        name: s.target.kind.part_name(part, q),
        factor: s.target.part_factor(part, q).of(q),
        brightness: s.target.light(q).times(s.target.part_factor(part, q).of(q)).words(),
        usual: Goal { star_v_mag: None, ..s.target.goal_for(q, part) },
    };
    JudgedQuantity {
        quantity: q,
        name: s.target.name_of(q),
        goal: s.goal_of(q),
        goal_words: s.goal_words(q),
        goal_how: if s.goals.is_empty() { s.goal_words(q) } else { s.goal_of(q).how() },
        goal_phrase: s.goal_phrase(q),
        goal_mean_snr: study.model.paths.first().map_or(0.0, |p| p.mean_snr_at_goal(q)),
        wanted: s.wants(q),
        usual: s.target.usual_goal(q),
        parts: TargetPart::ALL.map(option).to_vec(),
        stars_v_mag: STARS_V_MAG,
    }
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
    /// The same for all that the first row is for.
    pub together: AllTogether,
    /// Ranges of what it reaches, within what is stated as uncertain.
    pub ranges: BTreeMap<Quantity, QuantityRange>,
}

/// When every goal of all that the first path is for is met.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct AllTogether {
    /// What it is: "H-alpha and [O III]".
    pub label: String,
    /// Time on the clock until the last of them is there, s; null where one never is.
    pub time_s: Option<f64>,
    /// The one that is there last; null likewise.
    pub slowest: Option<Quantity>,
    /// How that differs from the first row, or why it never is.
    pub text: String,
}

fn together(study: &Study, at: usize) -> AllTogether {
    let paths = &study.model.paths;
    let [basis, ..] = &Basis::all(study.scenario(), paths)[..] else {
        unreachable!("a scenario has a path")
    };
    let time = |p: &LightPath| basis.time_s(p, &p.shares(), &Scales::ONE, &[]);
    let (path, shares) = (&paths[at], paths[at].shares());
    let each = basis
        .quantities
        .iter()
        .filter_map(|q| Some((*q, path.time_s(*q, &shares, &Scales::ONE, &[])?)));
    let slowest = each.max_by(|a, b| a.1.total_cmp(&b.1)).map(|(q, _)| q);
    let time_s = time(path);
    let text = match (at, time_s, time(&paths[0])) {
        (_, None, _) => basis.missing(path),
        (0, ..) => "the baseline".to_owned(),
        (_, Some(t), Some(first)) => format!("{} for all of it", times(t / first)),
        (_, Some(_), None) => "which A does not reach".to_owned(),
    };
    AllTogether {
        label: basis.label(),
        time_s,
        slowest: slowest.filter(|_| time_s.is_some()),
        text,
    }
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
    /// Side of the square of sky on which the part that the goal names is clean, arcsec; null at
    /// the start.
    pub clean_arcsec: Vec<Option<f64>>,
    /// Signal to noise times this is the low and the high end of its range.
    pub range_factors: [f64; 2],
    /// The clean side times this is the fine and the coarse end of its range: the side falls as
    /// signal to noise grows. Null where that end has no side: the light may be missed altogether.
    pub clean_range_factors: [Option<f64>; 2],
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
                together: together(study, i),
                ranges: ranges.clone(),
            }
        };
    let seen = |q: &Quantity| evaluation.contenders.iter().any(|c| c.quantities.contains_key(q));
    let judged = s.target.judged().filter(seen);
    BenchAnswer {
        first_quantity: s.target.first_quantity(|q| seen(&q)),
        judged: judged.map(|q| judged_quantity(study, q)).collect(),
        usual_goals: s.target.usual_goals(),
        knots_factor: s.target.knots(),
        curves: curves(study),
        rows: evaluation.contenders.iter().zip(&study.ranges).enumerate().map(row).collect(),
        evaluation: evaluation.clone(),
    }
}

fn curves(study: &Study) -> Vec<Curves> {
    let s = study.scenario();
    let longest_s = study.model.paths.iter().map(|p| p.clock_s).fold(0.0, f64::max);
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
            let end = (fastest * 1.15).clamp(longest_s * 1.5, longest_s * 6.0);
            let clock_s: Vec<f64> = (0..CURVE_POINTS)
                .map(|i| end * (i as f64 / (CURVE_POINTS - 1) as f64).powi(2))
                .collect();
            let curve = |(contender, p): (usize, &LightPath)| {
                // The square of the signal to noise grows with time, so a range at one time is the
                // same factor at any other.
                let nominal = snr(p, quantity, p.clock_s);
                let range = study.ranges[contender].get(&quantity);
                let range_factors =
                    range.map_or([1.0, 1.0], |r| [r.snr.low / nominal, r.snr.high / nominal]);
                let (part, shares) = (p.goal_part(quantity), p.shares());
                let clean =
                    |t: f64| p.clean_arcsec(quantity, part, (t, &shares), &Scales::ONE, &[]);
                SnrCurve {
                    contender,
                    clean_arcsec: clock_s.iter().map(|&t| clean(t)).collect(),
                    snr: clock_s.iter().map(|&t| snr(p, quantity, t)).collect(),
                    range_factors,
                    clean_range_factors: [range_factors[1], range_factors[0]]
                        .map(|f| (f > 0.0).then(|| 1.0 / f)),
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

fn difference_words(
    s: &Scenario,
    baseline: &ContenderAnswer,
    c: &ContenderAnswer,
    ranges: &BTreeMap<Quantity, QuantityRange>,
) -> Vec<Verdict> {
    let all = differences(s, baseline, c, ranges).into_iter();
    all.map(|d| Verdict {
        about: VerdictOn::Difference,
        quantity: Some(d.quantity),
        question: s.target.name_of(d.quantity).to_owned(),
        short: d.text.clone(),
        text: d.text,
        reasons: d.reasons,
    })
    .collect()
}
