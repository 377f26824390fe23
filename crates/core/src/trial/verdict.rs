//! A trial's verdict in words: what was found and how firmly, what could have been missed, what
//! would have faked it, and what it is worth.

use serde::Serialize;
use utoipa::ToSchema;

use crate::trial::answer::{Against, Analysis, Effect, Kept, letter};
use crate::trial::data::Judged;
use crate::trial::expected::Expected;
use crate::trial::power::pairs_needed;
use crate::wording::{capital, clock, per_cent, signed_per_cent, two_figures};

/// What is found.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Found {
    /// The further kind is better.
    Better,
    /// The first kind is better.
    Worse,
    /// No difference, and one that matters would have shown.
    NoDifference,
    /// A difference that matters may hide in the scatter.
    NotEnough,
}

/// What a difference is worth to somebody.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Stakes {
    /// Smallest difference that matters, as a share.
    pub matters: f64,
    /// Clear dark hours a year.
    pub hours_a_year: Option<f64>,
    /// By how much the further kind is dearer, in whatever currency.
    pub dearer: Option<f64>,
    /// Time of one pair on the clock, s.
    pub pair_s: Option<f64>,
}

/// The verdict on one kind against the first.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct TrialVerdict {
    /// The kind, from 1.
    pub kind: usize,
    /// What is found.
    pub found: Found,
    /// Time that the further kind needs for the same over the first's; null where what is judged
    /// says nothing of time.
    pub time_ratio: Option<f64>,
    /// Between which ratios it lies, 95 %.
    #[schema(value_type = Option<Vec<f64>>)]
    pub time_interval: Option<[f64; 2]>,
    /// Further pairs that would show a difference that matters; null where none are needed or no
    /// night holds them.
    pub more_pairs: Option<usize>,
    /// Whether the copies' spread explains what the model does not; null where nothing is expected.
    pub copies_explain: Option<bool>,
    /// Hours of exposure a year that the better one saves; null where that is not known.
    pub saves_h: Option<f64>,
    /// The first sentence.
    pub headline: String,
    /// The others, the weightiest first.
    pub sentences: Vec<String>,
}

/// Time over the first's, of a logarithm of what is judged.
fn time_of(judged: Judged, ln: f64) -> Option<f64> {
    judged.snr_power().map(|p| (-2.0 * p * ln).exp())
}

/// The effect a verdict goes by: without the odd frames where there are any.
pub(crate) fn main_effect(a: &Against) -> Effect {
    a.without_odd.unwrap_or(a.all)
}

/// What is found of a kind.
fn found(judged: Judged, e: &Effect, smallest_seen: f64, matters: f64) -> Found {
    match (e.is_something(), (e.ln > 0.0) == judged.more_is_better()) {
        (true, true) => Found::Better,
        (true, false) => Found::Worse,
        // What could have been seen is told of more and of less alike.
        _ if smallest_seen.ln_1p() <= matters.ln_1p() => Found::NoDifference,
        _ => Found::NotEnough,
    }
}

/// The verdicts on a trial.
///
/// `names` are the kinds', the first being what the others are held against; `expected` is what the
/// model says of each further one.
pub fn verdicts(
    judged: Judged,
    names: &[String],
    analysis: &Analysis,
    expected: &[Option<Expected>],
    stakes: &Stakes,
) -> Vec<TrialVerdict> {
    let name = |k: usize| match names.get(k).filter(|n| !n.is_empty()) {
        Some(n) => format!("{} ({n})", letter(k)),
        None => letter(k).to_string(),
    };
    let one = |a: &Against| {
        let e = main_effect(a);
        let is = found(judged, &e, a.smallest_seen, stakes.matters);
        let more_pairs = (is == Found::NotEnough)
            .then(|| pairs_needed(analysis.scatter, stakes.matters))
            .flatten()
            .map(|n| n.saturating_sub(a.pairs).max(1));
        let time_ratio = time_of(judged, e.ln);
        let time_interval = time_ratio.map(|_| {
            let mut both = e.interval.map(|s| time_of(judged, s.ln_1p()).unwrap_or(1.0));
            both.sort_by(f64::total_cmp);
            both
        });
        let saves_h = stakes.hours_a_year.zip(time_ratio).and_then(|(h, t)| match is {
            Found::Better => Some(h * (1.0 / t - 1.0)),
            Found::Worse => Some(h * (t - 1.0)),
            _ => None,
        });
        let copies_explain = expected
            .get(a.kind - 1)
            .copied()
            .flatten()
            .map(|x| (e.ln - x.ln).abs() <= 1.96 * e.ln_sd.hypot(x.copies_ln_sd));
        let mut v = TrialVerdict {
            kind: a.kind,
            found: is,
            time_ratio,
            time_interval,
            more_pairs,
            copies_explain,
            saves_h,
            headline: String::new(),
            sentences: Vec::new(),
        };
        let pair = [name(0), name(a.kind)];
        v.headline = headline(judged, &pair, &e, &v);
        v.sentences = sentences(judged, a, analysis, expected, (&v, stakes, &pair));
        v
    };
    analysis.against.iter().map(one).collect()
}

