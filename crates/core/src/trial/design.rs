//! A trial before its night: what the model expects, whether that can be seen, how many pairs it
//! takes and how long, and where they stand in the night.

use serde::Serialize;
use utoipa::ToSchema;

use crate::night::view::NightView;
use crate::signal::model::Model;
use crate::trial::answer::letter;
use crate::trial::document::Trial;
use crate::trial::expected::{Expected, KindAt, expected};
use crate::trial::order::{SlotTimes, TrialSlot, blocks, run_sheet};
use crate::trial::power::{pairs_needed, power, smallest_seen};
use crate::wording::{clock, per_cent, signed_per_cent};

/// A trial as designed.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Designed {
    /// What each kind is called.
    pub names: Vec<String>,
    /// What the model expects of each further kind against the first; null where it says nothing.
    pub expected: Vec<Option<Expected>>,
    /// Pairs that show the difference that matters; null where no night holds them.
    pub pairs_needed: Option<usize>,
    /// Pairs that are planned; always whole blocks.
    pub pairs: usize,
    /// Chance that these show the difference that matters, 0-1.
    pub power: f64,
    /// Smallest difference that they show four times in five, as a share.
    pub smallest_seen: f64,
    /// Time on the clock, s.
    pub clock_s: f64,
    /// The order of the kinds, block by block.
    pub order: Vec<Vec<usize>>,
    /// Whether it is measured on a patch that somebody marks.
    pub of_a_patch: bool,
    /// Of each kind whether it records the line that the trial is judged by.
    pub records: Vec<bool>,
    /// What is to be said of it, in sentences.
    pub told: Vec<String>,
}

/// Pairs where a difference needs more than a night holds: what two hours hold of usual subs.
const USUAL_PAIRS: usize = 10;

/// Fewer pairs carry nothing that could be allowed for: cloud takes six frames for itself.
const FEWEST_PAIRS: usize = 6;

impl Trial {
    /// One exposure of each kind with what it costs beside, s.
    pub fn frame_s(&self) -> Vec<f64> {
        let one = |k: &crate::trial::document::TrialKind| {
            let c = self.scenario.contenders.get(k.path)?;
            let e = c.exposures.get(k.exposure)?;
            Some(e.sub_s + c.overhead_s_per_sub + c.sensor.readout_s)
        };
        self.kinds.iter().map(|k| one(k).unwrap_or(0.0)).collect()
    }

    /// Pairs as planned: as many as were asked for, else as are needed.
    fn pairs(&self) -> (Option<usize>, usize) {
        let d = &self.design;
        // A slot of several frames scatters less.
        let scatter = d.scatter / f64::from(d.frames_a_slot.max(1)).sqrt();
        let needed = pairs_needed(scatter, d.matters);
        let by_need = || needed.unwrap_or(USUAL_PAIRS).max(FEWEST_PAIRS);
        let asked = d.pairs.map_or_else(by_need, |p| p as usize);
        // Blocks hold two.
        (needed, asked.next_multiple_of(2))
    }

    /// The order, block by block.
    pub fn order(&self) -> Vec<Vec<usize>> {
        blocks(self.kinds.len(), self.pairs().1, self.design.seed)
    }

