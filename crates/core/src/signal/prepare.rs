//! Electrons of every channel of every exposure, ready for any question about time.

use std::collections::BTreeMap;

use crate::light::lines::Quantity;
use crate::light::tables::Tables;
use crate::path::filter::report::{LineTransmission, line_transmissions};
use crate::path::filter::response::FilterCache;
use crate::path::rates::{Rates, rates};
use crate::path::scene::Scene;
use crate::path::sensor::{Channel, GainPoint};
use crate::path::stages::{Stages, stages};
use crate::scenario::check::Checked;
use crate::scenario::document::Scenario;
use crate::scenario::exposure::Exposure;
use crate::scenario::rig::Contender;
use crate::signal::stack::{StackTerms, subs_in, time_to_goal_s};
use crate::signal::sub::SubTerms;

/// A line counts as recorded where the filter passes at least this share of it.
const RECORDED_FROM: f64 = 0.01;

/// A scenario with its electrons counted.
pub struct Prepared {
    /// Target and sky.
    pub scene: Scene,
    /// V brightness of natural sky, artificial light, moonlight and twilight towards the target, mag/arcsec^2.
    pub sky_mags: [Option<f64>; 4],
    /// The contenders in the scenario's order.
    pub contenders: Vec<PreparedContender>,
}

/// One light path with its electrons counted.
pub struct PreparedContender {
    /// Pixel scale, arcsec.
    pub scale_arcsec: f64,
    /// The camera at its gain.
    pub gain: GainPoint,
    /// The exposures in order.
    pub exposures: Vec<PreparedExposure>,
}

/// One exposure with its electrons counted.
pub struct PreparedExposure {
    /// Length of a sub, s.
    pub sub_s: f64,
    /// Overhead and readout after each sub, s.
    pub between_s: f64,
    /// Share of the clock.
    pub share: f64,
    /// Integral of the filter's transmission, nm.
    pub equivalent_width_nm: f64,
    /// Light left after each stage, by [`Quantity::ALL`].
    pub stages: [Option<Stages>; 5],
    /// The channels.
    pub channels: Vec<PreparedChannel>,
    /// What the filter passes of each line; empty for no filter.
    pub transmissions: BTreeMap<Quantity, LineTransmission>,
}

/// One channel with its electrons counted.
pub struct PreparedChannel {
    /// `mono`, `r`, `g` or `b`.
    pub name: &'static str,
    /// Share of the pixels.
    pub pixel_share: f64,
    /// Electrons per second and pixel.
    pub rates: Rates,
    /// Noise terms over the square of detail.
    pub stack: StackTerms,
    /// What decides its sub.
    pub sub: SubTerms,
    /// Quantities that this channel records, by [`Quantity::ALL`].
    pub records: [bool; 5],
    /// Electrons per second and pixel without the filter.
    pub open: Rates,
}

impl PreparedChannel {
    /// Signal to noise of a quantity after `subs` subs.
    pub fn snr(&self, quantity: Quantity, sub_s: f64, subs: f64) -> f64 {
        if self.records[quantity as usize] { self.stack.snr(self.rates.of(quantity) * sub_s, subs) } else { 0.0 }
    }
}

impl PreparedContender {
    /// Signal to noise of a quantity after `clock_s` seconds, its channels and exposures combined with
    /// inverse-variance weights: the squares add. `whole` counts whole subs only.
    pub fn snr(&self, quantity: Quantity, clock_s: f64, whole: bool) -> f64 {
        let mut sum = 0.0;
        for e in &self.exposures {
            let clock = clock_s * e.share;
            let subs = if whole { subs_in(clock, e.sub_s, e.between_s) } else { clock / (e.sub_s + e.between_s) };
            sum += e.channels.iter().map(|c| c.snr(quantity, e.sub_s, subs).powi(2)).sum::<f64>();
        }
        sum.sqrt()
    }

    /// Clock time to reach `goal`, s, counting broken subs so that the answer does not jump.
    pub fn time_to_goal_s(&self, quantity: Quantity, goal: f64) -> Option<f64> {
        if !self.records(quantity) {
            return None;
        }
        time_to_goal_s(goal, |t| self.snr(quantity, t, false))
    }

