//! Light where it should not be: ghosts of bright stars between filter and sensor, and the slope of the sky across the field.

use serde::Serialize;
use utoipa::ToSchema;

use crate::integration::subs_in;
use crate::light::linear_from_mag;
use crate::path::Rates;
use crate::scenario::{Contender, Moon, Scenario, Sky};
use crate::sky::air::{Air, airmass};
use crate::sky::moon_mag_krisciunas_schaefer;

/// Share of the light that a sensor with its cover glass throws back (from memory).
pub const SENSOR_REFLECTANCE: f64 = 0.1;
/// Share of a band's light that the rear of a filter throws back where none is stated (from memory).
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
    /// Stars brighter than this show it in the stack: one standard deviation above the background of a pixel. V mag.
    pub shows_from_v_mag: f64,
}

/// The ghost of one exposure, seen in a channel of `rates`; `None` without a filter.
///
/// Its light is the star's electrons times both reflectances, over the annulus's area; its diameter is that of the cone after going
/// twice through the gap.
pub fn ghost(c: &Contender, exposure: usize, rates: &Rates, gap_mm: f64, total_s: f64) -> Option<Ghost> {
    let e = &c.exposures[exposure];
    let filter = e.filter.as_ref()?;
    let n = c.optics.focal_ratio();
    let focal_mm = c.optics.focal_length_mm * c.optics.reducer;
    let diameter_mm = 2.0 * gap_mm / n;
    let diameter_arcsec = diameter_mm / focal_mm * ARCSEC_PER_RAD;
    let scale = c.optics.pixel_scale_arcsec(c.sensor.pixel_um);
    let hole = c.optics.obstruction_ratio();
    let share = SENSOR_REFLECTANCE * filter.rear_reflectance.unwrap_or(USUAL_REAR_REFLECTANCE);
    let area_px = std::f64::consts::FRAC_PI_4 * (diameter_arcsec / scale).powi(2) * (1.0 - hole * hole);
    let subs = subs_in(total_s * e.share, e.sub_s, c.overhead_s_per_sub + c.sensor.readout_s).max(1.0);
    let read = c.sensor.at_gain(c.gain).read_noise_e;
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
    /// Distance from the moon from which it is below the noise, degrees; null where it is below everywhere or nowhere.
    pub below_noise_from_deg: Option<f64>,
}

/// V brightness of moonlight in linear units at an offset from the target: `toward_moon_deg` nearer to it, `up_deg` higher.
fn moon_linear(sky: &Sky, moon: &Moon, k_v: f64, toward_moon_deg: f64, up_deg: f64) -> f64 {
    let at = Moon { separation_deg: (moon.separation_deg - toward_moon_deg).abs(), ..*moon };
    let altitude = (sky.target_altitude_deg + up_deg).clamp(0.0, 90.0);
    moon_mag_krisciunas_schaefer(&at, altitude, k_v).map_or(0.0, linear_from_mag)
}

/// Change of lamp light per degree of altitude, as a fraction: from 1 + 0.6 (X - 1).
fn lamps_per_deg(sky: &Sky) -> f64 {
    if sky.toward_target_v_mag.is_some() {
        return 0.0;
    }
    let at = |a: f64| 1.0 + 0.6 * (airmass(a.clamp(1.0, 90.0)) - 1.0);
    let a = sky.target_altitude_deg;
    (at(a + 0.5) - at(a - 0.5)) / at(a)
}

/// The slope across the sensor of one contender in a channel of `rates` and `pixels` pixels on the square of detail.
///
/// The moon is taken to stand along the diagonal, where its slope is largest; lamps slope with altitude along the short side.
pub fn gradient(s: &Scenario, c: &Contender, exposure: usize, rates: &Rates, pixels: f64) -> Gradient {
    let scale = c.optics.pixel_scale_arcsec(c.sensor.pixel_um);
    let (w, h) = (f64::from(c.sensor.columns) * scale / 3600.0, f64::from(c.sensor.rows) * scale / 3600.0);
    let half = w.hypot(h) / 2.0;
    let k_v = Air::new(s.sky.site_height_m, s.sky.k_v, 1.0).k(550.0);
    let background = (rates.background() + rates.dark).max(1e-12);
    let moon_share = rates.sky[2] / background;
    let slope = |moon: &Moon| {
        let middle = moon_linear(&s.sky, moon, k_v, 0.0, 0.0);
        if middle <= 0.0 {
            return 0.0;
        }
        (moon_linear(&s.sky, moon, k_v, half, 0.0) - moon_linear(&s.sky, moon, k_v, -half, 0.0)).abs() / middle
    };
    let moon_percent = s.sky.moon.as_ref().map_or(0.0, |m| 100.0 * moon_share * slope(m));
    let lamps_percent = (100.0 * rates.sky[1] / background * lamps_per_deg(&s.sky) * h).abs();
    let e = &c.exposures[exposure];
    let subs = subs_in(s.total_s * e.share, e.sub_s, c.overhead_s_per_sub + c.sensor.readout_s).max(1.0);
    let read = c.sensor.at_gain(c.gain).read_noise_e;
    let noise = (((rates.total()) * e.sub_s + read * read) * subs * pixels).sqrt();
    let signal = background * e.sub_s * subs * pixels;
    let percent = moon_percent + lamps_percent;
    let over_noise = percent / 100.0 * signal / noise;
    let below_noise_from_deg = s.sky.moon.as_ref().and_then(|m| {
        // Moonlight itself fades with distance: its share is rescaled to each separation.
        let here = moon_linear(&s.sky, m, k_v, 0.0, 0.0);
        let shows = |separation_deg: f64| {
            let at = Moon { separation_deg, ..*m };
            let share = moon_share * moon_linear(&s.sky, &at, k_v, 0.0, 0.0) / here.max(1e-300);
            (share * slope(&at) + lamps_percent / 100.0) * signal / noise > 1.0
        };
        let hidden = (4..=120).map(f64::from).find(|&d| !shows(d))?;
        (hidden > 4.0).then_some(hidden)
    });
    Gradient { percent, moon_percent, lamps_percent, over_noise, below_noise_from_deg }
}
