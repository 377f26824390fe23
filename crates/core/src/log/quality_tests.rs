//! A night of forty frames with one of each trouble in it.

use super::*;
use crate::frame::header::{HeaderFields, HeaderRead};
use crate::frame::measured::{BrightStar, FORMAT, VERSION};
use crate::frame::stars::StarsBrighter;
use crate::log::totals::totals;
use rand::{RngExt, SeedableRng};
use rand_pcg::Pcg64Mcg;

/// What is done to a frame.
#[derive(Clone, Copy)]
struct Sky {
    transparency: f64,
    airmass: f64,
    grown: f64,
    elongation: f64,
    background: f64,
    half_turn: bool,
    stars: usize,
}

const CLEAR: Sky = Sky {
    transparency: 1.0,
    airmass: 1.0,
    grown: 1.0,
    elongation: 1.08,
    background: 200.0,
    half_turn: false,
    stars: 60,
};
/// Extinction that the tests take, mag to an airmass.
const K: f64 = 0.2;

fn frame(number: u64, filter: &str, kind: FrameKind, sky: Sky) -> FrameMeasured {
    let mut of_sky = Pcg64Mcg::seed_from_u64(9);
    let mut rng = Pcg64Mcg::seed_from_u64(1000 + number);
    let mut about = |rms: f64| rms * (rng.random::<f64>() - 0.5) * 12f64.sqrt();
    let dither = [about(6.0), about(6.0)];
    let light = sky.transparency * 10f64.powf(-0.4 * K * (sky.airmass - 1.0));
    let star = |i: usize| {
        let [x, y] = [0, 1].map(|_| of_sky.random::<f64>());
        let at = [x * 3000.0 + dither[0], y * 2000.0 + dither[1]];
        let at = if sky.half_turn { [2999.0 - at[0], 1999.0 - at[1]] } else { at };
        BrightStar {
            x_px: at[0] + about(0.1),
            y_px: at[1] + about(0.1),
            flux_adu: 90_000.0 / (1.0 + i as f64) * light * (1.0 + about(0.01)),
            peak_adu: 9000.0,
            hfr_px: 1.8 * sky.grown,
            clipped: i < 2,
        }
    };
    let brightest: Vec<BrightStar> = (0..sky.stars.min(60)).map(star).collect();
    let header = HeaderFields {
        kind: Some(kind),
        exposure_s: Some(300.0),
        filter: Some(filter.to_owned()),
        gain: Some(100.0),
        e_per_adu: Some(0.25),
        object: Some("IC 443".to_owned()),
        pixel_um: Some(3.76),
        focal_length_mm: Some(620.0),
        sensor_c: Some(-10.0),
        ..HeaderFields::default()
    };
    let channel = ChannelMeasured {
        channel: "mono".to_owned(),
        level_adu: 500.0 + if kind == FrameKind::Bias { 0.0 } else { sky.background + about(1.0) },
        sigma_adu: 20.0 + about(0.1),
        min_adu: 0.0,
        max_adu: 65_535.0,
        full_adu: Some(65_535.0),
        clipped_share: 1e-4,
        zero_share: 0.0,
        slope_percent: 2.0,
        slope_toward_deg: 90.0,
        stars: if kind == FrameKind::Light { sky.stars * 10 } else { 0 },
        stars_clipped: 2,
        hfr_px: Some(1.8 * sky.grown + about(0.03)),
        fwhm_px: Some(3.2 * sky.grown),
        elongation: Some(sky.elongation + about(0.01)),
        elongation_toward_deg: Some(10.0),
        parts: Vec::new(),
        aperture_px: 8.0,
        depth_adu: None,
        brighter: Vec::new(),
        background_e_per_s: None,
        sky_v_mag: None,
        brightest: if kind == FrameKind::Light { brightest } else { Vec::new() },
    };
    FrameMeasured {
        format: FORMAT.to_owned(),
        version: VERSION,
        file: format!("{number:04}.fits"),
        read: HeaderRead { header, ..HeaderRead::default() },
        columns: 3000,
        rows: 2000,
        cfa: None,
        channels: vec![channel],
        problems: Vec::new(),
    }
}

