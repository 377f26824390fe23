//! Level and scatter of one tile: a median and a median deviation, both of what an iterated cut
//! leaves, from a histogram.

/// Values beyond this many standard deviations are cut.
const CUT: f64 = 3.0;
/// Cuts at most; nearly all tiles stand still after three or four.
const CUTS: usize = 10;
/// Standard deviation over median absolute deviation of a normal distribution.
pub const OF_MAD: f64 = 1.482_602;
/// The same of one that is cut at three standard deviations: 1 / 0.672 37, where
/// 2 Phi(x) - 1 = 0.998 65 - 0.5 has x = 0.672 37.
const OF_CUT_MAD: f64 = 1.487_28;
/// Bins of the histogram.
const BINS: usize = 1024;
/// Bins to a standard deviation of what a first look found.
const BINS_PER_SIGMA: f64 = 32.0;
/// Pixels that a first look is over.
const LOOKED_AT: usize = 256;

/// What a tile has.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Tile {
    /// Median of what is left, ADU.
    pub level: f64,
    /// Standard deviation of it by the median absolute deviation, ADU.
    pub sigma: f64,
    /// Values that were left, of those that are numbers.
    pub kept: usize,
}

/// The median of a list, which it puts into another order; NaN for an empty one.
pub fn median(values: &mut [f32]) -> f32 {
    if values.is_empty() {
        return f32::NAN;
    }
    let middle = values.len() / 2;
    *values.select_nth_unstable_by(middle, f32::total_cmp).1
}

/// The median of some numbers; `None` of none.
pub fn middle(values: impl Iterator<Item = f64>) -> Option<f64> {
    let mut all: Vec<f64> = values.collect();
    let n = all.len();
    if n == 0 {
        return None;
    }
    all.sort_by(f64::total_cmp);
    Some(0.5 * (all[(n - 1) / 2] + all[n / 2]))
}

/// A histogram over the middle of a tile's values.
struct Histogram {
    /// Lower end of the first bin, ADU.
    from: f64,
    /// Width of a bin, ADU.
    width: f64,
    /// How many values lie below each bin, those under the first one included; one entry more than
    /// bins.
    below: Vec<u32>,
}

/// Memory that histograms use again and again.
#[derive(Debug, Default)]
pub struct Bins {
    looked: Vec<f32>,
    at: Vec<u16>,
    /// Two histograms that are filled in turn: values that are alike, one after another, wait less
    /// for each other.
    counts: [Vec<u32>; 2],
}

/// Where what is no number is counted: behind the last bin and what lies above it.
const NOWHERE: f32 = BINS as f32 + 2.0;
/// Numbers from here on are whole ones: 2^23.
const LARGE: f32 = 8_388_608.0;

impl Histogram {
    #[inline(always)]
    fn new(values: &[f32], from: f64, width: f64, bins: &mut Bins) -> Self {
        let (start, per) = (from as f32, (1.0 / width) as f32);
        bins.at.clear();
        bins.at.extend(values.iter().map(|v| {
            // One bin each for what lies below and above.
            let at = (v - start) * per + 1.0;
            let at = if at > 0.5 { at } else { 0.5 };
            let at = if at < BINS as f32 + 1.0 { at } else { BINS as f32 + 1.0 };
            let at = if v.is_nan() { NOWHERE } else { at };
            // The lowest bits of a number this large count halves up to the next whole: that of a
            // half less is the bin's.
            (at - 0.5 + LARGE).to_bits() as u16
        }));
        for counts in &mut bins.counts {
            counts.clear();
            counts.resize(BINS + 3, 0);
        }
        let [even, odd] = &mut bins.counts;
        let (pairs, last) = bins.at.as_chunks::<2>();
        for [a, b] in pairs {
            even[usize::from(*a)] += 1;
            odd[usize::from(*b)] += 1;
        }
        last.iter().for_each(|a| even[usize::from(*a)] += 1);
        let mut below = Vec::with_capacity(BINS + 1);
        let mut sum = 0;
        for (a, b) in even[..=BINS].iter().zip(&odd[..=BINS]) {
            sum += a + b;
            below.push(sum);
        }
        Self { from, width, below }
    }

