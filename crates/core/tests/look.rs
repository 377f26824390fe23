//! The look must be honest: what is measured on a rendered crop is what the evaluation says.

use crate::common::{KINDS, bands, evaluate, ic_443, read, tables, through};
use rand::{RngExt, SeedableRng};
use rand_pcg::Pcg64Mcg;
use std::sync::Arc;

use salt_lamp_core::evaluate::ChannelAnswer;
use salt_lamp_core::light::Quantity;
use salt_lamp_core::look::{
    Between, Look, LookView, Match, Palette, Seen, gradient, gradient_by_distance, whole_sub,
};
use salt_lamp_core::path::Rates;
use salt_lamp_core::path::sky::{SkyPart, SkyParts};
use salt_lamp_core::scenario::{Calibration, Moon, Scenario, TargetKind};
use salt_lamp_core::signal::Model;
use salt_lamp_core::workers::SingleThread;

fn look(s: &Scenario, view: LookView) -> Look {
    Look::new(s.clone().check().expect("accepted"), view, &tables(), &SingleThread)
}

/// Fifty random contenders: signal to noise measured in a flat patch of the stack against the
/// analytic one on the same square.
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
        let filter =
            if rng.random_bool(0.2) { None } else { Some(bands("f", width, &[656.3, 500.7])) };
        s.contenders = vec![through(from, vec![filter], rng.random_range(5.0..500.0))];
        s.contenders[0].gain = [0.0, 100.0, 200.0][rng.random_range(0..3usize)];
        let side = 360.0;
        s.detail_arcsec = side;
        let answer = evaluate(&s);
        let view = LookView { flat: true, field_arcsec: 400.0, seed: case, ..LookView::default() };
        let measured =
            look(&s, view).measure(0, [-side / 2.0, -side / 2.0, side / 2.0, side / 2.0], 1.0);
        for (m, c) in measured.planes.iter().zip(&answer.contenders[0].exposures[0].channels) {
            // All of the target's light counts in the crop; the answer splits it by quantity.
            let analytic: f64 = Quantity::ALL.iter().filter_map(|q| c.snr.get(q)).sum();
            let scale = answer.contenders[0].pixel_scale_arcsec;
            let n = (side / scale).round().powi(2);
            // A standard deviation from n pixels is known to 1 / sqrt(2 n); four of that, and the
            // patch's rounding to whole pixels.
            let allowed = 4.0 / (2.0 * n).sqrt() + 0.006;
            assert!(
                (m.snr / analytic - 1.0).abs() < allowed,
                "case {case}, {}: {} against {analytic}",
                c.channel,
                m.snr
            );
        }
    }
}

/// Photon transfer on rendered flats: variance grows with the mean by one over the gain, from the
/// read noise up.
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
            let sub = whole_sub(
                &s.clone().check().expect("accepted"),
                0,
                0,
                (&view, None),
                &tables(),
                &SingleThread,
            )
            .expect("a sub");
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
    let (mx, my) =
        (points.iter().map(|p| p.0).sum::<f64>() / n, points.iter().map(|p| p.1).sum::<f64>() / n);
    let slope = points.iter().map(|p| (p.0 - mx) * (p.1 - my)).sum::<f64>()
        / points.iter().map(|p| (p.0 - mx).powi(2)).sum::<f64>();
    assert!((slope * camera.e_per_adu - 1.0).abs() < 0.02, "{slope} {points:?}");
    let floor = (my - slope * mx).max(0.0).sqrt() * camera.e_per_adu;
    assert!(
        (floor / camera.read_noise_e - 1.0).abs() < 0.1,
        "read noise {floor} {}",
        camera.read_noise_e
    );
}

/// The 150 mm reflector looks at Sadr of V 2.2 through its dual band.
fn at_sadr(gaps_mm: &[f64]) -> Scenario {
    let mut s = ic_443();
    s.contenders = vec![s.contenders[1].clone()];
    s.contenders[0].ghost_gaps_mm = gaps_mm.to_vec();
    (s.target.right_ascension_deg, s.target.declination_deg) = (Some(305.557), Some(40.257));
    s
}

