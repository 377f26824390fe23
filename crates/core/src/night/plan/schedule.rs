//! A plan written out: blocks with their subs and reasons, totals, and what does not fit.

use serde::Serialize;
use std::collections::BTreeMap;
use utoipa::ToSchema;

use crate::light::lines::Quantity;
use crate::night::plan::planner::{Planner, Run};
use crate::night::plan::slots::{PER_SLOT, SLOT_S};
use crate::night::plan::spec::{FixedBlock, PlanGoal};

/// One block of the plan.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Block {
    /// Index of the exposure.
    pub exposure: usize,
    /// Name of its filter.
    pub filter: String,
    /// Start, seconds since 1970 UTC.
    pub from_s: f64,
    /// End, seconds since 1970 UTC.
    pub to_s: f64,
    /// Whole subs.
    pub subs: u32,
    /// Length of a sub, s.
    pub sub_s: f64,
    /// Refocuses in it.
    pub refocuses: u32,
    /// When the mount flips in it, seconds since 1970 UTC.
    pub flip_s: Option<f64>,
    /// Square of the signal to noise that it adds.
    pub snr2: f64,
    /// The same for every line that its filter records and somebody wants: both of a dual band.
    pub lines_snr2: BTreeMap<Quantity, f64>,
    /// It stays where it is.
    pub locked: bool,
    /// Why it stands where it does.
    pub why: String,
}

/// What one exposure gets.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct PlanTotal {
    /// Index of the exposure.
    #[schema(minimum = 0)]
    pub exposure: usize,
    /// Name of its filter.
    pub filter: String,
    /// What it is for.
    pub quantity: Option<Quantity>,
    /// Its name on this target.
    pub quantity_name: Option<String>,
    /// Subs.
    #[schema(minimum = 0)]
    pub subs: u32,
    /// Exposed time, s.
    #[schema(minimum = 0.0)]
    pub exposed_s: f64,
    /// Signal to noise with what was done before.
    #[schema(minimum = 0.0)]
    pub snr: f64,
    /// Side of the square of sky on which the part that its goal names is clean then, arcsec; null
    /// for a goal of stars, or where nothing is there yet.
    #[schema(minimum = 0.0)]
    pub clean_arcsec: Option<f64>,
    /// Square of the signal to noise over the square of its goal; 1 is done.
    #[schema(minimum = 0.0)]
    pub progress: f64,
}

/// A night's plan.
#[derive(Clone, Debug, Default, PartialEq, Serialize, ToSchema)]
pub struct Plan {
    /// The blocks in order.
    pub blocks: Vec<Block>,
    /// What each exposure gets.
    pub totals: Vec<PlanTotal>,
    /// When to be ready to set up, seconds since 1970 UTC; null for an empty plan, or where another
    /// target came before.
    pub setup_from_s: Option<f64>,
    /// When the last sub ends.
    pub last_sub_s: Option<f64>,
    /// When flats are done and the night is over; null for an empty plan, or where another target
    /// follows.
    pub finished_s: Option<f64>,
    /// How long a meridian flip with recentring takes, s.
    pub flip_lasts_s: f64,
    /// Share of the time between the first and the last sub that is not exposed.
    pub overhead: f64,
    /// What does not fit, and what would make it fit.
    pub notes: Vec<String>,
    /// A shorter list, where the one that was asked is too long for the night; null where it fits.
    pub offered: Option<OfferedList>,
}

/// A list that fits into a night, in the place of one that does not.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct OfferedList {
    /// Its blocks, each as much shorter as the others.
    pub blocks: Vec<FixedBlock>,
    /// "24 subs of each are too many for this night: 21 fit."
    pub text: String,
}

