//! The planner's search against plain trial of all there is, on nights of made-up rates.

use proptest::prelude::*;

use crate::common::{read, tables};
use crate::light::lines::Quantity;
use crate::night::plan::planner::{Planner, Run};
use crate::night::plan::slots::{LocalClock, PER_SLOT, SLOT_S, slot_usable, slots_of};
use crate::night::plan::spec::{FixedBlock, LockedBlock, Overheads, PlanGoal, PlanSpec};
use crate::night::rate::NightRig;
use crate::night::view::{NightEvents, NightSample, NightView, SAMPLE_S};

/// A night of whole slots from time zero, its rig S-H-O, all of it usable.
pub(super) struct Night {
    pub rig: NightRig,
    pub names: Vec<String>,
    pub view: NightView,
    pub spec: PlanSpec,
    pub clock: LocalClock,
}

impl Night {
    pub fn of(slots: usize) -> Self {
        let s = read("larch-lane-ngc-7822");
        let names = s.contenders[1]
            .exposures
            .iter()
            .map(|e| e.filter.as_ref().expect("a filter").name.clone())
            .collect();
        let rig = NightRig::new(&s.check().expect("accepted"), 1, &tables()).expect("a rig");
        let sample = |i: usize| NightSample {
            at_s: i as f64 * SAMPLE_S,
            sun_deg: -30.0,
            moon_deg: -10.0,
            target_deg: 50.0,
            target_azimuth_deg: 180.0,
            limit_deg: 20.0,
            moon_distance_deg: 90.0,
            usable: true,
            information_per_h: vec![0.0; 3],
            lines_per_h: vec![vec![0.0]; 3],
            background_e_per_s: vec![0.0; 3],
        };
        let hours = slots as f64 * SLOT_S / 3600.0;
        let view = NightView {
            events: NightEvents { dark_h: hours, usable_h: hours, ..NightEvents::default() },
            samples: (0..=slots * PER_SLOT).map(sample).collect(),
        };
        Self { rig, names, view, spec: PlanSpec::default(), clock: LocalClock::default() }
    }

    /// Slots from `from` to before `to` are daylight.
    pub fn unusable(mut self, from: usize, to: usize) -> Self {
        self.view.samples[from * PER_SLOT + 1..to * PER_SLOT]
            .iter_mut()
            .for_each(|s| s.usable = false);
        self
    }

    pub fn planner(&self, rates: Vec<Vec<f64>>) -> Planner<'_> {
        let between_s = vec![10.0; 3];
        let (goal2, done2) = (vec![400.0; 3], vec![0.0; 3]);
        let open: Vec<bool> =
            (0..slots_of(&self.view)).map(|s| slot_usable(&self.view, s)).collect();
        Planner {
            rig: &self.rig,
            names: &self.names,
            spec: &self.spec,
            view: &self.view,
            clock: &self.clock,
            from_s: 0.0,
            rates,
            aim2: goal2.clone(),
            had2: done2.clone(),
            goal2,
            done2,
            free: open.clone(),
            open,
            between_s,
        }
    }
}

fn run(exposure: usize, from: usize, to: usize) -> Run {
    Run { exposure, from, to, locked: false }
}

/// Light of a filling as the search counts it: the rates, less what the refocus at each beginning
/// costs.
fn light(planner: &Planner, runs: &[Run], weights: &[f64]) -> f64 {
    let lost = planner.spec.overheads.refocus_s / SLOT_S;
    let one = |r: &Run| {
        planner.rates[r.exposure][r.from..r.to].iter().sum::<f64>()
            - lost * planner.rates[r.exposure][r.from]
    };
    runs.iter().map(|r| weights[r.exposure] * one(r)).sum()
}

/// Every way to cut slots into blocks of at least `least`, each with any exposure but the one
/// before.
fn all_ways(
    from: usize,
    to: usize,
    least: usize,
    before: usize,
    done: &mut Vec<Run>,
    each: &mut impl FnMut(&[Run]),
) {
    if from == to {
        each(done);
        return;
    }
    for end in from + least..=to {
        for x in (0..3).filter(|x| *x != before) {
            done.push(run(x, from, end));
            all_ways(end, to, least, x, done, each);
            done.pop();
        }
    }
}

