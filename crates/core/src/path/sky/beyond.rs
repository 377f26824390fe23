//! What shines beyond the air: zodiacal light and the Milky Way, by direction.

use crate::library::planes::{
    ecliptic_latitude_deg, ecliptic_longitude_deg, galactic_latitude_deg, galactic_longitude_deg,
};
use crate::scenario::document::Scenario;

/// Airglow at the sun's minimum, stars of tenth magnitude a square degree (Benn & Ellison 1998, La
/// Palma Technical Note 115).
const AIRGLOW_S10: f64 = 145.0;

/// Ecliptic latitudes of [`ZODIACAL_S10`], degrees.
const LATITUDES_DEG: [f64; 11] = [0.0, 5.0, 10.0, 15.0, 20.0, 25.0, 30.0, 45.0, 60.0, 75.0, 90.0];

/// Ecliptic longitudes from the sun of [`ZODIACAL_S10`], degrees.
const FROM_SUN_DEG: [f64; 19] = [
    0.0, 5.0, 10.0, 15.0, 20.0, 25.0, 30.0, 35.0, 40.0, 45.0, 60.0, 75.0, 90.0, 105.0, 120.0,
    135.0, 150.0, 165.0, 180.0,
];

/// Zodiacal light at 500 nm, solar stars of tenth magnitude a square degree (Leinert et al. 1998,
/// A&AS 127, 1, table 16; from memory). Too near the sun for the table, where no target is
/// photographed, the nearest value stands.
const ZODIACAL_S10: [[f64; 11]; 19] = [
    [11500., 6780., 4740., 3140., 1610., 985., 640., 275., 150., 100., 60.],
    [11500., 6780., 4740., 2940., 1540., 945., 625., 271., 150., 100., 60.],
    [11500., 6780., 4740., 2470., 1370., 865., 590., 264., 148., 100., 60.],
    [11500., 6780., 3440., 1860., 1110., 755., 525., 251., 146., 100., 60.],
    [6400., 4480., 2410., 1410., 910., 635., 454., 237., 141., 99., 60.],
    [3840., 2830., 1730., 1100., 749., 545., 410., 223., 136., 97., 60.],
    [2480., 1870., 1220., 845., 615., 467., 365., 207., 131., 95., 60.],
    [1650., 1270., 910., 680., 510., 397., 320., 193., 125., 93., 60.],
    [1180., 940., 700., 530., 416., 338., 282., 179., 120., 92., 60.],
    [910., 730., 555., 442., 356., 292., 250., 166., 116., 90., 60.],
    [505., 442., 352., 292., 243., 209., 183., 134., 104., 86., 60.],
    [338., 317., 269., 227., 196., 172., 151., 116., 93., 82., 60.],
    [259., 251., 225., 193., 166., 147., 132., 104., 86., 79., 60.],
    [212., 210., 197., 170., 150., 133., 119., 96., 82., 77., 60.],
    [188., 186., 177., 154., 138., 125., 113., 90., 77., 74., 60.],
    [179., 178., 166., 147., 134., 122., 110., 90., 77., 73., 60.],
    [179., 178., 165., 148., 137., 127., 116., 96., 79., 72., 60.],
    [196., 192., 179., 165., 151., 141., 131., 104., 82., 72., 60.],
    [230., 212., 195., 178., 163., 148., 134., 105., 83., 72., 60.],
];

/// Ecliptic longitude from the sun where no date is known: a target of the middle of the night, off
/// the gegenschein.
const ANY_NIGHT_DEG: f64 = 135.0;

/// Zodiacal light at the ecliptic's pole, which the default sky holds.
const AT_THE_POLE_S10: f64 = 60.0;

/// Starlight of the Milky Way's middle line, mean of all longitudes, and by how much it is brighter
/// towards the centre and darker towards the anticentre, stars of tenth magnitude a square degree;
/// it falls by e in 10 degrees of latitude (Benn & Ellison 1998 for fall and size at 90 degrees of
/// longitude; Leinert et al. 1998, section 10, for the centre; from memory, good to a third).
const MILKY_WAY_S10: [f64; 2] = [100.0, 55.0];
const MILKY_WAY_FALL_DEG: f64 = 10.0;

/// Where a value lies on an ascending axis: the index below it, and how far on, 0 to 1.
fn between(axis: &[f64], at: f64) -> (usize, f64) {
    let i = axis.partition_point(|x| *x <= at).clamp(1, axis.len() - 1) - 1;
    (i, ((at - axis[i]) / (axis[i + 1] - axis[i])).clamp(0.0, 1.0))
}

/// Zodiacal light, solar stars of tenth magnitude a square degree, at an ecliptic latitude and an
/// ecliptic longitude from the sun, degrees of either sign: [`ZODIACAL_S10`], linear between.
pub fn zodiacal_s10(latitude_deg: f64, from_sun_deg: f64) -> f64 {
    let along = (from_sun_deg + 180.0).rem_euclid(360.0) - 180.0;
    let (i, u) = between(&FROM_SUN_DEG, along.abs());
    let (j, v) = between(&LATITUDES_DEG, latitude_deg.abs());
    let row = |i: usize| ZODIACAL_S10[i][j] * (1.0 - v) + ZODIACAL_S10[i][j + 1] * v;
    row(i) * (1.0 - u) + row(i + 1) * u
}

