//! One channel behind one filter, as rates that scale: a brighter sky, a fainter target, a copy of the filter whose centre is off.
//! Rates are linear in light, so that no spectrum is integrated again.

use crate::light::lines::{LINES, Quantity};
use crate::path::filter::response::{FilterResponse, RECORDED_FROM};
use crate::path::rates::Rates;
use crate::path::scales::Scales;

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
    /// Quantities that the channel records, by [`Quantity::ALL`].
    pub records: [bool; 5],
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
        for i in 0..5 {
            out.target[i] = mix(low.target[i], mid.target[i], high.target[i]);
        }
        for i in 0..4 {
            out.sky[i] = mix(low.sky[i], mid.sky[i], high.sky[i]);
        }
        out.scaled(scales)
    }
}

/// Which quantities a channel records: a line where the filter passes enough of it and the target emits it, a continuum wherever any
/// of it arrives.
pub fn recorded(rates: &Rates, filter: &FilterResponse) -> [bool; 5] {
    let passes = |q: Quantity| LINES.iter().zip(filter.at_lines).any(|(l, t)| l.quantity == q && t >= RECORDED_FROM);
    Quantity::ALL.map(|q| rates.of(q) > 0.0 && (q == Quantity::Continuum || passes(q)))
}