fn headline(judged: Judged, [first, kind]: &[String; 2], e: &Effect, v: &TrialVerdict) -> String {
    let between =
        format!("{} to {}", signed_per_cent(e.interval[0]), signed_per_cent(e.interval[1]));
    let what = judged.name();
    match v.found {
        Found::Better => {
            format!(
                "{kind} is better: {what} {} against {first}, 95 % {between}.",
                signed_per_cent(e.share)
            )
        }
        Found::Worse => {
            format!(
                "{first} is better: {kind} has {} in {what}, 95 % {between}.",
                signed_per_cent(e.share)
            )
        }
        Found::NoDifference => {
            let most = e.interval[0].abs().max(e.interval[1].abs());
            format!("No difference found in {what}; up to {} could hide.", per_cent(most))
        }
        Found::NotEnough => {
            let more = match v.more_pairs {
                Some(1) => "one more pair".to_owned(),
                Some(n) => format!("{n} more pairs"),
                None => "more pairs than nights hold".to_owned(),
            };
            format!(
                "Not enough data: {more}. So far {} in {what}, 95 % {between}.",
                signed_per_cent(e.share)
            )
        }
    }
}

fn sentences(
    judged: Judged,
    a: &Against,
    analysis: &Analysis,
    expected: &[Option<Expected>],
    (v, stakes, [first, kind]): (&TrialVerdict, &Stakes, &[String; 2]),
) -> Vec<String> {
    let mut all = Vec::new();
    if let Some((t, [low, high])) = v.time_ratio.zip(v.time_interval) {
        let same = if judged == Judged::PatchSnr { "" } else { ", all else alike" };
        all.push(format!(
            "{kind} needs {:.0} % of the time of {first} for the same picture ({:.0} to {:.0} %){same}.",
            100.0 * t,
            100.0 * low,
            100.0 * high
        ));
    }
    all.push(format!(
        "This trial would have shown a difference of {} four times in five; one frame scatters by {}.",
        per_cent(a.smallest_seen),
        per_cent(analysis.scatter.exp_m1())
    ));
    if let Some(p) = a.paired {
        all.push(format!(
            "Frames taken one after the other, {} pairs, say {} ({} to {}) and assume nothing else.",
            a.pairs,
            signed_per_cent(p.share),
            signed_per_cent(p.interval[0]),
            signed_per_cent(p.interval[1])
        ));
    }
    if let Some(without) = a.without_odd {
        let names: Vec<String> =
            analysis.odd.iter().map(|o| format!("{} ({})", o.name, o.reason)).collect();
        all.push(format!(
            "Without the odd frames {}: {}; with them {}.",
            names.join(", "),
            signed_per_cent(without.share),
            signed_per_cent(a.all.share)
        ));
    }
    all.extend(confounders(a));
    if let Some(x) = expected.get(a.kind - 1).copied().flatten() {
        all.push(told_expected(&x, v));
    }
    if let Some(h) = v.saves_h {
        let [better, other] = if v.found == Found::Better { [kind, first] } else { [first, kind] };
        let price = stakes.dearer.filter(|p| *p > 0.0 && v.found == Found::Better).map(|p| {
            format!("; each of these costs {} of its price in the first year", two_figures(p / h))
        });
        all.push(format!(
            "With {better} a year's dark hours are worth {} more of {other}{}.",
            clock(h * 3600.0),
            price.unwrap_or_default()
        ));
    }
    if let Some((n, s)) = v.more_pairs.zip(stakes.pair_s) {
        all.push(format!("Those pairs take {}.", clock(n as f64 * s)));
    }
    all
}

/// What each confounder would have faked, and what could not be allowed for.
fn confounders(a: &Against) -> Vec<String> {
    let mut all = Vec::new();
    let faked: Vec<String> = a
        .confounders
        .iter()
        .filter_map(|c| Some((c, c.would_fake.filter(|f| f.abs() >= 0.002)?)))
        .map(|(c, f)| format!("{} {}", c.covariate.name(), signed_per_cent(f)))
        .collect();
    if !faked.is_empty() {
        all.push(format!("Alone would have faked, and is allowed for: {}.", faked.join(", ")));
    }
    let not = |which: Kept, said: &str| {
        let names: Vec<&str> =
            a.confounders.iter().filter(|c| c.kept == which).map(|c| c.covariate.name()).collect();
        (!names.is_empty()).then(|| format!("{}: {said}.", capital(&names.join(", "))))
    };
    all.extend(not(Kept::TooFew, "not allowed for, for each takes six frames"));
    all.extend(not(
        Kept::Together,
        "moved with the kind or with the others, and cannot be told apart",
    ));
    all.extend(not(Kept::Changed, "not allowed for, for what is compared may change it"));
    all.extend(not(Kept::NotKnown, "not known of every frame"));
    all
}

