//! One night seen from a place: when it is dark, where target and moon stand, what each filter
//! gathers minute by minute.

use serde::Serialize;
use utoipa::ToSchema;

use crate::night::ephemeris::{
    Direction, Ephemeris, EphemerisError, Place, crossings, separation_deg,
};
use crate::night::rate::{Moment, NightRig};
use crate::scenario::limits::NightLimits;
use crate::scenario::site::solar_hour;
use crate::scenario::sky::{Moon, lit_share};

/// Time between two samples of a night, s.
pub const SAMPLE_S: f64 = 60.0;

/// Closer than this to the moon, its light is what a picture shows first: a broad filter has it as a
/// slope over the field, degrees (common practice, no source).
pub const NEAR_THE_MOON_DEG: f64 = 40.0;

/// Altitude of the sun's centre at its rise and set: refraction of 34' and half a disc of 16'.
const SUNRISE_DEG: f64 = -0.8333;

/// Altitude of the moon's centre at its rise and set, topocentric: refraction less half its disc is
/// near zero within a minute.
const MOONRISE_DEG: f64 = -0.8333;

/// Times of a night, seconds since 1970 UTC; null where it does not happen.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, ToSchema)]
pub struct NightEvents {
    /// Sunset.
    pub sunset_s: Option<f64>,
    /// The sun sinks below the limit.
    pub dusk_s: Option<f64>,
    /// The sun rises above the limit.
    pub dawn_s: Option<f64>,
    /// Sunrise.
    pub sunrise_s: Option<f64>,
    /// Moonrise.
    pub moonrise_s: Option<f64>,
    /// Moonset.
    pub moonset_s: Option<f64>,
    /// The target passes the meridian.
    pub transit_s: Option<f64>,
    /// The target rises above its limit.
    pub target_up_s: Option<f64>,
    /// The target sinks below its limit.
    pub target_down_s: Option<f64>,
    /// Hours with the sun below the limit.
    pub dark_h: f64,
    /// Of these, hours with the target above its limit, within the hours of the clock.
    pub usable_h: f64,
    /// Share of the usable time with the moon down, 0-1.
    pub moonless: f64,
    /// Share of the moon's disc that is lit at midnight, 0-1.
    pub moon_lit: f64,
    /// Distance of moon and target at midnight, degrees.
    pub moon_distance_deg: f64,
}

/// One sample of a night.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct NightSample {
    /// When, seconds since 1970 UTC.
    pub at_s: f64,
    /// Altitude of the sun, degrees.
    pub sun_deg: f64,
    /// Altitude of the moon, degrees.
    pub moon_deg: f64,
    /// Altitude of the target, degrees.
    pub target_deg: f64,
    /// Azimuth of the target, degrees.
    pub target_azimuth_deg: f64,
    /// Altitude of trees and roofs, and the limit, at that azimuth, degrees.
    pub limit_deg: f64,
    /// Distance of moon and target, degrees.
    pub moon_distance_deg: f64,
    /// Dark enough, high enough, and within the hours of the clock.
    pub usable: bool,
    /// (Signal to noise)^2 per hour of clock of each exposure in what it is for; zero where it is
    /// not usable.
    pub information_per_h: Vec<f64>,
    /// As the first, for every line that somebody wants of an exposure: see [`NightRig::lines`].
    /// Not written out: blocks hold its sums.
    #[serde(skip)]
    pub lines_per_h: Vec<Vec<f64>>,
    /// Sky through each exposure, e-/s per pixel, mean over the pixels of all colours; zero where
    /// it is not usable.
    pub background_e_per_s: Vec<f64>,
}

/// A night of one target.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct NightView {
    /// Its times.
    pub events: NightEvents,
    /// Every minute from noon to noon.
    pub samples: Vec<NightSample>,
}

