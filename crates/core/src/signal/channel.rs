//! One channel behind one filter, as rates that scale: a brighter sky, a fainter target, a copy of
//! the filter whose centre is off. Rates are linear in light, so that no spectrum is integrated
//! again.

use crate::light::lamp::PerLamp;
use crate::light::lines::{LINES, PerQuantity, Quantity};
use crate::path::filter::response::{FilterResponse, RECORDED_FROM};
use crate::path::rates::Rates;
use crate::path::scales::Scales;
use crate::path::sky::part::PerSkyPart;

/// How far copies of a filter are computed, in standard deviations of what its band may be off.
pub const COPIES_UP_TO: f64 = 3.0;

/// One channel behind one filter.
#[derive(Clone, Debug, PartialEq)]
pub struct ChannelModel {
    /// `mono`, `r`, `g` or `b`.
    pub name: &'static str,
    /// Share of the sensor's pixels.
    pub pixel_share: f64,
    /// Pixels on the square of detail; may be below one.
    pub pixels: f64,
    /// How the lamps' light is shared between the kinds of lamp.
    pub lamp_parts: PerLamp<f64>,
    /// Rates with the filter's band off by -3 to 3 standard deviations ([`COPIES_UP_TO`]) in equal
    /// steps; the nominal alone where all copies are alike.
    pub(super) copies: Vec<Rates>,
    /// Quantities that the channel records.
    pub records: PerQuantity<bool>,
}

impl ChannelModel {
    /// The rates as the scenario says.
    pub fn nominal(&self) -> &Rates {
        &self.copies[self.copies.len() / 2]
    }

    /// Rates under `scales` for a copy of the filter whose band is off by `centre` standard
    /// deviations: cubics through the copies that were computed; beyond the last, the last.
    pub fn rates(&self, scales: &Scales, centre: f64) -> Rates {
        if self.copies.len() == 1 || centre == 0.0 {
            return self.nominal().scaled(scales, &self.lamp_parts);
        }
        let last = (self.copies.len() - 1) as f64;
        let at = (0.5 * (centre / COPIES_UP_TO + 1.0) * last).clamp(0.0, last);
        // Four copies around it, moved inwards at the ends.
        let first = (at.floor() - 1.0).clamp(0.0, last - 3.0) as usize;
        let x = at - first as f64;
        // Lagrange's weights at x for values at 0, 1, 2 and 3.
        let (a, b, c) = (x - 1.0, x - 2.0, x - 3.0);
        let weights = [-a * b * c / 6.0, x * b * c / 2.0, -x * a * c / 2.0, x * a * b / 6.0];
        let mut out = *self.nominal();
        (out.target, out.sky) = (PerQuantity::default(), PerSkyPart::default());
        for (copy, w) in self.copies[first..first + 4].iter().zip(weights) {
            out.target.iter_mut().zip(copy.target).for_each(|(sum, own)| *sum += w * own);
            out.sky.iter_mut().zip(copy.sky).for_each(|(sum, own)| *sum += w * own);
        }
        // A cubic may dip under nothing beside a steep edge.
        out.target.iter_mut().chain(out.sky.iter_mut()).for_each(|rate| *rate = rate.max(0.0));
        let both = out.target[Quantity::Ha];
        out.target[Quantity::HaAlone] = out.target[Quantity::HaAlone].min(both);
        out.scaled(scales, &self.lamp_parts)
    }
}

/// Which quantities a channel records: a line where the filter passes enough of it and the target
/// emits it, a continuum wherever any of it arrives.
pub fn recorded(rates: &Rates, filter: &FilterResponse) -> PerQuantity<bool> {
    let passes = |q: Quantity| {
        LINES.iter().zip(filter.at_lines).any(|(l, t)| l.is_of(q) && t >= RECORDED_FROM)
    };
    PerQuantity(Quantity::JUDGED)
        .map(|q| rates.of(q) > 0.0 && (q == Quantity::Continuum || passes(q)))
}
