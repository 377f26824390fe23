//! How a star's light is spread over the pixels: a core as wide as seeing and guiding make it, and
//! wings that carry far. Bright stars bloom by their wings, and so show larger the more of their
//! light a filter passes.

/// The exponent of the profile.
const BETA: f64 = 3.0;

/// A star narrower than this is drawn as wide as that, pixels across at half maximum.
const LEAST_FWHM_PX: f64 = 0.82;

/// A star's profile on a grid of pixels: I(r) = (beta - 1) / (pi a^2) (1 + r^2 / a^2)^-beta
/// (Moffat 1969, A&A 3, 455) with beta 3, the whole of it one.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct StarProfile {
    /// a^2, pixels^2.
    a2: f64,
    /// Share of the light on the pixel in the middle.
    peak: f64,
}

impl StarProfile {
    /// The profile of stars of a full width at half maximum, 2 a sqrt(2^(1/beta) - 1).
    pub fn new(fwhm_arcsec: f64, scale_arcsec: f64) -> Self {
        let fwhm_px = (fwhm_arcsec / scale_arcsec).max(LEAST_FWHM_PX);
        let a = fwhm_px / (2.0 * ((1.0 / BETA).exp2() - 1.0).sqrt());
        Self { a2: a * a, peak: (BETA - 1.0) / (std::f64::consts::PI * a * a) }
    }

    /// Full width at half maximum, pixels.
    pub fn fwhm_px(&self) -> f64 {
        2.0 * (self.a2 * ((1.0 / BETA).exp2() - 1.0)).sqrt()
    }

    /// Share of the light on a pixel whose centre lies `r2` pixels^2 from the star's.
    pub fn at(&self, r2: f64) -> f64 {
        let u = 1.0 + r2 / self.a2;
        self.peak / (u * u * u)
    }

    /// How far from its centre a star of `e_per_s` stays above `floor_e_per_s` a pixel, pixels;
    /// `None` where it never rises above it.
    pub fn reach_px(&self, e_per_s: f64, floor_e_per_s: f64) -> Option<f64> {
        let over = e_per_s * self.peak / floor_e_per_s;
        (over > 1.0).then(|| (self.a2 * (over.powf(1.0 / BETA) - 1.0)).sqrt())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn all_of_its_light_is_there_and_half_the_peak_at_half_the_width() {
        let p = StarProfile::new(6.0, 1.0);
        assert!((p.at(9.0) / p.at(0.0) - 0.5).abs() < 1e-12);
        let sum: f64 = (-300..=300)
            .flat_map(|i| (-300..=300).map(move |j| f64::from(i * i + j * j)))
            .map(|r2| p.at(r2))
            .sum();
        assert!((sum - 1.0).abs() < 1e-3, "{sum}");
        // Wings: at three widths there is light where a Gaussian of that width has none
        // (2^-36 of its peak).
        assert!(p.at(18.0 * 18.0) / p.at(0.0) > 1e-4);
    }

    /// Against astropy's Moffat2D: see reference/README.md.
    #[test]
    fn the_profile_is_astropy_s() {
        let text = include_str!("../../../../reference/moffat.csv");
        for line in text.lines().skip(1) {
            let n: Vec<f64> = line.split(',').map(|c| c.parse().unwrap()).collect();
            let p = StarProfile::new(n[0], 1.0);
            assert!((p.at(n[1] * n[1]) / n[2] - 1.0).abs() < 1e-9, "{line}");
            assert!((p.fwhm_px() / n[0] - 1.0).abs() < 1e-12);
        }
    }

    #[test]
    fn a_brighter_star_is_a_larger_one() {
        let p = StarProfile::new(2.5, 1.0);
        assert_eq!(p.reach_px(1.0, 10.0), None);
        let (faint, bright) = (p.reach_px(1e3, 1.0).unwrap(), p.reach_px(1e6, 1.0).unwrap());
        assert!(bright > 3.0 * faint);
        assert!((1e6 * p.at(bright * bright) - 1.0).abs() < 1e-9);
    }

    #[test]
    fn no_star_is_narrower_than_its_pixel() {
        assert_eq!(StarProfile::new(0.1, 5.0), StarProfile::new(1.0, 5.0));
    }
}