/// The moment of a target at a time.
pub fn moment(e: &Ephemeris, target: &[f64; 3], t: f64) -> Moment {
    let v = e.fixed(target, t);
    let moon = e.moon(t);
    let altitude_deg = e.altitude_deg(&v, t);
    Moment {
        altitude_deg,
        azimuth_deg: e.azimuth_deg(&v, t),
        sun_altitude_deg: e.altitude_deg(&e.sun(t), t),
        sun_longitude_deg: Some(e.sun_longitude_deg(t)),
        solar_hour: Some(solar_hour(e.longitude_deg(), t)),
        moon: Moon {
            phase_angle_deg: e.phase_angle_deg(t),
            altitude_deg: e.altitude_deg(&moon, t),
            separation_deg: separation_deg(&moon, &v),
        },
    }
}

/// Step in which a target's best moment of a night is looked for, s.
const BEST_STEP_S: f64 = 300.0;

/// The moment of a night at which a target stands highest while it is dark; in a night that does
/// not get dark, while it is darkest. `None` where the target is not up then at all. The first is
/// when, seconds since 1970 UTC.
pub fn dark_moment(
    e: &Ephemeris,
    target: &[f64; 3],
    from_s: f64,
    to_s: f64,
    limits: &NightLimits,
) -> Option<(f64, Moment)> {
    let steps = ((to_s - from_s) / BEST_STEP_S) as usize;
    let up = (0..=steps)
        .map(|i| from_s + i as f64 * BEST_STEP_S)
        .map(|t| (t, moment(e, target, t)))
        .filter(|(_, m)| m.altitude_deg > 0.0);
    let dark = |m: &Moment| m.sun_altitude_deg < limits.sun_below_deg;
    up.max_by(|(_, a), (_, b)| {
        let better = if dark(a) {
            a.altitude_deg.total_cmp(&b.altitude_deg)
        } else {
            b.sun_altitude_deg.total_cmp(&a.sun_altitude_deg)
        };
        dark(a).cmp(&dark(b)).then(better)
    })
}

/// Sees a night from `from_s` to `to_s` (noon to noon). Without a rig the samples hold no rates.
///
/// # Errors
/// Where sun and moon cannot be placed.
pub fn night_view(
    place: Place,
    from_s: f64,
    to_s: f64,
    target: Direction,
    limits: &NightLimits,
    rig: Option<&NightRig>,
) -> Result<NightView, EphemerisError> {
    let e = Ephemeris::new(place, from_s, to_s)?;
    let fixed = target.vector();
    let count = ((to_s - from_s) / SAMPLE_S).round() as usize;
    let (opens_s, closes_s) = limits.hours(from_s, to_s);
    let samples: Vec<NightSample> = (0..=count)
        .map(|i| {
            let at_s = from_s + i as f64 * SAMPLE_S;
            let m = moment(&e, &fixed, at_s);
            let limit_deg = limits.altitude_above_deg.max(limits.horizon_at(m.azimuth_deg));
            let usable = m.sun_altitude_deg < limits.sun_below_deg
                && m.altitude_deg > limit_deg
                && (opens_s..=closes_s).contains(&at_s);
            let n = rig.map_or(0, NightRig::len);
            let (mut information_per_h, mut background_e_per_s) = (vec![0.0; n], vec![0.0; n]);
            let mut lines_per_h: Vec<Vec<f64>> = rig
                .map_or_else(Vec::new, |r| (0..n).map(|x| vec![0.0; r.lines(x).len()]).collect());
            if let Some(rig) = rig.filter(|_| usable) {
                let light = rig.light_at(&m);
                for x in 0..n {
                    lines_per_h[x] = rig.lines_per_h(x, &light);
                    information_per_h[x] =
                        rig.purpose(x).and_then(|_| lines_per_h[x].first().copied()).unwrap_or(0.0);
                    background_e_per_s[x] = rig.background_under(x, &light);
                }
            }
            NightSample {
                at_s,
                sun_deg: m.sun_altitude_deg,
                moon_deg: m.moon.altitude_deg,
                target_deg: m.altitude_deg,
                target_azimuth_deg: m.azimuth_deg,
                limit_deg,
                moon_distance_deg: m.moon.separation_deg,
                usable,
                information_per_h,
                lines_per_h,
                background_e_per_s,
            }
        })
        .collect();
    Ok(NightView { events: events(&e, &fixed, from_s, to_s, limits, &samples), samples })
}

