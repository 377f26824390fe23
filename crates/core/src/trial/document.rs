//! A trial as it is kept: what is compared, how it was designed, and the frames that were taken,
//! each with what was measured of it, so that the verdict stands when the files are gone.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::campaign::document::{CLEAR_SHARE, Campaign, CampaignFraming};
use crate::decide::goals::purpose;
use crate::frame::patch::FrameBox;
use crate::light::lines::Quantity;
use crate::light::tables::Tables;
use crate::scenario::check::{Checker, FieldRange};
use crate::scenario::document::Scenario;
use crate::scenario::field_error::FieldError;
use crate::scenario::rig::Contender;
use crate::signal::model::Model;
use crate::trial::analysis::analysed;
use crate::trial::answer::TrialQuestion;
use crate::trial::data::{Covariate, Judged, Treatment, TrialFrame};
use crate::trial::order::KINDS;
use crate::trial::power::{MATTERS, MOST_PAIRS};

/// Most frames of a trial.
pub const MOST_FRAMES: usize = 2_000;

/// One of the kinds that are compared: an exposure of a light path.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TrialKind {
    /// Index of the light path in the scenario.
    pub path: usize,
    /// Index of its exposure.
    pub exposure: usize,
}

/// How a trial is laid out.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TrialDesign {
    /// Smallest difference that matters, as a share.
    pub matters: f64,
    /// Scatter of one frame's logarithm, as a share: by this rig's past frames, else 0.03.
    pub scatter: f64,
    /// Pairs to take; null for as many as are needed.
    #[serde(default)]
    pub pairs: Option<u32>,
    /// Frames of a kind before the next.
    pub frames_a_slot: u32,
    /// Changing the filter and focusing anew, s.
    pub change_s: f64,
    /// By which the order is drawn.
    pub seed: u32,
    /// By how much the further kind is dearer; null where nobody asks.
    #[serde(default)]
    pub dearer: Option<f64>,
}

impl Default for TrialDesign {
    fn default() -> Self {
        Self {
            matters: MATTERS,
            // Common practice, no source: what clear nights leave of one frame.
            scatter: 0.03,
            pairs: None,
            frames_a_slot: 1,
            change_s: 90.0,
            seed: 1,
            dearer: None,
        }
    }
}

/// A patch of the target and sky beside it, on one frame.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TrialMarks {
    /// The frame's id.
    pub frame: String,
    /// Id of its night.
    pub session: String,
    /// The patch.
    pub patch: FrameBox,
    /// Sky beside it.
    pub background: FrameBox,
}

/// A frame of a trial, with what was measured.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct FrameInTrial {
    /// Its id in the log.
    pub id: String,
    /// Its file's name.
    pub name: String,
    /// Its kind, from 0; null where its header fits none, or several.
    pub kind: Option<usize>,
    /// Whether somebody said by hand which kind it is and whether it counts.
    #[serde(default)]
    pub by_hand: bool,
    /// Whether somebody left it out.
    #[serde(default)]
    pub left_out: bool,
    /// When it began, seconds since 1970 UTC.
    pub start_s: f64,
    /// What is judged; null where it could not be measured.
    pub measure: Option<f64>,
    /// What else is known of it: transparency as a share, airmass, the moon's share of the sky's
    /// light, half-flux radius in pixels, guiding in arcsec.
    #[serde(default)]
    #[schema(value_type = BTreeMap<String, f64>)]
    pub known: BTreeMap<Covariate, f64>,
}

impl FrameInTrial {
    /// Whether it counts: its kind is known, it was measured, and nobody left it out.
    pub fn counts(&self) -> bool {
        self.kind.is_some() && self.measure.is_some() && !self.left_out
    }
}

