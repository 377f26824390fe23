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
    (0..rounds).map(|_| shuffled(contenders, &mut rng)).collect()
}

/// The numbers below `n` in an order of chance (Fisher & Yates 1938).
fn shuffled(n: usize, rng: &mut Pcg64Mcg) -> Vec<usize> {
    let mut order: Vec<usize> = (0..n).collect();
    for i in (1..n).rev() {
        order.swap(i, rng.random_range(0..=i));
    }
    order
}

/// What the eye said of one round: the place of the picture at each position, from 0 for the best;
/// equal places are ties.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Choice {
    /// One place a position.
    pub places: Vec<usize>,
}

impl Choice {
    /// Of positions from best to worst, none tied.
    pub fn in_order(order: &[usize]) -> Self {
        let mut places = vec![0; order.len()];
        for (place, &position) in order.iter().enumerate() {
            if let Some(p) = places.get_mut(position) {
                *p = place;
            }
        }
        Self { places }
    }
}

/// What the reveal says.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Revealed {
    /// Indices of the contenders from best to worst, a list a round, by eye; ties in the order of
    /// the contenders.
    pub by_eye: Vec<Vec<usize>>,
    /// Place of each contender by eye, a list a round, from 0 for the best; equal places are ties.
    #[serde(default)]
    pub eye_places: Vec<Vec<usize>>,
    /// Indices from best to worst by signal to noise.
    pub by_figures: Vec<usize>,
    /// Signal to noise of each contender over all that its picture is made of.
    pub snr: Vec<f64>,
    /// What that signal to noise is of, such as "H-alpha + [N II] and [O III] together".
    #[serde(default)]
    pub judged_by: String,
    /// Pairs on which the eye agreed with the figures.
    pub agreed: u32,
    /// Pairs that were judged, over all rounds: the eye told them apart, and the figures differ by
    /// more than their range.
    pub pairs: u32,
    /// Pairs that the eye tied, over all rounds, while the figures differ by more than their range.
    #[serde(default)]
    pub tied: u32,
    /// Pairs of contenders whose figures do not differ by more than their range: nobody is wrong
    /// about them, whatever the eye said.
    #[serde(default)]
    pub alike: u32,
    /// Pairs on which the first two rounds agreed with each other; null for one round.
    pub repeated: Option<u32>,
    /// Of the judged pairs, how many an eye that guesses would get right.
    #[serde(default)]
    pub by_chance: f64,
    /// From how many to how many it gets right in nine of ten looks like this.
    #[serde(default)]
    #[schema(value_type = Vec<u32>)]
    pub chance_range: [u32; 2],
    /// In a sentence.
    pub text: String,
    /// What the figures say besides, in sentences.
    #[serde(default)]
    pub told: Vec<String>,
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

/// What the pictures' figures say.
#[derive(Clone, Debug, PartialEq)]
pub struct Figures<'a> {
    /// Signal to noise of each contender.
    pub snr: &'a [f64],
    /// For each pair `[a][b]`, whether their figures differ by more than their range.
    pub differ: &'a [Vec<bool>],
    /// What they are of.
    pub judged_by: &'a str,
}

/// A pair of contenders, the better by the figures first.
type Pair = [usize; 2];

