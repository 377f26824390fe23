//! One rig under one scene, asked about any filter: the common ground of ranking filters and of sweeping bands.

use crate::light::lines::Quantity;
use crate::path::filter::response::Passed;
use crate::path::filter::weights::FilterInCone;
use crate::path::rates::{Rates, rates};
use crate::path::scales::Scales;
use crate::path::scene::Scene;
use crate::path::sensor::{Channel, GainPoint};
use crate::scenario::document::Scenario;
use crate::scenario::exposure::{Calibration, Filter};
use crate::scenario::rig::{Contender, Optics};
use crate::signal::stack::StackTerms;
use crate::signal::sub::{SubTerms, plateau};

/// A contender's rig with its sensor's responses laid out on the wavelength grid.
pub struct Rig<'a> {
    scenario: &'a Scenario,
    scene: &'a Scene,
    contender: &'a Contender,
    channels: Vec<(Channel<'a>, Vec<f64>)>,
    gain: GainPoint,
}

/// What a filter gives on a rig.
#[derive(Clone, Debug, PartialEq)]
pub struct Behind {
    /// Name, share of the pixels and rates of each channel.
    pub channels: Vec<(&'static str, f64, Rates)>,
    /// Integral of the transmission, nm.
    pub equivalent_width_nm: f64,
}

impl Behind {
    /// The same under another sky and target.
    pub fn scaled(&self, scales: &Scales) -> Self {
        let channels = self.channels.iter().map(|(name, share, r)| (*name, *share, r.scaled(scales))).collect();
        Self { channels, ..*self }
    }

    /// Rate of a quantity summed over the pixels of all colours, e-/s per pixel of the sensor.
    pub fn signal(&self, quantity: Quantity) -> f64 {
        self.channels.iter().map(|(_, share, r)| share * r.of(quantity)).sum()
    }

    /// Rate of the sky summed over the pixels of all colours, e-/s per pixel of the sensor.
    pub fn sky(&self) -> f64 {
        self.channels.iter().map(|(_, share, r)| share * r.background()).sum()
    }
}

/// Information on one quantity: (signal to noise)^2 per second of clock, at a length of sub.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Pace {
    /// Length of a sub, s.
    pub sub_s: f64,
    /// (Signal to noise)^2 per second of clock.
    pub information_per_s: f64,
}

impl Pace {
    /// Clock time to a signal to noise, s; `None` where there is no signal.
    pub fn time_to_s(&self, goal: f64) -> Option<f64> {
        (self.information_per_s > 0.0).then(|| goal * goal / self.information_per_s)
    }
}

impl<'a> Rig<'a> {
    /// The rig of a contender.
    pub fn new(scenario: &'a Scenario, scene: &'a Scene, contender: &'a Contender) -> Self {
        let channels = contender.sensor.channels().into_iter().map(|c| {
            let response = c.response_on_grid();
            (c, response)
        });
        Self { scenario, scene, contender, channels: channels.collect(), gain: contender.sensor.at_gain(contender.gain) }
    }

    /// Whether it has a colour filter array.
    pub fn is_colour(&self) -> bool {
        self.contender.sensor.cfa.is_some()
    }

    /// The rates behind a filter (or none) in the cone of `cone`, its centre off by `offset_nm`.
    ///
    /// Area, scale and throughput stay those of the rig: only the angles of the light are taken from `cone`.
    pub fn behind(&self, filter: Option<&Filter>, cone: &Optics, offset_nm: f64) -> Behind {
        let passed = Passed::new(&FilterInCone::new(filter, cone, offset_nm), &self.scene.sky);
        let channels =
            self.channels.iter().map(|(c, response)| (c.name, c.pixel_share, rates(self.scene, self.contender, &passed, c, response)));
        Behind { channels: channels.collect(), equivalent_width_nm: passed.equivalent_width_nm() }
    }

    /// The rates behind a filter in the rig's own cone.
    pub fn behind_own(&self, filter: Option<&Filter>) -> Behind {
        self.behind(filter, &self.contender.optics, 0.0)
    }

    fn between_s(&self) -> f64 {
        self.contender.overhead_s_per_sub + self.contender.sensor.readout_s
    }

    fn sub_terms(&self, r: &Rates) -> SubTerms {
        SubTerms {
            total_e_per_s: r.total(),
            background_e_per_s: r.background(),
            dark_e_per_s: r.dark,
            read_noise_e: self.gain.read_noise_e,
            overhead_s: self.between_s(),
            loss_per_hour: self.contender.loss_per_hour,
            longest_s: self.contender.optics.longest_sub_s,
        }
    }

    /// Information per second at a given sub. Calibration counts as dithered, so that it grows with time alone.
    pub fn pace_at(&self, behind: &Behind, quantity: Quantity, sub_s: f64) -> Pace {
        let scale = self.contender.optics.pixel_scale_arcsec(self.contender.sensor.pixel_um);
        let square = (self.scenario.detail_arcsec / scale).powi(2);
        let calibration = Calibration { dithered: true, ..self.scenario.calibration };
        let one_sub = |(_, share, r): &(&str, f64, Rates)| {
            StackTerms::new(r, sub_s, self.gain.read_noise_e, share * square, calibration).snr(r.of(quantity) * sub_s, 1.0).powi(2)
        };
        let sum: f64 = behind.channels.iter().map(one_sub).sum();
        Pace { sub_s, information_per_s: sum / (sub_s + self.between_s()) }
    }

