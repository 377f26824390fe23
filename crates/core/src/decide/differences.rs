//! The difference of each path from the first, in words that say no more than the numbers hold.

use serde::Serialize;
use utoipa::ToSchema;

use crate::decide::uncertainty::draws::Range;
use crate::decide::uncertainty::ranges::QuantityRange;
use crate::evaluate::answer::{ContenderAnswer, QuantityAnswer};
use crate::light::lines::Quantity;
use crate::path::filter::response::BROAD_NM;
use crate::scenario::document::Scenario;
use crate::scenario::target::Target;
use crate::wording::{ABOUT_EQUAL, arcsec, capital, clock, times, two_figures};

/// The difference in one quantity.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Difference {
    /// What is judged.
    pub quantity: Quantity,
    /// Signal to noise over the first path's, each after its own clock; null where either lacks the quantity.
    pub snr_ratio: Option<f64>,
    /// Its range.
    pub snr_ratio_range: Option<Range>,
    /// Time for equal signal to noise over the first path's; null where either lacks the quantity
    /// or does not reach the goal.
    pub time_ratio: Option<f64>,
    /// Its range.
    pub time_ratio_range: Option<Range>,
    /// Contrast over the first path's; null where either has none.
    pub contrast_ratio: Option<f64>,
    /// Its range.
    pub contrast_ratio_range: Option<Range>,
    /// Whether the two differ, or not, or whether that cannot be told.
    pub told: Told,
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
            told: Told::Differs,
            text: String::new(),
            reasons: Vec::new(),
        }
    }
}

/// The quantities of a path that are worth naming: those it was built to record.
///
/// H-alpha alone is a part of H-alpha, and no goal of its own.
pub fn named(c: &ContenderAnswer) -> impl Iterator<Item = (Quantity, QuantityAnswer)> {
    recorded(c).filter(|(q, _)| *q != Quantity::HaAlone)
}

/// The same with H-alpha alone.
pub fn recorded(c: &ContenderAnswer) -> impl Iterator<Item = (Quantity, QuantityAnswer)> {
    // A narrow filter records a little continuum too; that is not what it is there for.
    let broad = is_broad(c);
    c.quantities
        .iter()
        .map(|(q, a)| (*q, *a))
        .filter(move |(q, _)| broad || *q != Quantity::Continuum)
}

fn is_broad(c: &ContenderAnswer) -> bool {
    c.exposures.iter().any(|e| e.equivalent_width_nm > BROAD_NM)
}

/// Whether stars come out in their colours: a colour array, or three exposures, behind filters that
/// pass the continuum.
fn has_star_colours(c: &ContenderAnswer) -> bool {
    let broad = c.exposures.iter().filter(|e| e.equivalent_width_nm > BROAD_NM);
    broad.clone().any(|e| e.channels.len() >= 3) || broad.count() >= 3
}

/// What can be said of two times within what is stated as uncertain.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Told {
    /// They differ.
    Differs,
    /// They are about equal: closer than the model holds, or with a range that is narrow about 1.
    NoDifference,
    /// Either may be the faster: 1 lies in a wide range.
    CannotBeTold,
}

/// A range about 1 is narrow up to this factor either way (common practice, no source).
const NARROW: f64 = 1.25;

/// What can be said of a ratio of times with its range.
pub fn told(ratio: f64, range: Option<&Range>) -> Told {
    match range {
        Some(r) if r.low < 1.0 && r.high > 1.0 => {
            let narrow = r.low * NARROW >= 1.0 && r.high <= NARROW;
            if narrow { Told::NoDifference } else { Told::CannotBeTold }
        }
        _ if (ratio - 1.0).abs() < ABOUT_EQUAL => Told::NoDifference,
        _ => Told::Differs,
    }
}

/// Differences in every quantity that either path records.
pub fn differences(
    s: &Scenario,
    baseline: &ContenderAnswer,
    path: &ContenderAnswer,
    ranges: &std::collections::BTreeMap<Quantity, QuantityRange>,
) -> Vec<Difference> {
    s.target
        .judged()
        .filter_map(|q| {
            let has =
                |c: &ContenderAnswer| recorded(c).find(|(other, _)| *other == q).map(|(_, a)| a);
            let (a, b) = (has(baseline), has(path));
            let name = s.target.name_of(q);
            let none = Difference::nothing(q);
            match (a, b) {
                (Some(a), Some(b)) => {
                    let pair = [(&a, baseline.clock_s), (&b, path.clock_s)];
                    let mut d = both(s, q, pair, ranges.get(&q), none);
                    d.reasons.extend(nitrogen(s, q, baseline, path));
                    Some(d)
                }
                (Some(_), None) => Some(Difference { text: lost(&s.target, q), ..none }),
                (None, Some(QuantityAnswer { mixed_with: Some(other), .. })) => {
                    Some(Difference { text: mixed(&s.target, q, other), ..none })
                }
                (None, Some(b)) => {
                    let t = b.time_to_goal_s?;
                    Some(Difference {
                        text: format!("adds {name}: {} in {}", s.goal_words(q), clock(t)),
                        ..none
                    })
                }
                (None, None) => None,
            }
        })
        .collect()
}

