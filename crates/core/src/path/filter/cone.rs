//! A converging beam as a set of angles.

use crate::scenario::exposure::Filter;
use crate::scenario::rig::Optics;

/// Where the centre of a band lies for light at `angle_deg` to the filter's axis, nm.
///
/// lambda(theta) = lambda(0) sqrt(1 - (sin theta / n_eff)^2), the standard thin-film result.
///
/// ```
/// use salt_lamp_core::path::filter::band_centre_shifted_nm;
///
/// // Light from the rim of an f/2 cone meets a filter at 14 degrees: the band slides 5 nm to the
/// // blue.
/// let slid = band_centre_shifted_nm(656.3, 14.0, 1.9);
/// assert!((656.3 - slid - 5.3).abs() < 0.2, "{slid}");
/// ```
pub fn band_centre_shifted_nm(centre_nm: f64, angle_deg: f64, n_eff: f64) -> f64 {
    centre_nm * (1.0 - (angle_deg.to_radians().sin() / n_eff).powi(2)).sqrt()
}

/// How well the effective index of a filter is known (a real multilayer gives 1.66 where 1.9 is
/// usual), one standard deviation.
pub const INDEX_SIGMA: f64 = 0.15;

/// How far a filter's bands slide to the red in a telescope's cone when its effective index grows
/// by [`INDEX_SIGMA`], nm: lambda sin^2(theta) / n^3 times that, at the mean sin^2 of the annular
/// pupil and the mean wavelength of its bands.
pub fn index_shift_nm(filter: &Filter, optics: &Optics) -> f64 {
    let bands = filter.bands.iter().flatten();
    let (sum, count) = bands.fold((0.0, 0.0), |(sum, n), b| (sum + b.centre_nm, n + 1.0));
    let lambda_nm = if count > 0.0 { sum / count } else { MIDDLE_NM };
    let mean_r2 = (1.0 + optics.obstruction_ratio().powi(2)) / 2.0;
    let tan2 = mean_r2 / (4.0 * optics.focal_ratio().powi(2));
    INDEX_SIGMA * lambda_nm * tan2 / (1.0 + tan2) / filter.n_eff.powi(3)
}

/// Where a curve that is no list of bands is judged, nm.
const MIDDLE_NM: f64 = 580.0;

/// How far the bands of a filter copy may be off in a telescope's cone, nm, one standard deviation:
/// its centre by the tolerance, its index by [`index_shift_nm`].
pub fn copy_sigma_nm(filter: &Filter, optics: &Optics) -> f64 {
    filter.centre_tolerance_nm.hypot(index_shift_nm(filter, optics))
}

/// Nodes and weights of the 4-point Gauss-Legendre rule on [-1, 1].
const GAUSS: [(f64, f64); 4] = [
    (-0.861_136_311_594_052_6, 0.347_854_845_137_453_8),
    (-0.339_981_043_584_856_3, 0.652_145_154_862_546_2),
    (0.339_981_043_584_856_3, 0.652_145_154_862_546_2),
    (0.861_136_311_594_052_6, 0.347_854_845_137_453_8),
];

const MOST_PANELS: f64 = 24.0;

/// Points on half of a ring of a leaning cone.
const AZIMUTHS: u32 = 12;

/// The factor on wavelength for light of tan^2 of its angle to the filter's axis: sqrt(1 - sin^2 /
/// n^2).
fn shrunk(tan2: f64, n_eff: f64) -> f64 {
    (1.0 - tan2 / (1.0 + tan2) / (n_eff * n_eff)).sqrt()
}

/// The annular pupil of a telescope seen from the filter: for each ring of equal area, the factor
/// by which wavelengths of a filter's features shrink.
#[derive(Clone, Debug, PartialEq)]
pub struct Cone {
    /// (weight, factor): weights sum to 1, factors at most 1.
    rings: Vec<(f64, f64)>,
}

