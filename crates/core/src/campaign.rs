//! A campaign: one target over many nights, its goals, what is done, and when it will be finished.

use rand::{RngExt, SeedableRng};
use rand_pcg::Pcg64Mcg;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::check::FieldError;
use crate::light::Quantity;
use crate::night::{MOST_SNR2, unix_midnight};
use crate::scenario::Scenario;

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
    /// Signal to noise.
    pub snr: f64,
}

/// One exposure's share of a night that was shot.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Shot {
    /// Index of the exposure.
    pub exposure: usize,
    /// Subs that were kept.
    pub subs: u32,
    /// Square of the signal to noise that they add.
    pub snr2: f64,
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
                if !(0.0..=MOST_SNR2).contains(&s.snr2) {
                    wrong(format!("{at}.snr2"), format!("{} is not accepted; give 0 to {MOST_SNR2:.0}", s.snr2));
                }
            }
        }
        if errors.is_empty() { Ok(()) } else { Err(errors) }
    }

    /// Squares of the signal to noise that each exposure has.
    pub fn done_snr2(&self) -> Vec<f64> {
        let n = self.scenario.contenders.get(self.contender).map_or(0, |c| c.exposures.len());
        let mut out = vec![0.0; n];
        for s in self.nights.iter().filter(|n| !n.planned).flat_map(|n| &n.shots) {
            if let Some(sum) = out.get_mut(s.exposure) {
                *sum += s.snr2;
            }
        }
        out
    }
}

/// Where one goal stands.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct GoalState {
    /// Index of the exposure.
    pub exposure: usize,
    /// Name of its filter.
    pub filter: String,
    /// What it is for.
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
/// least-served gains most (the closed form of [`crate::decide::balanced_shares`] on what is missing).
pub fn forecast(missing_snr2: &[f64], gathered: &[Vec<f64>], clear_share: f64, seed: u64) -> Forecast {
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
            let want: Vec<f64> = left.iter().zip(rates).map(|(l, r)| if *l > 0.0 && *r > 0.0 { l / r } else { 0.0 }).collect();
            let total: f64 = want.iter().sum();
            let share = if total > 1.0 { 1.0 / total } else { 1.0 };
            left.iter_mut().zip(&want).zip(rates).for_each(|((l, w), r)| *l -= w * share * r + if *w > 0.0 { 1e-12 } else { 0.0 });
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
        let f = forecast(&[100.0, 100.0], &vec![vec![40.0, 40.0]; 30], 1.0, 1);
        assert_eq!((f.median_nights, f.ninety_nights, f.clear_nights), (Some(5), Some(5), Some(5)));
    }

    #[test]
    fn the_last_night_that_is_given_counts() {
        let five = forecast(&[100.0, 100.0], &vec![vec![40.0, 40.0]; 5], 1.0, 1);
        assert_eq!(five.median_nights, Some(5));
        assert_eq!(forecast(&[100.0, 100.0], &vec![vec![40.0, 40.0]; 4], 1.0, 1).median_nights, None);
        assert_eq!(forecast(&[0.0], &[], 1.0, 1).median_nights, Some(0), "nothing is missing");
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
        let f = forecast(&[100.0, 100.0], &nights, 0.25, 7);
        let (median, ninety) = (f.median_nights.unwrap(), f.ninety_nights.unwrap());
        // Five clear nights of a quarter: about twenty.
        assert!((15..26).contains(&median) && ninety > median, "{f:?}");
        assert_eq!(f, forecast(&[100.0, 100.0], &nights, 0.25, 7));
        assert_eq!(forecast(&[1e9], &nights, 0.25, 7).median_nights, None);
    }
}
