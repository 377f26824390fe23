//! What a campaign has gathered: the square of signal to noise that each sub adds.

use crate::campaign::document::{Campaign, CampaignGoal};
use crate::campaign::forecast::GoalState;
use crate::decide::split::{purpose, wanted};
use crate::light::lines::Quantity;
use crate::light::tables::Tables;
use crate::night::rate::NightRig;
use crate::path::scales::Scales;
use crate::scenario::check::Checked;
use crate::signal::model::{ExposureModel, Model};

/// What one sub of each exposure adds under the scenario's own sky: square of the signal to noise of every line that somebody wants,
/// what the exposure is for first. For nights whose counts are typed in by hand.
pub fn snr2_per_sub(scenario: &Checked, contender: usize, tables: &Tables) -> Vec<Vec<(Quantity, f64)>> {
    let model = Model::nominal(scenario, tables);
    let Some(path) = model.paths.get(contender) else { return Vec::new() };
    let wanted = wanted(path);
    let of = |e: &ExposureModel| -> Vec<(Quantity, f64)> {
        let one = |q: Quantity| path.exposure_snr2(e, q, e.sub_s, 1.0, &Scales::ONE, 0.0);
        let first = purpose(e, path);
        let others = wanted.iter().copied().filter(|q| Some(*q) != first && one(*q) > 0.0);
        first.into_iter().chain(others).map(|q| (q, one(q))).collect()
    };
    path.exposures.iter().map(of).collect()
}

/// Where every goal of a campaign stands: what its nights have gathered against what it wants.
pub fn goal_states(campaign: &Campaign, rig: &NightRig) -> Vec<GoalState> {
    let exposures = &campaign.scenario.contenders[campaign.contender].exposures;
    let shots = || campaign.nights.iter().filter(|n| !n.planned).flat_map(|n| &n.shots);
    let state = |g: &CampaignGoal| {
        let done_snr2 = campaign.done_snr2(g, rig.purpose(g.exposure));
        GoalState {
            exposure: g.exposure,
            filter: exposures[g.exposure].filter.as_ref().map_or("no filter".into(), |f| f.name.clone()),
            quantity: g.quantity.or_else(|| rig.purpose(g.exposure)),
            snr: done_snr2.sqrt(),
            goal_snr: g.snr,
            progress: done_snr2 / (g.snr * g.snr),
            subs: shots().filter(|s| s.exposure == g.exposure).map(|s| u64::from(s.subs)).sum(),
        }
    };
    campaign.goals.iter().map(state).collect()
}

/// What to shoot next, in a sentence: the goal that is furthest behind.
pub fn next_step(goals: &[GoalState]) -> String {
    let lag = goals.iter().filter(|g| g.progress < 1.0).min_by(|a, b| a.progress.total_cmp(&b.progress));
    let Some(g) = lag else { return "Every goal is reached: stop, or raise a goal.".to_owned() };
    let line = g.quantity.map_or("", |q| q.label());
    let own = if goals.iter().filter(|o| o.exposure == g.exposure).count() > 1 { format!(", {line}") } else { String::new() };
    format!("{}{own} next: it is at {:.0} % of its goal, the furthest behind.", g.filter, g.progress * 100.0)
}
