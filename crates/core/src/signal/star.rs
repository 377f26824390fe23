//! Stars: signal to noise when they are fitted, and the faintest that shows.
//!
//! A star that is fitted with its own profile meets the noise of its noise-equivalent area,
//! whatever its size against the pixels: a star that falls into one pixel has the noise of that
//! pixel and of those that it touches, not of the fraction of a pixel that its image covers.

use crate::light::units::FWHM_PER_SIGMA;

/// A star shows from this signal to noise.
pub const LIMIT_SNR: f64 = 5.0;

/// A star's surroundings in one channel's stack.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct StarTerms {
    /// Electrons per second of a star of V magnitude zero, all its light.
    pub v0_e_per_s: f64,
    /// Sky and dark current, e-/s per pixel.
    pub background_e_per_s: f64,
    /// Read noise with quantisation, e-.
    pub read_noise_e: f64,
    /// Length of a sub, s.
    pub sub_s: f64,
    /// Subs in the stack.
    pub subs: f64,
    /// Full width at half maximum of a star, arcsec.
    pub fwhm_arcsec: f64,
    /// Pixel scale, arcsec.
    pub scale_arcsec: f64,
    /// Share of the pixels that this channel owns.
    pub pixel_share: f64,
}

impl StarTerms {
    /// Variance of sky, dark current and read noise over the noise-equivalent area and the stack,
    /// e-^2.
    fn floor_e2(&self) -> f64 {
        let pixels =
            noise_equivalent_pixels(self.fwhm_arcsec / self.scale_arcsec) * self.pixel_share;
        pixels * self.subs * (self.background_e_per_s * self.sub_s + self.read_noise_e.powi(2))
    }

    /// Electrons of a star of V magnitude zero over the stack.
    fn v0_electrons(&self) -> f64 {
        self.v0_e_per_s * self.pixel_share * self.sub_s * self.subs
    }

    /// Signal to noise of a star of V magnitude `v_mag`: S / sqrt(S + n (B + D + R^2)) with n the
    /// noise-equivalent area (King 1983, PASP 95, 163).
    pub fn snr(&self, v_mag: f64) -> f64 {
        let signal = self.v0_electrons() * 10f64.powf(-0.4 * v_mag);
        if signal > 0.0 { signal / (signal + self.floor_e2()).sqrt() } else { 0.0 }
    }

    /// V magnitude of a star at signal to noise 5; `None` where nothing was exposed.
    pub fn limit_v_mag(&self) -> Option<f64> {
        // S^2 - q^2 S - q^2 F = 0.
        let q2 = LIMIT_SNR * LIMIT_SNR;
        let signal = (q2 + (q2 * q2 + 4.0 * q2 * self.floor_e2()).sqrt()) / 2.0;
        let v0 = self.v0_electrons();
        (v0 > 0.0).then(|| 2.5 * (v0 / signal).log10())
    }
}

/// Full width at half maximum of a star at an airmass, arcsec, from that at the zenith: it grows as
/// X^0.6 (Kolmogorov turbulence; Fried 1966).
pub fn seeing_fwhm_arcsec(at_zenith_arcsec: f64, airmass: f64) -> f64 {
    at_zenith_arcsec * airmass.powf(0.6)
}

/// Noise-equivalent area of a Gaussian star integrated over square pixels, pixels: 1 / sum p_i^2,
/// with the sum's mean over where on its pixel the star may stand.
///
/// In one direction that mean is q = erf(1 / 2s) - (2 s / sqrt(pi)) (1 - exp(-1 / 4s^2)), s the
/// standard deviation in pixels, and the area 1 / q^2: 4 pi s^2 for a wide star (King 1983), one
/// pixel for one that fits into it.
pub fn noise_equivalent_pixels(fwhm_px: f64) -> f64 {
    let s = fwhm_px / FWHM_PER_SIGMA;
    let half = 1.0 / (2.0 * s);
    let q = libm::erf(half)
        - 2.0 * s * std::f64::consts::FRAC_2_SQRT_PI / 2.0 * (1.0 - (-half * half).exp());
    1.0 / (q * q)
}