/// How much of a path's H-alpha is [N II], in the channel that sees it best; `None` where it
/// records none.
fn nii_share(c: &ContenderAnswer) -> Option<f64> {
    let channels = c.exposures.iter().flat_map(|e| &e.channels);
    let seen = channels.filter_map(|c| Some((c, *c.snr.get(&Quantity::Ha)?)));
    let (best, _) = seen.max_by(|a, b| a.1.total_cmp(&b.1))?;
    let r = &best.rates_e_per_s;
    (r.ha > 0.0).then(|| 1.0 - r.ha_alone / r.ha)
}

/// By which H-alpha the two are judged, and what the other way of counting says: two filters of
/// different width change places by it.
fn nitrogen(
    s: &Scenario,
    q: Quantity,
    baseline: &ContenderAnswer,
    path: &ContenderAnswer,
) -> Option<String> {
    let other = match q {
        Quantity::Ha => Quantity::HaAlone,
        Quantity::HaAlone => Quantity::Ha,
        _ => return None,
    };
    if s.target.lines_rayleigh.nii <= 0.0 {
        return None;
    }
    let time = |c: &ContenderAnswer| c.quantities.get(&other)?.time_to_goal_s;
    let so = time(baseline).zip(time(path)).map_or(String::new(), |(a, b)| {
        let name = s.target.name_of(other);
        format!(" By {name}: {} times the time of A.", two_figures(b / a))
    });
    let percent = |c| Some(format!("{:.0} %", nii_share(c)? * 100.0));
    Some(format!(
        "Judged by {}; of H-alpha's light, {} is [N II] here and {} in A.{so}",
        s.target.name_of(q),
        percent(path)?,
        percent(baseline)?
    ))
}

fn mixed(target: &Target, q: Quantity, with: Quantity) -> String {
    format!("its {} is mixed with {}", target.name_of(q), target.mixed_name(q, with))
}

fn lost(target: &Target, q: Quantity) -> String {
    match q {
        Quantity::Continuum => "loses the continuum: stars, galaxies, dust".to_owned(),
        _ => format!("records no {}", target.name_of(q)),
    }
}

fn both(
    s: &Scenario,
    q: Quantity,
    [(a, clock_a), (b, clock_b)]: [(&QuantityAnswer, f64); 2],
    range: Option<&QuantityRange>,
    none: Difference,
) -> Difference {
    let snr_ratio = (a.snr > 0.0).then(|| b.snr / a.snr);
    let time_ratio = a.time_to_goal_s.zip(b.time_to_goal_s).map(|(ta, tb)| tb / ta);
    let time_ratio_range = range.and_then(|r| r.time_over_first);
    let none = Difference {
        snr_ratio_range: range.and_then(|r| r.snr_over_first),
        contrast_ratio_range: range.and_then(|r| r.contrast_over_first),
        ..none
    };
    let contrast_ratio = a.contrast.zip(b.contrast).filter(|(a, _)| *a > 0.0).map(|(a, b)| b / a);
    let unlike = (clock_a / clock_b - 1.0).abs() > 0.01;
    let mut reasons = vec![if unlike {
        let (own, other) = (clock(clock_b), clock(clock_a));
        format!("SNR {:.1} after {own} against {:.1} after {other}.", b.snr, a.snr)
    } else {
        format!("SNR {:.1} against {:.1} after {}.", b.snr, a.snr, clock(clock_b))
    }];
    if let Some(c) = contrast_ratio {
        reasons.push(format!("Target over sky: {c:.2} times that of A."));
    }
    if let Some(r) = time_ratio_range {
        reasons.push(format!(
            "Within what is stated as uncertain, {:.2} to {:.2} times the time \
            (eight draws in ten).",
            r.low, r.high
        ));
    }
    let name = s.target.name_of(q);
    let Some(ratio) = time_ratio else {
        let text = match (a.time_to_goal_s, b.time_to_goal_s) {
            (Some(_), None) => format!("{name} out of reach"),
            (None, Some(t)) => {
                format!("reaches {} in {}, which A does not", s.goal_phrase(q), clock(t))
            }
            _ => format!("{name} out of reach, as in A"),
        };
        return Difference { snr_ratio, contrast_ratio, text, reasons, ..none };
    };
    let told = told(ratio, time_ratio_range.as_ref());
    let text = match (told, &time_ratio_range, b.mixed_with) {
        (.., Some(other)) => mixed(&s.target, q, other),
        (Told::NoDifference, ..) => format!("about the same time for the same {name}"),
        (Told::CannotBeTold, Some(r), _) => {
            format!(
                "{name} cannot be told: likeliest {} times, {} to {}",
                two_figures(r.middle),
                two_figures(r.low),
                two_figures(r.high)
            )
        }
        _ => format!("{} for the same {name}", times(ratio)),
    };
    // Over unlike times, what each shows at its end is what is asked.
    let text = match (unlike, b.mixed_with, a.clean_arcsec, b.clean_arcsec) {
        (true, None, Some(there), Some(here)) => format!(
            "{name} clean at {} after {}, A at {} after {}; {text}",
            arcsec(here),
            clock(clock_b),
            arcsec(there),
            clock(clock_a)
        ),
        _ => text,
    };
    Difference {
        snr_ratio,
        time_ratio: Some(ratio),
        time_ratio_range,
        contrast_ratio,
        told,
        text,
        reasons,
        ..none
    }
}

