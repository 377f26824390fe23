//! One channel behind one filter, as rates that scale: a brighter sky, a fainter target, a copy of the filter whose centre is off.
//! Rates are linear in light, so that no spectrum is integrated again.

use crate::light::lines::{LINES, PerQuantity, Quantity};
use crate::path::filter::response::{FilterResponse, RECORDED_FROM};
use crate::path::rates::Rates;
use crate::path::scales::Scales;
use crate::path::sky::part::SkyPart;

/// One channel behind one filter.
#[derive(Clone, Debug, PartialEq)]
pub struct ChannelModel {
    /// `mono`, `r`, `g` or `b`.
    pub name: &'static str,
    /// Share of the sensor's pixels.
    pub pixel_share: f64,
    /// Pixels on the square of detail; may be below one.
    pub pixels: f64,
    /// Rates with the filter's centre low by its tolerance, nominal, and high by it.
    pub(super) copies: [Rates; 3],
    /// Quantities that the channel records.
    pub records: PerQuantity<bool>,
}

impl ChannelModel {
    /// The rates as the scenario says.
    pub fn nominal(&self) -> &Rates {
        &self.copies[1]
    }

    /// Rates under `scales` for a copy of the filter whose centre is off by `centre` tolerances, -1 to 1: a parabola through
    /// the three that were computed.
    pub fn rates(&self, scales: &Scales, centre: f64) -> Rates {
        let [low, mid, high] = &self.copies;
        let (wl, wm, wh) = (centre * (centre - 1.0) / 2.0, 1.0 - centre * centre, centre * (centre + 1.0) / 2.0);
        let mix = |l: f64, m: f64, h: f64| (wl * l + wm * m + wh * h).max(0.0);
        let mut out = *mid;
        for q in Quantity::ALL {
            out.target[q] = mix(low.target[q], mid.target[q], high.target[q]);
        }
        for part in SkyPart::ALL {
            out.sky[part] = mix(low.sky[part], mid.sky[part], high.sky[part]);
        }
        out.scaled(scales)
    }
}

/// Which quantities a channel records: a line where the filter passes enough of it and the target emits it, a continuum wherever any
/// of it arrives.
pub fn recorded(rates: &Rates, filter: &FilterResponse) -> PerQuantity<bool> {
    let passes = |q: Quantity| LINES.iter().zip(filter.at_lines).any(|(l, t)| l.quantity == q && t >= RECORDED_FROM);
    PerQuantity(Quantity::ALL).map(|q| rates.of(q) > 0.0 && (q == Quantity::Continuum || passes(q)))
}
