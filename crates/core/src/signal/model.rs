//! The one signal-to-noise model of a light path. It is made once per question: the electrons of
//! every channel of every exposure, and the [`Instrument`] that turns them into noise and time.
//! Whatever is asked afterwards (another clock, another split, a darker sky, a copy of the filter
//! that is off) scales those rates; no spectrum is integrated again.

use std::collections::BTreeMap;

use crate::light::lines::{PerQuantity, Quantity};
use crate::light::tables::Tables;
use crate::path::filter::cone::copy_sigma_nm;
use crate::path::filter::report::{LineTransmission, line_transmissions};
use crate::path::filter::response::{BROAD_NM, FilterCache};
use crate::path::rates::Rates;
use crate::path::scales::Scales;
use crate::path::scene::Scene;
use crate::path::sky::part::PerSkyPart;
use crate::path::stages::Stages;
use crate::scenario::check::Checked;
use crate::scenario::document::Scenario;
use crate::scenario::exposure::Exposure;
use crate::scenario::goal::{PartFactor, TargetPart};
use crate::signal::aim::{Aim, CleanParts, clean_arcsec, part_scales};
use crate::signal::channel::{COPIES_UP_TO, ChannelModel};
use crate::signal::instrument::{Instrument, leading};
use crate::signal::rig::Rig;
use crate::signal::stack::{MOST_CLOCK_S, subs_in, time_to_goal_s};

/// A scenario with its electrons counted.
#[derive(Clone, Debug)]
pub struct Model {
    /// Target and sky.
    pub scene: Scene,
    /// V brightness of each part of the sky towards the target, mag/arcsec^2.
    pub sky_mags: PerSkyPart<Option<f64>>,
    /// The light paths in the scenario's order.
    pub paths: Vec<LightPath>,
}

/// One light path.
#[derive(Clone, Debug)]
pub struct LightPath {
    /// What turns its rates into noise and clock time.
    pub instrument: Instrument,
    /// The exposures in order.
    pub exposures: Vec<ExposureModel>,
    /// Its time on the clock, s.
    pub clock_s: f64,
    /// What is wanted of each quantity.
    pub aims: PerQuantity<Aim>,
    /// How much brighter than the mean each part of the target is, from the core outwards, for each
    /// quantity.
    pub parts: PerQuantity<[PartFactor; 3]>,
    /// The quantities that the scenario wants.
    pub wants: PerQuantity<bool>,
}

/// One exposure.
#[derive(Clone, Debug)]
pub struct ExposureModel {
    /// What turns its rates into noise: the path's, with its own binning.
    pub instrument: Instrument,
    /// Length of a sub, s.
    pub sub_s: f64,
    /// Share of the clock.
    pub share: f64,
    /// Integral of the filter's transmission, nm.
    pub equivalent_width_nm: f64,
    /// The channels.
    pub channels: Vec<ChannelModel>,
    /// Rates of each channel without the filter.
    pub open: Vec<Rates>,
    /// Light left after each stage.
    pub stages: PerQuantity<Option<Stages>>,
    /// What the filter passes of each line; empty for no filter.
    pub transmissions: BTreeMap<Quantity, LineTransmission>,
}

impl ExposureModel {
    /// The channel that carries most of the signal of a quantity.
    pub fn leading(&self, q: Quantity) -> &ChannelModel {
        leading(&self.channels, q).unwrap_or_else(|| unreachable!("an exposure has a channel"))
    }

    /// The channel that decides the sub: the one with the most target light for its noise.
    pub fn deciding(&self) -> &ChannelModel {
        let worth = |c: &ChannelModel| {
            let r = c.nominal();
            let signal = Quantity::ALL
                .into_iter()
                .filter(|q| c.records[*q])
                .map(|q| r.of(q))
                .fold(0.0, f64::max);
            signal * c.pixels.sqrt() / r.total().sqrt().max(1e-12)
        };
        self.channels
            .iter()
            .max_by(|a, b| worth(a).total_cmp(&worth(b)))
            .unwrap_or_else(|| unreachable!("an exposure has a channel"))
    }

