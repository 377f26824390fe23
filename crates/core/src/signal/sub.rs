//! Criteria for the length of a sub, each a school of its own, and the length with the most
//! information per hour of clock.

/// Longest sub that is considered where the mount sets no limit, s.
pub const LONGEST_SUB_S: f64 = 3600.0;

/// Share of the best information rate that still counts as "as good".
const PLATEAU_SHARE: f64 = 0.95;

const SHORTEST_SUB_S: f64 = 0.01;

/// What decides the length of a sub in one channel.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct SubTerms {
    /// All electrons that a pixel collects, target, sky and dark current, e-/s.
    pub total_e_per_s: f64,
    /// Sky, e-/s.
    pub background_e_per_s: f64,
    /// Dark current, e-/s.
    pub dark_e_per_s: f64,
    /// Read noise with quantisation, e-.
    pub read_noise_e: f64,
    /// Time lost after each sub, s.
    pub overhead_s: f64,
    /// Subs spoilt, per hour.
    pub loss_per_hour: f64,
    /// Longest sub the mount allows, s.
    pub longest_s: Option<f64>,
}

/// sqrt(1 + R^2 / (rate t)) - 1: by how much read noise raises the noise of a sub, as a fraction.
pub fn read_noise_excess(read_noise_e: f64, rate_e_per_s: f64, sub_s: f64) -> f64 {
    (1.0 + read_noise_e.powi(2) / (rate_e_per_s * sub_s)).sqrt() - 1.0
}

/// The sub in which read noise raises the noise by the fraction `excess`: t = R^2 / (((1 + p)^2 -
/// 1)(B + D)), s.
///
/// With p = 5 % it is 9.76 R^2 / rate. `None` where nothing shines.
pub fn excess_sub_s(terms: &SubTerms, excess: f64) -> Option<f64> {
    let rate = terms.background_e_per_s + terms.dark_e_per_s;
    (rate > 0.0).then(|| swamp_from_excess(excess) * terms.read_noise_e.powi(2) / rate)
}

/// The sub whose background electrons are `factor` times the read noise squared, s. `None` where no
/// sky shines.
pub fn swamp_sub_s(terms: &SubTerms, factor: f64) -> Option<f64> {
    (terms.background_e_per_s > 0.0)
        .then(|| factor * terms.read_noise_e.powi(2) / terms.background_e_per_s)
}

/// The swamp factor that is the same as an excess noise, with no dark current: 1 / ((1 + p)^2 - 1).
pub fn swamp_from_excess(excess: f64) -> f64 {
    1.0 / ((1.0 + excess).powi(2) - 1.0)
}

/// The excess noise that is the same as a swamp factor, with no dark current: sqrt(1 + 1/k) - 1.
pub fn excess_from_swamp(factor: f64) -> f64 {
    (1.0 + 1.0 / factor).sqrt() - 1.0
}

/// The best sub and the range in which the choice does not matter.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Plateau {
    /// The sub with the most information per hour of clock, s.
    pub best_s: f64,
    /// From here on at least 95 % of the best, s.
    pub from_s: f64,
    /// Up to here at least 95 % of the best, s.
    pub to_s: f64,
}

impl SubTerms {
    fn longest(&self) -> f64 {
        self.longest_s.unwrap_or(LONGEST_SUB_S)
    }

    /// Information per clock second at a sub of `t` seconds, up to a constant:
    /// t^2 exp(-lambda t) / [(rate t + R^2)(t + o)].
    pub fn information(&self, t: f64) -> f64 {
        let lambda = self.loss_per_hour / 3600.0;
        t * t * (-lambda * t).exp()
            / ((self.total_e_per_s * t + self.read_noise_e.powi(2)) * (t + self.overhead_s))
    }

    /// Slope of the logarithm of [`Self::information`]; falls steadily with t.
    fn slope(&self, t: f64) -> f64 {
        let r2 = self.read_noise_e.powi(2);
        r2 / (t * (self.total_e_per_s * t + r2)) + self.overhead_s / (t * (t + self.overhead_s))
            - self.loss_per_hour / 3600.0
    }
}