    /// The trial as designed. `model` is of its scenario, with copies of its filters.
    pub fn designed(&self, model: &Model) -> Designed {
        let d = &self.design;
        let names = self.names();
        let at = |k: usize| KindAt { path: self.kinds[k].path, exposure: self.kinds[k].exposure };
        let expected: Vec<Option<Expected>> = (1..self.kinds.len())
            .map(|k| expected(model, [at(0), at(k)], self.quantity, self.judged))
            .collect();
        let records = |k: usize| {
            let path = model.paths.get(self.kinds[k].path);
            let own = path.and_then(|p| p.exposures.get(self.kinds[k].exposure));
            own.is_some_and(|e| e.records(self.quantity))
        };
        let (needed, pairs) = self.pairs();
        let scatter = d.scatter / f64::from(d.frames_a_slot.max(1)).sqrt();
        let order = self.order();
        let frame_s = self.frame_s();
        let times = SlotTimes {
            frame_s: &frame_s,
            change_s: d.change_s,
            frames: d.frames_a_slot.max(1) as usize,
        };
        let sheet = run_sheet(&order, times, [0.0, 1e7], &[]);
        let clock_s = sheet.last().map_or(0.0, |s| s.to_s);
        let mut all = Designed {
            names,
            expected,
            pairs_needed: needed,
            pairs,
            power: power(pairs, scatter, d.matters),
            // A pair's difference scatters by two frames.
            smallest_seen: smallest_seen(scatter * (2.0 / pairs as f64).sqrt(), pairs - 1).exp_m1(),
            clock_s,
            order,
            of_a_patch: self.judged.of_a_patch(),
            records: (0..self.kinds.len()).map(records).collect(),
            told: Vec::new(),
        };
        all.told = self.told(&all);
        all
    }

    fn told(&self, of: &Designed) -> Vec<String> {
        let d = &self.design;
        let mut told = Vec::new();
        for (k, x) in of.expected.iter().enumerate() {
            let kind = letter(k + 1);
            let Some(x) = x else {
                if of.of_a_patch && !of.records[k + 1] {
                    told.push(format!(
                        "{kind} does not record {}: choose what does.",
                        self.scenario.target.name_of(self.quantity)
                    ));
                    continue;
                }
                told.push(format!(
                    "The model says nothing of {} through {kind}: the trial alone tells.",
                    self.judged.name()
                ));
                continue;
            };
            let seen = if x.share.abs() >= of.smallest_seen {
                "these pairs would show it"
            } else if x.interval[0].abs().max(x.interval[1].abs()) >= of.smallest_seen {
                "these pairs show it where the copies are far apart"
            } else {
                "these pairs would not show it, and it may not be worth a night"
            };
            told.push(format!(
                "The model expects {} of {kind} in {}, {} to {} between copies of the filters: {seen}.",
                signed_per_cent(x.share),
                self.judged.name(),
                signed_per_cent(x.interval[0]),
                signed_per_cent(x.interval[1])
            ));
        }
        told.push(match of.pairs_needed {
            Some(n) => format!(
                "{n} pairs show {} four times in five where one frame scatters by {}; {} pairs in whole blocks take {}.",
                per_cent(d.matters),
                per_cent(d.scatter),
                of.pairs,
                clock(of.clock_s)
            ),
            None => format!(
                "No night holds the pairs that show {} where one frame scatters by {}: {} pairs show {}.",
                per_cent(d.matters),
                per_cent(d.scatter),
                of.pairs,
                per_cent(of.smallest_seen)
            ),
        });
        told
    }
}

/// A trial's place in a night.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Sheet {
    /// What is taken when.
    pub slots: Vec<TrialSlot>,
    /// Pairs that found room.
    pub pairs: usize,
    /// From putting in the first filter to the last frame, seconds since 1970 UTC; null where
    /// nothing found room.
    #[schema(value_type = Option<Vec<f64>>)]
    pub span_s: Option<[f64; 2]>,
    /// What is to be said of it, in sentences.
    pub told: Vec<String>,
}

/// About the meridian, where air and flexure change least, s (common practice, no source).
const ABOUT_MERIDIAN_S: f64 = 3600.0;

