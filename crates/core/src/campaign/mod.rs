//! A campaign: one target over many nights, its goals, what is done, and when it will be finished.

use rand::{RngExt, SeedableRng};
use rand_pcg::Pcg64Mcg;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::ToSchema;

use crate::decide::models;
use crate::decide::split::{purpose, wanted};
use crate::light::lines::Quantity;
use crate::light::tables::Tables;
use crate::night::ephemeris::unix_midnight;
use crate::night::plan::spec::MOST_SNR2;
use crate::path::scales::Scales;
use crate::scenario::check::Checked;
use crate::scenario::document::Scenario;
use crate::scenario::field_error::FieldError;
use crate::signal::model::ExposureModel;
use crate::signal::prepare::Prepared;

/// Framing that stays the same from night to night.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CampaignFraming {
    /// Right ascension of the middle, degrees, ICRS.
    pub ra_deg: f64,
    /// Declination of the middle, degrees, ICRS.
    pub dec_deg: f64,
    /// Position angle of up, degrees from north through east.
    #[serde(default)]
    pub position_angle_deg: f64,
}

/// What one exposure must reach.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CampaignGoal {
    /// Index of the exposure in the contender.
    pub exposure: usize,
    /// The line that must reach it; null for what the exposure is for. A dual band may have a goal for each of its lines.
    #[serde(default)]
    pub quantity: Option<Quantity>,
    /// Signal to noise.
    pub snr: f64,
}

/// One exposure's share of a night that was shot.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Shot {
    /// Index of the exposure.
    pub exposure: usize,
    /// Subs that were kept.
    pub subs: u32,
    /// Square of the signal to noise that they add in what the exposure is for.
    pub snr2: f64,
    /// The same for every line that its filter records.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    #[schema(value_type = BTreeMap<String, f64>)]
    pub lines_snr2: BTreeMap<Quantity, f64>,
}

impl Shot {
    /// What it adds to a line; to what the exposure is for where none is named, or where only that was kept.
    pub fn snr2_of(&self, quantity: Option<Quantity>, purpose: Option<Quantity>) -> f64 {
        match quantity {
            Some(q) if Some(q) != purpose => self.lines_snr2.get(&q).copied().unwrap_or(0.0),
            _ => self.snr2,
        }
    }
}

/// A night that was shot, or is planned.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CampaignNight {
    /// Evening's date, such as "2027-01-10".
    pub date: String,
    /// What was shot.
    pub shots: Vec<Shot>,
    /// Free text.
    #[serde(default)]
    pub note: String,
    /// Only planned so far: it does not count towards the goals.
    #[serde(default)]
    pub planned: bool,
}

/// A campaign as it is kept.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Campaign {
    /// Free text.
    pub title: String,
    /// Target, sky and rig; of its contenders the one that is named.
    pub scenario: Scenario,
    /// Index of the contender that is used.
    pub contender: usize,
    /// Id of the site on the shelf.
    pub site: String,
    /// Framing.
    pub framing: CampaignFraming,
    /// Goals.
    pub goals: Vec<CampaignGoal>,
    /// Share of nights that are clear, 0-1.
    pub clear_share: f64,
    /// Nights that were shot.
    #[serde(default)]
    pub nights: Vec<CampaignNight>,
}

/// Most subs of one filter in one night: one a second from dusk to dawn.
const MOST_SUBS: u32 = 100_000;

/// Most nights of a campaign, and most entries of one night.
const MOST_NIGHTS: usize = 5_000;

const MOST_SHOTS: usize = 200;

/// Whether a text is a date of the calendar, year, month and day with two and four digits, from 1980 to 2090.
fn is_date(text: &str) -> bool {
    let parts: Vec<&str> = text.split('-').collect();
    let [y, m, d] = parts[..] else { return false };
    let number = |part: &str, digits: usize| {
        (part.len() == digits && part.bytes().all(|b| b.is_ascii_digit())).then(|| part.parse::<i32>().ok()).flatten()
    };
    match (number(y, 4), number(m, 2), number(d, 2)) {
        (Some(y), Some(m), Some(d)) => (1980..=2090).contains(&y) && unix_midnight(y, m, d).is_some(),
        _ => false,
    }
}

