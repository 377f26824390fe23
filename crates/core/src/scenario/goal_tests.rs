use super::*;
use crate::common::{KINDS, ic_443};
use crate::library::presets::{Faintness, presets};
use crate::scenario::target::{Known, Target};

fn of(kind: TargetKind, faintness: Faintness) -> Target {
    let all = presets();
    let found = all.iter().find(|p| p.kind == kind && p.faintness == faintness);
    found.expect("a preset").named("it", Known::Preset)
}

fn line(ha: f64) -> f64 {
    PartLight::Line(ha).detail_arcsec()
}

#[test]
fn a_line_is_asked_for_at_a_detail_by_its_brightness() {
    assert_eq!([line(100.0), line(99.9), line(30.0), line(29.9)], [5.0, 10.0, 10.0, 15.0]);
    assert_eq!([line(8.0), line(7.9), line(0.0)], [15.0, 30.0, 30.0]);
    let surface = |mag: f64| PartLight::Surface(mag).detail_arcsec();
    assert_eq!(
        [surface(24.5), surface(24.6), surface(26.1), surface(27.1)],
        [5.0, 10.0, 15.0, 30.0]
    );
}

#[test]
fn every_kind_has_the_goals_that_people_want_of_it() {
    let quantities = |kind: TargetKind| -> Vec<(Quantity, TargetPart)> {
        let goals = of(kind, Faintness::Moderate).usual_goals();
        goals.iter().map(|g| (g.quantity, g.part)).collect()
    };
    let (body, core, out) = (TargetPart::Body, TargetPart::Core, TargetPart::Outskirts);
    let starlight = vec![(Quantity::Continuum, out)];
    for kind in KINDS {
        let want = match kind {
            TargetKind::HIiRegion => {
                vec![(Quantity::Ha, out), (Quantity::Oiii, body), (Quantity::Sii, body)]
            }
            TargetKind::SupernovaRemnant => {
                vec![(Quantity::Ha, out), (Quantity::Oiii, out), (Quantity::Sii, out)]
            }
            // Its [S II] is a thirtieth of its [O III]: not worth an evening.
            TargetKind::PlanetaryNebula => vec![(Quantity::Ha, out), (Quantity::Oiii, out)],
            TargetKind::GalaxyWithHIi => vec![starlight[0], (Quantity::Ha, core)],
            _ => starlight.clone(),
        };
        assert_eq!(quantities(kind), want, "{kind:?}");
    }
    let cluster = of(TargetKind::Cluster, Faintness::Moderate).usual_goals();
    assert_eq!(cluster[0].star_v_mag, Some(STARS_V_MAG));
}

#[test]
fn a_part_is_as_bright_as_its_target_says() {
    let mut nebula = of(TargetKind::HIiRegion, Faintness::Faint);
    let factor = |t: &Target, part, q| t.part_factor(part, q).of(q);
    assert_eq!(factor(&nebula, TargetPart::Core, Quantity::Ha), nebula.peak_factor);
    assert_eq!(factor(&nebula, TargetPart::Outskirts, Quantity::Ha), 0.2);
    nebula.outskirts_factor = 0.5;
    assert_eq!(factor(&nebula, TargetPart::Outskirts, Quantity::Sii), 0.5);
    // H II regions of a galaxy shine in lines and stand in its body.
    let galaxy = of(TargetKind::GalaxyWithHIi, Faintness::Moderate);
    let knots = galaxy.part_factor(TargetPart::Core, Quantity::Ha);
    assert_eq!(knots, PartFactor { lines: KNOTS, continuum: 1.0 });
    let core = galaxy.part_factor(TargetPart::Core, Quantity::Continuum);
    assert_eq!(core.continuum, galaxy.peak_factor);
    // The brighter the part, the finer the detail at which it is asked for.
    let detail = |part| nebula.goal_for(Quantity::Ha, part).detail_arcsec;
    assert_eq!(
        [TargetPart::Core, TargetPart::Body, TargetPart::Outskirts].map(detail),
        [5.0, 15.0, 30.0]
    );
}

#[test]
fn a_document_without_goals_keeps_its_pair_and_one_with_goals_has_them_for_all() {
    let mut s = ic_443();
    s.goals.clear();
    (s.goal_snr, s.detail_arcsec) = (15.0, 4.0);
    let old = s.goal_of(Quantity::Sii);
    assert_eq!((old.snr, old.detail_arcsec, old.part), (15.0, 4.0, TargetPart::Body));
    assert_eq!(s.goal_phrase(Quantity::Oiii), "SNR 15 in [O III]");
    s.goals = vec![Goal {
        quantity: Quantity::Ha,
        part: TargetPart::Outskirts,
        snr: 3.0,
        detail_arcsec: 20.0,
        star_v_mag: None,
    }];
    assert_eq!(s.goal_words(Quantity::Ha), "outskirts seen at 20\u{2033}");
    // H-alpha alone follows H-alpha; what has no goal takes what its brightness suggests.
    assert_eq!(s.goal_of(Quantity::HaAlone).part, TargetPart::Outskirts);
    let other = s.goal_of(Quantity::Oiii);
    assert_eq!((other.part, other.snr), (TargetPart::Outskirts, CLEAN_SNR));
    assert!(s.wants(Quantity::Ha) && !s.wants(Quantity::Oiii));
}

#[test]
fn goals_are_worded_as_one_says_them() {
    let goal = |part, snr, star_v_mag| Goal {
        quantity: Quantity::Ha,
        part,
        snr,
        detail_arcsec: 10.0,
        star_v_mag,
    };
    let words = |g: Goal, kind: TargetKind| g.words(kind);
    let (nebula, galaxy) = (TargetKind::HIiRegion, TargetKind::GalaxyWithHIi);
    assert_eq!(words(goal(TargetPart::Body, 10.0, None), nebula), "clean at 10\u{2033}");
    assert_eq!(words(goal(TargetPart::Body, 20.0, None), nebula), "smooth at 10\u{2033}");
    assert_eq!(words(goal(TargetPart::Core, 12.0, None), nebula), "core SNR 12 at 10\u{2033}");
    assert_eq!(words(goal(TargetPart::Core, 10.0, None), galaxy), "knots clean at 10\u{2033}");
    let stars = Goal { quantity: Quantity::Continuum, ..goal(TargetPart::Body, 10.0, Some(16.0)) };
    assert_eq!(words(stars, TargetKind::Cluster), "stars clean to V 16");
}
