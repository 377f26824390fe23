//! What a filter does to each line in one telescope: the slide of its band in the cone, and the
//! lottery of its centre's tolerance.

use serde::Serialize;
use std::collections::BTreeMap;
use utoipa::ToSchema;

use crate::light::lines::{EmissionLine, LINES, Quantity};
use crate::path::filter::response::RECORDED_FROM;
use crate::path::filter::weights::FilterInCone;
use crate::scenario::exposure::Filter;
use crate::scenario::rig::Optics;
use crate::scenario::target::LinesRayleigh;

/// A filter is called too narrow for the cone where it keeps less than this share of what it passes
/// head-on.
const TOO_NARROW_BELOW: f64 = 0.85;

/// A filter is meant for a line of which it passes at least this share head-on.
const MEANT_FROM: f64 = 0.4;

/// Transmission for one line: of H-alpha 656.28 without [N II], of [O III] 500.68, of both [S II]
/// lines by their light. Fractions, 0-1.
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
    /// In the sensor's corner, where the light meets the filter askew; null where the distance of
    /// the exit pupil is not given.
    pub in_corner: Option<f64>,
    /// The cone slides the band off the line.
    pub too_narrow: bool,
    /// The corners lose the line that the middle of the field keeps.
    pub corner_loses: bool,
}

/// Transmission for every line that the filter passes at all, by quantity; `corner_tilt` is that of
/// the chief ray in the sensor's corner
/// ([`Contender::corner_tilt`](crate::scenario::Contender::corner_tilt)).
pub fn line_transmissions(
    filter: &Filter,
    optics: &Optics,
    corner_tilt: Option<f64>,
    lines: &LinesRayleigh,
) -> BTreeMap<Quantity, LineTransmission> {
    let at = |offset| FilterInCone::new(Some(filter), optics, offset);
    let (nominal, low, high) =
        (at(0.0), at(-filter.centre_tolerance_nm), at(filter.centre_tolerance_nm));
    let corner = corner_tilt.map(|tilt| at(0.0).leaning(optics, filter.n_eff, tilt));
    let light = lines.each();
    let mean = |q: Quantity, t: &dyn Fn(f64) -> f64| {
        let own = LINES.iter().zip(light).filter(|(l, _)| l.quantity == q && is_main(l));
        let sum: f64 = own.clone().map(|(_, r)| r).sum();
        let each = own.map(|(l, r)| {
            if sum > 0.0 { r / sum * t(l.wavelength_nm) } else { t(l.wavelength_nm) / count(q) }
        });
        each.sum::<f64>()
    };
    let of = |q: Quantity| {
        let head_on = mean(q, &|nm| nominal.at_normal_incidence(nm));
        let in_cone = mean(q, &|nm| nominal.at(nm));
        let in_corner = corner.as_ref().map(|c| mean(q, &|nm| c.at(nm)));
        LineTransmission {
            in_cone,
            head_on,
            in_corner,
            corner_loses: in_cone >= MEANT_FROM
                && in_corner.is_some_and(|c| c < TOO_NARROW_BELOW * in_cone),
            low_copy: mean(q, &|nm| low.at(nm)),
            high_copy: mean(q, &|nm| high.at(nm)),
            too_narrow: head_on >= MEANT_FROM && in_cone < TOO_NARROW_BELOW * head_on,
        }
    };
    let lines = Quantity::ALL.into_iter().filter(|q| *q != Quantity::Continuum);
    lines
        .map(|q| (q, of(q)))
        .filter(|(_, t)| t.in_cone.max(t.head_on).max(t.high_copy) > RECORDED_FROM)
        .collect()
}

/// Whether a line stands for its quantity: neither a companion of H-alpha nor the weaker of the [O
/// III] pair.
fn is_main(line: &EmissionLine) -> bool {
    !line.name.starts_with("[N II]") && line.wavelength_nm != LINES[1].wavelength_nm
}

