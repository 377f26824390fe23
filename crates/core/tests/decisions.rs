//! The decisions: optimum, conversions, ladder, splits, ranges, flips, value, and the words made
//! from them.

use crate::common::{bands, evaluate, ic_443, read, tables, through};
use proptest::prelude::*;
use salt_lamp_core::decide::{
    DecisionsAnswer, Draws, FlipInput, Range, Study, SubDecision, Told, decide, figures_differ,
};
use salt_lamp_core::evaluate::ContenderAnswer;
use salt_lamp_core::library::Library;
use salt_lamp_core::light::Quantity;
use salt_lamp_core::report::{Cell, matrix};
use salt_lamp_core::scenario::Scenario;
use salt_lamp_core::scenario::{
    BinningMode, Dither, Following, GainSub, Mount, Purpose, SplitMode, SubCriterion, TestFrame,
};
use salt_lamp_core::signal::{Plateau, plateau};

fn study(s: &Scenario) -> Study {
    Study::new(s.clone().check().expect("accepted"), &tables())
}

fn decisions(s: &Scenario) -> DecisionsAnswer {
    decide(&study(s), &Library::shipped().expect("library").gear)
}

/// Every school's sub, put back into an evaluation, does there what the school asks for.
#[test]
fn criteria_do_in_an_evaluation_what_they_ask_for() {
    let s = ic_443();
    let answer = decisions(&s);
    let sub = |school: SubCriterion| {
        let c = answer.paths[1].subs[0]
            .criteria
            .iter()
            .find(|c| c.school == school)
            .expect("a criterion");
        c.sub_s.expect("a length")
    };
    let at = |t: f64| {
        let mut one = s.clone();
        one.contenders =
            vec![through(&s.contenders[1], vec![s.contenders[1].exposures[0].filter.clone()], t)];
        evaluate(&one).contenders[0].exposures[0].clone()
    };
    let channel = answer.paths[1].subs[0].reasons[0]
        .split("channel ")
        .nth(1)
        .expect("a channel")
        .trim_end_matches('.')
        .to_owned();
    let of =
        |t: f64| at(t).channels.into_iter().find(|c| c.channel == channel).expect("the channel");
    let swamp = of(sub(SubCriterion::Swamp));
    assert!(
        (swamp.background_per_read_noise2 / 10.0 - 1.0).abs() < 1e-6,
        "{}",
        swamp.background_per_read_noise2
    );
    let c = of(sub(SubCriterion::HistogramAdu));
    let r = &c.rates_e_per_s;
    let background =
        (r.natural + r.artificial + r.moon + r.twilight + r.dark) * sub(SubCriterion::HistogramAdu);
    let e_per_adu = s.contenders[1].sensor.at_gain(100.0).e_per_adu;
    assert!((background / e_per_adu / 500.0 - 1.0).abs() < 1e-6, "{background}");
    let c = of(sub(SubCriterion::HistogramFraction));
    let r = &c.rates_e_per_s;
    let background = (r.natural + r.artificial + r.dark) * sub(SubCriterion::HistogramFraction);
    assert!((background / c.full_scale_e / 0.05 - 1.0).abs() < 1e-6);
    // Excess counts sky and dark current only: with the target's light the evaluation's figure lies
    // a little below.
    let excess = of(sub(SubCriterion::Excess)).read_noise_excess.expect("light");
    assert!((0.035..=0.0501).contains(&excess), "{excess}");
    assert_eq!(sub(SubCriterion::Longest), 600.0);
}

#[test]
fn a_test_frame_is_told_against_the_model_and_never_mixes_two_skies() {
    let mut s = ic_443();
    s.contenders.truncate(1);
    // A sub long enough for all that the schools ask, and a site with lamps alone.
    s.contenders[0].optics.longest_sub_s = None;
    s.choices.school = SubCriterion::TestShot;
    let camera = s.contenders[0].sensor.at_gain(100.0);
    let offset = s.contenders[0].sensor.offset_adu;
    let first = evaluate(&s).contenders[0].exposures[0].channels[0].rates_e_per_s;
    let expected = first.natural + first.artificial + first.moon + first.twilight + first.dark;
    let with = |s: &Scenario, rate: f64| {
        let mut s = s.clone();
        s.contenders[0].exposures[0].test_frame = Some(TestFrame {
            sub_s: 60.0,
            background_adu: offset + 60.0 * rate / camera.e_per_adu,
            with_offset: true,
            channel: None,
        });
        decisions(&s).paths.remove(0).subs.remove(0)
    };
    let length = |d: &SubDecision| {
        d.criteria.iter().find(|c| c.school == SubCriterion::TestShot).expect("listed").sub_s
    };
    // The model's own sky: the frame agrees, and its length is 10 R^2 over what it measured.
    let same = with(&s, expected);
    let told = same.test_frame.as_ref().expect("told");
    assert!(
        told.agrees
            && told.fainter_mag.expect("a sky").abs() < 1e-9
            && told.text.contains("agrees"),
        "{}",
        told.text
    );
    assert!(
        (length(&same).expect("a length") * expected / (10.0 * camera.read_noise_e.powi(2)) - 1.0)
            .abs()
            < 1e-9
    );
    // Twice as bright: told as 0.75 mag brighter, and no length beside those of another sky.
    let other = with(&s, 2.0 * (expected - first.dark) + first.dark);
    let told = other.test_frame.as_ref().expect("told");
    assert!(
        !told.agrees && length(&other).is_none() && told.text.contains("0.75 mag brighter"),
        "{}",
        told.text
    );
    // So they do where the gain is what it says.
    let e_per_adu = told.e_per_adu.expect("a gain");
    let mut other_gain = s.clone();
    for row in &mut other_gain.contenders[0].sensor.gains {
        row.e_per_adu *= e_per_adu / camera.e_per_adu;
    }
    let read = |s: &Scenario, with_offset: bool| {
        let mut s = s.clone();
        let light = 60.0 * (2.0 * (expected - first.dark) + first.dark) / camera.e_per_adu;
        s.contenders[0].exposures[0].test_frame = Some(TestFrame {
            sub_s: 60.0,
            background_adu: if with_offset { offset + light } else { light },
            with_offset,
            channel: None,
        });
        decisions(&s).paths.remove(0).subs.remove(0).test_frame.expect("told")
    };
    assert!(read(&other_gain, true).agrees, "{}", read(&other_gain, true).text);
    // Whether the offset is still in it or not, it is one frame.
    let fainter = |with_offset| read(&s, with_offset).fainter_mag.expect("a sky");
    assert!((fainter(true) - fainter(false)).abs() < 1e-9);
    let least = read(&s, true).least_offset_adu;
    assert!((least - 5.0 * camera.read_noise_e / camera.e_per_adu).abs() < 1.0, "{least}");
    // With the reading that it gives for the sky the two agree.
    let mut corrected = s.clone();
    corrected.sky.toward_target_v_mag = told.toward_target_v_mag;
    let again = with(&corrected, 2.0 * (expected - first.dark) + first.dark);
    let told = again.test_frame.as_ref().expect("told");
    assert!(told.agrees && told.fainter_mag.expect("a sky").abs() < 0.01, "{}", told.text);
    // Up to 0.15 mag either way is one sky.
    for (mag, one_sky) in [(0.14, true), (0.16, false), (-0.14, true), (-0.16, false)] {
        let frame = with(&s, 10f64.powf(-0.4 * mag) * (expected - first.dark) + first.dark);
        assert_eq!(
            (frame.test_frame.as_ref().expect("told").agrees, length(&frame).is_some()),
            (one_sky, one_sky),
            "{mag}"
        );
    }
    // A frame with the cap on is no sky.
    let capped = with(&s, 0.5 * first.dark);
    let told = capped.test_frame.as_ref().expect("told");
    assert!(
        told.fainter_mag.is_none() && length(&capped).is_none() && told.text.contains("no sky"),
        "{}",
        told.text
    );
}

