//! Plans written out, by hand-worked sums and one reason after another.

use crate::light::lines::Quantity;
use crate::night::plan::planner::Run;
use crate::night::plan::planner_tests::Night;
use crate::night::plan::slots::SLOT_S;
use crate::night::plan::spec::{Overheads, PlanGoal};

/// S-H-O under rates of one for every slot.
fn steady(slots: usize) -> Vec<Vec<f64>> {
    vec![vec![1.0; slots]; 3]
}

fn run(exposure: usize, from: usize, to: usize) -> Run {
    Run { exposure, from, to, locked: false }
}

#[test]
fn subs_are_what_is_left_after_refocus_and_flip() {
    let mut night = Night::of(36);
    night.view.events.transit_s = Some(13.0 * SLOT_S);
    night.spec.overheads = Overheads {
        refocus_s: 200.0,
        refocus_every_min: Some(50.0),
        flip_s: 400.0,
        setup_min: 20.0,
        flats_min: 15.0,
        ..Overheads::default()
    };
    let plan = night.planner(steady(36)).written(&[run(0, 0, 24), run(1, 24, 36)], Vec::new());
    let [a, b] = &plan.blocks[..] else { panic!("{plan:?}") };
    // Two hours: one refocus for the change, two more at 50 and 100 min, a flip: 7200 - 3 × 200 -
    // 400 = 6200 s of 180 + 10 s each.
    assert_eq!((a.refocuses, a.flip_s, a.subs), (3, Some(13.0 * SLOT_S), 32));
    // One hour: 3600 - 2 × 200 = 3200 s.
    assert_eq!((b.refocuses, b.flip_s, b.subs), (2, None, 16));
    assert_eq!(plan.setup_from_s, Some(-1200.0));
    assert_eq!(
        (plan.last_sub_s, plan.finished_s),
        (Some(36.0 * SLOT_S), Some(36.0 * SLOT_S + 900.0))
    );
    assert!((plan.overhead - (1.0 - 48.0 * 180.0 / 10_800.0)).abs() < 1e-12, "{}", plan.overhead);
    assert_eq!(
        plan.totals.iter().map(|t| (t.subs, t.exposed_s)).collect::<Vec<_>>(),
        [(32, 5760.0), (16, 2880.0), (0, 0.0)]
    );
}

#[test]
fn a_falling_temperature_asks_for_refocus_too() {
    let mut night = Night::of(120);
    // Six kelvin over ten dark hours, a refocus every two kelvin: every 3 h 20 min.
    night.spec.overheads = Overheads {
        refocus_on_change: false,
        refocus_every_min: None,
        refocus_every_k: Some(2.0),
        temperature_drop_k: 6.0,
        ..Overheads::default()
    };
    let blocks =
        |night: &Night| night.planner(steady(120)).written(&[run(0, 0, 120)], Vec::new()).blocks;
    assert_eq!(blocks(&night)[0].refocuses, 2);
    night.spec.overheads.temperature_drop_k = 0.0;
    assert_eq!(blocks(&night)[0].refocuses, 0);
    night.spec.overheads.refocus_every_min = Some(120.0);
    assert_eq!(blocks(&night)[0].refocuses, 4);
}

#[test]
fn a_filter_that_stays_needs_no_refocus_for_a_change() {
    let night = Night::of(24);
    let plan = night.planner(steady(24)).written(&[run(1, 0, 10), run(1, 12, 22)], Vec::new());
    // None for a change; but the hour since the last one is over when the second block begins.
    assert_eq!(plan.blocks.iter().map(|b| b.refocuses).collect::<Vec<_>>(), [1, 1]);
}

#[test]
fn the_time_since_the_last_refocus_runs_on_over_blocks() {
    let mut night = Night::of(60);
    night.spec.overheads = Overheads {
        refocus_on_change: false,
        refocus_every_min: Some(60.0),
        ..Overheads::default()
    };
    let refocuses = |runs: &[Run]| -> Vec<u32> {
        night
            .planner(steady(60))
            .written(runs, Vec::new())
            .blocks
            .iter()
            .map(|b| b.refocuses)
            .collect()
    };
    // Five hours, cut into blocks of 40 min or in one piece: the clock is the same, so four
    // refocuses either way.
    let pieces: Vec<Run> =
        (0..7).map(|i| run(i % 2, i * 8, (i + 1) * 8)).chain([run(1, 56, 60)]).collect();
    assert_eq!(refocuses(&[run(0, 0, 60)]), [4]);
    assert_eq!(refocuses(&pieces).iter().sum::<u32>(), 4, "{:?}", refocuses(&pieces));
    // Two hours of nothing ask for one refocus, not for two.
    assert_eq!(refocuses(&[run(0, 0, 10), run(0, 36, 46)]), [0, 1]);
}

#[test]
fn a_block_without_a_sub_is_left_out_and_said() {
    let night = Night::of(24);
    // Five minutes less a refocus of three hold no sub of three.
    let plan = night
        .planner(steady(24))
        .written(&[run(0, 0, 12), run(1, 12, 13), run(0, 13, 24)], Vec::new());
    assert_eq!(plan.blocks.iter().map(|b| b.exposure).collect::<Vec<_>>(), [0, 0]);
    assert!(
        plan.notes
            .iter()
            .any(|n| n.starts_with("5 min of [O III]") && n.contains("hold no sub of 180 s")),
        "{:?}",
        plan.notes
    );
}

