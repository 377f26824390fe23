//! What must hold for any scenario.

use crate::common::{evaluate, ic_443};
use proptest::prelude::*;
use salt_lamp_core::light::{Lamp, Quantity};
use salt_lamp_core::scenario::{Moon, Scenario};

fn snrs(s: &Scenario) -> Vec<f64> {
    evaluate(s)
        .contenders
        .iter()
        .flat_map(|c| c.quantities.values().map(|q| q.snr).collect::<Vec<_>>())
        .collect()
}

/// A scenario somewhere among those that imagers meet.
fn any_scenario() -> impl Strategy<Value = Scenario> {
    (
        17.5..22.0f64,
        20.0..90.0f64,
        0.0..1.0f64,
        proptest::option::of((0.0..150.0f64, 5.0..80.0f64, 15.0..150.0f64)),
        1.0..400.0f64,
        30.0..600.0f64,
    )
        .prop_map(|(zenith, altitude, sodium, moon, ha, sub_s)| {
            let mut s = ic_443();
            s.sky.zenith_v_mag = zenith;
            s.sky.target_altitude_deg = altitude;
            s.sky.lamps =
                [(Lamp::HighPressureSodium, sodium), (Lamp::Led4000k, 1.0 - sodium)].into();
            s.sky.moon = moon.map(|(phase_angle_deg, altitude_deg, separation_deg)| Moon {
                phase_angle_deg,
                altitude_deg,
                separation_deg,
            });
            s.target.lines_rayleigh.ha = ha;
            for e in s.contenders.iter_mut().flat_map(|c| &mut c.exposures) {
                e.sub_s = sub_s;
            }
            s
        })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn more_light_never_lowers_the_signal_to_noise(s in any_scenario(), factor in 1.0..10.0f64) {
        let brighter = {
            let mut b = s.clone();
            b.target.lines_rayleigh.ha *= factor;
            b
        };
        let ha = |s: &Scenario| evaluate(s).contenders.iter()
            .map(|c| c.quantities[&Quantity::Ha].snr).collect::<Vec<_>>();
        for (a, b) in ha(&s).iter().zip(ha(&brighter)) {
            prop_assert!(b >= *a);
        }
        let mut more_glass = s.clone();
        for c in &mut more_glass.contenders {
            c.optics.throughput = (c.optics.throughput * factor).min(1.0);
        }
        for (a, b) in snrs(&s).iter().zip(snrs(&more_glass)) {
            prop_assert!(b >= a * (1.0 - 1e-12));
        }
    }

    #[test]
    fn a_brighter_sky_never_helps(s in any_scenario(), step in 0.1..3.0f64) {
        let mut brighter = s.clone();
        brighter.sky.zenith_v_mag = (s.sky.zenith_v_mag - step).max(14.0);
        for (a, b) in snrs(&s).iter().zip(snrs(&brighter)) {
            prop_assert!(b <= a * (1.0 + 1e-12));
        }
    }

    #[test]
    fn signal_to_noise_grows_as_the_square_root_of_subs(s in any_scenario(), times in 2u32..9) {
        // A time that holds a whole number of subs of every exposure, so that none is cut off.
        let cadence = |s: &Scenario| {
            let c = &s.contenders[0];
            c.exposures[0].sub_s + c.overhead_s_per_sub + c.sensor.readout_s
        };
        let mut one = s.clone();
        one.contenders.truncate(1);
        one.total_s = 2.0 * cadence(&s) * 10.0;
        let mut many = one.clone();
        many.total_s *= f64::from(times);
        for (a, b) in snrs(&one).iter().zip(snrs(&many)) {
            prop_assert!((b / a / f64::from(times).sqrt() - 1.0).abs() < 1e-9, "{a} {b}");
        }
    }

    #[test]
    fn detail_scales_the_answer_and_nothing_else(s in any_scenario(), factor in 0.2..10.0f64) {
        let mut other = s.clone();
        other.detail_arcsec *= factor;
        for (a, b) in snrs(&s).iter().zip(snrs(&other)) {
            prop_assert!((b / a / factor - 1.0).abs() < 1e-9);
        }
    }

    #[test]
    fn the_time_to_the_goal_reaches_the_goal(s in any_scenario()) {
        for (i, c) in evaluate(&s).contenders.iter().enumerate() {
            for (q, a) in &c.quantities {
                let Some(t) = a.time_to_goal_s else { continue };
                let mut at_goal = s.clone();
                // A night more than a few subs long, so that the last broken sub does not show.
                if !(20_000.0..3.6e6).contains(&t) { continue }
                at_goal.total_s = t;
                let reached = evaluate(&at_goal).contenders[i].quantities[q].snr;
                prop_assert!((reached / s.goal_snr - 1.0).abs() < 0.05, "{reached}");
            }
        }
    }

    #[test]
    fn sky_parts_add_up(s in any_scenario()) {
        let sky = evaluate(&s).sky;
        let light = |m: Option<f64>| m.map_or(0.0, |m| 10f64.powf(-0.4 * m));
        let sum = light(sky.natural_v_mag)
            + light(sky.artificial_v_mag)
            + light(sky.moon_v_mag)
            + light(sky.twilight_v_mag);
        prop_assert!((sum / light(sky.total_v_mag) - 1.0).abs() < 1e-9);
    }
}

/// Same document, same answer, to the bit.
#[test]
fn the_answer_is_reproducible() {
    let s = ic_443();
    assert_eq!(
        serde_json::to_string(&evaluate(&s)).expect("json"),
        serde_json::to_string(&evaluate(&s)).expect("json")
    );
}
