//! Campaigns of several rigs.

use std::collections::BTreeMap;

use crate::common::{read, tables};
use salt_lamp_core::campaign::{
    Campaign, CampaignFraming, CampaignGoal, CampaignNight, Shot, goal_states, shared_with,
    wants_the_same_nights,
};
use salt_lamp_core::light::Quantity::{Ha, Oiii, Sii};
use salt_lamp_core::night::NightRig;

/// The light paths of the demo's scenario: three lines in mono, and a dual band on colour.
const MONO: usize = 1;
const COLOUR: usize = 2;

fn campaign() -> Campaign {
    let goal = |(exposure, q)| CampaignGoal { exposure, quantity: Some(q), snr: 20.0 };
    Campaign {
        title: "NGC 7822".into(),
        scenario: read("larch-lane-ngc-7822"),
        contender: MONO,
        also: vec![COLOUR],
        site: "larch-lane".into(),
        framing: CampaignFraming { ra_deg: 0.9, dec_deg: 67.15, position_angle_deg: 0.0 },
        goals: [(0, Ha), (1, Oiii), (2, Sii)].map(goal).to_vec(),
        clear_share: 0.3,
        nights: Vec::new(),
    }
}

fn rigs() -> (NightRig, NightRig) {
    let s = read("larch-lane-ngc-7822").check().expect("accepted");
    let rig = |path| NightRig::new(&s, path, &tables()).expect("a rig");
    (rig(MONO), rig(COLOUR))
}

fn night(date: &str, path: Option<usize>, snr2: f64, oiii: f64) -> CampaignNight {
    let lines_snr2: BTreeMap<_, _> =
        [(Ha, snr2), (Oiii, oiii)].into_iter().filter(|(_, v)| *v > 0.0).collect();
    CampaignNight {
        date: date.into(),
        shots: vec![Shot { path, exposure: 0, subs: 40, snr2, lines_snr2 }],
        blocks: Vec::new(),
        struck_out: Vec::new(),
        note: String::new(),
        planned: false,
    }
}

#[test]
fn frames_of_several_rigs_count_for_the_lines_that_they_hold_also_on_one_evening() {
    let mut c = campaign();
    c.record(night("2027-01-10", None, 100.0, 0.0), None).expect("the mono rig's");
    c.record(night("2027-01-10", Some(COLOUR), 50.0, 30.0), None).expect("the colour rig's");
    let twice = c.record(night("2027-01-10", Some(COLOUR), 50.0, 30.0), None);
    assert!(twice.expect_err("counted already").message.contains("recorded already"));
    assert!(c.record(night("2027-01-10", None, 1.0, 0.0), None).is_err());
    c.check().expect("accepted");
    let (mono, colour) = rigs();
    let done: Vec<f64> = c.goals.iter().map(|g| c.done_snr2(g, None)).collect();
    assert_eq!(done, [150.0, 30.0, 0.0]);
    assert_eq!(c.done_before_snr2("2027-02-01"), [150.0, 30.0, 0.0]);
    assert_eq!(c.done_before_snr2("2027-01-10"), [0.0, 0.0, 0.0]);
    // A goal counts the subs of its own filter, and what the other rig brought to its line.
    let states = goal_states(&c, &mono);
    assert_eq!((states[0].subs, states[0].progress), (40, 150.0 / 400.0));
    assert_eq!((states[1].subs, states[1].progress), (0, 30.0 / 400.0));
    // Through the colour rig the same campaign wants the two lines that its filter holds.
    let seen = c.through(COLOUR, &mono, &colour).expect("one of its paths");
    let goals: Vec<_> = seen.goals.iter().map(|g| (g.exposure, g.quantity, g.snr)).collect();
    assert_eq!(goals, [(0, Some(Ha), 20.0), (0, Some(Oiii), 20.0)]);
    let done: Vec<f64> = seen.goals.iter().map(|g| seen.done_snr2(g, colour.purpose(0))).collect();
    assert_eq!(done, [150.0, 30.0]);
    seen.check().expect("accepted");
    assert_eq!(c.through(0, &mono, &colour), None);
    assert_eq!(c.through(MONO, &mono, &mono).as_ref(), Some(&c));
}

#[test]
fn other_paths_are_those_of_the_scenario_each_once() {
    let wrong = |also: &[usize]| -> Vec<String> {
        let c = Campaign { also: also.to_vec(), ..campaign() };
        c.check().err().unwrap_or_default().into_iter().map(|e| e.path).collect()
    };
    assert_eq!(wrong(&[COLOUR]), Vec::<String>::new());
    assert_eq!(wrong(&[MONO]), ["also[0]"]);
    assert_eq!(wrong(&[COLOUR, COLOUR]), ["also[1]"]);
    assert_eq!(wrong(&[40]), ["also[0]"]);
    let mut c = campaign();
    c.nights = vec![night("2027-01-10", Some(COLOUR), 1.0, 0.0)];
    c.nights[0].shots[0].exposure = 2;
    let said = c.check().expect_err("the colour path has one exposure");
    assert_eq!(said[0].path, "nights[0].shots[0].exposure");
}

#[test]
fn one_rig_at_one_site_wants_the_same_nights() {
    let own = campaign();
    assert!(wants_the_same_nights(&own, &own));
    let elsewhere = Campaign { site: "heron-lake".into(), ..own.clone() };
    assert!(!wants_the_same_nights(&own, &elsewhere));
    let mut other_rig = own.clone();
    other_rig.scenario.contenders[MONO].optics.aperture_mm += 10.0;
    assert!(!wants_the_same_nights(&own, &other_rig));
    assert_eq!(shared_with(&[]), "");
    assert_eq!(shared_with(&["A", "B"]), " It shares the clear nights with A and B.");
}
