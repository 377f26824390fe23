//! Total time: how a budget is split between the exposures of a path, what calibration wants, and
//! what could be added.

use serde::Serialize;
use utoipa::ToSchema;

use crate::decide::calibration::{CalibrationFrames, calibration};
use crate::decide::goals::{Want, gains, goals, progresses, purpose, shares_for};
use crate::decide::uncertainty::draws::{PathDraws, Range, between};
use crate::light::lines::Quantity;
use crate::path::scales::Scales;
use crate::scenario::choices::SplitMode;
use crate::scenario::document::Scenario;
use crate::scenario::rig::Contender;
use crate::signal::aim::clean_arcsec;
use crate::signal::model::{ExposureModel, LightPath};
use crate::signal::stack::{MOST_CLOCK_S, subs_in, time_to_goal_s};
use crate::wording::clock;

/// One exposure's part of the budget.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct SplitPart {
    /// Name of the filter; null for none.
    pub filter: Option<String>,
    /// What the exposure is for; null where it records nothing of the target.
    pub quantity: Option<Quantity>,
    /// Its share of the clock.
    pub share: f64,
    /// The range of the share that this mode of splitting would give it.
    pub share_range: Range,
    /// Its time on the clock, s.
    pub clock_s: f64,
    /// Its subs.
    pub subs: u32,
    /// Signal to noise of its quantity from the whole path; of its own continuum where several
    /// filters make colours.
    pub snr: f64,
    /// Side of the square on which the part that its goal names comes clean, arcsec; null where
    /// nothing is gathered, or for a goal of stars.
    pub clean_arcsec: Option<f64>,
    /// Its range with the split as it is.
    pub snr_range: Range,
    /// Everything that its filter records, what it is for first.
    pub served: Vec<Served>,
}

/// A quantity that an exposure serves.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Served {
    /// What.
    pub quantity: Quantity,
    /// Its signal to noise from the whole path with this split; of its own continuum where several
    /// filters make colours.
    pub snr: f64,
    /// The signal to noise at which its goal is met.
    pub goal_snr: f64,
    /// Side of the square on which the part that its goal names comes clean with this split,
    /// arcsec; null where nothing is gathered, or for a goal of stars.
    pub clean_arcsec: Option<f64>,
    /// Its range.
    pub snr_range: Range,
    /// Whether the split must serve it; false for a by-product that nobody waits for.
    pub wanted: bool,
}

/// The decision on total time.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct TimeDecision {
    /// How it was split.
    pub mode: SplitMode,
    /// The parts by the chosen mode.
    pub parts: Vec<SplitPart>,
    /// The same by equal signal to noise, whatever the mode: what balance would take.
    pub balanced: Vec<SplitPart>,
    /// Time for every quantity to reach the goal with the best split, s; null where one is out of
    /// reach.
    pub all_reach_goal_s: Option<f64>,
    /// Its range, the split decided beforehand; null where more than one draw in ten does not reach
    /// it.
    pub all_reach_goal_range_s: Option<Range>,
    /// Calibration frames.
    pub calibration: CalibrationFrames,
    /// The answer in a sentence.
    pub text: String,
    /// The formulas behind it with their numbers.
    pub reasons: Vec<String>,
}

/// One way of splitting, with what it gives in every draw.
struct Outcome {
    shares: Vec<f64>,
    share_ranges: Vec<Range>,
    snrs: Vec<f64>,
    /// The part of each goal that the clock brings.
    progress: Vec<f64>,
    snr_ranges: Vec<Range>,
    slowest_s: Option<f64>,
    slowest_range_s: Option<Range>,
}

/// What is asked of a split.
struct Question<'a> {
    s: &'a Scenario,
    contender: &'a Contender,
    path: &'a LightPath,
    /// What must be served, then by-products.
    goals: Vec<Want>,
    /// How many must be served.
    wanted: usize,
}

