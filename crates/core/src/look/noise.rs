//! Counting noise: electrons that a stack of subs collects, drawn so that a longer stack of the same seed is the same picture, cleaner.

use rand::{Rng, SeedableRng};
use rand_distr::{Distribution, StandardNormal};
use rand_pcg::Pcg64Mcg;

/// Below this expectation a Poisson count is drawn exactly; above it a normal deviate with the Poisson's skew serves.
const EXACT_BELOW: f64 = 30.0;

/// A generator of its own for one row of one plane: what it draws depends on nothing else.
pub fn row_rng(seed: u32, plane: u64, row: usize) -> Pcg64Mcg {
    Pcg64Mcg::seed_from_u64(u64::from(seed) << 40 ^ plane << 24 ^ row as u64)
}

/// Sum of `subs` subs of a pixel whose sub holds `sub_e` electrons: Poisson counts and read noise, each sub clipped at full scale.
///
/// The sum of N Poisson counts of mean m is a Poisson count of mean N m, and the read noises add in quadrature: one draw gives the
/// stack. Always takes two normal deviates, so that the sequence does not depend on the exposure.
pub fn stack_e(rng: &mut impl Rng, sub_e: f64, subs: f64, read_noise_e: f64, full_scale_e: f64) -> f64 {
    let z: f64 = StandardNormal.sample(rng);
    let y: f64 = StandardNormal.sample(rng);
    if sub_e >= full_scale_e {
        return full_scale_e * subs;
    }
    let mean = sub_e * subs;
    let count = if mean < EXACT_BELOW { exact(mean, z) } else { mean + mean.sqrt() * z + (z * z - 1.0) / 6.0 };
    (count + read_noise_e * subs.sqrt() * y).min(full_scale_e * subs)
}

/// The Poisson count at the quantile of a normal deviate.
fn exact(mean: f64, z: f64) -> f64 {
    let u = 0.5 * libm::erfc(-z * std::f64::consts::FRAC_1_SQRT_2);
    let (mut k, mut p) = (0.0, (-mean).exp());
    let mut cumulated = p;
    while cumulated < u && k < 200.0 {
        k += 1.0;
        p *= mean / k;
        cumulated += p;
    }
    k
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Mean and variance of many draws.
    fn statistics(sub_e: f64, subs: f64, read: f64) -> (f64, f64) {
        let n = 40_000;
        let mut rng = row_rng(1, 0, 0);
        let draws: Vec<f64> = (0..n).map(|_| stack_e(&mut rng, sub_e, subs, read, 1e9)).collect();
        let mean = draws.iter().sum::<f64>() / f64::from(n);
        (mean, draws.iter().map(|d| (d - mean).powi(2)).sum::<f64>() / f64::from(n - 1))
    }

    #[test]
    fn mean_and_variance_are_those_of_the_counts() {
        for (sub_e, subs, read) in [(0.02, 10.0, 0.0), (3.0, 1.0, 1.5), (8.0, 40.0, 2.0), (500.0, 3.0, 3.0)] {
            let (mean, variance) = statistics(sub_e, subs, read);
            let (want_mean, want_variance) = (sub_e * subs, sub_e * subs + read * read * subs);
            assert!((mean - want_mean).abs() < 5.0 * (want_variance / 40_000.0).sqrt(), "{sub_e}: {mean}");
            assert!((variance / want_variance - 1.0).abs() < 0.05, "{sub_e}: {variance} {want_variance}");
        }
    }

    #[test]
    fn a_full_pixel_is_full() {
        assert_eq!(stack_e(&mut row_rng(1, 0, 0), 2e4, 5.0, 1.0, 1.6e4), 8e4);
    }
}
