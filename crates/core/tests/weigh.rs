//! A campaign over a lunation: what its nights are given, weighed against those to come, comes near
//! what a linear program gives that knows the whole month and its weather beforehand.

use crate::common::{bands, read, tables, through};
use microlp::{ComparisonOp, OptimizationDirection, Problem, Variable};
use rand::{RngExt, SeedableRng};
use rand_pcg::Pcg64Mcg;
use salt_lamp_core::campaign::{Need, waits_for, weighed};
use salt_lamp_core::night::{
    Direction, LocalClock, MonthNight, NightPart, NightRig, NightView, Place, PlanSpec, month_view,
    night_view, plan_night, unix_midnight,
};
use salt_lamp_core::scenario::NightLimits;

/// A dark site: there the moon costs most.
const HERON_LAKE: Place = Place { latitude_deg: 46.95, longitude_deg: -73.55, height_m: 310.0 };
/// A target that the moon passes closely.
const IC_443: Direction = Direction { ra_deg: 94.3, dec_deg: 22.5 };
const DAY_S: f64 = 86_400.0;

/// Nights of a lunation, and nights that are weighed.
const LUNATION: usize = 30;

/// Minutes of a night that the bound takes as one.
const STEP: usize = 20;

/// Share of the nights that are clear, and how much a night takes after the one before it.
const CLEAR: f64 = 0.5;
const RUNS: f64 = 0.35;

fn rig() -> (NightRig, Vec<String>) {
    let mut s = read("larch-lane-ngc-7822");
    s.sky.zenith_v_mag = 20.5;
    let lines = [("H-alpha", 3.0, 656.3), ("[O III]", 7.0, 500.7), ("[S II]", 3.0, 672.0)];
    let filters = lines.map(|(name, fwhm, nm)| Some(bands(name, fwhm, &[nm]))).to_vec();
    s.contenders[1] = through(&s.contenders[1], filters, 300.0);
    let s = s.check().expect("accepted");
    let rig = NightRig::new(&s, 1, &tables()).expect("a rig");
    let name = |e: &salt_lamp_core::scenario::Exposure| {
        e.filter.as_ref().map_or("none".to_owned(), |f| f.name.clone())
    };
    (rig, s.scenario().contenders[1].exposures.iter().map(name).collect())
}

/// The month as it comes: its noons, its nights minute by minute, and which are clear.
struct Month {
    noons: Vec<f64>,
    views: Vec<NightView>,
    clear: Vec<bool>,
}

impl Month {
    fn random(rng: &mut Pcg64Mcg, rig: &NightRig) -> Self {
        let first = unix_midnight(2026, 9, 1).expect("a date") + 17.0 * 3600.0;
        let begins = first + f64::from(rng.random_range(30..150)) * DAY_S;
        let noons: Vec<f64> = (0..LUNATION).map(|i| begins + i as f64 * DAY_S).collect();
        let limits = NightLimits::default();
        let views = noons
            .iter()
            .map(|&n| night_view(HERON_LAKE, n, n + DAY_S, IC_443, &limits, Some(rig)))
            .collect::<Result<_, _>>()
            .expect("sun and moon");
        let mut clear = vec![rng.random_bool(CLEAR)];
        for i in 1..LUNATION {
            let chance =
                if clear[i - 1] { CLEAR + RUNS * (1.0 - CLEAR) } else { CLEAR * (1.0 - RUNS) };
            clear.push(rng.random_bool(chance));
        }
        Self { noons, views, clear }
    }

    /// (Signal to noise)^2 that a night gives to an exposure, in pieces of [`STEP`] minutes.
    fn pieces(&self, night: usize, exposure: usize) -> Vec<f64> {
        let samples = &self.views[night].samples;
        let piece = |c: &[salt_lamp_core::night::NightSample]| {
            c.iter().map(|s| s.information_per_h[exposure] / 60.0).sum::<f64>()
        };
        samples.chunks(STEP).map(piece).collect()
    }

    /// The fewest of the clear nights in which every goal can be reached, knowing them all.
    fn bound(&self, goals: &[f64]) -> Option<usize> {
        let nights: Vec<usize> = (0..LUNATION).filter(|&i| self.clear[i]).collect();
        (1..=nights.len()).find(|&k| self.reaches(goals, &nights[..k]))
    }