impl Campaign {
    /// Checks every field.
    ///
    /// # Errors
    /// All fields that are wrong, with what is accepted.
    pub fn check(&self) -> Result<(), Vec<FieldError>> {
        let mut errors = Vec::new();
        let mut wrong = |path: String, message: String| errors.push(FieldError { path, message });
        if self.title.trim().is_empty() || self.title.chars().count() > 200 {
            wrong("title".into(), "give a title of 1 to 200 characters".into());
        }
        if let Err(list) = self.scenario.clone().check() {
            list.into_iter().for_each(|e| wrong(format!("scenario.{}", e.path), e.message));
        }
        let exposures = self.scenario.contenders.get(self.contender).map_or(0, |c| c.exposures.len());
        if exposures == 0 {
            wrong("contender".into(), format!("there is no contender {}; count from 0", self.contender));
        }
        if !(0.0..360.0).contains(&self.framing.ra_deg) {
            wrong("framing.ra_deg".into(), "give 0 to less than 360 degrees".into());
        }
        if !(-90.0..=90.0).contains(&self.framing.dec_deg) {
            wrong("framing.dec_deg".into(), "give -90 to 90 degrees".into());
        }
        if !(-360.0..=360.0).contains(&self.framing.position_angle_deg) {
            wrong("framing.position_angle_deg".into(), "give -360 to 360 degrees".into());
        }
        if !(0.01..=1.0).contains(&self.clear_share) {
            wrong("clear_share".into(), "give 0.01 to 1: the share of nights that are clear".into());
        }
        // Without a contender there are no exposures to check against: that is told once.
        let known = |exposure: usize| exposures == 0 || exposure < exposures;
        for (i, g) in self.goals.iter().enumerate() {
            if !known(g.exposure) {
                wrong(format!("goals[{i}].exposure"), format!("there is no exposure {}; count from 0", g.exposure));
            }
            if !(0.1..=1000.0).contains(&g.snr) {
                wrong(format!("goals[{i}].snr"), "give 0.1 to 1000".into());
            }
        }
        for (i, g) in self.goals.iter().enumerate() {
            if self.goals[..i].iter().any(|o| (o.exposure, o.quantity) == (g.exposure, g.quantity)) {
                wrong(format!("goals[{i}]"), "the same exposure and line as a goal before it; give each once".into());
            }
        }
        if self.goals.is_empty() {
            wrong("goals".into(), "empty; give at least one goal".into());
        }
        if self.nights.len() > MOST_NIGHTS {
            wrong("nights".into(), format!("{} nights; give at most {MOST_NIGHTS}", self.nights.len()));
        }
        for (i, n) in self.nights.iter().enumerate().take(MOST_NIGHTS) {
            if n.shots.len() > MOST_SHOTS {
                wrong(format!("nights[{i}].shots"), format!("{} entries; give at most {MOST_SHOTS}", n.shots.len()));
            }
            if !is_date(&n.date) {
                wrong(
                    format!("nights[{i}].date"),
                    format!("\"{}\" is no date; give one such as 2027-01-10, between 1980 and 2090", n.date),
                );
            }
            for (j, s) in n.shots.iter().enumerate() {
                let at = format!("nights[{i}].shots[{j}]");
                if !known(s.exposure) {
                    wrong(format!("{at}.exposure"), format!("there is no exposure {}; count from 0", s.exposure));
                }
                if s.subs > MOST_SUBS {
                    wrong(format!("{at}.subs"), format!("{} is not accepted; give 0 to {MOST_SUBS} subs", s.subs));
                }
                for (q, v) in s.lines_snr2.iter().filter(|(_, v)| !(0.0..=MOST_SNR2).contains(*v)) {
                    wrong(format!("{at}.lines_snr2.{}", q.key()), format!("{v} is not accepted; give 0 to {MOST_SNR2:.0}"));
                }
                if !(0.0..=MOST_SNR2).contains(&s.snr2) {
                    wrong(format!("{at}.snr2"), format!("{} is not accepted; give 0 to {MOST_SNR2:.0}", s.snr2));
                }
            }
        }
        if errors.is_empty() { Ok(()) } else { Err(errors) }
    }

