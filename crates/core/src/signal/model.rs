//! The one signal-to-noise model of a light path. It is made once per question: the electrons of every channel of every exposure, and
//! the [`Instrument`] that turns them into noise and time. Whatever is asked afterwards (another clock, another split, a darker sky, a
//! copy of the filter that is off) scales those rates; no spectrum is integrated again.

use std::collections::BTreeMap;

use crate::light::lines::{PerQuantity, Quantity};
use crate::light::tables::Tables;
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
use crate::signal::channel::ChannelModel;
use crate::signal::instrument::{Instrument, leading};
use crate::signal::rig::Rig;
use crate::signal::stack::{MOST_CLOCK_S, subs_in, time_to_goal_s};

/// A filter wider than this is the same in all its copies: its edges lie far from any line that it is meant for, nm.
const COPIES_BELOW_NM: f64 = 60.0;

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
}

/// One exposure.
#[derive(Clone, Debug)]
pub struct ExposureModel {
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
            let signal = Quantity::ALL.into_iter().filter(|q| c.records[*q]).map(|q| r.of(q)).fold(0.0, f64::max);
            signal * c.pixels.sqrt() / r.total().sqrt().max(1e-12)
        };
        self.channels.iter().max_by(|a, b| worth(a).total_cmp(&worth(b))).unwrap_or_else(|| unreachable!("an exposure has a channel"))
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

    /// The same with the copies of each filter whose centre is off by its tolerance, where the scenario wants them drawn.
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
            let exposures = c.exposures.iter().map(|e| exposure(s, &rig, e, copies, &mut cache)).collect();
            LightPath { instrument: rig.instrument, exposures }
        });
        let paths = paths.collect();
        Self { scene, sky_mags, paths }
    }
}

