//! How values become greys: one stretch for all that is compared.

/// The background stands so many standard deviations above black.
const BLACK_SIGMAS: f64 = 2.0;
/// Where the stretch leaves the straight line, in standard deviations.
const SOFT_SIGMAS: f64 = 3.0;
/// What is white, in standard deviations.
const WHITE_SIGMAS: f64 = 60.0;

/// A stretch by arcsine hyperbolicus, as for a faint object beside bright stars.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Greys {
    sigma: f64,
    white: f64,
}

impl Greys {
    /// For a background of a standard deviation.
    pub(crate) fn of(sigma: f64) -> Self {
        let white = ((WHITE_SIGMAS + BLACK_SIGMAS) / SOFT_SIGMAS).asinh();
        Self { sigma: sigma.max(1e-30), white }
    }

    /// The grey of a value over the background; black where there is none.
    pub(crate) fn of_value(&self, over: f64) -> u8 {
        let stretched = ((over / self.sigma + BLACK_SIGMAS) / SOFT_SIGMAS).asinh() / self.white;
        if stretched.is_finite() { (255.0 * stretched.clamp(0.0, 1.0)).round() as u8 } else { 0 }
    }
}
