//! The look must be honest: what is measured on a rendered crop is what the evaluation says.

mod common;

use common::{bands, evaluate, ic_443, read, tables, through};
use rand::{RngExt, SeedableRng};
use rand_pcg::Pcg64Mcg;
use std::sync::Arc;

use salt_lamp_core::crew::Alone;
use salt_lamp_core::evaluate::Prepared;
use salt_lamp_core::light::Quantity;
use salt_lamp_core::look::{Look, LookView, Match, Palette, Seen, gradient, gradient_by_distance, whole_sub};
use salt_lamp_core::path::Rates;
use salt_lamp_core::scenario::{Calibration, Moon, Scenario, TargetKind};
use salt_lamp_core::sky::SkyParts;

fn look(s: &Scenario, view: LookView) -> Look {
    Look::new(s.clone().check().expect("accepted"), view, &tables(), &Alone)
}

/// Fifty random contenders: signal to noise measured in a flat patch of the stack against the analytic one on the same square.
#[test]
fn measured_and_analytic_signal_to_noise_agree() {
    let mut rng = Pcg64Mcg::seed_from_u64(443);
    let base = ic_443();
    for case in 0..50 {
        let mut s = base.clone();
        s.sky.zenith_v_mag = rng.random_range(18.0..21.8);
        s.target.lines_rayleigh.ha = rng.random_range(2.0..400.0);
        s.target.lines_rayleigh.oiii = rng.random_range(2.0..400.0);
        s.target.peak_factor = 1.0;
        s.total_s = rng.random_range(1200.0..30_000.0);
        // The crop has no noise of calibration frames.
        s.calibration = Calibration { dark_frames: 10_000.0, ..Calibration::default() };
        let from = &base.contenders[rng.random_range(0..2usize)];
        let width = rng.random_range(2.5..14.0);
        let filter = if rng.random_bool(0.2) { None } else { Some(bands("f", width, &[656.3, 500.7])) };
        s.contenders = vec![through(from, vec![filter], rng.random_range(5.0..500.0))];
        s.contenders[0].gain = [0.0, 100.0, 200.0][rng.random_range(0..3usize)];
        let side = 360.0;
        s.detail_arcsec = side;
        let answer = evaluate(&s);
        let view = LookView { flat: true, field_arcsec: 400.0, seed: case, ..LookView::default() };
        let measured = look(&s, view).measure(0, [-side / 2.0, -side / 2.0, side / 2.0, side / 2.0], 1.0);
        for (m, c) in measured.iter().zip(&answer.contenders[0].exposures[0].channels) {
            // All of the target's light counts in the crop; the answer splits it by quantity.
            let analytic: f64 = c.snr.values().sum();
            let scale = answer.contenders[0].pixel_scale_arcsec;
            let n = (side / scale).round().powi(2);
            // A standard deviation from n pixels is known to 1 / sqrt(2 n); four of that, and the patch's rounding to whole pixels.
            let allowed = 4.0 / (2.0 * n).sqrt() + 0.006;
            assert!((m.snr / analytic - 1.0).abs() < allowed, "case {case}, {}: {} against {analytic}", c.channel, m.snr);
        }
    }
}

