//! Facts of the trade that the model must reproduce. Each is common practice, no source.

mod common;

use common::{bands, evaluate, ic_443, through};
use salt_lamp_core::light::Quantity;
use salt_lamp_core::scenario::Scenario;

const HA: f64 = 656.3;
const OIII: f64 = 500.7;

/// The mono rig of the demo with one filter.
fn mono_with(width_nm: f64) -> Scenario {
    let mut s = ic_443();
    s.contenders = vec![through(&s.contenders[0], vec![Some(bands("line", width_nm, &[HA]))], 300.0)];
    s
}

/// Fact 1 (a Bayer sensor's shares) stands beside the sensor's code; here it is seen in an answer.
#[test]
fn fact_1_shares_of_a_bayer_sensor() {
    let answer = evaluate(&ic_443());
    let shares: Vec<_> = answer.contenders[1].exposures[0].channels.iter().map(|c| (c.channel, c.pixel_share)).collect();
    assert_eq!(shares, [("r", 0.25), ("g", 0.5), ("b", 0.25)]);
}

/// Fact 2, common practice, no source: from 7 to 3 nm subs grow by 2.1 to 2.4.
#[test]
fn fact_2_subs_double_from_seven_to_three_nanometres() {
    let sub = |width| evaluate(&mono_with(width)).contenders[0].exposures[0].sub_exposure.swamp_10x_s.expect("a sky");
    let ratio = sub(3.0) / sub(7.0);
    assert!((2.1..=2.4).contains(&ratio), "{ratio}");
}

/// Fact 3, common practice, no source: 7 nm at about f/7 from a bright suburb clear the left edge in 300-400 s,
/// 3 nm in 600 s. "Clear of the left edge" is taken as a background of three times the read noise squared,
/// with the cameras of that practice (read noise 1.5 e- to 1.7 e-).
#[test]
fn fact_3_subs_that_clear_the_left_edge() {
    let clear_s = |width| {
        let mut s = mono_with(width);
        s.sky.zenith_v_mag = 19.0;
        s.contenders[0].optics.aperture_mm = 71.0;
        let answer = evaluate(&s);
        0.3 * answer.contenders[0].exposures[0].sub_exposure.swamp_10x_s.expect("a sky")
    };
    let (seven, three) = (clear_s(7.0), clear_s(3.0));
    assert!(seven <= 400.0 && seven > 60.0, "7 nm: {seven}");
    assert!(three <= 600.0 && three > seven, "3 nm: {three}");
}

/// Fact 5, common practice, no source: for a line, a colour camera with a dual filter needs about twice the
/// clock time of a mono camera that shares its night between two filters.
#[test]
fn fact_5_colour_with_a_dual_band_needs_about_twice_the_time() {
    let mut s = ic_443();
    let mono = through(&s.contenders[0], vec![Some(bands("Ha", 7.0, &[HA])), Some(bands("OIII", 7.0, &[OIII]))], 300.0);
    let mut colour = through(&s.contenders[1], vec![Some(bands("dual", 7.0, &[HA, OIII]))], 300.0);
    colour.optics = mono.optics.clone();
    s.contenders = vec![mono, colour];
    let answer = evaluate(&s);
    let time = |i: usize, q| answer.contenders[i].quantities[&q].time_to_goal_s.expect("reachable");
    let ha = time(1, Quantity::Ha) / time(0, Quantity::Ha);
    assert!((1.6..=2.6).contains(&ha), "H-alpha: {ha}");
    let both = (0..2).map(|i| time(i, Quantity::Ha).max(time(i, Quantity::Oiii))).collect::<Vec<_>>();
    assert!((1.0..=2.6).contains(&(both[1] / both[0])), "{both:?}");
}

/// Fact 13, common practice, no source: combining every channel that holds [O III] raises its signal to noise.
#[test]
fn fact_13_every_channel_helps_oxygen() {
    let answer = evaluate(&ic_443());
    let dual = &answer.contenders[1];
    let best = dual.exposures[0].channels.iter().filter_map(|c| c.snr.get(&Quantity::Oiii)).copied().fold(0.0, f64::max);
    assert!(dual.quantities[&Quantity::Oiii].snr > 1.1 * best);
}