#[test]
fn the_chosen_school_decides_within_the_mount_s_limit() {
    let mut s = ic_443();
    s.choices.school = SubCriterion::Swamp;
    s.choices.swamp_factor = 3.0;
    let short = decisions(&s).paths[0].subs[0].advised_s;
    s.choices.swamp_factor = 10.0;
    let long = decisions(&s).paths[0].subs[0].advised_s;
    assert!((long / short - 10.0 / 3.0).abs() < 1e-6, "{short} {long}");
    s.choices.swamp_factor = 1000.0;
    assert_eq!(decisions(&s).paths[0].subs[0].advised_s, 600.0);
    s.choices.purpose = Purpose::Live;
    assert_eq!(decisions(&s).paths[0].subs[0].advised_s, 10.0);
}

#[test]
fn the_best_sub_leaves_frames_enough_where_the_plateau_allows() {
    let d = &decisions(&ic_443()).paths[0].subs[0];
    let frames = 7200.0 / (d.advised_s + 5.0);
    assert!(d.plateau_s[0] <= d.advised_s && d.advised_s <= d.plateau_s[1]);
    assert!(frames > 19.99, "{frames}");
}

/// A core that clips somewhere on the plateau: the sub stops short of it, for a shorter one there
/// is as good.
#[test]
fn the_best_sub_spares_the_core_where_the_plateau_allows() {
    let sub = |peak: f64| {
        let mut s = ic_443();
        s.target.peak_factor = peak;
        // Ten frames are enough here, so that only the core can shorten the sub.
        s.choices.least_frames = 10.0;
        decisions(&s).paths[1].subs[0].clone()
    };
    let core = |d: &SubDecision| {
        d.limits.iter().find(|w| w.label == "core clips").map_or(f64::INFINITY, |w| w.beyond_s)
    };
    let calm = sub(1.0);
    assert!(core(&calm) > calm.advised_s);
    let within = |d: &SubDecision| d.plateau_s[0] * 1.1 < core(d) && core(d) < calm.advised_s * 0.9;
    let torn = (0..80)
        .map(|i| sub(2.0 * 1.15f64.powi(i)))
        .find(within)
        .expect("a core that clips on the plateau");
    assert!(
        (torn.advised_s / core(&torn) - 1.0).abs() < 1e-9,
        "{} s, the core clips from {} s",
        torn.advised_s,
        core(&torn)
    );
    // Brighter still, it clips before the plateau: then the plateau's beginning is kept, and a
    // second set is proposed.
    let lost = sub(1e5);
    assert!(
        core(&lost) < lost.plateau_s[0] && (lost.advised_s / lost.plateau_s[0] - 1.0).abs() < 1e-6,
        "{lost:?}"
    );
}

/// The curves fall to the plateau's threshold at its ends and nowhere exceed one.
#[test]
fn the_chart_of_sub_lengths_shows_its_plateau() {
    for path in &decisions(&ic_443()).paths {
        for sub in &path.subs {
            for c in &sub.curves {
                let inside = |t: f64| (c.plateau_s[0]..=c.plateau_s[1]).contains(&t);
                for (t, i) in sub.chart_s.iter().zip(&c.information) {
                    assert!(!inside(*t) || *i >= 0.9499, "{t} s: {i}");
                    assert!(*t > c.plateau_s[0] || *i <= 0.951, "{t} s: {i}");
                }
            }
            assert!(sub.chart_s.windows(2).all(|w| w[1] > w[0]));
        }
    }
}

#[test]
fn a_bright_core_asks_for_a_short_second_set() {
    let mut s = ic_443();
    s.contenders.truncate(2);
    assert!(decisions(&s).paths[0].subs[0].short_set.is_none());
    s.target.peak_factor = 20_000.0;
    let d = &decisions(&s).paths[0].subs[0];
    let short = d.short_set.as_ref().expect("the core clips");
    assert!(
        short.sub_s < d.limits.iter().find(|w| w.label == "core clips").expect("a limit").beyond_s
    );
    assert_eq!(short.subs, 20);
    assert!(d.text.contains("the core clips from"), "{}", d.text);
}

/// Three hours of colour out of four leave a quarter of the time, half the signal to noise; one
/// hour leaves seven eighths of it.
#[test]
fn star_colours_cost_what_their_hours_take() {
    let mut s = ic_443();
    s.total_s = 14_400.0;
    let texts = |s: &Scenario, i: usize| {
        decisions(s).paths[i].add_ons.iter().map(|a| a.text.clone()).collect::<Vec<_>>().join(" ")
    };
    assert!(
        texts(&s, 0).contains("taken from your 4 h it leaves 50 % of the lines' SNR"),
        "{}",
        texts(&s, 0)
    );
    assert!(
        texts(&s, 1).contains("taken from your 4 h it leaves 87 % of the lines' SNR"),
        "{}",
        texts(&s, 1)
    );
    s.total_s = 10_800.0;
    assert!(
        texts(&s, 0).contains("it needs a night of its own: your 3 h are no longer than that"),
        "{}",
        texts(&s, 0)
    );
}

