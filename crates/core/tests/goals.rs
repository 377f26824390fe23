//! Goals as imagers set them: which part of a target is clean at which detail, and how long that
//! takes with gear that people own.

use crate::common::{evaluate, ic_443, tables};
use salt_lamp_core::light::Quantity;
use salt_lamp_core::scenario::{Goal, Scenario, TargetPart};

/// A goal for H-alpha.
fn ha(part: TargetPart, snr: f64, detail_arcsec: f64) -> Goal {
    Goal { quantity: Quantity::Ha, part, snr, detail_arcsec, star_v_mag: None }
}

/// The demo's mono camera behind 3 nm H-alpha and its colour camera behind a dual band, on H-alpha
/// alone of this brightness, all of the clock through one filter.
fn faint(contender: usize, rayleigh: f64, detail_arcsec: f64) -> Scenario {
    let mut s = ic_443();
    let l = &mut s.target.lines_rayleigh;
    (l.ha, l.nii, l.oiii, l.sii, l.hb) = (rayleigh, 0.0, rayleigh * 0.4, 0.0, rayleigh * 0.28);
    let mut c = s.contenders[contender].clone();
    c.exposures.truncate(1);
    c.exposures[0].share = 1.0;
    s.contenders = vec![c];
    s.goals = vec![ha(TargetPart::Body, 10.0, detail_arcsec)];
    s
}

fn hours(s: &Scenario) -> f64 {
    evaluate(s).contenders[0].quantities[&Quantity::Ha].time_to_goal_s.expect("in reach") / 3600.0
}

/// Common practice, no source: seven hours a line is comfortable for faint lines, 30 to 50 h are
/// shot with colour cameras for the faintest.
#[test]
fn fact_18_faint_lines_take_the_hours_that_people_shoot() {
    let mono = hours(&faint(0, 10.0, 15.0));
    assert!((6.0..9.0).contains(&mono), "10 R at 15 arcsec, mono 3 nm: {mono} h");
    let colour = hours(&faint(1, 4.0, 30.0));
    assert!((45.0..65.0).contains(&colour), "4 R at 30 arcsec, colour dual band: {colour} h");
}

/// After the time that a goal takes, its part is clean at the goal's detail: the two figures are
/// one.
#[test]
fn a_goal_is_met_when_its_part_is_clean_at_its_detail() {
    for part in TargetPart::ALL {
        let mut s = ic_443();
        s.goals = vec![ha(part, 10.0, 12.0)];
        let contenders = evaluate(&s).contenders;
        for (i, c) in contenders.iter().enumerate() {
            let t = c.quantities[&Quantity::Ha].time_to_goal_s.expect("in reach");
            s.contenders[i].total_s = Some(t);
        }
        for c in evaluate(&s).contenders {
            let a = &c.quantities[&Quantity::Ha];
            let side = a.clean_arcsec.expect("gathered");
            assert!((side / 12.0 - 1.0).abs() < 1e-6, "{part:?}: {side}");
        }
    }
}

/// The side falls as one over the square root of the time, down to what seeing and pixels allow.
#[test]
fn clean_detail_falls_as_the_root_of_time_and_stops_at_the_finest() {
    let mut s = ic_443();
    s.goals = vec![ha(TargetPart::Outskirts, 10.0, 15.0)];
    let at = |s: &Scenario, hours: f64| {
        let mut s = s.clone();
        s.total_s = hours * 3600.0;
        let a = evaluate(&s).contenders[0].quantities[&Quantity::Ha];
        (a.clean_arcsec.expect("gathered"), a.finest_arcsec)
    };
    let ((one, finest), (four, _)) = (at(&s, 1.0), at(&s, 4.0));
    assert!((one / four - 2.0).abs() < 1e-9, "{one} {four}");
    assert_eq!(at(&s, 500.0).0, finest);
    // Two pixels of 1.57 arcsec, or stars of 2.5 arcsec at 60 degrees: the larger.
    let c = &s.contenders[0];
    let scale = c.optics.pixel_scale_arcsec(c.sensor.pixel_um);
    let star = s.seeing_fwhm_arcsec * (1.0 / 60f64.to_radians().sin()).powf(0.6);
    assert!((finest / (2.0 * scale).max(star) - 1.0).abs() < 0.01, "{finest}");
    s.seeing_fwhm_arcsec = 6.0;
    assert!(at(&s, 500.0).0 > 6.0);
}

