//! A contender reduced to electron rates that scale: brighter sky, fainter target, another gain, a copy of the filter whose
//! centre is off. Every decision is a question to this model; no spectrum is integrated again.

use crate::light::lines::Quantity;
use crate::path::rates::Rates;
use crate::path::scales::Scales;
use crate::path::sensor::GainPoint;
use crate::scenario::document::Scenario;
use crate::scenario::exposure::Calibration;
use crate::scenario::rig::Contender;
use crate::signal::prepare::{Prepared, PreparedContender};
use crate::signal::rig::Rig;
use crate::signal::stack::{StackTerms, time_to_goal_s};
use crate::signal::sub::SubTerms;

/// One channel of one exposure.
#[derive(Clone, Debug)]
pub struct ChannelModel {
    /// `mono`, `r`, `g` or `b`.
    pub name: &'static str,
    /// Pixels on the square of detail; may be below one.
    pub pixels: f64,
    /// Rates with the filter's centre low by its tolerance, nominal, and high by it.
    rates: [Rates; 3],
    /// Quantities that the channel records.
    pub records: [bool; 5],
}

impl ChannelModel {
    /// The rates as the scenario says.
    pub fn nominal(&self) -> &Rates {
        &self.rates[1]
    }

    /// Rates under `scales` for a copy of the filter whose centre is off by `centre` tolerances, -1 to 1: a parabola through
    /// the three that were computed.
    pub fn rates(&self, scales: &Scales, centre: f64) -> Rates {
        let [low, mid, high] = &self.rates;
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
}

impl ExposureModel {
    /// The channel that carries most of the signal of a quantity.
    pub fn leading(&self, q: Quantity) -> &ChannelModel {
        let worth = |c: &ChannelModel| c.pixels.sqrt() * c.nominal().of(q);
        self.channels.iter().max_by(|a, b| worth(a).total_cmp(&worth(b))).unwrap_or_else(|| unreachable!("an exposure has a channel"))
    }

    /// The channel that decides the sub: the one with the most target light for its noise.
    pub fn deciding(&self) -> &ChannelModel {
        let worth = |c: &ChannelModel| {
            let r = c.nominal();
            let signal = Quantity::ALL.into_iter().filter(|q| c.records[*q as usize]).map(|q| r.of(q)).fold(0.0, f64::max);
            signal * c.pixels.sqrt() / r.total().sqrt().max(1e-12)
        };
        self.channels.iter().max_by(|a, b| worth(a).total_cmp(&worth(b))).unwrap_or_else(|| unreachable!("an exposure has a channel"))
    }
}

/// One light path.
#[derive(Clone, Debug)]
pub struct PathModel {
    /// The exposures in order.
    pub exposures: Vec<ExposureModel>,
    /// The camera at its gain.
    pub gain: GainPoint,
    /// Overhead and readout after each sub, s.
    pub between_s: f64,
    /// Subs spoilt per hour.
    pub loss_per_hour: f64,
    /// The mount's limit, s.
    pub longest_s: Option<f64>,
    /// Calibration frames.
    pub calibration: Calibration,
    /// Pixel scale, arcsec.
    pub scale_arcsec: f64,
}

impl PathModel {
    /// Reduces one contender. `with_copies` computes filters whose centre is off, too.
    pub fn new(scenario: &Scenario, prepared: &Prepared, path: &PreparedContender, contender: &Contender, with_copies: bool) -> Self {
        let rig = with_copies.then(|| Rig::new(scenario, &prepared.scene, contender));
        let exposures = contender.exposures.iter().zip(&path.exposures).map(|(e, p)| {
            let copies = match (&rig, &e.filter) {
                (Some(rig), Some(f)) if f.centre_tolerance_nm > 0.0 && p.equivalent_width_nm < 60.0 => {
                    let off = |by: f64| rig.behind(Some(f), &contender.optics, by * f.centre_tolerance_nm).channels;
                    Some((off(-1.0), off(1.0)))
                }
                _ => None,
            };
            let channels = p.channels.iter().enumerate().map(|(i, c)| {
                let (low, high) = copies.as_ref().map_or((c.rates, c.rates), |(l, h)| (l[i].2, h[i].2));
                ChannelModel { name: c.name, pixels: c.stack.pixels, rates: [low, c.rates, high], records: c.records }
            });
            ExposureModel { sub_s: e.sub_s, share: e.share, equivalent_width_nm: p.equivalent_width_nm, channels: channels.collect() }
        });
        Self {
            exposures: exposures.collect(),
            gain: path.gain,
            between_s: contender.overhead_s_per_sub + contender.sensor.readout_s,
            loss_per_hour: contender.loss_per_hour,
            longest_s: contender.optics.longest_sub_s,
            calibration: scenario.calibration,
            scale_arcsec: path.scale_arcsec,
        }
    }

