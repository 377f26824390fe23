//! A stack of subs: signal to noise, and the time it takes.

use crate::path::rates::Rates;
use crate::scenario::exposure::Calibration;

/// One channel's part in the noise, for one sub.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct StackTerms {
    /// All electrons in a sub and pixel besides the read-out: target, sky, dark current, e-.
    pub collected_e: f64,
    /// Of those, dark current, e-.
    pub dark_e: f64,
    /// Of those, light, e-.
    pub light_e: f64,
    /// Read noise with quantisation, e-.
    pub read_noise_e: f64,
    /// Pixels over which the signal is summed; may be below one.
    pub pixels: f64,
    /// Calibration frames.
    pub calibration: Calibration,
    /// Subs at each place before the field is moved; only where frames are dithered.
    pub per_place: f64,
}

impl StackTerms {
    /// The terms of a channel with subs of `sub_s` seconds.
    pub fn new(
        rates: &Rates,
        sub_s: f64,
        read_noise_e: f64,
        pixels: f64,
        calibration: Calibration,
    ) -> Self {
        Self {
            collected_e: rates.total() * sub_s,
            dark_e: rates.dark * sub_s,
            light_e: (rates.target_sum() + rates.background()) * sub_s,
            read_noise_e,
            pixels,
            calibration,
            per_place: 1.0,
        }
    }

    /// Variance of the sum of `subs` subs over the pixels, e-^2.
    ///
    /// The CCD equation (Merline & Howell 1995, Exp. Astron. 6, 163; Howell 2006, Handbook of CCD
    /// Astronomy): [(S + B + D) t + R^2] N n, and for calibration ((D t + R^2) / N_d) n and the
    /// flat-field residue, both times N when dithered after each sub, times N m when after every m,
    /// and times N^2 when not.
    pub fn variance_e2(&self, subs: f64) -> f64 {
        let r2 = self.read_noise_e.powi(2);
        let per_frame = (self.dark_e + r2) / self.calibration.dark_frames
            + (self.calibration.flat_residue * self.light_e).powi(2);
        let at_one_place = if self.calibration.dithered { self.per_place } else { subs };
        let repeats = subs * at_one_place;
        self.pixels * ((self.collected_e + r2) * subs + per_frame * repeats)
    }

    /// Signal to noise of `signal_e` electrons per sub and pixel in a stack of `subs`.
    pub fn snr(&self, signal_e: f64, subs: f64) -> f64 {
        if subs <= 0.0 || signal_e <= 0.0 {
            return 0.0;
        }
        signal_e * subs * self.pixels / self.variance_e2(subs).sqrt()
    }
}

/// Subs that fit in `clock_s` seconds when each takes `sub_s` and `between_s`: whole subs.
pub fn subs_in(clock_s: f64, sub_s: f64, between_s: f64) -> f64 {
    // A sub that ends with the clock still fits: forgive a rounding of the share.
    ((clock_s + 1e-6) / (sub_s + between_s)).floor().max(0.0)
}

/// Of `subs` subs of `sub_s` that are taken, how many survive gusts, aircraft and thin cloud on
/// average: N exp(-lambda t) with lambda the losses per hour. The longer a sub, the more is lost
/// with each.
pub fn kept(subs: f64, sub_s: f64, loss_per_hour: f64) -> f64 {
    subs * (-loss_per_hour / 3600.0 * sub_s).exp()
}

/// A goal that takes longer is out of reach, s: ten million hours.
pub const MOST_CLOCK_S: f64 = 3.6e10;

