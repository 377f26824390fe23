//! What turns electron rates into noise and clock time: the camera at its gain, the time between
//! subs, calibration frames, and the square of detail on which signal to noise is judged. Every
//! question about a sub, a stack or a star is built here and nowhere else, whichever rates it is
//! asked about: those of the scenario, of another sky, of a filter that is only thought of, or of a
//! minute of a night.

use crate::light::lines::Quantity;
use crate::path::rates::Rates;
use crate::path::scales::Scales;
use crate::path::sensor::GainPoint;
use crate::path::sky::air::airmass;
use crate::scenario::document::Scenario;
use crate::scenario::exposure::{Calibration, Exposure};
use crate::scenario::rig::Contender;
use crate::signal::aim::Aim;
use crate::signal::channel::ChannelModel;
use crate::signal::stack::{StackTerms, kept};
use crate::signal::star::{StarTerms, seeing_fwhm_arcsec, star_peak_share};
use crate::signal::sub::{SubTerms, plateau};

/// A contender without its light: see the module.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Instrument {
    /// The camera at its gain.
    pub gain: GainPoint,
    /// Overhead and readout after each sub, with a sub's part of moving the field, s.
    pub between_s: f64,
    /// Subs taken at each place before the field is moved.
    pub per_place: f64,
    /// Pixels on a side that are put together. `gain` and all rates are those of a single pixel.
    pub binning: f64,
    /// Subs spoilt per hour.
    pub loss_per_hour: f64,
    /// The mount's limit, s.
    pub longest_s: Option<f64>,
    /// Calibration frames.
    pub calibration: Calibration,
    /// Pixel scale, arcsec.
    pub scale_arcsec: f64,
    /// Pixels of the sensor on the square of detail; may be below one.
    pub square_px: f64,
    /// Side of that square, arcsec.
    pub square_arcsec: f64,
    /// Full width at half maximum of a star at the target's height, arcsec.
    pub star_fwhm_arcsec: f64,
}

/// Information on one quantity: (signal to noise)^2 per second of clock, at a length of sub.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct InformationRate {
    /// Length of a sub, s.
    pub sub_s: f64,
    /// (Signal to noise)^2 per second of clock.
    pub per_s: f64,
}

impl InformationRate {
    /// Clock time to a signal to noise, s; `None` where there is no signal.
    pub fn time_to_s(&self, goal: f64) -> Option<f64> {
        (self.per_s > 0.0).then(|| goal * goal / self.per_s)
    }
}

impl Instrument {
    /// The instrument of a contender.
    pub fn new(scenario: &Scenario, contender: &Contender) -> Self {
        let scale_arcsec = contender.optics.pixel_scale_arcsec(contender.sensor.pixel_um);
        Self {
            gain: contender.sensor.at_gain(contender.gain),
            between_s: contender.between_s(),
            per_place: contender.dither.map_or(1.0, |d| f64::from(d.every)),
            binning: 1.0,
            loss_per_hour: contender.loss_per_hour,
            longest_s: contender.longest_sub_s(scenario),
            calibration: scenario.calibration,
            scale_arcsec,
            square_arcsec: scenario.detail_arcsec,
            square_px: (scenario.detail_arcsec / scale_arcsec).powi(2),
            star_fwhm_arcsec: seeing_fwhm_arcsec(
                scenario.seeing_fwhm_arcsec,
                airmass(scenario.sky.target_altitude_deg),
            ),
        }
    }

    /// The same for an exposure that puts pixels together.
    #[must_use]
    pub fn binned(mut self, contender: &Contender, exposure: &Exposure) -> Self {
        self.binning = f64::from(exposure.binning);
        self.gain = contender.sensor.at_gain_binned(contender.gain, exposure.binning);
        self
    }

    /// The same with frames that are dithered, so that the square of signal to noise grows with
    /// time alone.
    pub fn dithered(mut self) -> Self {
        self.calibration.dithered = true;
        self
    }

