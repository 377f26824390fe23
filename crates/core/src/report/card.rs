//! A comparison in two lines, for a list of them: which path is first, and by how much.

use serde::Serialize;
use utoipa::ToSchema;

use crate::decide::study::Study;
use crate::light::lines::Quantity;
use crate::wording::{clock, times};

/// One path of a card.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct CardPath {
    /// Its name.
    pub name: String,
    /// Signal to noise that it reaches in what is judged; null where it records none, or where that
    /// is mixed with a brighter line.
    pub snr: Option<f64>,
    /// Side of the square of sky on which that is clean, arcsec; null likewise, and for a goal of
    /// stars.
    pub clean_arcsec: Option<f64>,
}

/// What a comparison comes to.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Card {
    /// What is judged; null where no path records any of the target's light.
    pub quantity: Option<Quantity>,
    /// Index of the path that is first; null where there is none.
    pub winner: Option<usize>,
    /// Which is first and by how much, in a sentence.
    pub words: String,
    /// The paths, in their order.
    pub paths: Vec<CardPath>,
}

/// What a comparison comes to in the quantity by which its target is judged first.
pub fn card(study: &Study) -> Card {
    let (s, evaluation) = (study.scenario(), &study.evaluation);
    let seen = |q: Quantity| evaluation.contenders.iter().any(|c| c.quantities.contains_key(&q));
    let quantity = s.target.first_quantity(seen);
    let reached = |i: usize| {
        let a = evaluation.contenders[i].quantities.get(&quantity?)?;
        a.mixed_with.is_none().then_some(a)
    };
    let all = 0..s.contenders.len();
    let paths = all.clone().map(|i| CardPath {
        name: s.contenders[i].name.clone(),
        snr: reached(i).map(|a| a.snr),
        clean_arcsec: reached(i)
            .filter(|a| a.stars_to_v_mag.is_none())
            .and_then(|a| a.clean_arcsec),
    });
    let paths = paths.collect();
    let mut timed: Vec<(usize, f64)> =
        all.filter_map(|i| Some((i, reached(i)?.time_to_goal_s?))).collect();
    timed.sort_by(|a, b| a.1.total_cmp(&b.1));
    let name = |i: usize| &s.contenders[i].name;
    let phrase = quantity.map_or(String::new(), |q| s.goal_phrase(q));
    let words = match timed[..] {
        [] => "No path reaches its goal.".to_owned(),
        [(only, t)] => {
            format!("{}: {phrase} in {}.", name(only), clock(t))
        }
        [(first, t), (next, other), ..] => format!(
            "{} is first: {phrase} in {}; {} takes {}.",
            name(first),
            clock(t),
            name(next),
            times(other / t)
        ),
    };
    Card { quantity, winner: timed.first().map(|(i, _)| *i), words, paths }
}