/// A brighter part is clean sooner, and by more than its own photons would make it: five times as
/// faint, about 25 times as long where the sky rules.
#[test]
fn parts_come_clean_in_the_order_of_their_brightness() {
    let s = ic_443();
    let c = &evaluate(&s).contenders[1].quantities[&Quantity::Oiii];
    let [core, body, out] = [c.clean.core_arcsec, c.clean.body_arcsec, c.clean.outskirts_arcsec]
        .map(|side| side.expect("gathered"));
    assert!(core < body && body < out);
    assert!((out / body - 5.0).abs() < 0.3, "the sky rules: {}", out / body);
}

/// A path may have its own clock: three hours with a filter against fourteen without.
#[test]
fn paths_may_have_clocks_of_their_own() {
    let mut s = ic_443();
    s.goals = vec![ha(TargetPart::Body, 10.0, 10.0)];
    let equal = evaluate(&s);
    s.contenders[1].total_s = Some(4.0 * s.total_s);
    let own = evaluate(&s);
    assert_eq!(own.contenders[1].clock_s, 4.0 * s.total_s);
    assert_eq!(own.contenders[0], equal.contenders[0], "the others keep theirs");
    let of = |e: &salt_lamp_core::evaluate::Evaluation| e.contenders[1].quantities[&Quantity::Ha];
    assert_eq!(of(&own).time_to_goal_s, of(&equal).time_to_goal_s);
    assert!((of(&own).snr / of(&equal).snr - 2.0).abs() < 0.03);
}

/// A goal of stars: the time at which a star of that magnitude has that signal to noise is the one
/// after which the faintest star that has it is of that magnitude.
#[test]
fn stars_to_a_magnitude_are_a_goal() {
    let mut s = ic_443();
    s.contenders.remove(0);
    let star_v_mag = Some(17.0);
    s.goals =
        vec![Goal { quantity: Quantity::Continuum, star_v_mag, ..ha(TargetPart::Body, 10.0, 5.0) }];
    s.target.continuum = Some(salt_lamp_core::scenario::Continuum {
        v_mag_arcsec2: 22.0,
        temperature_k: 6000.0,
        b_v: None,
    });
    let t = evaluate(&s).contenders[1].quantities[&Quantity::Continuum].time_to_goal_s.expect("t");
    s.contenders[1].total_s = Some(t);
    let reached = evaluate(&s).contenders[1].quantities[&Quantity::Continuum].stars_to_v_mag;
    assert!((reached.expect("stars") - 17.0).abs() < 1e-3, "{reached:?}");
    s.goals[0].star_v_mag = Some(19.0);
    let fainter = evaluate(&s).contenders[1].quantities[&Quantity::Continuum].time_to_goal_s;
    assert!(fainter.expect("t") > 10.0 * t, "two magnitudes fainter");
}

/// What the goals say rules the split, too: a part five times fainter in one line wants far more of
/// the clock for it.
#[test]
fn a_split_serves_the_goals_and_not_one_signal_to_noise() {
    let mut s = ic_443();
    let oiii = |detail_arcsec| Goal {
        quantity: Quantity::Oiii,
        ..ha(TargetPart::Body, 10.0, detail_arcsec)
    };
    let shares = |s: &Scenario| -> Vec<f64> {
        let study =
            salt_lamp_core::decide::Study::new(s.clone().check().expect("accepted"), &tables());
        let decided = salt_lamp_core::decide::decide(
            &study,
            &salt_lamp_core::library::Library::shipped().expect("it").gear,
        );
        decided.paths[0].time.balanced.iter().map(|p| p.share).collect()
    };
    s.goals = vec![ha(TargetPart::Body, 10.0, 10.0), oiii(10.0)];
    let even = shares(&s);
    s.goals = vec![ha(TargetPart::Body, 10.0, 10.0), oiii(20.0)];
    let coarser = shares(&s);
    // Twice the detail is a quarter of the time.
    let ratio = |x: &[f64]| x[1] / x[0];
    assert!((ratio(&even) / ratio(&coarser) - 4.0).abs() < 0.05, "{even:?} {coarser:?}");
}
