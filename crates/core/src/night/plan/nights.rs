//! The calls that plan a night, and a second target for the rest of it.

use crate::night::plan::planner::Planner;
use crate::night::plan::schedule::Plan;
use crate::night::plan::slots::{LocalClock, PER_SLOT, SLOT_S, slot_usable, slots_of};
use crate::night::plan::spec::{PlanGoal, PlanSpec};
use crate::night::rate::NightRig;
use crate::night::view::NightView;

/// Plans a night towards the goals of `spec`, the rig's own where it names none.
pub fn plan_night(
    rig: &NightRig,
    names: &[String],
    view: &NightView,
    spec: &PlanSpec,
    local: &LocalClock,
) -> Plan {
    let n = rig.len();
    let from_s = view.samples.first().map_or(0.0, |s| s.at_s);
    let o = &spec.overheads;
    let settle = o.settle_s / f64::from(o.dither_every);
    let between_s: Vec<f64> = vec![rig.between_s().max(1.0) + settle; n];
    // The rates are per second of the scenario's clock: here a sub costs its settling, too.
    let slowed = |x: usize| (rig.sub_s(x) + rig.between_s()) / (rig.sub_s(x) + between_s[x]);
    let focus = o.left_by_focusing();
    let rates: Vec<Vec<f64>> = (0..n)
        .map(|x| {
            let per_h = |i: usize| view.samples[i].information_per_h[x];
            // A slot counts where all of it can be used; its light is that of its minutes, by the
            // trapezoidal rule.
            let slot = |s: usize| {
                let (from, to) = (s * PER_SLOT, (s + 1) * PER_SLOT);
                let mean = (from..to).map(|i| (per_h(i) + per_h(i + 1)) / 2.0).sum::<f64>()
                    / PER_SLOT as f64;
                if slot_usable(view, s) { mean / 3600.0 * SLOT_S * slowed(x) * focus } else { 0.0 }
            };
            (0..slots_of(view)).map(slot).collect()
        })
        .collect();
    let goal2 = (0..n)
        .map(|x| {
            let own = rig.goal_snr(x).map(|goal| spec.goal_snr.get(x).copied().unwrap_or(goal));
            own.map_or(f64::INFINITY, |goal| goal * goal)
        })
        .collect();
    let done2 = (0..n).map(|x| spec.done_snr2.get(x).copied().unwrap_or(0.0)).collect();
    let planner =
        Planner { rig, names, spec, view, clock: local, from_s, rates, goal2, done2, between_s };
    let (locked, mut notes) = planner.locked();
    let runs = match &spec.goal {
        // A list is the user's own: its blocks are as long as they say.
        PlanGoal::Fixed { blocks } => {
            planner.tidied(planner.in_order(blocks, &locked, &mut notes), 0)
        }
        _ => planner.tidied(planner.balance(&locked), planner.least_slots()),
    };
    planner.written(&runs, notes)
}

/// Plans a second target for when the first has sunk. Moving to it and recentring take as long as a
/// meridian flip; the night is set up once, before the first block, and its flats are taken once,
/// after the last.
pub fn plan_second(
    first: &mut Plan,
    rig: &NightRig,
    names: &[String],
    view: &mut NightView,
    spec: &PlanSpec,
    local: &LocalClock,
) -> Plan {
    if let Some(last) = first.last_sub_s {
        let free_s = last + spec.overheads.flip_s;
        for s in view.samples.iter_mut().filter(|s| s.at_s < free_s) {
            s.usable = false;
            s.information_per_h
                .iter_mut()
                .chain(&mut s.background_e_per_s)
                .chain(s.lines_per_h.iter_mut().flatten())
                .for_each(|r| *r = 0.0);
        }
    }
    let mut second = plan_night(rig, names, view, spec, local);
    if !first.blocks.is_empty() && !second.blocks.is_empty() {
        first.finished_s = None;
        second.setup_from_s = None;
    }
    second
}
