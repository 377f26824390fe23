//! Stars: signal to noise in an aperture, and the faintest that shows.

use crate::light::units::FWHM_PER_SIGMA;

/// Diameter of the aperture in units of the star's full width at half maximum.
const APERTURE_FWHM: f64 = 1.6;

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
    /// Variance of the aperture's sky, dark current and read noise over the stack, e-^2.
    fn floor_e2(&self) -> f64 {
        let radius = APERTURE_FWHM / 2.0 * self.fwhm_arcsec / self.scale_arcsec;
        let pixels = std::f64::consts::PI * radius * radius * self.pixel_share;
        pixels * self.subs * (self.background_e_per_s * self.sub_s + self.read_noise_e.powi(2))
    }

    /// Electrons of a star of V magnitude zero in the aperture over the stack. A Gaussian star leaves
    /// 1 - 2^-(D/FWHM)^2 of its light inside a diameter D: 83 %.
    fn v0_electrons(&self) -> f64 {
        let inside = 1.0 - (-APERTURE_FWHM * APERTURE_FWHM).exp2();
        self.v0_e_per_s * self.pixel_share * inside * self.sub_s * self.subs
    }

    /// Signal to noise of a star of V magnitude `v_mag`: S / sqrt(S + n (B + D + R^2)), the CCD equation
    /// (Merline & Howell 1995).
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

/// Share of a star's light that falls on the pixel it is centred on: a Gaussian of `fwhm_arcsec` over a
/// square of `scale_arcsec`, erf(s / (2 sqrt(2) sigma))^2.
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

    /// The CCD equation written out: 1.6 FWHM across, 83 % of a Gaussian inside it, 8.38 pixels of 1.5 arcsec at 2.5 arcsec.
    #[test]
    fn the_aperture_is_one_and_six_tenths_of_the_star() {
        let t = StarTerms { pixel_share: 0.5, ..terms(30.0) };
        let radius = 1.6 * 2.5 / 2.0 / 1.5;
        let pixels = std::f64::consts::PI * radius * radius * 0.5;
        let signal = 5e7 * 0.5 * 0.8304 * 120.0 * 30.0 * 10f64.powf(-0.4 * 16.0);
        let expected = signal / (signal + pixels * 30.0 * (0.5 * 120.0 + 1.5 * 1.5)).sqrt();
        assert!((t.snr(16.0) / expected - 1.0).abs() < 1e-3, "{} {expected}", t.snr(16.0));
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
