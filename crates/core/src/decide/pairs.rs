//! Which pairs of light paths differ by more than what is uncertain: of the others nobody can be
//! wrong by eye.

use crate::decide::differences::{Told, told};
use crate::decide::study::Study;
use crate::decide::uncertainty::draws::Range;
use crate::light::lines::Quantity;
use crate::path::scales::Scales;

/// For each pair `[a][b]` of a study's paths, whether their signal to noise over some quantities
/// together (squares added) differs by more than its range, draw by draw, and by more than the
/// model holds.
pub fn figures_differ(study: &Study, made_of: &[Quantity]) -> Vec<Vec<bool>> {
    let paths = &study.model.paths;
    // (Signal to noise)^2 of each path in each state of the world, and in the stated one.
    let squares: Vec<Vec<f64>> = paths
        .iter()
        .enumerate()
        .map(|(i, p)| {
            let shares = p.shares();
            let sum = |scales: &Scales, centres: &[f64]| -> f64 {
                let own = made_of.iter().filter(|q| p.records(**q));
                own.map(|q| p.snr(*q, p.clock_s, &shares, scales, centres).powi(2)).sum()
            };
            let stated = std::iter::once(sum(&Scales::ONE, &[]));
            stated.chain(study.draws.of(i).iter().map(|(s, c)| sum(s, c))).collect()
        })
        .collect();
    let differ = |a: usize, b: usize| {
        let both = squares[a].iter().zip(&squares[b]).skip(1).filter(|(_, b)| **b > 0.0);
        let range = Range::of(both.map(|(a, b)| a / b).collect());
        told(squares[a][0] / squares[b][0], range.as_ref()) == Told::Differs
    };
    let n = paths.len();
    (0..n).map(|a| (0..n).map(|b| a != b && (differ(a, b) || differ(b, a))).collect()).collect()
}
