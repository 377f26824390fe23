//! What a night brought against what its frames promised, in a sentence.

use crate::log::accrued::Accrued;
use crate::log::quality::{Reason, Rule};
use crate::wording::{clock, listed};

/// What one filter brought.
#[derive(Clone, Copy, Debug)]
pub struct Brought<'a> {
    /// What its kept frames are worth.
    pub accrued: &'a Accrued,
    /// Frames that were taken.
    pub taken: usize,
}

/// Why frames are put aside, in two words.
fn word(rule: Rule) -> &'static str {
    match rule {
        Rule::Cloud => "cloud",
        Rule::Size => "swollen stars",
        Rule::Shape => "drawn-out stars",
        Rule::Background => "a bright background",
        Rule::Clipped => "clipping",
        Rule::Stars => "missing stars",
        Rule::Guiding => "guiding",
    }
}

/// A night in a sentence: what it brought of what its exposures would have under the planned sky,
/// and what took the rest. `aside` are the first reasons of frames that are put aside. Empty of a
/// night without a kept frame.
pub fn brought_told(all: &[Brought], aside: &[&Reason]) -> String {
    let kept_s: f64 = all.iter().map(|b| b.accrued.kept_s).sum();
    let worth_s: f64 = all.iter().map(|b| b.accrued.worth_s).sum();
    let taken_s: f64 = all
        .iter()
        .map(|b| b.accrued.kept_s * b.taken as f64 / f64::from(b.accrued.shot.subs.max(1)))
        .sum();
    if kept_s <= 0.0 || taken_s <= 0.0 {
        return String::new();
    }
    let mut counts: Vec<(&str, usize)> = Vec::new();
    for r in aside {
        let own = word(r.rule);
        match counts.iter_mut().find(|(w, _)| *w == own) {
            Some((_, n)) => *n += 1,
            None => counts.push((own, 1)),
        }
    }
    counts.sort_by_key(|c| std::cmp::Reverse(c.1));
    let said: Vec<String> = counts.iter().map(|(w, n)| format!("{w} {n}")).collect();
    let said: Vec<&str> = said.iter().map(String::as_str).collect();
    let lost = match aside.len() {
        0 => String::new(),
        1 => format!("; a frame was put aside ({})", listed(&said)),
        n => format!("; {n} frames were put aside ({})", listed(&said)),
    };
    let pace = 100.0 * worth_s / kept_s;
    format!(
        "{} exposed brought what {} of the planned sky would, {:.0} %{lost}; a kept minute is worth \
         {pace:.0} % of a planned one.",
        clock(taken_s),
        clock(worth_s),
        100.0 * worth_s / taken_s
    )
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::campaign::document::Shot;
    use std::collections::BTreeMap;

    fn accrued(subs: u32, worth_s: f64) -> Accrued {
        let shot = Shot { path: None, exposure: 0, subs, snr2: 1.0, lines_snr2: BTreeMap::new() };
        let kept_s = 120.0 * f64::from(subs);
        Accrued { shot, kept_s, worth_s, noise: None, transparency: None }
    }

    #[test]
    fn a_night_says_what_it_brought_and_what_took_the_rest() {
        let own = accrued(20, 1800.0);
        let all = [Brought { accrued: &own, taken: 30 }];
        let of = |rule| Reason { rule, text: String::new() };
        let (cloud, size) = (of(Rule::Cloud), of(Rule::Size));
        let told = brought_told(&all, &[&size, &cloud, &cloud]);
        assert_eq!(
            told,
            "1 h exposed brought what 30 min of the planned sky would, 50 %; 3 frames were put \
             aside (cloud 2 and swollen stars 1); a kept minute is worth 75 % of a planned one."
        );
        assert!(!brought_told(&all, &[]).contains("aside"));
        assert_eq!(brought_told(&[], &[]), "");
        let none = accrued(0, 0.0);
        assert_eq!(brought_told(&[Brought { accrued: &none, taken: 4 }], &[&cloud]), "");
    }
}
