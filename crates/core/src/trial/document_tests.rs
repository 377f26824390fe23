//! What is accepted of a trial, and a trial for the tests beside it.

use super::*;
use crate::common::ic_443;

/// H-alpha against [O III] of the demo's mono path.
pub(crate) fn trial_of_two_filters() -> Trial {
    let scenario = ic_443();
    let path = scenario.contenders.iter().position(|c| c.exposures.len() == 2);
    let path = path.expect("two filters");
    Trial {
        title: "Two filters".into(),
        scenario,
        site: String::new(),
        framing: CampaignFraming { ra_deg: 94.25, dec_deg: 22.57, position_angle_deg: 0.0 },
        treatment: Treatment::Filter,
        judged: Judged::PatchSnr,
        quantity: Quantity::Ha,
        kinds: [0, 1].map(|exposure| TrialKind { path, exposure }).to_vec(),
        design: TrialDesign::default(),
        nights: Vec::new(),
        marks: None,
        frames: Vec::new(),
    }
}

#[test]
fn wrong_fields_are_named() {
    let wrong = |how: &dyn Fn(&mut Trial)| {
        let mut t = trial_of_two_filters();
        how(&mut t);
        let said = t.check().expect_err("wrong");
        said.into_iter().map(|e| e.path).collect::<Vec<_>>().join(" ")
    };
    assert!(trial_of_two_filters().check().is_ok());
    assert_eq!(wrong(&|t| t.kinds.truncate(1)), "kinds");
    assert_eq!(wrong(&|t| t.kinds[1] = t.kinds[0]), "kinds[1]");
    assert_eq!(wrong(&|t| t.kinds[0].path = 9), "kinds[0]");
    assert_eq!(wrong(&|t| t.design.matters = 0.0), "design.matters");
    assert_eq!(wrong(&|t| t.design.scatter = f64::NAN), "design.scatter");
    assert_eq!(wrong(&|t| t.title = " ".into()), "title");
    assert_eq!(wrong(&|t| t.quantity = Quantity::HaAlone), "quantity");
}

#[test]
fn only_frames_that_were_measured_and_not_left_out_count() {
    let mut t = trial_of_two_filters();
    let frame = |kind, measure, left_out| FrameInTrial {
        id: "x".into(),
        name: "x".into(),
        kind,
        by_hand: false,
        left_out,
        start_s: 1.8e9,
        measure,
        known: BTreeMap::new(),
    };
    t.frames = vec![
        frame(Some(0), Some(1.0), false),
        frame(None, Some(1.0), false),
        frame(Some(1), None, false),
        frame(Some(1), Some(1.0), true),
    ];
    assert_eq!(t.counted().len(), 1);
}