/// Photon transfer on rendered flats: variance grows with the mean by one over the gain, from the read noise up.
#[test]
fn flats_lie_on_the_photon_transfer_line() {
    let mut s = ic_443();
    s.contenders.truncate(1);
    s.contenders[0].sensor.columns = 400;
    s.contenders[0].sensor.rows = 300;
    s.sky.zenith_v_mag = 17.0;
    let camera = s.contenders[0].sensor.at_gain(100.0);
    let mut points = Vec::new();
    for sub_s in [1.0, 60.0, 200.0, 400.0, 600.0] {
        s.contenders[0].exposures[0].sub_s = sub_s;
        let frame = |seed| {
            let view = LookView { flat: true, seed, ..LookView::default() };
            let sub = whole_sub(&s.clone().check().expect("accepted"), 0, 0, &view, &tables(), &Alone).expect("a sub");
            let mut rows = vec![vec![0f32; 400]; 300];
            rows.iter_mut().enumerate().for_each(|(j, r)| sub.row(j, r));
            rows.concat()
        };
        let (a, b) = (frame(1), frame(2));
        let n = a.len() as f64;
        let mean = a.iter().chain(&b).map(|v| f64::from(*v)).sum::<f64>() / (2.0 * n) - 500.0;
        // Half the variance of the difference of two flats.
        let d: Vec<f64> = a.iter().zip(&b).map(|(a, b)| f64::from(a - b)).collect();
        let middle = d.iter().sum::<f64>() / n;
        points.push((mean, d.iter().map(|x| (x - middle).powi(2)).sum::<f64>() / n / 2.0));
    }
    let n = points.len() as f64;
    let (mx, my) = (points.iter().map(|p| p.0).sum::<f64>() / n, points.iter().map(|p| p.1).sum::<f64>() / n);
    let slope = points.iter().map(|p| (p.0 - mx) * (p.1 - my)).sum::<f64>() / points.iter().map(|p| (p.0 - mx).powi(2)).sum::<f64>();
    assert!((slope * camera.e_per_adu - 1.0).abs() < 0.02, "{slope} {points:?}");
    let floor = (my - slope * mx).max(0.0).sqrt() * camera.e_per_adu;
    assert!((floor / camera.read_noise_e - 1.0).abs() < 0.1, "read noise {floor} {}", camera.read_noise_e);
}

#[test]
fn a_ghost_has_the_diameter_of_the_cone_gone_twice_through_the_gap() {
    let mut s = ic_443();
    s.contenders = vec![s.contenders[1].clone()];
    let view = LookView { gap_mm: 12.0, field_arcsec: 900.0, ..LookView::default() };
    let with = look(&s, view);
    let g = with.contenders[0].ghosts[0].expect("a filter");
    // 2 g / N = 24 / 2.8 mm = 8.57 mm on a focal length of 420 mm.
    assert!((g.diameter_mm - 24.0 / 2.8).abs() < 1e-9 && (g.diameter_arcsec - 8.571_428 / 420.0 * 206_264.8).abs() < 0.1);
    assert!((g.hole_arcsec / g.diameter_arcsec - 70.0 / 150.0).abs() < 1e-9);
    // At a quarter of the gap the ring lies on the crop: take the picture without reflection away and see how far it reaches.
    let view = LookView { gap_mm: 0.2, ..view };
    let with = look(&s, view);
    let g = with.contenders[0].ghosts[0].expect("a filter");
    s.contenders[0].exposures[0].filter.as_mut().expect("a filter").rear_reflectance = Some(0.0);
    let without = look(&s, view);
    let planes = &with.contenders[0];
    let star = (-0.27 * 900.0 / planes.scale_arcsec, 0.22 * 900.0 / planes.scale_arcsec);
    let (cx, cy) = (star.0 + planes.size[0] as f64 / 2.0 - 0.5, planes.size[1] as f64 / 2.0 - 0.5 - star.1);
    let (mut most, mut sum) = (0.0f64, 0.0);
    for (k, (a, b)) in planes.planes[0].e_per_s.iter().zip(&without.contenders[0].planes[0].e_per_s).enumerate() {
        let extra = f64::from(a - b);
        let r = ((k % planes.size[0]) as f64 - cx).hypot((k / planes.size[0]) as f64 - cy);
        // Only the ring of the bright star, not those of its neighbours.
        if extra > 1e-4 && r < g.diameter_px {
            most = most.max(r);
            sum += extra;
        }
    }
    assert!((most - g.diameter_px / 2.0).abs() < 1.0, "{most} against {}", g.diameter_px / 2.0);
    assert!(sum > 0.0);
}

/// Ten pixels behind an H-alpha filter.
fn seen(rates: &Rates) -> Seen<'_> {
    Seen { rates, pixels: 10.0, wavelength_nm: 656.3 }
}