    /// Whether any channel records the quantity.
    pub fn records(&self, q: Quantity) -> bool {
        self.exposures.iter().flat_map(|e| &e.channels).any(|c| c.records[q as usize])
    }

    /// What decides the sub of a channel at a gain.
    pub fn sub_terms(&self, rates: &Rates, gain: &GainPoint) -> SubTerms {
        SubTerms {
            total_e_per_s: rates.total(),
            background_e_per_s: rates.background(),
            dark_e_per_s: rates.dark,
            read_noise_e: gain.read_noise_e,
            overhead_s: self.between_s,
            loss_per_hour: self.loss_per_hour,
            longest_s: self.longest_s,
        }
    }

    /// Signal to noise of a quantity in one exposure after `subs` subs of `sub_s`, channels combined with inverse-variance
    /// weights: the squares add.
    pub fn exposure_snr2(&self, e: &ExposureModel, q: Quantity, sub_s: f64, subs: f64, scales: &Scales, centre: f64) -> f64 {
        let one = |c: &ChannelModel| {
            if !c.records[q as usize] {
                return 0.0;
            }
            let r = c.rates(scales, centre);
            let read = self.gain.read_noise_e * scales.read_noise;
            StackTerms::new(&r, sub_s, read, c.pixels, self.calibration).snr(r.of(q) * sub_s, subs).powi(2)
        };
        e.channels.iter().map(one).sum()
    }

    /// Signal to noise of a quantity after `clock_s` on the clock split as `shares`, broken subs counted.
    pub fn snr(&self, q: Quantity, clock_s: f64, shares: &[f64], scales: &Scales, centres: &[f64]) -> f64 {
        let between = self.between_s * scales.overhead;
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
            let (r, subs) = (c.nominal(), 3600.0 * e.share / (e.sub_s + self.between_s));
            StackTerms::new(r, e.sub_s, self.gain.read_noise_e, c.pixels, self.calibration).snr(r.of(q) * e.sub_s, subs)
        };
        let best = seen.filter(|(.., c)| c.records[q as usize]).max_by(|a, b| worth(a).total_cmp(&worth(b)))?;
        let r = best.2.rates(scales, centres.get(best.0).copied().unwrap_or(0.0));
        (r.background() > 0.0).then(|| r.of(q) / r.background())
    }

    /// The shares of the scenario.
    pub fn shares(&self) -> Vec<f64> {
        self.exposures.iter().map(|e| e.share).collect()
    }

    /// Clock time to a goal, s; `None` where the quantity is not recorded or the goal is out of reach. With dithered frames
    /// the square of the signal to noise grows with time, so the answer is goal^2 over what one second gives.
    pub fn time_s(&self, q: Quantity, goal: f64, shares: &[f64], scales: &Scales, centres: &[f64]) -> Option<f64> {
        if !self.records(q) {
            return None;
        }
        if self.calibration.dithered {
            let per_s = self.snr(q, 1.0, shares, scales, centres).powi(2);
            return (per_s > 0.0).then(|| goal * goal / per_s).filter(|t| *t <= 3.6e10);
        }
        time_to_goal_s(goal, |t| self.snr(q, t, shares, scales, centres))
    }
}

/// The models of all paths, copies of filters included.
pub fn models(s: &Scenario, prepared: &Prepared) -> Vec<PathModel> {
    let centre = s.choices.uncertainty.filter_centre;
    s.contenders.iter().zip(&prepared.contenders).map(|(c, p)| PathModel::new(s, prepared, p, c, centre)).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::common::{bands, evaluate, ic_443, tables, through};

    /// The reduced path of the demo's fast colour rig behind one narrow band, with its scenario.
    fn narrow(width_nm: f64) -> (Scenario, PathModel) {
        let mut s = ic_443();
        let mut f = bands("Ha", width_nm, &[656.3]);
        f.centre_tolerance_nm = 1.0;
        s.contenders = vec![through(&s.contenders[2], vec![Some(f)], 120.0)];
        let model = of(&s);
        (s, model)
    }

    fn of(s: &Scenario) -> PathModel {
        let prepared = Prepared::new(&s.clone().check().unwrap(), &tables());
        PathModel::new(s, &prepared, &prepared.contenders[0], &s.contenders[0], true)
    }

    fn red(model: &PathModel) -> &ChannelModel {
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
        assert_eq!(s.sky, [0.5 * r.sky[0], 3.0 * r.sky[1], 0.5 * r.sky[2], 0.5 * r.sky[3]]);
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
            let prepared = Prepared::new(&checked, &tables());
            for (model, told) in models(&s, &prepared).iter().zip(&answer.contenders) {
                for (q, a) in crate::decide::differences::named(told) {
                    let ours = model.contrast(q, &Scales::ONE, &[]);
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
        let time = |m: &PathModel| m.time_s(Quantity::Ha, 20.0, &m.shares(), &Scales::ONE, &[]);
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
