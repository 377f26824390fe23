//! Light where it should not be: ghosts of bright stars between filter and sensor, and the slope of
//! the sky across the field.

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
use crate::signal::stack::{kept, subs_in};

/// Share of the light that a sensor with its cover glass throws back (from memory).
pub const SENSOR_REFLECTANCE: f64 = 0.1;

/// Share of a band's light that the rear of a filter throws back where none is stated (from
/// memory).
const USUAL_REAR_REFLECTANCE: f64 = 0.01;

const ARCSEC_PER_RAD: f64 = 206_264.806;

/// A ghost: light thrown back by the sensor and again by the filter, out of focus.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct Ghost {
    /// Outer diameter on the sensor, mm: 2 g / N for a gap of g mm at focal ratio N.
    pub diameter_mm: f64,
    /// Outer diameter, arcsec.
    pub diameter_arcsec: f64,
    /// Outer diameter, pixels.
    pub diameter_px: f64,
    /// Diameter of the hole that the obstruction leaves, arcsec.
    pub hole_arcsec: f64,
    /// Share of a star's light in the ghost.
    pub share: f64,
    /// Stars brighter than this show it in the stack: one standard deviation above the background
    /// of a pixel. V mag.
    pub shows_from_v_mag: f64,
    /// Stars brighter than this show it plainly, at any stretch: a fifth of the background. V mag.
    pub plain_from_v_mag: f64,
}

/// How bright against the background a ring is that everybody sees (common practice, no source).
const PLAIN: f64 = 0.2;

/// The ghost of one exposure, seen in a channel of `rates` that owns `pixel_share` of the pixels;
/// `None` without a filter.
///
/// Its light is the star's electrons times both reflectances, over the annulus's area; its diameter
/// is that of the cone after going twice through the gap. A pixel of the picture has its colour in
/// the colour's share of the subs, and in no more: there the ghost and the noise stand.
pub fn ghost(
    c: &Contender,
    exposure: usize,
    (rates, pixel_share): (&Rates, f64),
    gap_mm: f64,
    total_s: f64,
) -> Option<Ghost> {
    let e = &c.exposures[exposure];
    let filter = e.filter.as_ref()?;
    let n = c.optics.focal_ratio();
    let focal_mm = c.optics.focal_length_mm * c.optics.reducer;
    let diameter_mm = 2.0 * gap_mm / n;
    let diameter_arcsec = diameter_mm / focal_mm * ARCSEC_PER_RAD;
    let scale = c.optics.pixel_scale_arcsec(c.sensor.pixel_um);
    let hole = c.optics.obstruction_ratio();
    let share = SENSOR_REFLECTANCE * filter.rear_reflectance.unwrap_or(USUAL_REAR_REFLECTANCE);
    let area_px =
        std::f64::consts::FRAC_PI_4 * (diameter_arcsec / scale).powi(2) * (1.0 - hole * hole);
    let taken = subs_in(total_s * e.share, e.sub_s, c.between_s());
    let subs = kept(taken, e.sub_s, c.loss_per_hour).max(1.0) * pixel_share;
    let read = c.sensor.at_gain_binned(c.gain, e.binning).read_noise_e;
    let seconds = subs * e.sub_s;
    let noise_e = ((rates.background() + rates.dark) * seconds + subs * read * read).sqrt();
    // star_v0 10^(-0.4 m) share / area * seconds = noise.
    let per_px_v0 = rates.star_v0 * share / area_px * seconds;
    Some(Ghost {
        diameter_mm,
        diameter_arcsec,
        diameter_px: diameter_arcsec / scale,
        hole_arcsec: diameter_arcsec * hole,
        share,
        shows_from_v_mag: 2.5 * (per_px_v0 / noise_e).log10(),
        plain_from_v_mag: 2.5
            * (rates.star_v0 * share / area_px / (PLAIN * rates.background())).log10(),
    })
}

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
    use crate::path::sky::part::PerSkyPart;

    /// By hand: f/4 after a reducer of 0.8 on 500 mm, a gap of 10 mm: 5 mm across, 5 / 400 of a
    /// radian.
    #[test]
    fn a_ghost_by_hand() {
        let mut c = ic_443().contenders.remove(0);
        (c.optics.aperture_mm, c.optics.obstruction_mm) = (100.0, 30.0);
        (c.optics.focal_length_mm, c.optics.reducer) = (500.0, 0.8);
        c.sensor.pixel_um = 3.76;
        c.exposures[0].filter.as_mut().unwrap().rear_reflectance = Some(0.02);
        let rates = Rates {
            sky: PerSkyPart([0.2, 0.3, 0.0, 0.0]),
            dark: 0.1,
            star_v0: 4e7,
            ..Rates::default()
        };
        let g = ghost(&c, 0, (&rates, 1.0), 10.0, 14_400.0).expect("a filter");
        assert!(
            (g.diameter_mm - 5.0).abs() < 1e-12 && (g.diameter_px - 5000.0 / 3.76).abs() < 0.01,
            "{g:?}"
        );
        assert!(
            (g.diameter_arcsec - 5.0 / 400.0 * 206_264.8).abs() < 0.01
                && (g.hole_arcsec / g.diameter_arcsec - 0.3).abs() < 1e-12
        );
        assert!((g.share - 0.1 * 0.02).abs() < 1e-15);
        // A star of that magnitude stands one standard deviation above the background of a pixel.
        let taken = subs_in(14_400.0 * c.exposures[0].share, c.exposures[0].sub_s, c.between_s());
        let subs = kept(taken, c.exposures[0].sub_s, c.loss_per_hour);
        let seconds = subs * c.exposures[0].sub_s;
        let annulus_px =
            std::f64::consts::PI * ((2500.0f64 / 3.76).powi(2) - (750.0f64 / 3.76).powi(2));
        let star_e = 4e7 * 10f64.powf(-0.4 * g.shows_from_v_mag) * seconds;
        let noise_e = (0.6 * seconds + subs * c.sensor.at_gain(c.gain).read_noise_e.powi(2)).sqrt();
        assert!((star_e * 0.002 / annulus_px / noise_e - 1.0).abs() < 1e-3, "{g:?}");
        // A brighter one lies a fifth of the background above it, whatever the noise.
        let plain_e_per_s = 4e7 * 10f64.powf(-0.4 * g.plain_from_v_mag) * 0.002 / annulus_px;
        assert!((plain_e_per_s / (0.2 * 0.5) - 1.0).abs() < 1e-3, "{g:?}");
        // A colour that owns a quarter of the pixels has a quarter of the subs in the picture: half
        // the signal to noise, three quarters of a magnitude.
        let quarter = ghost(&c, 0, (&rates, 0.25), 10.0, 14_400.0).expect("a filter");
        let less = g.shows_from_v_mag - quarter.shows_from_v_mag;
        assert!((less - 2.5 * 2f64.log10()).abs() < 1e-9, "{less}");
        c.exposures[0].filter = None;
        assert_eq!(ghost(&c, 0, (&rates, 1.0), 10.0, 14_400.0), None);
    }

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