/// The slope that is reported is the sky model's own difference between the corners.
#[test]
fn a_moon_gradient_is_the_sky_model_s_between_the_corners() {
    let mut s = read("larch-lane-ngc-7822");
    s.sky.zenith_v_mag = 21.0;
    s.sky.target_altitude_deg = 60.0;
    s.sky.moon = Some(Moon { phase_angle_deg: 20.0, altitude_deg: 40.0, separation_deg: 30.0 });
    let c = &s.contenders[0];
    let scale = c.optics.pixel_scale_arcsec(c.sensor.pixel_um);
    let half = f64::from(c.sensor.columns).hypot(f64::from(c.sensor.rows)) * scale / 7200.0;
    let prepared = Prepared::new(&s.clone().check().expect("accepted"), &tables());
    let rates = prepared.contenders[0].exposures[0].channels[0].rates;
    let g = gradient(&s, c, 0, seen(&rates));
    let v = |separation_deg: f64| {
        let mut sky = s.sky.clone();
        sky.moon.as_mut().expect("a moon").separation_deg = separation_deg;
        tables().v_linear(&SkyParts::new(&sky, &tables()).moon)
    };
    let by_model = 100.0 * rates.sky[2] / (rates.background() + rates.dark) * (v(30.0 - half) - v(30.0 + half)) / v(30.0);
    assert!((g.moon_percent / by_model - 1.0).abs() < 0.01, "{} against {by_model}", g.moon_percent);
    // Farther from the moon it falls, until it is below the noise.
    let at = |separation_deg: f64| {
        let mut far = s.clone();
        far.sky.moon.as_mut().expect("a moon").separation_deg = separation_deg;
        let p = Prepared::new(&far.clone().check().expect("accepted"), &tables());
        gradient(&far, &far.contenders[0], 0, seen(&p.contenders[0].exposures[0].channels[0].rates))
    };
    assert!(at(15.0).percent > at(40.0).percent && at(40.0).percent > at(80.0).percent);
    // The curve over distance is what an evaluation at each distance gives, and falls below the noise where it says.
    let curve = gradient_by_distance(&s, c, 0, seen(&rates));
    assert_eq!((curve.len(), curve[0].distance_deg, curve[58].distance_deg), (59, 5.0, 150.0));
    for point in curve.iter().step_by(9) {
        let full = at(point.distance_deg);
        assert!((point.percent / full.percent - 1.0).abs() < 0.02, "{point:?} against {full:?}");
        assert!((point.over_noise / full.over_noise - 1.0).abs() < 0.02, "{point:?} against {full:?}");
    }
    let hidden = g.below_noise_from_deg.expect("it shows near the moon");
    let again = g.shows_again_from_deg.unwrap_or(180.0);
    assert!(hidden < 90.0 && again > 90.0, "{g:?}");
    for p in &curve {
        let inside = hidden <= p.distance_deg && p.distance_deg < again;
        let edge = (p.distance_deg - hidden).abs() < 1.0 || (p.distance_deg - again).abs() < 1.0;
        assert!(edge || inside == (p.over_noise <= 1.0), "{p:?} {g:?}");
    }
    s.sky.moon = None;
    assert!(gradient_by_distance(&s, &s.contenders[0], 0, seen(&rates)).is_empty());
}

/// What a look takes over from an earlier one is what it would have drawn itself.
#[test]
fn a_look_after_another_is_the_look_itself() {
    let s = ic_443();
    let view = LookView { field_arcsec: 150.0, ..LookView::default() };
    let mut darker = s.clone();
    darker.sky.zenith_v_mag = 21.0;
    let earlier = [Arc::new(look(&s, view))];
    let after = Look::after(&earlier, darker.clone().check().expect("accepted"), view, &tables(), &Alone);
    let anew = look(&darker, view);
    for i in 0..3 {
        for plane in 0..anew.contenders[i].planes.len() {
            assert!(after.stack(i, plane, 0.4, false).e == anew.stack(i, plane, 0.4, false).e);
            assert!(after.stack(i, plane, 0.4, false).e != earlier[0].stack(i, plane, 0.4, false).e);
        }
    }
}

#[test]
fn a_picture_does_not_depend_on_the_order_of_work() {
    let s = ic_443();
    let view = LookView { field_arcsec: 200.0, ..LookView::default() };
    let (a, b) = (look(&s, view), look(&s, view));
    let white = a.white(&view);
    let forwards: Vec<_> = (0..3).map(|i| a.crop(i, &view, white)).collect();
    let mut backwards: Vec<_> = (0..3).rev().map(|i| b.crop(i, &view, white)).collect();
    backwards.reverse();
    assert!(forwards == backwards);
    // Nor on who does it.
    struct Backwards;
    impl salt_lamp_core::crew::Crew for Backwards {
        fn each<T: Send>(&self, count: usize, task: &(dyn Fn(usize) -> T + Sync)) -> Vec<T> {
            let mut all: Vec<T> = (0..count).rev().map(task).collect();
            all.reverse();
            all
        }
    }
    let c = Look::new(s.clone().check().expect("accepted"), view, &tables(), &Backwards);
    assert!((0..3).map(|i| c.crop(i, &view, white)).collect::<Vec<_>>() == forwards);
    let other = look(&s, LookView { seed: 2, ..view });
    assert!(other.crop(0, &view, white) != forwards[0]);
}