fn any_rates(slots: usize) -> impl Strategy<Value = Vec<Vec<f64>>> {
    proptest::collection::vec(proptest::collection::vec(0.1..10.0f64, slots), 3)
}

#[test]
fn progress_is_what_was_gathered_over_the_goal() {
    let night = Night::of(12);
    let mut planner = night.planner(vec![vec![10.0; 12], vec![20.0; 12], vec![30.0; 12]]);
    (planner.aim2, planner.had2) = (vec![400.0, 100.0, f64::INFINITY], vec![40.0, 0.0, 0.0]);
    let lost = planner.spec.overheads.refocus_s / SLOT_S;
    let got = planner.progress(&[run(0, 0, 4), run(1, 4, 10)]);
    assert!((got[0] - (40.0 + 10.0 * (4.0 - lost)) / 400.0).abs() < 1e-12, "{got:?}");
    assert!((got[1] - 20.0 * (6.0 - lost) / 100.0).abs() < 1e-12 && got[2] == 0.0, "{got:?}");
    // The least of those that have a goal counts, and a little of all, none beyond its goal.
    let worth = planner.worth(&[run(0, 0, 4), run(1, 4, 10)]);
    assert!((worth - (got[0] + 1e-4 * (got[0] + got[1].min(1.0)))).abs() < 1e-12, "{worth}");
    // Without a refocus nothing is lost.
    let mut parfocal = Night::of(12);
    parfocal.spec.overheads.refocus_on_change = false;
    let planner = Planner { had2: vec![40.0; 3], ..parfocal.planner(vec![vec![10.0; 12]; 3]) };
    assert!((planner.progress(&[run(0, 0, 4)])[0] - 80.0 / 400.0).abs() < 1e-12);
}

#[test]
fn gaps_lie_between_daylight_and_what_is_locked() {
    let night = Night::of(12).unusable(5, 7);
    let planner = night.planner(vec![vec![1.0; 12]; 3]);
    assert_eq!(planner.gaps(&[]), [(0, 5), (7, 12)]);
    assert_eq!(
        planner
            .gaps(&[Run { locked: true, ..run(0, 0, 2) }, Run { locked: true, ..run(1, 9, 12) }]),
        [(2, 5), (7, 9)]
    );
    assert_eq!(planner.gaps(&[Run { locked: true, ..run(0, 0, 12) }]), []);
    // What is shorter than the least block stays empty; what is as long is filled.
    assert!(planner.fill((0, 3), &[1.0; 3], 4).is_empty());
    assert_eq!(planner.fill((0, 4), &[1.0; 3], 4).len(), 1);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]

    #[test]
    fn a_filled_gap_is_the_best_of_all_ways(rates in any_rates(10), least in 2usize..5,
        w in (0.1..3.0f64, 0.1..3.0f64, 0.1..3.0f64)) {
        let night = Night::of(10);
        let planner = night.planner(rates);
        let weights = [w.0, w.1, w.2];
        let found = planner.fill((0, 10), &weights, least);
        let mut best = f64::NEG_INFINITY;
        all_ways(0, 10, least, usize::MAX, &mut Vec::new(),
            &mut |runs| best = best.max(light(&planner, runs, &weights)));
        prop_assert!((light(&planner, &found, &weights) - best).abs() < 1e-9, "{} against {best}: \
            {found:?}", light(&planner, &found, &weights));
        prop_assert_eq!(found.first().map(|r| r.from), Some(0));
        prop_assert!(found.windows(2).all(|p| p[0].to == p[1].from)
            && found.iter().all(|r| r.to - r.from >= least));
    }

    #[test]
    fn two_filters_in_a_night_of_two_blocks_stand_in_the_better_order(rates in any_rates(12)) {
        let night = Night::of(12);
        let mut planner = night.planner(rates);
        // The third has no goal.
        planner.aim2[2] = f64::INFINITY;
        let found = planner.balance(&[]);
        let best = planner.worth(&[run(0, 0, 6), run(1, 6, 12)])
            .max(planner.worth(&[run(1, 0, 6), run(0, 6, 12)]));
        prop_assert!((planner.worth(&found) - best).abs() < 1e-12, "{:?}", found);
    }

    #[test]
    fn polish_ends_where_no_border_moved_betters(rates in any_rates(36),
        cut in (8usize..14, 20usize..28)) {
        let night = Night::of(36);
        let planner = night.planner(rates);
        let runs = planner.polish(vec![run(0, 0, cut.0), run(1, cut.0, cut.1), run(2, cut.1, 36)],
            6);
        let worth = planner.worth(&runs);
        for i in 0..runs.len() - 1 {
            for to in [runs[i].to - 1, runs[i].to + 1] {
                let mut moved = runs.clone();
                (moved[i].to, moved[i + 1].from) = (to, to);
                if moved.iter().all(|r| r.to - r.from >= 6) {
                    prop_assert!(planner.worth(&moved) <= worth * (1.0 + 1e-8) + 1e-12,
                        "{:?} beats {:?}", moved, runs);
                }
            }
        }
        prop_assert_eq!(runs.iter().map(|r| r.to - r.from).sum::<usize>(), 36);
    }
}

