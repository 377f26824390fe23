//! Plates found again: from the shipped stars, and from places that another program projected.

use super::*;
use crate::library::stars::Stars;
use rand::{RngExt, SeedableRng};
use rand_pcg::Pcg64Mcg;

fn star(at: [f64; 2], v_mag: f64) -> BrightStar {
    BrightStar {
        x_px: at[0],
        y_px: at[1],
        flux_adu: 1e9 * 10f64.powf(-0.4 * v_mag),
        peak_adu: 1.0,
        hfr_px: 1.8,
        clipped: false,
    }
}

/// A frame of the shipped stars, with faint ones that no catalogue has, places a third of a pixel
/// off and light by a tenth of a magnitude.
fn frame(
    truth: &Pointing,
    (size, scale_arcsec, mirrored): ([usize; 2], f64, bool),
    seed: u64,
) -> Vec<BrightStar> {
    let stars = Stars::nameless();
    let mut rng = Pcg64Mcg::seed_from_u64(seed);
    let [columns, rows] = size.map(|n| n as f64);
    let radius = columns.hypot(rows) / 2.0 * scale_arcsec / 3600.0;
    let mut all: Vec<BrightStar> = stars
        .around(truth.ra_deg, truth.dec_deg, radius, 10.5)
        .iter()
        .filter_map(|s| {
            let [right, up] = truth.right_up_arcsec(s.ra_deg, s.dec_deg)?.map(|a| a / scale_arcsec);
            let right = if mirrored { -right } else { right };
            let mut about = |rms: f64| rms * (rng.random::<f64>() - 0.5) * 12f64.sqrt();
            let at =
                [(columns - 1.0) / 2.0 + right + about(0.3), (rows - 1.0) / 2.0 - up + about(0.3)];
            let inside = (0.0..columns).contains(&at[0]) && (0.0..rows).contains(&at[1]);
            inside.then(|| star(at, s.v_mag + about(0.1)))
        })
        .collect();
    for _ in 0..150 {
        let [x, y, m] = [0; 3].map(|_| rng.random::<f64>());
        all.push(star([x * columns, y * rows], 10.3 + 3.0 * m));
    }
    all.sort_by(|a, b| b.flux_adu.total_cmp(&a.flux_adu));
    all.truncate(200);
    all
}

fn solved(stars: &[BrightStar], size: [usize; 2], near: [f64; 2], scale: f64) -> Option<Solved> {
    let all = Stars::nameless();
    let around = |[ra, dec]: [f64; 2], radius: f64| all.around(ra, dec, radius, 10.5);
    PlateQuestion { stars, size, near_deg: near, scale_arcsec: scale }.solve(&around)
}

#[test]
fn frames_of_famous_fields_are_found_where_they_look() {
    let size = [3124, 2088];
    // IC 443, the Pleiades, M 31, Orion, NGC 7000, the pole, the southern Carina.
    let fields = [
        (94.25, 22.57, 20.0, false),
        (56.75, 24.12, 271.0, false),
        (10.68, 41.27, 145.0, true),
        (83.82, -5.39, 0.3, false),
        (314.7, 44.3, 359.5, false),
        (40.0, 88.9, 77.0, false),
        (161.3, -59.7, 190.0, true),
    ];
    for (i, (ra_deg, dec_deg, position_angle_deg, mirrored)) in fields.into_iter().enumerate() {
        let truth = Pointing { ra_deg, dec_deg, position_angle_deg };
        let stars = frame(&truth, (size, 2.4, mirrored), i as u64);
        // The mount meant to look elsewhere, and the focal length is told two per cent too long.
        let stated = truth.moved(14.0, -9.0);
        let got = solved(&stars, size, [stated.ra_deg, stated.dec_deg], 2.4 / 1.02)
            .unwrap_or_else(|| panic!("{ra_deg} {dec_deg}"));
        let p = got.plate;
        let [east, north] = truth.east_north_arcsec(p.ra_deg, p.dec_deg).expect("near");
        assert!(east.hypot(north) < 1.5, "{i}: {east} {north}");
        let turned = (p.position_angle_deg - position_angle_deg + 540.0).rem_euclid(360.0) - 180.0;
        assert!(turned.abs() < 0.02, "{i}: {turned}");
        assert!((p.scale_arcsec / 2.4 - 1.0).abs() < 5e-4, "{i}: {}", p.scale_arcsec);
        assert_eq!(p.mirrored, mirrored, "{i}");
        assert!(p.stars >= 15 && p.rms_arcsec < 2.4, "{i}: {p:?}");
        // But for a companion of a double now and then, each is the star that it is.
        let is_own = |(k, s): &&(usize, CatalogueStar)| {
            (0.7..1.4).contains(&(stars[*k].flux_adu / star([0.0; 2], s.v_mag).flux_adu))
        };
        let own = got.pairs.iter().filter(is_own).count();
        assert!(own * 10 >= got.pairs.len() * 9, "{i}: {own} of {}", got.pairs.len());
    }
}

