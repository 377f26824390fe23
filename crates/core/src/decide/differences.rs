//! The difference of each path from the first, in words that say no more than the numbers hold.

use serde::Serialize;
use utoipa::ToSchema;

use crate::decide::uncertainty::draws::Range;
use crate::decide::uncertainty::ranges::QuantityRange;
use crate::evaluate::answer::{ContenderAnswer, QuantityAnswer};
use crate::light::lines::Quantity;
use crate::path::filter::response::BROAD_NM;
use crate::scenario::document::Scenario;
use crate::wording::{ABOUT_EQUAL, clock, times};

/// The difference in one quantity.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Difference {
    /// What is judged.
    pub quantity: Quantity,
    /// Signal to noise at equal clock over the first path's; null where either lacks the quantity.
    pub snr_ratio: Option<f64>,
    /// Its range.
    pub snr_ratio_range: Option<Range>,
    /// Time for equal signal to noise over the first path's; null where either lacks the quantity or does not reach the goal.
    pub time_ratio: Option<f64>,
    /// Its range.
    pub time_ratio_range: Option<Range>,
    /// Contrast over the first path's; null where either has none.
    pub contrast_ratio: Option<f64>,
    /// Its range.
    pub contrast_ratio_range: Option<Range>,
    /// Whether the two are about equal within what is stated as uncertain.
    pub about_equal: bool,
    /// The sentence.
    pub text: String,
    /// The numbers behind it.
    pub reasons: Vec<String>,
}

impl Difference {
    /// A difference about which nothing is said yet.
    fn nothing(quantity: Quantity) -> Self {
        Self {
            quantity,
            snr_ratio: None,
            snr_ratio_range: None,
            time_ratio: None,
            time_ratio_range: None,
            contrast_ratio: None,
            contrast_ratio_range: None,
            about_equal: false,
            text: String::new(),
            reasons: Vec::new(),
        }
    }
}

/// The quantities of a path that are worth naming: those it was built to record.
pub fn named(c: &ContenderAnswer) -> impl Iterator<Item = (Quantity, QuantityAnswer)> {
    // A narrow filter records a little continuum too; that is not what it is there for.
    let broad = is_broad(c);
    c.quantities.iter().map(|(q, a)| (*q, *a)).filter(move |(q, _)| broad || *q != Quantity::Continuum)
}

fn is_broad(c: &ContenderAnswer) -> bool {
    c.exposures.iter().any(|e| e.equivalent_width_nm > BROAD_NM)
}

/// Whether stars come out in their colours: a colour array, or three exposures, behind filters that pass the continuum.
fn has_star_colours(c: &ContenderAnswer) -> bool {
    let broad = c.exposures.iter().filter(|e| e.equivalent_width_nm > BROAD_NM);
    broad.clone().any(|e| e.channels.len() >= 3) || broad.count() >= 3
}

/// Whether a ratio of times is no difference: closer to 1 than the model holds, or with a range that has 1 inside.
pub fn no_difference(ratio: f64, range: Option<&Range>) -> bool {
    (ratio - 1.0).abs() < ABOUT_EQUAL || range.is_some_and(|r| r.low < 1.0 && r.high > 1.0)
}

/// Differences in every quantity that either path records.
pub fn differences(
    s: &Scenario,
    baseline: &ContenderAnswer,
    path: &ContenderAnswer,
    ranges: &std::collections::BTreeMap<Quantity, QuantityRange>,
) -> Vec<Difference> {
    Quantity::ALL
        .into_iter()
        .filter_map(|q| {
            let has = |c: &ContenderAnswer| named(c).find(|(other, _)| *other == q).map(|(_, a)| a);
            let (a, b) = (has(baseline), has(path));
            let none = Difference::nothing(q);
            match (a, b) {
                (Some(a), Some(b)) => Some(both(s, q, &a, &b, ranges.get(&q), none)),
                (Some(_), None) => Some(Difference { text: lost(q), ..none }),
                (None, Some(b)) => {
                    let t = b.time_to_goal_s?;
                    Some(Difference { text: format!("adds {}: SNR {} in {}", q.label(), s.goal_snr, clock(t)), ..none })
                }
                (None, None) => None,
            }
        })
        .collect()
}

