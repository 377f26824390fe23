//! What a sky meter's readings make of a site: the brightness of its zenith, and the hours at which
//! lamps go out.
//!
//! Readings under the moon, in twilight and through cloud say nothing of lamps. Cloud over a town is
//! bright and restless: of every five minutes the middle reading counts, where its readings agree.

use serde::Serialize;
use utoipa::ToSchema;

use crate::frame::tile::{OF_MAD, middle};
use crate::log::offer::Estimate;
use crate::log::site_taught::{step, zenith_of};
use crate::night::ephemeris::{Ephemeris, EphemerisError, Place};
use crate::scenario::site::Site;

/// The sun below this, degrees: no twilight is left.
const SUN_BELOW_DEG: f64 = -18.0;
/// The moon below this, degrees: nothing of its light is left.
const MOON_BELOW_DEG: f64 = -3.0;
/// Readings are put together over so long, s.
const TOGETHER_S: f64 = 300.0;
/// Readings of five minutes that scatter more are of a restless sky, mag.
const RESTLESS_MAG: f64 = 0.08;
/// Readings that make five minutes.
const LEAST_READINGS: usize = 3;
/// Nights of readings in one file, at most: beyond that the table of sun and moon grows long.
const MOST_NIGHTS: f64 = 400.0;

/// What readings make of a site.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct MeterTaught {
    /// Brightness of the zenith before any lamp goes out, V mag/arcsec^2.
    pub zenith_v_mag: Estimate,
    /// Lamps that go out: pairs of the hour of mean solar time and how much darker the zenith is from
    /// then on, mag.
    #[schema(value_type = Vec<Vec<f64>>)]
    pub by_hour: Vec<[f64; 2]>,
    /// Readings that counted.
    pub readings: usize,
    /// Nights that they are of.
    pub nights: usize,
    /// Both in a sentence.
    pub told: String,
}

