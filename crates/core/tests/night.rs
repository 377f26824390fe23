//! Nights against the sky: positions and times by skyfield with the ephemeris DE421.

use crate::common::{number, reference};
use salt_lamp_core::night::{
    Direction, Ephemeris, EphemerisError, Place, crossings, night_view, unix_midnight,
};
use salt_lamp_core::scenario::NightLimits;

fn direction(body: &str) -> Option<Direction> {
    match body {
        "ic_443" => Some(Direction { ra_deg: 94.304, dec_deg: 22.518 }),
        "ngc_7822" => Some(Direction { ra_deg: 0.9, dec_deg: 67.15 }),
        "southern_star" => Some(Direction { ra_deg: 161.265, dec_deg: -59.684 }),
        _ => None,
    }
}

fn place(row: &[String]) -> Place {
    Place {
        latitude_deg: number(&row[1]),
        longitude_deg: number(&row[2]),
        height_m: number(&row[3]),
    }
}

fn vector(e: &Ephemeris, body: &str, t: f64) -> [f64; 3] {
    match direction(body) {
        Some(d) => e.fixed(&d.vector(), t),
        None if body == "sun" => e.sun(t),
        None => e.moon(t),
    }
}

#[test]
fn positions_agree_with_skyfield() {
    let mut worst = [0.0f64; 3];
    for row in reference("positions.csv") {
        let t = number(&row[4]);
        let e =
            Ephemeris::new(place(&row), t - 3600.0 * 7.0, t + 3600.0 * 20.0).expect("sun and moon");
        if row[5] == "moon_phase_angle" {
            let off = (e.phase_angle_deg(t) - number(&row[6])).abs();
            assert!(off < 0.02, "{row:?}: off by {off}");
            continue;
        }
        let v = vector(&e, &row[5], t);
        let (alt, az) = (e.altitude_deg(&v, t), e.azimuth_deg(&v, t));
        let across =
            ((az - number(&row[7]) + 180.0).rem_euclid(360.0) - 180.0) * alt.to_radians().cos();
        let off = (alt - number(&row[6])).hypot(across);
        let (i, allowed) = match row[5].as_str() {
            "sun" => (0, 0.01),
            "moon" => (1, 0.02),
            _ => (2, 0.01),
        };
        worst[i] = worst[i].max(off);
        assert!(off < allowed, "{row:?}: off by {off}");
    }
    println!(
        "largest differences: sun {:.5}, moon {:.5}, fixed {:.5} degrees",
        worst[0], worst[1], worst[2]
    );
}

#[test]
fn risings_settings_and_transits_agree_with_skyfield_within_ten_seconds() {
    let mut seen = 0;
    let mut worst = 0.0f64;
    for row in reference("events.csv") {
        let from = number(&row[4]);
        let e = Ephemeris::new(place(&row), from, from + 86_400.0).expect("sun and moon");
        let level = number(&row[6]);
        let found = if row[7] == "transit" {
            crossings(from, from + 86_400.0, 600.0, |t| {
                e.hour_angle_deg(&vector(&e, &row[5], t), t)
            })
            .into_iter()
            .filter(|(t, up)| *up && e.hour_angle_deg(&vector(&e, &row[5], *t), *t).abs() < 10.0)
            .collect()
        } else {
            crossings(from, from + 86_400.0, 300.0, |t| {
                e.altitude_deg(&vector(&e, &row[5], t), t) - level
            })
        };
        if row[7] == "none" {
            assert!(found.is_empty(), "{row:?}: {found:?}");
            continue;
        }
        let up = row[7] != "set";
        let theirs = number(&row[8]);
        let off = found
            .iter()
            .filter(|f| f.1 == up)
            .map(|f| (f.0 - theirs).abs())
            .fold(f64::INFINITY, f64::min);
        assert!(off < 10.0, "{row:?}: {found:?}");
        worst = worst.max(off);
        seen += 1;
    }
    println!("{seen} events, largest difference {worst:.2} s");
    assert!(seen > 60, "{seen}");
}

#[test]
fn a_time_or_place_without_sun_and_moon_is_an_error_not_a_wrong_sun() {
    let here = Place { latitude_deg: 46.35, longitude_deg: -72.55, height_m: 30.0 };
    let at = |year: i32| unix_midnight(year, 1, 1).expect("a date");
    assert!(Ephemeris::new(here, at(1985), at(1985) + 86_400.0).is_ok());
    for wrong in [at(1850), at(2150), f64::NAN] {
        assert_eq!(
            Ephemeris::new(here, wrong, wrong + 86_400.0).err(),
            Some(EphemerisError::Time),
            "{wrong}"
        );
    }
    let nowhere = Place { latitude_deg: f64::NAN, ..here };
    assert_eq!(
        Ephemeris::new(nowhere, at(2027), at(2027) + 86_400.0).err(),
        Some(EphemerisError::Place)
    );
    let limits = NightLimits::default();
    let target = Direction { ra_deg: 94.25, dec_deg: 22.57 };
    assert!(night_view(here, at(2150), at(2150) + 86_400.0, target, &limits, None).is_err());
}