    /// How many values lie below one, interpolated within its bin.
    fn count_below(&self, value: f64) -> f64 {
        let at = ((value - self.from) / self.width).clamp(0.0, BINS as f64);
        let bin = (at as usize).min(BINS - 1);
        let [low, high] = [self.below[bin], self.below[bin + 1]].map(f64::from);
        low + (at - bin as f64) * (high - low)
    }

    /// The value below which so many lie.
    fn value_at(&self, count: f64) -> f64 {
        let bin = self.below.partition_point(|b| f64::from(*b) <= count).clamp(1, BINS) - 1;
        let [low, high] = [self.below[bin], self.below[bin + 1]].map(f64::from);
        let within = if high > low { ((count - low) / (high - low)).clamp(0.0, 1.0) } else { 0.5 };
        self.from + (bin as f64 + within) * self.width
    }

    /// Half of `kept` values lie within so much of `middle`, to either side.
    fn half_within(&self, middle: f64, kept: f64) -> f64 {
        let (mut low, mut high) = (0.0, BINS as f64 * self.width);
        // To a ten thousandth of a bin.
        for _ in 0..24 {
            let d = 0.5 * (low + high);
            let inside = self.count_below(middle + d) - self.count_below(middle - d);
            if inside < 0.5 * kept { low = d } else { high = d }
        }
        0.5 * (low + high)
    }
}

impl Tile {
    /// Level and scatter of a tile's values, at least one; `None` where none is a number. Quantiles
    /// of whole numbers are interpolated within a count, as if each stood for all values that round
    /// to it.
    #[inline(always)]
    pub fn of(values: &[f32], whole_numbers: bool, bins: &mut Bins) -> Option<Self> {
        let scratch = &mut bins.looked;
        let every = (values.len() / LOOKED_AT).max(1);
        scratch.clear();
        scratch.extend(values.iter().step_by(every).filter(|v| v.is_finite()));
        if scratch.is_empty() {
            scratch.extend(values.iter().filter(|v| v.is_finite()));
        }
        if scratch.is_empty() {
            return None;
        }
        let middle = median(scratch);
        scratch.iter_mut().for_each(|v| *v = (*v - middle).abs());
        let scatter = f64::from(median(scratch)) * OF_MAD;
        let middle = f64::from(middle);
        let step =
            f64::from((middle.abs() as f32).max(f32::MIN_POSITIVE)) * f64::from(f32::EPSILON);
        let mut width = (scatter / BINS_PER_SIGMA).max(step);
        let mut from = middle - width * BINS as f64 / 2.0;
        if whole_numbers {
            width = width.round().max(1.0);
            from = middle.round() - width * (BINS as f64 / 2.0) - 0.5;
        }
        let tile = Self::cut(&Histogram::new(values, from, width, bins));
        // Spread evenly over a bin values scatter more by a twelfth of its square (Sheppard 1898).
        let own = (tile.sigma * tile.sigma - width * width / 12.0).max(0.0).sqrt();
        Some(Self { sigma: own, ..tile })
    }

    fn cut(h: &Histogram) -> Self {
        let end = h.from + BINS as f64 * h.width;
        let (mut low, mut high) = (h.from, end);
        let mut tile = Self { level: 0.5 * (low + high), sigma: 0.0, kept: 0 };
        let mut factor = OF_MAD;
        for _ in 0..CUTS {
            let [from, to] = [low, high].map(|v| h.count_below(v));
            let kept = to - from;
            if kept < 1.0 {
                return tile;
            }
            let level = h.value_at(from + 0.5 * kept);
            let sigma = h.half_within(level, kept) * factor;
            let still = (level - tile.level).abs() < 1e-3 * sigma && tile.kept == kept as usize;
            tile = Self { level, sigma, kept: kept as usize };
            if still {
                break;
            }
            // Never narrower than what a bin can tell.
            let reach = (CUT * sigma).max(1.5 * h.width);
            (low, high) = ((level - reach).max(h.from), (level + reach).min(end));
            factor = OF_CUT_MAD;
        }
        tile
    }
}