/// Learns from readings, pairs of seconds since 1970 UTC and V mag/arcsec^2 in the order of time.
/// `None` where too few of them are of a dark, moonless, clear sky.
///
/// # Errors
/// Times at which sun and moon are not known.
pub fn meter_taught(
    site: &Site,
    readings: &[(f64, f64)],
) -> Result<Option<MeterTaught>, EphemerisError> {
    let Some((first, last)) = readings.first().zip(readings.last()) else { return Ok(None) };
    let to_s = last.0.min(first.0 + MOST_NIGHTS * 86_400.0);
    let e = Ephemeris::new(Place::from(site), first.0, to_s)?;
    let is_dark = |t: f64| {
        t <= to_s
            && e.altitude_deg(&e.sun(t), t) < SUN_BELOW_DEG
            && e.altitude_deg(&e.moon(t), t) < MOON_BELOW_DEG
    };
    let dark: Vec<(f64, f64)> = readings.iter().copied().filter(|r| is_dark(r.0)).collect();
    let mut fives: Vec<(f64, usize, f64)> = Vec::new();
    let mut used = 0;
    let of = |t: f64| (t / TOGETHER_S).floor();
    for some in dark.chunk_by(|a, b| of(a.0) == of(b.0)) {
        let Some(value) = middle(some.iter().map(|r| r.1)) else { continue };
        let scatter = OF_MAD * middle(some.iter().map(|r| (r.1 - value).abs())).unwrap_or(0.0);
        if some.len() >= LEAST_READINGS && scatter < RESTLESS_MAG {
            used += some.len();
            // Nights lie over each other by their hours; each keeps its own height.
            let noon = (some[0].0 + site.longitude_deg * 240.0 - 43_200.0).div_euclid(86_400.0);
            let hour = (site.solar_hour(some[some.len() / 2].0) - 12.0).rem_euclid(24.0);
            fives.push((hour * 3600.0, noon as usize, value));
        }
    }
    let mut nights: Vec<usize> = fives.iter().map(|q| q.1).collect();
    nights.dedup();
    fives.iter_mut().for_each(|q| {
        q.1 = nights.iter().position(|n| *n == q.1).unwrap_or(0);
    });
    fives.sort_by(|a, b| a.0.total_cmp(&b.0));
    let step = step(&fives);
    let evening: Vec<_> =
        fives.iter().filter(|q| step.is_none_or(|s| q.0 <= s.at_s)).copied().collect();
    let Some(zenith) = zenith_of(&evening) else { return Ok(None) };
    let hour_of = |seconds: f64| (seconds / 3600.0 + 12.0).rem_euclid(24.0);
    let by_hour: Vec<[f64; 2]> =
        step.iter().map(|s| [hour_of(s.at_s), s.darker_mag.value]).collect();
    let lamps = step.map_or(String::new(), |s| {
        let hour = hour_of(s.at_s);
        format!(
            ", and {:.2} mag {} from {:.0}:{:02.0} mean solar time on",
            s.darker_mag.value.abs(),
            if s.darker_mag.value > 0.0 { "darker" } else { "brighter" },
            hour.floor(),
            (hour.fract() * 60.0).floor()
        )
    });
    let told = format!(
        "{used} of {} readings are of a dark sky without moon and cloud: {:.2} \u{b1} {:.2} V \
         mag/arcsec\u{b2}{lamps}.",
        readings.len(),
        zenith.value,
        zenith.sd
    );
    let nights = nights.len();
    Ok(Some(MeterTaught { zenith_v_mag: zenith, by_hour, readings: used, nights, told }))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::library::{ShelfThing, demo_kit};
    use crate::night::ephemeris::unix_midnight;

    fn larch_lane() -> Site {
        let mut sites = demo_kit().into_iter().filter_map(|(_, e)| match e.thing {
            ShelfThing::Site(s) => Some(s),
            _ => None,
        });
        sites.next().expect("a site")
    }

    /// A reading a minute of nights from local 18 h to 6 h, by hours after local mean noon.
    fn readings(site: &Site, nights: u32, at: impl Fn(u32, f64) -> f64) -> Vec<(f64, f64)> {
        // The new moon of 2027-01-07.
        let noon =
            unix_midnight(2027, 1, 5).expect("a day") + 43_200.0 - site.longitude_deg * 240.0;
        let mut all = Vec::new();
        for night in 0..nights {
            for minute in 360..1080 {
                let s = noon + f64::from(night) * 86_400.0 + 60.0 * f64::from(minute);
                // A meter's scatter that is the same on every run.
                let scatter = 0.02 * (f64::from(minute * 7919 % 100) / 50.0 - 1.0);
                all.push((s, at(night, f64::from(minute) / 60.0) + scatter));
            }
        }
        all
    }

    #[test]
    fn lamps_and_zenith_come_out_of_nights_that_differ() {
        let site = larch_lane();
        // Out at 23:00 mean solar time, eleven hours after noon; the second night is hazier, and the
        // third has two hours of bright restless cloud.
        let all = readings(&site, 3, |night, hour| {
            let cloud = night == 2 && (9.0..11.0).contains(&hour);
            let restless = if cloud { 1.0 + 0.5 * (hour * 60.0).sin() } else { 0.0 };
            19.3 - 0.1 * f64::from(u8::from(night == 1)) - restless
                + if hour >= 11.0 { 0.35 } else { 0.0 }
        });
        let told = meter_taught(&site, &all).expect("known times").expect("dark readings");
        assert!((told.zenith_v_mag.value - 19.27).abs() < 0.05, "{told:?}");
        assert_eq!((told.by_hour.len(), told.nights), (1, 3));
        let [hour, darker] = told.by_hour[0];
        assert!((hour - 23.0).abs() < 0.1 && (darker - 0.35).abs() < 0.03, "{told:?}");
        assert!(told.readings < all.len() && told.told.contains("darker"), "{}", told.told);
    }

    #[test]
    fn an_even_sky_has_no_step_and_a_bright_night_says_nothing() {
        let site = larch_lane();
        let even = readings(&site, 1, |_, hour| 19.3 + 0.02 * hour);
        let told = meter_taught(&site, &even).expect("known times").expect("dark readings");
        assert!(told.by_hour.is_empty(), "{told:?}");
        let noon: Vec<(f64, f64)> = even.iter().map(|(t, v)| (t + 43_200.0, *v)).collect();
        let daylight = noon.iter().filter(|(t, _)| (9.0..15.0).contains(&site.solar_hour(*t)));
        let daylight: Vec<_> = daylight.copied().collect();
        assert_eq!(meter_taught(&site, &daylight).expect("known times"), None);
        assert_eq!(meter_taught(&site, &[]).expect("nothing"), None);
    }
}