fn lost(q: Quantity) -> String {
    match q {
        Quantity::Continuum => "loses the continuum: stars, galaxies, dust".to_owned(),
        _ => format!("records no {}", q.label()),
    }
}

fn both(s: &Scenario, q: Quantity, a: &QuantityAnswer, b: &QuantityAnswer, range: Option<&QuantityRange>, none: Difference) -> Difference {
    let snr_ratio = (a.snr > 0.0).then(|| b.snr / a.snr);
    let time_ratio = a.time_to_goal_s.zip(b.time_to_goal_s).map(|(ta, tb)| tb / ta);
    let time_ratio_range = range.and_then(|r| r.time_over_first);
    let none = Difference {
        snr_ratio_range: range.and_then(|r| r.snr_over_first),
        contrast_ratio_range: range.and_then(|r| r.contrast_over_first),
        ..none
    };
    let contrast_ratio = a.contrast.zip(b.contrast).filter(|(a, _)| *a > 0.0).map(|(a, b)| b / a);
    let mut reasons = vec![format!("SNR {:.1} against {:.1} after {}.", b.snr, a.snr, clock(s.total_s))];
    if let Some(c) = contrast_ratio {
        reasons.push(format!("Target over sky: {c:.2} times that of A."));
    }
    if let Some(r) = time_ratio_range {
        reasons.push(format!("Within what is stated as uncertain, {:.2} to {:.2} times the time (eight draws in ten).", r.low, r.high));
    }
    let Some(ratio) = time_ratio else {
        let text = match (a.time_to_goal_s, b.time_to_goal_s) {
            (Some(_), None) => format!("{} out of reach", q.label()),
            (None, Some(t)) => format!("reaches SNR {} in {} in {}, which A does not", s.goal_snr, q.label(), clock(t)),
            _ => format!("{} out of reach, as in A", q.label()),
        };
        return Difference { snr_ratio, contrast_ratio, text, reasons, ..none };
    };
    let about_equal = no_difference(ratio, time_ratio_range.as_ref());
    let text = if about_equal {
        format!("about the same time for the same {}", q.label())
    } else {
        format!("{} for the same {}", times(ratio), q.label())
    };
    Difference { snr_ratio, time_ratio: Some(ratio), time_ratio_range, contrast_ratio, about_equal, text, reasons, ..none }
}

/// What a path gives up or adds besides its quantities, sentence by sentence.
pub fn losses(baseline: &ContenderAnswer, path: &ContenderAnswer) -> Vec<String> {
    let mut out = Vec::new();
    for (q, a) in named(baseline) {
        if !named(path).any(|(other, _)| other == q) {
            let still = a.time_to_goal_s.is_some();
            out.push(format!("{}{}.", capital(&lost(q)), if still { "" } else { ", which A does not reach either" }));
        }
    }
    match (has_star_colours(baseline), has_star_colours(path)) {
        (true, false) => out.push("Stars lose their colours.".into()),
        (false, true) => out.push("Stars keep their colours.".into()),
        _ => {}
    }
    out
}