/// Two lines through one filter of a colour camera: with a bright H-alpha core and weak oxygen no
/// sub serves both.
#[test]
fn two_lines_behind_one_filter_can_part() {
    let mut s = ic_443();
    s.contenders = vec![s.contenders[1].clone()];
    let calm = decisions(&s).paths[0].subs[0].conflict.clone().expect("two lines");
    assert!(!calm.apart && calm.text.starts_with("One sub serves both"), "{}", calm.text);
    s.target.lines_rayleigh.ha = 200_000.0;
    s.contenders[0].loss_per_hour = 20.0;
    let torn = decisions(&s).paths[0].subs[0].conflict.clone().expect("two lines");
    assert_eq!(torn.quantities, [Quantity::Ha, Quantity::Oiii]);
    assert!(
        torn.text.starts_with("At 180 s the core clips in H-alpha + [N II] (from 28 s)"),
        "{}",
        torn.text
    );
    assert!(!torn.apart && torn.at_yours.iter().all(|x| *x < 0.6), "{torn:?}");
    let least = |x: [f64; 2]| x[0].min(x[1]);
    assert!(least(torn.at_compromise) > 0.99 && torn.compromise_s < 30.0, "{torn:?}");
}

#[test]
fn the_ladder_prefers_the_step_for_narrow_bands_and_range_under_a_bright_sky() {
    let s = ic_443();
    let d = decisions(&s);
    let narrow = &d.paths[0].gain;
    assert_eq!(narrow.advised, 100.0, "{}", narrow.text);
    assert!(narrow.text.contains("the read noise drops here"), "{}", narrow.text);
    let open = &d.paths[2].gain;
    assert!(open.advised < 100.0, "{}", open.text);
    for options in [&narrow.options, &open.options] {
        assert_eq!(options.len(), 10);
        let top = options.iter().map(|r| r.information).fold(0.0, f64::max);
        assert!((top - 1.0).abs() < 1e-12);
        assert!(options.windows(2).all(|w| w[1].full_scale_e < w[0].full_scale_e));
    }
    // The advice is the widest range within 8 % of the most informative allowed option.
    let best = narrow.options.iter().find(|r| r.setting == narrow.advised).expect("a option");
    let allowed = narrow.options.iter().filter(|r| r.within_limits && r.information >= 0.92);
    assert!(
        allowed.clone().count() > 0 && allowed.clone().all(|r| r.range_stops <= best.range_stops)
    );
}

/// The gain is judged in the sub that the user keeps, and the words name it; as a pair each setting
/// has its own sub, and the pair stands in the reasons either way.
#[test]
fn the_gain_is_judged_in_the_sub_that_is_kept_or_with_its_own() {
    let mut s = ic_443();
    for e in &mut s.contenders[0].exposures {
        e.sub_s = 40.0;
    }
    let short = decisions(&s).paths[0].gain.clone();
    assert_eq!(short.at_sub_s, Some(40.0));
    assert!(short.options.iter().all(|o| o.sub_s == 40.0));
    assert!(short.text.contains(" in your 40 s subs: "), "{}", short.text);
    // So short a sub wants the least read noise; long ones leave the range.
    assert!(short.advised > 100.0, "{}", short.text);
    s.choices.gain_sub = GainSub::Own;
    let own = decisions(&s).paths[0].gain.clone();
    assert_eq!((own.at_sub_s, own.pair), (None, short.pair));
    assert_eq!((own.pair.setting, own.pair.exposure), (own.advised, 0));
    assert!(own.pair.sub_s > 80.0 && own.advised < short.advised, "{}", own.text);
    assert!(own.text.contains(" with ") && own.text.contains(" subs: "), "{}", own.text);
    let together = "Gain and sub chosen together: gain";
    assert!([&short, &own].iter().all(|g| g.reasons.iter().any(|r| r.starts_with(together))));
    // Live viewing has a sub of its own.
    s.choices.purpose = Purpose::Live;
    let live = decisions(&s).paths[0].gain.clone();
    assert_eq!(live.at_sub_s, Some(s.choices.live_sub_s));
}

/// A setting between the two rows of a step is a guess, and is told as one.
#[test]
fn a_setting_within_a_step_is_called_a_guess() {
    let mut s = ic_443();
    let said = |s: &Scenario| {
        let all = evaluate(s).warnings;
        all.iter().any(|w| {
            w.path == "contenders[0].gain" && w.message.contains("steps from 2.7 to 1.5 e-")
        })
    };
    s.contenders[0].gain = 99.5;
    assert!(said(&s));
    for on_a_row in [99.0, 100.0, 120.0] {
        s.contenders[0].gain = on_a_row;
        assert!(!said(&s), "{on_a_row}");
    }
}

/// Pixels put together after reading change nothing for a nebula: noise and light are those of the
/// same square of sky. In the sensor they save read noise. A frame's pixel is told as what it is.
#[test]
fn binning_saves_read_noise_only_in_the_sensor_and_costs_detail() {
    let mut s = ic_443();
    s.contenders.truncate(1);
    for e in &mut s.contenders[0].exposures {
        e.sub_s = 30.0;
    }
    let single = evaluate(&s).contenders.remove(0);
    for e in &mut s.contenders[0].exposures {
        e.binning = 2;
    }
    let after = evaluate(&s).contenders.remove(0);
    let snr = |c: &ContenderAnswer| c.quantities[&Quantity::Ha].snr;
    assert!((snr(&after) / snr(&single) - 1.0).abs() < 1e-12);
    let channel = |c: &ContenderAnswer| c.exposures[0].channels[0].clone();
    let (one, four) = (channel(&single), channel(&after));
    assert!((four.rates_e_per_s.ha / one.rates_e_per_s.ha - 4.0).abs() < 1e-9);
    assert!((four.read_noise_e / one.read_noise_e - 2.0).abs() < 1e-9);
    assert!((four.full_scale_e / one.full_scale_e - 4.0).abs() < 1e-9);
    assert!((four.snr_sub_px / one.snr_sub_px - 2.0).abs() < 1e-9);
    assert!((after.exposures[0].pixel_scale_arcsec / single.pixel_scale_arcsec - 2.0).abs() < 1e-9);
    // A star on coarser pixels has more sky beneath it.
    assert!(four.limiting_star_v_mag < one.limiting_star_v_mag);
    let mode = |ratio| BinningMode { factor: 2, read_noise_ratio: ratio, full_well_ratio: 1.0 };
    s.contenders[0].sensor.binning = vec![mode(1.0)];
    let own = evaluate(&s).contenders.remove(0);
    // Half the read noise for each pixel: by hand from the rates of a sub of 30 s.
    let r = one.rates_e_per_s;
    let all = r.ha + r.oiii + r.sii + r.hb + r.continuum + r.natural + r.artificial + r.dark;
    let variance = |read2: f64| all * 30.0 + read2 + (r.dark * 30.0 + read2) / 50.0;
    let r2 = one.read_noise_e.powi(2);
    let expected = (variance(r2) / variance(r2 / 4.0)).sqrt();
    assert!((snr(&own) / snr(&single) / expected - 1.0).abs() < 1e-9, "{expected}");
    let reasons = decisions(&s).paths[0].subs[0].reasons.join("\n");
    assert!(reasons.contains("2 x 2 pixels put together are 3.1\" wide"), "{reasons}");
}

