//! Least squares with errors that hold when frames scatter unequally.
//!
//! Under cloud or low in the sky frames scatter more; the usual error of a coefficient is then too
//! small. HC3 weighs each frame's residual by how much it pulled the fit towards itself (MacKinnon &
//! White 1985, J. Econometrics 29, 305), which holds for twenty frames as for a thousand.

use crate::frame::tile::{OF_MAD, middle};

/// A fit of one column by others.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Fit {
    /// Of each column.
    pub(crate) coefficients: Vec<f64>,
    /// HC3 standard error of each.
    pub(crate) errors: Vec<f64>,
    /// What the fit leaves of each frame.
    pub(crate) residuals: Vec<f64>,
    /// The same over the scatter of all other frames, at its own pull (studentised, external).
    pub(crate) studentised: Vec<f64>,
    /// Frames less columns.
    pub(crate) freedom: usize,
}

impl Fit {
    /// Scatter of one frame round the fit.
    pub(crate) fn scatter(&self) -> f64 {
        let sum: f64 = self.residuals.iter().map(|r| r * r).sum();
        (sum / self.freedom as f64).sqrt()
    }
}

/// A column whose own part is less than this share of it is a mixture of the others.
const OWN: f64 = 1e-9;

/// Fits `y` by `columns`, each frame weighing `weights` (all alike where empty). `None` where frames
/// do not outnumber columns or a column says nothing of its own.
pub(crate) fn fit(columns: &[Vec<f64>], y: &[f64], weights: &[f64]) -> Option<Fit> {
    let (n, p) = (y.len(), columns.len());
    if n <= p || p == 0 || columns.iter().any(|c| c.len() != n) {
        return None;
    }
    let root: Vec<f64> =
        (0..n).map(|i| weights.get(i).copied().unwrap_or(1.0).max(0.0).sqrt()).collect();
    // Columns of length 1, so that airmass and seconds are alike to the sums.
    let lengths: Vec<f64> = columns
        .iter()
        .map(|c| c.iter().zip(&root).map(|(v, w)| (v * w).powi(2)).sum::<f64>().sqrt())
        .collect();
    if lengths.iter().any(|l| !(l.is_finite() && *l > 0.0)) {
        return None;
    }
    let x = |j: usize, i: usize| columns[j][i] * root[i] / lengths[j];
    let products =
        (0..p).map(|j| (0..p).map(|k| (0..n).map(|i| x(j, i) * x(k, i)).sum()).collect()).collect();
    let inverse = inverted(products)?;
    let along: Vec<f64> = (0..p).map(|j| (0..n).map(|i| x(j, i) * y[i] * root[i]).sum()).collect();
    let scaled: Vec<f64> =
        inverse.iter().map(|row| row.iter().zip(&along).map(|(a, b)| a * b).sum()).collect();
    let residuals: Vec<f64> = (0..n)
        .map(|i| y[i] - (0..p).map(|j| scaled[j] / lengths[j] * columns[j][i]).sum::<f64>())
        .collect();
    let freedom = n - p;
    // How far each frame moves its own fitted value (leverage).
    let pull: Vec<f64> = (0..n)
        .map(|i| {
            let own = |j: usize| (0..p).map(|k| inverse[j][k] * x(k, i)).sum::<f64>();
            (0..p).map(|j| x(j, i) * own(j)).sum::<f64>().min(1.0 - 1e-9)
        })
        .collect();
    let left: Vec<f64> = (0..n).map(|i| residuals[i] * root[i]).collect();
    let sum: f64 = left.iter().map(|r| r * r).sum();
    let studentised = (0..n)
        .map(|i| {
            let without = (sum - left[i] * left[i] / (1.0 - pull[i])) / (freedom as f64 - 1.0);
            left[i] / (without.max(1e-300) * (1.0 - pull[i])).sqrt()
        })
        .collect();
    // (X'X)^-1 X' diag(r^2 / (1 - h)^2) X (X'X)^-1, its diagonal.
    let errors = (0..p)
        .map(|j| {
            let square: f64 = (0..n)
                .map(|i| {
                    let along: f64 = (0..p).map(|k| inverse[j][k] * x(k, i)).sum();
                    (along * left[i] / (1.0 - pull[i])).powi(2)
                })
                .sum();
            square.sqrt() / lengths[j]
        })
        .collect();
    let coefficients = scaled.iter().zip(&lengths).map(|(c, l)| c / l).collect();
    Some(Fit { coefficients, errors, residuals, studentised, freedom })
}