#[cfg(test)]
mod tests {
    use rand::{RngExt, SeedableRng};
    use rand_distr::{Distribution, Normal};
    use rand_pcg::Pcg64Mcg;

    use super::*;

    fn tile(values: &[f32], whole: bool) -> Tile {
        Tile::of(values, whole, &mut Bins::default()).expect("it has numbers")
    }

    fn normal(level: f64, sigma: f64, n: usize, seed: u64) -> Vec<f32> {
        let mut rng = Pcg64Mcg::seed_from_u64(seed);
        let of = Normal::new(level, sigma).expect("a distribution");
        (0..n).map(|_| of.sample(&mut rng) as f32).collect()
    }

    /// Means over many tiles of known noise: no bias in level or scatter, whole numbers or not.
    #[test]
    fn level_and_scatter_of_noise_are_unbiased() {
        for (sigma, whole) in [(21.3, false), (21.3, true), (5.0, true), (1.2, true), (0.02, false)]
        {
            let (mut levels, mut sigmas) = (0.0, 0.0);
            for seed in 0..60 {
                let mut v = normal(812.4, sigma, 4096, seed);
                if whole {
                    v.iter_mut().for_each(|x| *x = x.round());
                }
                let t = tile(&v, whole);
                levels += (t.level - 812.4) / 60.0;
                sigmas += t.sigma / 60.0;
            }
            assert!(levels.abs() < 0.01 * sigma, "sigma {sigma}: {levels}");
            assert!((sigmas / sigma - 1.0).abs() < 0.012, "sigma {sigma}: {sigmas}");
        }
    }

    /// Stars on one pixel in fifty move a plain mean by many standard deviations, and this by less
    /// than a twentieth of one.
    #[test]
    fn stars_hardly_move_it() {
        let mut moved = 0.0;
        for seed in 0..40 {
            let mut rng = Pcg64Mcg::seed_from_u64(seed + 1000);
            let mut v = normal(500.0, 10.0, 4096, seed);
            for x in v.iter_mut().step_by(50) {
                *x += 20.0 / rng.random_range(0.001f32..1.0);
            }
            moved += (tile(&v, false).level - 500.0) / 40.0;
        }
        assert!(moved.abs() < 0.05 * 10.0, "{moved}");
    }

    /// Dead pixels, full ones and what is no number lie outside of the histogram, far below and above.
    #[test]
    fn what_lies_far_outside_is_cut_off() {
        for whole in [false, true] {
            let mut v: Vec<f32> = normal(500.0, 10.0, 4096, 3).iter().map(|x| x.round()).collect();
            let without = tile(&v, whole);
            for (i, odd) in
                [0.0, -3e9, 65535.0, 3e9, f32::NAN, f32::NEG_INFINITY].into_iter().enumerate()
            {
                v[100 * i + 7] = odd;
            }
            let with = tile(&v, whole);
            assert!((with.level - without.level).abs() < 0.05, "{with:?} {without:?}");
            assert!((with.sigma / without.sigma - 1.0).abs() < 0.01, "{with:?} {without:?}");
            assert!(with.kept < 4096 - 4, "{with:?}");
        }
    }

    #[test]
    fn what_is_all_alike_or_no_number() {
        let flat = tile(&[7.0; 100], true);
        assert!((flat.level - 7.0).abs() < 0.01 && flat.sigma < 0.51, "{flat:?}");
        let mut some = vec![f32::NAN; 100];
        some[3] = 4.0;
        assert!((tile(&some, false).level - 4.0).abs() < 1e-3);
        assert_eq!(Tile::of(&[f32::NAN; 9], true, &mut Bins::default()), None);
        assert!(tile(&[1.0, f32::INFINITY, 1.0, 1.0], false).level < 2.0);
    }
}