/// Forty frames that sink to airmass 2, the meridian's half turn in the middle.
fn night(change: impl Fn(u64, &mut Sky)) -> Vec<FrameMeasured> {
    let one = |i: u64| {
        let airmass = 1.0 + i as f64 / 40.0;
        let mut sky = Sky { airmass, half_turn: i >= 20, ..CLEAR };
        change(i, &mut sky);
        frame(i, "Ha", FrameKind::Light, sky)
    };
    (0..40).map(one).collect()
}

/// A good one.
pub(crate) fn frame_of_the_sky() -> FrameMeasured {
    frame(1, "Ha", FrameKind::Light, CLEAR)
}

fn judged(frames: &[FrameMeasured]) -> Vec<FrameJudged> {
    judged_guided(frames, &|_| None)
}

/// The same with what a guider wrote down.
fn judged_guided(
    frames: &[FrameMeasured],
    guiding: &dyn Fn(usize) -> Option<f64>,
) -> Vec<FrameJudged> {
    let seen: Vec<NightFrame> = frames
        .iter()
        .enumerate()
        .map(|(i, measured)| NightFrame {
            measured,
            start_s: Some(1.8e9 + 310.0 * i as f64),
            airmass: Some(1.0 + i as f64 / 40.0),
            guiding_arcsec: guiding(i),
        })
        .collect();
    night_judged(&seen, &|_| K).into_iter().map(|j| j.expect("judged")).collect()
}

fn rules(j: &FrameJudged) -> Vec<Rule> {
    j.reasons.iter().map(|r| r.rule).collect()
}

#[test]
fn each_trouble_is_found_and_nothing_else() {
    let all = judged(&night(|i, sky| match i {
        5 => sky.transparency = 0.55,
        9 => sky.grown = 1.5,
        13 => sky.elongation = 1.9,
        17 => sky.background = 420.0,
        23 => sky.stars = 12,
        _ => {}
    }));
    for (i, j) in all.iter().enumerate() {
        let expected = match i {
            5 => vec![Rule::Cloud],
            9 => vec![Rule::Size],
            13 => vec![Rule::Shape],
            17 => vec![Rule::Background],
            23 => vec![Rule::Stars],
            _ => vec![],
        };
        assert_eq!(rules(j), expected, "{i}: {:?}", j.reasons);
    }
    assert!(all[5].reasons[0].text.starts_with("Cloud: 55 %"), "{}", all[5].reasons[0].text);
}

#[test]
fn transparency_is_found_through_airmass_dither_and_the_half_turn() {
    let truth = |i: u64| if (10..30).contains(&i) { 1.0 - 0.02 * (i - 10) as f64 } else { 1.0 };
    let all = judged(&night(|i, sky| sky.transparency = truth(i)));
    for (i, j) in all.iter().enumerate() {
        let told = j.transparency.expect("known");
        let own = truth(i as u64);
        assert!((told / own - 1.0).abs() < 0.02, "{i}: {told} for {own}");
        let turned = j.turned_deg.expect("known").abs();
        // Which half the reference is of is its own affair.
        assert!(turned.min(180.0 - turned) < 0.01, "{turned}");
    }
    let turned = |i: usize| all[i].turned_deg.expect("known").abs() > 90.0;
    assert!(turned(3) != turned(33));
}

#[test]
fn a_slow_rise_of_the_background_is_no_jump_and_a_lamp_at_the_end_is() {
    let moonrise = judged(&night(|i, sky| sky.background = 200.0 * 1.04f64.powi(i as i32)));
    assert!(moonrise.iter().all(|j| j.reasons.is_empty()), "{:?}", moonrise[39].reasons);
    let mut frames = night(|i, sky| {
        if i == 39 {
            sky.background = 300.0;
        }
    });
    // Over an offset that nobody knows it is a small part; over one that is known it is half as much
    // again.
    assert!(judged(&frames)[39].reasons.is_empty());
    frames.iter_mut().for_each(|f| f.read.header.offset_adu = Some(500.0));
    let lamp = judged(&frames);
    assert_eq!(rules(&lamp[39]), [Rule::Background]);
    assert!(lamp[..39].iter().all(|j| j.reasons.is_empty()));
}

