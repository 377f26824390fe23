//! Tests of [`super`].

use super::*;
use crate::library::stars::{CatalogueStar, Stars};
use crate::scenario::pointing::Pointing;
use crate::scenario::target::TargetKind;
use crate::workers::SingleThread;

fn spec(kind: TargetKind) -> FieldSpec {
    FieldSpec {
        kind,
        seed: 5,
        size_arcsec: [600.0, 600.0],
        centre_arcsec: [0.0; 2],
        beyond_arcsec: 0.0,
        object_arcsec: 600.0,
        peak_factor: 8.0,
        fwhm_arcsec: 2.5,
        flat: false,
        at: None,
    }
}

#[test]
fn the_same_seed_is_the_same_sky_and_another_is_another() {
    let at = |seed| {
        Field::new(FieldSpec { seed, ..spec(TargetKind::HIiRegion) }, 64, &SingleThread)
            .at(37.0, -81.0)
    };
    assert_eq!(at(5), at(5));
    assert_ne!(at(5), at(6));
}

#[test]
fn the_part_of_interest_is_about_one_and_the_core_is_the_peak() {
    for kind in [
        TargetKind::HIiRegion,
        TargetKind::SupernovaRemnant,
        TargetKind::GalaxyWithHIi,
        TargetKind::ReflectionNebula,
    ] {
        let f = Field::new(spec(kind), 200, &SingleThread);
        let most = f.layers.iter().flatten().copied().fold(0.0, f32::max);
        assert!(most >= 7.5, "{kind:?}: {most}");
        let main = if kind == TargetKind::ReflectionNebula { 4 } else { 0 };
        let mean = f.layers[main].iter().sum::<f32>() / f.layers[main].len() as f32;
        assert!((0.05..1.3).contains(&mean), "{kind:?}: {mean}");
    }
}

#[test]
fn stars_grow_in_number_with_magnitude() {
    let f = Field::new(
        FieldSpec { size_arcsec: [7200.0, 7200.0], ..spec(TargetKind::HIiRegion) },
        16,
        &SingleThread,
    );
    let up_to = |m: f64| f.stars.iter().filter(|s| s.v_mag < m).count() as f64;
    let growth = up_to(16.0) / up_to(15.0);
    assert!((growth / 10f64.powf(0.36) - 1.0).abs() < 0.1, "{growth}");
}

#[test]
fn a_line_across_is_the_field_itself() {
    let f = Field::new(spec(TargetKind::HIiRegion), 64, &SingleThread);
    for y in [-250.0, 0.0, 33.3, 280.0] {
        let row = f.along(y);
        for x in [-299.9, -120.0, 0.0, 77.7, 299.9] {
            let (i, u) = row.place(x);
            for (layer, there) in f.at(x, y).iter().enumerate() {
                let (a, b) =
                    (f64::from(row.columns[i][layer]), f64::from(row.columns[i + 1][layer]));
                assert!((a + (b - a) * u - f64::from(*there)).abs() < 1e-5, "{x} {y} {layer}");
            }
        }
    }
}

#[test]
fn a_cluster_has_its_stars_and_they_are_three_magnitudes_brighter() {
    let field = Field::new(spec(TargetKind::HIiRegion), 16, &SingleThread);
    let cluster = Field::new(spec(TargetKind::Cluster), 16, &SingleThread);
    assert_eq!(cluster.stars.len(), field.stars.len() + 180);
    let up_to = |f: &Field, m: f64| f.stars.iter().filter(|s| s.v_mag < m).count();
    // All of them end three magnitudes above the faintest of the field, and none outshines the
    // sky's brightest.
    assert!(up_to(&cluster, 15.5) >= up_to(&field, 15.5) + 180, "{}", up_to(&cluster, 15.5));
    assert!(up_to(&cluster, 8.0) < 12, "{}", up_to(&cluster, 8.0));
    let middle = cluster.stars.iter().filter(|s| s.x_arcsec.hypot(s.y_arcsec) < 150.0).count();
    assert!(middle > 120, "they crowd in the middle: {middle}");
}

/// Where a field looks, its bright stars are the sky's: Alnitak stands over the Flame's field, east
/// to the left, and no invented star is as bright as any of the catalogue.
#[test]
fn bright_stars_are_the_sky_s_own() {
    let at = Pointing { ra_deg: 85.4, dec_deg: -1.9, position_angle_deg: 0.0 };
    let spec =
        FieldSpec { size_arcsec: [7200.0, 5400.0], at: Some(at), ..spec(TargetKind::HIiRegion) };
    let f = Field::new(spec, 64, &SingleThread);
    let brightest = f.stars[0];
    assert!((brightest.v_mag - 1.74).abs() < 0.15, "{brightest:?}");
    // Alnitak is at 85.190, -1.943 (J2000): 756 arcsec west, to the right, and 155 south.
    assert!((brightest.x_arcsec - 756.0).abs() < 20.0, "{brightest:?}");
    assert!((brightest.y_arcsec + 155.0).abs() < 20.0 && brightest.temperature_k > 12_000.0);
    let bright: Vec<_> = f.stars.iter().filter(|s| s.v_mag <= 10.0).collect();
    let sky = Stars::nameless().around(85.4, -1.9, 1.3, 10.0);
    for s in &bright {
        let same = |c: &CatalogueStar| {
            at.right_up_arcsec(c.ra_deg, c.dec_deg)
                .is_some_and(|[x, y]| (x - s.x_arcsec).hypot(y - s.y_arcsec) < 1e-6)
        };
        assert!(sky.iter().any(same), "{s:?}");
    }
    assert!(bright.len() > 20 && f.stars.len() > 500, "{} of {}", bright.len(), f.stars.len());
    // A quarter turn of the camera: what was to the right is up... and the rest follows.
    let turned = Pointing { position_angle_deg: 90.0, ..at };
    let f = Field::new(FieldSpec { at: Some(turned), ..spec }, 64, &SingleThread);
    assert!((f.stars[0].y_arcsec + 756.0).abs() < 20.0, "{:?}", f.stars[0]);
}

/// A small target stands in its own size: as bright as it is, and nothing of it in the corners.
#[test]
fn a_small_target_stands_in_its_own_size() {
    let all = FieldSpec { object_arcsec: 80.0, ..spec(TargetKind::PlanetaryNebula) };
    let small = Field::new(all, 400, &SingleThread);
    let ha = |f: &Field, x: f64, y: f64| f64::from(f.at(x, y)[0]);
    assert!(ha(&small, 250.0, 250.0) < 1e-3 && ha(&small, 60.0, 0.0) < 1e-3);
    // Its shell lies a quarter of its size from the middle, its mean is one as that of a large one.
    let shell: Vec<f64> = (0..60)
        .map(|i| f64::from(i) / 60.0 * std::f64::consts::TAU)
        .map(|a| ha(&small, 20.8 * a.cos(), 20.8 * a.sin()))
        .collect();
    let mean = shell.iter().sum::<f64>() / 60.0;
    assert!((0.8..4.0).contains(&mean), "{mean}");
    let large = Field::new(spec(TargetKind::PlanetaryNebula), 400, &SingleThread);
    let ratio = ha(&small, 21.0, 3.0) / ha(&large, 157.5, 22.5);
    assert!((0.5..2.0).contains(&ratio), "{ratio}");
}
