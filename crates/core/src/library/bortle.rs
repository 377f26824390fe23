//! Bortle classes as what they are worth: a range of brightness.

use serde::Serialize;
use utoipa::ToSchema;

/// A Bortle class with the zenith brightness it stands for.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct BortleClass {
    /// 1 (darkest) to 9.
    pub class: u8,
    /// Class centre, V mag/arcsec^2 (from memory).
    pub centre_v_mag: f64,
    /// Darker end of the class: midway to the next darker centre.
    pub darkest_v_mag: f64,
    /// Brighter end of the class: midway to the next brighter centre.
    pub brightest_v_mag: f64,
}

const CENTRES: [f64; 9] = [21.99, 21.9, 21.8, 21.1, 20.0, 19.2, 18.7, 18.2, 17.8];

/// All nine classes. Centres from memory; a class is coarse, and maps of it are years old.
pub const BORTLE: [BortleClass; 9] = {
    let mut classes =
        [BortleClass { class: 0, centre_v_mag: 0.0, darkest_v_mag: 0.0, brightest_v_mag: 0.0 }; 9];
    let mut i = 0;
    while i < 9 {
        let centre = CENTRES[i];
        classes[i] = BortleClass {
            class: i as u8 + 1,
            centre_v_mag: centre,
            darkest_v_mag: if i == 0 { 22.1 } else { (centre + CENTRES[i - 1]) / 2.0 },
            brightest_v_mag: if i == 8 { 17.0 } else { (centre + CENTRES[i + 1]) / 2.0 },
        };
        i += 1;
    }
    classes
};

/// The class in which a zenith brightness falls.
pub fn bortle_from_mag(v_mag: f64) -> BortleClass {
    BORTLE.into_iter().find(|c| v_mag >= c.brightest_v_mag).unwrap_or(BORTLE[8])
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_class_holds_its_centre_and_they_join() {
        for pair in BORTLE.windows(2) {
            assert_eq!(pair[0].brightest_v_mag, pair[1].darkest_v_mag);
        }
        for c in BORTLE {
            assert_eq!(bortle_from_mag(c.centre_v_mag).class, c.class);
        }
        assert_eq!(bortle_from_mag(15.0).class, 9);
        assert_eq!(bortle_from_mag(22.3).class, 1);
    }
}