/// The best sub and its plateau, within the mount's limit (or an hour where there is none).
///
/// ```
/// use salt_lamp_core::signal::{SubTerms, plateau};
///
/// // A narrow filter under a suburban sky: little light, 1.5 e- of read noise, ten seconds lost
/// // after each sub.
/// let terms = SubTerms {
///     total_e_per_s: 0.06,
///     background_e_per_s: 0.05,
///     dark_e_per_s: 0.002,
///     read_noise_e: 1.5,
///     overhead_s: 10.0,
///     loss_per_hour: 0.5,
///     longest_s: Some(600.0),
/// };
/// let p = plateau(&terms);
/// assert!(p.from_s < p.best_s && p.best_s <= p.to_s);
/// // Within the plateau the choice does not matter: at its beginning 95 % of the best is reached.
/// assert!((terms.information(p.from_s) / terms.information(p.best_s) - 0.95).abs() < 1e-3);
/// ```
pub fn plateau(terms: &SubTerms) -> Plateau {
    let longest = terms.longest().max(SHORTEST_SUB_S * 2.0);
    let best_s = if terms.slope(longest) >= 0.0 {
        longest
    } else {
        bisect(SHORTEST_SUB_S, longest, |t| terms.slope(t) > 0.0)
    };
    let enough = PLATEAU_SHARE * terms.information(best_s);
    let from_s = if terms.information(SHORTEST_SUB_S) >= enough {
        SHORTEST_SUB_S
    } else {
        bisect(SHORTEST_SUB_S, best_s, |t| terms.information(t) < enough)
    };
    let to_s = if terms.information(longest) >= enough {
        longest
    } else {
        bisect(best_s, longest, |t| terms.information(t) >= enough)
    };
    Plateau { best_s, from_s, to_s }
}

/// Where `below` turns from true to false between two lengths, by halving the interval of their
/// logarithms.
fn bisect(lo: f64, hi: f64, below: impl Fn(f64) -> bool) -> f64 {
    let (mut lo, mut hi) = (lo.ln(), hi.ln());
    for _ in 0..48 {
        let mid = (lo + hi) / 2.0;
        if below(mid.exp()) { lo = mid } else { hi = mid }
    }
    ((lo + hi) / 2.0).exp()
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn terms(rate: f64, read: f64, overhead: f64, loss: f64) -> SubTerms {
        SubTerms {
            total_e_per_s: rate,
            background_e_per_s: rate,
            dark_e_per_s: 0.0,
            read_noise_e: read,
            overhead_s: overhead,
            loss_per_hour: loss,
            longest_s: None,
        }
    }

    #[test]
    fn five_per_cent_is_9_76() {
        assert!((swamp_from_excess(0.05) - 9.756).abs() < 1e-3);
        assert!((swamp_from_excess(0.02) - 24.752).abs() < 1e-3);
        assert!((swamp_from_excess(0.10) - 4.762).abs() < 1e-3);
        let t = terms(0.1, 1.5, 5.0, 0.0);
        assert!((excess_sub_s(&t, 0.05).unwrap() - 9.756 * 2.25 / 0.1).abs() < 0.1);
        assert_eq!(excess_sub_s(&terms(0.0, 1.5, 5.0, 0.0), 0.05), None);
    }

    #[test]
    fn without_losses_longer_is_never_worse_and_the_mount_decides() {
        let mut t = terms(0.1, 1.5, 5.0, 0.0);
        assert_eq!(plateau(&t).best_s, LONGEST_SUB_S);
        t.longest_s = Some(300.0);
        assert_eq!(plateau(&t).best_s, 300.0);
        assert_eq!(plateau(&t).to_s, 300.0);
    }

    proptest! {
        #[test]
        fn criteria_convert_there_and_back(p in 0.001..1.0f64) {
            prop_assert!((excess_from_swamp(swamp_from_excess(p)) / p - 1.0).abs() < 1e-9);
        }

        #[test]
        fn the_optimum_is_that_of_a_search(rate in 0.001..50.0f64, read in 0.5..12.0f64,
            overhead in 0.1..60.0f64, loss in 0.05..20.0f64) {
            let t = terms(rate, read, overhead, loss);
            let p = plateau(&t);
            let best = (0..4000).map(|i| 0.01 * (LONGEST_SUB_S / 0.01).powf(f64::from(i) / 3999.0))
                .map(|s| t.information(s)).fold(0.0, f64::max);
            prop_assert!(t.information(p.best_s) >= best * (1.0 - 1e-9));
            prop_assert!(t.information(p.from_s) >= 0.9499 * best
                && t.information(p.to_s) >= 0.9499 * best);
            prop_assert!(p.from_s <= p.best_s && p.best_s <= p.to_s);
        }
    }
}