    fn reaches(&self, goals: &[f64], nights: &[usize]) -> bool {
        let mut problem = Problem::new(OptimizationDirection::Maximize);
        let level = problem.add_var(1.0, (0.0, 2.0));
        let mut rows: Vec<Vec<(Variable, f64)>> = vec![vec![(level, -1.0)]; goals.len()];
        for &night in nights {
            let each: Vec<Vec<f64>> = (0..goals.len()).map(|x| self.pieces(night, x)).collect();
            for p in (0..each[0].len()).filter(|&p| each.iter().any(|e| e[p] > 0.0)) {
                let shares: Vec<Variable> =
                    goals.iter().map(|_| problem.add_var(0.0, (0.0, 1.0))).collect();
                for (x, goal) in goals.iter().enumerate() {
                    rows[x].push((shares[x], each[x][p] / goal));
                }
                let sum: Vec<(Variable, f64)> = shares.into_iter().map(|v| (v, 1.0)).collect();
                problem.add_constraint(sum, ComparisonOp::Le, 1.0);
            }
        }
        for row in rows {
            problem.add_constraint(row, ComparisonOp::Ge, 0.0);
        }
        let solved = problem.solve().expect("feasible").into_solution().expect("no limit is set");
        solved[level] >= 1.0
    }

    /// Clear nights that a campaign takes which plans each evening without knowing the weather;
    /// `weigh` weighs it against the nights to come.
    fn taken(&self, rig: &NightRig, names: &[String], goals: &[f64], weigh: bool) -> Option<usize> {
        let mut done = vec![0.0; goals.len()];
        let mut count = 0;
        for i in (0..LUNATION).filter(|&i| self.clear[i]) {
            let mut spec = PlanSpec {
                goal_snr: goals.iter().map(|g| g.sqrt()).collect(),
                done_snr2: done.clone(),
                ..PlanSpec::default()
            };
            if weigh {
                let ahead: Vec<f64> =
                    (0..30).map(|k| self.noons[i] + f64::from(k) * DAY_S).collect();
                let limits = NightLimits::default();
                let nights = month_view(HERON_LAKE, &ahead, IC_443, &limits, rig).expect("a sky");
                let need = |x: usize| Need {
                    exposure: x,
                    line: 0,
                    done_snr2: done[x],
                    goal_snr2: goals[x],
                };
                let needs: Vec<Need> =
                    (0..goals.len()).filter(|&x| done[x] < goals[x]).map(need).collect();
                spec.aims_snr2 = weighed(&needs, &nights, CLEAR).unwrap_or_default();
            }
            let plan = plan_night(rig, names, &self.views[i], &spec, &LocalClock::default());
            count += usize::from(!plan.blocks.is_empty());
            plan.blocks.iter().for_each(|b| done[b.exposure] += b.snr2);
            if done.iter().zip(goals).all(|(d, g)| d >= g) {
                return Some(count);
            }
        }
        None
    }
}

/// In at most one night more than the program that knows everything, in 45 months of 50.
#[test]
fn a_campaign_over_a_lunation_comes_near_what_perfect_foresight_gives() {
    let (rig, names) = rig();
    let mut rng = Pcg64Mcg::seed_from_u64(1818);
    let (mut near, mut judged, mut plain_near) = (0, 0, 0);
    let mut said = Vec::new();
    while judged < 50 {
        let month = Month::random(&mut rng, &rig);
        // Each filter wants so many whole nights of the month's mean.
        let goals: Vec<f64> = (0..3)
            .map(|x| {
                let all: f64 = (0..LUNATION).flat_map(|i| month.pieces(i, x)).sum();
                all / LUNATION as f64 * rng.random_range(0.4..2.2)
            })
            .collect();
        let Some(bound) = month.bound(&goals) else { continue };
        judged += 1;
        let taken = month.taken(&rig, &names, &goals, true);
        let plain = month.taken(&rig, &names, &goals, false);
        near += usize::from(taken.is_some_and(|t| t <= bound + 1));
        plain_near += usize::from(plain.is_some_and(|t| t <= bound + 1));
        said.push((bound, taken, plain));
    }
    assert!(near >= 45, "{near} of 50 (unweighed {plain_near}): {said:?}");
    let nights = |all: Vec<Option<usize>>| all.into_iter().map(|n| n.unwrap_or(LUNATION)).sum();
    let (weighed, plain): (usize, usize) =
        (nights(said.iter().map(|s| s.1).collect()), nights(said.iter().map(|s| s.2).collect()));
    // Three lines that the moon hurts alike gain little by waiting; they must not lose.
    assert!(weighed <= plain, "{weighed} nights, and {plain} without weighing");
}

