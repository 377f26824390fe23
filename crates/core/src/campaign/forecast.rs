//! When a campaign may be finished: nights drawn clear or cloudy, and how many it takes.

use rand::{RngExt, SeedableRng};
use rand_pcg::Pcg64Mcg;
use serde::Serialize;
use utoipa::ToSchema;

use crate::campaign::document::{Campaign, CampaignGoal};
use crate::campaign::pace::{LEAST_NIGHTS, NIGHT_LN, NIGHTS_OF_BELIEF, Pace};
use crate::light::lines::Quantity;
use crate::night::calendar::{CalendarNight, YearView};
use crate::night::rate::NightRig;

/// Where one goal stands.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct GoalState {
    /// Index of the exposure.
    pub exposure: usize,
    /// Name of its filter.
    pub filter: String,
    /// The line that it counts; what the exposure is for where none was named.
    pub quantity: Option<Quantity>,
    /// The name of that line, of this target.
    pub line: Option<String>,
    /// Signal to noise so far.
    pub snr: f64,
    /// The goal.
    pub goal_snr: f64,
    /// Side of the square of sky on which the part that the goal names is clean so far, arcsec; null
    /// for a goal of stars, or before the first sub.
    pub clean_arcsec: Option<f64>,
    /// The same when the goal is reached.
    pub goal_arcsec: Option<f64>,
    /// Signal to noise times side: a goal at another side asks for this over it. Null likewise.
    pub snr_times_arcsec: Option<f64>,
    /// Square of `snr` over the square of `goal_snr`.
    pub progress: f64,
    /// Subs so far.
    pub subs: u64,
}

/// When a campaign will be finished.
#[derive(Clone, Debug, Default, PartialEq, Serialize, ToSchema)]
pub struct Forecast {
    /// Nights from now until one in ten of the simulated runs is done; null where it is not within
    /// the nights that were given. So are those below.
    pub ten_nights: Option<usize>,
    /// Until half of them are done.
    pub median_nights: Option<usize>,
    /// Until nine in ten are done.
    pub ninety_nights: Option<usize>,
    /// Clear nights that the median run used.
    pub clear_nights: Option<usize>,
}

const RUNS: usize = 400;

/// How often nights are clear, how much a night takes after the one before it, and how much clear
/// ones differ.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct ClearNights {
    /// Share of nights that are clear, 0-1.
    pub share: f64,
    /// Correlation of a night with the next, 0-1: weather comes in runs.
    pub lag_one: f64,
    /// Standard deviation of the logarithm of what one clear night brings against the next.
    pub night_ln: f64,
    /// That of the pace which all nights have in common: how well it is known.
    pub pace_ln: f64,
}

impl ClearNights {
    /// A share of clear nights whose weather comes in runs as it usually does: a correlation of
    /// 0.35 from night to night (from memory). All bring what was planned.
    pub const fn in_runs(share: f64) -> Self {
        Self { share, lag_one: 0.35, night_ln: 0.0, pace_ln: 0.0 }
    }

    /// The same where clear nights differ, and the pace is of so many of them.
    #[must_use]
    pub fn at_a_pace_of(self, nights: usize) -> Self {
        let known = NIGHTS_OF_BELIEF + if nights < LEAST_NIGHTS { 0.0 } else { nights as f64 };
        Self { night_ln: NIGHT_LN, pace_ln: NIGHT_LN / known.sqrt(), ..self }
    }

    /// The chance that a night is clear after the one before it; `None` for the first.
    fn chance(&self, before: Option<bool>) -> f64 {
        let Self { share, lag_one, .. } = *self;
        match before {
            None => share,
            Some(true) => share + lag_one * (1.0 - share),
            Some(false) => share * (1.0 - lag_one),
        }
    }
}