    /// (Signal to noise)^2 of a quantity after `subs` subs of `sub_s`: see [`Instrument::snr2`].
    pub fn snr2(&self, q: Quantity, sub_s: f64, subs: f64, scales: &Scales, centre: f64) -> f64 {
        self.instrument.snr2(&self.channels, q, sub_s, subs, scales, centre)
    }

    /// Whether it is through a filter wide enough for stars, galaxies and dust in their own light.
    pub fn is_broad(&self) -> bool {
        self.equivalent_width_nm > BROAD_NM
    }

    /// Whether any channel records the quantity.
    pub fn records(&self, q: Quantity) -> bool {
        self.channels.iter().any(|c| c.records[q])
    }
}

impl Model {
    /// Counts the electrons of a checked scenario, filters as their boxes say.
    pub fn nominal(scenario: &Checked, tables: &Tables) -> Self {
        Self::built(scenario, tables, false)
    }

    /// The same with copies of each filter whose bands are off, where the scenario wants them
    /// drawn.
    pub fn new(scenario: &Checked, tables: &Tables) -> Self {
        Self::built(scenario, tables, scenario.scenario().choices.uncertainty.filter_centre)
    }

    fn built(scenario: &Checked, tables: &Tables, copies: bool) -> Self {
        let s = scenario.scenario();
        let scene = Scene::new(s, tables);
        let sky_mags = scene.sky.each().map(|part| tables.v_mag(part));
        let mut cache = FilterCache::new();
        let paths = s.contenders.iter().map(|c| {
            let rig = Rig::new(s, &scene, c);
            let exposures =
                c.exposures.iter().map(|e| exposure(s, &rig, e, copies, &mut cache)).collect();
            LightPath {
                instrument: rig.instrument,
                exposures,
                clock_s: s.clock_s(c),
                aims: PerQuantity(Quantity::JUDGED).map(|q| Aim::new(s, q)),
                parts: PerQuantity(Quantity::JUDGED)
                    .map(|q| TargetPart::ALL.map(|part| s.target.part_factor(part, q))),
                wants: PerQuantity(Quantity::JUDGED).map(|q| s.wants(q)),
            }
        });
        let paths = paths.collect();
        Self { scene, sky_mags, paths }
    }
}

/// Copies on either side of the nominal filter: a narrow band slides off its line within one of
/// them, the edge of a wide one is broader than the step.
fn copies_a_side(equivalent_width_nm: f64) -> i32 {
    if equivalent_width_nm < BROAD_NM { 6 } else { 2 }
}

fn exposure<'a>(
    s: &Scenario,
    rig: &Rig<'a>,
    e: &'a Exposure,
    copies: bool,
    cache: &mut FilterCache<'a>,
) -> ExposureModel {
    let (c, sky) = (rig.contender(), rig.sky());
    let open = rig.channel_rates(cache.get(None, c, sky)).collect();
    let response = cache.get(e.filter.as_ref(), c, sky);
    let equivalent_width_nm = response.equivalent_width_nm();
    let mut channels = rig.channels_behind(response);
    let stages = rig.stages(response);
    if let Some(f) = e.filter.as_ref().filter(|_| copies) {
        let sigma_nm = copy_sigma_nm(f, &c.optics);
        if sigma_nm > 0.0 {
            let side = copies_a_side(equivalent_width_nm);
            let mut all: Vec<Vec<Rates>> = channels.iter().map(|_| Vec::new()).collect();
            for step in -side..=side {
                let off_nm = COPIES_UP_TO * f64::from(step) / f64::from(side) * sigma_nm;
                let off = rig.response(Some(f), &c.optics, off_nm);
                all.iter_mut().zip(rig.channel_rates(&off)).for_each(|(own, r)| own.push(r));
            }
            channels.iter_mut().zip(all).for_each(|(channel, own)| channel.copies = own);
        }
    }
    ExposureModel {
        instrument: rig.instrument.binned(c, e),
        sub_s: e.sub_s,
        share: e.share,
        equivalent_width_nm,
        channels,
        open,
        stages,
        transmissions: e
            .filter
            .as_ref()
            .map(|f| line_transmissions(f, &c.optics, c.corner_tilt(), &s.target.lines_rayleigh))
            .unwrap_or_default(),
    }
}

