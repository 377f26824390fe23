//! The split that serves the least-served goal best: a matrix game, solved as a linear programme.

/// Shares x (not negative, summing to 1) for which the least of sum_i x_i gains\[i\]\[k\] over k is
/// largest; even shares where no split serves every goal. `gains` holds a row for each of `n`
/// exposures and a column a goal, none negative.
///
/// This is the value of a matrix game (von Neumann 1928). As a linear programme (Dantzig 1963,
/// section 13-2): the least sum of y with sum_i y_i gains\[i\]\[k\] >= 1, then x = y / sum y. Its
/// dual, the largest sum of z with sum_k gains\[i\]\[k\] z_k <= 1, has a basis to begin with, and
/// the simplex method leaves y in the row of the objective. Bland's rule (1977) keeps it from going
/// in circles.
pub fn least_served_shares(gains: &[Vec<f64>], n: usize) -> Vec<f64> {
    let even = || vec![1.0 / n as f64; n];
    let goals = gains.first().map_or(0, Vec::len);
    // Each goal in units of its best exposure, so that pivots are of one size.
    let unit: Vec<f64> =
        (0..goals).map(|k| gains.iter().map(|row| row[k]).fold(0.0, f64::max)).collect();
    if goals == 0 || unit.iter().any(|u| *u <= 0.0) {
        return even();
    }
    // Goals differ by many magnitudes: the objective is told in units of the hardest.
    let hardest = unit.iter().copied().fold(f64::INFINITY, f64::min);
    let width = goals + n + 1;
    let mut rows: Vec<Vec<f64>> = (0..n)
        .map(|i| {
            let mut row = vec![0.0; width];
            row.iter_mut().zip(&gains[i]).zip(&unit).for_each(|((v, g), u)| *v = g / u);
            row[goals + i] = 1.0;
            row[width - 1] = 1.0;
            row
        })
        .collect();
    let mut objective = vec![0.0; width];
    objective.iter_mut().zip(&unit).for_each(|(v, u)| *v = -hardest / u);
    let mut basis: Vec<usize> = (goals..goals + n).collect();
    for _ in 0..50 * width {
        let Some(enters) = (0..width - 1).find(|&j| objective[j] < -1e-13) else { break };
        let ratio = |i: usize| rows[i][width - 1] / rows[i][enters];
        let candidates = (0..n).filter(|&i| rows[i][enters] > 1e-12);
        let leaves =
            candidates.min_by(|&a, &b| ratio(a).total_cmp(&ratio(b)).then(basis[a].cmp(&basis[b])));
        let Some(leaves) = leaves else { return even() };
        basis[leaves] = enters;
        let pivot = rows[leaves][enters];
        rows[leaves].iter_mut().for_each(|v| *v /= pivot);
        let row = rows[leaves].clone();
        let clear = |other: &mut Vec<f64>| {
            let f = other[enters];
            other.iter_mut().zip(&row).for_each(|(v, r)| *v -= f * r);
        };
        rows.iter_mut()
            .enumerate()
            .filter(|(i, _)| *i != leaves)
            .for_each(|(_, other)| clear(other));
        clear(&mut objective);
    }
    let y: Vec<f64> = objective[goals..goals + n].iter().map(|v| v.max(0.0)).collect();
    let sum: f64 = y.iter().sum();
    if sum > 0.0 { y.iter().map(|v| v / sum).collect() } else { even() }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::decide::goals::balanced_shares;
    use proptest::prelude::*;

    fn least(gains: &[Vec<f64>], shares: &[f64]) -> f64 {
        let served = |k: usize| shares.iter().zip(gains).map(|(x, row)| x * row[k]).sum::<f64>();
        (0..gains[0].len()).map(served).fold(f64::INFINITY, f64::min)
    }

    /// By trial: an optimum equalises as many goals as it uses exposures, so all square sub-games
    /// are solved.
    fn by_all_sub_games(gains: &[Vec<f64>], n: usize) -> Vec<f64> {
        let quantities = gains.first().map_or(0, Vec::len);
        let mut best = (-1.0, vec![1.0 / n as f64; n]);
        for rows in 1u32..1 << n {
            let used: Vec<usize> = (0..n).filter(|i| rows & (1 << i) != 0).collect();
            if used.len() > quantities {
                continue;
            }
            for columns in (1u32..1 << quantities).filter(|c| c.count_ones() == rows.count_ones()) {
                let equal: Vec<usize> =
                    (0..quantities).filter(|k| columns & (1 << k) != 0).collect();
                let matrix =
                    equal.iter().map(|&k| used.iter().map(|&i| gains[i][k]).collect()).collect();
                let Some(y) = solve_for_ones(matrix) else { continue };
                let sum: f64 = y.iter().sum();
                if sum <= 0.0 || y.iter().any(|v| *v < -1e-12 * sum) {
                    continue;
                }
                let served = |k: usize| {
                    used.iter().zip(&y).map(|(&i, y)| y / sum * gains[i][k]).sum::<f64>()
                };
                let least = (0..quantities).map(served).fold(f64::INFINITY, f64::min);
                if least > best.0 {
                    let mut shares = vec![0.0; n];
                    used.iter().zip(&y).for_each(|(&i, y)| shares[i] = (y / sum).max(0.0));
                    best = (least, shares);
                }
            }
        }
        best.1
    }

    /// Solves matrix y = (1, 1, ...) by elimination with pivots; `None` for a singular matrix.
    fn solve_for_ones(mut matrix: Vec<Vec<f64>>) -> Option<Vec<f64>> {
        let n = matrix.len();
        matrix.iter_mut().for_each(|row| row.push(1.0));
        for i in 0..n {
            let pivot =
                (i..n).max_by(|&a, &b| matrix[a][i].abs().total_cmp(&matrix[b][i].abs()))?;
            matrix.swap(i, pivot);
            if matrix[i][i].abs() < 1e-300 {
                return None;
            }
            for j in 0..n {
                if j != i {
                    let f = matrix[j][i] / matrix[i][i];
                    let row = matrix[i].clone();
                    matrix[j].iter_mut().zip(&row).for_each(|(v, r)| *v -= f * r);
                }
            }
        }
        Some((0..n).map(|i| matrix[i][n] / matrix[i][i]).collect())
    }

    proptest! {
        #[test]
        fn the_solution_is_the_best_of_all_sub_games(
            cells in proptest::collection::vec(prop_oneof![Just(0.0), 0.001..50.0f64], 20),
            n in 1usize..5,
            k in 1usize..5,
        ) {
            let gains: Vec<Vec<f64>> = (0..n).map(|i| cells[i * k..(i + 1) * k].to_vec()).collect();
            let (found, tried) = (least_served_shares(&gains, n), by_all_sub_games(&gains, n));
            prop_assert!((found.iter().sum::<f64>() - 1.0).abs() < 1e-9
                && found.iter().all(|x| *x >= 0.0), "{:?}", found);
            let (a, b) = (least(&gains, &found), least(&gains, &tried));
            prop_assert!((a - b).abs() <= 1e-9 * b.max(1e-9), "{a} {b} {:?} {:?}", gains, found);
        }

        /// The solution finds what the closed form gives where nothing is shared.
        #[test]
        fn the_solution_agrees_with_the_closed_form(
            rates in proptest::collection::vec(0.01..50.0f64, 2..5),
        ) {
            let gains: Vec<Vec<f64>> = (0..rates.len())
                .map(|i| (0..rates.len()).map(|k| if i == k { rates[i] } else { 0.0 }).collect())
                .collect();
            let found = least_served_shares(&gains, rates.len());
            let exact = balanced_shares(&rates, &vec![1.0; rates.len()]);
            let least = |s: &[f64]| s.iter().zip(&rates).map(|(s, r)| s * r)
                .fold(f64::INFINITY, f64::min);
            prop_assert!(least(&found) > (1.0 - 1e-9) * least(&exact), "{:?} {:?}", found, exact);
        }

        /// Twelve exposures and twelve goals, some magnitudes apart: no transfer of a little time
        /// serves the least-served better.
        #[test]
        fn a_dozen_of_each_cannot_be_bettered(cells in proptest::collection::vec(-3.0..3.0f64,
            144)) {
            let gains: Vec<Vec<f64>> = cells.chunks(12)
                .map(|row| row.iter().map(|e| 10f64.powf(*e)).collect()).collect();
            let shares = least_served_shares(&gains, 12);
            let value = least(&gains, &shares);
            for from in (0..12).filter(|i| shares[*i] > 1e-6) {
                for to in (0..12).filter(|to| *to != from) {
                    let step = 1e-3f64.min(shares[from]);
                    let mut moved = shares.clone();
                    moved[from] -= step;
                    moved[to] += step;
                    prop_assert!(least(&gains, &moved) <= value * (1.0 + 1e-9), "{from} to {to}");
                }
            }
        }
    }

    #[test]
    fn a_goal_that_nothing_serves_leaves_the_split_even() {
        assert_eq!(least_served_shares(&[vec![1.0, 0.0], vec![2.0, 0.0]], 2), [0.5, 0.5]);
        assert_eq!(least_served_shares(&[vec![], vec![], vec![]], 3), [1.0 / 3.0; 3]);
    }
}