/// Simulates nights that are clear by chance: each clear night serves the goals that lag, until all
/// are reached.
///
/// `gathered[night][exposure]` is what a whole night gives to one exposure; on a clear night its
/// hours go to the goals so that the least-served gains most (the closed form of
/// [`crate::decide::goals::balanced_shares`] on what is missing). `exposure_of` says through which
/// exposure each goal is served: goals of one filter gain at the same time.
pub fn forecast(
    missing_snr2: &[f64],
    gathered: &[Vec<f64>],
    exposure_of: &[usize],
    weather: ClearNights,
    seed: u64,
) -> Forecast {
    let exposures = exposure_of.iter().max().map_or(0, |x| x + 1);
    let mut ends: Vec<(usize, usize)> = Vec::new();
    let mut rng = Pcg64Mcg::seed_from_u64(seed);
    for _ in 0..RUNS {
        let mut left = missing_snr2.to_vec();
        let pace = (weather.pace_ln * normal(&mut rng)).exp();
        let mut clear = 0;
        let mut before = None;
        let done = |left: &[f64]| left.iter().all(|l| *l <= 0.0);
        let mut nights = 0;
        for rates in gathered {
            if done(&left) {
                break;
            }
            nights += 1;
            // Always drawn, so that runs differ by weather alone.
            let is_clear = rng.random::<f64>() < weather.chance(before);
            before = Some(is_clear);
            let brings = pace * (weather.night_ln * normal(&mut rng)).exp();
            if !is_clear || rates.iter().all(|r| *r <= 0.0) {
                continue;
            }
            clear += 1;
            // Time each goal still wants of this night, and the night split in that proportion.
            let mut want = vec![0.0f64; exposures];
            for ((l, r), x) in
                left.iter().zip(rates).zip(exposure_of).filter(|((l, r), _)| **l > 0.0 && **r > 0.0)
            {
                want[*x] = want[*x].max(l / (r * brings));
            }
            let total: f64 = want.iter().sum();
            let share = if total > 1.0 { 1.0 / total } else { 1.0 };
            for ((l, r), x) in left.iter_mut().zip(rates).zip(exposure_of) {
                *l -= want[*x] * share * r * brings + if want[*x] > 0.0 { 1e-12 } else { 0.0 };
            }
        }
        if done(&left) {
            ends.push((nights, clear));
        }
    }
    ends.sort_unstable();
    let at = |p: f64| ends.get((RUNS as f64 * p).ceil() as usize - 1).copied();
    Forecast {
        ten_nights: at(0.1).map(|e| e.0),
        median_nights: at(0.5).map(|e| e.0),
        ninety_nights: at(0.9).map(|e| e.0),
        clear_nights: at(0.5).map(|e| e.1),
    }
}

/// A standard normal deviate (Box and Muller 1958).
fn normal(rng: &mut Pcg64Mcg) -> f64 {
    let [u, v]: [f64; 2] = [1.0 - rng.random::<f64>(), rng.random()];
    (-2.0 * u.ln()).sqrt() * (std::f64::consts::TAU * v).cos()
}

/// Share of a night's light that is left when focusing, flips and dithering have taken theirs
/// (common practice, no source).
const LEFT_BY_OVERHEADS: f64 = 0.9;