/// Rounds in which a split settles where frames are not dithered.
const ROUNDS: usize = 24;

impl Question<'_> {
    /// Shares by a mode in one draw, from what each exposure gives to each goal.
    fn shares(
        &self,
        mode: SplitMode,
        gains: &[Vec<f64>],
        scales: &Scales,
        centres: &[f64],
    ) -> Vec<f64> {
        let goals = &self.goals[..self.wanted];
        let of = |gains: &[Vec<f64>]| {
            let asked: Vec<Vec<f64>> =
                gains.iter().map(|row| row[..self.wanted].to_vec()).collect();
            shares_for(
                self.path,
                self.contender,
                goals,
                &asked,
                mode,
                self.s.choices.luminance_ratio,
            )
        };
        let mut shares = of(gains);
        let moves = matches!(mode, SplitMode::EqualSnr | SplitMode::Weighted);
        if self.path.instrument.calibration.dithered || !moves {
            return shares;
        }
        // Noise that calibration leaves in every frame alike does not average out: the squares grow
        // ever more slowly with time. What a second is worth hangs on how many there are, so the
        // split is asked again at its own answer until it settles.
        for _ in 0..ROUNDS {
            let there = self.gains_after(&shares, gains, scales, centres);
            let next = of(&there);
            shares.iter_mut().zip(next).for_each(|(a, b)| *a = 0.5 * (*a + b));
        }
        shares
    }

    /// gains[i][k] as a mean over the time that each exposure has.
    fn gains_after(
        &self,
        shares: &[f64],
        at_first: &[Vec<f64>],
        scales: &Scales,
        centres: &[f64],
    ) -> Vec<Vec<f64>> {
        let of = |(i, e): (usize, &ExposureModel)| -> Vec<f64> {
            let clock_s = self.path.clock_s * shares[i];
            if clock_s < 1.0 {
                return at_first[i].clone();
            }
            let (subs, centre) = (
                clock_s / (e.sub_s + self.path.instrument.between_s),
                centres.get(i).copied().unwrap_or(0.0),
            );
            let one = |g: &Want| g.progress2(self.path, i, subs, scales, centre) / clock_s;
            self.goals.iter().map(one).collect()
        };
        self.path.exposures.iter().enumerate().map(of).collect()
    }
}

impl Question<'_> {
    /// Signal to noise of the mean in every goal with the path's clock split as `shares`: out of the
    /// progress where the goal is one of the mean.
    fn snrs(
        &self,
        gains: &[Vec<f64>],
        shares: &[f64],
        scales: &Scales,
        centres: &[f64],
    ) -> Vec<f64> {
        let (path, clock_s) = (self.path, self.path.clock_s);
        let progress = progresses(path, &self.goals, gains, (clock_s, shares), scales, centres);
        let of = |(g, progress): (&Want, f64)| {
            let aim = &path.aims[g.quantity];
            if aim.goal.star_v_mag.is_none() && aim.part.of(g.quantity) == 1.0 {
                progress * aim.snr
            } else {
                g.snr(path, clock_s, shares, scales, centres)
            }
        };
        self.goals.iter().zip(progress).map(of).collect()
    }
}