/// Number of lines that stand for a quantity.
fn count(q: Quantity) -> f64 {
    LINES.iter().filter(|l| l.quantity == q && is_main(l)).count() as f64
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::scenario::exposure::Passband;

    const DARK: LinesRayleigh = LinesRayleigh { ha: 0.0, nii: 0.0, oiii: 0.0, sii: 0.0, hb: 0.0 };

    fn band(centre_nm: f64, fwhm_nm: f64) -> Filter {
        Filter::of_bands("", vec![Passband { centre_nm, fwhm_nm, peak: 0.9, order: 3.0 }])
    }

    fn optics(focal_ratio: f64) -> Optics {
        let focal_length_mm = 100.0 * focal_ratio;
        Optics {
            aperture_mm: 100.0,
            obstruction_mm: 0.0,
            focal_length_mm,
            reducer: 1.0,
            throughput: 1.0,
            longest_sub_s: None,
            exit_pupil_mm: None,
        }
    }

    #[test]
    fn a_line_pair_is_weighed_by_its_light_or_evenly_where_there_is_none() {
        // A nanometre around the bluer of the two [S II] lines: the other is out of sight.
        let one = &band(671.64, 1.0);
        let of = |sii: f64| {
            line_transmissions(one, &optics(30.0), None, &LinesRayleigh { sii, ..DARK })
                [&Quantity::Sii]
        };
        assert!((of(0.0).head_on / 0.9 - 0.5).abs() < 1e-3, "{:?}", of(0.0));
        assert!((of(10.0).head_on / 0.9 - 1.3 / 2.3).abs() < 1e-3, "{:?}", of(10.0));
        // H-alpha is judged without [N II], [O III] by its stronger line.
        let nii = line_transmissions(
            &band(658.35, 1.0),
            &optics(30.0),
            None,
            &LinesRayleigh { ha: 1.0, nii: 1.0, ..DARK },
        );
        assert!(!nii.contains_key(&Quantity::Ha), "{nii:?}");
        let weak = line_transmissions(
            &band(495.89, 1.0),
            &optics(30.0),
            None,
            &LinesRayleigh { oiii: 1.0, ..DARK },
        );
        assert!(!weak.contains_key(&Quantity::Oiii), "{weak:?}");
    }

    #[test]
    fn copies_stand_at_either_end_of_the_tolerance_and_a_fast_cone_is_told() {
        let mut f = band(656.28, 3.0);
        f.centre_tolerance_nm = 1.0;
        let lines = LinesRayleigh { ha: 1.0, ..DARK };
        let slow = line_transmissions(&f, &optics(10.0), None, &lines)[&Quantity::Ha];
        assert!(!slow.too_narrow && (slow.in_cone / slow.head_on - 1.0).abs() < 0.02, "{slow:?}");
        let fast = line_transmissions(&f, &optics(2.0), None, &lines)[&Quantity::Ha];
        // The cone slides the band to the blue: a copy that is low loses more, one that is high
        // less.
        assert!(
            fast.too_narrow && fast.low_copy < fast.in_cone && fast.in_cone < fast.high_copy,
            "{fast:?}"
        );
        assert_eq!(fast.head_on, slow.head_on);
    }

    /// The middle of the field keeps the line; an exit pupil close behind the filter makes the
    /// corners lose it, one far away does not, and a wide band does not mind.
    #[test]
    fn corners_lose_the_line_where_the_exit_pupil_is_near() {
        let lines = LinesRayleigh { ha: 1.0, ..DARK };
        let of = |width_nm: f64, tilt: Option<f64>| {
            line_transmissions(&band(656.28, width_nm), &optics(5.0), tilt, &lines)[&Quantity::Ha]
        };
        assert_eq!((of(3.0, None).in_corner, of(3.0, None).corner_loses), (None, false));
        // 14 mm from the axis with the pupil at 80 and at 800 mm.
        let (near, far) = (of(3.0, Some(14.0 / 80.0)), of(3.0, Some(14.0 / 800.0)));
        assert!(near.corner_loses && !near.too_narrow, "{near:?}");
        assert!(near.in_corner < Some(0.7 * near.in_cone));
        assert!(!far.corner_loses && far.in_corner > Some(0.97 * far.in_cone), "{far:?}");
        assert!(!of(12.0, Some(14.0 / 80.0)).corner_loses);
    }
}