/// Inverse of a symmetric positive matrix with ones on its diagonal, by elimination. `None` where a
/// row is a mixture of those before it.
fn inverted(mut m: Vec<Vec<f64>>) -> Option<Vec<Vec<f64>>> {
    let p = m.len();
    let mut inverse: Vec<Vec<f64>> =
        (0..p).map(|i| (0..p).map(|j| f64::from(u8::from(i == j))).collect()).collect();
    for k in 0..p {
        let own = m[k][k];
        if own.is_nan() || own < OWN {
            return None;
        }
        for j in 0..p {
            m[k][j] /= own;
            inverse[k][j] /= own;
        }
        for i in (0..p).filter(|i| *i != k) {
            let times = m[i][k];
            for j in 0..p {
                m[i][j] -= times * m[k][j];
                inverse[i][j] -= times * inverse[k][j];
            }
        }
    }
    Some(inverse)
}

/// Fits that do not follow the odd frame: a frame further off than 1.345 robust standard deviations
/// weighs less (Huber 1964, Ann. Math. Stat. 35, 73).
pub(crate) fn robust_fit(columns: &[Vec<f64>], y: &[f64]) -> Option<Fit> {
    let mut weights = vec![1.0; y.len()];
    let mut last = fit(columns, y, &weights)?;
    for _ in 0..10 {
        let scatter = OF_MAD * middle(last.residuals.iter().map(|r| r.abs()))?;
        if scatter <= 1e-12 {
            break;
        }
        for (w, r) in weights.iter_mut().zip(&last.residuals) {
            *w = (1.345 * scatter / r.abs().max(1e-300)).min(1.0);
        }
        last = fit(columns, y, &weights)?;
    }
    Some(last)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::common::{number, reference};

    #[test]
    fn coefficients_errors_and_odd_frames_are_those_of_statsmodels() {
        let frames = reference("trial_frames.csv");
        let fits = reference("trial_fits.csv");
        for night in ["even", "uneven"] {
            let own: Vec<&Vec<String>> = frames.iter().filter(|r| r[0] == night).collect();
            let column = |i: usize| own.iter().map(|r| number(&r[i])).collect::<Vec<f64>>();
            let columns = [
                vec![1.0; own.len()],
                column(1),
                column(2).iter().map(|v| v.ln()).collect(),
                column(3),
                column(4).iter().map(|m| m / 60.0).collect(),
            ];
            let ours = fit(&columns, &column(5), &[]).expect("a fit");
            let theirs = fits.iter().filter(|r| r[0] == night);
            for (j, row) in theirs.enumerate() {
                let near = |a: f64, b: &str| (a - number(b)).abs() < 1e-8 * number(b).abs();
                assert!(near(ours.coefficients[j], &row[2]), "{row:?}");
                assert!(near(ours.errors[j], &row[3]), "{row:?}: {}", ours.errors[j]);
            }
            for (a, b) in ours.studentised.iter().zip(column(6)) {
                assert!((a - b).abs() < 1e-7, "{a} {b}");
            }
        }
    }

    #[test]
    fn a_line_is_found_and_a_mixture_refused() {
        let ones = vec![1.0; 6];
        let x: Vec<f64> = (0..6).map(f64::from).collect();
        let y: Vec<f64> = x.iter().map(|x| 2.0 - 0.5 * x).collect();
        let found = fit(&[ones.clone(), x.clone()], &y, &[]).expect("a fit");
        assert!((found.coefficients[0] - 2.0).abs() < 1e-12);
        assert!((found.coefficients[1] + 0.5).abs() < 1e-12);
        let mixture: Vec<f64> = x.iter().map(|x| 3.0 * x + 1.0).collect();
        assert_eq!(fit(&[ones.clone(), x, mixture], &y, &[]), None);
        assert_eq!(fit(std::slice::from_ref(&ones), &[1.0], &[]), None);
        assert_eq!(fit(&[vec![0.0; 6]], &y, &[]), None);
    }

    #[test]
    fn one_frame_under_a_cloud_does_not_turn_the_line() {
        let ones = vec![1.0; 20];
        let x: Vec<f64> = (0..20).map(f64::from).collect();
        let mut y: Vec<f64> = (0..20).map(|i| 1.0 + f64::from(i % 3) * 0.01).collect();
        y[18] = -3.0;
        let columns = [ones, x];
        let plain = fit(&columns, &y, &[]).expect("a fit").coefficients[1];
        let robust = robust_fit(&columns, &y).expect("a fit").coefficients[1];
        assert!(plain.abs() > 0.02 && robust.abs() < 0.002, "{plain} {robust}");
    }
}