/// A mount that does not follow limits the sub, and says so; moving the field every third sub costs
/// a third.
#[test]
fn mounts_and_moves_limit_and_cost() {
    let mut s = ic_443();
    s.contenders.truncate(1);
    s.contenders[0].mount = Some(Mount { following: Following::Fixed, trail_px: 2.0 });
    s.target.declination_deg = Some(22.5);
    let d = &decisions(&s).paths[0].subs[0];
    // 2 px of 1.567" at 15.041 cos 22.5 "/s.
    let limit = 2.0 * 1.566_78 / (15.041 * 22.5f64.to_radians().cos());
    assert!((d.advised_s - limit).abs() < 1e-3 * limit, "{} {limit}", d.advised_s);
    let said = evaluate(&s).warnings;
    let of = |path: &str| said.iter().find(|w| w.path == path).map(|w| w.message.as_str());
    assert_eq!(of("contenders[0].mount"), Some("On this mount stars trail by 2 px in 0.23 s."));
    let mut s = ic_443();
    s.contenders.truncate(1);
    let c = &mut s.contenders[0];
    (c.overhead_s_per_sub, c.dither) = (1.0, Some(Dither { every: 3, cost_s: 15.0 }));
    let subs = |s: &Scenario| evaluate(s).contenders[0].exposures[0].subs;
    // 7200 s of subs of 300 with 1 + 1 + 5 s between them.
    assert_eq!(subs(&s), 23);
    let told = decisions(&s).paths[0].subs[0].reasons.join("\n");
    assert!(
        told.contains("Moving the field after every 3 subs takes 1.6 % of the clock and gives 7"),
        "{told}"
    );
    s.contenders[0].dither = Some(Dither { every: 1, cost_s: 60.0 });
    assert_eq!(subs(&s), 19);
}

/// At 3.7 times the read noise one value in ten thousand is below zero: an offset under that is
/// called out, and the ladder names a safe one.
#[test]
fn an_offset_that_leaves_zeros_is_called_out() {
    let mut s = ic_443();
    let told = |s: &Scenario| {
        evaluate(s).warnings.iter().any(|w| w.path == "contenders[0].sensor.offset_adu")
    };
    let option = decisions(&s).paths[0].gain.options[5].clone();
    assert_eq!(option.setting, 100.0);
    // 5 x 1.502 e- (with quantisation) at 0.248 e-/ADU.
    assert!((option.safe_offset_adu - 30.28).abs() < 0.01, "{}", option.safe_offset_adu);
    assert!(!told(&s));
    s.contenders[0].sensor.offset_adu = 20.0;
    assert!(told(&s));
    s.contenders[0].sensor.offset_adu = option.safe_offset_adu;
    assert!(!told(&s));
}

#[test]
fn a_dslr_is_set_by_iso() {
    let mut s = ic_443();
    let camera = Library::shipped()
        .expect("library")
        .gear
        .cameras
        .into_iter()
        .find(|c| c.id == "dslr-modified")
        .expect("it");
    (s.contenders[1].sensor, s.contenders[1].gain) = (camera.sensor, 800.0);
    assert_eq!(decisions(&s).paths[1].gain.scale, "ISO");
}

#[test]
fn a_split_by_equal_snr_is_equal_and_faster_than_equal_time() {
    let mut s = read("larch-lane-ngc-7822");
    s.choices.split = SplitMode::EqualSnr;
    let d = decisions(&s);
    let parts = &d.paths[1].time.parts;
    assert!((parts.iter().map(|p| p.share).sum::<f64>() - 1.0).abs() < 1e-9);
    let snr: Vec<f64> = parts.iter().map(|p| p.snr).collect();
    assert!(snr.iter().all(|x| (x / snr[0] - 1.0).abs() < 1e-6), "{snr:?}");
    s.choices.split = SplitMode::Weighted;
    s.contenders[1].exposures[0].weight = 2.0;
    let weighted: Vec<f64> = decisions(&s).paths[1].time.parts.iter().map(|p| p.snr).collect();
    assert!((weighted[0] / weighted[1] / 2.0 - 1.0).abs() < 1e-6, "{weighted:?}");
    s.choices.split = SplitMode::LuminanceHeavy;
    let shares: Vec<f64> = decisions(&read_split("heron-lake-ngc-2403", SplitMode::LuminanceHeavy))
        .paths[2]
        .time
        .parts
        .iter()
        .map(|p| p.share)
        .collect();
    assert_eq!(shares, [0.5, 1.0 / 6.0, 1.0 / 6.0, 1.0 / 6.0]);
}

/// The mono path of the second demo with its clock split so.
fn split_as(shares: [f64; 3], mode: SplitMode) -> DecisionsAnswer {
    let mut s = read("larch-lane-ngc-7822");
    s.choices.split = mode;
    s.contenders[1].exposures.iter_mut().zip(shares).for_each(|(e, x)| e.share = x);
    decisions(&s)
}

#[test]
fn the_fair_split_does_not_hang_on_the_present_one() {
    let shares =
        |d: &DecisionsAnswer| d.paths[1].time.balanced.iter().map(|p| p.share).collect::<Vec<_>>();
    let even = split_as([1.0 / 3.0; 3], SplitMode::AsGiven);
    for other in [[1.0, 0.0, 0.0], [0.0, 0.5, 0.5], [0.98, 0.01, 0.01]] {
        let d = split_as(other, SplitMode::AsGiven);
        assert!(
            shares(&d).iter().zip(shares(&even)).all(|(a, b)| (a - b).abs() < 1e-12),
            "{other:?}: {:?}",
            shares(&d)
        );
        assert_eq!(
            d.paths[1].time.all_reach_goal_s, even.paths[1].time.all_reach_goal_s,
            "{other:?}"
        );
    }
}

#[test]
fn a_filter_without_time_keeps_its_goals_and_nothing_is_called_fastest_that_is_not() {
    let none = split_as([0.5, 0.5, 0.0], SplitMode::AsGiven);
    let t = &none.paths[1].time;
    assert!(
        t.text.contains("[S II] gets no time") && t.text.contains("split evenly in SNR"),
        "{}",
        t.text
    );
    assert_eq!(t.parts[2].quantity, Some(Quantity::Sii));
    assert!(
        t.parts[2].served.iter().any(|v| v.quantity == Quantity::Sii && v.wanted && v.snr == 0.0),
        "{:?}",
        t.parts[2]
    );
    // Three per cent from the best is not the best.
    let fair: Vec<f64> = none.paths[1].time.balanced.iter().map(|p| p.share).collect();
    let near = split_as([fair[0] + 0.022, fair[1], fair[2] - 0.022], SplitMode::AsGiven);
    let text = &near.paths[1].time.text;
    assert!(
        !text.contains("no other split is faster") && text.contains("split evenly in SNR it takes"),
        "{text}"
    );
    let best = split_as([fair[0], fair[1], fair[2]], SplitMode::AsGiven);
    assert!(
        best.paths[1].time.text.contains("no other split is faster"),
        "{}",
        best.paths[1].time.text
    );
}

