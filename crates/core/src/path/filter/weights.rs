//! A filter as weights on the wavelength grid, so that any continuum goes through it by one sum.

use crate::light::curve::Curve;
use crate::light::spectrum::{GRID_FIRST_NM, GRID_LEN};
use crate::path::filter::cone::Cone;
use crate::scenario::exposure::{Filter, Passband};
use crate::scenario::rig::Optics;

/// Widest step of the integration inside a passband, nm.
const STEP_NM: f64 = 0.1;

/// Width of the finest feature that a sampled curve is taken to have, nm.
const CURVE_FEATURE_NM: f64 = 2.0;

enum Shape<'a> {
    Open,
    Bands(&'a [Passband]),
    Curve(&'a Curve),
}

/// A filter (or none) as seen in the cone of one telescope.
pub struct FilterInCone<'a> {
    shape: Shape<'a>,
    cone: Cone,
    floor: f64,
    offset_nm: f64,
}

impl<'a> FilterInCone<'a> {
    /// The filter in this telescope's cone, its centre off by `offset_nm` from nominal.
    pub fn new(filter: Option<&'a Filter>, optics: &Optics, offset_nm: f64) -> Self {
        let Some(f) = filter else {
            return Self {
                shape: Shape::Open,
                cone: Cone::new(100.0, 0.0, 1.9, 100.0),
                floor: 0.0,
                offset_nm: 0.0,
            };
        };
        let (shape, feature_nm) = match (&f.bands, &f.curve) {
            (Some(bands), _) => {
                let finest = bands
                    .iter()
                    .map(|b| b.fwhm_nm * (3.0 / b.order).min(1.0))
                    .fold(f64::INFINITY, f64::min);
                (Shape::Bands(bands), finest)
            }
            (None, Some(curve)) => (Shape::Curve(curve), CURVE_FEATURE_NM),
            (None, None) => (Shape::Open, 100.0),
        };
        let cone = Cone::new(optics.focal_ratio(), optics.obstruction_ratio(), f.n_eff, feature_nm);
        Self { shape, cone, floor: 10f64.powf(-f.off_band_od), offset_nm }
    }

    /// The filter where the chief ray meets it at an angle of tangent `tilt`, away from the middle
    /// of the field.
    #[must_use]
    pub fn leaning(mut self, optics: &Optics, n_eff: f64, tilt: f64) -> Self {
        self.cone = self.cone.leaning(optics.focal_ratio(), n_eff, tilt);
        self
    }

    /// Transmission at one wavelength, averaged over the cone, 0-1. Never below 10^-OD.
    pub fn at(&self, wavelength_nm: f64) -> f64 {
        let averaged =
            |t: &dyn Fn(f64) -> f64| self.cone.rings().iter().map(|&(w, s)| w * t(s)).sum::<f64>();
        match self.shape {
            Shape::Open => 1.0,
            Shape::Bands(bands) => {
                averaged(&|s| self.bands_at(bands, wavelength_nm, s)).max(self.floor)
            }
            Shape::Curve(curve) => {
                averaged(&|s| curve.at((wavelength_nm - self.offset_nm) / s)).max(self.floor)
            }
        }
    }

    /// Transmission at one wavelength in parallel light, 0-1.
    pub fn at_normal_incidence(&self, wavelength_nm: f64) -> f64 {
        match self.shape {
            Shape::Open => 1.0,
            Shape::Bands(bands) => self.bands_at(bands, wavelength_nm, 1.0).max(self.floor),
            Shape::Curve(curve) => curve.at(wavelength_nm - self.offset_nm).max(self.floor),
        }
    }

    /// Integral of its transmission over the visible, 380 to 720 nm, and the mean wavelength of what
    /// passes there, nm: by these a filter is told, whatever is written on its box.
    pub fn visible(&self) -> (f64, f64) {
        let steps = (380..=720).map(f64::from);
        let (sum, first) = steps.fold((0.0, 0.0), |(sum, first), nm| {
            let t = self.at_normal_incidence(nm);
            (sum + t, first + t * nm)
        });
        (sum, first / sum.max(1e-9))
    }