    /// Square of the signal to noise that a goal has; `purpose` is what its exposure is for.
    pub fn done_snr2(&self, goal: &CampaignGoal, purpose: Option<Quantity>) -> f64 {
        let shots = self.nights.iter().filter(|n| !n.planned).flat_map(|n| &n.shots);
        shots.filter(|s| s.exposure == goal.exposure).map(|s| s.snr2_of(goal.quantity, purpose)).sum()
    }
}

/// What one sub of each exposure adds under the scenario's own sky: square of the signal to noise of every line that somebody wants,
/// what the exposure is for first. For nights whose counts are typed in by hand.
pub fn snr2_per_sub(scenario: &Checked, contender: usize, tables: &Tables) -> Vec<Vec<(Quantity, f64)>> {
    let prepared = Prepared::new(scenario, tables);
    let Some(path) = models(scenario.scenario(), &prepared).into_iter().nth(contender) else { return Vec::new() };
    let wanted = wanted(&path);
    let of = |e: &ExposureModel| -> Vec<(Quantity, f64)> {
        let one = |q: Quantity| path.exposure_snr2(e, q, e.sub_s, 1.0, &Scales::ONE, 0.0);
        let first = purpose(e, &path);
        let others = wanted.iter().copied().filter(|q| Some(*q) != first && one(*q) > 0.0);
        first.into_iter().chain(others).map(|q| (q, one(q))).collect()
    };
    path.exposures.iter().map(of).collect()
}

/// Where one goal stands.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct GoalState {
    /// Index of the exposure.
    pub exposure: usize,
    /// Name of its filter.
    pub filter: String,
    /// The line that it counts; what the exposure is for where none was named.
    pub quantity: Option<Quantity>,
    /// Signal to noise so far.
    pub snr: f64,
    /// The goal.
    pub goal_snr: f64,
    /// Square of the first over the square of the second.
    pub progress: f64,
    /// Subs so far.
    pub subs: u64,
}

/// When a campaign will be finished.
#[derive(Clone, Debug, Default, PartialEq, Serialize, ToSchema)]
pub struct Forecast {
    /// Nights from now until half of the simulated runs are done; null where they are not within the nights that were given.
    pub median_nights: Option<usize>,
    /// Until nine in ten are done.
    pub ninety_nights: Option<usize>,
    /// Clear nights that the median run used.
    pub clear_nights: Option<usize>,
}

const RUNS: usize = 400;

