//! The stars of the sky, down to about the tenth magnitude.
//!
//! Gaia's and Hipparcos' stars in places of 2027.0, see `data/SOURCES.md`.

use std::collections::HashMap;

use serde::Serialize;
use utoipa::ToSchema;

use crate::scenario::pointing::unit;

/// A star.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct CatalogueStar {
    /// Right ascension, degrees, ICRS, of 2027.0.
    pub ra_deg: f64,
    /// Declination, degrees.
    pub dec_deg: f64,
    /// V magnitude, to 0.05; of the fainter ones Gaia's G with 0.15 added, to 0.2.
    pub v_mag: f64,
    /// B - V; null where it is not known.
    pub b_v: Option<f64>,
    /// What it is called: "Sadr", "gamma Cyg".
    pub name: Option<String>,
}

const STARS: &[u8] = include_bytes!("../../../../data/stars/stars.bin");
const NAMES: &str = include_str!("../../../../data/stars/names.csv");

/// Bytes of a star: place in three and three, V and B - V in one each.
const RECORD: usize = 8;
/// Parts of a turn, and of the half turn from pole to pole.
const PARTS: f64 = (1u32 << 24) as f64;
const V_STEP_MAG: f64 = 0.05;
const BRIGHTEST_V_MAG: f64 = -2.01;
const B_V_STEP_MAG: f64 = 0.01;
const BLUEST_B_V: f64 = -0.5;

/// All stars, by declination.
#[derive(Clone, Debug)]
pub struct Stars {
    bytes: &'static [u8],
    names: HashMap<usize, &'static str>,
}

fn three(bytes: &[u8]) -> f64 {
    f64::from(u32::from_le_bytes([bytes[0], bytes[1], bytes[2], 0]))
}

impl Stars {
    /// The shipped stars.
    ///
    /// # Errors
    /// The row of a name that is damaged, or a file of broken length; a test reads both.
    pub fn shipped() -> Result<Self, String> {
        if !STARS.len().is_multiple_of(RECORD) {
            return Err(format!("stars.bin: {} bytes are no whole stars", STARS.len()));
        }
        let named = |(i, line): (usize, &'static str)| {
            let wrong = || format!("names.csv, row {}: {line}", i + 1);
            let (star, name) = line.split_once(',').ok_or_else(wrong)?;
            let star = star.parse::<usize>().map_err(|_| wrong())?;
            Ok::<_, String>((star, name.trim_matches('"')))
        };
        let names = NAMES.lines().enumerate().skip(1).map(named).collect::<Result<_, _>>()?;
        Ok(Self { bytes: STARS, names })
    }

    /// The shipped stars without their names, at no cost.
    pub fn nameless() -> Self {
        Self { bytes: STARS, names: HashMap::new() }
    }

    /// Number of stars.
    pub fn len(&self) -> usize {
        self.bytes.len() / RECORD
    }

    /// Whether there are none.
    pub fn is_empty(&self) -> bool {
        self.bytes.is_empty()
    }

    fn record(&self, i: usize) -> &'static [u8] {
        &self.bytes[i * RECORD..(i + 1) * RECORD]
    }

    fn dec_deg(&self, i: usize) -> f64 {
        three(&self.record(i)[3..6]) / PARTS * 180.0 - 90.0
    }

    /// The star at an index.
    fn star(&self, i: usize) -> CatalogueStar {
        let r = self.record(i);
        CatalogueStar {
            ra_deg: three(&r[..3]) / PARTS * 360.0,
            dec_deg: self.dec_deg(i),
            v_mag: BRIGHTEST_V_MAG + f64::from(r[6]) * V_STEP_MAG,
            b_v: (r[7] < u8::MAX).then(|| BLUEST_B_V + f64::from(r[7]) * B_V_STEP_MAG),
            name: self.names.get(&i).map(|n| (*n).to_owned()),
        }
    }

    /// The stars within a radius of a place, degrees, brightest first; those fainter than
    /// `faintest_v_mag` left out.
    pub fn around(
        &self,
        ra_deg: f64,
        dec_deg: f64,
        radius_deg: f64,
        faintest_v_mag: f64,
    ) -> Vec<CatalogueStar> {
        let at = |dec: f64| -> usize {
            let (mut low, mut high) = (0, self.len());
            while low < high {
                let middle = usize::midpoint(low, high);
                if self.dec_deg(middle) < dec { low = middle + 1 } else { high = middle }
            }
            low
        };
        let toward = unit(ra_deg, dec_deg);
        let least = radius_deg.to_radians().cos();
        let mut out: Vec<CatalogueStar> = (at(dec_deg - radius_deg)..at(dec_deg + radius_deg))
            .map(|i| self.star(i))
            .filter(|s| s.v_mag <= faintest_v_mag)
            .filter(|s| {
                let v = unit(s.ra_deg, s.dec_deg);
                (0..3).map(|k| v[k] * toward[k]).sum::<f64>() >= least
            })
            .collect();
        out.sort_by(|a, b| a.v_mag.total_cmp(&b.v_mag));
        out
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn stars() -> Stars {
        Stars::shipped().unwrap()
    }

    /// Stars that everybody knows (places of J2000 and V from memory; proper motion moves none of
    /// these by more than 0.02 degrees).
    #[test]
    fn bright_stars_stand_where_they_are_known_to() {
        let all = stars();
        assert!(all.len() > 400_000);
        for (name, ra, dec, v, b_v) in [
            ("Vega", 279.234, 38.784, 0.03, 0.0),
            ("Sadr", 305.557, 40.257, 2.23, 0.67),
            ("Alnitak", 85.190, -1.943, 1.74, -0.2),
            ("Polaris", 37.95, 89.264, 1.98, 0.64),
            ("Betelgeuse", 88.793, 7.407, 0.45, 1.5),
            // Red giants, which Gaia sees brighter by more than a magnitude.
            ("Propus", 93.719, 22.507, 3.31, 1.6),
            ("Tejat", 95.740, 22.514, 2.87, 1.6),
        ] {
            let near = all.around(ra, dec, 0.1, 6.0);
            let s = near.first().unwrap_or_else(|| panic!("no {name}"));
            assert_eq!(s.name.as_deref(), Some(name));
            assert!((s.v_mag - v).abs() < 0.15, "{name}: {}", s.v_mag);
            assert!((s.b_v.unwrap() - b_v).abs() < 0.15, "{name}: {:?}", s.b_v);
            assert!((s.dec_deg - dec).abs() < 0.02, "{name}: {}", s.dec_deg);
        }
    }

    #[test]
    fn what_is_around_a_place_is_all_that_is() {
        let all = stars();
        for (ra, dec, radius) in [(0.1, 20.0, 1.5), (180.0, 89.0, 2.0), (300.0, -45.0, 3.0)] {
            let found = all.around(ra, dec, radius, 9.0);
            let toward = unit(ra, dec);
            let plain = (0..all.len())
                .map(|i| all.star(i))
                .filter(|s| {
                    let v = unit(s.ra_deg, s.dec_deg);
                    let cos: f64 = (0..3).map(|k| v[k] * toward[k]).sum();
                    s.v_mag <= 9.0 && cos >= radius.to_radians().cos()
                })
                .count();
            assert_eq!(found.len(), plain, "{ra} {dec}");
            assert!(plain > 3 && found.is_sorted_by_key(|s| (s.v_mag * 100.0) as i64));
        }
    }
}