#[test]
fn a_place_on_one_frame_is_found_on_another() {
    let (size, other_size) = ([3124, 2088], [1400, 1100]);
    let at = |ra_deg, dec_deg, position_angle_deg, scale_arcsec, mirrored| Plate {
        ra_deg,
        dec_deg,
        position_angle_deg,
        scale_arcsec,
        mirrored,
        stars: 20,
        rms_arcsec: 0.5,
    };
    let one = at(94.25, 22.57, 20.0, 2.4, false);
    let other = at(94.4, 22.45, 200.5, 1.6, true);
    for s in Stars::nameless().around(94.25, 22.57, 0.6, 9.0) {
        let on = |p: &Plate, size: [usize; 2]| {
            let [right, up] = p.pointing().right_up_arcsec(s.ra_deg, s.dec_deg).expect("near");
            let right = if p.mirrored { -right } else { right };
            let [x0, y0] = size.map(|n| (n as f64 - 1.0) / 2.0);
            [x0 + right / p.scale_arcsec, y0 - up / p.scale_arcsec]
        };
        let found = one.place_on((on(&one, size), size), (&other, other_size)).expect("near");
        let truth = on(&other, other_size);
        assert!((found[0] - truth[0]).hypot(found[1] - truth[1]) < 1e-3, "{found:?} {truth:?}");
    }
}

#[test]
fn a_field_that_is_not_there_is_not_found() {
    let size = [3124, 2088];
    let truth = Pointing { ra_deg: 94.25, dec_deg: 22.57, position_angle_deg: 20.0 };
    let stars = frame(&truth, (size, 2.4, false), 5);
    // Another part of the sky; another scale; small frames of few stars and chance patterns.
    assert_eq!(solved(&stars, size, [150.0, 50.0], 2.4), None);
    assert_eq!(solved(&stars, size, [94.25, 22.57], 3.1), None);
    for seed in 0..8 {
        let small = [640, 480];
        let of_chance = frame(
            &Pointing { ra_deg: 10.0 + 17.0 * seed as f64, dec_deg: 60.0, ..truth },
            (small, 1.5, false),
            seed,
        );
        assert_eq!(solved(&of_chance, small, [114.2, 65.6], 1.5), None, "{seed}");
    }
    assert_eq!(solved(&[], size, [94.25, 22.57], 2.4), None);
}

/// Places of invented stars as `astropy.wcs` of astropy projects them, and the world coordinates
/// that it used: reference/plate.csv, made by reference/scripts/make_plate.py.
#[test]
fn places_that_astropy_projected_give_its_coordinates_back() {
    let text = include_str!("../../../../reference/plate.csv");
    let mut fields: Vec<(Vec<f64>, Vec<[f64; 5]>)> = Vec::new();
    for line in text.lines().filter(|l| !l.starts_with('#')).skip(1) {
        let n: Vec<f64> = line.split(',').map(|v| v.parse().expect("a number")).collect();
        let (field, row) = (n[..7].to_vec(), [n[7], n[8], n[9], n[10], n[11]]);
        match fields.last_mut().filter(|(f, _)| *f == field) {
            Some((_, rows)) => rows.push(row),
            None => fields.push((field, vec![row])),
        }
    }
    assert_eq!(fields.len(), 5);
    for (f, rows) in fields {
        let [ra, dec, angle, scale, mirrored, columns, lines] = f[..] else { panic!("{f:?}") };
        let stars: Vec<BrightStar> = rows.iter().map(|r| star([r[0], r[1]], r[4])).collect();
        let catalogue: Vec<CatalogueStar> = rows
            .iter()
            .map(|r| CatalogueStar {
                ra_deg: r[2],
                dec_deg: r[3],
                v_mag: r[4],
                b_v: None,
                name: None,
            })
            .collect();
        let question = PlateQuestion {
            stars: &stars,
            size: [columns as usize, lines as usize],
            near_deg: [ra + 0.05, dec - 0.03],
            scale_arcsec: scale * 0.99,
        };
        let got = question.solve(&|_, _| catalogue.clone()).expect("found").plate;
        let truth = Pointing { ra_deg: ra, dec_deg: dec, position_angle_deg: angle };
        let [east, north] = truth.east_north_arcsec(got.ra_deg, got.dec_deg).expect("near");
        assert!(east.hypot(north) < 0.05, "{f:?}: {east} {north}");
        let turned = (got.position_angle_deg - angle + 540.0).rem_euclid(360.0) - 180.0;
        assert!(turned.abs() < 0.002, "{f:?}: {turned}");
        assert!((got.scale_arcsec / scale - 1.0).abs() < 1e-5, "{f:?}");
        assert_eq!(got.mirrored, mirrored == 1.0);
    }
}