fn capital(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map_or(String::new(), |l| l.to_uppercase().chain(letters).collect())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::common::{bands, evaluate, ic_443, through};

    fn answers(snr: f64, time_to_goal_s: Option<f64>, contrast: Option<f64>) -> QuantityAnswer {
        let mut a = evaluate(&ic_443()).contenders[0].quantities[&Quantity::Ha];
        (a.snr, a.time_to_goal_s, a.contrast) = (snr, time_to_goal_s, contrast);
        a
    }

    fn of(a: QuantityAnswer, b: QuantityAnswer, range: Option<Range>) -> Difference {
        let none = Difference::nothing(Quantity::Ha);
        let flat = Range::of_three([1.0; 3]);
        let ranges = range.map(|r| QuantityRange {
            snr: flat,
            time_to_goal_s: None,
            contrast: None,
            snr_over_first: None,
            time_over_first: Some(r),
            contrast_over_first: None,
        });
        both(&ic_443(), Quantity::Ha, &a, &b, ranges.as_ref(), none)
    }

    #[test]
    fn a_ratio_is_said_as_far_as_the_numbers_hold() {
        let a = answers(10.0, Some(1000.0), Some(0.2));
        let far = Range { low: 1.8, middle: 2.0, high: 2.2 };
        let d = of(a, answers(7.0, Some(2000.0), Some(0.1)), Some(far));
        assert_eq!((d.text.as_str(), d.about_equal), ("twice the time for the same H-alpha", false));
        assert_eq!((d.snr_ratio, d.time_ratio, d.contrast_ratio), (Some(0.7), Some(2.0), Some(0.5)));
        assert!(d.reasons[0].starts_with("SNR 7.0 against 10.0 after 4 h"), "{:?}", d.reasons);
        // The same ratio with one inside its range is no difference.
        let wide = Range { low: 0.9, middle: 2.0, high: 4.0 };
        assert_eq!(of(a, answers(7.0, Some(2000.0), None), Some(wide)).text, "about the same time for the same H-alpha");
        assert!(of(a, answers(10.2, Some(960.0), None), None).about_equal);
    }

    #[test]
    fn a_goal_out_of_reach_has_no_ratio() {
        let (in_reach, out) = (answers(10.0, Some(1000.0), Some(0.2)), answers(0.0, None, None));
        assert_eq!(of(in_reach, out, None).text, "H-alpha out of reach");
        assert_eq!(of(out, out, None).text, "H-alpha out of reach, as in A");
        let only = of(out, in_reach, None);
        assert_eq!(only.text, "reaches SNR 20 in H-alpha in 17 min, which A does not");
        assert_eq!((only.snr_ratio, only.time_ratio, only.contrast_ratio), (None, None, None));
    }

    #[test]
    fn no_difference_is_less_than_the_model_holds_or_a_range_with_one_inside() {
        let r = |low, high| Some(Range { low, middle: (low + high) / 2.0, high });
        assert!(no_difference(1.05, None) && no_difference(0.94, None));
        assert!(!no_difference(1.08, None) && !no_difference(0.9, None));
        assert!(no_difference(1.5, r(0.95, 2.0).as_ref()));
        assert!(!no_difference(1.5, r(1.01, 2.0).as_ref()) && !no_difference(0.5, r(0.3, 0.99).as_ref()));
    }

    #[test]
    fn star_colours_need_three_broad_channels() {
        let s = ic_443();
        let with = |baseline: usize, filters: Vec<Option<crate::scenario::exposure::Filter>>| {
            let mut s = s.clone();
            s.contenders = vec![through(&s.contenders[baseline], filters, 60.0)];
            has_star_colours(&evaluate(&s).contenders[0])
        };
        let (mono, colour) = (0, 2);
        let broad = |name: &str, centre| Some(bands(name, 90.0, &[centre]));
        assert!(with(colour, vec![None]) && !with(mono, vec![None]));
        assert!(!with(colour, vec![Some(bands("dual", 7.0, &[656.3, 500.7]))]));
        assert!(with(mono, vec![broad("R", 630.0), broad("G", 535.0), broad("B", 450.0)]));
        assert!(!with(mono, vec![broad("R", 630.0), broad("G", 535.0)]));
    }

    #[test]
    fn sentences_begin_with_a_capital() {
        assert_eq!(capital("loses the continuum"), "Loses the continuum");
        assert_eq!(capital("[O III] is gone"), "[O III] is gone");
        assert_eq!(capital(""), "");
    }
}