impl LightPath {
    /// Whether any channel records the quantity.
    pub fn records(&self, q: Quantity) -> bool {
        self.exposures.iter().any(|e| e.records(q))
    }

    /// Whether any of its exposures is through a broad filter.
    pub fn is_broad(&self) -> bool {
        self.exposures.iter().any(ExposureModel::is_broad)
    }

    /// The shares of the scenario.
    pub fn shares(&self) -> Vec<f64> {
        self.exposures.iter().map(|e| e.share).collect()
    }

    /// Signal to noise of a quantity after `clock_s` on the clock in whole subs, as the scenario
    /// stands.
    pub fn snr_of_whole_subs(&self, q: Quantity, clock_s: f64) -> f64 {
        let subs =
            |e: &ExposureModel| subs_in(clock_s * e.share, e.sub_s, self.instrument.between_s);
        self.exposures
            .iter()
            .map(|e| e.snr2(q, e.sub_s, subs(e), &Scales::ONE, 0.0))
            .sum::<f64>()
            .sqrt()
    }

    /// Signal to noise of a quantity after `clock_s` on the clock split as `shares`, broken subs
    /// counted.
    pub fn snr(
        &self,
        q: Quantity,
        clock_s: f64,
        shares: &[f64],
        scales: &Scales,
        centres: &[f64],
    ) -> f64 {
        let between = self.instrument.between_s * scales.overhead;
        let one = |(i, e): (usize, &ExposureModel)| {
            let subs = clock_s * shares[i] / (e.sub_s + between);
            e.snr2(q, e.sub_s, subs, scales, centres.get(i).copied().unwrap_or(0.0))
        };
        self.exposures.iter().enumerate().map(one).sum::<f64>().sqrt()
    }

    /// The channel in which a quantity stands best against its noise, with its exposure and that
    /// exposure's index; `None` where it is not recorded.
    pub fn best_channel(&self, q: Quantity) -> Option<(usize, &ExposureModel, &ChannelModel)> {
        let seen = self
            .exposures
            .iter()
            .enumerate()
            .flat_map(|(at, e)| e.channels.iter().map(move |c| (at, e, c)));
        let worth = |(_, e, c): &(usize, &ExposureModel, &ChannelModel)| {
            let subs = 3600.0 * e.share / (e.sub_s + self.instrument.between_s);
            e.instrument.channel_snr2(c.nominal(), q, c.pixels, e.sub_s, subs)
        };
        seen.filter(|(.., c)| c.records[q]).max_by(|a, b| worth(a).total_cmp(&worth(b)))
    }

    /// Target over sky of a quantity in the channel that sees it best; `None` where no sky shines
    /// or it is not recorded.
    pub fn contrast(&self, q: Quantity, scales: &Scales, centres: &[f64]) -> Option<f64> {
        let best = self.best_channel(q)?;
        let r = best.2.rates(scales, centres.get(best.0).copied().unwrap_or(0.0));
        (r.background() > 0.0).then(|| r.of(q) / r.background())
    }

    /// Clock time to the goal for a quantity, s; `None` where it is not recorded or the goal is out
    /// of reach. With dithered frames the square of the signal to noise grows with time, so the
    /// answer is goal^2 over what one second gives.
    pub fn time_s(
        &self,
        q: Quantity,
        shares: &[f64],
        scales: &Scales,
        centres: &[f64],
    ) -> Option<f64> {
        if !self.records(q) {
            return None;
        }
        let aim = &self.aims[q];
        let snr = |t: f64| self.snr_of_goal(aim, t, shares, scales, centres);
        if self.instrument.calibration.dithered || aim.goal.star_v_mag.is_some() {
            let per_s = snr(1.0).powi(2);
            return (per_s > 0.0).then(|| aim.snr * aim.snr / per_s).filter(|t| *t <= MOST_CLOCK_S);
        }
        time_to_goal_s(aim.snr, snr)
    }