#[test]
fn filters_are_judged_apart_and_calibration_is_not_judged() {
    let mut frames = night(|_, _| {});
    // Through another filter the sky is ten times as bright.
    for i in 40..50 {
        frames.push(frame(i, "L", FrameKind::Light, Sky { background: 2000.0, ..CLEAR }));
    }
    for i in 50..55 {
        frames.push(frame(i, "Ha", FrameKind::Bias, Sky { elongation: 9.0, ..CLEAR }));
    }
    let all = judged(&frames);
    assert!(all.iter().all(|j| j.reasons.is_empty()));
    // The bias frames gave the level of no light.
    assert!((all[0].background_adu - 200.0).abs() < 5.0, "{}", all[0].background_adu);
    let expected = 200.0 * 0.25 / 300.0;
    let told = all[0].background_e_per_s.expect("gain and offset are known");
    assert!((told / expected - 1.0).abs() < 0.03, "{told}");
    let scale = 206.265 * 3.76 / 620.0;
    assert!((all[0].fwhm_arcsec.expect("a scale") - 3.2 * scale).abs() < 1e-9);
}

#[test]
fn totals_count_what_is_kept_and_what_it_is_worth() {
    let frames = night(|i, sky| {
        if i < 10 {
            sky.transparency = 0.8;
        }
    });
    let all = judged(&frames);
    let told = totals(frames.iter().zip(&all).enumerate().map(|(i, (f, j))| (f, Some(j), i != 3)));
    let [t] = &told[..] else { panic!("one filter in one length: {told:?}") };
    assert_eq!((t.taken, t.kept), (40, 39));
    assert_eq!(t.kept_s, 39.0 * 300.0);
    assert!((t.worth - (30.0 + 9.0 * 0.64)).abs() < 0.6, "{}", t.worth);
    assert_eq!(t.sensor_c, Some(-10.0));
}

#[test]
fn a_guider_that_lost_its_hold_is_told_where_its_table_is_known() {
    let frames = night(|_, _| {});
    let errors = |i: usize| (i != 30).then_some(if i == 11 { 1.3 } else { 0.5 + 0.005 * i as f64 });
    let all = judged_guided(&frames, &errors);
    for (i, j) in all.iter().enumerate() {
        assert_eq!(rules(j), if i == 11 { vec![Rule::Guiding] } else { vec![] }, "{i}");
    }
    assert!(all[11].reasons[0].text.contains("1.30\u{2033}"), "{}", all[11].reasons[0].text);
}

#[test]
fn a_brighter_sky_hides_faint_stars_and_that_is_no_cloud() {
    let mut frames = night(|_, _| {});
    for (i, f) in frames.iter_mut().enumerate() {
        // From the middle of the night on a moon hides what is fainter than 180 ADU; through one
        // frame something stood before a third of the field.
        let depth_adu = if i < 20 { 90.0 } else { 180.0 };
        let seen = if i == 33 { 0.3 } else { 1.0 };
        let brighter = |step: i32| {
            let than_adu = 10f64.powf(f64::from(step) / 5.0);
            StarsBrighter { than_adu, stars: (seen * 1e5 / than_adu) as usize }
        };
        let c = &mut f.channels[0];
        c.depth_adu = Some(depth_adu);
        c.stars = (seen * 1e5 / depth_adu) as usize;
        c.brighter = (9..20).map(brighter).filter(|b| b.than_adu >= depth_adu).collect();
    }
    let all = judged(&frames);
    for (i, j) in all.iter().enumerate() {
        assert_eq!(rules(j), if i == 33 { vec![Rule::Stars] } else { vec![] }, "{i}");
    }
    assert_eq!(all[3].stars, all[30].stars);
}
