//! One rig under one scene, asked about any filter: the common ground of ranking filters and of sweeping bands.

use crate::decide::Scales;
use crate::exposure::{SubTerms, plateau};
use crate::filter::FilterInCone;
use crate::integration::StackTerms;
use crate::light::Quantity;
use crate::path::{Passed, Rates, Scene, rates};
use crate::scenario::{Calibration, Contender, Filter, Optics, Scenario};
use crate::sensor::{Channel, GainPoint};

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
