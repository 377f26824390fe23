//! How many frames a comparison needs before a difference of a given size would be seen.
//!
//! Two frames taken one after the other, one of each kind, make a pair; the logarithms of what is
//! judged differ within a pair by the effect and by the scatter of two frames. Whether n such pairs
//! show the effect is a paired t test's question, and its power follows the noncentral t
//! distribution (Cohen 1988, Statistical Power Analysis, chapter 2; formula 4.1 there for the
//! first guess by the normal distribution).

use statrs::distribution::{ContinuousCDF, Normal, StudentsT};
use statrs::function::gamma::ln_gamma;

/// Chance of calling a difference where there is none, both sides together.
pub const FALSE_ALARM: f64 = 0.05;
/// Chance of seeing the difference that matters, which a trial is designed for (common practice).
pub const POWER: f64 = 0.8;
/// Smallest difference that is worth a filter's price unless somebody says otherwise, as a share.
pub const MATTERS: f64 = 0.05;
/// No night has more pairs than this.
pub const MOST_PAIRS: usize = 500;

/// Steps of the integral over the scatter that was met.
const STEPS: usize = 1000;

fn normal_quantile(p: f64) -> f64 {
    Normal::standard().inverse_cdf(p)
}

/// Two-sided quantile of Student's t for the chance of a false alarm; `freedom` is at least 1.
pub(crate) fn critical_t(freedom: usize) -> f64 {
    StudentsT::new(0.0, 1.0, freedom as f64)
        .map_or(f64::INFINITY, |t| t.inverse_cdf(1.0 - FALSE_ALARM / 2.0))
}

/// Chance that a t with an offset (the noncentral t) is above `t`: the normal's tail averaged over
/// the scatter that may be met, whose square is distributed as chi squared over its freedom.
fn above(t: f64, freedom: usize, offset: f64) -> f64 {
    let nu = freedom as f64;
    let ln_scale = std::f64::consts::LN_2 + nu / 2.0 * (nu / 2.0).ln() - ln_gamma(nu / 2.0);
    let density = |u: f64| {
        if u <= 0.0 {
            return if freedom == 1 { ln_scale.exp() } else { 0.0 };
        }
        (ln_scale + (nu - 1.0) * u.ln() - nu * u * u / 2.0).exp()
    };
    let tail = |u: f64| 0.5 * libm::erfc((t * u - offset) / std::f64::consts::SQRT_2);
    // Simpson's rule; beyond nine standard deviations nothing is left.
    let spread = 9.0 / nu.sqrt();
    let (from, to) = ((1.0 - spread).max(0.0), 1.0 + spread);
    let step = (to - from) / STEPS as f64;
    let sum: f64 = (0..=STEPS)
        .map(|i| {
            let u = from + step * i as f64;
            let weight = match i {
                0 | STEPS => 1.0,
                _ if i % 2 == 1 => 4.0,
                _ => 2.0,
            };
            weight * density(u) * tail(u)
        })
        .sum();
    (sum * step / 3.0).clamp(0.0, 1.0)
}

/// Chance that a two-sided t test calls an effect that is `offset` standard errors large.
fn called(freedom: usize, offset: f64) -> f64 {
    called_at(critical_t(freedom), freedom, offset)
}

/// The same with its quantile at hand.
fn called_at(t: f64, freedom: usize, offset: f64) -> f64 {
    // The other side: what is below -t with this offset is above t with the opposite one.
    above(t, freedom, offset) + above(t, freedom, -offset)
}

/// Chance that `pairs` pairs show a difference.
///
/// `scatter` is the standard deviation of one frame's logarithm, `difference` the share by which one
/// kind is better (0.05: five per cent). With fewer than two pairs nothing is shown: 0.
///
/// ```
/// use salt_lamp_core::trial::power;
/// assert!(power(9, 0.03, 0.05) > 0.8 && power(8, 0.03, 0.05) < 0.8);
/// ```
pub fn power(pairs: usize, scatter: f64, difference: f64) -> f64 {
    if pairs < 2 {
        return 0.0;
    }
    let d = difference.ln_1p().abs();
    called(pairs - 1, d * (pairs as f64 / 2.0).sqrt() / scatter.max(1e-9))
}

/// Pairs that show a difference with [`POWER`]; `None` where more than [`MOST_PAIRS`] would not.
///
/// Begins at n = 2 (z(1-a/2) + z(1-b))^2 s^2 / d^2, which few pairs do not keep, and goes on by the
/// noncentral t.
pub fn pairs_needed(scatter: f64, difference: f64) -> Option<usize> {
    let d = difference.ln_1p().abs();
    let z = normal_quantile(1.0 - FALSE_ALARM / 2.0) + normal_quantile(POWER);
    let first = (2.0 * (z * scatter / d).powi(2)).ceil();
    if !first.is_finite() || first > MOST_PAIRS as f64 {
        return None;
    }
    let first = (first as usize).max(2);
    (first..=MOST_PAIRS).find(|&n| power(n, scatter, difference) >= POWER)
}

/// Smallest effect that a test with this standard error and freedom would have called with
/// [`POWER`], in the error's unit.
pub(crate) fn smallest_seen(error: f64, freedom: usize) -> f64 {
    if freedom < 1 {
        return f64::INFINITY;
    }
    let t = critical_t(freedom);
    let (mut low, mut high) = (0.0, 200.0);
    for _ in 0..30 {
        let middle = 0.5 * (low + high);
        if called_at(t, freedom, middle) < POWER { low = middle } else { high = middle }
    }
    error * high
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn nothing_different_is_called_one_time_in_twenty() {
        for freedom in [1, 2, 5, 17, 60] {
            assert!((called(freedom, 0.0) - FALSE_ALARM).abs() < 1e-6, "{freedom}");
        }
    }

    #[test]
    fn what_could_have_been_seen_is_what_so_many_pairs_were_planned_for() {
        let (pairs, scatter) = (9, 0.03);
        let error = scatter * (2.0 / pairs as f64).sqrt();
        let seen = smallest_seen(error, pairs - 1);
        assert!((power(pairs, scatter, seen.exp_m1()) - POWER).abs() < 1e-6);
    }

    #[test]
    fn what_no_night_holds_is_not_promised() {
        assert_eq!(pairs_needed(0.5, 0.01), None);
        assert_eq!(pairs_needed(0.03, 0.0), None);
        assert_eq!(pairs_needed(1e-6, 0.5), Some(2));
    }
}