    /// Information per second at the sub that is best for the channel that sees the quantity best.
    pub fn pace(&self, behind: &Behind, quantity: Quantity) -> Pace {
        let leading = behind.channels.iter().max_by(|a, b| (a.1.sqrt() * a.2.of(quantity)).total_cmp(&(b.1.sqrt() * b.2.of(quantity))));
        let sub_s = leading.map_or(60.0, |(_, _, r)| plateau(&self.sub_terms(r)).best_s);
        self.pace_at(behind, quantity, sub_s)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::common::{bands, evaluate, ic_443, tables, through};

    /// The demo's colour camera behind one filter at a sub.
    fn colour(filter: Option<Filter>, sub_s: f64) -> Scenario {
        let mut s = ic_443();
        s.contenders = vec![through(&s.contenders[2], vec![filter], sub_s)];
        s
    }

    #[test]
    fn a_pace_is_what_an_evaluation_gathers_per_second() {
        for filter in [None, Some(bands("dual", 7.0, &[656.3, 500.7]))] {
            let s = colour(filter.clone(), 120.0);
            let scene = Scene::new(&s, &tables());
            let rig = Rig::new(&s, &scene, &s.contenders[0]);
            assert!(rig.is_colour());
            let answer = &evaluate(&s).contenders[0];
            for q in [Quantity::Ha, Quantity::Oiii] {
                let pace = rig.pace_at(&rig.behind_own(filter.as_ref()), q, 120.0);
                let exposure = &answer.exposures[0];
                // Whole subs are counted there, and seconds of clock here.
                let clock_s = f64::from(exposure.subs) * (120.0 + rig.between_s());
                let snr = answer.quantities[&q].snr;
                assert!((pace.information_per_s * clock_s / (snr * snr) - 1.0).abs() < 1e-6, "{q:?}");
                let t = pace.time_to_s(20.0).unwrap();
                assert!((t * pace.information_per_s - 400.0).abs() < 1e-9);
            }
        }
    }

    #[test]
    fn the_best_pace_is_no_slower_than_at_any_sub_of_the_leading_channel() {
        let filter = bands("Ha", 7.0, &[656.3]);
        let s = colour(Some(filter.clone()), 120.0);
        let scene = Scene::new(&s, &tables());
        let rig = Rig::new(&s, &scene, &s.contenders[0]);
        let behind = rig.behind_own(Some(&filter));
        let best = rig.pace(&behind, Quantity::Ha);
        // The loss rate falls out of the pace, so that the comparison holds only up to the plateau's five per cent.
        for sub_s in [10.0, 60.0, 300.0, 600.0] {
            assert!(best.information_per_s >= 0.9 * rig.pace_at(&behind, Quantity::Ha, sub_s).information_per_s, "{sub_s}");
        }
        assert_eq!(Pace { sub_s: 60.0, information_per_s: 0.0 }.time_to_s(20.0), None);
    }

    #[test]
    fn scaled_light_is_scaled_part_by_part() {
        let s = colour(None, 60.0);
        let scene = Scene::new(&s, &tables());
        let behind = Rig::new(&s, &scene, &s.contenders[0]).behind_own(None);
        let scaled = behind.scaled(&Scales { target: 2.0, artificial: 0.0, ..Scales::ONE });
        assert!((scaled.signal(Quantity::Ha) / behind.signal(Quantity::Ha) - 2.0).abs() < 1e-12);
        let natural: f64 = behind.channels.iter().map(|(_, share, r)| share * r.sky[0]).sum();
        assert!((scaled.sky() - natural).abs() < 1e-12 && scaled.sky() < behind.sky());
        assert_eq!(scaled.equivalent_width_nm, behind.equivalent_width_nm);
    }

    #[test]
    fn only_the_angles_of_the_light_follow_another_cone() {
        let filter = bands("Ha", 3.0, &[656.3]);
        let s = colour(Some(filter.clone()), 60.0);
        let scene = Scene::new(&s, &tables());
        let rig = Rig::new(&s, &scene, &s.contenders[0]);
        let slow = Optics { focal_length_mm: 1500.0, ..s.contenders[0].optics.clone() };
        let (own, in_slow) = (rig.behind_own(Some(&filter)), rig.behind(Some(&filter), &slow, 0.0));
        assert!(in_slow.signal(Quantity::Ha) > 1.3 * own.signal(Quantity::Ha), "f/10 passes the line that f/2.8 slides off");
        let (open, open_slow) = (rig.behind_own(None), rig.behind(None, &slow, 0.0));
        assert!((open.sky() / open_slow.sky() - 1.0).abs() < 1e-12, "without a filter the cone does not matter");
    }
}