impl Planner<'_> {
    fn time(&self, slot: usize) -> f64 {
        self.from_s + slot as f64 * SLOT_S
    }

    /// Runs as blocks with subs, refocuses and reasons; totals, times and notes.
    pub(super) fn written(&self, runs: &[Run], mut notes: Vec<String>) -> Plan {
        let o = &self.spec.overheads;
        let n = self.rig.len();
        let dark_s = self.view.events.dark_h * 3600.0;
        let every_k = o
            .refocus_every_k
            .filter(|_| o.temperature_drop_k > 0.0)
            .map(|k| dark_s * k / o.temperature_drop_k);
        let every_s = o
            .refocus_every_min
            .map(|m| m * 60.0)
            .into_iter()
            .chain(every_k)
            .fold(f64::INFINITY, f64::min);
        let mut blocks = Vec::new();
        let mut previous: Option<usize> = None;
        // The last focus of the night, whichever block it fell into.
        let mut focused_s = f64::NEG_INFINITY;
        for r in runs {
            let (from_s, to_s) = (self.time(r.from), self.time(r.to));
            let length = to_s - from_s;
            let change = previous != Some(r.exposure);
            let mut refocuses = 0u32;
            if previous.is_none() || (change && o.refocus_on_change) {
                refocuses += u32::from(o.refocus_on_change);
                focused_s = from_s;
            }
            while every_s > 0.0 && focused_s + every_s < to_s {
                // What fell due between blocks is done when the next begins.
                focused_s = (focused_s + every_s).max(from_s);
                refocuses += 1;
            }
            let flip_s = self.view.events.transit_s.filter(|t| (from_s..to_s).contains(t));
            let spent = f64::from(refocuses) * o.refocus_s + flip_s.map_or(0.0, |_| o.flip_s);
            let sub = self.rig.sub_s(r.exposure);
            let subs = ((length - spent) / (sub + self.between_s[r.exposure])).floor().max(0.0);
            if subs < 1.0 {
                notes.push(format!(
                    "{} min of {} from {} hold no sub of {} s beside their overheads: they are \
                        left out.",
                    length / 60.0,
                    self.names[r.exposure],
                    self.clock.hm(from_s),
                    sub
                ));
                continue;
            }
            // What the slots give, for the subs that fit.
            let rate = self.rates[r.exposure][r.from..r.to].iter().sum::<f64>() / length;
            let focus = o.left_by_focusing();
            let snr2 = rate / focus * subs * (sub + self.between_s[r.exposure]);
            blocks.push(Block {
                exposure: r.exposure,
                filter: self.names[r.exposure].clone(),
                from_s,
                to_s,
                subs: subs as u32,
                sub_s: sub,
                refocuses,
                flip_s,
                snr2,
                lines_snr2: self.lines(r, snr2),
                locked: r.locked,
                why: self.why(r),
            });
            previous = Some(r.exposure);
        }
        let totals: Vec<PlanTotal> = (0..n)
            .map(|x| {
                let own = || blocks.iter().filter(move |b: &&Block| b.exposure == x);
                let subs = own().map(|b| b.subs).sum::<u32>();
                let snr2 = self.done2[x] + own().map(|b| b.snr2).sum::<f64>();
                PlanTotal {
                    exposure: x,
                    filter: self.names[x].clone(),
                    quantity: self.rig.purpose(x),
                    quantity_name: self.rig.purpose(x).map(|q| self.rig.name_of(q).to_owned()),
                    subs,
                    exposed_s: f64::from(subs) * self.rig.sub_s(x),
                    snr: snr2.sqrt(),
                    clean_arcsec: self
                        .rig
                        .purpose(x)
                        .and_then(|q| self.rig.goal(q).clean_arcsec(snr2.sqrt())),
                    progress: if self.goal2[x].is_finite() { snr2 / self.goal2[x] } else { 0.0 },
                }
            })
            .collect();
        self.remarks(&blocks, &totals, &mut notes);
        let (first, last) = (blocks.first().map(|b| b.from_s), blocks.last().map(|b| b.to_s));
        let exposed: f64 = totals.iter().map(|t| t.exposed_s).sum();
        let span: f64 = blocks.iter().map(|b| b.to_s - b.from_s).sum();
        Plan {
            setup_from_s: first.map(|t| t - o.setup_min * 60.0),
            last_sub_s: last,
            finished_s: last.map(|t| t + o.flats_min * 60.0),
            flip_lasts_s: o.flip_s,
            overhead: if span > 0.0 { 1.0 - exposed / span } else { 0.0 },
            blocks,
            totals,
            notes,
            offered: None,
        }
    }

    /// How many subs a block of so many minutes holds beside its focusing.
    pub(super) fn subs_in(&self, b: &FixedBlock) -> u32 {
        let o = &self.spec.overheads;
        let every_min = o.refocus_every_min.unwrap_or(f64::INFINITY);
        let first = f64::from(u8::from(o.refocus_on_change));
        let focus_s = (first + (b.minutes / every_min - 1e-9).floor().max(0.0)) * o.refocus_s;
        let each = self.rig.sub_s(b.exposure) + self.between_s[b.exposure];
        ((b.minutes * 60.0 - focus_s) / each).floor().max(0.0) as u32
    }

    /// What a run gives to each line of its filter, from what it gives to the one that it is for:
    /// in the proportion of the minutes.
    fn lines(&self, r: &Run, snr2: f64) -> BTreeMap<Quantity, f64> {
        let minutes = &self.view.samples[r.from * PER_SLOT..=r.to * PER_SLOT];
        let sum = |k: usize| {
            minutes.iter().filter_map(|s| s.lines_per_h.get(r.exposure)?.get(k)).sum::<f64>()
        };
        let own = sum(0);
        let each = self.rig.lines(r.exposure).iter().enumerate();
        each.map(|(k, q)| {
            (
                *q,
                if k == 0 {
                    snr2
                } else if own > 0.0 {
                    snr2 * sum(k) / own
                } else {
                    0.0
                },
            )
        })
        .collect()
    }

    fn remarks(&self, blocks: &[Block], totals: &[PlanTotal], notes: &mut Vec<String>) {
        let ev = &self.view.events;
        if ev.dark_h <= 0.0 {
            notes.push(
                "It does not get dark enough tonight: allow a brighter twilight, or wait \
                for longer nights."
                    .into(),
            );
        } else if ev.usable_h <= 0.0 {
            notes.push(
                "The target does not rise above its limit while it is dark: lower the \
                limit, or choose another night."
                    .into(),
            );
        }
        if blocks.is_empty() {
            let most_min = self
                .gaps(&[])
                .iter()
                .map(|g| (g.1 - g.0) as f64 * SLOT_S / 60.0)
                .fold(0.0, f64::max);
            if ev.usable_h > 0.0
                && most_min < self.spec.overheads.least_block_min
                && !matches!(self.spec.goal, PlanGoal::Fixed { .. })
            {
                notes.push(format!(
                    "At most {most_min:.0} min stay free at a stretch, less than the shortest \
                        block of {:.0}: allow a shorter one.",
                    self.spec.overheads.least_block_min
                ));
            }
            return;
        }
        let hours = ev.usable_h;
        for t in totals.iter().filter(|t| t.quantity.is_some()) {
            let asked = self.aim2[t.exposure].is_finite()
                && !matches!(self.spec.goal, PlanGoal::Fixed { .. } | PlanGoal::Most { .. });
            if t.subs == 0 && asked && t.progress < 1.0 {
                notes.push(format!(
                    "{} gets no block: the night has no {:.0} minutes to spare for it. A shorter \
                        least block would let it in.",
                    t.filter, self.spec.overheads.least_block_min
                ));
            } else if t.progress < 1.0 && t.subs > 0 {
                let tonight = t.progress * self.goal2[t.exposure] - self.done2[t.exposure];
                let nights =
                    ((1.0 - t.progress) * self.goal2[t.exposure] / tonight.max(1e-12)).ceil();
                if !self.spec.aims_snr2.is_empty() {
                    // How many nights a campaign takes is told from the nights themselves.
                    notes.push(format!(
                        "{} is at {:.0} % of its goal after tonight.",
                        t.filter,
                        t.progress * 100.0
                    ));
                } else if nights < 1000.0 {
                    let s = if nights > 1.0 { "s" } else { "" };
                    notes.push(format!(
                        "{} is at {:.0} % of its goal after tonight: {nights:.0} more night{s} \
                            like this ({hours:.1} h) would do.",
                        t.filter,
                        t.progress * 100.0
                    ));
                }
            }
        }
    }

    /// What is left of an exposure's rate once the moon is up, against the slots before; zero where
    /// the night has no such slots.
    pub(super) fn left_by_moon(&self, x: usize) -> f64 {
        let mean = |up: bool| {
            let slots = self.view.samples.iter().step_by(PER_SLOT).zip(&self.rates[x]);
            let own = slots.filter(|(s, r)| **r > 0.0 && (s.moon_deg > 0.0) == up);
            let (sum, n) = own.fold((0.0, 0.0), |(sum, n), (_, r)| (sum + r, n + 1.0));
            if n > 0.0 { sum / n } else { 0.0 }
        };
        mean(true) / mean(false).max(1e-300)
    }

    /// Why a run stands where it does: the moon, the meridian, the limit, or what lags.
    fn why(&self, r: &Run) -> String {
        if r.locked {
            return "Locked by you.".into();
        }
        let label = self.rig.purpose(r.exposure).map_or("it", Quantity::label);
        // Where the user chose, the user is the reason.
        match &self.spec.goal {
            PlanGoal::Fixed { .. } => return "In the order of your list.".into(),
            PlanGoal::Most { .. } => {
                return format!("As much {label} as the night holds, as you asked.");
            }
            PlanGoal::HaFirst
                if self.free.iter().position(|f| *f).is_some_and(|s| r.from <= s)
                    && label == Quantity::Ha.label() =>
            {
                return format!("{label} first: it shows the framing.");
            }
            PlanGoal::Balanced | PlanGoal::ByMoon | PlanGoal::HaFirst => {}
        }
        let ev = &self.view.events;
        let (from, to) = (self.time(r.from), self.time(r.to));
        let samples = &self.view.samples[r.from * PER_SLOT..=r.to * PER_SLOT];
        let up = samples.iter().filter(|s| s.moon_deg > 0.0).count();
        let down_all = up == 0;
        let night_has_moon = self.view.samples.iter().any(|s| s.usable && s.moon_deg > 0.0);
        if down_all && night_has_moon {
            let in_the_dark =
                |t: &f64| ev.dusk_s.is_none_or(|d| *t > d) && ev.dawn_s.is_none_or(|d| *t < d);
            if let Some(rise) = ev.moonrise_s.filter(|t| *t >= to - SLOT_S).filter(in_the_dark) {
                return format!(
                    "{label} while the moon is down, before it rises at {}.",
                    self.clock.hm(rise)
                );
            }
            if let Some(set) = ev.moonset_s.filter(|t| *t <= from + SLOT_S).filter(in_the_dark) {
                return format!("{label} after the moon set at {}.", self.clock.hm(set));
            }
        }
        if let Some(rise) = ev.moonrise_s.filter(|t| *t > from && *t < to) {
            let hurt_most =
                (0..self.rig.len()).all(|x| self.left_by_moon(x) >= self.left_by_moon(r.exposure));
            if samples.first().is_some_and(|s| s.moon_deg <= 0.0) && self.rig.len() > 1 && hurt_most
            {
                return format!(
                    "{label} first: the moon rises at {} and costs it most.",
                    self.clock.hm(rise)
                );
            }
        }
        // How much of its own best rate it has here, against the others.
        let share = |x: usize| {
            let own = &self.rates[x];
            let best = own.iter().copied().fold(0.0, f64::max);
            if best > 0.0 {
                own[r.from..r.to].iter().sum::<f64>() / (r.to - r.from) as f64 / best
            } else {
                0.0
            }
        };
        let mine = share(r.exposure);
        let least_hurt =
            (0..self.rig.len()).filter(|x| *x != r.exposure).all(|x| share(x) <= mine + 1e-9);
        if up * 2 > samples.len() && least_hurt && self.rig.len() > 1 {
            return format!("{label} under the moon, which costs it least.");
        }
        if let Some(t) = ev.transit_s.filter(|t| (from..to).contains(t)) {
            return format!(
                "{label} around the meridian at {}, where the target is highest.",
                self.clock.hm(t)
            );
        }
        if let Some(t) = ev.target_down_s.filter(|t| (*t - to).abs() < 2.0 * SLOT_S) {
            return format!(
                "{label} until the target sinks below its limit at {}.",
                self.clock.hm(t)
            );
        }
        if let Some(t) = ev.dawn_s.filter(|t| (*t - to).abs() < 2.0 * SLOT_S) {
            return format!("{label} until dawn at {}.", self.clock.hm(t));
        }
        format!("{label} here, so that every goal gains alike.")
    }
}