/// A trial as it is kept.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Trial {
    /// Free text.
    pub title: String,
    /// Target, sky and light paths.
    pub scenario: Scenario,
    /// Id of the site on the shelf.
    pub site: String,
    /// Framing.
    pub framing: CampaignFraming,
    /// What differs.
    pub treatment: Treatment,
    /// What is judged.
    pub judged: Judged,
    /// The line, or the target's own light, that it is judged by.
    pub quantity: Quantity,
    /// The kinds; the others are held against the first.
    pub kinds: Vec<TrialKind>,
    /// How it is laid out.
    pub design: TrialDesign,
    /// Ids of the nights in the log whose frames are in it.
    #[serde(default)]
    pub nights: Vec<String>,
    /// What is marked on a frame.
    #[serde(default)]
    pub marks: Option<TrialMarks>,
    /// The frames.
    #[serde(default)]
    pub frames: Vec<FrameInTrial>,
}

/// Scatter of one frame's logarithm that is accepted.
const SCATTERS: (f64, f64) = (0.001, 1.0);
/// Most nights of a trial.
const MOST_NIGHTS: usize = 20;

impl Trial {
    /// Checks every field.
    ///
    /// # Errors
    /// All fields that are wrong, with what is accepted.
    pub fn check(&self) -> Result<(), Vec<FieldError>> {
        Checker::errors_of(|c| self.checked_by(c))
    }

    /// The ranges of a trial's own numbers; those of its scenario are the scenario's.
    pub fn ranges(scenario: Scenario) -> Vec<FieldRange> {
        let trial = Self {
            title: String::new(),
            scenario,
            site: String::new(),
            framing: CampaignFraming { ra_deg: 0.0, dec_deg: 0.0, position_angle_deg: 0.0 },
            treatment: Treatment::Filter,
            judged: Judged::PatchSnr,
            quantity: Quantity::Ha,
            kinds: Vec::new(),
            design: TrialDesign { pairs: Some(1), dearer: Some(0.0), ..TrialDesign::default() },
            nights: Vec::new(),
            marks: None,
            frames: vec![FrameInTrial {
                id: String::new(),
                name: String::new(),
                kind: None,
                by_hand: false,
                left_out: false,
                start_s: 0.0,
                measure: Some(1.0),
                known: BTreeMap::new(),
            }],
        };
        Checker::ranges_of(|c| trial.checked_by(c))
    }

    fn checked_by(&self, c: &mut Checker) {
        c.title("title", &self.title);
        c.text("site", &self.site);
        if let Err(list) = self.scenario.clone().check() {
            list.into_iter().for_each(|e| c.wrong(format!("scenario.{}", e.path), e.message));
        }
        self.framing.checked_by(c);
        if !(KINDS[0]..=KINDS[1]).contains(&self.kinds.len()) {
            let said = format!("{} kinds; give {} to {}", self.kinds.len(), KINDS[0], KINDS[1]);
            c.wrong("kinds", said);
        }
        for (i, k) in self.kinds.iter().enumerate().take(KINDS[1]) {
            if self.contender(*k).is_none_or(|c| c.exposures.len() <= k.exposure) {
                let said = "no such exposure of the comparison; count both from 0";
                c.wrong(format!("kinds[{i}]"), said);
            }
            if self.kinds[..i].contains(k) {
                c.wrong(format!("kinds[{i}]"), "the same as a kind before it; give each once");
            }
        }
        if self.quantity == Quantity::HaAlone {
            c.wrong("quantity", "H-alpha alone; give ha, oiii, sii, hb or continuum");
        }
        self.design_checked(c);
        let nights = c.at_most("nights", self.nights.len(), MOST_NIGHTS);
        for (i, n) in self.nights.iter().enumerate().take(nights) {
            c.text(format_args!("nights[{i}]"), n);
        }
        let frames = c.at_most("frames", self.frames.len(), MOST_FRAMES);
        for (i, f) in self.frames.iter().enumerate().take(frames) {
            c.text(format_args!("frames[{i}].name"), &f.name);
            if f.kind.is_some_and(|k| k >= self.kinds.len()) {
                c.wrong(
                    format!("frames[{i}].kind"),
                    "there is no such kind; count from 0, or null",
                );
            }
            c.within(format_args!("frames[{i}].start_s"), f.start_s, 0.0, 4e9, "s since 1970");
            let measure = f.measure.unwrap_or(1.0);
            c.within(format_args!("frames[{i}].measure"), measure, -1e12, 1e12, "");
        }
    }