/// Compares what the eye chose, round by round in its hidden order, with the figures.
///
/// A pair counts where the eye told it apart and the figures differ by more than their range. The
/// level of chance is that of an eye that deals out its places at random, ties and all: pairs of one
/// round hang together, so their number right is drawn and not taken for binomial.
pub fn reveal(orders: &[Vec<usize>], choices: &[Choice], figures: &Figures) -> Revealed {
    let eye_places: Vec<Vec<usize>> =
        choices.iter().zip(orders).map(|(c, order)| by_contender(c, order)).collect();
    let n = figures.snr.len();
    let mut by_figures: Vec<usize> = (0..n).collect();
    by_figures.sort_by(|&a, &b| figures.snr[b].total_cmp(&figures.snr[a]));
    let all = || (0..n).flat_map(|a| (a + 1..n).map(move |b| [a, b]));
    let better = |[a, b]: Pair| if figures.snr[a] >= figures.snr[b] { [a, b] } else { [b, a] };
    let telling: Vec<Pair> = all().filter(|[a, b]| figures.differ[*a][*b]).map(better).collect();
    let count = |test: &dyn Fn(&[usize], Pair) -> bool| -> u32 {
        let each = eye_places.iter().map(|p| telling.iter().filter(|t| test(p, **t)).count());
        each.sum::<usize>() as u32
    };
    let agreed = count(&|p, [a, b]| p[a] < p[b]);
    let tied = count(&|p, [a, b]| p[a] == p[b]);
    let pairs = (eye_places.len() * telling.len()) as u32 - tied;
    let repeated = match &eye_places[..] {
        [one, two, ..] => {
            let alike = |[a, b]: &Pair| one[*a].cmp(&one[*b]) == two[*a].cmp(&two[*b]);
            Some(all().filter(alike).count() as u32)
        }
        _ => None,
    };
    let chance_range = chance(&eye_places, &telling);
    let mut out = Revealed {
        by_eye: eye_places.iter().map(|p| sorted(p)).collect(),
        by_figures,
        snr: figures.snr.to_vec(),
        judged_by: figures.judged_by.to_owned(),
        agreed,
        pairs,
        tied,
        alike: (all().count() - telling.len()) as u32,
        repeated,
        by_chance: f64::from(pairs) / 2.0,
        chance_range,
        eye_places,
        text: String::new(),
        told: Vec::new(),
    };
    out.text = words(&out, all().count() as u32);
    out
}

/// Places by contender, of places by position.
fn by_contender(choice: &Choice, order: &[usize]) -> Vec<usize> {
    let mut out = vec![0; order.len()];
    for (&who, &place) in order.iter().zip(&choice.places) {
        out[who] = place;
    }
    out
}

fn sorted(places: &[usize]) -> Vec<usize> {
    let mut all: Vec<usize> = (0..places.len()).collect();
    all.sort_by_key(|i| places[*i]);
    all
}

/// Looks of a guessing eye that are drawn.
const GUESSES: usize = 4000;

/// From how many to how many pairs an eye gets right in nine of ten looks that deals out the same
/// places at random.
fn chance(eye_places: &[Vec<usize>], telling: &[Pair]) -> [u32; 2] {
    let mut rng = Pcg64Mcg::seed_from_u64(0x4348_414e);
    let mut right: Vec<u32> = (0..GUESSES)
        .map(|_| {
            let mut sum = 0;
            for places in eye_places {
                let dealt: Vec<usize> =
                    shuffled(places.len(), &mut rng).into_iter().map(|i| places[i]).collect();
                sum += telling.iter().filter(|[a, b]| dealt[*a] < dealt[*b]).count();
            }
            sum as u32
        })
        .collect();
    right.sort_unstable();
    [right[GUESSES / 20], right[GUESSES - 1 - GUESSES / 20]]
}