/// What a path gives up or adds besides its quantities, sentence by sentence.
pub fn losses(target: &Target, baseline: &ContenderAnswer, path: &ContenderAnswer) -> Vec<String> {
    let mut out = Vec::new();
    for (q, a) in named(baseline) {
        if !named(path).any(|(other, _)| other == q) {
            let still = a.time_to_goal_s.is_some();
            out.push(format!(
                "{}{}.",
                capital(&lost(target, q)),
                if still { "" } else { ", which A does not reach either" }
            ));
        }
    }
    match (has_star_colours(baseline), has_star_colours(path)) {
        (true, false) => out.push("Stars lose their colours.".into()),
        (false, true) => out.push("Stars keep their colours.".into()),
        _ => {}
    }
    out
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
            clean_arcsec: None,
            time_to_goal_s: None,
            contrast: None,
            snr_over_first: None,
            time_over_first: Some(r),
            contrast_over_first: None,
        });
        both(&ic_443(), Quantity::Ha, [(&a, 14_400.0), (&b, 14_400.0)], ranges.as_ref(), none)
    }

    #[test]
    fn a_ratio_is_said_as_far_as_the_numbers_hold() {
        let a = answers(10.0, Some(1000.0), Some(0.2));
        let far = Range { low: 1.8, middle: 2.0, high: 2.2 };
        let d = of(a, answers(7.0, Some(2000.0), Some(0.1)), Some(far));
        assert_eq!(
            (d.text.as_str(), d.told),
            ("twice the time for the same H-alpha + [N II]", Told::Differs)
        );
        assert_eq!(
            (d.snr_ratio, d.time_ratio, d.contrast_ratio),
            (Some(0.7), Some(2.0), Some(0.5))
        );
        assert!(d.reasons[0].starts_with("SNR 7.0 against 10.0 after 4 h"), "{:?}", d.reasons);
        // The same ratio with one inside its wide range cannot be told; that is not "the same".
        let wide = Range { low: 0.9, middle: 2.0, high: 4.0 };
        let open = of(a, answers(7.0, Some(2000.0), None), Some(wide));
        assert_eq!(
            (open.text.as_str(), open.told),
            ("H-alpha + [N II] cannot be told: likeliest 2 times, 0.9 to 4", Told::CannotBeTold)
        );
        let close = of(a, answers(10.2, Some(960.0), None), None);
        assert_eq!(
            (close.text.as_str(), close.told),
            ("about the same time for the same H-alpha + [N II]", Told::NoDifference)
        );
        // Light that is mostly another line's is no gain in this one.
        let mut mixed = answers(7.0, Some(2000.0), Some(0.1));
        mixed.mixed_with = Some(Quantity::Sii);
        assert_eq!(of(a, mixed, Some(far)).text, "its H-alpha + [N II] is mixed with [S II]");
    }

    #[test]
    fn a_goal_out_of_reach_has_no_ratio() {
        let (in_reach, out) = (answers(10.0, Some(1000.0), Some(0.2)), answers(0.0, None, None));
        assert_eq!(of(in_reach, out, None).text, "H-alpha + [N II] out of reach");
        assert_eq!(of(out, out, None).text, "H-alpha + [N II] out of reach, as in A");
        let only = of(out, in_reach, None);
        assert_eq!(only.text, "reaches SNR 20 in H-alpha + [N II] in 17 min, which A does not");
        assert_eq!((only.snr_ratio, only.time_ratio, only.contrast_ratio), (None, None, None));
    }

    #[test]
    fn no_difference_is_narrow_about_one_and_a_wide_range_cannot_be_told() {
        let of = |ratio: f64, low: f64, high: f64| {
            told(ratio, Some(&Range { low, middle: (low + high) / 2.0, high }))
        };
        assert_eq!((told(1.05, None), told(0.94, None)), (Told::NoDifference, Told::NoDifference));
        assert_eq!((told(1.08, None), told(0.9, None)), (Told::Differs, Told::Differs));
        assert_eq!(
            (of(1.1, 0.9, 1.2), of(1.04, 1.02, 1.06)),
            (Told::NoDifference, Told::NoDifference)
        );
        assert_eq!(
            (of(1.0, 0.7, 1.2), of(1.5, 0.95, 2.0)),
            (Told::CannotBeTold, Told::CannotBeTold)
        );
        assert_eq!((of(1.5, 1.01, 2.0), of(0.5, 0.3, 0.99)), (Told::Differs, Told::Differs));
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