fn outcome(q: &Question, mode: SplitMode, draws: PathDraws) -> Outcome {
    let Question { path, goals, .. } = q;
    let nominal = gains(path, goals, &Scales::ONE, &[]);
    let shares = q.shares(mode, &nominal, &Scales::ONE, &[]);
    let slowest = |gains: &[Vec<f64>], scales: &Scales, centres: &[f64]| -> Option<f64> {
        if path.instrument.calibration.dithered {
            let least = progresses(path, goals, gains, (1.0, &shares), scales, centres)
                .into_iter()
                .take(q.wanted)
                .fold(f64::INFINITY, f64::min);
            return (least > 0.0).then(|| (1.0 / least).powi(2)).filter(|t| *t <= MOST_CLOCK_S);
        }
        let each = goals
            .iter()
            .take(q.wanted)
            .map(|g| time_to_goal_s(1.0, |t| g.progress(path, t, &shares, scales, centres)));
        each.into_iter().try_fold(0.0f64, |most, t| Some(most.max(t?)))
    };
    let moves =
        matches!(mode, SplitMode::EqualSnr | SplitMode::Weighted) && path.exposures.len() > 1;
    let (mut all_shares, mut all_snrs, mut times) = (Vec::new(), Vec::new(), Vec::new());
    for (scales, centres) in draws.iter() {
        let drawn = gains(path, goals, scales, centres);
        all_snrs.push(q.snrs(&drawn, &shares, scales, centres));
        times.push(slowest(&drawn, scales, centres).unwrap_or(f64::INFINITY));
        if moves {
            all_shares.push(q.shares(mode, &drawn, scales, centres));
        }
    }
    let column = |rows: &[Vec<f64>], i: usize| Range::of(rows.iter().map(|row| row[i]).collect());
    let reached = times.iter().filter(|t| t.is_finite()).count() * 10 >= times.len() * 9;
    Outcome {
        share_ranges: (0..shares.len())
            .map(|i| column(&all_shares, i).unwrap_or(Range::of_three([shares[i]; 3])))
            .collect(),
        snrs: q.snrs(&nominal, &shares, &Scales::ONE, &[]),
        progress: progresses(path, goals, &nominal, (path.clock_s, &shares), &Scales::ONE, &[]),
        snr_ranges: (0..goals.len()).filter_map(|k| column(&all_snrs, k)).collect(),
        slowest_s: slowest(&nominal, &Scales::ONE, &[]),
        slowest_range_s: Range::of(times).filter(|_| reached),
        shares,
    }
}

fn parts(q: &Question, out: &Outcome) -> Vec<SplitPart> {
    let Question { contender, path, goals, .. } = q;
    let clean = |g: &Want, progress: f64| {
        let aim = &path.aims[g.quantity];
        aim.goal.star_v_mag.is_none().then_some(())?;
        let square_arcsec = path.instrument.square_arcsec;
        clean_arcsec(progress * aim.snr, square_arcsec, path.finest_arcsec(g.quantity))
    };
    let goal_snr = |g: &Want| path.mean_snr_at_goal(g.quantity);
    let part = |(i, e): (usize, &ExposureModel)| {
        let quantity = purpose(e);
        let clock_s = path.clock_s * out.shares[i];
        let records = |g: &Want| {
            g.alone.map_or_else(|| e.channels.iter().any(|c| c.records[g.quantity]), |own| own == i)
        };
        let mut served: Vec<Served> = goals
            .iter()
            .enumerate()
            .filter(|(_, g)| records(g))
            .map(|(k, g)| Served {
                quantity: g.quantity,
                snr: out.snrs[k],
                goal_snr: goal_snr(g),
                clean_arcsec: clean(g, out.progress[k]),
                snr_range: out.snr_ranges[k],
                wanted: k < q.wanted,
            })
            .collect();
        served.sort_by_key(|v| (Some(v.quantity) != quantity, !v.wanted));
        let own = served.iter().find(|v| Some(v.quantity) == quantity);
        SplitPart {
            filter: contender.exposures[i].filter.as_ref().map(|f| f.name.clone()),
            quantity,
            share: out.shares[i],
            share_range: out.share_ranges[i],
            clock_s,
            subs: subs_in(clock_s, e.sub_s, path.instrument.between_s) as u32,
            snr: own.map_or(0.0, |v| v.snr),
            clean_arcsec: own.and_then(|v| v.clean_arcsec),
            snr_range: own.map_or(Range::of_three([0.0; 3]), |v| v.snr_range),
            served,
        }
    };
    path.exposures.iter().enumerate().map(part).collect()
}

/// Times closer than this are the same: a split is said to be the fastest only where it is, to what
/// a screen can show.
const SAME_TIME: f64 = 1.005;