#[test]
fn equal_snr_is_equal_without_dithering_too() {
    let mut s = read("larch-lane-ngc-7822");
    s.calibration.dithered = false;
    s.calibration.dark_frames = 10.0;
    s.choices.split = SplitMode::EqualSnr;
    let parts = &decisions(&s).paths[1].time.parts;
    let snr: Vec<f64> = parts.iter().map(|p| p.snr).collect();
    assert!(snr.iter().all(|x| (x / snr[0] - 1.0).abs() < 1e-3), "{snr:?}");
    s.choices.split = SplitMode::AsGiven;
    assert!(!decisions(&s).paths[1].time.text.contains("no other split is faster"));
}

#[test]
fn each_filter_s_row_shows_all_that_it_records() {
    let d = decisions(&ic_443());
    let dual = &d.paths[1].time.parts[0];
    let quantities: Vec<Quantity> = dual.served.iter().map(|v| v.quantity).collect();
    assert_eq!(quantities[0], dual.quantity.expect("a purpose"));
    assert!(
        quantities.contains(&Quantity::Ha) && quantities.contains(&Quantity::Oiii),
        "{quantities:?}"
    );
    let (s, answer) = (ic_443(), evaluate(&ic_443()));
    for v in &dual.served {
        let whole = answer.contenders[1].quantities[&v.quantity].snr;
        assert!((v.snr / whole - 1.0).abs() < 0.02, "{v:?} {whole}");
        assert!(v.snr_range.low <= v.snr && v.snr <= v.snr_range.high, "{v:?}");
    }
    assert!(
        d.paths[0].time.parts.iter().all(|p| p.served.iter().any(|v| v.wanted)),
        "{:?}",
        d.paths[0].time.parts
    );
    assert!((s.contenders[1].exposures[0].share - 1.0).abs() < 1e-9);
}

#[test]
fn every_row_s_worth_answers_the_same_question() {
    let mut s = ic_443();
    s.contenders.iter_mut().for_each(|c| c.price = Some(1000.0));
    let d = decisions(&s);
    let bases: Vec<Option<Quantity>> = d.paths[0].worth.iter().map(|w| w.quantity).collect();
    assert_eq!(bases[0], None);
    assert!(
        bases.contains(&Some(Quantity::Ha)) && bases.contains(&Some(Quantity::Oiii)),
        "{bases:?}"
    );
    let answer = evaluate(&s);
    for (p, c) in d.paths.iter().zip(&answer.contenders) {
        assert_eq!(p.worth.iter().map(|w| w.quantity).collect::<Vec<_>>(), bases);
        for w in &p.worth {
            let time = |c: &ContenderAnswer, q: &Quantity| {
                c.quantities.get(q).and_then(|a| a.time_to_goal_s)
            };
            let own = match w.quantity {
                Some(q) => time(c, &q).zip(time(&answer.contenders[0], &q)),
                // All that the first path is for, at the time of the slowest.
                None => {
                    let most = |c: &ContenderAnswer| {
                        [Quantity::Ha, Quantity::Oiii]
                            .iter()
                            .try_fold(0.0f64, |m, q| Some(m.max(time(c, q)?)))
                    };
                    most(c).zip(most(&answer.contenders[0]))
                }
            };
            let Some((t, first)) = own else { continue };
            let ratio = w.time_ratio.unwrap_or_else(|| panic!("{w:?}"));
            assert!(
                (ratio / (t / first) - 1.0).abs() < 0.03,
                "{:?}: {ratio} against {}",
                w.quantity,
                t / first
            );
        }
    }
    // What a path does not record is said, not answered for another line.
    let mut lonely = s.clone();
    lonely.contenders[1].exposures[0].filter = s.contenders[0].exposures[0].filter.clone();
    let d = decisions(&lonely);
    let oiii = d.paths[1].worth.iter().find(|w| w.quantity == Some(Quantity::Oiii)).expect("asked");
    assert_eq!((oiii.time_ratio, oiii.text.as_str()), (None, "records no [O III]"));
    assert_eq!(
        (d.paths[1].worth[0].time_ratio, d.paths[1].worth[0].text.as_str()),
        (None, "records no [O III]")
    );
}

#[test]
fn one_filter_copy_in_two_rows_is_told_apart_by_its_subs_alone() {
    // The same narrow dual band at f/2.8 with 30 s and 120 s subs.
    let mut s = ic_443();
    let mut row = s.contenders[1].clone();
    let filter = row.exposures[0].filter.as_mut().expect("a filter");
    filter.bands.as_mut().expect("bands").iter_mut().for_each(|b| b.fwhm_nm = 3.0);
    filter.centre_tolerance_nm = 1.0;
    let mut long = row.clone();
    (row.exposures[0].sub_s, long.exposures[0].sub_s) = (30.0, 120.0);
    s.contenders = vec![row, long];
    let d = decisions(&s);
    for diff in d.paths[1].differences.iter().filter(|d| d.time_ratio.is_some()) {
        let (ratio, range) =
            (diff.time_ratio.expect("a ratio"), diff.time_ratio_range.expect("a range"));
        assert!(range.low > 0.85 * ratio && range.high < 1.15 * ratio, "{diff:?}");
        assert!(diff.told == Told::Differs && ratio < 0.7, "{diff:?}");
    }
}

fn read_split(name: &str, split: SplitMode) -> Scenario {
    let mut s = read(name);
    s.choices.split = split;
    s
}

#[test]
fn colours_are_balanced_filter_by_filter() {
    let d = decisions(&read_split("heron-lake-ngc-2403", SplitMode::EqualSnr));
    let parts = &d.paths[2].time.parts;
    assert!(
        parts.iter().all(|p| p.share > 0.05 && p.quantity == Some(Quantity::Continuum)),
        "{parts:?}"
    );
    assert!(parts.iter().all(|p| (p.snr / parts[0].snr - 1.0).abs() < 1e-6), "{parts:?}");
}

