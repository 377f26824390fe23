//! A converging beam as a set of angles.

/// Where the centre of a band lies for light at `angle_deg` to the filter's axis, nm.
///
/// lambda(theta) = lambda(0) sqrt(1 - (sin theta / n_eff)^2), the standard thin-film result.
///
/// ```
/// use salt_lamp_core::path::filter::band_centre_shifted_nm;
///
/// // Light from the rim of an f/2 cone meets a filter at 14 degrees: the band slides 5 nm to the blue.
/// let slid = band_centre_shifted_nm(656.3, 14.0, 1.9);
/// assert!((656.3 - slid - 5.3).abs() < 0.2, "{slid}");
/// ```
pub fn band_centre_shifted_nm(centre_nm: f64, angle_deg: f64, n_eff: f64) -> f64 {
    centre_nm * (1.0 - (angle_deg.to_radians().sin() / n_eff).powi(2)).sqrt()
}

/// Nodes and weights of the 4-point Gauss-Legendre rule on [-1, 1].
const GAUSS: [(f64, f64); 4] = [
    (-0.861_136_311_594_052_6, 0.347_854_845_137_453_8),
    (-0.339_981_043_584_856_3, 0.652_145_154_862_546_2),
    (0.339_981_043_584_856_3, 0.652_145_154_862_546_2),
    (0.861_136_311_594_052_6, 0.347_854_845_137_453_8),
];

const MOST_PANELS: f64 = 24.0;

/// The annular pupil of a telescope seen from the filter: for each ring of equal area, the factor by
/// which wavelengths of a filter's features shrink.
#[derive(Clone, Debug, PartialEq)]
pub struct Cone {
    /// (weight, factor): weights sum to 1, factors at most 1.
    rings: Vec<(f64, f64)>,
}

impl Cone {
    /// A cone of focal ratio `focal_ratio` with an obstruction of `obstruction_ratio` of the diameter, for
    /// a filter of effective index `n_eff` whose finest feature is `feature_nm` wide.
    ///
    /// theta = atan(r / 2N) with r^2 uniform between eps^2 and 1. Gauss-Legendre panels in r^2, so fine
    /// that the shift within one of them stays below a quarter of the feature.
    pub fn new(focal_ratio: f64, obstruction_ratio: f64, n_eff: f64, feature_nm: f64) -> Self {
        let factor = |r2: f64| {
            let tan2 = r2 / (4.0 * focal_ratio * focal_ratio);
            let sin2 = tan2 / (1.0 + tan2);
            (1.0 - sin2 / (n_eff * n_eff)).sqrt()
        };
        let from = obstruction_ratio * obstruction_ratio;
        let span_nm = 700.0 * (factor(from) - factor(1.0));
        let panels = (span_nm / (0.25 * feature_nm)).ceil().clamp(1.0, MOST_PANELS);
        let width = (1.0 - from) / panels;
        let rings = (0..panels as usize)
            .flat_map(|p| {
                let middle = from + (p as f64 + 0.5) * width;
                GAUSS.map(|(x, w)| (w / 2.0 / panels, factor(middle + x * width / 2.0)))
            })
            .collect();
        Self { rings }
    }

    /// The rings: (weight, factor on wavelength).
    pub fn rings(&self) -> &[(f64, f64)] {
        &self.rings
    }

    /// The mean factor: how far a narrow feature moves on average.
    pub fn mean_factor(&self) -> f64 {
        self.rings.iter().map(|(w, s)| w * s).sum()
    }

    /// The smallest factor, at the edge of the pupil.
    pub fn least_factor(&self) -> f64 {
        self.rings.iter().map(|r| r.1).fold(1.0, f64::min)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn weights_sum_to_one_and_slow_light_is_straight() {
        for n in [2.0, 4.0, 7.0, 30.0] {
            let cone = Cone::new(n, 0.4, 1.9, 3.0);
            assert!((cone.rings().iter().map(|r| r.0).sum::<f64>() - 1.0).abs() < 1e-12);
        }
        assert!(1.0 - Cone::new(30.0, 0.0, 1.9, 3.0).mean_factor() < 1e-4);
        assert!(Cone::new(2.0, 0.0, 1.9, 3.0).least_factor() < Cone::new(4.0, 0.0, 1.9, 3.0).least_factor());
    }

    #[test]
    fn shift_at_an_angle() {
        assert_eq!(band_centre_shifted_nm(656.3, 0.0, 1.9), 656.3);
        let at_14 = band_centre_shifted_nm(656.3, 14.04, 1.9);
        assert!((656.3 - at_14 - 5.38).abs() < 0.02, "{at_14}");
    }
}