#[test]
fn under_a_steady_sky_time_goes_by_goal_over_rate() {
    let mut night = Night::of(120);
    night.spec.overheads =
        Overheads { refocus_on_change: false, least_block_min: 30.0, ..Overheads::default() };
    // Twice, once and half as fast: the slowest needs four times the slots of the fastest.
    let planner = night.planner([2.0, 1.0, 0.5].map(|r| vec![r; 120]).to_vec());
    let free: Vec<usize> = (0..120).collect();
    let lengths = planner.lengths(&[], &free, 6);
    assert_eq!(lengths.iter().sum::<usize>(), 120);
    for (got, wanted) in lengths.iter().zip([17.0, 34.0, 69.0]) {
        assert!((*got as f64 - wanted).abs() <= 1.0, "{lengths:?}");
    }
    // What was done before counts: with the slowest at its goal already the other two share the
    // night.
    let mut later = night.planner([2.0, 1.0, 0.5].map(|r| vec![r; 120]).to_vec());
    later.had2[2] = 400.0;
    let lengths = later.lengths(&[], &free, 6);
    assert_eq!(lengths[2], 0, "{lengths:?}");
    assert!((lengths[1] as f64 / lengths[0] as f64 - 2.0).abs() < 0.1, "{lengths:?}");
}

#[test]
fn a_night_too_short_for_all_serves_those_that_lag() {
    let night = Night::of(13);
    let mut planner = night.planner(vec![vec![1.0; 13]; 3]);
    planner.had2 = vec![300.0, 10.0, 20.0];
    let lengths = planner.lengths(&[], &(0..13).collect::<Vec<_>>(), 6);
    assert_eq!(lengths.iter().sum::<usize>(), 13);
    assert!(lengths[0] == 0 && lengths[1] >= 6 && lengths[2] >= 6, "{lengths:?}");
}

#[test]
fn orders_are_all_of_few_and_one_of_many() {
    let night = Night::of(8);
    let planner = night.planner(vec![vec![1.0; 8]; 3]);
    let mut three = planner.orders(&[0, 1, 2], &[]);
    three.sort();
    three.dedup();
    assert_eq!(three.len(), 6);
    // Seven: one order, each where its light lies.
    let peaks: Vec<Vec<f64>> =
        (0..7).map(|x| (0..8).map(|s| if s == 7 - x { 10.0 } else { 1.0 }).collect()).collect();
    let planner = night.planner(peaks);
    assert_eq!(
        planner.orders(&[0, 1, 2, 3, 4, 5, 6], &(0..8).collect::<Vec<_>>()),
        [[6, 5, 4, 3, 2, 1, 0]]
    );
}

#[test]
fn gaps_leave_out_daylight_and_what_is_locked() {
    let night = Night::of(20).unusable(8, 10);
    let planner = night.planner(vec![vec![1.0; 20]; 3]);
    assert_eq!(planner.gaps(&[]), [(0, 8), (10, 20)]);
    assert_eq!(planner.gaps(&[run(1, 2, 5), run(0, 12, 20)]), [(0, 2), (5, 8), (10, 12)]);
    assert_eq!(Night::of(4).unusable(0, 4).planner(Vec::new()).gaps(&[]), []);
}