#[test]
fn dual_pairs_give_the_three_lines_equally() {
    let d = decisions(&ic_443());
    assert!(d.paths[0].dual_pairs.is_empty(), "a mono camera wants none");
    let pairs = &d.paths[1].dual_pairs;
    assert!(
        !pairs.is_empty() && pairs.windows(2).all(|w| w[0].time_to_goal_s <= w[1].time_to_goal_s)
    );
    for p in pairs {
        let least = p.snr.iter().copied().fold(f64::INFINITY, f64::min);
        assert!((least * (p.time_to_goal_s / 14_400.0).sqrt() / 20.0 - 1.0).abs() < 1e-6, "{p:?}");
        assert!((p.shares[0] + p.shares[1] - 1.0).abs() < 1e-9);
    }
}

#[test]
fn calibration_frames_grow_with_the_demand_and_without_dither() {
    let mut s = ic_443();
    s.choices.calibration_excess = 0.005;
    let fine = decisions(&s).paths[0].time.calibration.clone();
    s.choices.calibration_excess = 0.02;
    let coarse = decisions(&s).paths[0].time.calibration.clone();
    assert!(fine.darks > coarse.darks, "{fine:?} {coarse:?}");
    s.calibration.dithered = false;
    let fixed = decisions(&s).paths[0].time.calibration.clone();
    assert!(fixed.darks > 10 * coarse.darks.max(1) / 2, "{fixed:?}");
}

#[test]
fn ranges_hold_the_nominal_answer_and_shared_errors_cancel() {
    let s = ic_443();
    let (d, answer) = (decisions(&s), evaluate(&s));
    for (i, path) in d.paths.iter().enumerate() {
        for (q, r) in &path.ranges {
            let t = answer.contenders[i].quantities[q].time_to_goal_s.expect("reachable");
            let range = r.time_to_goal_s.expect("a range");
            assert!(range.low < t && t < range.high, "{i} {q:?}: {range:?} {t}");
        }
    }
    // Between two paths the sky and the target are the same: the ratio is known far better than
    // either time.
    let own = d.paths[1].ranges[&Quantity::Ha].time_to_goal_s.expect("a range");
    let ratio = d.paths[1].ranges[&Quantity::Ha].time_over_first.expect("a range");
    assert!(ratio.high / ratio.low < 0.6 * own.high / own.low, "{ratio:?} {own:?}");
    assert_eq!(d, decisions(&s), "the same seed gives the same ranges");
}

#[test]
fn within_the_uncertainty_no_row_is_said_to_be_faster() {
    // A telescope behind the second row that is slower in H-alpha beyond all doubt.
    let mut s = ic_443();
    s.contenders[1].optics.aperture_mm = 110.0;
    let said = |d: &DecisionsAnswer, q| {
        let x = d.paths[1].differences.iter().find(|x| x.quantity == q).expect("both record it");
        (x.told, x.text.clone())
    };
    let (d, slow) = (decisions(&ic_443()), decisions(&s));
    let (told, text) = said(&d, Quantity::Oiii);
    assert!(told != Told::Differs, "{text}");
    let (told, text) = said(&slow, Quantity::Ha);
    assert!(
        told == Told::Differs && text.ends_with("times the time for the same H-alpha + [N II]"),
        "{text}"
    );
    for x in d.paths.iter().chain(&slow.paths).flat_map(|p| &p.differences) {
        let inside = x.time_ratio_range.is_some_and(|r| r.low < 1.0 && r.high > 1.0);
        assert!(!inside || x.told != Told::Differs, "{}", x.text);
    }
}

#[test]
fn what_is_lost_besides_lines_is_said() {
    let s = read("heron-lake-ngc-2403");
    let mut s2 = s.clone();
    s2.contenders = vec![
        s.contenders[0].clone(),
        through(&s.contenders[0], vec![Some(bands("dual 5", 5.0, &[656.3, 500.7]))], 180.0),
    ];
    let losses = &decisions(&s2).paths[1].losses;
    assert!(losses.iter().any(|l| l.starts_with("Loses the continuum")), "{losses:?}");
    assert!(losses.contains(&"Stars lose their colours.".to_owned()), "{losses:?}");
}

/// Where a flip says that another path wins, an evaluation at that site agrees, and just before it
/// does not.
#[test]
fn flips_are_where_an_evaluation_turns() {
    let s = ic_443();
    let d = decisions(&s);
    let flip = d
        .flips
        .iter()
        .find(|f| f.quantity == Some(Quantity::Ha) && f.text.contains("darker than"))
        .expect("a flip");
    let edge: f64 = flip
        .text
        .split("darker than ")
        .nth(1)
        .expect("a number")
        .split(' ')
        .next()
        .expect("a number")
        .parse()
        .expect("a number");
    let winner = |zenith: f64| {
        let mut at = s.clone();
        at.sky.zenith_v_mag = zenith;
        let a = evaluate(&at);
        (0..3).min_by(|&i, &j| {
            let t = |i: usize| {
                a.contenders[i].quantities[&Quantity::Ha].time_to_goal_s.unwrap_or(f64::INFINITY)
            };
            t(i).total_cmp(&t(j))
        })
    };
    assert_eq!(winner(edge - 0.1), Some(flip.now));
    assert_eq!(winner(edge + 0.1), Some(flip.then));
}

/// Nothing uncertain: every range closes on its answer.
fn certain(mut s: Scenario) -> Scenario {
    let u = &mut s.choices.uncertainty;
    (u.sky_mag, u.target_relative, u.filter_centre) = (0.0, 0.0, false);
    (u.nii_relative, u.throughput_relative, u.k_v_mag) = (0.0, 0.0, 0.0);
    (u.airglow_mag, u.lamp_mix) = (0.0, false);
    s
}

#[test]
fn flips_carry_what_is_uncertain_and_close_without_it() {
    let s = ic_443();
    let flips = decisions(&s).flips;
    assert!(!flips.is_empty());
    for f in &flips {
        assert!(
            f.edge_range.low <= f.edge_range.middle && f.edge_range.middle <= f.edge_range.high,
            "{f:?}"
        );
        // Of one quantity: the slower of two is later in the draws than as stated.
        assert!(
            f.quantity.is_none() || (0.0..0.5).contains(&f.turned_already),
            "what wins as stated wins in most draws: {f:?}"
        );
    }
    assert!(flips.iter().any(|f| f.edge_range.is_open()), "{flips:?}");
    for f in decisions(&certain(s.clone())).flips {
        let width = f.edge_range.high - f.edge_range.low;
        assert!(
            width < 0.02 && (f.edge - f.edge_range.middle).abs() < 0.02 * f.edge.abs().max(1.0),
            "{f:?}"
        );
        assert_eq!(f.turned_already, 0.0, "{f:?}");
    }
    // A site that stands on the edge itself has the order turned in about half of the draws.
    let flip = flips
        .iter()
        .find(|f| f.quantity == Some(Quantity::Ha) && f.input == FlipInput::Zenith)
        .expect("a flip");
    let mut there = s;
    there.sky.zenith_v_mag = flip.edge - 0.01;
    let d = decisions(&there).flips;
    let same = d
        .iter()
        .find(|f| f.quantity == Some(Quantity::Ha) && f.input == FlipInput::Zenith)
        .expect("still a flip");
    assert!((0.25..0.75).contains(&same.turned_already), "{same:?}");
    assert!(same.text.contains("already in"), "{}", same.text);
}

