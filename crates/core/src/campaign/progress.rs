//! What a campaign has gathered: the square of signal to noise that each sub adds.

use crate::campaign::document::{Campaign, CampaignGoal};
use crate::campaign::forecast::{Forecast, GoalState};
use crate::decide::goals::{purpose, wanted};
use crate::light::lines::Quantity;
use crate::light::tables::Tables;
use crate::night::rate::NightRig;
use crate::path::scales::Scales;
use crate::scenario::check::Checked;
use crate::signal::model::{ExposureModel, Model};
use crate::wording::listed;

/// What one sub of each exposure adds under the scenario's own sky: square of the signal to noise
/// of every line that somebody wants, what the exposure is for first. For nights whose counts are
/// typed in by hand.
pub fn snr2_per_sub(
    scenario: &Checked,
    contender: usize,
    tables: &Tables,
) -> Vec<Vec<(Quantity, f64)>> {
    let model = Model::nominal(scenario, tables);
    let Some(path) = model.paths.get(contender) else { return Vec::new() };
    let wanted = wanted(path);
    let of = |e: &ExposureModel| -> Vec<(Quantity, f64)> {
        // What is typed in are subs that were kept.
        let taken = 1.0 / path.instrument.kept(1.0, e.sub_s);
        let one = |q: Quantity| e.snr2(q, e.sub_s, taken, &Scales::ONE, 0.0);
        let first = purpose(e);
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
        let quantity = g.quantity.or_else(|| rig.purpose(g.exposure));
        GoalState {
            exposure: g.exposure,
            filter: exposures[g.exposure]
                .filter
                .as_ref()
                .map_or("no filter".into(), |f| f.name.clone()),
            quantity,
            line: quantity.map(|q| campaign.scenario.target.name_of(q).to_owned()),
            snr: done_snr2.sqrt(),
            goal_snr: g.snr,
            clean_arcsec: quantity.and_then(|q| rig.goal(q).clean_arcsec(done_snr2.sqrt())),
            goal_arcsec: quantity.and_then(|q| rig.goal(q).clean_arcsec(g.snr)),
            snr_times_arcsec: quantity.and_then(|q| rig.goal(q).clean_times_snr_arcsec),
            progress: done_snr2 / (g.snr * g.snr),
            subs: shots()
                .filter(|s| campaign.is_own(s) && s.exposure == g.exposure)
                .map(|s| u64::from(s.subs))
                .sum(),
        }
    };
    campaign.goals.iter().map(state).collect()
}

/// What to shoot next, in a sentence: the goal that is furthest behind.
pub fn next_step(goals: &[GoalState]) -> String {
    let lag =
        goals.iter().filter(|g| g.progress < 1.0).min_by(|a, b| a.progress.total_cmp(&b.progress));
    let Some(g) = lag else { return "Every goal is reached: stop, or raise a goal.".to_owned() };
    let line = g.line.as_deref().unwrap_or("");
    let own = if goals.iter().filter(|o| o.exposure == g.exposure).count() > 1 {
        format!(", {line}")
    } else {
        String::new()
    };
    format!(
        "{}{own} next: it is at {:.0} % of its goal, the furthest behind.",
        g.filter,
        g.progress * 100.0
    )
}

/// When all goals may be reached, in a sentence; the dates are those of the forecast's nights,
/// where it has any.
pub fn finish(ahead: &Forecast, [ten, median, ninety]: [Option<&str>; 3]) -> String {
    match (ahead.median_nights, median) {
        (Some(0), _) => "It is finished.".to_owned(),
        (Some(_), Some(median)) => format!(
            "Likely finished by {median} ({}); eight runs in ten end between {} and {}.",
            match ahead.clear_nights.unwrap_or(0) {
                1 => "one clear night".to_owned(),
                n => format!("{n} clear nights"),
            },
            ten.unwrap_or(median),
            ninety.unwrap_or("later than a year from now")
        ),
        _ => "Not finished within a year at this share of clear nights: lower a goal, or take a \
            faster path."
            .to_owned(),
    }
}

/// Whether another campaign wants the same clear nights: the same telescope and camera at the same
/// site. A rig of its own may run beside.
pub fn wants_the_same_nights(campaign: &Campaign, other: &Campaign) -> bool {
    let rig = |c: &Campaign| {
        let path = c.scenario.contenders.get(c.contender)?;
        Some((path.optics.clone(), path.sensor.clone()))
    };
    campaign.site == other.site && rig(campaign).is_some() && rig(campaign) == rig(other)
}

/// With whom a campaign shares the clear nights, as the end of what is said of its finish; empty
/// where it has them alone.
pub fn shared_with(titles: &[&str]) -> String {
    match titles {
        [] => String::new(),
        some => format!(" It shares the clear nights with {}.", listed(some)),
    }
}

/// Why a campaign has no finish whose target is never up in the dark at its site, in a sentence.
pub fn never_up(target: &str, site: &str) -> String {
    format!(
        "{target} never stands above its limit in the dark at {site}: choose another site, or \
         another target."
    )
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_finish_is_told_as_dates_or_why_there_is_none() {
        let some = Forecast {
            ten_nights: Some(20),
            median_nights: Some(30),
            ninety_nights: Some(50),
            clear_nights: Some(9),
        };
        let dates = [Some("2027-02-01"), Some("2027-02-11"), Some("2027-03-03")];
        assert_eq!(
            finish(&some, dates),
            "Likely finished by 2027-02-11 (9 clear nights); eight runs in ten end between \
             2027-02-01 and 2027-03-03."
        );
        let half = Forecast { ninety_nights: None, ..some.clone() };
        assert!(
            finish(&half, [dates[0], dates[1], None])
                .ends_with("between 2027-02-01 and later than a year from now.")
        );
        assert_eq!(
            finish(&Forecast { median_nights: Some(0), ..some }, [None; 3]),
            "It is finished."
        );
        assert!(finish(&Forecast::default(), [None; 3]).starts_with("Not finished within a year"));
    }
}