#[test]
fn a_ghost_has_the_diameter_of_the_cone_gone_twice_through_the_gap() {
    // 2 g / N = 0.4 / 2.8 mm on a focal length of 420 mm: 70 arcsec, around the star that stands
    // there.
    let s = at_sadr(&[0.2]);
    let view = LookView { field_arcsec: 300.0, ..LookView::default() };
    let with = look(&s, view);
    let planes = &with.contenders[0];
    let g = planes.ghosts[0].iter().find(|g| g.between == Between::FilterAndSensor).expect("one");
    assert!((g.diameter_arcsec - 0.4 / 2.8 / 420.0 * 206_264.8).abs() < 0.1, "{g:?}");
    assert!((g.hole_arcsec / g.diameter_arcsec - 70.0 / 150.0).abs() < 1e-9);
    // Take the picture without reflection away and see how far the ring reaches.
    let mut plain = s.clone();
    plain.contenders[0].exposures[0].filter.as_mut().expect("a filter").rear_reflectance =
        Some(0.0);
    let without = look(&plain, view);
    let middle = planes.size.map(|n| n as f64 / 2.0 - 0.5);
    let extra: Vec<([f64; 2], f64)> = planes.planes[0]
        .e_per_s
        .iter()
        .zip(&without.contenders[0].planes[0].e_per_s)
        .enumerate()
        .map(|(k, (a, b))| ([k % planes.size[0], k / planes.size[0]], f64::from(a - b)))
        .map(|([i, j], e)| ([i as f64 - middle[0], j as f64 - middle[1]], e))
        .collect();
    // Where the star stands, by the ring's own middle.
    let lit: f64 = extra.iter().map(|p| p.1).sum();
    let [cx, cy] = [0, 1].map(|a| extra.iter().map(|p| p.0[a] * p.1).sum::<f64>() / lit);
    assert!(cx.hypot(cy) < 2.0, "it stands in the middle: {cx} {cy}");
    let far = |p: &[f64; 2]| (p[0] - cx).hypot(p[1] - cy);
    let within = |d: f64| extra.iter().filter(|p| far(&p.0) < d).map(|p| p.1).sum::<f64>() / lit;
    let radius = g.diameter_px / 2.0;
    assert!(within(radius + 1.0) > 0.5 && within(0.9 * radius) < 0.95 * within(radius + 1.0));
    let share = g.area_px();
    let ring = planes.planes[0].rates.star_v0 * 10f64.powf(-0.4 * 2.2) * g.share / share;
    let at_three_quarters: Vec<f64> =
        extra.iter().filter(|p| (far(&p.0) - 0.75 * radius).abs() < 1.0).map(|p| p.1).collect();
    let mean = at_three_quarters.iter().sum::<f64>() / at_three_quarters.len() as f64;
    // The ring between the filter's own faces is wider and joins it.
    assert!((0.8..2.0).contains(&(mean / ring)), "{mean} against {ring}");
}

/// A whole sub has its rings, too: beside the same sub through a filter that throws nothing back,
/// its counts are those of the ring.
#[test]
fn a_whole_sub_has_its_stars_rings() {
    let mut s = at_sadr(&[0.4]);
    (s.contenders[0].sensor.columns, s.contenders[0].sensor.rows) = (160, 120);
    let counts = |reflects: f64| -> Vec<f64> {
        let mut s = s.clone();
        let e = &mut s.contenders[0].exposures[0];
        e.sub_s = 1.0;
        e.filter.as_mut().expect("a filter").rear_reflectance = Some(reflects);
        let checked = s.check().expect("accepted");
        let asked = (&LookView::default(), None);
        let sub = whole_sub(&checked, 0, 0, asked, &tables(), &SingleThread).expect("a sub");
        let mut row = vec![0f32; 160];
        sub.row(60, &mut row);
        row.into_iter().map(f64::from).collect()
    };
    let (with, without) = (counts(0.2), counts(0.0));
    // The ring is 140 arcsec across and 65 of hole, at 1.85 arcsec a pixel.
    let between = |from: usize, to: usize| {
        let n = (to - from) as f64;
        (from..to).map(|i| with[i] - without[i]).sum::<f64>() / n
    };
    let (ring, hole, beyond) = (between(102, 115), between(84, 95), between(125, 155));
    assert!(ring > 3.0 * hole.abs().max(1.0) && ring > 3.0 * beyond.abs().max(1.0));
}