#[test]
fn locks_are_cut_to_what_can_be_used_and_never_lie_on_one_another() {
    let mut night = Night::of(20).unusable(8, 10);
    let lock = |exposure, from: usize, to: usize| LockedBlock {
        exposure,
        from_s: from as f64 * SLOT_S,
        to_s: to as f64 * SLOT_S,
    };
    night.spec.locked = vec![lock(2, 14, 18), lock(0, 5, 9), lock(1, 12, 15), lock(1, 8, 10)];
    let (runs, notes) = night.planner(Vec::new()).locked();
    let kept: Vec<(usize, usize, usize)> =
        runs.iter().map(|r| (r.exposure, r.from, r.to)).collect();
    assert_eq!(kept, [(0, 5, 8), (1, 12, 15), (2, 15, 18)]);
    assert!(runs.iter().all(|r| r.locked));
    assert_eq!(notes.iter().filter(|n| n.contains("is cut to")).count(), 2, "{notes:?}");
    assert_eq!(notes.iter().filter(|n| n.contains("is left out")).count(), 1, "{notes:?}");
}

#[test]
fn a_fixed_list_runs_on_behind_locks_and_says_what_is_left() {
    let night = Night::of(12);
    let planner = night.planner(vec![vec![1.0; 12]; 3]);
    let mut notes = Vec::new();
    let locked = [Run { locked: true, ..run(2, 3, 6) }];
    let list = [
        FixedBlock { exposure: 0, minutes: 25.0, subs: None },
        FixedBlock { exposure: 1, minutes: 60.0, subs: None },
    ];
    let runs = planner.in_order(&list, &locked, &mut notes);
    let laid: Vec<(usize, usize, usize)> =
        runs.iter().map(|r| (r.exposure, r.from, r.to)).collect();
    assert_eq!(laid, [(0, 0, 3), (2, 3, 6), (0, 6, 8), (1, 8, 12)]);
    // Sixty minutes were asked, twenty fit.
    assert!(notes.len() == 1 && notes[0].starts_with("40 min of [O III]"), "{notes:?}");
}

#[test]
fn a_fixed_list_does_not_ask_again_for_what_is_locked() {
    let night = Night::of(40);
    let planner = night.planner(vec![vec![1.0; 40]; 3]);
    let list = [
        FixedBlock { exposure: 0, minutes: 60.0, subs: None },
        FixedBlock { exposure: 1, minutes: 60.0, subs: None },
    ];
    let of = |x: usize, runs: &[Run]| {
        runs.iter().filter(|r| r.exposure == x).map(|r| r.to - r.from).sum::<usize>()
    };
    // The first block moved by hand, whole or shortened: the list gives what is left of its hour,
    // and the other its own.
    for locked in [Run { locked: true, ..run(0, 20, 32) }, Run { locked: true, ..run(0, 20, 26) }] {
        let runs = planner.tidied(planner.in_order(&list, &[locked], &mut Vec::new()), 0);
        assert_eq!((of(0, &runs), of(1, &runs)), (12, 12), "{runs:?}");
    }
}

#[test]
fn short_pieces_join_a_neighbour_and_neighbours_of_one_filter_are_one() {
    let night = Night::of(40).unusable(30, 32);
    let planner = night.planner(vec![vec![1.0; 40]; 3]);
    let locked = Run { locked: true, ..run(2, 10, 12) };
    let runs = vec![
        run(0, 0, 6),
        run(0, 6, 10),
        locked,
        run(1, 12, 13),
        run(0, 13, 22),
        run(1, 22, 30),
        run(1, 32, 35),
    ];
    let tidy: Vec<(usize, usize, usize)> =
        planner.tidied(runs, 6).iter().map(|r| (r.exposure, r.from, r.to)).collect();
    // The lock stays though it is short; what stands alone behind the daylight is too short and has
    // no neighbour.
    assert_eq!(tidy, [(0, 0, 10), (2, 10, 12), (0, 12, 22), (1, 22, 30)]);
    assert_eq!(
        planner.fill((0, 4), &[1.0; 3], 6),
        [],
        "a gap shorter than the least block stays free"
    );
}

#[test]
fn most_of_one_line_leaves_the_others_out() {
    let mut night = Night::of(24);
    night.spec.goal = PlanGoal::Most { quantity: Quantity::Sii };
    let runs = night.planner(vec![vec![5.0; 24], vec![5.0; 24], vec![0.5; 24]]).balance(&[]);
    assert!(runs.iter().all(|r| night.rig.purpose(r.exposure) == Some(Quantity::Sii)), "{runs:?}");
    assert_eq!(runs.iter().map(|r| r.to - r.from).sum::<usize>(), 24);
}
