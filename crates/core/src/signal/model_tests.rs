//! Tests of [`super`].

use super::*;
use crate::common::{bands, evaluate, ic_443, tables, through};
use crate::light::lamp::Lamp;
use crate::path::sky::part::SkyPart;

/// The reduced path of the demo's fast colour rig behind one narrow band, with its scenario.
fn narrow(width_nm: f64) -> (Scenario, LightPath) {
    let mut s = ic_443();
    let mut f = bands("Ha", width_nm, &[656.3]);
    f.centre_tolerance_nm = 1.0;
    s.contenders = vec![through(&s.contenders[2], vec![Some(f)], 120.0)];
    let model = of(&s);
    (s, model)
}

fn of(s: &Scenario) -> LightPath {
    Model::new(&s.clone().check().unwrap(), &tables()).paths.remove(0)
}

fn red(model: &LightPath) -> &ChannelModel {
    model.exposures[0].channels.iter().find(|c| c.name == "r").unwrap()
}

/// What cubics through thirteen copies give is what a filter moved there gives: a 3 nm band at
/// f/2.8 anywhere within two standard deviations, to a hundredth of the nominal rate.
#[test]
fn a_copy_is_the_filter_moved_there() {
    for width_nm in [3.0, 7.0] {
        let (s, model) = narrow(width_nm);
        let c = &s.contenders[0];
        let sigma_nm = copy_sigma_nm(c.exposures[0].filter.as_ref().unwrap(), &c.optics);
        // The tolerance, and 0.15 of the effective index in the cone.
        assert!(sigma_nm > 1.0 && sigma_nm < 1.1, "{sigma_nm}");
        let nominal = *red(&model).nominal();
        for step in -8..=8 {
            let off = f64::from(step) / 4.0;
            let mut moved = s.clone();
            let band = &mut moved.contenders[0].exposures[0].filter.as_mut().unwrap();
            band.bands.as_mut().unwrap()[0].centre_nm += off * sigma_nm;
            let there = *red(&of(&moved)).nominal();
            let own = red(&model).rates(&Scales::ONE, off);
            let miss = (own.of(Quantity::Ha) - there.of(Quantity::Ha)).abs();
            assert!(miss < 0.01 * nominal.of(Quantity::Ha), "{width_nm} {off}");
            let miss = (own.nii() - there.nii()).abs();
            assert!(miss < 0.01 * nominal.of(Quantity::Ha), "{width_nm} {off}");
            let miss = (own.background() - there.background()).abs();
            assert!(miss < 0.01 * nominal.background(), "{width_nm} {off}");
        }
    }
    let (_, model) = narrow(5.0);
    assert_eq!(red(&model).rates(&Scales::ONE, 0.0), *red(&model).nominal());
    let (blue, nominal) = (red(&model).rates(&Scales::ONE, -1.0), red(&model).nominal());
    assert!(
        blue.of(Quantity::Ha) < nominal.of(Quantity::Ha),
        "in a fast cone a blue copy loses the line"
    );
}

#[test]
fn scales_act_one_after_another_and_on_their_own_part() {
    let (_, model) = narrow(5.0);
    let (c, r) = (red(&model), *red(&model).nominal());
    let mut twice = Scales { target: 2.0, dark: 4.0, ..Scales::ONE };
    twice.sky = PerSkyPart([0.5, 3.0, 0.25, 0.125]);
    let s = c.rates(&twice, 0.0);
    assert_eq!((s.of(Quantity::Ha), s.dark), (2.0 * r.of(Quantity::Ha), 4.0 * r.dark));
    let close = |a: f64, b: f64| (a - b).abs() <= 1e-12 * b.abs();
    for (part, factor) in SkyPart::ALL.into_iter().zip(twice.sky) {
        assert!(close(s.sky[part], factor * r.sky[part]), "{part:?}");
    }
    assert_eq!(twice.times(&twice).sky[SkyPart::Artificial], 9.0);
    assert_eq!(Scales::ONE.times(&twice), twice);
    let darker = Scales::darker_sky(2.5);
    assert!((darker.sky[SkyPart::Moon] - 0.1).abs() < 1e-12 && darker.target == 1.0);
    // [N II] on its own: H-alpha alone stays.
    let n = c.rates(&Scales { nii: 2.0, ..Scales::ONE }, 0.0);
    assert!(
        n.of(Quantity::HaAlone) == r.of(Quantity::HaAlone)
            && close(n.nii(), 2.0 * r.nii())
            && r.nii() > 0.0
    );
    // One line on its own, and the optics of everything but the dark current.
    let mut one = Scales { throughput: 1.5, ..Scales::ONE };
    (one.lines[Quantity::Ha], one.lines[Quantity::HaAlone]) = (3.0, 3.0);
    let l = c.rates(&one, 0.0);
    assert!(close(l.of(Quantity::Ha), 4.5 * r.of(Quantity::Ha)) && close(l.nii(), 4.5 * r.nii()));
    assert!(close(l.background(), 1.5 * r.background()) && l.dark == r.dark);
    assert!(close(l.star_v0, 1.5 * r.star_v0));
}