#[test]
fn reasons_are_those_of_the_kind_of_plan() {
    let mut night = Night::of(24);
    night.view.events.transit_s = Some(6.0 * SLOT_S);
    night.spec.goal = PlanGoal::Fixed { blocks: Vec::new() };
    assert_eq!(why(&night, 0, 0, 12), "In the order of your list.");
    night.spec.goal = PlanGoal::Most { quantity: Quantity::Ha };
    assert_eq!(why(&night, 0, 0, 12), "As much H-alpha as the night holds, as you asked.");
}

#[test]
fn nights_to_come_are_what_is_left_over_what_tonight_gave() {
    let night = Night::of(60);
    let mut planner = night.planner(steady(60));
    planner.done2[0] = 100.0;
    let plan = planner.written(&[run(0, 0, 60)], Vec::new());
    let t = &plan.totals[0];
    let tonight = t.snr.powi(2) - 100.0;
    assert!(tonight > 30.0 && (t.progress - t.snr.powi(2) / 400.0).abs() < 1e-12);
    let nights = ((400.0 - t.snr.powi(2)) / tonight).ceil();
    assert!(
        plan.notes
            .iter()
            .any(|n| n.contains(&format!("{nights:.0} more nights like this (5.0 h)"))),
        "{:?}",
        plan.notes
    );
    assert!(
        plan.notes.iter().filter(|n| n.contains("gets no block")).count() == 2,
        "{:?}",
        plan.notes
    );
    // A goal that is just beyond this night wants one more, not "1 more nights".
    let mut planner = night.planner(steady(60));
    planner.goal2[0] = 1.5 * tonight;
    let near = planner.written(&[run(0, 0, 60)], Vec::new());
    assert!(near.notes.iter().any(|n| n.contains(" 1 more night like this")), "{:?}", near.notes);
}

#[test]
fn a_night_that_gives_nothing_says_which_limit_it_was() {
    let mut night = Night::of(12);
    (night.view.events.dark_h, night.view.events.usable_h) = (0.0, 0.0);
    let notes = night.planner(steady(12)).written(&[], Vec::new()).notes;
    assert!(notes.len() == 1 && notes[0].starts_with("It does not get dark enough"), "{notes:?}");
    night.view.events.dark_h = 6.0;
    let plan = night.planner(steady(12)).written(&[], Vec::new());
    assert!(
        plan.notes.len() == 1 && plan.notes[0].contains("does not rise above its limit"),
        "{:?}",
        plan.notes
    );
    assert_eq!(
        (plan.setup_from_s, plan.last_sub_s, plan.finished_s, plan.overhead),
        (None, None, None, 0.0)
    );
}

/// The reason of the one block from `from` to `to`.
fn why(night: &Night, exposure: usize, from: usize, to: usize) -> String {
    let n = night.view.samples.len() / 5;
    let mut rates = steady(n);
    // The second filter suffers from the moon, the others do not.
    for (s, rate) in rates[1].iter_mut().enumerate() {
        *rate = if night.view.samples[s * 5].moon_deg > 0.0 { 0.3 } else { 1.0 };
    }
    night.planner(rates).written(&[run(exposure, from, to)], Vec::new()).blocks[0].why.clone()
}

#[test]
fn every_block_has_the_reason_that_applies() {
    let mut night = Night::of(48);
    assert_eq!(why(&night, 0, 0, 24), "H-alpha here, so that every goal gains alike.");
    night.view.events.dawn_s = Some(48.0 * SLOT_S + 60.0);
    assert_eq!(why(&night, 0, 24, 48), "H-alpha until dawn at 04:01.");
    night.view.events.target_down_s = Some(46.0 * SLOT_S);
    assert_eq!(why(&night, 0, 24, 46), "H-alpha until the target sinks below its limit at 03:50.");
    night.view.events.transit_s = Some(20.0 * SLOT_S);
    assert_eq!(
        why(&night, 0, 12, 24),
        "H-alpha around the meridian at 01:40, where the target is highest."
    );
    // The moon rises at 02:00.
    let rise = 24;
    night.view.events.moonrise_s = Some(rise as f64 * SLOT_S);
    night.view.samples.iter_mut().skip(rise * 5 + 1).for_each(|s| s.moon_deg = 15.0);
    assert_eq!(why(&night, 1, 0, 24), "[O III] while the moon is down, before it rises at 02:00.");
    assert_eq!(why(&night, 1, 12, 36), "[O III] first: the moon rises at 02:00 and costs it most.");
    assert_eq!(why(&night, 0, 26, 40), "H-alpha under the moon, which costs it least.");
    let locked =
        night.planner(steady(48)).written(&[Run { locked: true, ..run(0, 0, 6) }], Vec::new());
    assert_eq!(locked.blocks[0].why, "Locked by you.");
    // A moon that sets instead.
    night.view.events.moonrise_s = None;
    night.view.events.moonset_s = Some(12.0 * SLOT_S);
    for (i, s) in night.view.samples.iter_mut().enumerate() {
        s.moon_deg = if i < 60 { 20.0 } else { -20.0 };
    }
    assert_eq!(why(&night, 1, 13, 30), "[O III] after the moon set at 01:00.");
}

#[test]
fn the_least_block_is_named_where_it_keeps_a_filter_out_and_not_for_other_goals() {
    let mut night = Night::of(12);
    let of = |night: &Night| night.planner(steady(12)).written(&[run(0, 0, 12)], Vec::new()).notes;
    assert!(
        of(&night).iter().any(|n| n.starts_with("[S II]") && n.contains("no 30 minutes to spare")),
        "{:?}",
        of(&night)
    );
    night.spec.goal = PlanGoal::Fixed { blocks: Vec::new() };
    assert!(of(&night).iter().all(|n| !n.contains("gets no block")), "{:?}", of(&night));
}