    /// Whether any channel records the quantity.
    pub fn records(&self, quantity: Quantity) -> bool {
        self.exposures.iter().flat_map(|e| &e.channels).any(|c| c.records[quantity as usize])
    }
}

impl Prepared {
    /// Counts the electrons of a checked scenario.
    pub fn new(scenario: &Checked, tables: &Tables) -> Self {
        let scenario = scenario.scenario();
        let scene = Scene::new(scenario, tables);
        let sky_mags = scene.sky.named().map(|(_, s)| tables.v_mag(s));
        let mut cache = FilterCache::new();
        let contenders = scenario.contenders.iter().map(|c| prepare_contender(scenario, &scene, c, &mut cache)).collect();
        Self { scene, sky_mags, contenders }
    }
}

fn prepare_contender<'a>(scenario: &'a Scenario, scene: &Scene, c: &'a Contender, cache: &mut FilterCache<'a>) -> PreparedContender {
    let channels: Vec<(Channel, Vec<f64>)> = c
        .sensor
        .channels()
        .into_iter()
        .map(|ch| {
            let r = ch.response_on_grid();
            (ch, r)
        })
        .collect();
    let gain = c.sensor.at_gain(c.gain);
    let scale_arcsec = c.optics.pixel_scale_arcsec(c.sensor.pixel_um);
    let exposures = c.exposures.iter().map(|e| prepare_exposure(scenario, scene, c, e, &channels, gain, scale_arcsec, cache)).collect();
    PreparedContender { scale_arcsec, gain, exposures }
}

#[allow(clippy::too_many_arguments)]
fn prepare_exposure<'a>(
    scenario: &'a Scenario,
    scene: &Scene,
    c: &'a Contender,
    e: &'a Exposure,
    channels: &[(Channel, Vec<f64>)],
    gain: GainPoint,
    scale_arcsec: f64,
    cache: &mut FilterCache<'a>,
) -> PreparedExposure {
    let open_rates: Vec<Rates> = {
        let open = cache.get(None, c, &scene.sky);
        channels.iter().map(|(channel, response)| rates(scene, c, open, channel, response)).collect()
    };
    let passed = cache.get(e.filter.as_ref(), c, &scene.sky);
    let between_s = c.overhead_s_per_sub + c.sensor.readout_s;
    let transmissions = e.filter.as_ref().map(|f| line_transmissions(f, &c.optics, &scenario.target.lines_rayleigh)).unwrap_or_default();
    let prepared = channels.iter().zip(open_rates).map(|((channel, response), open)| {
        let rates = rates(scene, c, passed, channel, response);
        let pixels = channel.pixel_share * (scenario.detail_arcsec / scale_arcsec).powi(2);
        let records = Quantity::ALL.map(|q| rates.of(q) > 0.0 && (q == Quantity::Continuum || line_passes(passed, q)));
        PreparedChannel {
            name: channel.name,
            pixel_share: channel.pixel_share,
            rates,
            stack: StackTerms::new(&rates, e.sub_s, gain.read_noise_e, pixels, scenario.calibration),
            sub: SubTerms {
                total_e_per_s: rates.total(),
                background_e_per_s: rates.background(),
                dark_e_per_s: rates.dark,
                read_noise_e: gain.read_noise_e,
                overhead_s: between_s,
                loss_per_hour: c.loss_per_hour,
                longest_s: c.optics.longest_sub_s,
            },
            records,
            open,
        }
    });
    PreparedExposure {
        sub_s: e.sub_s,
        between_s,
        share: e.share,
        equivalent_width_nm: passed.equivalent_width_nm(),
        channels: prepared.collect(),
        transmissions,
        stages: Quantity::ALL.map(|q| stages(scene, &scenario.target, c, passed, channels, q)),
    }
}

/// Whether the filter passes any line of the quantity.
fn line_passes(passed: &crate::path::filter::response::Passed, quantity: Quantity) -> bool {
    crate::light::lines::LINES.iter().zip(passed.at_lines).any(|(l, t)| l.quantity == quantity && t >= RECORDED_FROM)
}
