//! Counting noise: electrons that a stack of subs collects, drawn so that a longer stack of the
//! same seed is the same picture, cleaner.

use rand::{Rng, SeedableRng};
use rand_distr::{Distribution, StandardNormal};
use rand_pcg::Pcg64Mcg;

/// Below this expectation a Poisson count is drawn exactly; above it a normal deviate with the
/// Poisson's skew serves.
const EXACT_BELOW: f64 = 10.0;

/// A generator of its own for one row of one plane: what it draws depends on nothing else.
pub fn row_rng(seed: u32, plane: u64, row: usize) -> Pcg64Mcg {
    // Every bit of all three counts: one is stirred before the next is added (the finisher of
    // SplitMix64, Steele et al. 2014).
    let stirred = [plane, row as u64].into_iter().fold(stir(u64::from(seed)), |h, x| stir(h ^ x));
    Pcg64Mcg::seed_from_u64(stirred)
}

fn stir(x: u64) -> u64 {
    let x = x.wrapping_add(0x9e37_79b9_7f4a_7c15);
    let x = (x ^ (x >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
    let x = (x ^ (x >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
    x ^ (x >> 31)
}

/// What a stack of subs does to a pixel.
#[derive(Clone, Copy, Debug)]
pub struct Stacking {
    /// Subs.
    pub subs: f64,
    /// Read noise of one, e-.
    pub read_noise_e: f64,
    /// Where a sub clips, e-.
    pub full_scale_e: f64,
}

impl Stacking {
    /// Sum of the subs of a pixel whose sub holds `sub_e` electrons: Poisson counts and read noise,
    /// each sub clipped at full scale.
    ///
    /// The sum of N Poisson counts of mean m is a Poisson count of mean N m, and the read noises
    /// add in quadrature: one pair of normal deviates gives the stack, and the same pair a longer
    /// stack of the same picture.
    pub fn stack_e(&self, sub_e: f64, [z, y]: [f64; 2]) -> f64 {
        if sub_e >= self.full_scale_e {
            return self.full_scale_e * self.subs;
        }
        let mean = sub_e * self.subs;
        let count = if mean < EXACT_BELOW {
            exact(mean, z)
        } else {
            mean + mean.sqrt() * z + (z * z - 1.0) / 6.0
        };
        (count + self.read_noise_e * self.subs.sqrt() * y).min(self.full_scale_e * self.subs)
    }
}

impl Stacking {
    /// A row of pixels of `e_per_s` in subs of `sub_s`: as [`Self::stack_e`] of each, in single
    /// precision so that most of it runs four pixels at a time.
    pub fn stack_row(&self, e_per_s: &[f32], sub_s: f64, grain: &[[f32; 2]], out: &mut [f32]) {
        let (sub_s32, subs, full) = (sub_s as f32, self.subs as f32, self.full_scale_e as f32);
        let (read, most) =
            ((self.read_noise_e * self.subs.sqrt()) as f32, (self.full_scale_e * self.subs) as f32);
        for ((o, r), [z, y]) in out.iter_mut().zip(e_per_s).zip(grain) {
            let mean = r * sub_s32 * subs;
            let counted = mean + mean.sqrt() * z + (z * z - 1.0) / 6.0 + read * y;
            *o = if r * sub_s32 >= full { most } else { counted.min(most) };
        }
        // The few electrons of a short stack are counted one by one.
        for ((o, r), d) in out.iter_mut().zip(e_per_s).zip(grain) {
            if r * sub_s32 * subs < EXACT_BELOW as f32 {
                *o = self.stack_e(f64::from(*r) * sub_s, d.map(f64::from)) as f32;
            }
        }
    }
}

/// The two normal deviates of a pixel.
pub fn deviates(rng: &mut impl Rng) -> [f64; 2] {
    [StandardNormal.sample(rng), StandardNormal.sample(rng)]
}

/// The deviates of every pixel of a plane, row by row: drawn once for all stacks of a seed.
#[derive(Debug, PartialEq)]
pub struct Grain {
    seed: u32,
    plane: u64,
    size: [usize; 2],
    /// Two a pixel.
    pub deviates: Vec<[f32; 2]>,
}

impl Grain {
    /// Draws the deviates of a plane.
    pub fn new(seed: u32, plane: u64, size: [usize; 2]) -> Self {
        let mut deviates_of = Vec::with_capacity(size[0] * size[1]);
        for row in 0..size[1] {
            let mut rng = row_rng(seed, plane, row);
            deviates_of.extend((0..size[0]).map(|_| deviates(&mut rng).map(|d| d as f32)));
        }
        Self { seed, plane, size, deviates: deviates_of }
    }

    /// Whether these are the deviates of a plane.
    pub fn is_of(&self, seed: u32, plane: u64, size: [usize; 2]) -> bool {
        (self.seed, self.plane, self.size) == (seed, plane, size)
    }
}

/// The share of a normal distribution below a deviate, to 1e-7 (Abramowitz & Stegun 1964, 26.2.17).
fn normal_below(z: f64) -> f64 {
    let t = 1.0 / (1.0 + 0.231_641_9 * z.abs());
    let sum = t
        * (0.319_381_530
            + t * (-0.356_563_782
                + t * (1.781_477_937 + t * (-1.821_255_978 + t * 1.330_274_429))));
    let above = (-0.5 * z * z).exp() / (2.0 * std::f64::consts::PI).sqrt() * sum;
    if z < 0.0 { above } else { 1.0 - above }
}

/// Counts that are drawn exactly end here.
const MOST: usize = 200;

/// 1/k.
const INVERSE: [f64; MOST + 1] = {
    let mut out = [0.0; MOST + 1];
    let mut k = 1;
    while k <= MOST {
        out[k] = 1.0 / k as f64;
        k += 1;
    }
    out
};

/// The Poisson count at the quantile of a normal deviate.
fn exact(mean: f64, z: f64) -> f64 {
    let u = normal_below(z);
    let (mut k, mut p) = (0, (-mean).exp());
    let mut cumulated = p;
    while cumulated < u && k < MOST {
        k += 1;
        p *= mean * INVERSE[k];
        cumulated += p;
    }
    k as f64
}

#[cfg(test)]
mod tests {
    use super::*;

    fn stacking(subs: f64, read_noise_e: f64, full_scale_e: f64) -> Stacking {
        Stacking { subs, read_noise_e, full_scale_e }
    }

    /// Mean and variance of many draws.
    fn statistics(sub_e: f64, subs: f64, read: f64) -> (f64, f64) {
        let n = 40_000;
        let mut rng = row_rng(1, 0, 0);
        let draws: Vec<f64> =
            (0..n).map(|_| stacking(subs, read, 1e9).stack_e(sub_e, deviates(&mut rng))).collect();
        let mean = draws.iter().sum::<f64>() / f64::from(n);
        (mean, draws.iter().map(|d| (d - mean).powi(2)).sum::<f64>() / f64::from(n - 1))
    }

    #[test]
    fn mean_and_variance_are_those_of_the_counts() {
        for (sub_e, subs, read) in [
            (0.02, 10.0, 0.0),
            (3.0, 1.0, 1.5),
            (1.3, 9.0, 0.0),
            (11.0, 1.0, 0.0),
            (8.0, 40.0, 2.0),
            (500.0, 3.0, 3.0),
        ] {
            let (mean, variance) = statistics(sub_e, subs, read);
            let (want_mean, want_variance) = (sub_e * subs, sub_e * subs + read * read * subs);
            assert!(
                (mean - want_mean).abs() < 5.0 * (want_variance / 40_000.0).sqrt(),
                "{sub_e}: {mean}"
            );
            assert!(
                (variance / want_variance - 1.0).abs() < 0.05,
                "{sub_e}: {variance} {want_variance}"
            );
        }
    }

    /// The counts at the quantiles of the deviates are Poisson's: shares of each count against the
    /// formula.
    #[test]
    fn few_electrons_are_counted_exactly() {
        let (mean, n) = (2.5, 60_000);
        let mut rng = row_rng(3, 1, 4);
        let mut seen = [0u32; 12];
        for _ in 0..n {
            let k = stacking(1.0, 0.0, 1e9).stack_e(mean, deviates(&mut rng));
            seen[(k as usize).min(11)] += 1;
        }
        let mut p = (-mean).exp();
        for (k, count) in seen.iter().enumerate().take(8) {
            let want = p * f64::from(n);
            assert!(
                (f64::from(*count) - want).abs() < 5.0 * want.sqrt(),
                "{k}: {count} against {want:.0}"
            );
            p *= mean / (k + 1) as f64;
        }
    }

    /// Against scipy's Poisson distribution: see reference/README.md.
    #[test]
    fn counts_at_a_quantile_are_scipy_s() {
        let text = include_str!("../../../../reference/poisson_quantiles.csv");
        for line in text.lines().skip(1) {
            let cells: Vec<f64> = line.split(',').map(|c| c.parse().unwrap()).collect();
            assert_eq!(exact(cells[0], cells[1]), cells[2], "{line}");
        }
    }

    #[test]
    fn seeds_planes_and_rows_that_differ_in_any_bit_draw_differently() {
        let first = |seed: u32, plane: u64, row: usize| {
            deviates(&mut row_rng(seed, plane, row))[0].to_bits()
        };
        let mut seen = std::collections::BTreeSet::from([first(1, 0, 0)]);
        for bit in 0..32 {
            assert!(seen.insert(first(1 ^ (1 << bit), 0, 0)) || bit == 0, "seed, bit {bit}");
            assert!(seen.insert(first(1, 1 << bit, 0)), "plane, bit {bit}");
            assert!(seen.insert(first(1, 0, 1 << bit)), "row, bit {bit}");
        }
    }

    #[test]
    fn a_row_is_its_pixels() {
        let grain = Grain::new(5, 1, [400, 1]);
        let rates: Vec<f32> = (0..400).map(|i| 1e-3 * 1.04f32.powi(i)).collect();
        let (stacking, mut row) = (stacking(20.0, 1.5, 5e3), vec![0.0; 400]);
        stacking.stack_row(&rates, 60.0, &grain.deviates, &mut row);
        for ((got, r), d) in row.iter().zip(&rates).zip(&grain.deviates) {
            let want = stacking.stack_e(f64::from(*r) * 60.0, d.map(f64::from));
            assert!((f64::from(*got) - want).abs() < 1e-5 * want.abs() + 1e-3, "{r}: {got} {want}");
        }
        assert_eq!(row[399], 1e5);
    }

    #[test]
    fn kept_grain_is_the_row_s_own() {
        let grain = Grain::new(7, 3, [5, 4]);
        let mut rng = row_rng(7, 3, 2);
        let row: Vec<[f32; 2]> = (0..5).map(|_| deviates(&mut rng).map(|d| d as f32)).collect();
        assert_eq!(grain.deviates[10..15], row[..]);
        assert!(
            grain.is_of(7, 3, [5, 4]) && !grain.is_of(8, 3, [5, 4]) && !grain.is_of(7, 3, [4, 5])
        );
    }

    #[test]
    fn a_full_pixel_is_full() {
        assert_eq!(stacking(5.0, 1.0, 1.6e4).stack_e(2e4, [0.0, 0.0]), 8e4);
    }
}