/// [O III] does not get a night beside the moon when a dark week follows, and says so.
#[test]
fn oxygen_waits_for_the_dark_week() {
    let (rig, names) = rig();
    // Full moon of 24 December 2026; new moon of 7 January.
    let noon = unix_midnight(2026, 12, 24).expect("a date") + 17.0 * 3600.0;
    let noons: Vec<f64> = (0..30).map(|i| noon + f64::from(i) * DAY_S).collect();
    let limits = NightLimits::default();
    let nights = month_view(HERON_LAKE, &noons, IC_443, &limits, &rig).expect("a sky");
    let oiii = names.iter().position(|n| n.contains("O III")).expect("[O III]");
    let goal = |x: usize| {
        let all: f64 = nights.iter().flat_map(|n| &n.parts).map(|p| p.hours * p.per_h[x][0]).sum();
        Need { exposure: x, line: 0, done_snr2: 0.0, goal_snr2: all / 15.0 }
    };
    let needs: Vec<Need> = (0..3).map(goal).collect();
    let w = weighed(&needs, &nights, 0.4).expect("weighed");
    assert_eq!(w[oiii], 0.0, "{w:?}");
    assert!(w.iter().any(|a| *a > 0.0), "{w:?}");
    let view = night_view(HERON_LAKE, noon, noon + DAY_S, IC_443, &limits, Some(&rig));
    let spec = PlanSpec { aims_snr2: w, ..PlanSpec::default() };
    let plan = plan_night(&rig, &names, &view.expect("a sky"), &spec, &LocalClock::default());
    assert!(!plan.blocks.is_empty() && plan.blocks.iter().all(|b| b.exposure != oiii));
    let dates: Vec<String> = (0..30).map(|i| format!("night {i}")).collect();
    let why = waits_for(oiii, "[O III]", &nights, &dates).expect("it waits");
    assert!(why.starts_with("[O III] waits for darker nights: an hour on night "), "{why}");
    // Where nothing else is left to do, it does not wait.
    let alone = weighed(&needs[oiii..=oiii], &nights, 0.4).expect("weighed");
    assert!(alone[oiii] > 0.0, "{alone:?}");
    // In the dark week nothing waits for later.
    assert_eq!(waits_for(oiii, "[O III]", &nights[14..], &dates), None);
}

/// A filter that is for nothing on this target has no part in the weighing, and stops nobody.
#[test]
fn a_filter_for_nothing_is_passed_over() {
    let part = |ha: f64| NightPart { hours: 6.0, per_h: vec![vec![ha], Vec::new()] };
    let nights: Vec<MonthNight> =
        [8.0, 9.0, 9.0].map(|ha| MonthNight { parts: vec![part(ha)] }).to_vec();
    let need = |exposure| Need { exposure, line: 0, done_snr2: 10.0, goal_snr2: 100.0 };
    let w = weighed(&[need(0)], &nights, 0.5).expect("weighed");
    assert!(w[0] > 0.0, "{w:?}");
    // A goal that nothing serves holds up no other.
    assert_eq!(weighed(&[need(0), need(1)], &nights, 0.5).expect("weighed"), w);
    assert_eq!(weighed(&[need(1)], &nights, 0.5), None);
    assert_eq!(weighed(&[], &nights, 0.5), None);
    assert_eq!(weighed(&[need(0)], &[], 0.5), None);
    assert_eq!(waits_for(1, "no filter", &nights, &[]), None);
}

/// Beside the moon H-alpha keeps a third of its light and [O III] an eighth: H-alpha has the night
/// though it is nearly done and might come on any other; only where it has less than an hour to do
/// is the night left to [O III].
#[test]
fn beside_the_moon_what_it_hurts_least_comes_first() {
    let night = |ha: f64, oiii: f64| MonthNight {
        parts: vec![NightPart { hours: 10.0, per_h: vec![vec![ha], vec![oiii]] }],
    };
    let mut nights = vec![night(3.0, 1.0); 1];
    nights.extend(vec![night(9.0, 8.0); 12]);
    let need = |exposure, missing| Need {
        exposure,
        line: 0,
        done_snr2: 1000.0 - missing,
        goal_snr2: 1000.0,
    };
    let w = weighed(&[need(0, 8.0), need(1, 400.0)], &nights, 0.3).expect("weighed");
    assert!(w[0] > 0.0 && w[1] == 0.0, "{w:?}");
    let w = weighed(&[need(0, 2.0), need(1, 400.0)], &nights, 0.3).expect("weighed");
    assert!(w[1] > 0.0, "{w:?}");
}
