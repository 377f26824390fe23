//! One sub: how long it should be, and what clips in it.

mod sub;

pub use sub::{
    LONGEST_SUB_S, Plateau, SubTerms, excess_from_swamp, excess_sub_s, plateau, read_noise_excess, swamp_from_excess, swamp_sub_s,
};

/// Share of a star's light that falls on the pixel it is centred on: a Gaussian of `fwhm_arcsec` over a
/// square of `scale_arcsec`, erf(s / (2 sqrt(2) sigma))^2.
pub fn star_peak_share(fwhm_arcsec: f64, scale_arcsec: f64) -> f64 {
    let sigma = fwhm_arcsec / 2.354_820_045;
    libm::erf(scale_arcsec / (2.0 * std::f64::consts::SQRT_2 * sigma)).powi(2)
}

#[cfg(test)]
mod tests {
    use super::star_peak_share;

    #[test]
    fn a_big_pixel_holds_the_whole_star() {
        assert!(star_peak_share(2.0, 20.0) > 0.999);
        // Small pixels: peak of the Gaussian times the pixel's area.
        let (fwhm, scale) = (4.0, 0.2);
        let peak = 4.0 * 2f64.ln() / (std::f64::consts::PI * fwhm * fwhm) * scale * scale;
        assert!((star_peak_share(fwhm, scale) / peak - 1.0).abs() < 0.01);
    }
}
