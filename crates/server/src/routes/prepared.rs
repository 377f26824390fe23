//! The targets of a night made ready to be planned: their rigs, their nights, and what their
//! campaigns want of this evening.

use salt_lamp_core::campaign::{Campaign, EveningWeighed, evening_weighed};
use salt_lamp_core::night::{
    Change, Direction, NightRig, NightView, Place, PlanGoal, PlanSpec, month_view, night_view,
};
use salt_lamp_core::scenario::NightLimits;
use salt_lamp_core::{Checked, Scenario};

use super::asked::{SkyPlace, direction, moved, rig};
use super::night::{FurtherTarget, NightQuestion};
use crate::http::zones::LocalNight;
use crate::{App, Problem};

/// A campaign as the light path sees it through which an evening is shot.
pub(super) fn through(
    c: &App,
    campaign: Option<Campaign>,
    contender: usize,
    path: &str,
) -> Result<Option<Campaign>, Problem> {
    let campaign = match campaign {
        Some(other) if other.contender != contender => other,
        own => return Ok(own),
    };
    let scenario = campaign
        .scenario
        .clone()
        .check()
        .map_err(moved("", format!("{path}campaign.scenario.")))?;
    let (own, other) = (rig(c, &scenario, campaign.contender)?.0, rig(c, &scenario, contender)?.0);
    let seen = campaign.through(contender, &own, &other).ok_or_else(|| {
        let message = format!(
            "the campaign does not count contender {contender}; give one of its own, or add it \
             to campaign.also"
        );
        Problem::field(&format!("{path}contender"), message)
    })?;
    Ok(Some(seen))
}

/// Where a campaign is framed, what it wants, and what it has from other evenings.
pub(super) fn of_campaign(
    campaign: &Campaign,
    path: &str,
    date: &str,
) -> Result<(SkyPlace, Vec<f64>, Vec<f64>), Problem> {
    campaign.check().map_err(moved("", format!("{path}.")))?;
    let framed = SkyPlace { ra_deg: campaign.framing.ra_deg, dec_deg: campaign.framing.dec_deg };
    Ok((framed, campaign.goal_snr_of_exposures(), campaign.done_before_snr2(date)))
}

/// One target of the night with all that is needed to plan it.
pub(super) struct Prepared {
    pub name: String,
    pub at: Direction,
    pub path: String,
    pub rig: NightRig,
    pub filters: Vec<String>,
    pub view: NightView,
    pub spec: PlanSpec,
    pub change: Change,
    pub waits: Vec<String>,
}

/// What the targets of a night have in common.
pub(super) struct Common<'a> {
    pub app: &'a App,
    pub place: Place,
    pub local: &'a LocalNight,
    pub evening: &'a str,
    pub weigh: bool,
    /// Noons of the evening and of those ahead, and the evenings as people say them.
    pub noons_s: Vec<f64>,
    pub dates: Vec<String>,
}

/// A target as it was asked.
pub(super) struct Asked<'a> {
    pub scenario: &'a Checked,
    pub contender: usize,
    pub at: Direction,
    pub limits: &'a NightLimits,
    pub spec: PlanSpec,
    pub campaign: Option<&'a Campaign>,
    pub change: Change,
}

impl Common<'_> {
    pub(super) fn prepared(&self, a: Asked) -> Result<Prepared, Problem> {
        let (rig, filters) = rig(self.app, a.scenario, a.contender)?;
        let (from_s, to_s) = (self.local.from_s, self.local.to_s);
        let view = night_view(self.place, from_s, to_s, a.at, a.limits, Some(&rig))?;
        let mut spec = a.spec;
        let own_way = matches!(spec.goal, PlanGoal::Fixed { .. } | PlanGoal::Most { .. });
        let mut waits = Vec::new();
        if let Some(campaign) = a.campaign.filter(|_| self.weigh && !own_way) {
            let nights = month_view(self.place, &self.noons_s, a.at, a.limits, &rig)?;
            let of = (&rig, &filters[..]);
            let weighed = evening_weighed(campaign, self.evening, of, (&nights, &self.dates));
            if let Some(EveningWeighed { aims_snr2, waits: own }) = weighed {
                (spec.aims_snr2, waits) = (aims_snr2, own);
            }
        }
        let scenario = a.scenario.scenario();
        Ok(Prepared {
            name: scenario.target.name.clone(),
            at: a.at,
            path: scenario.contenders[a.contender].name.clone(),
            rig,
            filters,
            view,
            spec,
            change: a.change,
            waits,
        })
    }
}

/// A further target, prepared; `path` is where it stands in the question.
pub(super) fn further(
    c: &Common,
    q: &NightQuestion,
    mut t: FurtherTarget,
    path: &str,
) -> Result<Prepared, Problem> {
    let contender = t.contender.unwrap_or(q.contender);
    t.campaign = through(c.app, t.campaign, contender, &format!("{path}."))?;
    if let Some(campaign) = &t.campaign {
        let (framed, goals, done) = of_campaign(campaign, &format!("{path}.campaign"), &q.date)?;
        (t.place, t.goal_snr, t.done_snr2) = (Some(framed), goals, done);
    }
    let mut scenario = match (t.scenario, t.target) {
        (Some(own), _) => own,
        (None, Some(target)) => Scenario { target, ..q.scenario.clone() },
        (None, None) => {
            let message = "nothing is said of what it is; give a target or a scenario";
            return Err(Problem::field(&format!("{path}.target"), message.to_owned()));
        }
    };
    let at = direction(c.app, t.place, &scenario.target.name, &format!("{path}.place"))?;
    scenario.target.stands_at(at.ra_deg, at.dec_deg);
    let scenario = scenario.check().map_err(moved("", format!("{path}.scenario.")))?;
    let limits = t.limits.unwrap_or_else(|| q.limits.clone());
    limits.check().map_err(moved("limits", format!("{path}.limits")))?;
    let spec = PlanSpec {
        goal: t.goal.unwrap_or_else(|| q.plan.goal.clone()),
        locked: t.locked,
        goal_snr: t.goal_snr,
        done_snr2: t.done_snr2,
        aims_snr2: Vec::new(),
        overheads: q.plan.overheads,
        struck_out: q.plan.struck_out.clone(),
    };
    let exposures = scenario.scenario().contenders.get(contender).map_or(0, |c| c.exposures.len());
    if exposures == 0 {
        let message = format!("there is no contender {contender}; count from 0");
        return Err(Problem::field(&format!("{path}.contender"), message));
    }
    spec.check(exposures).map_err(moved("plan.", format!("{path}.")))?;
    let (campaign, change) = (t.campaign.as_ref(), t.change);
    let asked =
        Asked { scenario: &scenario, contender, at, limits: &limits, spec, campaign, change };
    c.prepared(asked)
}
