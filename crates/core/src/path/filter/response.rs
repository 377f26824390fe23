//! A filter's response: a passband's transmission in parallel light, and a whole filter in a cone
//! reduced to the weights that the sums over lines and continua need.

use crate::light::lines::LINES;
use crate::path::filter::weights::FilterInCone;
use crate::path::sky::part::PerSkyPart;
use crate::path::sky::parts::SkyParts;
use crate::scenario::exposure::{Filter, Passband};
use crate::scenario::rig::Contender;

/// A filter wider than this (by the integral of its transmission) shows stars, dust and galaxies in
/// their own light, nm.
pub const BROAD_NM: f64 = 40.0;

/// A line counts as passed, and as recorded, where the filter lets at least this share of it
/// through.
pub const RECORDED_FROM: f64 = 0.01;

/// A filter in a telescope's cone, reduced to what the sums need.
pub struct FilterResponse {
    /// Grid weights, nm.
    pub weights: Vec<f64>,
    /// Transmission at each of [`LINES`].
    pub at_lines: [f64; LINES.len()],
    /// Transmission at each line of each sky part.
    pub(crate) at_sky_lines: PerSkyPart<Vec<f64>>,
}

impl FilterResponse {
    /// Reduces a filter for the given sky.
    pub fn new(filter: &FilterInCone, sky: &SkyParts) -> Self {
        Self {
            weights: filter.weights(),
            at_lines: LINES.map(|l| filter.at(l.wavelength_nm)),
            at_sky_lines: sky
                .each()
                .map(|s| s.lines.iter().map(|l| filter.at(l.wavelength_nm)).collect()),
        }
    }

    /// Equivalent width: the integral of the transmission, nm.
    pub fn equivalent_width_nm(&self) -> f64 {
        self.weights.iter().sum()
    }
}

/// A filter of a contender, remembered so that exposures which share one compute it once.
pub struct FilterCache<'a> {
    seen: Vec<(Option<&'a Filter>, [f64; 2], FilterResponse)>,
}

impl<'a> FilterCache<'a> {
    /// Nothing remembered yet.
    pub fn new() -> Self {
        Self { seen: Vec::new() }
    }

    /// The filter in this contender's cone.
    pub fn get(
        &mut self,
        filter: Option<&'a Filter>,
        contender: &'a Contender,
        sky: &SkyParts,
    ) -> &FilterResponse {
        let cone = [contender.optics.focal_ratio(), contender.optics.obstruction_ratio()];
        let same = |(f, c, _): &(Option<&Filter>, [f64; 2], FilterResponse)| {
            *f == filter && (*c == cone || filter.is_none())
        };
        let at = match self.seen.iter().position(same) {
            Some(at) => at,
            None => {
                let response =
                    FilterResponse::new(&FilterInCone::new(filter, &contender.optics, 0.0), sky);
                self.seen.push((filter, cone, response));
                self.seen.len() - 1
            }
        };
        &self.seen[at].2
    }
}

impl Default for FilterCache<'_> {
    fn default() -> Self {
        Self::new()
    }
}

impl Passband {
    /// Transmission in parallel light with the centre moved by `shift_nm`.
    ///
    /// Flat top: peak 2^-(|2 (lambda - c) / FWHM|^(2 m)); m = 1 is a Gaussian.
    pub fn transmission(&self, wavelength_nm: f64, shift_nm: f64) -> f64 {
        let x2 = (2.0 * (wavelength_nm - self.centre_nm - shift_nm) / self.fwhm_nm).powi(2);
        // The usual order is multiplied out: most of the time of an evaluation would go into this
        // power.
        let octaves = if self.order == 3.0 { x2 * x2 * x2 } else { x2.powf(self.order) };
        // Below 2^-64 nothing is left to add up.
        if octaves < 64.0 { self.peak * (-octaves).exp2() } else { 0.0 }
    }

    /// Distance from the centre, nm, beyond which less than `floor` passes.
    pub(super) fn reach_nm(&self, floor: f64) -> f64 {
        let octaves = (self.peak / floor).log2().max(0.0);
        self.fwhm_nm / 2.0 * octaves.powf(0.5 / self.order)
    }
}