/// Another lamp mix is what a scenario with that mix has.
#[test]
fn lamps_are_scaled_one_by_one() {
    let (s, model) = narrow(90.0);
    let mut other = s.clone();
    let (first, second) = (Lamp::Led4000k, Lamp::HighPressureSodium);
    other.sky.lamps = [(first, 0.25), (second, 0.75)].into_iter().collect();
    let mut scales = Scales::ONE;
    for (lamp, share) in &s.sky.lamps {
        scales.lamps[*lamp] = other.sky.lamps.get(lamp).map_or(0.0, |own| own / share);
    }
    let there = of(&other);
    for (a, b) in model.exposures[0].channels.iter().zip(&there.exposures[0].channels) {
        let (own, expected) = (a.rates(&scales, 0.0), b.nominal());
        let ratio = own.sky[SkyPart::Artificial] / expected.sky[SkyPart::Artificial];
        assert!((ratio - 1.0).abs() < 1e-9, "{}: {ratio}", a.name);
        assert!((a.lamp_parts.iter().sum::<f64>() - 1.0).abs() < 1e-12);
    }
}

#[test]
fn signal_and_time_are_those_of_an_evaluation() {
    let (s, model) = narrow(7.0);
    let answer = evaluate(&s).contenders[0].quantities[&Quantity::Ha];
    let shares = model.shares();
    // The model counts broken subs, the evaluation whole ones.
    let snr = model.snr(Quantity::Ha, s.total_s, &shares, &Scales::ONE, &[]);
    assert!((snr / answer.snr - 1.0).abs() < 0.01, "{snr} {}", answer.snr);
    let t = model.time_s(Quantity::Ha, &shares, &Scales::ONE, &[]).unwrap();
    assert!((model.snr(Quantity::Ha, t, &shares, &Scales::ONE, &[]) - 20.0).abs() < 1e-6);
    assert_eq!(
        model.time_s(Quantity::Oiii, &shares, &Scales::ONE, &[]),
        None,
        "no [O III] behind H-alpha"
    );
    let contrast = model.contrast(Quantity::Ha, &Scales::ONE, &[]).unwrap();
    assert!((contrast / answer.contrast.unwrap() - 1.0).abs() < 1e-9);
    let fainter =
        model.contrast(Quantity::Ha, &Scales { target: 0.5, ..Scales::ONE }, &[]).unwrap();
    assert!((fainter / contrast - 0.5).abs() < 1e-9);
}

/// Contrast is that of the channel with the most signal to noise, as an evaluation finds it,
/// for every path and quantity.
#[test]
fn contrast_is_that_of_an_evaluation() {
    for name in
        ["larch-lane-ic-443", "larch-lane-ngc-7822", "heron-lake-ngc-2403", "heron-lake-ngc-7129"]
    {
        let s = crate::common::read(name);
        let answer = evaluate(&s);
        let checked = s.clone().check().unwrap();
        for (path, told) in Model::new(&checked, &tables()).paths.iter().zip(&answer.contenders) {
            for (&q, a) in &told.quantities {
                let ours = path.contrast(q, &Scales::ONE, &[]);
                let same = ours.zip(a.contrast).is_some_and(|(x, y)| (x / y - 1.0).abs() < 1e-9);
                assert!(same, "{name}, {}, {q:?}: {ours:?} {:?}", told.name, a.contrast);
            }
        }
    }
}

#[test]
fn undithered_calibration_takes_longer_and_is_solved_by_halving() {
    let (s, model) = narrow(7.0);
    let mut still = s.clone();
    still.calibration.dithered = false;
    let still = of(&still);
    let time = |m: &LightPath| m.time_s(Quantity::Ha, &m.shares(), &Scales::ONE, &[]);
    let (a, b) = (time(&model).unwrap(), time(&still).unwrap());
    assert!(b > 1.02 * a, "{a} {b}");
    assert!((still.snr(Quantity::Ha, b, &still.shares(), &Scales::ONE, &[]) - 20.0).abs() < 1e-6);
}

#[test]
fn the_leading_channel_of_a_line_is_the_one_that_sees_it() {
    let mut s = ic_443();
    s.contenders = vec![s.contenders[1].clone()];
    let model = of(&s);
    let e = &model.exposures[0];
    assert_eq!((e.leading(Quantity::Ha).name, e.leading(Quantity::Oiii).name), ("r", "g"));
    assert!(model.records(Quantity::Ha) && model.records(Quantity::Oiii));
    assert!(["r", "g"].contains(&e.deciding().name));
}
