//! The two planes of the sky besides the equator: the ecliptic and the Milky Way.

/// Poles of ecliptic (obliquity 23.4393 degrees, IAU 2006) and Milky Way (the frame of 1958 carried
/// to J2000), right ascension and declination, degrees.
const ECLIPTIC_POLE_DEG: [f64; 2] = [270.0, 90.0 - OBLIQUITY_DEG];
const OBLIQUITY_DEG: f64 = 23.4393;
const GALACTIC_POLE_DEG: [f64; 2] = [192.8595, 27.1283];
/// Galactic longitude of the celestial pole, degrees.
const CELESTIAL_POLE_L_DEG: f64 = 122.932;

/// How high a direction stands above a plane whose pole is given, degrees.
fn latitude_deg(direction: [f64; 2], pole: [f64; 2]) -> f64 {
    let [[ra, dec], [pole_ra, pole_dec]] = [direction, pole].map(|d| d.map(f64::to_radians));
    let sine = dec.sin() * pole_dec.sin() + dec.cos() * pole_dec.cos() * (ra - pole_ra).cos();
    sine.clamp(-1.0, 1.0).asin().to_degrees()
}

/// Ecliptic latitude, degrees, of a direction of J2000.
pub fn ecliptic_latitude_deg(right_ascension_deg: f64, declination_deg: f64) -> f64 {
    latitude_deg([right_ascension_deg, declination_deg], ECLIPTIC_POLE_DEG)
}

/// Ecliptic longitude, degrees from 0 to 360, of a direction of J2000.
pub fn ecliptic_longitude_deg(right_ascension_deg: f64, declination_deg: f64) -> f64 {
    let [ra, dec, e] = [right_ascension_deg, declination_deg, OBLIQUITY_DEG].map(f64::to_radians);
    let y = ra.sin() * dec.cos() * e.cos() + dec.sin() * e.sin();
    y.atan2(ra.cos() * dec.cos()).to_degrees().rem_euclid(360.0)
}

/// Galactic latitude, degrees, of a direction of J2000.
pub fn galactic_latitude_deg(right_ascension_deg: f64, declination_deg: f64) -> f64 {
    latitude_deg([right_ascension_deg, declination_deg], GALACTIC_POLE_DEG)
}

/// Galactic longitude, degrees from 0 to 360, of a direction of J2000.
pub fn galactic_longitude_deg(direction: [f64; 2]) -> f64 {
    let [[ra, dec], [pole_ra, pole_dec]] =
        [direction, GALACTIC_POLE_DEG].map(|d| d.map(f64::to_radians));
    let y = dec.cos() * (ra - pole_ra).sin();
    let x = pole_dec.cos() * dec.sin() - pole_dec.sin() * dec.cos() * (ra - pole_ra).cos();
    (CELESTIAL_POLE_L_DEG - y.atan2(x).to_degrees()).rem_euclid(360.0)
}

/// Right ascension and declination of J2000, degrees, of a galactic longitude and latitude: the
/// same turn backwards.
pub fn equatorial_deg(longitude_deg: f64, latitude_deg: f64) -> [f64; 2] {
    let [l, b] = [CELESTIAL_POLE_L_DEG - longitude_deg, latitude_deg].map(f64::to_radians);
    let [pole_ra, pole_dec] = GALACTIC_POLE_DEG.map(f64::to_radians);
    let sine = b.sin() * pole_dec.sin() + b.cos() * pole_dec.cos() * l.cos();
    let y = b.cos() * l.sin();
    let x = b.sin() * pole_dec.cos() - b.cos() * pole_dec.sin() * l.cos();
    let ra = pole_ra + y.atan2(x);
    [ra.to_degrees().rem_euclid(360.0), sine.clamp(-1.0, 1.0).asin().to_degrees()]
}

#[cfg(test)]
mod tests {
    use super::*;

    /// There and back, and the galactic centre where it is known to lie (17 h 45.6 min, -28.94
    /// degrees).
    #[test]
    fn galactic_places_come_back() {
        for (l, b) in [(0.0, 0.0), (122.9, 27.1), (200.0, -60.0), (359.0, 4.0)] {
            let at = equatorial_deg(l, b);
            let off = (galactic_longitude_deg(at) - l + 180.0).rem_euclid(360.0) - 180.0;
            assert!(off.abs() < 1e-9, "{l} {b}: {off}");
            assert!((galactic_latitude_deg(at[0], at[1]) - b).abs() < 1e-9);
        }
        let [ra, dec] = equatorial_deg(0.0, 0.0);
        assert!((ra - 266.405).abs() < 0.01 && (dec + 28.936).abs() < 0.01, "{ra} {dec}");
    }
}