impl Cone {
    /// A cone of focal ratio `focal_ratio` with an obstruction of `obstruction_ratio` of the
    /// diameter, for a filter of effective index `n_eff` whose finest feature is `feature_nm` wide.
    ///
    /// theta = atan(r / 2N) with r^2 uniform between eps^2 and 1. Gauss-Legendre panels in r^2, so
    /// fine that the shift within one of them stays below a quarter of the feature.
    pub fn new(focal_ratio: f64, obstruction_ratio: f64, n_eff: f64, feature_nm: f64) -> Self {
        let factor = |r2: f64| shrunk(r2 / (4.0 * focal_ratio * focal_ratio), n_eff);
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

    /// The same away from the middle of the field, where the cone leans: its axis, the chief ray,
    /// meets the filter at an angle of tangent `tilt`, that is the distance from the axis over that
    /// of the exit pupil.
    ///
    /// A ray from the pupil's point (r, phi) has tan^2 = tilt^2 + r^2 / 4N^2 - 2 tilt (r / 2N)
    /// cos phi; each ring is taken at [`AZIMUTHS`] points around it.
    #[must_use]
    pub fn leaning(&self, focal_ratio: f64, n_eff: f64, tilt: f64) -> Self {
        if tilt == 0.0 {
            return self.clone();
        }
        let around = |&(weight, factor): &(f64, f64)| {
            // The ring's own angle back from its factor.
            let sin2 = (1.0 - factor * factor) * n_eff * n_eff;
            let own = (sin2 / (1.0 - sin2)).sqrt().min(1.0 / (2.0 * focal_ratio));
            (0..AZIMUTHS).map(move |i| {
                let phi = std::f64::consts::PI * (f64::from(i) + 0.5) / f64::from(AZIMUTHS);
                let tan2 = tilt * tilt + own * own - 2.0 * tilt * own * phi.cos();
                (weight / f64::from(AZIMUTHS), shrunk(tan2, n_eff))
            })
        };
        Self { rings: self.rings.iter().flat_map(around).collect() }
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
        assert!(
            Cone::new(2.0, 0.0, 1.9, 3.0).least_factor()
                < Cone::new(4.0, 0.0, 1.9, 3.0).least_factor()
        );
    }

    /// A thin pencil that leans by an angle is parallel light at that angle; a cone that leans
    /// keeps its weight, and loses more than one that does not.
    #[test]
    fn a_leaning_pencil_is_light_at_an_angle() {
        let tilt = 10f64.to_radians().tan();
        let pencil = Cone::new(100.0, 0.0, 1.9, 3.0).leaning(100.0, 1.9, tilt);
        let at_10 = band_centre_shifted_nm(656.3, 10.0, 1.9);
        assert!((656.3 * pencil.mean_factor() - at_10).abs() < 0.01);
        let straight = Cone::new(4.0, 0.3, 1.9, 3.0);
        let leaning = straight.leaning(4.0, 1.9, tilt);
        assert!((leaning.rings().iter().map(|r| r.0).sum::<f64>() - 1.0).abs() < 1e-12);
        assert!(leaning.mean_factor() < straight.mean_factor());
        assert_eq!(straight.leaning(4.0, 1.9, 0.0), straight);
        // Mean of sin^2 of small angles: that of the cone and that of the tilt add up.
        let (own, lean) = (1.0 - straight.mean_factor(), 1.0 - leaning.mean_factor());
        let alone = 1.0 - band_centre_shifted_nm(1.0, 10.0, 1.9);
        assert!((lean / (own + alone) - 1.0).abs() < 0.03, "{lean} {own} {alone}");
    }

    #[test]
    fn shift_at_an_angle() {
        assert_eq!(band_centre_shifted_nm(656.3, 0.0, 1.9), 656.3);
        let at_14 = band_centre_shifted_nm(656.3, 14.04, 1.9);
        assert!((656.3 - at_14 - 5.38).abs() < 0.02, "{at_14}");
    }
}
