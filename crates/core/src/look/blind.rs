//! A blind look: shuffled orders, and how often the eye agreed with the figures.

use rand::{RngExt, SeedableRng};
use rand_pcg::Pcg64Mcg;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::ToSchema;

use crate::evaluate::answer::QuantityAnswer;
use crate::light::lines::Quantity;
use crate::scenario::target::Target;

/// Hidden orders of the rounds: at each position, the index of the contender shown there. Rounds
/// are shuffled independently.
pub fn orders(contenders: usize, rounds: usize, seed: u64) -> Vec<Vec<usize>> {
    let mut rng = Pcg64Mcg::seed_from_u64(seed);
    (0..rounds)
        .map(|_| {
            let mut order: Vec<usize> = (0..contenders).collect();
            // Fisher & Yates 1938.
            for i in (1..contenders).rev() {
                order.swap(i, rng.random_range(0..=i));
            }
            order
        })
        .collect()
}

/// What the reveal says.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Revealed {
    /// Indices of the contenders from best to worst, a list a round, by eye.
    pub by_eye: Vec<Vec<usize>>,
    /// Indices from best to worst by signal to noise.
    pub by_figures: Vec<usize>,
    /// Signal to noise of each contender over all that its picture is made of.
    pub snr: Vec<f64>,
    /// What that signal to noise is of, such as "H-alpha + [N II] and [O III] together".
    #[serde(default)]
    pub judged_by: String,
    /// Pairs on which the eye agreed with the figures.
    pub agreed: u32,
    /// Pairs that were judged.
    pub pairs: u32,
    /// Pairs on which the two rounds agreed with each other; null for one round.
    pub repeated: Option<u32>,
    /// In a sentence.
    pub text: String,
}

/// The figure that a picture is judged by: the signal to noise of the quantities it is made of,
/// their squares added, as for the best grey picture that could be made of all of them; and its
/// name.
pub fn figure(quantities: &BTreeMap<Quantity, QuantityAnswer>, made_of: &[Quantity]) -> f64 {
    made_of.iter().filter_map(|q| quantities.get(q)).map(|a| a.snr * a.snr).sum::<f64>().sqrt()
}

/// The name of that figure, for the quantities that any of the paths records.
pub fn figure_name(target: &Target, recorded: &[Quantity]) -> String {
    let names: Vec<&str> = recorded.iter().map(|q| target.name_of(*q)).collect();
    match &names[..] {
        [] => "nothing".to_owned(),
        [one] => (*one).to_owned(),
        [first @ .., last] => format!("{} and {last} together", first.join(", ")),
    }
}

/// Compares choices (positions from best to worst, a list a round) with the figures.
pub fn reveal(
    orders: &[Vec<usize>],
    choices: &[Vec<usize>],
    snr: &[f64],
    judged_by: &str,
) -> Revealed {
    let by_eye: Vec<Vec<usize>> = choices
        .iter()
        .zip(orders)
        .map(|(chosen, order)| chosen.iter().map(|&p| order[p]).collect())
        .collect();
    let mut by_figures: Vec<usize> = (0..snr.len()).collect();
    by_figures.sort_by(|&a, &b| snr[b].total_cmp(&snr[a]));
    let place = |list: &[usize], i: usize| list.iter().position(|x| *x == i);
    let ordered = |list: &[usize], a: usize, b: usize| Some(place(list, a)? < place(list, b)?);
    let (mut agreed, mut pairs, mut repeated) = (0, 0, 0);
    for a in 0..snr.len() {
        for b in a + 1..snr.len() {
            for judged in &by_eye {
                if let Some(first) = ordered(judged, a, b) {
                    pairs += 1;
                    agreed += u32::from(first == (snr[a] > snr[b]));
                }
            }
            if let [one, two, ..] = &by_eye[..] {
                repeated += u32::from(
                    ordered(one, a, b).is_some() && ordered(one, a, b) == ordered(two, a, b),
                );
            }
        }
    }
    let repeated = (by_eye.len() > 1).then_some(repeated);
    let of_pairs = pairs / by_eye.len().max(1) as u32;
    let again = repeated
        .map_or(String::new(), |r| format!(" Your two rounds agreed on {r} of {of_pairs}."));
    let text = format!("Your eye agreed with the figures on {agreed} of {pairs} pairs.{again}");
    Revealed {
        by_eye,
        by_figures,
        snr: snr.to_vec(),
        judged_by: judged_by.to_owned(),
        agreed,
        pairs,
        repeated,
        text,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::evaluate::answer::CleanAnswer;

    #[test]
    fn a_perfect_eye_agrees_whatever_the_order() {
        let snr = [3.0, 9.0, 5.0];
        let hidden = orders(3, 2, 7);
        let choices: Vec<Vec<usize>> = hidden
            .iter()
            .map(|o| [1, 2, 0].iter().map(|c| o.iter().position(|x| x == c).unwrap()).collect())
            .collect();
        let r = reveal(
            &hidden,
            &choices,
            &snr,
            &figure_name(&crate::common::ic_443().target, &[Quantity::Ha, Quantity::Oiii]),
        );
        assert_eq!(r.judged_by, "H-alpha + [N II] and [O III] together");
        assert_eq!((r.agreed, r.pairs, r.repeated), (6, 6, Some(3)));
        assert_eq!(r.by_figures, [1, 2, 0]);
    }

    #[test]
    fn a_colour_picture_is_judged_by_all_it_is_made_of() {
        let of = |snr: f64| QuantityAnswer {
            snr,
            clean_arcsec: None,
            clean: CleanAnswer { core_arcsec: None, body_arcsec: None, outskirts_arcsec: None },
            stars_to_v_mag: None,
            finest_arcsec: 2.5,
            time_to_goal_s: None,
            contrast: None,
            mixed_with: None,
            mixed_with_name: None,
        };
        let path = BTreeMap::from([
            (Quantity::Ha, of(3.0)),
            (Quantity::Oiii, of(4.0)),
            (Quantity::Continuum, of(12.0)),
        ]);
        assert!((figure(&path, &[Quantity::Ha, Quantity::Oiii]) - 5.0).abs() < 1e-12);
        assert!((figure(&path, &[Quantity::Sii, Quantity::Ha]) - 3.0).abs() < 1e-12);
        assert_eq!(
            figure_name(&crate::common::ic_443().target, &[Quantity::Ha]),
            "H-alpha + [N II]"
        );
    }

    #[test]
    fn rounds_are_shuffled_independently_and_evenly() {
        let mut first = [0; 4];
        let mut same = 0;
        for seed in 0..2000 {
            let o = orders(4, 2, seed);
            first[o[0][0]] += 1;
            same += u32::from(o[0] == o[1]);
        }
        assert!(first.iter().all(|n| (400..600).contains(n)), "{first:?}");
        // One in 24 by chance.
        assert!((40..140).contains(&same), "{same}");
    }
}