    /// The finest detail there is, arcsec: a star's image, or two pixels where those are larger.
    pub fn finest_arcsec(&self) -> f64 {
        self.star_fwhm_arcsec.max(2.0 * self.scale_arcsec * self.binning)
    }

    /// What decides the length of a sub at the instrument's gain.
    pub fn sub_terms(&self, rates: &Rates) -> SubTerms {
        self.sub_terms_at(rates, &self.gain)
    }

    /// What decides the length of a sub at another gain.
    pub fn sub_terms_at(&self, rates: &Rates, gain: &GainPoint) -> SubTerms {
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

    /// The noise of subs of `sub_s` over `pixels`.
    pub fn stack_terms(&self, rates: &Rates, sub_s: f64, pixels: f64) -> StackTerms {
        let terms = StackTerms::new(rates, sub_s, self.gain.read_noise_e, pixels, self.calibration);
        StackTerms { per_place: self.per_place, ..terms }
    }

    /// Of `subs` subs of `sub_s` that are taken, how many survive: see [`kept`].
    pub fn kept(&self, subs: f64, sub_s: f64) -> f64 {
        kept(subs, sub_s, self.loss_per_hour)
    }

    /// A star in `subs` subs of `sub_s` that are taken, in a channel that owns `pixel_share` of the
    /// pixels.
    pub fn star_terms(&self, rates: &Rates, pixel_share: f64, sub_s: f64, subs: f64) -> StarTerms {
        let n = self.binning;
        StarTerms {
            v0_e_per_s: rates.star_v0,
            background_e_per_s: (rates.background() + rates.dark) * n * n,
            read_noise_e: self.gain.read_noise_e * n,
            sub_s,
            subs: self.kept(subs, sub_s),
            fwhm_arcsec: self.star_fwhm_arcsec,
            scale_arcsec: self.scale_arcsec * n,
            pixel_share,
        }
    }

    /// Share of a star's light on the pixel that it is centred on; of a binned pixel, a single
    /// one's part.
    pub fn star_peak_share(&self) -> f64 {
        let n = self.binning;
        star_peak_share(self.star_fwhm_arcsec, self.scale_arcsec * n) / (n * n)
    }

    /// (Signal to noise)^2 of a quantity in one channel after `subs` subs of `sub_s` are taken, of
    /// which those count that are [`Self::kept`].
    pub fn channel_snr2(
        &self,
        rates: &Rates,
        q: Quantity,
        pixels: f64,
        sub_s: f64,
        subs: f64,
    ) -> f64 {
        let kept = self.kept(subs, sub_s);
        self.stack_terms(rates, sub_s, pixels).snr(rates.of(q) * sub_s, kept).powi(2)
    }

    /// (Signal to noise)^2 of a quantity after `subs` subs of `sub_s` under `scales`, through a
    /// copy of the filter whose centre is off by `centre` tolerances; channels that record it are
    /// combined with inverse-variance weights: the squares add.
    pub fn snr2(
        &self,
        channels: &[ChannelModel],
        q: Quantity,
        sub_s: f64,
        subs: f64,
        scales: &Scales,
        centre: f64,
    ) -> f64 {
        let noisier = Self {
            gain: GainPoint {
                read_noise_e: self.gain.read_noise_e * scales.read_noise,
                ..self.gain
            },
            ..*self
        };
        let recording = channels.iter().filter(|c| c.records[q]);
        recording
            .map(|c| noisier.channel_snr2(&c.rates(scales, centre), q, c.pixels, sub_s, subs))
            .fold(0.0, |a, b| a + b)
    }

    /// How fast a quantity gathers through a filter at a given sub. Calibration counts as dithered.
    /// A line that the filter barely passes counts for what it is, so that a sweep over filters is
    /// smooth: who asks says from where on it is recorded.
    pub fn information_rate_at(
        &self,
        channels: &[ChannelModel],
        q: Quantity,
        sub_s: f64,
        scales: &Scales,
    ) -> InformationRate {
        let dithered = self.dithered();
        let one_sub: f64 = channels
            .iter()
            .map(|c| dithered.channel_snr2(&c.rates(scales, 0.0), q, c.pixels, sub_s, 1.0))
            .sum();
        InformationRate { sub_s, per_s: one_sub / (sub_s + self.between_s) }
    }

    /// How fast a goal comes nearer through a filter at a given sub: as
    /// [`Self::information_rate_at`] for the part that it names, or for a star.
    pub fn goal_rate_at(
        &self,
        channels: &[ChannelModel],
        aim: &Aim,
        sub_s: f64,
        scales: &Scales,
    ) -> InformationRate {
        match aim.goal.star_v_mag {
            None => {
                self.information_rate_at(channels, aim.goal.quantity, sub_s, &aim.scales(scales))
            }
            Some(v_mag) => InformationRate {
                sub_s,
                per_s: self.star_snr2(channels, v_mag, sub_s, 1.0, scales, 0.0)
                    / (sub_s + self.between_s),
            },
        }
    }

    /// The same at the sub that is best for the channel that sees the quantity best.
    pub fn goal_rate(
        &self,
        channels: &[ChannelModel],
        aim: &Aim,
        scales: &Scales,
    ) -> InformationRate {
        let best = self.information_rate(channels, aim.goal.quantity, &aim.scales(scales));
        self.goal_rate_at(channels, aim, best.sub_s, scales)
    }

    /// (Signal to noise)^2 of a star after `subs` subs of `sub_s`, the channels combined.
    pub fn star_snr2(
        &self,
        channels: &[ChannelModel],
        v_mag: f64,
        sub_s: f64,
        subs: f64,
        scales: &Scales,
        centre: f64,
    ) -> f64 {
        let one = |c: &ChannelModel| {
            self.star_terms(&c.rates(scales, centre), c.pixel_share, sub_s, subs).snr(v_mag).powi(2)
        };
        channels.iter().map(one).sum()
    }

    /// How fast a quantity gathers at the sub that is best for the channel that sees it best.
    pub fn information_rate(
        &self,
        channels: &[ChannelModel],
        q: Quantity,
        scales: &Scales,
    ) -> InformationRate {
        let sub_s = leading(channels, q)
            .map_or(60.0, |c| plateau(&self.sub_terms(&c.rates(scales, 0.0))).best_s);
        self.information_rate_at(channels, q, sub_s, scales)
    }
}

/// The channel that carries most of the signal of a quantity.
pub fn leading(channels: &[ChannelModel], q: Quantity) -> Option<&ChannelModel> {
    let worth = |c: &ChannelModel| c.pixels.sqrt() * c.nominal().of(q);
    channels.iter().max_by(|a, b| worth(a).total_cmp(&worth(b)))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::common::{bands, colour_behind, evaluate, tables};
    use crate::path::scene::Scene;
    use crate::path::sky::part::SkyPart;
    use crate::signal::rig::Rig;

    #[test]
    fn an_information_rate_is_what_an_evaluation_gathers_per_second() {
        for filter in [None, Some(bands("dual", 7.0, &[656.3, 500.7]))] {
            let s = colour_behind(filter.clone(), 120.0);
            let scene = Scene::new(&s, &tables());
            let rig = Rig::new(&s, &scene, &s.contenders[0]);
            assert!(rig.is_colour());
            let answer = &evaluate(&s).contenders[0];
            let channels = rig.through_own_cone(filter.as_ref()).channels;
            for q in [Quantity::Ha, Quantity::Oiii] {
                let rate = rig.instrument.information_rate_at(&channels, q, 120.0, &Scales::ONE);
                let exposure = &answer.exposures[0];
                // Whole subs are counted there, and seconds of clock here.
                let clock_s = f64::from(exposure.subs) * (120.0 + rig.instrument.between_s);
                let snr = answer.quantities[&q].snr;
                assert!((rate.per_s * clock_s / (snr * snr) - 1.0).abs() < 1e-6, "{q:?}");
                let t = rate.time_to_s(20.0).unwrap();
                assert!((t * rate.per_s - 400.0).abs() < 1e-9);
            }
        }
    }

    /// Losses of one sub an hour, subs of half an hour: exp(-1/2) of them are left, and the square
    /// of the signal to noise falls with them in every result that a path gives.
    #[test]
    fn lost_subs_are_missing_in_every_result() {
        let mut s = colour_behind(Some(bands("Ha", 7.0, &[656.3])), 1800.0);
        s.contenders[0].loss_per_hour = 0.0;
        let none = evaluate(&s);
        s.contenders[0].loss_per_hour = 1.0;
        let some = evaluate(&s);
        let left = (-0.5f64).exp();
        let [a, b] = [&none, &some].map(|e| &e.contenders[0]);
        assert_eq!(a.exposures[0].subs, b.exposures[0].subs);
        assert!((b.exposures[0].subs_kept / f64::from(b.exposures[0].subs) - left).abs() < 1e-12);
        let (x, y) = (&a.quantities[&Quantity::Ha], &b.quantities[&Quantity::Ha]);
        assert!(((y.snr / x.snr).powi(2) / left - 1.0).abs() < 1e-9);
        let times = (x.time_to_goal_s.unwrap(), y.time_to_goal_s.unwrap());
        assert!((times.0 / times.1 / left - 1.0).abs() < 1e-6, "{times:?}");
        let star = |e: &crate::evaluate::answer::ContenderAnswer| {
            e.exposures[0].channels[0].limiting_star_v_mag.unwrap()
        };
        assert!(star(a) > star(b));
    }

    #[test]
    fn the_best_rate_is_no_slower_than_at_any_sub_of_the_leading_channel() {
        let filter = bands("Ha", 7.0, &[656.3]);
        let s = colour_behind(Some(filter.clone()), 120.0);
        let scene = Scene::new(&s, &tables());
        let rig = Rig::new(&s, &scene, &s.contenders[0]);
        let channels = rig.through_own_cone(Some(&filter)).channels;
        let best = rig.instrument.information_rate(&channels, Quantity::Ha, &Scales::ONE);
        // The loss rate falls out of it, so that the comparison holds only up to the plateau's five
        // per cent.
        for sub_s in [10.0, 60.0, 300.0, 600.0] {
            let other =
                rig.instrument.information_rate_at(&channels, Quantity::Ha, sub_s, &Scales::ONE);
            assert!(best.per_s >= 0.9 * other.per_s, "{sub_s}");
        }
        assert_eq!(InformationRate { sub_s: 60.0, per_s: 0.0 }.time_to_s(20.0), None);
    }

    #[test]
    fn a_line_that_is_not_recorded_counts_in_no_stack_but_in_a_sweep() {
        let filter = bands("Ha", 7.0, &[656.3]);
        let s = colour_behind(Some(filter.clone()), 120.0);
        let scene = Scene::new(&s, &tables());
        let rig = Rig::new(&s, &scene, &s.contenders[0]);
        let channels = rig.through_own_cone(Some(&filter)).channels;
        assert_eq!(
            rig.instrument.snr2(&channels, Quantity::Oiii, 120.0, 30.0, &Scales::ONE, 0.0),
            0.0
        );
        let [oiii, ha] = [Quantity::Oiii, Quantity::Ha]
            .map(|q| rig.instrument.information_rate(&channels, q, &Scales::ONE).per_s);
        assert!(oiii > 0.0 && oiii < 1e-6 * ha, "{oiii} {ha}");
    }

    #[test]
    fn scaled_light_is_scaled_part_by_part() {
        let s = colour_behind(None, 60.0);
        let scene = Scene::new(&s, &tables());
        let channels = Rig::new(&s, &scene, &s.contenders[0]).through_own_cone(None).channels;
        for c in &channels {
            let scales = Scales { target: 2.0, ..Scales::dimmer_lamps(0.0) };
            let (r, scaled) = (c.nominal(), c.rates(&scales, 0.0));
            assert!((scaled.of(Quantity::Ha) / r.of(Quantity::Ha) - 2.0).abs() < 1e-12);
            assert!(
                (scaled.background() - r.sky[SkyPart::Natural]).abs() < 1e-12
                    && scaled.background() < r.background()
            );
        }
    }
}
