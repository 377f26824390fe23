//! A place to observe from, as the shelf keeps it.

use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::ToSchema;

use crate::light::lamp::Lamp;
use crate::scenario::defaults;
use crate::scenario::document::Scenario;
use crate::scenario::sky::Sky;

/// A place to observe from.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Site {
    /// Latitude, degrees, north positive.
    pub latitude_deg: f64,
    /// Longitude, degrees, east positive.
    pub longitude_deg: f64,
    /// Height above the sea, m.
    pub height_m: f64,
    /// Moonless brightness at the zenith, V mag/arcsec^2.
    pub zenith_v_mag: f64,
    /// Lamps as fractions of artificial V light.
    pub lamps: BTreeMap<Lamp, f64>,
    /// Measured extinction in V, mag per airmass.
    #[serde(default)]
    pub k_v: Option<f64>,
    /// Full width at half maximum of a star at the zenith on a usual night, arcsec; null where it
    /// is not known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub seeing_fwhm_arcsec: Option<f64>,
    /// Clear nights in a year on which one shoots here; null where nobody said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub nights_per_year: Option<f64>,
    /// IANA time zone, such as "America/Toronto"; null for the time of its longitude.
    #[serde(default)]
    pub zone: Option<String>,
    /// Trees and roofs: pairs of azimuth and altitude, degrees, azimuths ascending.
    #[serde(default)]
    #[schema(value_type = Vec<Vec<f64>>)]
    pub horizon_deg: Vec<[f64; 2]>,
    /// Glow of towns: pairs of azimuth, degrees ascending, and how much faster than usual lamp
    /// light grows there towards the horizon, joined by straight lines around the circle.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(value_type = Vec<Vec<f64>>)]
    pub glow: Vec<[f64; 2]>,
    /// Lamps that go out at night: pairs of the hour of mean solar time, 0 to 24 ascending, and how
    /// much darker than `zenith_v_mag` the zenith is from then on, mag.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(value_type = Vec<Vec<f64>>)]
    pub by_hour: Vec<[f64; 2]>,
    /// Figures that nights have measured, by name; each counts while the figure is still the one
    /// that was measured.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub known: BTreeMap<SiteFigure, KnownFigure>,
}

/// A figure of a site that nights measure.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum SiteFigure {
    /// [`Site::zenith_v_mag`].
    ZenithVMag,
    /// [`Site::k_v`].
    KV,
    /// [`Site::seeing_fwhm_arcsec`].
    SeeingFwhmArcsec,
}

/// How well a figure is known that nights have measured.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct KnownFigure {
    /// The figure as it was measured.
    pub value: f64,
    /// Its standard deviation.
    pub sd: f64,
    /// Over how many nights.
    pub nights: u32,
}

/// Two figures that differ by less than this are one that was rounded.
const SAME: f64 = 1e-6;

impl Site {
    /// How well a figure that stands at `value` is known by the nights; `None` where no night has
    /// measured it, or somebody has typed another since.
    pub fn known(&self, figure: SiteFigure, value: f64) -> Option<KnownFigure> {
        self.known.get(&figure).copied().filter(|k| (k.value - value).abs() < SAME)
    }

    /// The standard deviation of [`Self::known`].
    pub fn known_sd(&self, figure: SiteFigure, value: f64) -> Option<f64> {
        self.known(figure, value).map(|k| k.sd)
    }

    /// Puts what is known of the site beside its sky into a scenario: its seeing, and how sure nights
    /// have made its brightness and its air.
    pub fn put_into(&self, s: &mut Scenario) {
        s.seeing_fwhm_arcsec = self.seeing_fwhm_arcsec.unwrap_or(s.seeing_fwhm_arcsec);
        let unsure = &mut s.choices.uncertainty;
        if let Some(sd) = self.known_sd(SiteFigure::ZenithVMag, self.zenith_v_mag) {
            unsure.sky_mag = sd.min(unsure.sky_mag);
        }
        if let Some(sd) = self.k_v.and_then(|k| self.known_sd(SiteFigure::KV, k)) {
            unsure.k_v_mag = sd.min(unsure.k_v_mag);
        }
    }

    /// Whether a place, degrees north and east, is this site: within ten kilometres or so.
    pub fn is_at(&self, latitude_deg: f64, longitude_deg: f64) -> bool {
        /// Degrees of a great circle.
        const NEAR_DEG: f64 = 0.1;
        let around = (longitude_deg - self.longitude_deg + 180.0).rem_euclid(360.0) - 180.0;
        let east = around * latitude_deg.to_radians().cos();
        east.hypot(latitude_deg - self.latitude_deg) < NEAR_DEG
    }

    /// Mean solar time at a moment, seconds since 1970 UTC: hours, 0 to 24.
    pub fn solar_hour(&self, at_s: f64) -> f64 {
        solar_hour(self.longitude_deg, at_s)
    }

    /// How much darker than its zenith's figure the zenith is at an hour of mean solar time, mag.
    pub fn darker_at(&self, solar_hour: f64) -> f64 {
        darker_at(&self.by_hour, solar_hour)
    }