/// Simulates nights that are clear by chance: each clear night serves the goals that lag, until all are reached.
///
/// `gathered[night][exposure]` is what a whole night gives to one exposure; on a clear night its hours go to the goals so that the
/// least-served gains most (the closed form of [`crate::decide::split::balanced_shares`] on what is missing). `exposure_of` says through which
/// exposure each goal is served: goals of one filter gain at the same time.
pub fn forecast(missing_snr2: &[f64], gathered: &[Vec<f64>], exposure_of: &[usize], clear_share: f64, seed: u64) -> Forecast {
    let exposures = exposure_of.iter().max().map_or(0, |x| x + 1);
    let mut ends: Vec<(usize, usize)> = Vec::new();
    let mut rng = Pcg64Mcg::seed_from_u64(seed);
    for _ in 0..RUNS {
        let mut left = missing_snr2.to_vec();
        let mut clear = 0;
        let done = |left: &[f64]| left.iter().all(|l| *l <= 0.0);
        let mut nights = 0;
        for rates in gathered {
            if done(&left) {
                break;
            }
            nights += 1;
            // Always drawn, so that runs differ by weather alone.
            if rng.random::<f64>() >= clear_share || rates.iter().all(|r| *r <= 0.0) {
                continue;
            }
            clear += 1;
            // Time each goal still wants of this night, and the night split in that proportion.
            let mut want = vec![0.0f64; exposures];
            for ((l, r), x) in left.iter().zip(rates).zip(exposure_of).filter(|((l, r), _)| **l > 0.0 && **r > 0.0) {
                want[*x] = want[*x].max(l / r);
            }
            let total: f64 = want.iter().sum();
            let share = if total > 1.0 { 1.0 / total } else { 1.0 };
            for ((l, r), x) in left.iter_mut().zip(rates).zip(exposure_of) {
                *l -= want[*x] * share * r + if want[*x] > 0.0 { 1e-12 } else { 0.0 };
            }
        }
        if done(&left) {
            ends.push((nights, clear));
        }
    }
    ends.sort_unstable();
    let at = |p: f64| ends.get((RUNS as f64 * p).ceil() as usize - 1).copied();
    Forecast { median_nights: at(0.5).map(|e| e.0), ninety_nights: at(0.9).map(|e| e.0), clear_nights: at(0.5).map(|e| e.1) }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn with_every_night_clear_the_end_is_exact() {
        // Two goals of 100; a night gives 40 to either: five nights for both.
        let f = forecast(&[100.0, 100.0], &vec![vec![40.0, 40.0]; 30], &[0, 1], 1.0, 1);
        assert_eq!((f.median_nights, f.ninety_nights, f.clear_nights), (Some(5), Some(5), Some(5)));
    }

    #[test]
    fn the_last_night_that_is_given_counts() {
        let five = forecast(&[100.0, 100.0], &vec![vec![40.0, 40.0]; 5], &[0, 1], 1.0, 1);
        assert_eq!(five.median_nights, Some(5));
        assert_eq!(forecast(&[100.0, 100.0], &vec![vec![40.0, 40.0]; 4], &[0, 1], 1.0, 1).median_nights, None);
        assert_eq!(forecast(&[0.0], &[], &[0], 1.0, 1).median_nights, Some(0), "nothing is missing");
    }

    #[test]
    fn a_date_is_one_of_the_calendar() {
        for good in ["2027-01-10", "2028-02-29", "1980-01-01", "2090-12-31"] {
            assert!(is_date(good), "{good}");
        }
        for bad in [
            "",
            "2027-1-10",
            "2027-02-29",
            "2027-13-01",
            "2027-00-10",
            "2027-01-32",
            "1979-12-31",
            "10.01.2027",
            "2027-01-10T20:00",
            "-027-01-10",
            "yesterday",
        ] {
            assert!(!is_date(bad), "{bad}");
        }
    }

    #[test]
    fn clouds_stretch_it_and_the_tail_is_longer() {
        let nights = vec![vec![40.0, 40.0]; 300];
        let f = forecast(&[100.0, 100.0], &nights, &[0, 1], 0.25, 7);
        let (median, ninety) = (f.median_nights.unwrap(), f.ninety_nights.unwrap());
        // Five clear nights of a quarter: about twenty.
        assert!((15..26).contains(&median) && ninety > median, "{f:?}");
        assert_eq!(f, forecast(&[100.0, 100.0], &nights, &[0, 1], 0.25, 7));
        assert_eq!(forecast(&[1e9], &nights, &[0], 0.25, 7).median_nights, None);
    }

    #[test]
    fn two_lines_of_one_filter_gain_at_the_same_time() {
        let nights = vec![vec![40.0, 20.0]; 30];
        // The slower needs five nights, whatever the faster has by then; through two filters it is seven and a half.
        assert_eq!(forecast(&[100.0, 100.0], &nights, &[0, 0], 1.0, 1).median_nights, Some(5));
        assert_eq!(forecast(&[100.0, 100.0], &nights, &[0, 1], 1.0, 1).median_nights, Some(8));
    }

    #[test]
    fn a_goal_counts_its_own_line() {
        let shot: Shot =
            serde_json::from_str(r#"{"exposure": 0, "subs": 20, "snr2": 9.0, "lines_snr2": {"ha": 9.0, "oiii": 4.0}}"#).unwrap();
        let ha = Some(Quantity::Ha);
        assert_eq!((shot.snr2_of(None, ha), shot.snr2_of(ha, ha), shot.snr2_of(Some(Quantity::Oiii), ha)), (9.0, 9.0, 4.0));
        // What was kept before there were lines counts for what the exposure is for, and for nothing else.
        let old: Shot = serde_json::from_str(r#"{"exposure": 0, "subs": 20, "snr2": 9.0}"#).unwrap();
        assert_eq!((old.snr2_of(ha, ha), old.snr2_of(Some(Quantity::Oiii), ha)), (9.0, 0.0));
    }
}
