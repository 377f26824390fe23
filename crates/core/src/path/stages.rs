//! What each stage of a light path leaves of the target's light: the loss, stage by stage, that a
//! user reads on the screen.

use crate::light::lines::{LINES, Quantity};
use crate::light::units::PHOTONS_PER_RAYLEIGH;
use crate::path::filter::response::FilterResponse;
use crate::path::scene::Scene;
use crate::path::sensor::Channel;
use crate::scenario::rig::Contender;
use crate::scenario::target::Target;

/// What is left of a quantity's photons after each stage, as a fraction of those that reach the top
/// of the atmosphere over the full, unobstructed aperture.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Stages {
    /// After the air.
    pub atmosphere: f64,
    /// After obstruction, mirrors and lenses.
    pub optics: f64,
    /// After the filter.
    pub filter: f64,
    /// Counted as electrons, over all pixels of the sensor.
    pub sensor: f64,
}

/// The stages of one quantity for one exposure; `None` where the target does not emit it.
pub fn stages(
    scene: &Scene,
    target: &Target,
    contender: &Contender,
    filter: &FilterResponse,
    channels: &[(Channel, Vec<f64>)],
    quantity: Quantity,
) -> Option<Stages> {
    let o = &contender.optics;
    let clear = 1.0 - o.obstruction_ratio().powi(2);
    let optics_share = clear * o.throughput;
    let pixels =
        |nm: f64| channels.iter().map(|(c, _)| c.pixel_share * c.response(nm)).sum::<f64>();
    if !target.emits(quantity) {
        return None;
    }
    // (outside, after air, after filter, as electrons)
    let mut sums = [0.0; 4];
    if quantity == Quantity::Continuum {
        let outside: f64 = scene.continuum_outside.continuum.iter().sum();
        let air: f64 = scene.continuum.continuum.iter().sum();
        let filtered = filter.weights.iter().zip(&scene.continuum.continuum).map(|(w, s)| w * s);
        let mut counted = 0.0;
        for (channel, response) in channels {
            let sum: f64 = filter
                .weights
                .iter()
                .zip(&scene.continuum.continuum)
                .zip(response)
                .map(|((w, s), r)| w * s * r)
                .sum();
            counted += channel.pixel_share * sum;
        }
        sums = [outside, air, filtered.sum(), counted];
    } else {
        let outside = target.lines_rayleigh.each();
        for (i, line) in LINES.iter().enumerate().filter(|(_, l)| l.is_of(quantity)) {
            sums[0] += outside[i] * PHOTONS_PER_RAYLEIGH;
            sums[1] += scene.line_photons[i];
            sums[2] += scene.line_photons[i] * filter.at_lines[i];
            sums[3] += scene.line_photons[i] * filter.at_lines[i] * pixels(line.wavelength_nm);
        }
    }
    let [outside, air, filtered, counted] = sums;
    Some(Stages {
        atmosphere: air / outside,
        optics: air / outside * optics_share,
        filter: filtered / outside * optics_share,
        sensor: counted / outside * optics_share,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::common::{ic_443, tables};
    use crate::light::curve::Curve;
    use crate::path::filter::weights::FilterInCone;
    use crate::path::rates::rates;
    use crate::path::sky::part::SkyPart;
    use crate::scenario::document::Scenario;
    use crate::scenario::exposure::Filter;

    /// The reflector of the demo behind a filter that passes half of everything, with a sensor that
    /// counts six in ten.
    fn grey(cfa: Option<&str>) -> Scenario {
        let mut s = ic_443();
        s.contenders = vec![s.contenders.remove(1)];
        let c = &mut s.contenders[0];
        c.sensor.cfa = cfa.map(str::to_owned);
        (c.sensor.cfa_curves, c.sensor.qe) = (None, Curve(vec![[300.0, 0.6], [1100.0, 0.6]]));
        c.exposures.truncate(1);
        c.exposures[0].filter = Some(Filter {
            bands: None,
            curve: Some(Curve(vec![[300.0, 0.5], [1100.0, 0.5]])),
            ..Filter::of_bands("", vec![])
        });
        s
    }

    fn stages_of(s: &Scenario, q: Quantity) -> Option<Stages> {
        let scene = Scene::new(s, &tables());
        let c = &s.contenders[0];
        let filter = FilterResponse::new(
            &FilterInCone::new(c.exposures[0].filter.as_ref(), &c.optics, 0.0),
            &scene.sky,
        );
        let channels: Vec<_> = c
            .sensor
            .channels()
            .into_iter()
            .map(|ch| (ch.response_on_grid(), ch))
            .map(|(r, ch)| (ch, r))
            .collect();
        stages(&scene, &s.target, c, &filter, &channels, q)
    }

    #[test]
    fn every_stage_takes_its_own_share() {
        for cfa in [None, Some("RGGB")] {
            let mut s = grey(cfa);
            s.target.continuum = Some(crate::scenario::target::Continuum {
                v_mag_arcsec2: 22.0,
                temperature_k: 6000.0,
                b_v: None,
            });
            let air = Scene::new(&s, &tables()).sky.air;
            // 150 mm with 70 in the way.
            let clear = (1.0 - (70.0f64 / 150.0).powi(2)) * s.contenders[0].optics.throughput;
            for q in Quantity::ALL {
                let got = stages_of(&s, q).expect("emitted");
                assert!((got.optics / got.atmosphere - clear).abs() < 1e-12, "{q:?}: {got:?}");
                assert!((got.filter / got.optics - 0.5).abs() < 2e-3, "{q:?}: {got:?}");
                assert!((got.sensor / got.filter - 0.6).abs() < 2e-3, "{q:?}: {got:?}");
            }
            let oiii = stages_of(&s, Quantity::Oiii).expect("emitted").atmosphere;
            assert!(
                (oiii / ((air.transmission(495.89) + 2.98 * air.transmission(500.68)) / 3.98)
                    - 1.0)
                    .abs()
                    < 1e-9,
                "{oiii}"
            );
            let white = stages_of(&s, Quantity::Continuum).expect("emitted").atmosphere;
            assert!(white > air.transmission(400.0) && white < air.transmission(1000.0), "{white}");
        }
    }

    #[test]
    fn what_is_not_emitted_has_no_stages() {
        let mut s = grey(None);
        (s.target.lines_rayleigh.sii, s.target.continuum) = (0.0, None);
        assert_eq!(stages_of(&s, Quantity::Sii), None);
        assert_eq!(stages_of(&s, Quantity::Continuum), None);
        assert!(stages_of(&s, Quantity::Ha).is_some());
    }

    #[test]
    fn all_light_goes_with_area_and_throughput_and_dark_current_does_not() {
        let of = |change: fn(&mut crate::scenario::rig::Optics)| {
            let mut s = grey(None);
            change(&mut s.contenders[0].optics);
            let scene = Scene::new(&s, &tables());
            let c = &s.contenders[0];
            let filter = FilterResponse::new(
                &FilterInCone::new(c.exposures[0].filter.as_ref(), &c.optics, 0.0),
                &scene.sky,
            );
            let channel = &c.sensor.channels()[0];
            rates(&scene, c, &filter, channel, &channel.response_on_grid())
        };
        let full = of(|o| o.obstruction_mm = 0.0);
        for (less, share) in [
            (of(|o| (o.obstruction_mm, o.throughput) = (0.0, o.throughput / 2.0)), 0.5),
            (of(|o| o.obstruction_mm = 75.0), 0.75),
        ] {
            let pairs = less
                .target
                .iter()
                .zip(full.target)
                .chain(less.sky.iter().zip(full.sky))
                .chain([(&less.star_v0, full.star_v0)]);
            for (a, b) in pairs.filter(|(_, b)| *b > 0.0) {
                // The cone changes a little with the obstruction.
                assert!((a / b / share - 1.0).abs() < 2e-3, "{a} of {b} is not {share}");
            }
            assert_eq!(less.dark, full.dark);
        }
        assert!(full.star_v0 > 0.0 && full.dark > 0.0 && full.sky[SkyPart::Artificial] > 0.0);
    }
}