    /// Its sky before anything is known of a night: no moon, no twilight, a target 60 degrees high.
    pub fn sky(&self, name: &str) -> Sky {
        Sky {
            site: Some(name.to_owned()),
            zenith_v_mag: self.zenith_v_mag,
            lamps: self.lamps.clone(),
            glow: self.glow.clone(),
            by_hour: self.by_hour.clone(),
            latitude_deg: Some(self.latitude_deg),
            site_height_m: self.height_m,
            k_v: self.k_v,
            ..Sky::suburb()
        }
    }
}

impl Sky {
    /// The sky of a usual suburb (Bortle class 6, mostly LED; typical, from memory), where no site
    /// is known.
    pub fn suburb() -> Self {
        Self {
            site: None,
            zenith_v_mag: 19.5,
            natural_v_mag: defaults::natural_v_mag(),
            lamps: [
                (Lamp::Led3000k, 0.35),
                (Lamp::Led4000k, 0.45),
                (Lamp::HighPressureSodium, 0.2),
            ]
            .into(),
            toward_target_v_mag: None,
            toward_target_altitude_deg: None,
            toward_target_azimuth_deg: None,
            target_altitude_deg: 60.0,
            target_azimuth_deg: None,
            glow: Vec::new(),
            by_hour: Vec::new(),
            latitude_deg: None,
            site_height_m: 0.0,
            k_v: None,
            ambient_c: defaults::ambient_c(),
            moon: None,
            sun_altitude_deg: defaults::sun_altitude_deg(),
        }
    }
}

/// Mean solar time at a longitude, degrees east, at a moment, seconds since 1970 UTC: hours, 0 to
/// 24, noon at 12.
pub fn solar_hour(longitude_deg: f64, at_s: f64) -> f64 {
    (at_s / 3600.0 + longitude_deg / 15.0).rem_euclid(24.0)
}

/// How much darker than usual the zenith is at an hour, mag, by steps of hour and magnitudes: from
/// noon on as stated, from each step's hour on what it says, until noon. The night of a site is one
/// piece so: hours before noon come after those of the evening.
pub fn darker_at(by_hour: &[[f64; 2]], solar_hour: f64) -> f64 {
    let since_noon = |hour: f64| (hour - 12.0).rem_euclid(24.0);
    let now = since_noon(solar_hour);
    let begun = by_hour.iter().filter(|[hour, _]| since_noon(*hour) <= now);
    let last = begun.max_by(|a, b| since_noon(a[0]).total_cmp(&since_noon(b[0])));
    last.map_or(0.0, |[_, darker]| *darker)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn site(latitude_deg: f64, longitude_deg: f64) -> Site {
        let lamps = serde_json::json!({"led_3000k": 1.0});
        let site = serde_json::json!({"latitude_deg": latitude_deg, "longitude_deg": longitude_deg,
            "height_m": 0.0, "zenith_v_mag": 20.5, "k_v": 0.2, "lamps": lamps});
        serde_json::from_value(site).expect("a site")
    }

    #[test]
    fn what_nights_have_measured_narrows_a_new_comparison_until_somebody_types_another_figure() {
        let mut site = site(46.0, 8.0);
        let unsure = |site: &Site| {
            let mut s = crate::common::ic_443();
            site.put_into(&mut s);
            let u = s.choices.uncertainty;
            [u.sky_mag, u.k_v_mag]
        };
        assert_eq!(unsure(&site), [0.15, 0.05]);
        let known = |value, sd| KnownFigure { value, sd, nights: 3 };
        site.known.insert(SiteFigure::ZenithVMag, known(20.5, 0.08));
        site.known.insert(SiteFigure::KV, known(0.2, 0.02));
        assert_eq!(unsure(&site), [0.08, 0.02]);
        (site.zenith_v_mag, site.k_v) = (20.4, None);
        assert_eq!(unsure(&site), [0.15, 0.05]);
    }

    #[test]
    fn lamps_that_go_out_stay_out_until_noon() {
        let steps = [[4.5, -0.1], [22.75, 0.3]];
        for (hour, darker) in [
            (18.0, 0.0),
            (22.7, 0.0),
            (22.8, 0.3),
            (23.9, 0.3),
            (0.1, 0.3),
            (4.4, 0.3),
            (5.0, -0.1),
            (13.0, 0.0),
        ] {
            assert_eq!(darker_at(&steps, hour), darker, "{hour}");
        }
        assert_eq!(darker_at(&[], 1.0), 0.0);
    }

    #[test]
    fn a_site_is_ten_kilometres_wide_and_the_date_line_is_no_edge() {
        let site = site(60.0, 179.95);
        assert!(site.is_at(60.0, -179.95) && site.is_at(60.05, 179.9));
        assert!(!site.is_at(60.2, 179.95) && !site.is_at(60.0, -179.7));
    }

    #[test]
    fn solar_time_is_noon_when_the_mean_sun_is_south() {
        // 2027-01-01T00:00:00Z is 0 h at Greenwich, 18 h of the evening before at 90 degrees west.
        assert!((solar_hour(0.0, 1_798_761_600.0)).abs() < 1e-9);
        assert!((solar_hour(-90.0, 1_798_761_600.0) - 18.0).abs() < 1e-9);
    }
}
