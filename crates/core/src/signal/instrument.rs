//! What turns electron rates into noise and clock time: the camera at its gain, the time between subs, calibration frames, and the
//! square of detail on which signal to noise is judged. Every question about a sub, a stack or a star is built here and nowhere
//! else, whichever rates it is asked about: those of the scenario, of another sky, of a filter that is only thought of, or of a
//! minute of a night.

use crate::light::lines::Quantity;
use crate::path::rates::Rates;
use crate::path::scales::Scales;
use crate::path::sensor::GainPoint;
use crate::scenario::document::Scenario;
use crate::scenario::exposure::Calibration;
use crate::scenario::rig::Contender;
use crate::signal::channel::ChannelModel;
use crate::signal::stack::StackTerms;
use crate::signal::star::StarTerms;
use crate::signal::sub::{SubTerms, plateau};

/// A contender without its light: see the module.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Instrument {
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
    /// Pixels of the sensor on the square of detail; may be below one.
    pub square_px: f64,
    /// Full width at half maximum of a star, arcsec.
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
            between_s: contender.overhead_s_per_sub + contender.sensor.readout_s,
            loss_per_hour: contender.loss_per_hour,
            longest_s: contender.optics.longest_sub_s,
            calibration: scenario.calibration,
            scale_arcsec,
            square_px: (scenario.detail_arcsec / scale_arcsec).powi(2),
            star_fwhm_arcsec: scenario.seeing_fwhm_arcsec,
        }
    }

    /// The same with frames that are dithered, so that the square of signal to noise grows with time alone.
    pub fn dithered(mut self) -> Self {
        self.calibration.dithered = true;
        self
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
        StackTerms::new(rates, sub_s, self.gain.read_noise_e, pixels, self.calibration)
    }

    /// A star in `subs` subs of `sub_s`, in a channel that owns `pixel_share` of the pixels.
    pub fn star_terms(&self, rates: &Rates, pixel_share: f64, sub_s: f64, subs: f64) -> StarTerms {
        StarTerms {
            v0_e_per_s: rates.star_v0,
            background_e_per_s: rates.background() + rates.dark,
            read_noise_e: self.gain.read_noise_e,
            sub_s,
            subs,
            fwhm_arcsec: self.star_fwhm_arcsec,
            scale_arcsec: self.scale_arcsec,
            pixel_share,
        }
    }

    /// (Signal to noise)^2 of a quantity in one channel after `subs` subs of `sub_s`.
    pub fn channel_snr2(&self, rates: &Rates, q: Quantity, pixels: f64, sub_s: f64, subs: f64) -> f64 {
        self.stack_terms(rates, sub_s, pixels).snr(rates.of(q) * sub_s, subs).powi(2)
    }

    /// (Signal to noise)^2 of a quantity after `subs` subs of `sub_s` under `scales`, through a copy of the filter whose centre is off
    /// by `centre` tolerances; channels that record it are combined with inverse-variance weights: the squares add.
    pub fn snr2(&self, channels: &[ChannelModel], q: Quantity, sub_s: f64, subs: f64, scales: &Scales, centre: f64) -> f64 {
        let noisier = Self { gain: GainPoint { read_noise_e: self.gain.read_noise_e * scales.read_noise, ..self.gain }, ..*self };
        let recording = channels.iter().filter(|c| c.records[q]);
        recording.map(|c| noisier.channel_snr2(&c.rates(scales, centre), q, c.pixels, sub_s, subs)).fold(0.0, |a, b| a + b)
    }

    /// How fast a quantity gathers through a filter at a given sub. Calibration counts as dithered. A line that the filter barely
    /// passes counts for what it is, so that a sweep over filters is smooth: who asks says from where on it is recorded.
    pub fn information_rate_at(&self, channels: &[ChannelModel], q: Quantity, sub_s: f64, scales: &Scales) -> InformationRate {
        let dithered = self.dithered();
        let one_sub: f64 = channels.iter().map(|c| dithered.channel_snr2(&c.rates(scales, 0.0), q, c.pixels, sub_s, 1.0)).sum();
        InformationRate { sub_s, per_s: one_sub / (sub_s + self.between_s) }
    }

    /// The same at the sub that is best for the channel that sees the quantity best.
    pub fn information_rate(&self, channels: &[ChannelModel], q: Quantity, scales: &Scales) -> InformationRate {
        let sub_s = leading(channels, q).map_or(60.0, |c| plateau(&self.sub_terms(&c.rates(scales, 0.0))).best_s);
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

    #[test]
    fn the_best_rate_is_no_slower_than_at_any_sub_of_the_leading_channel() {
        let filter = bands("Ha", 7.0, &[656.3]);
        let s = colour_behind(Some(filter.clone()), 120.0);
        let scene = Scene::new(&s, &tables());
        let rig = Rig::new(&s, &scene, &s.contenders[0]);
        let channels = rig.through_own_cone(Some(&filter)).channels;
        let best = rig.instrument.information_rate(&channels, Quantity::Ha, &Scales::ONE);
        // The loss rate falls out of it, so that the comparison holds only up to the plateau's five per cent.
        for sub_s in [10.0, 60.0, 300.0, 600.0] {
            let other = rig.instrument.information_rate_at(&channels, Quantity::Ha, sub_s, &Scales::ONE);
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
        assert_eq!(rig.instrument.snr2(&channels, Quantity::Oiii, 120.0, 30.0, &Scales::ONE, 0.0), 0.0);
        let [oiii, ha] = [Quantity::Oiii, Quantity::Ha].map(|q| rig.instrument.information_rate(&channels, q, &Scales::ONE).per_s);
        assert!(oiii > 0.0 && oiii < 1e-6 * ha, "{oiii} {ha}");
    }

    #[test]
    fn scaled_light_is_scaled_part_by_part() {
        let s = colour_behind(None, 60.0);
        let scene = Scene::new(&s, &tables());
        let channels = Rig::new(&s, &scene, &s.contenders[0]).through_own_cone(None).channels;
        for c in &channels {
            let (r, scaled) = (c.nominal(), c.rates(&Scales { target: 2.0, artificial: 0.0, ..Scales::ONE }, 0.0));
            assert!((scaled.of(Quantity::Ha) / r.of(Quantity::Ha) - 2.0).abs() < 1e-12);
            assert!((scaled.background() - r.sky[SkyPart::Natural]).abs() < 1e-12 && scaled.background() < r.background());
        }
    }
}
