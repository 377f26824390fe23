//! What the planner knows of a night before it searches, and the plan of what is free.

use crate::night::plan::planner::{Planner, Run};
use crate::night::plan::schedule::{OfferedList, Plan};
use crate::night::plan::slots::{LocalClock, PER_SLOT, SLOT_S, slot_usable, slots_of};
use crate::night::plan::spec::{FixedBlock, PlanGoal, PlanSpec};
use crate::night::rate::NightRig;
use crate::night::view::NightView;
use crate::wording::listed;

/// A target's night as the search sees it: what every slot gives to every exposure, and the goals.
pub(super) fn planner<'a>(
    rig: &'a NightRig,
    names: &'a [String],
    view: &'a NightView,
    spec: &'a PlanSpec,
    clock: &'a LocalClock,
) -> Planner<'a> {
    let n = rig.len();
    let from_s = view.samples.first().map_or(0.0, |s| s.at_s);
    let o = &spec.overheads;
    let settle = o.settle_s / f64::from(o.dither_every);
    let between_s: Vec<f64> = vec![rig.between_s().max(1.0) + settle; n];
    // The rates are per second of the scenario's clock: here a sub costs its settling, too.
    let slowed = |x: usize| (rig.sub_s(x) + rig.between_s()) / (rig.sub_s(x) + between_s[x]);
    let focus = o.left_by_focusing();
    let open: Vec<bool> = (0..slots_of(view)).map(|s| slot_usable(view, s)).collect();
    let rates: Vec<Vec<f64>> = (0..n)
        .map(|x| {
            let per_h = |i: usize| view.samples[i].information_per_h[x];
            // A slot counts where all of it can be used; its light is that of its minutes, by the
            // trapezoidal rule.
            let slot = |s: usize| {
                let (from, to) = (s * PER_SLOT, (s + 1) * PER_SLOT);
                let mean = (from..to).map(|i| (per_h(i) + per_h(i + 1)) / 2.0).sum::<f64>()
                    / PER_SLOT as f64;
                if open[s] { mean / 3600.0 * SLOT_S * slowed(x) * focus } else { 0.0 }
            };
            (0..open.len()).map(slot).collect()
        })
        .collect();
    let goal2: Vec<f64> = (0..n)
        .map(|x| {
            let own = rig.goal_snr(x).map(|goal| spec.goal_snr.get(x).copied().unwrap_or(goal));
            own.map_or(f64::INFINITY, |goal| goal * goal)
        })
        .collect();
    let done2: Vec<f64> = (0..n).map(|x| spec.done_snr2.get(x).copied().unwrap_or(0.0)).collect();
    // What tonight is for, where it was weighed against the nights to come; else the goals.
    let aims = |x: usize| spec.aims_snr2.get(x).copied().filter(|a| *a > 0.0);
    let weighed = (0..n).any(|x| aims(x).is_some());
    let aim2 = if weighed {
        (0..n).map(|x| aims(x).unwrap_or(f64::INFINITY)).collect()
    } else {
        goal2.clone()
    };
    let had2 = if weighed { vec![0.0; n] } else { done2.clone() };
    Planner {
        rig,
        names,
        spec,
        view,
        clock,
        from_s,
        rates,
        goal2,
        done2,
        aim2,
        had2,
        between_s,
        free: open.clone(),
        open,
    }
}

impl Planner<'_> {
    /// The plan of what is free, around what is locked.
    pub(super) fn planned(&self, locked: &[Run], mut notes: Vec<String>) -> Plan {
        // A list is the user's own: its blocks are as long as they say.
        if let PlanGoal::Fixed { blocks } = &self.spec.goal {
            let before = notes.len();
            let runs = self.tidied(self.in_order(blocks, locked, &mut notes), 0);
            let fits = notes.len() == before;
            let offered = if fits { None } else { self.offered(blocks, locked) };
            return Plan { offered, ..self.written(&runs, notes) };
        }
        self.written(&self.tidied(self.balance(locked), self.least_slots()), notes)
    }

    /// The longest list in the proportions of one that is too long; `None` where nothing of it fits.
    fn offered(&self, asked: &[FixedBlock], locked: &[Run]) -> Option<OfferedList> {
        let counts: Vec<u32> =
            asked.iter().map(|b| b.subs.unwrap_or_else(|| self.subs_in(b))).collect();
        let shorter = |percent: u32| -> Vec<FixedBlock> {
            let part = f64::from(percent) / 100.0;
            let block = |b: &FixedBlock| FixedBlock {
                minutes: (b.minutes * 60.0 * part / SLOT_S).floor() * SLOT_S / 60.0,
                subs: b.subs.map(|n| (f64::from(n) * part).floor() as u32),
                ..*b
            };
            asked.iter().map(block).filter(|b| b.minutes > 0.0 && b.subs != Some(0)).collect()
        };
        let fits = |blocks: &[FixedBlock]| {
            let mut notes = Vec::new();
            self.in_order(blocks, locked, &mut notes);
            notes.is_empty() && blocks.len() == asked.len()
        };
        let blocks = (1..100).rev().map(shorter).find(|b| fits(b))?;
        let (wanted, fitting): (Vec<u32>, Vec<u32>) =
            (counts, blocks.iter().map(|b| b.subs.unwrap_or_else(|| self.subs_in(b))).collect());
        let alike = |n: &[u32]| n.windows(2).all(|w| w[0] == w[1]);
        let text = if alike(&wanted) && alike(&fitting) && wanted.len() > 1 {
            format!(
                "{} subs of each are too many for this night: {} of each fit.",
                wanted[0], fitting[0]
            )
        } else {
            let told = |n: &[u32]| {
                let each: Vec<String> = n.iter().map(u32::to_string).collect();
                listed(&each.iter().map(String::as_str).collect::<Vec<_>>())
            };
            format!("{} subs are too many for this night: {} fit.", told(&wanted), told(&fitting))
        };
        Some(OfferedList { blocks, text })
    }
}