    fn design_checked(&self, c: &mut Checker) {
        let d = &self.design;
        c.within("design.matters", d.matters, 0.005, 1.0, "as a share");
        c.within("design.scatter", d.scatter, SCATTERS.0, SCATTERS.1, "as a share");
        let pairs = f64::from(d.pairs.unwrap_or(2));
        c.within("design.pairs", pairs, 1.0, MOST_PAIRS as f64, "pairs");
        c.within("design.frames_a_slot", f64::from(d.frames_a_slot), 1.0, 20.0, "frames");
        c.within("design.change_s", d.change_s, 0.0, 3600.0, "s");
        c.within("design.dearer", d.dearer.unwrap_or(0.0), -1e6, 1e6, "");
    }

    fn contender(&self, k: TrialKind) -> Option<&Contender> {
        self.scenario.contenders.get(k.path)
    }

    /// What each kind is called: by what differs.
    pub fn names(&self) -> Vec<String> {
        let one = |k: &TrialKind| {
            let Some((c, e)) =
                self.contender(*k).and_then(|c| Some((c, c.exposures.get(k.exposure)?)))
            else {
                return String::new();
            };
            match self.treatment {
                Treatment::Filter => {
                    e.filter.as_ref().map_or("no filter".to_owned(), |f| f.name.clone())
                }
                Treatment::Gain => format!("gain {}", c.gain),
                Treatment::Sub => crate::wording::seconds(e.sub_s),
                Treatment::Rig => c.name.clone(),
            }
        };
        self.kinds.iter().map(one).collect()
    }

    /// What the first kind is for; `None` where the scenario is not accepted.
    pub fn own_quantity(&self, tables: &Tables) -> Option<Quantity> {
        let first = self.kinds.first()?;
        let model = Model::nominal(&self.scenario.clone().check().ok()?, tables);
        purpose(model.paths.get(first.path)?.exposures.get(first.exposure)?)
    }

    /// Scatter of one frame that an earlier trial of the same camera, judged by the same, found.
    pub fn scatter_of(&self, earlier: &[Self]) -> Option<f64> {
        let camera = |t: &Self| Some(t.contender(*t.kinds.first()?)?.sensor.name.clone());
        let own = camera(self)?;
        let alike = |t: &&Self| t.judged == self.judged && camera(t).as_ref() == Some(&own);
        earlier.iter().filter(alike).find_map(|t| {
            let frames = t.counted();
            let found = analysed(&t.question(&frames)).ok()?.scatter;
            Some(found.exp_m1().clamp(SCATTERS.0, SCATTERS.1))
        })
    }

    /// What its frames are asked.
    pub fn question<'a>(&self, frames: &'a [TrialFrame]) -> TrialQuestion<'a> {
        TrialQuestion {
            treatment: self.treatment,
            judged: self.judged,
            kinds: self.kinds.len(),
            frames,
            frames_a_slot: self.design.frames_a_slot.max(1) as usize,
        }
    }

    /// As a campaign of the same target with all its light paths, for what asks by campaigns whose
    /// frames are whose and what the model says of a minute.
    pub fn as_campaign(&self) -> Campaign {
        let first = self.kinds.first().map_or(0, |k| k.path);
        Campaign {
            title: self.title.clone(),
            contender: first,
            also: (0..self.scenario.contenders.len()).filter(|p| *p != first).collect(),
            scenario: self.scenario.clone(),
            site: self.site.clone(),
            framing: self.framing,
            goals: Vec::new(),
            clear_share: CLEAR_SHARE,
            nights: Vec::new(),
        }
    }

    /// The frames that count: of a kind, measured, and not left out.
    pub fn counted(&self) -> Vec<TrialFrame> {
        let one = |f: &FrameInTrial| {
            Some(TrialFrame {
                name: f.name.clone(),
                kind: f.kind?,
                start_s: f.start_s,
                measure: f.measure?,
                known: f.known.clone(),
            })
        };
        self.frames.iter().filter(|f| f.counts()).filter_map(one).collect()
    }
}

#[cfg(test)]
#[path = "document_tests.rs"]
pub(crate) mod tests;