    fn bands_at(&self, bands: &[Passband], wavelength_nm: f64, factor: f64) -> f64 {
        let one = |b: &Passband| {
            b.transmission(wavelength_nm, (b.centre_nm + self.offset_nm) * factor - b.centre_nm)
        };
        bands.iter().map(one).fold(0.0, f64::max)
    }

    /// One weight a grid node, nm: the integral of a continuum that is linear between the nodes,
    /// times this filter, is the sum of weight times value. The weights sum to the equivalent
    /// width.
    pub fn weights(&self) -> Vec<f64> {
        match self.shape {
            Shape::Open => floor_weights(1.0),
            Shape::Bands(bands) => self.band_weights(bands),
            Shape::Curve(curve) => self.curve_weights(curve),
        }
    }

    fn band_weights(&self, bands: &[Passband]) -> Vec<f64> {
        let mut weights = floor_weights(self.floor);
        let mut active = [false; GRID_LEN - 1];
        let mut finest: f64 = STEP_NM;
        for b in bands {
            let (reach, centre) = (b.reach_nm(self.floor), b.centre_nm + self.offset_nm);
            let from = (centre * self.cone.least_factor() - reach - GRID_FIRST_NM).floor().max(0.0)
                as usize;
            let to =
                (centre + reach - GRID_FIRST_NM).ceil().clamp(0.0, (GRID_LEN - 1) as f64) as usize;
            active.iter_mut().take(to).skip(from).for_each(|a| *a = true);
            finest = finest.min(b.fwhm_nm / 20.0);
        }
        let parts = (1.0 / finest).ceil() as usize;
        // Where one interval ends the next begins: that value is asked for once.
        let mut last: Option<(usize, f64)> = None;
        for i in (0..active.len()).filter(|&i| active[i]) {
            for k in 0..=parts {
                let f = k as f64 / parts as f64;
                let value = match last {
                    Some((at, value)) if k == 0 && at == i => value,
                    _ => (self.at(GRID_FIRST_NM + i as f64 + f) - self.floor).max(0.0),
                };
                let end = if k == 0 || k == parts { 0.5 } else { 1.0 };
                let above = value * end / parts as f64;
                weights[i] += above * (1.0 - f);
                weights[i + 1] += above * f;
                last = Some((i + 1, value));
            }
        }
        weights
    }

    /// Exact for a curve that is linear between its points: between two neighbouring breaks (a grid
    /// node or a point of the shifted curve) the product of two linear functions is integrated by
    /// Simpson's rule.
    fn curve_weights(&self, curve: &Curve) -> Vec<f64> {
        let mut weights = floor_weights(self.floor);
        for &(ring, factor) in self.cone.rings() {
            let shifted = |nm: f64| (nm * factor) + self.offset_nm;
            for pair in curve.0.windows(2) {
                let ([x0, y0], [x1, y1]) = (pair[0], pair[1]);
                let (x0, x1) = (shifted(x0), shifted(x1));
                let above = |x: f64| (y0 + (y1 - y0) * (x - x0) / (x1 - x0) - self.floor).max(0.0);
                let mut a = x0.max(GRID_FIRST_NM);
                let end = x1.min(GRID_FIRST_NM + (GRID_LEN - 1) as f64);
                while a < end {
                    let i = ((a - GRID_FIRST_NM) as usize).min(GRID_LEN - 2);
                    let node = GRID_FIRST_NM + i as f64;
                    let b = (node + 1.0).min(end);
                    let m = (a + b) / 2.0;
                    let h = ring * (b - a) / 6.0;
                    let (ta, tm, tb) = (above(a), above(m), above(b));
                    let right = h * (ta * (a - node) + 4.0 * tm * (m - node) + tb * (b - node));
                    weights[i + 1] += right;
                    weights[i] += h * (ta + 4.0 * tm + tb) - right;
                    if b <= a {
                        break;
                    }
                    a = b;
                }
            }
        }
        weights
    }
}

/// Weights of a grey filter.
fn floor_weights(transmission: f64) -> Vec<f64> {
    let mut weights = vec![transmission; GRID_LEN];
    weights[0] /= 2.0;
    weights[GRID_LEN - 1] /= 2.0;
    weights
}