/// Share of a star's light that falls on the pixel it is centred on: a Gaussian of `fwhm_arcsec`
/// over a square of `scale_arcsec`, erf(s / (2 sqrt(2) sigma))^2.
pub fn star_peak_share(fwhm_arcsec: f64, scale_arcsec: f64) -> f64 {
    let sigma = fwhm_arcsec / FWHM_PER_SIGMA;
    libm::erf(scale_arcsec / (2.0 * std::f64::consts::SQRT_2 * sigma)).powi(2)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn terms(subs: f64) -> StarTerms {
        StarTerms {
            v0_e_per_s: 5e7,
            background_e_per_s: 0.5,
            read_noise_e: 1.5,
            sub_s: 120.0,
            subs,
            fwhm_arcsec: 2.5,
            scale_arcsec: 1.5,
            pixel_share: 1.0,
        }
    }

    #[test]
    fn the_limit_is_where_the_signal_to_noise_is_five() {
        for subs in [1.0, 30.0, 400.0] {
            let t = terms(subs);
            assert!((t.snr(t.limit_v_mag().unwrap()) - LIMIT_SNR).abs() < 1e-9);
        }
        assert_eq!(terms(0.0).limit_v_mag(), None);
    }

    #[test]
    fn a_hundred_times_the_subs_reach_two_and_a_half_magnitudes_deeper() {
        let gain = terms(10_000.0).limit_v_mag().unwrap() - terms(100.0).limit_v_mag().unwrap();
        assert!((gain - 2.5).abs() < 0.05, "{gain}");
    }

    /// The equation written out: 2.5 arcsec on pixels of 1.5 arcsec are a star 1.667 pixels wide.
    #[test]
    fn noise_is_that_of_the_equivalent_area() {
        let t = StarTerms { pixel_share: 0.5, ..terms(30.0) };
        let pixels = noise_equivalent_pixels(2.5 / 1.5) * 0.5;
        let signal = 5e7 * 0.5 * 120.0 * 30.0 * 10f64.powf(-0.4 * 16.0);
        let expected = signal / (signal + pixels * 30.0 * (0.5 * 120.0 + 1.5 * 1.5)).sqrt();
        assert!((t.snr(16.0) / expected - 1.0).abs() < 1e-9, "{} {expected}", t.snr(16.0));
    }

    #[test]
    fn the_area_has_its_limits() {
        // 4 pi sigma^2 for a wide star, one pixel for a point.
        let sigma = 20.0 / FWHM_PER_SIGMA;
        let wide = 4.0 * std::f64::consts::PI * sigma * sigma;
        assert!((noise_equivalent_pixels(20.0) / wide - 1.0).abs() < 0.01);
        assert!((noise_equivalent_pixels(1e-3) - 1.0).abs() < 2e-3);
    }

    /// Pixels of 5.7 arcsec under stars of 2.5: with a twentieth of the pixels' area the limit was
    /// a magnitude too deep. The star has the noise of 1.6 pixels, as one that is 1.6 pixels wide
    /// all over would.
    #[test]
    fn coarse_pixels_do_not_reach_deeper_than_they_are() {
        let coarse = StarTerms { scale_arcsec: 5.7, background_e_per_s: 7.2, ..terms(30.0) };
        let (signal, floor) = (coarse.v0_electrons(), coarse.floor_e2());
        let noise_of_one = 30.0 * (7.2 * 120.0 + 2.25);
        assert!((1.5..1.7).contains(&(floor / noise_of_one)), "{}", floor / noise_of_one);
        let by_hand = 2.5 * (signal / (5.0 * floor.sqrt())).log10();
        assert!((coarse.limit_v_mag().unwrap() - by_hand).abs() < 0.05);
    }

    #[test]
    fn seeing_grows_with_airmass() {
        assert!((seeing_fwhm_arcsec(2.0, 1.0) - 2.0).abs() < 1e-12);
        assert!((seeing_fwhm_arcsec(2.0, 2.0) - 3.031).abs() < 1e-3);
    }

    #[test]
    fn bright_stars_are_limited_by_their_own_light() {
        let t = terms(1.0);
        let photons = t.v0_electrons() * 10f64.powf(-0.4 * 5.0);
        assert!((t.snr(5.0) / photons.sqrt() - 1.0).abs() < 0.01);
    }

    #[test]
    fn a_big_pixel_holds_the_whole_star() {
        assert!(star_peak_share(2.0, 20.0) > 0.999);
        // Small pixels: peak of the Gaussian times the pixel's area.
        let (fwhm, scale) = (4.0, 0.2);
        let peak = 4.0 * 2f64.ln() / (std::f64::consts::PI * fwhm * fwhm) * scale * scale;
        assert!((star_peak_share(fwhm, scale) / peak - 1.0).abs() < 0.01);
    }
}
