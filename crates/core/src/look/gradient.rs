//! The slope of the sky across the field: moonlight is brighter towards the moon, lamps towards the
//! horizon.

use serde::Serialize;
use utoipa::ToSchema;

use crate::light::units::linear_from_mag;
use crate::path::rates::Rates;
use crate::path::sky::air::Air;
use crate::path::sky::artificial::lamp_growth;
use crate::path::sky::moon::{self, MoonTerms};
use crate::path::sky::part::SkyPart;
use crate::scenario::document::Scenario;
use crate::scenario::rig::Contender;
use crate::scenario::sky::{Moon, Sky};
use crate::signal::instrument::Instrument;
use crate::signal::stack::subs_in;

/// The sky's slope across a sensor.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct Gradient {
    /// Brightest corner less darkest, in per cent of the background at the middle.
    pub percent: f64,
    /// Of that, by the moon.
    pub moon_percent: f64,
    /// Of that, by lamps, which grow towards the horizon.
    pub lamps_percent: f64,
    /// The same difference over the noise of the square of detail in the stack; above 1 it shows.
    pub over_noise: f64,
    /// Distance from the moon from which it is below the noise, degrees; null where it is below
    /// everywhere or nowhere.
    pub below_noise_from_deg: Option<f64>,
    /// Distance from the moon from which it shows again: moonlight is evenest a right angle from
    /// the moon. Null where it does not.
    pub shows_again_from_deg: Option<f64>,
}

/// V brightness of moonlight in linear units at an offset from the target: `toward_moon_deg` nearer
/// to it, `up_deg` higher.
fn moon_linear(sky: &Sky, moon: &Moon, k_v: f64, toward_moon_deg: f64, up_deg: f64) -> f64 {
    let at = Moon { separation_deg: (moon.separation_deg - toward_moon_deg).abs(), ..*moon };
    let altitude = (sky.target_altitude_deg + up_deg).clamp(0.0, 90.0);
    moon::moon_linear(&at, altitude, k_v, linear_from_mag(sky.natural_zenith_mag()))
}

/// Change of lamp light per degree of altitude, as a fraction: from 1 + 0.6 (X - 1).
fn lamps_per_deg(sky: &Sky) -> f64 {
    let glow = sky.glow_at(sky.target_azimuth_deg);
    let at = |a: f64| lamp_growth(a.clamp(1.0, 90.0), glow);
    let a = sky.target_altitude_deg;
    (at(a + 0.5) - at(a - 0.5)) / at(a)
}

/// The slope at one distance from the moon.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct GradientPoint {
    /// Distance from the moon, degrees.
    pub distance_deg: f64,
    /// Brightest corner less darkest, in per cent of the background that is there at that distance.
    pub percent: f64,
    /// The same difference over the noise of the square of detail in the stack; above 1 it shows.
    pub over_noise: f64,
}

/// One channel of one exposure, asked how the sky slopes across it with the moon at any distance.
///
/// The moon is taken to stand along the diagonal, where its slope is largest; lamps slope with
/// altitude along the short side.
struct Slopes<'a> {
    s: &'a Scenario,
    rates: &'a Rates,
    k_v: f64,
    /// Half the diagonal of the sensor, degrees.
    half_deg: f64,
    /// Difference of lamp light between upper and lower edge, e-/s.
    lamps_e_per_s: f64,
    subs: f64,
    sub_s: f64,
    read_noise_e: f64,
    pixels: f64,
    wavelength_nm: f64,
}

/// One channel of one exposure, as its slope is asked for.
#[derive(Clone, Copy, Debug)]
pub struct Seen<'a> {
    /// Its rates, e-/s per pixel.
    pub rates: &'a Rates,
    /// Pixels on the square of detail.
    pub pixels: f64,
    /// The mean wavelength of its light, nm: moonlight is bluer far from the moon.
    pub wavelength_nm: f64,
}

impl<'a> Slopes<'a> {
    fn new(s: &'a Scenario, c: &Contender, exposure: usize, seen: Seen<'a>) -> Self {
        let Seen { rates, pixels, wavelength_nm } = seen;
        let instrument = Instrument::new(s, c).binned(c, &c.exposures[exposure]);
        let scale = instrument.scale_arcsec;
        let (w, h) = (
            f64::from(c.sensor.columns) * scale / 3600.0,
            f64::from(c.sensor.rows) * scale / 3600.0,
        );
        let e = &c.exposures[exposure];
        Self {
            s,
            rates,
            k_v: Air::new(s.sky.site_height_m, s.sky.k_v, 1.0).k(550.0),
            half_deg: w.hypot(h) / 2.0,
            lamps_e_per_s: (rates.sky[SkyPart::Artificial] * lamps_per_deg(&s.sky) * h).abs(),
            subs: instrument
                .kept(subs_in(s.clock_s(c) * e.share, e.sub_s, instrument.between_s), e.sub_s)
                .max(1.0),
            sub_s: e.sub_s,
            read_noise_e: instrument.gain.read_noise_e,
            pixels,
            wavelength_nm,
        }
    }