#[cfg(test)]
mod tests {
    use super::*;

    fn optics(focal_ratio: f64, obstruction: f64) -> Optics {
        Optics {
            aperture_mm: 100.0,
            obstruction_mm: 100.0 * obstruction,
            focal_length_mm: 100.0 * focal_ratio,
            reducer: 1.0,
            throughput: 1.0,
            longest_sub_s: None,
            exit_pupil_mm: None,
        }
    }

    fn bands(list: &[(f64, f64)], order: f64) -> Filter {
        Filter::of_bands(
            "",
            list.iter()
                .map(|&(centre_nm, fwhm_nm)| Passband { centre_nm, fwhm_nm, peak: 0.95, order })
                .collect(),
        )
    }

    #[test]
    fn dual_seven_in_fast_cones() {
        let f = bands(&[(656.3, 7.0), (500.7, 7.0)], 3.0);
        for (ratio, ha, oiii) in [(2.0, 0.53, 0.75), (2.8, 0.92, 0.94), (4.0, 0.95, 0.95)] {
            let o = optics(ratio, 0.4);
            let t = FilterInCone::new(Some(&f), &o, 0.0);
            assert!((t.at(656.3) - ha).abs() < 0.006, "f/{ratio}: {}", t.at(656.3));
            assert!((t.at(500.7) - oiii).abs() < 0.006, "f/{ratio}: {}", t.at(500.7));
        }
    }

    /// The same integral on a 0.01 nm grid, written plainly.
    fn plain(t: &FilterInCone, f: impl Fn(f64) -> f64) -> f64 {
        (0..80_000).map(|i| 300.005 + f64::from(i) * 0.01).map(|nm| t.at(nm) * f(nm) * 0.01).sum()
    }

    #[test]
    fn integrals_agree_with_a_hundredth_of_a_nanometre() {
        let slope = |nm: f64| 1.0 + 0.004 * (nm - 500.0) + 2e-5 * (nm - 600.0).powi(2);
        let on_grid: Vec<f64> = crate::light::spectrum::grid_nm().map(slope).collect();
        let box_curve = Filter {
            bands: None,
            curve: Some(Curve(vec![[499.13, 0.0], [499.14, 0.9], [502.31, 0.9], [502.32, 0.0]])),
            ..bands(&[], 3.0)
        };
        let cases = [
            bands(&[(656.3, 3.0)], 3.0),
            bands(&[(500.7, 2.0)], 1.0),
            bands(&[(656.3, 7.0), (500.7, 7.0)], 3.0),
            bands(&[(550.0, 90.0)], 6.0),
            bands(&[(656.3, 0.5)], 3.0),
            box_curve,
        ];
        for f in &cases {
            for ratio in [2.0, 5.0, 10.0] {
                let o = optics(ratio, 0.3);
                let t = FilterInCone::new(Some(f), &o, 0.0);
                let fast: f64 = t.weights().iter().zip(&on_grid).map(|(w, s)| w * s).sum();
                let slow = plain(&t, slope);
                assert!((fast / slow - 1.0).abs() < 1e-3, "f/{ratio} {f:?}: {fast} against {slow}");
            }
        }
    }

    #[test]
    fn nothing_passes_below_the_blocking() {
        let (f, o) = (bands(&[(656.3, 3.0)], 3.0), optics(5.0, 0.0));
        assert_eq!(FilterInCone::new(Some(&f), &o, 0.0).at(500.0), 1e-4);
    }

    #[test]
    fn a_copy_off_centre_moves_its_band() {
        let (f, o) = (bands(&[(656.3, 3.0)], 3.0), optics(8.0, 0.0));
        let at = |offset| FilterInCone::new(Some(&f), &o, offset).at(656.28);
        assert!(at(-2.0) < 0.1 && at(0.0) > 0.9);
    }

    #[test]
    fn a_grey_filter_weighs_every_nanometre_once() {
        let weights = floor_weights(0.25);
        assert_eq!((weights[0], weights[1], weights[GRID_LEN - 1]), (0.125, 0.25, 0.125));
        assert!((weights.iter().sum::<f64>() - 0.25 * (GRID_LEN - 1) as f64).abs() < 1e-9);
    }
}