    /// Signal to noise that counts for a goal after `clock_s` split as `shares`: of the part that
    /// it names on the model's square, or of a star.
    pub fn snr_of_goal(
        &self,
        aim: &Aim,
        clock_s: f64,
        shares: &[f64],
        scales: &Scales,
        centres: &[f64],
    ) -> f64 {
        let Some(v_mag) = aim.goal.star_v_mag else {
            return self.snr(aim.goal.quantity, clock_s, shares, &aim.scales(scales), centres);
        };
        let between = self.instrument.between_s * scales.overhead;
        let one = |(i, e): (usize, &ExposureModel)| {
            let subs = clock_s * shares[i] / (e.sub_s + between);
            let centre = centres.get(i).copied().unwrap_or(0.0);
            e.instrument.star_snr2(&e.channels, v_mag, e.sub_s, subs, scales, centre)
        };
        self.exposures.iter().enumerate().map(one).sum::<f64>().sqrt()
    }

    /// The signal to noise of the mean, on the model's square, when the goal for a quantity is met.
    /// Whoever counts the squares of the mean's signal to noise night by night counts towards this.
    pub fn mean_snr_at_goal(&self, q: Quantity) -> f64 {
        let (aim, shares) = (&self.aims[q], self.shares());
        if aim.part.of(q) == 1.0 && aim.goal.star_v_mag.is_none() {
            return aim.snr;
        }
        let mean = self.snr(q, 3600.0, &shares, &Scales::ONE, &[]);
        let part = self.snr_of_goal(aim, 3600.0, &shares, &Scales::ONE, &[]);
        if part > 0.0 { aim.snr * mean / part } else { aim.snr }
    }

    /// The part that the goal for a quantity names, against the mean.
    pub fn goal_part(&self, q: Quantity) -> PartFactor {
        self.aims[q].part
    }

    /// V magnitude of the faintest star that meets the goal's signal to noise after the path's own
    /// clock, where the goal for a quantity is one of stars; found by halving.
    pub fn stars_to_v_mag(&self, q: Quantity) -> Option<f64> {
        let mut aim = self.aims[q];
        aim.goal.star_v_mag?;
        let shares = self.shares();
        let mut reaches = |v_mag: f64| {
            aim.goal.star_v_mag = Some(v_mag);
            self.snr_of_goal(&aim, self.clock_s, &shares, &Scales::ONE, &[]) >= aim.snr
        };
        let (mut lo, mut hi) = (-5.0, 35.0);
        if !reaches(lo) {
            return None;
        }
        for _ in 0..40 {
            let mid = (lo + hi) / 2.0;
            if reaches(mid) { lo = mid } else { hi = mid }
        }
        Some(lo)
    }

    /// The finest detail of the exposures that record a quantity, arcsec.
    pub fn finest_arcsec(&self, q: Quantity) -> f64 {
        let own = self.exposures.iter().filter(|e| e.records(q));
        own.map(|e| e.instrument.finest_arcsec())
            .min_by(f64::total_cmp)
            .unwrap_or_else(|| self.instrument.finest_arcsec())
    }

    /// The smallest square on which a part that is so much brighter than the mean comes clean in a
    /// quantity after `clock_s` split as `shares`, arcsec; `None` where nothing is gathered.
    pub fn clean_arcsec(
        &self,
        q: Quantity,
        part: PartFactor,
        (clock_s, shares): (f64, &[f64]),
        scales: &Scales,
        centres: &[f64],
    ) -> Option<f64> {
        let snr = self.snr(q, clock_s, shares, &part_scales(part, scales), centres);
        clean_arcsec(snr, self.instrument.square_arcsec, self.finest_arcsec(q))
    }

    /// The same of each part with the path's own clock.
    pub fn clean_parts(&self, q: Quantity) -> CleanParts {
        let shares = self.shares();
        let [core_arcsec, body_arcsec, outskirts_arcsec] = self.parts[q]
            .map(|part| self.clean_arcsec(q, part, (self.clock_s, &shares), &Scales::ONE, &[]));
        CleanParts { core_arcsec, body_arcsec, outskirts_arcsec }
    }
}

#[cfg(test)]
#[path = "model_tests.rs"]
mod tests;