/// Lays a trial into a night, about the meridian and with no moonrise, moonset or flip in a block.
pub fn sheet(trial: &Trial, view: &NightView) -> Sheet {
    let e = &view.events;
    let samples = &view.samples;
    // Where it stands highest while it is dark and above what stands around.
    let usable = (0..samples.len()).filter(|i| samples[*i].usable);
    let highest = usable.max_by(|a, b| samples[*a].target_deg.total_cmp(&samples[*b].target_deg));
    let Some(highest) = highest else {
        let told = vec![format!("{} is not up while it is dark.", trial.scenario.target.name)];
        return Sheet { slots: Vec::new(), pairs: 0, span_s: None, told };
    };
    // The time about it in which it stays so.
    let first = samples[..highest].iter().rposition(|s| !s.usable).map_or(0, |i| i + 1);
    let last = samples[highest..].iter().take_while(|s| s.usable).count() + highest - 1;
    let [first, highest, last] = [first, highest, last].map(|i| samples[i].at_s);
    let cuts: Vec<f64> = [e.moonrise_s, e.moonset_s, e.transit_s].into_iter().flatten().collect();
    let order = trial.order();
    let frame_s = trial.frame_s();
    let times = SlotTimes {
        frame_s: &frame_s,
        change_s: trial.design.change_s,
        frames: trial.design.frames_a_slot.max(1) as usize,
    };
    let laid = |half_s: f64| {
        let window = [(highest - half_s).max(first), (highest + half_s).min(last)];
        run_sheet(&order, times, window, &cuts)
    };
    let wanted: usize = order.iter().map(Vec::len).sum();
    let mut half_s = ABOUT_MERIDIAN_S;
    let mut slots = laid(half_s);
    while slots.len() < wanted && half_s < last - first {
        half_s += 600.0;
        slots = laid(half_s);
    }
    let pairs = slots.len() / trial.kinds.len().max(1);
    let mut told = Vec::new();
    if slots.len() < wanted {
        told.push(format!(
            "The night holds {pairs} of {} pairs: take the rest on another, or several frames before each change.",
            wanted / trial.kinds.len().max(1)
        ));
    } else if half_s > ABOUT_MERIDIAN_S {
        told.push(
            "They reach further than an hour from where it stands highest: airmass is allowed for."
                .to_owned(),
        );
    }
    for (what, at) in
        [("moonrise", e.moonrise_s), ("moonset", e.moonset_s), ("the flip", e.transit_s)]
    {
        let within = |at: f64| {
            slots.first().is_some_and(|s| s.from_s < at)
                && slots.last().is_some_and(|s| s.to_s > at)
        };
        if at.is_some_and(within) {
            told.push(format!("A block ends before {what} and the next begins after it."));
        }
    }
    let ends = slots.first().zip(slots.last());
    let span_s = ends.map(|(a, z)| [a.from_s - trial.design.change_s, z.to_s]);
    Sheet { slots, pairs, span_s, told }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::common::tables;
    use crate::night::view::{NightEvents, NightSample};
    use crate::trial::data::Judged;
    use crate::trial::document::tests::trial_of_two_filters;

    fn night(events: NightEvents) -> NightView {
        let sample = |i: u32| {
            let at_s = 1.8e9 + 60.0 * f64::from(i);
            NightSample {
                at_s,
                sun_deg: -40.0,
                moon_deg: -10.0,
                target_deg: 70.0 - (f64::from(i) - 300.0).abs() / 10.0,
                target_azimuth_deg: 180.0,
                limit_deg: 20.0,
                moon_distance_deg: 90.0,
                usable: (60..540).contains(&i),
                information_per_h: Vec::new(),
                lines_per_h: Vec::new(),
                background_e_per_s: Vec::new(),
            }
        };
        NightView { events, samples: (0..600).map(sample).collect() }
    }

    #[test]
    fn one_filter_against_itself_is_expected_to_be_itself_but_for_its_copies() {
        let mut trial = trial_of_two_filters();
        let path = &mut trial.scenario.contenders[trial.kinds[0].path];
        let mut other = path.exposures[0].clone();
        other.filter.as_mut().expect("a filter").name = "the same again".into();
        path.exposures[1] = other;
        let model = Model::new(&trial.scenario.clone().check().expect("accepted"), &tables());
        let d = trial.designed(&model);
        let x = d.expected[0].expect("the model knows it");
        assert!(x.ln.abs() < 1e-9 && x.copies_ln_sd > 0.0, "{x:?}");
        assert_eq!((d.pairs_needed, d.pairs), (Some(9), 10));
        assert!(d.power > 0.8 && d.smallest_seen < 0.05 && d.smallest_seen > 0.04, "{d:?}");
        assert_eq!(d.order.len(), 5);
    }

    #[test]
    fn a_steady_camera_still_takes_enough_frames_to_allow_for_cloud() {
        let mut trial = trial_of_two_filters();
        trial.design.scatter = 0.005;
        assert_eq!(trial.order().len(), 3);
        trial.design.pairs = Some(2);
        assert_eq!(trial.order().len(), 1);
    }

    #[test]
    fn what_does_not_record_the_line_is_said_to_be_no_match() {
        let trial = trial_of_two_filters();
        let model = Model::new(&trial.scenario.clone().check().expect("accepted"), &tables());
        let d = trial.designed(&model);
        assert_eq!((&d.records[..], &d.expected[..]), (&[true, false][..], &[None][..]));
        assert_eq!(d.told[0], "B does not record H-alpha + [N II]: choose what does.");
    }

    #[test]
    fn a_wider_filter_is_expected_to_let_more_sky_through() {
        let mut trial = trial_of_two_filters();
        trial.judged = Judged::Background;
        let path = &mut trial.scenario.contenders[trial.kinds[0].path];
        let mut wide = path.exposures[0].clone();
        let f = wide.filter.as_mut().expect("a filter");
        f.name = "twice as wide".into();
        f.bands.as_mut().expect("bands").iter_mut().for_each(|b| b.fwhm_nm *= 2.0);
        path.exposures[1] = wide;
        let model = Model::new(&trial.scenario.clone().check().expect("accepted"), &tables());
        let x = trial.designed(&model).expected[0].expect("the model knows it");
        assert!((0.8..1.3).contains(&x.share), "{x:?}");
        trial.judged = Judged::StarSize;
        assert_eq!(trial.designed(&model).expected, [None]);
    }

    #[test]
    fn a_sheet_lies_about_the_highest_place_and_breaks_at_the_flip() {
        let trial = trial_of_two_filters();
        let flip = 1.8e9 + 60.0 * 300.0;
        let free = sheet(&trial, &night(NightEvents::default()));
        let [begins, ends] = free.span_s.expect("room");
        let last = free.slots.last().expect("slots");
        assert_eq!((begins + trial.design.change_s, ends), (free.slots[0].from_s, last.to_s));
        assert!(free.pairs >= 9, "{free:?}");
        let middle = 0.5 * (free.slots[0].from_s + free.slots[free.slots.len() - 1].to_s);
        assert!((middle - flip).abs() < 3600.0);
        let events = NightEvents { transit_s: Some(flip), ..NightEvents::default() };
        let cut = sheet(&trial, &night(events));
        for block in cut.slots.chunks(4) {
            assert!(block[0].from_s >= flip || block[3].to_s <= flip, "{block:?}");
        }
        assert!(cut.told.iter().any(|t| t.contains("the flip")), "{:?}", cut.told);
        // Behind a roof for a while: no slot lies there, and the rest of the night is another trial's.
        let mut roof = night(NightEvents::default());
        roof.samples[330..400].iter_mut().for_each(|s| s.usable = false);
        let before = sheet(&trial, &roof);
        assert!(!before.slots.is_empty());
        assert!(before.slots.iter().all(|s| s.to_s <= 1.8e9 + 60.0 * 330.0), "{before:?}");
        let mut never = night(NightEvents::default());
        never.samples.iter_mut().for_each(|s| s.usable = false);
        assert!(sheet(&trial, &never).told[0].contains("not up"));
    }
}