fn words(r: &Revealed, all: u32) -> String {
    let alike = match (r.alike, all) {
        (0, _) => String::new(),
        (n, all) if n == all => {
            return "The figures of these pictures do not differ by more than their range: there \
                    is nothing that an eye could get wrong."
                .to_owned();
        }
        (1, _) => " One pair differs by no more than its range and counts for nothing.".to_owned(),
        (n, _) => {
            format!(" {n} pairs differ by no more than their range and count for nothing.")
        }
    };
    let again = r
        .repeated
        .map_or(String::new(), |n| format!(" Your first two rounds agreed on {n} of {all}."));
    let [low, high] = r.chance_range;
    let luck = match r.agreed {
        n if n > high => "that was no luck",
        n if n < low => "that is worse than luck",
        _ => "that may be luck",
    };
    let tied = if r.tied > 0 { format!(", {} tied", r.tied) } else { String::new() };
    format!(
        "Your eye agreed with the figures on {} of {} pairs{tied}; by chance it would be {} ({low} \
         to {high} in nine of ten looks): {luck}.{alike}{again}",
        r.agreed, r.pairs, r.by_chance
    )
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::evaluate::answer::CleanAnswer;

    fn all_differ(n: usize) -> Vec<Vec<bool>> {
        vec![vec![true; n]; n]
    }

    fn revealed(
        hidden: &[Vec<usize>],
        choices: &[Choice],
        snr: &[f64],
        differ: &[Vec<bool>],
    ) -> Revealed {
        reveal(hidden, choices, &Figures { snr, differ, judged_by: "H-alpha" })
    }

    /// What an eye chooses that puts the contenders in an order.
    fn choosing(hidden: &[Vec<usize>], best_first: &[usize]) -> Vec<Choice> {
        let at = |o: &Vec<usize>, c: usize| o.iter().position(|x| *x == c).unwrap();
        let of = |o: &Vec<usize>| {
            Choice::in_order(&best_first.iter().map(|c| at(o, *c)).collect::<Vec<_>>())
        };
        hidden.iter().map(of).collect()
    }

    #[test]
    fn a_perfect_eye_agrees_whatever_the_order() {
        let hidden = orders(3, 3, 7);
        let r = revealed(&hidden, &choosing(&hidden, &[1, 2, 0]), &[3.0, 9.0, 5.0], &all_differ(3));
        assert_eq!((r.agreed, r.pairs, r.repeated, r.tied, r.alike), (9, 9, Some(3), 0, 0));
        assert_eq!((&r.by_figures[..], &r.by_eye[2][..]), (&[1, 2, 0][..], &[1, 2, 0][..]));
        // Nine of nine by guessing in three rounds of three: one look in 216.
        assert_eq!(r.by_chance, 4.5);
        assert!(r.chance_range[0] >= 1 && r.chance_range[1] < 9, "{:?}", r.chance_range);
        assert!(r.text.contains("no luck"), "{}", r.text);
        let worst =
            revealed(&hidden, &choosing(&hidden, &[0, 2, 1]), &[3.0, 9.0, 5.0], &all_differ(3));
        assert!(worst.agreed == 0 && worst.text.contains("worse than luck"), "{}", worst.text);
    }

    /// One round of three: a guessing eye gets 0, 1, 2 or 3 of the three pairs right in one, two,
    /// two and one of six orders, so that nine of ten looks span all of them; two pictures are a
    /// coin.
    #[test]
    fn the_level_of_chance_is_that_of_whole_orders() {
        let hidden = orders(3, 1, 1);
        let r = revealed(&hidden, &choosing(&hidden, &[0, 1, 2]), &[3.0, 2.0, 1.0], &all_differ(3));
        assert_eq!((r.chance_range, r.by_chance), ([0, 3], 1.5));
        assert!(r.text.contains("may be luck"), "{}", r.text);
        // Ten rounds of two: binomial, of which 2 to 8 hold 97.9 and 3 to 7 89.1 per cent.
        let hidden = orders(2, 10, 1);
        let r = revealed(&hidden, &choosing(&hidden, &[0, 1]), &[3.0, 2.0], &all_differ(2));
        assert_eq!((r.agreed, r.pairs, r.chance_range), (10, 10, [2, 8]));
    }

    #[test]
    fn ties_and_pairs_that_are_alike_are_no_errors() {
        let hidden = vec![vec![2, 0, 1]];
        // The picture at the first position best, the other two alike.
        let tie = [Choice { places: vec![0, 1, 1] }];
        let r = revealed(&hidden, &tie, &[3.0, 2.0, 9.0], &all_differ(3));
        assert_eq!((r.agreed, r.pairs, r.tied), (2, 2, 1));
        assert_eq!(r.eye_places, [[1, 1, 0]]);
        assert!(r.text.contains("2 of 2 pairs, 1 tied"), "{}", r.text);
        // Contenders 0 and 1 do not differ: putting them the wrong way round is no error.
        let mut differ = all_differ(3);
        (differ[0][1], differ[1][0]) = (false, false);
        let wrong = [Choice { places: vec![0, 2, 1] }];
        let r = revealed(&hidden, &wrong, &[3.0, 2.9, 9.0], &differ);
        assert_eq!((r.agreed, r.pairs, r.alike), (2, 2, 1));
        assert!(r.text.contains("One pair differs by no more than its range"), "{}", r.text);
        let none = revealed(&hidden, &wrong, &[3.0, 2.9, 9.0], &vec![vec![false; 3]; 3]);
        assert!(none.pairs == 0 && none.text.contains("nothing that an eye"), "{}", none.text);
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