#[test]
fn influences_are_drawn_step_by_step() {
    let open = decisions(&ic_443());
    let mut told_apart = 0;
    for i in open.paths.iter().flat_map(|p| &p.influences) {
        let r = &i.time_ratio_range;
        assert!(
            r.low <= r.middle
                && r.middle <= r.high
                && r.low * 0.9 <= i.time_ratio
                && i.time_ratio <= r.high * 1.1,
            "{i:?}"
        );
        told_apart += usize::from(r.is_open());
    }
    assert!(told_apart > 3, "{told_apart} ranges are open");
    for i in decisions(&certain(ic_443())).paths.iter().flat_map(|p| &p.influences) {
        assert!((i.time_ratio_range.high / i.time_ratio_range.low - 1.0).abs() < 1e-9, "{i:?}");
        assert!((i.time_ratio_range.middle / i.time_ratio - 1.0).abs() < 1e-9, "{i:?}");
    }
}

#[test]
fn influences_are_sorted_and_agree_with_an_evaluation() {
    let s = ic_443();
    let d = decisions(&s);
    let of = |q: Quantity| {
        d.paths[0].influences.iter().filter(|i| i.quantity == Some(q)).collect::<Vec<_>>()
    };
    let list = of(Quantity::Oiii);
    assert!(list.len() > 5 && of(Quantity::Ha).len() > 5);
    assert!(list.windows(2).all(|w| w[0].time_ratio.ln().abs() >= w[1].time_ratio.ln().abs()));
    let dimmer = list
        .iter()
        .find(|i| i.input.ends_with("a third fainter"))
        .expect("an influence")
        .time_ratio;
    let mut faint = s.clone();
    faint.target.lines_rayleigh.oiii *= 2.0 / 3.0;
    let time = |s: &Scenario| {
        evaluate(s).contenders[0].quantities[&Quantity::Oiii].time_to_goal_s.expect("t")
    };
    assert!((dimmer / (time(&faint) / time(&s)) - 1.0).abs() < 0.01, "{dimmer}");
}

#[test]
fn value_counts_hours_and_money() {
    let mut s = read("larch-lane-ngc-7822");
    // The same rig: 3 nm instead of 7 nm for 190 more.
    s.contenders = [7.0, 3.0]
        .map(|w| {
            let mut c = through(
                &s.contenders[0],
                vec![Some(bands(&format!("Ha {w}"), w, &[656.3]))],
                300.0,
            );
            c.exposures[0].filter.as_mut().expect("a filter").price =
                Some(if w > 5.0 { 140.0 } else { 330.0 });
            c
        })
        .to_vec();
    let v = &decisions(&s).paths[1].worth[1];
    let (ratio, saved) = (v.time_ratio.expect("both"), v.hours_saved_per_year.expect("both"));
    assert_eq!(v.extra_price, Some(190.0));
    assert!(ratio < 0.9 && (saved - 200.0 * (1.0 - ratio)).abs() < 1e-9, "{v:?}");
    assert!((v.price_per_hour_saved.expect("saves") - 190.0 / saved).abs() < 1e-9);
    assert!(v.text.contains("saves"), "{}", v.text);
}

#[test]
fn the_matrix_repeats_the_evaluation() {
    let (d, a) = (decisions(&ic_443()), evaluate(&ic_443()));
    let m = matrix(&study(&ic_443()), &d);
    let at = |key: &str| m.columns.iter().position(|c| c.key == key).expect(key);
    assert_eq!(m.rows.len(), 3);
    assert_eq!(
        m.rows[0][at("snr_ha")],
        Cell::Number(a.contenders[0].quantities[&Quantity::Ha].snr)
    );
    assert_eq!(m.rows[0][at("time_ratio_ha")], Cell::Number(1.0));
    assert_eq!(m.rows[0][at("snr_sii")], Cell::None);
    assert!(m.rows.iter().all(|r| r.len() == m.columns.len()));
}

/// Fact 11, common practice, no source: 72 subs of 300 s take about 6 h 40 min on the clock with
/// refocus, dither and settling.
#[test]
fn fact_11_overheads_count() {
    let mut s = ic_443();
    s.contenders.truncate(1);
    s.contenders[0].exposures.truncate(1);
    s.contenders[0].exposures[0].share = 1.0;
    // A tenth of the night on refocus, dither and settling: 33 s a sub.
    s.contenders[0].overhead_s_per_sub = 32.0;
    s.total_s = 6.0 * 3600.0 + 40.0 * 60.0;
    assert_eq!(evaluate(&s).contenders[0].exposures[0].subs, 72);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(1000))]

    /// The analytic optimum of a sub against brute force over a fine grid.
    #[test]
    fn the_optimum_beats_every_other_length(
        rate in 1e-4..100.0f64, read_noise in 0.5..15.0f64, overhead in 0.0..120.0f64,
            loss in 0.0..30.0f64, limit in 20.0..3600.0f64,
    ) {
        let terms = salt_lamp_core::signal::SubTerms {
            total_e_per_s: rate,
            background_e_per_s: rate,
            dark_e_per_s: 0.0,
            read_noise_e: read_noise,
            overhead_s: overhead,
            loss_per_hour: loss,
            longest_s: Some(limit),
        };
        let p = salt_lamp_core::signal::plateau(&terms);
        let best = terms.information(p.best_s);
        for i in 1..=400 {
            let t = limit * f64::from(i) / 400.0;
            prop_assert!(terms.information(t) <= best * (1.0 + 1e-9));
            if t > p.from_s * 1.001 && t < p.to_s * 0.999 {
                prop_assert!(terms.information(t) >= 0.9499 * best);
            }
        }
    }
}