/// The clock time, s, at which `snr(time)` reaches `goal`; `None` where it does not within ten
/// million hours.
///
/// `snr` must grow with time. Found by doubling, then halving.
pub fn time_to_goal_s(goal: f64, snr: impl Fn(f64) -> f64) -> Option<f64> {
    let mut hi = 60.0;
    while snr(hi) < goal {
        hi *= 2.0;
        if hi > MOST_CLOCK_S {
            return None;
        }
    }
    let mut lo = if hi > 60.0 { hi / 2.0 } else { 0.0 };
    for _ in 0..50 {
        let mid = (lo + hi) / 2.0;
        if snr(mid) < goal { lo = mid } else { hi = mid }
    }
    Some(hi)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::light::lines::PerQuantity;
    use crate::path::sky::part::PerSkyPart;

    /// Howell 2006, Handbook of CCD Astronomy, section 4.4, worked example (figures quoted from
    /// memory): a star of 24 013 ADU at 5 e-/ADU in one pixel, sky 620 ADU, dark current 1.8 e-,
    /// read noise 5 e-, sky from 200 pixels, quantisation 0.289 ADU: signal to noise 342. The 200
    /// sky pixels play the master dark's part here.
    #[test]
    fn the_worked_example_of_the_ccd_equation() {
        let (star, sky, dark) = (24_013.0 * 5.0, 620.0 * 5.0, 1.8);
        let read = 5f64.hypot(5.0 * 0.289);
        let terms = StackTerms {
            collected_e: star + sky + dark,
            dark_e: dark + sky,
            light_e: star + sky,
            read_noise_e: read,
            pixels: 1.0,
            calibration: Calibration { dark_frames: 200.0, ..Calibration::default() },
            per_place: 1.0,
        };
        assert_eq!(terms.snr(star, 1.0).round(), 342.0);
    }

    #[test]
    fn without_dither_calibration_noise_stays() {
        let stack = |dithered| StackTerms {
            collected_e: 10.0,
            dark_e: 2.0,
            light_e: 8.0,
            read_noise_e: 3.0,
            pixels: 10.0,
            calibration: Calibration { dark_frames: 20.0, dithered, flat_residue: 0.0 },
            per_place: 1.0,
        };
        let gain = |s: StackTerms| s.snr(1.0, 400.0) / s.snr(1.0, 100.0);
        assert!((gain(stack(true)) - 2.0).abs() < 1e-12);
        assert!(gain(stack(false)) < 1.5);
    }

    /// Moved after every tenth sub, the same ten pixels' noise of the darks is in ten subs: between
    /// moving after each and never.
    #[test]
    fn every_nth_sub_dithered_leaves_calibration_noise_of_n() {
        let every = |per_place: f64, dithered: bool| StackTerms {
            collected_e: 10.0,
            dark_e: 2.0,
            light_e: 8.0,
            read_noise_e: 3.0,
            pixels: 10.0,
            calibration: Calibration { dark_frames: 20.0, dithered, flat_residue: 0.0 },
            per_place,
        };
        let [one, ten, all, never] =
            [every(1.0, true), every(10.0, true), every(100.0, true), every(1.0, false)]
                .map(|t| t.variance_e2(100.0));
        assert_eq!(all, never, "at one place throughout");
        assert!(((ten - one) / (all - one) - 9.0 / 99.0).abs() < 1e-12);
    }

    #[test]
    fn nothing_exposed_or_nothing_shining_has_no_signal() {
        let rates = Rates {
            target: PerQuantity([0.1, 0.0, 0.0, 0.0, 0.0, 0.0]),
            sky: PerSkyPart([0.2, 0.0, 0.0, 0.0]),
            dark: 0.01,
            star_v0: 0.0,
        };
        let terms = StackTerms::new(&rates, 100.0, 2.0, 10.0, Calibration::default());
        assert_eq!(
            (terms.snr(5.0, 0.0), terms.snr(0.0, 9.0), terms.snr(-1.0, 9.0), terms.snr(5.0, -1.0)),
            (0.0, 0.0, 0.0, 0.0)
        );
        assert!(
            (terms.collected_e - 31.0).abs() < 1e-12
                && (terms.light_e - 30.0).abs() < 1e-12
                && (terms.dark_e - 1.0).abs() < 1e-12
        );
        // The flat's residue grows with the light alone: [31 + 4] n and (0.01 x 30)^2 n besides
        // what the darks leave, 5 / 50 n.
        let rough = StackTerms {
            calibration: Calibration { flat_residue: 0.01, ..terms.calibration },
            ..terms
        };
        let by_hand = 10.0 * (35.0 + 5.0 / terms.calibration.dark_frames + 0.09);
        assert!(
            (rough.variance_e2(1.0) / by_hand - 1.0).abs() < 1e-12,
            "{}",
            rough.variance_e2(1.0)
        );
    }

    #[test]
    fn whole_subs_only() {
        assert_eq!(subs_in(14_400.0, 300.0, 5.0), 47.0);
        assert_eq!(subs_in(100.0, 300.0, 5.0), 0.0);
        assert_eq!(subs_in(3.0 * 305.0, 300.0, 5.0), 3.0);
    }

    #[test]
    fn an_unreachable_goal_has_no_time() {
        assert_eq!(time_to_goal_s(20.0, |_| 3.0), None);
        assert!((time_to_goal_s(20.0, f64::sqrt).unwrap() - 400.0).abs() < 1e-6);
    }
}