    /// Moonlight in the channel over that in V at a distance, up to a constant: molecules scatter
    /// as the fourth power of the wavelength, aerosols as its 1.3th.
    fn moon_colour(&self, distance_deg: f64) -> f64 {
        let t = MoonTerms::at(distance_deg);
        t.scattered(self.wavelength_nm) / (t.rayleigh + t.mie)
    }

    fn moon_linear(&self, moon: &Moon, toward_moon_deg: f64) -> f64 {
        moon_linear(&self.s.sky, moon, self.k_v, toward_moon_deg, 0.0)
    }

    /// The slope with the moon at a distance, or where it stands. Moonlight itself fades with
    /// distance and grows bluer: its rate is rescaled.
    fn at(&self, distance_deg: Option<f64>) -> Gradient {
        let (mut moon_rate, mut slope) = (0.0, 0.0);
        if let Some(here) = &self.s.sky.moon {
            let there =
                Moon { separation_deg: distance_deg.unwrap_or(here.separation_deg), ..*here };
            let (v_here, v_there) = (self.moon_linear(here, 0.0), self.moon_linear(&there, 0.0));
            if v_here > 0.0 && v_there > 0.0 {
                let colour =
                    self.moon_colour(there.separation_deg) / self.moon_colour(here.separation_deg);
                moon_rate = self.rates.sky[SkyPart::Moon] * colour * v_there / v_here;
                slope = (self.moon_linear(&there, self.half_deg)
                    - self.moon_linear(&there, -self.half_deg))
                .abs()
                    / v_there;
            }
        }
        let moved = moon_rate - self.rates.sky[SkyPart::Moon];
        let background = (self.rates.background() + self.rates.dark + moved).max(1e-12);
        let total = self.rates.total() + moved;
        let noise =
            ((total * self.sub_s + self.read_noise_e.powi(2)) * self.subs * self.pixels).sqrt();
        let (moon, lamps) = (moon_rate * slope, self.lamps_e_per_s);
        Gradient {
            percent: 100.0 * (moon + lamps) / background,
            moon_percent: 100.0 * moon / background,
            lamps_percent: 100.0 * lamps / background,
            over_noise: (moon + lamps) * self.sub_s * self.subs * self.pixels / noise,
            below_noise_from_deg: None,
            shows_again_from_deg: None,
        }
    }
}

/// The slope across the sensor of one contender in one channel.
pub fn gradient(s: &Scenario, c: &Contender, exposure: usize, seen: Seen) -> Gradient {
    let slopes = Slopes::new(s, c, exposure, seen);
    let mut out = slopes.at(None);
    if s.sky.moon.is_some() {
        let shows = |d: &f64| slopes.at(Some(*d)).over_noise > 1.0;
        let degrees = || (4..=FARTHEST_DEG as i32).map(f64::from);
        let hidden = degrees().find(|d| !shows(d));
        out.shows_again_from_deg =
            hidden.and_then(|from| degrees().filter(|d| *d > from).find(shows));
        out.below_noise_from_deg = hidden.filter(|d| *d > 4.0);
    }
    out
}

/// The farthest that a target above its limit stands from a moon above the horizon, about, degrees.
const FARTHEST_DEG: f64 = 150.0;

/// The same against the distance from the moon, every 2.5 degrees from 5 to 150; empty without a
/// moon.
pub fn gradient_by_distance(
    s: &Scenario,
    c: &Contender,
    exposure: usize,
    seen: Seen,
) -> Vec<GradientPoint> {
    if s.sky.moon.is_none() {
        return Vec::new();
    }
    let slopes = Slopes::new(s, c, exposure, seen);
    let one = |i: i32| {
        let distance_deg = 5.0 + 2.5 * f64::from(i);
        let g = slopes.at(Some(distance_deg));
        GradientPoint { distance_deg, percent: g.percent, over_noise: g.over_noise }
    };
    (0..=((FARTHEST_DEG - 5.0) / 2.5) as i32).map(one).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::common::ic_443;
    use crate::path::sky::air::airmass;

    /// Lamp light is 1 + 0.6 (X - 1) of the zenith's; at 30 degrees X = 1.9943 (Kasten & Young
    /// 1989).
    #[test]
    fn lamps_slope_as_their_light_grows() {
        let mut sky = ic_443().sky;
        sky.target_altitude_deg = 30.0;
        let per_deg = (0.6 * (airmass(30.5) - airmass(29.5))) / (1.0 + 0.6 * (1.9943 - 1.0));
        assert!(
            (lamps_per_deg(&sky) / per_deg - 1.0).abs() < 1e-3 && per_deg < -0.02,
            "{}",
            lamps_per_deg(&sky)
        );
        // A measured sky grows alike from where it was measured.
        let by_zenith = lamps_per_deg(&sky);
        sky.toward_target_v_mag = Some(19.0);
        assert_eq!(lamps_per_deg(&sky), by_zenith);
    }
}