fn exposure<'a>(s: &Scenario, rig: &Rig<'a>, e: &'a Exposure, copies: bool, cache: &mut FilterCache<'a>) -> ExposureModel {
    let (c, sky) = (rig.contender(), rig.sky());
    let open = rig.channel_rates(cache.get(None, c, sky)).collect();
    let response = cache.get(e.filter.as_ref(), c, sky);
    let equivalent_width_nm = response.equivalent_width_nm();
    let mut channels = rig.channels_behind(response);
    let stages = rig.stages(response);
    if let Some(f) = e.filter.as_ref().filter(|f| copies && f.centre_tolerance_nm > 0.0 && equivalent_width_nm < COPIES_BELOW_NM) {
        for (at, side) in [(0, -1.0), (2, 1.0)] {
            let off = rig.response(Some(f), &c.optics, side * f.centre_tolerance_nm);
            channels.iter_mut().zip(rig.channel_rates(&off)).for_each(|(channel, rates)| channel.copies[at] = rates);
        }
    }
    ExposureModel {
        sub_s: e.sub_s,
        share: e.share,
        equivalent_width_nm,
        channels,
        open,
        stages,
        transmissions: e.filter.as_ref().map(|f| line_transmissions(f, &c.optics, &s.target.lines_rayleigh)).unwrap_or_default(),
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

    /// (Signal to noise)^2 of a quantity in one exposure after `subs` subs of `sub_s`: see [`Instrument::snr2`].
    pub fn exposure_snr2(&self, e: &ExposureModel, q: Quantity, sub_s: f64, subs: f64, scales: &Scales, centre: f64) -> f64 {
        self.instrument.snr2(&e.channels, q, sub_s, subs, scales, centre)
    }

    /// Signal to noise of a quantity after `clock_s` on the clock in whole subs, as the scenario stands.
    pub fn snr_of_whole_subs(&self, q: Quantity, clock_s: f64) -> f64 {
        let subs = |e: &ExposureModel| subs_in(clock_s * e.share, e.sub_s, self.instrument.between_s);
        self.exposures.iter().map(|e| self.exposure_snr2(e, q, e.sub_s, subs(e), &Scales::ONE, 0.0)).sum::<f64>().sqrt()
    }

    /// Signal to noise of a quantity after `clock_s` on the clock split as `shares`, broken subs counted.
    pub fn snr(&self, q: Quantity, clock_s: f64, shares: &[f64], scales: &Scales, centres: &[f64]) -> f64 {
        let between = self.instrument.between_s * scales.overhead;
        let one = |(i, e): (usize, &ExposureModel)| {
            let subs = clock_s * shares[i] / (e.sub_s + between);
            self.exposure_snr2(e, q, e.sub_s, subs, scales, centres.get(i).copied().unwrap_or(0.0))
        };
        self.exposures.iter().enumerate().map(one).sum::<f64>().sqrt()
    }

    /// Target over sky of a quantity in the channel that sees it best; `None` where no sky shines or it is not recorded.
    pub fn contrast(&self, q: Quantity, scales: &Scales, centres: &[f64]) -> Option<f64> {
        let seen = self.exposures.iter().enumerate().flat_map(|(at, e)| e.channels.iter().map(move |c| (at, e, c)));
        let worth = |(_, e, c): &(usize, &ExposureModel, &ChannelModel)| {
            let subs = 3600.0 * e.share / (e.sub_s + self.instrument.between_s);
            self.instrument.channel_snr2(c.nominal(), q, c.pixels, e.sub_s, subs)
        };
        let best = seen.filter(|(.., c)| c.records[q]).max_by(|a, b| worth(a).total_cmp(&worth(b)))?;
        let r = best.2.rates(scales, centres.get(best.0).copied().unwrap_or(0.0));
        (r.background() > 0.0).then(|| r.of(q) / r.background())
    }

    /// Clock time to a goal, s; `None` where the quantity is not recorded or the goal is out of reach. With dithered frames
    /// the square of the signal to noise grows with time, so the answer is goal^2 over what one second gives.
    pub fn time_s(&self, q: Quantity, goal: f64, shares: &[f64], scales: &Scales, centres: &[f64]) -> Option<f64> {
        if !self.records(q) {
            return None;
        }
        if self.instrument.calibration.dithered {
            let per_s = self.snr(q, 1.0, shares, scales, centres).powi(2);
            return (per_s > 0.0).then(|| goal * goal / per_s).filter(|t| *t <= MOST_CLOCK_S);
        }
        time_to_goal_s(goal, |t| self.snr(q, t, shares, scales, centres))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::common::{bands, evaluate, ic_443, tables, through};

    /// The reduced path of the demo's fast colour rig behind one narrow band, with its scenario.
    fn narrow(width_nm: f64) -> (Scenario, LightPath) {
        let mut s = ic_443();
        let mut f = bands("Ha", width_nm, &[656.3]);
        f.centre_tolerance_nm = 1.0;
        s.contenders = vec![through(&s.contenders[2], vec![Some(f)], 120.0)];
        let model = of(&s);
        (s, model)
    }

    fn of(s: &Scenario) -> LightPath {
        Model::new(&s.clone().check().unwrap(), &tables()).paths.remove(0)
    }

    fn red(model: &LightPath) -> &ChannelModel {
        model.exposures[0].channels.iter().find(|c| c.name == "r").unwrap()
    }

    #[test]
    fn a_copy_at_the_end_of_its_tolerance_is_the_filter_moved_there() {
        let (s, model) = narrow(5.0);
        for end in [-1.0, 1.0] {
            let mut moved = s.clone();
            let band = &mut moved.contenders[0].exposures[0].filter.as_mut().unwrap().bands.as_mut().unwrap()[0];
            band.centre_nm += end;
            let there = of(&moved);
            let (a, b) = (red(&model).rates(&Scales::ONE, end), *red(&there).nominal());
            assert!((a.of(Quantity::Ha) / b.of(Quantity::Ha) - 1.0).abs() < 1e-9, "{end}");
            assert!((a.background() / b.background() - 1.0).abs() < 1e-9, "{end}");
        }
        assert_eq!(red(&model).rates(&Scales::ONE, 0.0), *red(&model).nominal());
        let (blue, nominal) = (red(&model).rates(&Scales::ONE, -1.0), red(&model).nominal());
        assert!(blue.of(Quantity::Ha) < nominal.of(Quantity::Ha), "in a fast cone a blue copy loses the line");
    }

    #[test]
    fn a_wide_filter_has_no_copies() {
        let (_, model) = narrow(90.0);
        assert_eq!(red(&model).rates(&Scales::ONE, -1.0), *red(&model).nominal());
    }

    #[test]
    fn scales_act_one_after_another_and_on_their_own_part() {
        let (_, model) = narrow(5.0);
        let r = *red(&model).nominal();
        let twice = Scales { target: 2.0, artificial: 3.0, rest_of_sky: 0.5, dark: 4.0, ..Scales::ONE };
        let s = r.scaled(&twice);
        assert_eq!((s.of(Quantity::Ha), s.dark), (2.0 * r.of(Quantity::Ha), 4.0 * r.dark));
        let [natural, lamps, moon, twilight] = r.sky.0;
        assert_eq!(s.sky.0, [0.5 * natural, 3.0 * lamps, 0.5 * moon, 0.5 * twilight]);
        assert_eq!(twice.times(&twice).artificial, 9.0);
        assert_eq!(Scales::ONE.times(&twice), twice);
        let darker = Scales::darker_sky(2.5);
        assert!((darker.artificial - 0.1).abs() < 1e-12 && darker.target == 1.0);
    }

    #[test]
    fn signal_and_time_are_those_of_an_evaluation() {
        let (s, model) = narrow(7.0);
        let answer = evaluate(&s).contenders[0].quantities[&Quantity::Ha];
        let shares = model.shares();
        // The model counts broken subs, the evaluation whole ones.
        let snr = model.snr(Quantity::Ha, s.total_s, &shares, &Scales::ONE, &[]);
        assert!((snr / answer.snr - 1.0).abs() < 0.01, "{snr} {}", answer.snr);
        let t = model.time_s(Quantity::Ha, 20.0, &shares, &Scales::ONE, &[]).unwrap();
        assert!((model.snr(Quantity::Ha, t, &shares, &Scales::ONE, &[]) - 20.0).abs() < 1e-6);
        assert_eq!(model.time_s(Quantity::Oiii, 20.0, &shares, &Scales::ONE, &[]), None, "no [O III] behind H-alpha");
        let contrast = model.contrast(Quantity::Ha, &Scales::ONE, &[]).unwrap();
        assert!((contrast / answer.contrast.unwrap() - 1.0).abs() < 1e-9);
        let fainter = model.contrast(Quantity::Ha, &Scales { target: 0.5, ..Scales::ONE }, &[]).unwrap();
        assert!((fainter / contrast - 0.5).abs() < 1e-9);
    }

    /// Contrast is that of the channel with the most signal to noise, as an evaluation finds it, for every path and quantity.
    #[test]
    fn contrast_is_that_of_an_evaluation() {
        for name in ["larch-lane-ic-443", "larch-lane-ngc-7822", "heron-lake-ngc-2403", "heron-lake-ngc-7129"] {
            let s = crate::common::read(name);
            let answer = evaluate(&s);
            let checked = s.clone().check().unwrap();
            for (path, told) in Model::new(&checked, &tables()).paths.iter().zip(&answer.contenders) {
                for (&q, a) in &told.quantities {
                    let ours = path.contrast(q, &Scales::ONE, &[]);
                    let same = ours.zip(a.contrast).is_some_and(|(x, y)| (x / y - 1.0).abs() < 1e-9);
                    assert!(same, "{name}, {}, {q:?}: {ours:?} {:?}", told.name, a.contrast);
                }
            }
        }
    }

    #[test]
    fn undithered_calibration_takes_longer_and_is_solved_by_halving() {
        let (s, model) = narrow(7.0);
        let mut still = s.clone();
        still.calibration.dithered = false;
        let still = of(&still);
        let time = |m: &LightPath| m.time_s(Quantity::Ha, 20.0, &m.shares(), &Scales::ONE, &[]);
        let (a, b) = (time(&model).unwrap(), time(&still).unwrap());
        assert!(b > 1.02 * a, "{a} {b}");
        assert!((still.snr(Quantity::Ha, b, &still.shares(), &Scales::ONE, &[]) - 20.0).abs() < 1e-6);
    }

    #[test]
    fn the_leading_channel_of_a_line_is_the_one_that_sees_it() {
        let mut s = ic_443();
        s.contenders = vec![s.contenders[1].clone()];
        let model = of(&s);
        let e = &model.exposures[0];
        assert_eq!((e.leading(Quantity::Ha).name, e.leading(Quantity::Oiii).name), ("r", "g"));
        assert!(model.records(Quantity::Ha) && model.records(Quantity::Oiii));
        assert!(["r", "g"].contains(&e.deciding().name));
    }
}