/// The answer in a sentence: when all goals are reached as the clock is split, and whether another
/// split is faster.
fn words(q: &Question, chosen: &Outcome, fair: &Outcome) -> String {
    let (s, path) = (q.s, q.path);
    let all = if s.goals.is_empty() {
        format!("all reach SNR {}", s.goal_snr)
    } else {
        "every goal is met".to_owned()
    };
    let even = if s.goals.is_empty() { "evenly in SNR" } else { "so that all are met together" };
    let told = |o: &Outcome, t: f64| {
        let range = o
            .slowest_range_s
            .filter(Range::is_open)
            .map_or(String::new(), |r| format!(" ({})", between(&r)));
        format!("{}{range}", clock(t))
    };
    let unserved = |o: &Outcome| {
        let k = (0..q.wanted).find(|&k| o.snrs[k] <= 0.0)?;
        Some(q.s.target.name_of(q.goals[k].quantity))
    };
    match (path.exposures.len(), chosen.slowest_s, fair.slowest_s) {
        (_, None, None) => "one of its quantities is out of reach".to_owned(),
        (1, Some(t), _) if s.goals.is_empty() => {
            format!("all it is for reaches SNR {} in {}", s.goal_snr, told(chosen, t))
        }
        (1, Some(t), _) => format!("{all} in {}", told(chosen, t)),
        (_, None, Some(best)) => {
            let why = unserved(chosen).map_or_else(
                || "one of its quantities is never there".to_owned(),
                |l| format!("{l} gets no time"),
            );
            format!("as the clock is split, {why}; split {even}, {all} in {}", told(fair, best))
        }
        (_, Some(yours), Some(best)) if yours > SAME_TIME * best => {
            format!("{all} in {}; split {even} it takes {}", told(chosen, yours), told(fair, best))
        }
        // What is not dithered is split for the time that is given, not for the goal's: nothing is
        // claimed then.
        (_, Some(yours), _) if path.instrument.calibration.dithered => {
            format!("{all} in {}, and no other split is faster", told(chosen, yours))
        }
        (_, Some(yours), _) => format!("{all} in {}", told(chosen, yours)),
    }
}

/// Decides the total time of one contender.
pub fn decide_time(
    s: &Scenario,
    contender: &Contender,
    path: &LightPath,
    draws: PathDraws,
) -> TimeDecision {
    let mode = s.choices.split;
    let (goals, wanted) = goals(path);
    let q = Question { s, contender, path, goals, wanted };
    let fair = outcome(&q, SplitMode::EqualSnr, draws);
    let other = (mode != SplitMode::EqualSnr).then(|| outcome(&q, mode, draws));
    let chosen = other.as_ref().unwrap_or(&fair);
    let split_reason = |(i, e): (usize, &ExposureModel)| {
        let q = purpose(e);
        let per_h = q.map_or(0.0, |q| {
            e.snr2(q, e.sub_s, 3600.0 / (e.sub_s + path.instrument.between_s), &Scales::ONE, 0.0)
        });
        let r = fair.share_ranges[i];
        let open = if r.is_open() {
            format!(" ({})", between(&r.map(|x| x * path.clock_s)))
        } else {
            String::new()
        };
        format!(
            "{}: SNR² grows by {per_h:.1} per hour of its own clock, so its fair part (1/rate) of \
                {} is {}{open}.",
            q.map_or("nothing", Quantity::label),
            clock(path.clock_s),
            clock(fair.shares[i] * path.clock_s)
        )
    };
    TimeDecision {
        mode,
        parts: parts(&q, chosen),
        balanced: parts(&q, &fair),
        all_reach_goal_s: fair.slowest_s,
        all_reach_goal_range_s: fair.slowest_range_s,
        calibration: calibration(s, path, draws),
        text: words(&q, chosen, &fair),
        reasons: path.exposures.iter().enumerate().map(split_reason).collect(),
    }
}