#[test]
fn a_framing_is_told_against_what_was_wanted() {
    let size = [3000, 2000];
    let wanted = Pointing { ra_deg: 94.25, dec_deg: 22.57, position_angle_deg: 20.0 };
    let at = |east, north, angle: f64| {
        let there = wanted.moved(east, north);
        Plate {
            ra_deg: there.ra_deg,
            dec_deg: there.dec_deg,
            position_angle_deg: angle.rem_euclid(360.0),
            scale_arcsec: 1.2,
            mirrored: false,
            stars: 9,
            rms_arcsec: 0.5,
        }
    };
    assert_eq!(framing_told(&at(0.1, 0.1, 20.05), &wanted, size), None);
    let told = |p: &Plate| framing_told(p, &wanted, size).expect("off");
    assert_eq!(told(&at(0.0, 3.1, 20.4)), "3.1\u{2032} off and turned by 0.4°");
    assert_eq!(
        told(&at(3.0, 4.0, 200.0)),
        "5.0\u{2032} off and turned by 0.0°, the half turn of the meridian apart"
    );
}

/// Stars of a catalogue at some places of a frame, and the frame's own there.
fn pattern(mags: &[f64], seen_mags: &[f64]) -> (Vec<CatalogueStar>, Vec<BrightStar>) {
    let middle = Pointing { ra_deg: 30.0, dec_deg: 40.0, position_angle_deg: 0.0 };
    let mut rng = Pcg64Mcg::seed_from_u64(3);
    let places: Vec<[f64; 2]> =
        mags.iter().map(|_| [0, 1].map(|_| 60.0 + 880.0 * rng.random::<f64>())).collect();
    let known = |(at, v): (&[f64; 2], &f64)| {
        let [right, up] = [at[0] - 499.5, 499.5 - at[1]];
        let there = middle.moved(-right * 2.0 / 60.0, up * 2.0 / 60.0);
        CatalogueStar {
            ra_deg: there.ra_deg,
            dec_deg: there.dec_deg,
            v_mag: *v,
            b_v: None,
            name: None,
        }
    };
    let catalogue = places.iter().zip(mags).map(known).collect();
    let mut seen: Vec<BrightStar> =
        places.iter().rev().zip(seen_mags.iter().rev()).map(|(at, m)| star(*at, *m)).collect();
    seen.sort_by(|a, b| b.flux_adu.total_cmp(&a.flux_adu));
    (catalogue, seen)
}

fn of_pattern((catalogue, seen): (Vec<CatalogueStar>, Vec<BrightStar>)) -> Option<Plate> {
    let question = PlateQuestion {
        stars: &seen,
        size: [1000, 1000],
        near_deg: [30.0, 40.0],
        scale_arcsec: 2.0,
    };
    question.solve(&|_, _| catalogue.clone()).map(|s| s.plate)
}

#[test]
fn a_pattern_counts_where_its_stars_are_as_bright_as_they_should_be_and_none_is_missing() {
    let mags = [5.0, 6.0, 7.0, 8.0, 9.0];
    let found = of_pattern(pattern(&mags, &mags)).expect("as the catalogue has them");
    assert_eq!((found.stars, found.mirrored), (5, false));
    assert!(found.position_angle_deg.to_radians().cos() > 0.999_999, "{found:?}");
    // The same places, and the brightest is the faintest.
    assert_eq!(of_pattern(pattern(&mags, &[9.0, 5.5, 8.5, 5.0, 7.0])), None);
    // Four faint stars of twenty, and the sixteen brighter ones are not on the frame.
    let twenty: Vec<f64> = (0..20).map(|i| 5.0 + 0.2 * f64::from(i)).collect();
    assert_eq!(of_pattern(pattern(&twenty, &twenty[16..])), None);
    assert!(of_pattern(pattern(&twenty, &twenty)).is_some());
}
