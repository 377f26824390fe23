//! The air over a night's frames: how much of it each looked through, and what it takes through a
//! filter.

use crate::frame::measured::FrameMeasured;
use crate::log::naming::alike;
use crate::night::ephemeris::{Direction, Ephemeris, Place};
use crate::path::sky::air::{Air, airmass};
use crate::scenario::exposure::Filter;
use crate::scenario::site::Site;

/// Extinction through a filter that nobody knows, mag to an airmass (common practice, no source).
pub const USUAL_K_MAG: f64 = 0.2;
/// A frame that looks lower than this has no airmass that means anything, degrees.
const LEAST_ALTITUDE_DEG: f64 = 5.0;

/// The air of a place, and the filters that are known by name.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct NightAir {
    place: Option<Place>,
    k_mag: Vec<(String, f64)>,
}

impl NightAir {
    /// Air over the site of frames that do not say theirs, through filters by their names. Through a
    /// filter of several bands it takes what it takes in the middle of each, as a mean; one that is
    /// known by a curve alone counts as unknown.
    pub fn new<'a>(
        site: Option<&Site>,
        filters: impl Iterator<Item = (&'a str, &'a Filter)>,
    ) -> Self {
        let air = Air::new(site.map_or(0.0, |s| s.height_m), site.and_then(|s| s.k_v), 1.0);
        let of = |(name, filter): (&str, &Filter)| {
            let bands = filter.bands.as_deref().filter(|b| !b.is_empty())?;
            let sum: f64 = bands.iter().map(|b| air.k(b.centre_nm)).sum();
            Some((name.to_owned(), sum / bands.len() as f64))
        };
        let place = site.map(Place::from);
        Self { place, k_mag: filters.filter_map(of).collect() }
    }

    /// Extinction through a filter as a header names it, mag to an airmass: the mean of those that
    /// it may mean; [`USUAL_K_MAG`] where it is none.
    pub fn k_mag(&self, filter: Option<&str>) -> f64 {
        let names: Vec<&str> = self.k_mag.iter().map(|(name, _)| name.as_str()).collect();
        let own = alike(filter.unwrap_or_default(), &names);
        let sum: f64 = own.iter().map(|i| self.k_mag[*i].1).sum();
        if own.is_empty() { USUAL_K_MAG } else { sum / own.len() as f64 }
    }

    /// Airmass of a frame that began at `start_s`, seconds since 1970 UTC: its header's, else that
    /// of its place on the sky in the middle of the exposure. `None` where neither is known.
    pub fn airmass(&self, frame: &FrameMeasured, start_s: Option<f64>) -> Option<f64> {
        let h = &frame.read.header;
        if h.airmass.is_some() {
            return h.airmass;
        }
        let at = Direction { ra_deg: h.ra_deg?, dec_deg: h.dec_deg? };
        let middle_s = start_s? + h.exposure_s.unwrap_or(0.0) / 2.0;
        let place = frame.site().or(self.place)?;
        let e = Ephemeris::new(place, middle_s - 60.0, middle_s + 60.0).ok()?;
        let altitude_deg = e.altitude_deg(&e.fixed(&at.vector(), middle_s), middle_s);
        (altitude_deg > LEAST_ALTITUDE_DEG).then(|| airmass(altitude_deg))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::library::{ShelfEntry, ShelfThing, demo_kit};
    use crate::log::quality::tests::frame_of_the_sky;

    fn larch_lane() -> Site {
        let kit = demo_kit();
        let is = |(_, e): &(String, ShelfEntry)| e.name == "Larch Lane";
        match kit.into_iter().find(is).map(|(_, e)| e.thing) {
            Some(ShelfThing::Site(site)) => site,
            other => panic!("{other:?}"),
        }
    }

    fn filter(centre_nm: &[f64]) -> Filter {
        let bands: Vec<_> = centre_nm
            .iter()
            .map(|c| {
                serde_json::json!({"centre_nm": c,
            "fwhm_nm": 3.0, "peak": 0.9})
            })
            .collect();
        serde_json::from_value(serde_json::json!({"name": "", "bands": bands})).expect("a filter")
    }

    #[test]
    fn blue_loses_more_than_red_and_a_dual_band_lies_between() {
        let (oiii, ha, both) = (filter(&[500.7]), filter(&[656.3]), filter(&[500.7, 656.3]));
        let named = [("OIII", &oiii), ("Ha", &ha), ("Dual", &both)];
        let air = NightAir::new(Some(&larch_lane()), named.into_iter());
        let k = |name| air.k_mag(Some(name));
        assert!(k("oiii") > k("Ha") && (k("Dual") - 0.5 * (k("OIII") + k("Ha"))).abs() < 1e-12);
        assert_eq!([air.k_mag(None), k("of a friend")], [USUAL_K_MAG; 2]);
        // A header's own word for a line, of which there are two filters.
        let two = [("H-alpha 3 nm", &ha), ("H-alpha 7 nm", &ha), ("[O III]", &oiii)];
        let air = NightAir::new(Some(&larch_lane()), two.into_iter());
        assert!((air.k_mag(Some("H_alpha")) - k("Ha")).abs() < 1e-12);
    }

    #[test]
    fn airmass_comes_from_header_or_place_and_time() {
        let air = NightAir::new(Some(&larch_lane()), std::iter::empty());
        let mut frame = frame_of_the_sky();
        assert_eq!(air.airmass(&frame, Some(1.8e9)), None);
        (frame.read.header.ra_deg, frame.read.header.dec_deg) = (Some(94.25), Some(22.57));
        // IC 443 over Larch Lane on 2027-01-11 stands highest about 04:20 UTC, 90 - 46.35 + 22.57 =
        // 66.2 degrees up: airmass 1.09.
        let at = |h: f64| {
            crate::night::ephemeris::unix_midnight(2027, 1, 11).expect("a day") + h * 3600.0
        };
        let highest = (0..100).filter_map(|i| air.airmass(&frame, Some(at(0.1 * f64::from(i)))));
        let least = highest.fold(f64::MAX, f64::min);
        assert!((least - 1.092).abs() < 0.005, "{least}");
        assert_eq!(NightAir::default().airmass(&frame, Some(at(4.0))), None);
        // At noon it is down.
        assert_eq!(air.airmass(&frame, Some(at(17.0))), None);
        frame.read.header.airmass = Some(1.7);
        assert_eq!(air.airmass(&frame, None), Some(1.7));
    }
}