/// Solved draw by draw, the best sub and its plateau have the ranges that were found from three
/// draws alone.
#[test]
fn ranges_of_a_sub_are_those_of_all_draws() {
    let s = ic_443();
    let paths = study(&s).model.paths;
    let draws = Draws::new(&s);
    let answer = decisions(&s);
    for (i, path) in paths.iter().enumerate() {
        for (at, e) in path.exposures.iter().enumerate() {
            let each: Vec<Plateau> = draws
                .of(i)
                .rates(e.deciding(), at)
                .iter()
                .map(|r| plateau(&path.instrument.sub_terms(r)))
                .collect();
            let range =
                |f: fn(&Plateau) -> f64| Range::of(each.iter().map(f).collect()).expect("draws");
            let found = &answer.paths[i].subs[at].range;
            for (all, three) in [
                (range(|p| p.best_s), found.best_s),
                (range(|p| p.from_s), found.from_s),
                (range(|p| p.to_s), found.to_s),
            ] {
                assert!(
                    (all.low / three.low - 1.0).abs() < 1e-6
                        && (all.high / three.high - 1.0).abs() < 1e-6,
                    "{all:?} {three:?}"
                );
            }
            if let Some([from, to]) = found.sure_s {
                let good = each
                    .iter()
                    .filter(|p| p.from_s <= from * 1.000_001 && to <= p.to_s * 1.000_001)
                    .count();
                assert!(good * 10 >= each.len() * 8, "{good} of {}", each.len());
            }
        }
    }
}

/// Nothing uncertain, no ranges; and every nominal result lies in its range otherwise.
#[test]
fn every_decision_has_a_range_that_holds_it() {
    let mut s = ic_443();
    s.choices.split = SplitMode::EqualSnr;
    s.contenders[1].price = Some(2000.0);
    s.contenders[0].price = Some(1500.0);
    let near = |r: &Range, x: f64| r.low <= x * (1.0 + 1e-9) && x <= r.high * (1.0 + 1e-9);
    let check = |d: &DecisionsAnswer, open: bool| {
        for p in &d.paths {
            for sub in &p.subs {
                assert!(
                    near(&sub.range.best_s, sub.best_s)
                        && near(&sub.range.advised_s, sub.advised_s),
                    "{:?}",
                    sub.range
                );
                assert!(
                    near(&sub.range.yours_information, sub.yours_information),
                    "{:?}",
                    sub.range.yours_information
                );
                for c in &sub.criteria {
                    assert_eq!(c.sub_s.is_some(), c.sub_range_s.is_some(), "{c:?}");
                    assert!(c.sub_s.zip(c.sub_range_s).is_none_or(|(t, r)| near(&r, t)), "{c:?}");
                }
                assert!(
                    sub.limits.iter().all(|w| w.range_s.is_none_or(|r| near(&r, w.beyond_s))),
                    "{:?}",
                    sub.limits
                );
                for c in &sub.curves {
                    let band = c.low.iter().zip(&c.high).zip(&c.information);
                    assert!(band.clone().all(|((l, h), i)| l <= i && i <= h));
                    let widest = band.map(|((l, h), _)| h - l).fold(0.0, f64::max);
                    // Under a bright sky the curve is flat from the first second: only narrow bands
                    // show a wide band.
                    assert!(
                        if open { sub.best_s < 60.0 || widest > 0.005 } else { widest < 1e-9 },
                        "{widest}"
                    );
                }
            }
            let unclipped =
                p.gain.options.iter().all(|r| {
                    near(&r.sub_range_s, r.sub_s) && near(&r.core_fill_range, r.core_fill)
                });
            assert!(
                unclipped
                    && p.gain.options.iter().all(|r| near(&r.information_range, r.information))
            );
            for part in p.time.parts.iter().chain(&p.time.balanced) {
                assert!(
                    near(&part.share_range, part.share) && near(&part.snr_range, part.snr),
                    "{part:?}"
                );
                assert_eq!(part.snr_range.is_open(), open && part.snr > 0.0);
            }
            let all = p.time.all_reach_goal_s.zip(p.time.all_reach_goal_range_s);
            assert!(all.is_none_or(|(t, r)| near(&r, t) && r.is_open() == open));
            let c = &p.time.calibration;
            assert!(
                near(&c.darks_range, f64::from(c.darks))
                    && near(&c.flats_range, f64::from(c.flats))
            );
            for w in &p.worth {
                let hours = w.hours_saved_per_year.zip(w.hours_saved_range);
                assert!(
                    hours.is_none_or(|(h, r)| r.low <= h + 1e-9 && h <= r.high + 1e-9),
                    "{w:?}"
                );
            }
            assert!(
                p.limiting_star_v_mag
                    .iter()
                    .flatten()
                    .all(|r| r.low <= r.high && (r.high - r.low > 0.02) == open)
            );
            assert!(
                p.dual_pairs.iter().all(|d| near(&d.time_range_s, d.time_to_goal_s)),
                "{:?}",
                p.dual_pairs
            );
            for d in &p.differences {
                assert!(
                    d.snr_ratio
                        .zip(d.snr_ratio_range)
                        .is_none_or(|(x, r)| r.low <= x * 1.02 && x <= r.high * 1.02),
                    "{d:?}"
                );
                assert!(
                    d.contrast_ratio
                        .zip(d.contrast_ratio_range)
                        .is_none_or(|(x, r)| r.low <= x * 1.02 && x <= r.high * 1.02),
                    "{d:?}"
                );
            }
        }
    };
    check(&decisions(&s), true);
    check(&decisions(&certain(s)), false);
}

/// Words carry the ranges, and say so where the advice on gain does not stand.
#[test]
fn verdicts_say_their_ranges() {
    let mut s = ic_443();
    let d = decisions(&s);
    assert!(
        d.paths[0].subs[0].text.contains("in eight cases of ten"),
        "{}",
        d.paths[0].subs[0].text
    );
    assert!(d.paths[0].time.text.contains(" h)"), "{}", d.paths[0].time.text);
    assert!(d.equal_clock[0].contains(" to "), "{}", d.equal_clock[0]);
    s.choices.uncertainty.sky_mag = 2.0;
    let wide = decisions(&s);
    let unsure: Vec<_> = wide.paths.iter().filter(|p| !p.gain.also_advised.is_empty()).collect();
    assert!(!unsure.is_empty());
    for p in unsure {
        assert!(
            !p.gain.also_advised.contains(&p.gain.advised)
                && p.gain.text.contains("if sky or target are misjudged"),
            "{}",
            p.gain.text
        );
    }
}

/// A path differs from no copy of itself, from one through no filter it does, and from one that is
/// a twentieth slower by no more than the model holds.
#[test]
fn pairs_differ_by_more_than_their_range_or_not_at_all() {
    let mut s = ic_443();
    let (narrow, open) = (s.contenders[1].clone(), s.contenders[2].clone());
    let mut slower = narrow.clone();
    slower.optics.throughput *= 0.97;
    s.contenders = vec![narrow.clone(), narrow, open, slower];
    let differ = figures_differ(&study(&s), &[Quantity::Ha, Quantity::Oiii]);
    let [x, o] = [true, false];
    assert_eq!(differ, [[o, o, x, o], [o, o, x, o], [x, x, o, x], [o, o, x, o]]);
}