/// A direction beyond the air: where it stands on the ecliptic and on the Milky Way.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Beyond {
    ecliptic_deg: [f64; 2],
    stars_s10: f64,
}

impl Beyond {
    /// Of right ascension and declination, degrees of J2000.
    pub fn new(right_ascension_deg: f64, declination_deg: f64) -> Self {
        let there = [right_ascension_deg, declination_deg];
        let [l, b] = [galactic_longitude_deg(there), galactic_latitude_deg(there[0], there[1])];
        let [mean, swing] = MILKY_WAY_S10;
        let middle = mean + swing * l.to_radians().cos();
        Self {
            ecliptic_deg: [
                ecliptic_longitude_deg(there[0], there[1]),
                ecliptic_latitude_deg(there[0], there[1]),
            ],
            stars_s10: middle * (-b.abs() / MILKY_WAY_FALL_DEG).exp(),
        }
    }

    /// Natural light towards it against that of the default sky, which looks at the ecliptic's pole
    /// away from the Milky Way: airglow, zodiacal light and starlight over airglow and zodiacal
    /// light there. `sun_longitude_deg` is the sun's on the ecliptic; without it the target is one
    /// of the middle of the night. Several tenths of a magnitude at a dark site, nothing in a
    /// suburb.
    pub fn natural_light(&self, sun_longitude_deg: Option<f64>) -> f64 {
        let [longitude, latitude] = self.ecliptic_deg;
        let from_sun = sun_longitude_deg.map_or(ANY_NIGHT_DEG, |sun| longitude - sun);
        (AIRGLOW_S10 + zodiacal_s10(latitude, from_sun) + self.stars_s10)
            / (AIRGLOW_S10 + AT_THE_POLE_S10)
    }
}

impl Scenario {
    /// Where the target stands beyond the air; `None` where its place is not known, or where a
    /// brightness was measured towards it: that holds everything already.
    pub fn beyond_the_air(&self) -> Option<Beyond> {
        let measured = self.sky.toward_target_v_mag.is_some();
        let place = self.target.place().filter(|_| !measured);
        place.map(|at| Beyond::new(at.ra_deg, at.dec_deg))
    }

    /// Natural light towards the target against the default's, on no date: 1 where its place is not
    /// known.
    pub fn natural_light_towards_target(&self) -> f64 {
        self.beyond_the_air().map_or(1.0, |b| b.natural_light(None))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// High above both planes the default sky; in the Milky Way on the ecliptic brighter by most of
    /// a magnitude, and never without measure away from the sun.
    #[test]
    fn zodiacal_light_and_milky_way_brighten_a_dark_sky() {
        let at = |ra, dec| Beyond::new(ra, dec).natural_light(None);
        assert!((at(270.0, 66.56) - (145.0 + 60.0) / 205.0).abs() < 0.06, "{}", at(270.0, 66.56));
        // Where ecliptic and Milky Way cross, in Taurus and Gemini (by hand: l 186 of the mean).
        let crossing = (145.0 + 179.0 + 100.0 - 55.0) / 205.0;
        assert!((at(90.0, 23.44) - crossing).abs() < 0.02, "{}", at(90.0, 23.44));
        assert!(at(270.0, -23.44) > at(90.0, 23.44), "the centre's side is the brighter");
        let mut last = at(83.0, -90.0);
        for step in 0..=1800 {
            let here = at(83.0, f64::from(step) * 0.1 - 90.0);
            assert!((1.0..2.2).contains(&here), "{step}: {here}");
            // Without a step: a tenth of a degree changes under 0.02 mag.
            assert!(step == 0 || (2.5 * (here / last).log10()).abs() < 0.02, "{step}");
            last = here;
        }
    }

    /// Against the sun the ecliptic glows a little (the gegenschein), towards it much.
    #[test]
    fn zodiacal_light_follows_the_sun() {
        let on_ecliptic: Vec<f64> = (0..=180).map(|d| zodiacal_s10(0.0, f64::from(d))).collect();
        let darkest = (0..=180).min_by(|a, b| on_ecliptic[*a].total_cmp(&on_ecliptic[*b])).unwrap();
        assert!((135..=150).contains(&darkest), "{darkest}");
        assert!(on_ecliptic[180] > 1.25 * on_ecliptic[darkest] && on_ecliptic[60] > 500.0);
        assert_eq!(zodiacal_s10(-30.0, -120.0), 113.0);
        assert_eq!(zodiacal_s10(-30.0, 240.0), 113.0);
        assert_eq!(zodiacal_s10(90.0, 77.0), 60.0);
        // The gegenschein of a night: the sun at longitude 90, a target at 270.
        let there = Beyond::new(270.0, -23.44);
        assert!(there.natural_light(Some(90.0)) > there.natural_light(Some(130.0)));
    }

    #[test]
    fn longitudes_are_those_of_known_places() {
        // Centre and anticentre of the galaxy, and the solstice.
        let l = |ra, dec| galactic_longitude_deg([ra, dec]);
        let centre = (l(266.405, -28.936) + 180.0).rem_euclid(360.0) - 180.0;
        assert!(centre.abs() < 0.02, "{centre}");
        assert!((l(86.405, 28.936) - 180.0).abs() < 0.02, "{}", l(86.405, 28.936));
        assert!((ecliptic_longitude_deg(90.0, 23.4393) - 90.0).abs() < 1e-6);
        assert!((ecliptic_longitude_deg(180.0, 0.0) - 180.0).abs() < 1e-6);
    }
}
