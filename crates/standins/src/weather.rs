//! What a night does to frames: clouds that pass, focus that drifts as it cools and is set anew,
//! guiding that loses its hold, a satellite, the mount's half turn. All of it by seed.

use rand::{RngExt, SeedableRng};
use rand_pcg::Pcg64Mcg;

/// A bank of thin cloud.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Cloud {
    /// When it comes and goes, seconds since 1970 UTC.
    pub from_s: f64,
    /// Its end.
    pub to_s: f64,
    /// What it takes of the light at its thickest, 0-1.
    pub takes: f64,
}

/// A straight trail.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Trail {
    /// Where it crosses the frame's middle column, as a share of its height.
    pub height: f64,
    /// Pixels down for a pixel to the right.
    pub slope: f64,
    /// Electrons in a pixel at its middle.
    pub peak_e: f64,
}

/// What a frame is taken under.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Conditions {
    /// What the air passes against a clear sky, 0-1; grey, as cloud is.
    pub transparency: f64,
    /// How many times brighter the sky is for the cloud that is lit.
    pub sky_times: f64,
    /// Guiding and focus, arcsec root mean square, which add to the seeing in quadrature.
    pub blur_rms_arcsec: f64,
    /// A satellite.
    pub trail: Option<Trail>,
}

impl Conditions {
    /// A clear, still night.
    pub const CLEAR: Self =
        Self { transparency: 1.0, sky_times: 1.0, blur_rms_arcsec: 0.0, trail: None };
}

/// A night's weather.
#[derive(Clone, Debug, PartialEq)]
pub struct Weather {
    /// Banks of cloud.
    pub clouds: Vec<Cloud>,
    /// How much blur the focus gains in an hour, arcsec root mean square.
    pub focus_drift_arcsec_per_h: f64,
    /// How often the focus is set, s.
    pub refocus_every_s: f64,
    /// Usual guiding, arcsec root mean square.
    pub guiding_arcsec: f64,
    /// One frame in so many loses its guide star for a while.
    pub lost_one_in: u64,
    /// One frame in so many has a satellite in it.
    pub satellite_one_in: u64,
    from_s: f64,
    seed: u64,
}

/// How much of what a lit cloud takes from the stars it adds to the sky (from memory: over a town
/// half as much again at a loss of a half).
const LIT: f64 = 1.0;
/// Guiding of a frame that lost its star, against the usual.
const LOST_TIMES: f64 = 4.0;

impl Weather {
    /// Weather of a night between two times, seconds since 1970 UTC: a bank or two of thin cloud,
    /// focus that drifts, a lost guide star and a satellite now and then.
    pub fn new(seed: u32, from_s: f64, to_s: f64) -> Self {
        let mut rng = Pcg64Mcg::seed_from_u64(u64::from(seed) ^ 0xc10d);
        let length = (to_s - from_s).max(3600.0);
        let mut share = |low: f64, high: f64| low + (high - low) * rng.random::<f64>();
        let count = if share(0.0, 1.0) < 0.5 { 1 } else { 2 };
        let cloud = |_| {
            let from = from_s + share(0.1, 0.8) * length;
            Cloud { from_s: from, to_s: from + share(1200.0, 3600.0), takes: share(0.4, 0.75) }
        };
        Self {
            clouds: (0..count).map(cloud).collect(),
            focus_drift_arcsec_per_h: 0.8,
            refocus_every_s: 5400.0,
            guiding_arcsec: 0.4,
            lost_one_in: 25,
            satellite_one_in: 12,
            from_s,
            seed: u64::from(seed),
        }
    }

    /// Share of a clear night's light at a moment: a bank comes and goes as a raised cosine.
    pub fn transparency(&self, at_s: f64) -> f64 {
        let one = |c: &Cloud| {
            let u = (at_s - c.from_s) / (c.to_s - c.from_s);
            let bump = if (0.0..=1.0).contains(&u) {
                0.5 - 0.5 * (u * std::f64::consts::TAU).cos()
            } else {
                0.0
            };
            1.0 - c.takes * bump
        };
        self.clouds.iter().map(one).product()
    }

    /// How many times brighter the sky is under cloud that passes so much.
    pub fn lit(&self, transparency: f64) -> f64 {
        1.0 + LIT * (1.0 - transparency)
    }

    /// What a frame is taken under: the mean over its length.
    pub fn over(&self, start_s: f64, exposure_s: f64, number: u32) -> Conditions {
        const STEPS: u32 = 12;
        let at = |i: u32| start_s + exposure_s * (f64::from(i) + 0.5) / f64::from(STEPS);
        let sum: f64 = (0..STEPS).map(|i| self.transparency(at(i))).sum();
        let transparency = sum / f64::from(STEPS);
        let since_focus = (start_s - self.from_s).rem_euclid(self.refocus_every_s) / 3600.0;
        let focus = self.focus_drift_arcsec_per_h * since_focus;
        let mut rng = Pcg64Mcg::seed_from_u64(self.seed << 32 ^ u64::from(number));
        let lost = rng.random::<u64>().is_multiple_of(self.lost_one_in);
        let guiding = self.guiding_arcsec * if lost { LOST_TIMES } else { 1.0 };
        let crossed = rng.random::<u64>().is_multiple_of(self.satellite_one_in);
        let trail = crossed.then(|| Trail {
            height: 0.2 + 0.6 * rng.random::<f64>(),
            slope: rng.random::<f64>() - 0.5,
            peak_e: 300.0,
        });
        Conditions {
            transparency,
            sky_times: self.lit(transparency),
            blur_rms_arcsec: guiding.hypot(focus),
            trail,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_seed_gives_one_night_and_another_another() {
        let of = |seed| Weather::new(seed, 1.8e9, 1.8e9 + 36_000.0);
        assert_eq!(of(1), of(1));
        assert_ne!(of(1).clouds, of(2).clouds);
        let (a, b) = (of(1).over(1.8e9, 300.0, 4), of(1).over(1.8e9, 300.0, 4));
        assert_eq!(a, b);
    }

    #[test]
    fn a_cloud_takes_what_it_says_and_is_lit() {
        let mut w = Weather::new(1, 1.8e9, 1.8e9 + 36_000.0);
        w.clouds = vec![Cloud { from_s: 1.8e9 + 10_000.0, to_s: 1.8e9 + 14_000.0, takes: 0.6 }];
        assert_eq!(w.transparency(1.8e9 + 9_000.0), 1.0);
        assert!((w.transparency(1.8e9 + 12_000.0) - 0.4).abs() < 1e-12);
        let middle = w.over(1.8e9 + 11_850.0, 300.0, 3);
        assert!((middle.transparency - 0.4).abs() < 0.01 && middle.sky_times > 1.5, "{middle:?}");
        // Just after the focus was set there is guiding alone.
        let fresh = w.over(1.8e9 + 2.0 * w.refocus_every_s, 300.0, 3).blur_rms_arcsec;
        let late = w.over(1.8e9 + 2.9 * w.refocus_every_s, 300.0, 3).blur_rms_arcsec;
        assert!(late > fresh + 0.5, "{fresh} {late}");
    }
}