fn told_expected(x: &Expected, v: &TrialVerdict) -> String {
    let copies = if x.copies_ln_sd > 0.001 {
        format!(
            ", {} to {} for nineteen in twenty copies",
            signed_per_cent(x.interval[0]),
            signed_per_cent(x.interval[1])
        )
    } else {
        String::new()
    };
    let explained = match v.copies_explain {
        Some(true) => "what was measured is within that",
        _ => "what was measured is not: look at focus, tilt and the filter's own copy",
    };
    format!("The model expects {}{copies}; {explained}.", signed_per_cent(x.share))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::trial::analysis::analysed;
    use crate::trial::answer::TrialQuestion;
    use crate::trial::data::{Covariate, Treatment, TrialFrame};
    use std::collections::BTreeMap;

    /// Frames in blocks A B B A whose kinds differ by `effect`, each scattering by hand.
    fn frames(effect: f64, scatter: f64) -> Vec<TrialFrame> {
        (0..24)
            .map(|i| {
                let kind = usize::from(i % 4 == 1 || i % 4 == 2);
                let off = f64::from((i * 7) % 11) / 5.0 - 1.0;
                TrialFrame {
                    name: format!("{i}.fits"),
                    kind,
                    start_s: 1.8e9 + 300.0 * f64::from(i),
                    measure: (1.0 + effect.ln_1p() * kind as f64 + scatter * off).exp(),
                    known: BTreeMap::from([(Covariate::Airmass, 1.0 + 0.01 * f64::from(i % 5))]),
                }
            })
            .collect()
    }

    fn verdict(judged: Judged, frames: &[TrialFrame], expected: Option<Expected>) -> TrialVerdict {
        let q = TrialQuestion {
            treatment: Treatment::Filter,
            judged,
            kinds: 2,
            frames,
            frames_a_slot: 1,
        };
        let names = ["3 nm, one".to_owned(), "3 nm, two".to_owned()];
        let stakes = Stakes {
            matters: 0.05,
            hours_a_year: Some(200.0),
            dearer: Some(300.0),
            pair_s: Some(600.0),
        };
        let a = analysed(&q).expect("enough frames");
        verdicts(judged, &names, &a, &[expected], &stakes).remove(0)
    }

    #[test]
    fn what_is_better_is_said_with_its_time_and_its_worth() {
        let v = verdict(Judged::PatchSnr, &frames(0.10, 0.02), None);
        assert_eq!(v.found, Found::Better);
        assert!(v.headline.starts_with("B (3 nm, two) is better: signal to noise of the patch +"));
        // Ten per cent more signal to noise is a sixth less time.
        let t = v.time_ratio.expect("time");
        assert!((t - 1.1f64.powi(-2)).abs() < 0.03, "{t}");
        let hours = v.saves_h.expect("hours");
        assert!((hours - 200.0 * (1.0 / t - 1.0)).abs() < 1e-9);
        assert!(v.sentences.iter().any(|s| s.contains("of its price in the first year")), "{v:?}");
        // Of the sky's light, more is worse.
        assert_eq!(verdict(Judged::Background, &frames(0.10, 0.02), None).found, Found::Worse);
    }

    #[test]
    fn nothing_found_and_not_enough_are_told_apart() {
        let none = verdict(Judged::PatchSnr, &frames(0.0, 0.02), None);
        assert_eq!(none.found, Found::NoDifference, "{none:?}");
        assert!(none.headline.contains("could hide"));
        let little = verdict(Judged::PatchSnr, &frames(0.0, 0.3), None);
        assert_eq!(little.found, Found::NotEnough, "{little:?}");
        let more = little.more_pairs.expect("pairs");
        assert!(more > 12 && little.headline.contains(&format!("{more} more pairs")), "{little:?}");
    }

    #[test]
    fn what_the_model_says_is_held_against_what_came() {
        let expect = |ln: f64, sd: f64| Expected {
            ln,
            copies_ln_sd: sd,
            share: ln.exp_m1(),
            interval: [(ln - 1.96 * sd).exp_m1(), (ln + 1.96 * sd).exp_m1()],
        };
        let frames = frames(0.10, 0.02);
        let of = |x| verdict(Judged::PatchSnr, &frames, Some(x)).copies_explain;
        assert_eq!(of(expect(0.0, 0.08)), Some(true));
        assert_eq!(of(expect(0.0, 0.0)), Some(false));
    }

    #[test]
    fn a_frame_that_was_spoilt_is_named_and_both_results_stand() {
        let mut all = frames(0.10, 0.02);
        all[9].measure *= 0.5;
        // Airmass, the hour and the stars' size take what the frames can carry: guiding is known of
        // each and allowed for in none.
        for (i, f) in all.iter_mut().enumerate() {
            f.known.insert(Covariate::StarSize, 1.6 + 0.02 * (i % 7) as f64);
            let guiding = if i == 9 { 1.9 } else { 0.3 + 0.01 * (i % 4) as f64 };
            f.known.insert(Covariate::Guiding, guiding);
        }
        let v = verdict(Judged::PatchSnr, &all, None);
        let said = v.sentences.join(" ");
        let named = "Without the odd frames 9.fits (the guider lost its hold)";
        assert!(said.contains(named), "{said}");
    }
}
