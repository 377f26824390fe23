//! What a filter does to each line in one telescope: the slide of its band in the cone, and the lottery of
//! its centre's tolerance.

use std::collections::BTreeMap;

use serde::Serialize;
use utoipa::ToSchema;

use super::FilterInCone;
use crate::light::{EmissionLine, LINES, Quantity};
use crate::scenario::{Filter, LinesRayleigh, Optics};

/// A filter is called too narrow for the cone where it keeps less than this share of what it passes head-on.
const TOO_NARROW_BELOW: f64 = 0.85;
/// A filter is meant for a line of which it passes at least this share head-on.
const MEANT_FROM: f64 = 0.4;

/// Transmission for one line: of H-alpha 656.28 without [N II], of [O III] 500.68, of both [S II] lines by their light.
/// Fractions, 0-1.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct LineTransmission {
    /// In this telescope's cone, nominal centre.
    pub in_cone: f64,
    /// In parallel light.
    pub head_on: f64,
    /// In this cone for a copy whose centre is low by the tolerance.
    pub low_copy: f64,
    /// In this cone for a copy whose centre is high by the tolerance.
    pub high_copy: f64,
    /// The cone slides the band off the line.
    pub too_narrow: bool,
}

/// Transmission for every line that the filter passes at all, by quantity.
pub fn line_transmissions(filter: &Filter, optics: &Optics, lines: &LinesRayleigh) -> BTreeMap<Quantity, LineTransmission> {
    let at = |offset| FilterInCone::new(Some(filter), optics, offset);
    let (nominal, low, high) = (at(0.0), at(-filter.centre_tolerance_nm), at(filter.centre_tolerance_nm));
    let light = lines.each();
    let mean = |q: Quantity, t: &dyn Fn(f64) -> f64| {
        let own = LINES.iter().zip(light).filter(|(l, _)| l.quantity == q && is_main(l));
        let sum: f64 = own.clone().map(|(_, r)| r).sum();
        let each = own.map(|(l, r)| if sum > 0.0 { r / sum * t(l.wavelength_nm) } else { t(l.wavelength_nm) / count(q) });
        each.sum::<f64>()
    };
    let of = |q: Quantity| {
        let head_on = mean(q, &|nm| nominal.at_normal_incidence(nm));
        let in_cone = mean(q, &|nm| nominal.at(nm));
        LineTransmission {
            in_cone,
            head_on,
            low_copy: mean(q, &|nm| low.at(nm)),
            high_copy: mean(q, &|nm| high.at(nm)),
            too_narrow: head_on >= MEANT_FROM && in_cone < TOO_NARROW_BELOW * head_on,
        }
    };
    let lines = Quantity::ALL.into_iter().filter(|q| *q != Quantity::Continuum);
    lines.map(|q| (q, of(q))).filter(|(_, t)| t.in_cone.max(t.head_on).max(t.high_copy) > 0.01).collect()
}

/// Whether a line stands for its quantity: neither a companion of H-alpha nor the weaker of the [O III] pair.
fn is_main(line: &EmissionLine) -> bool {
    !line.name.starts_with("[N II]") && line.wavelength_nm != LINES[1].wavelength_nm
}

/// Number of lines that stand for a quantity.
fn count(q: Quantity) -> f64 {
    LINES.iter().filter(|l| l.quantity == q && is_main(l)).count() as f64
}