/// The star and its rings go where the frame is turned; beside the sensor it grows none.
#[test]
fn halos_stand_at_the_stars_of_the_field() {
    let mut s = at_sadr(&[2.0, 4.0]);
    s.contenders[0].exposures[0].filter.as_mut().expect("a filter").rear_reflectance = Some(0.04);
    // Two thirds of a degree south of the star.
    s.target.declination_deg = Some(39.6);
    let view = LookView::default();
    let words = |s: &Scenario, view: LookView| look(s, view).words(&view)[0].clone();
    let here = words(&s, view);
    let sadr = &here.halos.stars[0];
    assert_eq!(sadr.star.name.as_deref(), Some("Sadr"));
    assert!(sadr.rings.len() >= 2 && !sadr.in_crop, "{sadr:?}");
    assert!(
        here.halos.text.starts_with("Sadr of V 2.2, beside this crop, grows"),
        "{}",
        here.halos.text
    );
    assert!(here.caption.contains("at Sadr"), "{}", here.caption);
    assert!(sadr.rings.windows(2).all(|w| w[0].diameter_arcsec <= w[1].diameter_arcsec));
    assert!((sadr.at_arcsec[1] - 0.657 * 3600.0).abs() < 20.0, "{:?}", sadr.at_arcsec);
    // The crop goes there: now it stands in it, and lights its middle.
    let [right_arcsec, up_arcsec] = sadr.at_arcsec;
    let moved = LookView { right_arcsec, up_arcsec, ..view };
    assert!(words(&s, moved).halos.stars[0].in_crop);
    let l = look(&s, moved);
    let p = &l.contenders[0];
    let brightest = p.planes[0].e_per_s.iter().enumerate().max_by(|a, b| a.1.total_cmp(b.1));
    let k = brightest.expect("pixels").0;
    let off = [k % p.size[0], k / p.size[0]].map(|i| (i as f64 - p.size[0] as f64 / 2.0).abs());
    assert!(off[0] < 2.5 && off[1] < 2.5, "{off:?}");
    // A frame turned and moved away has it no more, and says what it would take.
    s.target.declination_deg = Some(37.9);
    let away = words(&s, view);
    assert!(away.halos.stars.iter().all(|h| h.star.name.as_deref() != Some("Sadr")));
    // Where nothing is known of the place, no star is invented that would grow one.
    s.target.declination_deg = None;
    s.target.right_ascension_deg = None;
    let nowhere = words(&s, view);
    assert!(nowhere.halos.stars.is_empty());
    assert!(nowhere.halos.text.contains("is not known"), "{}", nowhere.halos.text);
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
    let model = Model::nominal(&s.clone().check().expect("accepted"), &tables());
    let rates = *model.paths[0].exposures[0].channels[0].nominal();
    let g = gradient(&s, c, 0, seen(&rates));
    let v = |separation_deg: f64| {
        let mut sky = s.sky.clone();
        sky.moon.as_mut().expect("a moon").separation_deg = separation_deg;
        tables().v_linear(&SkyParts::new(&sky, &tables()).moon)
    };
    let by_model = 100.0 * rates.sky[SkyPart::Moon] / (rates.background() + rates.dark)
        * (v(30.0 - half) - v(30.0 + half))
        / v(30.0);
    assert!(
        (g.moon_percent / by_model - 1.0).abs() < 0.01,
        "{} against {by_model}",
        g.moon_percent
    );
    // Farther from the moon it falls, until it is below the noise.
    let at = |separation_deg: f64| {
        let mut far = s.clone();
        far.sky.moon.as_mut().expect("a moon").separation_deg = separation_deg;
        let p = Model::nominal(&far.clone().check().expect("accepted"), &tables());
        gradient(&far, &far.contenders[0], 0, seen(p.paths[0].exposures[0].channels[0].nominal()))
    };
    assert!(at(15.0).percent > at(40.0).percent && at(40.0).percent > at(80.0).percent);
    // The curve over distance is what an evaluation at each distance gives, and falls below the
    // noise where it says.
    let curve = gradient_by_distance(&s, c, 0, seen(&rates));
    assert_eq!((curve.len(), curve[0].distance_deg, curve[58].distance_deg), (59, 5.0, 150.0));
    for point in curve.iter().step_by(9) {
        let full = at(point.distance_deg);
        assert!((point.percent / full.percent - 1.0).abs() < 0.02, "{point:?} against {full:?}");
        assert!(
            (point.over_noise / full.over_noise - 1.0).abs() < 0.02,
            "{point:?} against {full:?}"
        );
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
    let after = Look::after(
        &earlier,
        darker.clone().check().expect("accepted"),
        view,
        &tables(),
        &SingleThread,
    );
    let anew = look(&darker, view);
    for i in 0..3 {
        for plane in 0..anew.contenders[i].planes.len() {
            assert!(after.stack(i, plane, 0.4, false).e == anew.stack(i, plane, 0.4, false).e);
            assert!(
                after.stack(i, plane, 0.4, false).e != earlier[0].stack(i, plane, 0.4, false).e
            );
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
    impl salt_lamp_core::workers::Workers for Backwards {
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

/// A longer stack is the same picture, cleaner: the spread of a patch around the truth falls as the
/// square root of time.
#[test]
fn time_cleans_the_picture() {
    let s = ic_443();
    let l = look(&s, LookView { field_arcsec: 300.0, flat: true, ..LookView::default() });
    let noise = |f: f64| {
        let m = &l.measure(0, [-100.0, -100.0, 100.0, 100.0], f).planes[0];
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
        let view = LookView {
            field_arcsec: 200.0,
            flat: true,
            matched,
            palette: Palette::Single,
            ..LookView::default()
        };
        let l = look(&at, view);
        // The same white for both skies.
        let c = l.crop(0, &view, 1.0);
        c.rgb.iter().map(|v| f64::from(*v)).sum::<f64>() / c.rgb.len() as f64
    };
    let by = |m| (mean(18.5, m) - mean(21.5, m)).abs();
    assert!(
        by(Match::Background) < 12.0 && by(Match::Exposure) > 20.0,
        "{} {}",
        by(Match::Background),
        by(Match::Exposure)
    );
}

fn natural(l: &Look, contender: usize) -> salt_lamp_core::look::Colours {
    l.contenders[contender].colours(Palette::Natural, Quantity::Ha)
}

#[test]
fn casts_are_said_after_dark_subtraction_and_balance() {
    let mut s = ic_443();
    s.contenders = vec![s.contenders[2].clone()];
    s.target.kind = TargetKind::GalaxyWithHIi;
    let view = LookView { field_arcsec: 100.0, ..LookView::default() };
    let l = look(&s, view);
    let words = l.words(&view)[0].clone();
    // Its own figures: the sky's electrons, and the same over what a sunlike star gives.
    let c = natural(&l, 0);
    let sky: Vec<f64> = c.rgb.iter().flatten().map(|m| m.sky_sum()).collect();
    let least = sky.iter().copied().fold(f64::INFINITY, f64::min);
    assert!(
        words.cast.raw_background.iter().zip(&sky).all(|(r, s)| (r - s / least).abs() < 1e-9),
        "{:?}",
        words.cast
    );
    let balanced: Vec<f64> = c.rgb.iter().flatten().map(|m| m.sky_sum() / m.white).collect();
    let least = balanced.iter().copied().fold(f64::INFINITY, f64::min);
    assert!(
        words.cast.background.iter().zip(&balanced).all(|(r, s)| (r - s / least).abs() < 1e-9),
        "{:?}",
        words.cast
    );
    assert!(
        words.cast.text.contains("raw sky")
            && words.cast.text.contains("balanced on a sunlike star"),
        "{}",
        words.cast.text
    );
    // A warm sensor's dark current has no colour.
    let mut warm = s.clone();
    warm.contenders[0].sensor.dark.e_per_s *= 200.0;
    let hot = look(&warm, view).words(&view)[0].cast.clone();
    assert!(
        hot.background.iter().zip(&words.cast.background).all(|(a, b)| (a - b).abs() < 1e-9),
        "{hot:?}"
    );
    assert_eq!((hot.text, hot.target_hue_deg), (words.cast.text, words.cast.target_hue_deg));
    let sho = LookView { palette: Palette::Sho, ..view };
    assert_eq!(l.words(&sho)[0].cast.target_hue_deg, None, "each line has its own stretch");
}

/// A nebula that shines in red and teal comes out red through a dual band, and its background is
/// told apart from that.
#[test]
fn a_dual_band_makes_a_red_picture() {
    let l = look(&ic_443(), LookView { field_arcsec: 120.0, ..LookView::default() });
    let hue = l.words(&LookView::default())[1].cast.target_hue_deg.expect("a hue");
    assert!(!(25.0..335.0).contains(&hue), "{hue}");
    let c = l.crop(1, &LookView { truth: true, ..LookView::default() }, 1.0);
    // Above the ground, which is the same in all three.
    let ground =
        |k: usize| c.rgb.iter().skip(k).step_by(3).copied().min().map(f64::from).expect("pixels");
    let over =
        |k: usize| c.rgb.iter().skip(k).step_by(3).map(|v| f64::from(*v) - ground(k)).sum::<f64>();
    assert!(
        (ground(0) - ground(1)).abs() < 8.0 && over(0) > 1.2 * over(1) && over(0) > 1.2 * over(2),
        "{} {} {}",
        over(0),
        over(1),
        over(2)
    );
}

#[test]
fn one_line_is_grey_with_mono_and_with_colour() {
    let mut s = ic_443();
    let alpha = || vec![Some(bands("Ha 7", 7.0, &[656.3]))];
    s.contenders =
        vec![through(&s.contenders[0], alpha(), 60.0), through(&s.contenders[1], alpha(), 60.0)];
    let view = LookView { field_arcsec: 120.0, ..LookView::default() };
    let l = look(&s, view);
    for i in 0..2 {
        let grey = l.crop(i, &view, l.white(&view));
        assert!(grey.rgb.chunks(3).all(|p| p[0] == p[1] && p[1] == p[2]), "path {i}");
        assert_eq!(l.words(&view)[i].cast.text, "One grey channel.");
        // A palette that maps it does.
        let mapped = l.crop(i, &LookView { palette: Palette::Hoo, ..view }, 1.0);
        assert!(mapped.rgb.chunks(3).any(|p| p[0] > p[1]));
    }
}

#[test]
fn luminance_is_no_green_and_h_alpha_goes_into_red() {
    let s = read("heron-lake-ngc-2403");
    let names: Vec<&str> = s.contenders[2]
        .exposures
        .iter()
        .map(|e| e.filter.as_ref().map_or("none", |f| f.name.as_str()))
        .collect();
    assert!(names[0].starts_with("Luminance"), "{names:?}");
    let view = LookView { field_arcsec: 120.0, ..LookView::default() };
    let l = look(&s, view);
    let c = natural(&l, 2);
    let parts = |m: &Option<salt_lamp_core::look::Mix>| {
        m.as_ref().expect("a mix").parts.iter().map(|p| p.0).collect::<Vec<_>>()
    };
    assert_eq!(
        c.rgb.iter().map(parts).collect::<Vec<_>>(),
        [[1], [2], [3]],
        "red, green and blue alone"
    );
    assert_eq!(parts(&c.luminance), [0]);
    // The light comes from the luminance: without it the same colours are another picture, of the
    // same mean hue.
    let mut rgb = s.clone();
    rgb.contenders[2].exposures.remove(0);
    rgb.contenders[2].exposures.iter_mut().for_each(|e| e.share = 1.0 / 3.0);
    let without = look(&rgb, view);
    assert!(natural(&without, 2).luminance.is_none());
    let truth = LookView { truth: true, ..view };
    let mean = |l: &Look| {
        let crop = l.crop(2, &truth, 1.0);
        [0, 1, 2].map(|k| {
            crop.rgb.iter().skip(k).step_by(3).map(|v| f64::from(*v)).sum::<f64>()
                / (crop.rgb.len() / 3) as f64
        })
    };
    let (a, b) = (mean(&l), mean(&without));
    assert!(
        (a[0] - a[1] - (b[0] - b[1])).abs() < 3.0 && (a[2] - a[1] - (b[2] - b[1])).abs() < 3.0,
        "{a:?} {b:?}"
    );
    // An H-alpha filter more: its plane joins red, brought to the same star, and no other colour.
    let mut with = rgb.clone();
    let mut line = with.contenders[2].exposures[0].clone();
    line.filter = Some(bands("Ha 7", 7.0, &[656.3]));
    with.contenders[2].exposures.push(line);
    with.contenders[2].exposures.iter_mut().for_each(|e| e.share = 0.25);
    let c = natural(&look(&with, view), 2);
    assert_eq!(c.rgb.iter().map(parts).collect::<Vec<_>>(), [vec![0, 3], vec![1], vec![2]]);
    let (red, plain) = (
        c.rgb[0].as_ref().expect("red").white,
        natural(&without, 2).rgb[0].as_ref().expect("red").white,
    );
    assert!((red / plain - 1.0).abs() < 1e-9, "stars keep their colour: {red} {plain}");
}

#[test]
fn a_measured_box_is_per_pixel_of_its_colour() {
    let mut s = ic_443();
    s.target.peak_factor = 1.0;
    let answer = evaluate(&s);
    let total = |c: &ChannelAnswer| {
        let r = &c.rates_e_per_s;
        r.ha + r.oiii
            + r.sii
            + r.hb
            + r.continuum
            + r.natural
            + r.artificial
            + r.moon
            + r.twilight
            + r.dark
    };
    let l = look(&s, LookView { flat: true, field_arcsec: 400.0, ..LookView::default() });
    for (i, c) in answer.contenders.iter().enumerate().skip(1) {
        let e = &c.exposures[0];
        for (m, channel) in
            l.measure(i, [-150.0, -150.0, 150.0, 150.0], 1.0).planes.iter().zip(&e.channels)
        {
            // What a pixel of that colour holds after all subs, not after its share of them.
            let expected = total(channel) * e.sub_s * e.subs_kept;
            assert!(
                (m.mean_e / expected - 1.0).abs() < 0.01,
                "{}: {} against {expected}",
                m.plane,
                m.mean_e
            );
            let read = channel.read_noise_e * channel.read_noise_e * e.subs_kept;
            assert!(
                (m.sigma_e / (expected + read).sqrt() - 1.0).abs() < 0.03,
                "{}: {}",
                m.plane,
                m.sigma_e
            );
        }
    }
}

#[test]
fn seeds_far_apart_are_other_pictures() {
    let s = ic_443();
    let at = |seed: u32| {
        let view = LookView { field_arcsec: 60.0, flat: true, seed, ..LookView::default() };
        look(&s, view).crop(0, &view, 1.0).rgb
    };
    assert!(at(5) != at(5 + (1 << 24)) && at(5) != at(5 + (1 << 31)));
}

#[test]
fn every_kind_of_target_renders_in_every_palette() {
    for kind in KINDS {
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