/// A longer stack is the same picture, cleaner: the spread of a patch around the truth falls as the square root of time.
#[test]
fn time_cleans_the_picture() {
    let s = ic_443();
    let l = look(&s, LookView { field_arcsec: 300.0, flat: true, ..LookView::default() });
    let noise = |f: f64| {
        let m = &l.measure(0, [-100.0, -100.0, 100.0, 100.0], f)[0];
        m.sigma_e / m.mean_e
    };
    // 24 subs against 6.
    let ratio = noise(0.25) / noise(1.0);
    assert!((ratio / (23f64 / 5.0).sqrt() - 1.0).abs() < 0.1, "{ratio}");
    assert!(noise(0.0) > 3.0 * noise(1.0));
}

#[test]
fn matched_background_hides_a_bright_sky_and_matched_exposure_does_not() {
    let mut s = ic_443();
    s.contenders.truncate(1);
    let mean = |zenith: f64, matched: Match| {
        let mut at = s.clone();
        at.sky.zenith_v_mag = zenith;
        let view = LookView { field_arcsec: 200.0, flat: true, matched, palette: Palette::Single, ..LookView::default() };
        let l = look(&at, view);
        // The same white for both skies.
        let c = l.crop(0, &view, 1.0);
        c.rgb.iter().map(|v| f64::from(*v)).sum::<f64>() / c.rgb.len() as f64
    };
    let by = |m| (mean(18.5, m) - mean(21.5, m)).abs();
    assert!(by(Match::Background) < 12.0 && by(Match::Exposure) > 20.0, "{} {}", by(Match::Background), by(Match::Exposure));
}

#[test]
fn casts_are_said_in_words() {
    let mut s = ic_443();
    s.contenders = vec![s.contenders[2].clone()];
    s.target.kind = TargetKind::GalaxyWithHIi;
    let l = look(&s, LookView { field_arcsec: 100.0, ..LookView::default() });
    let words = &l.words(&LookView::default())[0];
    let ratio = &words.cast.background;
    assert!(ratio.len() == 3 && ratio.iter().any(|r| (*r - 1.0).abs() < 1e-9));
    let most = if ratio[1] > ratio[0] && ratio[1] > ratio[2] {
        "green"
    } else if ratio[0] > ratio[2] {
        "red"
    } else {
        "blue"
    };
    assert!(words.cast.text.starts_with(&format!("Background leans {most}")), "{}", words.cast.text);
    let sho = LookView { palette: Palette::Sho, ..LookView::default() };
    assert!(l.words(&sho)[0].cast.target_hue_deg.is_some());
    assert_eq!(words.ghost_text, "No filter, no ghost of one.");
}

#[test]
fn every_kind_of_target_renders_in_every_palette() {
    for kind in [
        TargetKind::HIiRegion,
        TargetKind::PlanetaryNebula,
        TargetKind::SupernovaRemnant,
        TargetKind::ReflectionNebula,
        TargetKind::Galaxy,
        TargetKind::GalaxyWithHIi,
        TargetKind::DarkNebula,
        TargetKind::Cluster,
    ] {
        let mut s = ic_443();
        s.target.kind = kind;
        let l = look(&s, LookView { field_arcsec: 120.0, ..LookView::default() });
        for palette in [Palette::Natural, Palette::Hoo, Palette::Sho, Palette::Single] {
            let view = LookView { palette, single: Quantity::Ha, ..LookView::default() };
            for i in 0..3 {
                let c = l.crop(i, &view, l.white(&view));
                assert_eq!(c.rgb.len(), c.size[0] * c.size[1] * 3);
                assert!(c.rgb.iter().any(|v| *v > 20), "{kind:?} {palette:?} {i}");
            }
        }
    }
}