/// When a campaign may be finished: what each goal still lacks against what the nights ahead give, at
/// the pace that its nights really had through each exposure; as planned where `paces` says nothing.
pub fn forecast_of(
    campaign: &Campaign,
    goals: &[GoalState],
    (rig, paces): (&NightRig, &[Pace]),
    ahead: &YearView,
) -> Forecast {
    let missing: Vec<f64> =
        goals.iter().map(|g| (g.goal_snr * g.goal_snr - g.snr * g.snr).max(0.0)).collect();
    let exposure_of: Vec<usize> = goals.iter().map(|g| g.exposure).collect();
    let line = |g: &CampaignGoal| {
        g.quantity.and_then(|q| rig.lines(g.exposure).iter().position(|l| *l == q)).unwrap_or(0)
    };
    let of = |n: &CalendarNight| {
        let one = |g: &CampaignGoal| {
            let pace = paces.get(g.exposure).map_or(1.0, |p| p.ratio);
            pace * LEFT_BY_OVERHEADS * n.lines[g.exposure].get(line(g)).copied().unwrap_or(0.0)
        };
        campaign.goals.iter().map(one).collect()
    };
    let gathered: Vec<Vec<f64>> = ahead.nights.iter().map(of).collect();
    let nights = paces.iter().map(|p| p.nights).max().unwrap_or(0);
    let weather = ClearNights::in_runs(campaign.clear_share).at_a_pace_of(nights);
    forecast(&missing, &gathered, &exposure_of, weather, 1)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::campaign::document::Shot;

    const CLEAR: ClearNights = ClearNights::in_runs(1.0);
    const FOURTH: ClearNights = ClearNights { lag_one: 0.0, ..ClearNights::in_runs(0.25) };

    /// Weather in runs has the same share of clear nights, the correlation that was asked for, and
    /// a later end in one run of ten.
    #[test]
    fn weather_that_comes_in_runs_ends_later() {
        let mut rng = Pcg64Mcg::seed_from_u64(3);
        let weather = ClearNights::in_runs(0.3);
        let mut before = None;
        let nights: Vec<f64> = (0..40_000)
            .map(|_| {
                let is_clear = rng.random::<f64>() < weather.chance(before);
                before = Some(is_clear);
                f64::from(u8::from(is_clear))
            })
            .collect();
        let n = nights.len() as f64;
        let mean = nights.iter().sum::<f64>() / n;
        let variance = mean * (1.0 - mean);
        let next: f64 = nights.windows(2).map(|w| (w[0] - mean) * (w[1] - mean)).sum();
        // 40 000 nights: a share is known to half a hundredth, a correlation likewise.
        assert!((mean - 0.3).abs() < 0.015, "{mean}");
        assert!((next / n / variance - 0.35).abs() < 0.03, "{}", next / n / variance);
        let nights = vec![vec![40.0]; 365];
        let of = |weather| forecast(&[400.0], &nights, &[0], weather, 1).ninety_nights;
        let alone = ClearNights { lag_one: 0.0, ..weather };
        assert!(of(weather).unwrap() > of(alone).unwrap() + 3, "{:?}", (of(weather), of(alone)));
    }

    #[test]
    fn with_every_night_clear_the_end_is_exact() {
        // Two goals of 100; a night gives 40 to either: five nights for both.
        let f = forecast(&[100.0, 100.0], &vec![vec![40.0, 40.0]; 30], &[0, 1], CLEAR, 1);
        assert_eq!((f.median_nights, f.ninety_nights, f.clear_nights), (Some(5), Some(5), Some(5)));
    }

    #[test]
    fn the_last_night_that_is_given_counts() {
        let five = forecast(&[100.0, 100.0], &vec![vec![40.0, 40.0]; 5], &[0, 1], CLEAR, 1);
        assert_eq!(five.median_nights, Some(5));
        assert_eq!(
            forecast(&[100.0, 100.0], &vec![vec![40.0, 40.0]; 4], &[0, 1], CLEAR, 1).median_nights,
            None
        );
        assert_eq!(
            forecast(&[0.0], &[], &[0], CLEAR, 1).median_nights,
            Some(0),
            "nothing is missing"
        );
    }

    #[test]
    fn clouds_stretch_it_and_the_tail_is_longer() {
        let nights = vec![vec![40.0, 40.0]; 300];
        let f = forecast(&[100.0, 100.0], &nights, &[0, 1], FOURTH, 7);
        let (median, ninety) = (f.median_nights.unwrap(), f.ninety_nights.unwrap());
        // Five clear nights of a quarter: about twenty.
        assert!((15..26).contains(&median) && ninety > median, "{f:?}");
        assert_eq!(f, forecast(&[100.0, 100.0], &nights, &[0, 1], FOURTH, 7));
        assert_eq!(forecast(&[1e9], &nights, &[0], FOURTH, 7).median_nights, None);
    }

    #[test]
    fn two_lines_of_one_filter_gain_at_the_same_time() {
        let nights = vec![vec![40.0, 20.0]; 30];
        // The slower needs five nights, whatever the faster has by then; through two filters it is
        // seven and a half.
        assert_eq!(forecast(&[100.0, 100.0], &nights, &[0, 0], CLEAR, 1).median_nights, Some(5));
        assert_eq!(forecast(&[100.0, 100.0], &nights, &[0, 1], CLEAR, 1).median_nights, Some(8));
    }

    #[test]
    fn a_goal_counts_its_own_line() {
        let shot: Shot = serde_json::from_str(
            r#"{"exposure": 0, "subs": 20, "snr2": 9.0, "lines_snr2": {"ha": 9.0, "oiii": 4.0}}"#,
        )
        .unwrap();
        let ha = Some(Quantity::Ha);
        assert_eq!(
            (shot.snr2_of(None, ha), shot.snr2_of(ha, ha), shot.snr2_of(Some(Quantity::Oiii), ha)),
            (9.0, 9.0, 4.0)
        );
        // What was kept before there were lines counts for what the exposure is for, and for
        // nothing else.
        let old: Shot =
            serde_json::from_str(r#"{"exposure": 0, "subs": 20, "snr2": 9.0}"#).unwrap();
        assert_eq!((old.snr2_of(ha, ha), old.snr2_of(Some(Quantity::Oiii), ha)), (9.0, 0.0));
    }
}