fn events(
    e: &Ephemeris,
    target: &[f64; 3],
    from_s: f64,
    to_s: f64,
    limits: &NightLimits,
    samples: &[NightSample],
) -> NightEvents {
    let sun = |level: f64| crossings(from_s, to_s, 600.0, |t| e.altitude_deg(&e.sun(t), t) - level);
    let moon = crossings(from_s, to_s, 600.0, |t| e.altitude_deg(&e.moon(t), t) - MOONRISE_DEG);
    let above = |t: f64| {
        let v = e.fixed(target, t);
        e.altitude_deg(&v, t)
            - limits.altitude_above_deg.max(limits.horizon_at(e.azimuth_deg(&v, t)))
    };
    let object = crossings(from_s, to_s, 300.0, above);
    let transit = crossings(from_s, to_s, 600.0, |t| e.hour_angle_deg(&e.fixed(target, t), t));
    let first = |list: &[(f64, bool)], up: bool| list.iter().find(|c| c.1 == up).map(|c| c.0);
    let (horizon, limit) = (sun(SUNRISE_DEG), sun(limits.sun_below_deg));
    let middle = (from_s + to_s) / 2.0;
    let in_s = |f: &dyn Fn(&NightSample) -> bool| {
        samples.iter().filter(|s| f(s)).count() as f64 * SAMPLE_S
    };
    let (dark, usable) = (in_s(&|s| s.sun_deg < limits.sun_below_deg), in_s(&|s| s.usable));
    let moonless = in_s(&|s| s.usable && s.moon_deg < 0.0);
    // The meridian above the pole only: the other passage is a jump of the hour angle.
    let transit = transit
        .into_iter()
        .find(|c| c.1 && e.hour_angle_deg(&e.fixed(target, c.0), c.0).abs() < 10.0);
    NightEvents {
        sunset_s: first(&horizon, false),
        dusk_s: first(&limit, false),
        dawn_s: limit.iter().rev().find(|c| c.1).map(|c| c.0),
        sunrise_s: horizon.iter().rev().find(|c| c.1).map(|c| c.0),
        moonrise_s: first(&moon, true),
        moonset_s: first(&moon, false),
        transit_s: transit.map(|c| c.0),
        target_up_s: first(&object, true),
        target_down_s: first(&object, false),
        dark_h: dark / 3600.0,
        usable_h: usable / 3600.0,
        moonless: if usable > 0.0 { moonless / usable } else { 0.0 },
        moon_lit: lit_share(e.phase_angle_deg(middle)),
        moon_distance_deg: separation_deg(&e.moon(middle), &e.fixed(target, middle)),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_horizon_runs_straight_between_its_points_and_around_the_north() {
        let of = |points: &[[f64; 2]]| NightLimits {
            horizon_deg: points.to_vec(),
            ..NightLimits::default()
        };
        assert_eq!((of(&[]).horizon_at(77.0), of(&[[10.0, 8.0]]).horizon_at(200.0)), (-90.0, 8.0));
        let trees = of(&[[20.0, 10.0], [100.0, 30.0], [340.0, 6.0]]);
        for (azimuth, height) in [
            (20.0, 10.0),
            (60.0, 20.0),
            (100.0, 30.0),
            (220.0, 18.0),
            (340.0, 6.0),
            (0.0, 8.0),
            (10.0, 9.0),
        ] {
            assert!(
                (trees.horizon_at(azimuth) - height).abs() < 1e-9,
                "{azimuth}: {}",
                trees.horizon_at(azimuth)
            );
        }
    }
}
