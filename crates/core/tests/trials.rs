//! Seeded nights whose truth is known: how often a trial cries wolf, how often its interval holds
//! the truth, and how often it sees what it was planned for.

use std::collections::BTreeMap;

use rand::{RngExt, SeedableRng};
use rand_pcg::Pcg64Mcg;
use salt_lamp_core::trial::{
    Covariate, Judged, SlotTimes, Treatment, TrialFrame, TrialQuestion, analysed, blocks,
    pairs_needed, power, run_sheet,
};

use crate::common::{number, reference};

/// Nights that are played: few here, 2000 by `SALT_LAMP_TRIALS=2000`.
fn nights() -> u64 {
    std::env::var("SALT_LAMP_TRIALS").ok().and_then(|n| n.parse().ok()).unwrap_or(500)
}

/// Scatter of one frame's logarithm.
const SCATTER: f64 = 0.03;

fn normal(rng: &mut Pcg64Mcg) -> f64 {
    (0..12).map(|_| rng.random::<f64>()).sum::<f64>() - 6.0
}

/// A night of a trial of two filters: wandering air, now and then a thin cloud, a target that sinks,
/// focus that drifts, guiding that is not always the same. What is judged goes with all of these.
fn night(seed: u64, effect: f64) -> Vec<TrialFrame> {
    let mut rng = Pcg64Mcg::seed_from_u64(seed);
    let pairs = pairs_needed(SCATTER, 0.05).expect("a night holds them");
    let order = blocks(2, pairs, seed as u32);
    let times = SlotTimes { frame_s: &[190.0, 190.0], change_s: 60.0, frames: 1 };
    let sheet = run_sheet(&order, times, [0.0, 1e6], &[]);
    let (mut air, mut frames) = (0.0, Vec::new());
    let cloud = (rng.random::<f64>() < 0.5).then(|| {
        (
            4000.0 * rng.random::<f64>(),
            400.0 + 1200.0 * rng.random::<f64>(),
            0.3 * rng.random::<f64>(),
        )
    });
    let sinking = 0.08 * (rng.random::<f64>() - 0.2);
    let drift = 0.05 * normal(&mut rng);
    for slot in sheet {
        air = 0.9 * air + 0.004 * normal(&mut rng);
        let hours = slot.from_s / 3600.0;
        let dip = cloud.map_or(0.0, |(at, wide, deep)| {
            deep * (-0.5 * ((slot.from_s - at) / wide).powi(2)).exp()
        });
        let clear: f64 = air - dip;
        let airmass = 1.05 + sinking * hours * hours;
        let size = 1.6 * (0.03 * normal(&mut rng) + drift * hours).exp();
        let guiding = 0.5 * (0.2 * normal(&mut rng)).exp();
        let ln = 2.0 + effect.ln_1p() * slot.kind as f64 + 0.9 * clear
            - 0.25 * airmass
            - 0.1 * (size / 1.6).ln()
            - 0.02 * (guiding - 0.5)
            + SCATTER * normal(&mut rng);
        frames.push(TrialFrame {
            name: format!("{}", frames.len()),
            kind: slot.kind,
            start_s: slot.from_s,
            measure: ln.exp(),
            known: BTreeMap::from([
                (Covariate::Transparency, (clear + 0.006 * normal(&mut rng)).exp()),
                (Covariate::Airmass, airmass),
                (Covariate::StarSize, size),
                (Covariate::Guiding, guiding),
            ]),
        });
    }
    // The log tells clearness against the clearest frames of each filter.
    for kind in 0..2 {
        let own = |f: &&TrialFrame| f.kind == kind;
        let mut all: Vec<f64> =
            frames.iter().filter(own).map(|f| f.known[&Covariate::Transparency]).collect();
        all.sort_by(f64::total_cmp);
        let clearest = all[all.len() * 9 / 10];
        for f in frames.iter_mut().filter(|f| f.kind == kind) {
            *f.known.get_mut(&Covariate::Transparency).expect("known") /= clearest;
        }
    }
    frames
}

/// How many of the nights called a difference, and how many intervals held the truth.
fn played(effect: f64) -> [f64; 2] {
    let mut counts = [0.0; 2];
    for seed in 0..nights() {
        let frames = night(seed, effect);
        let question = TrialQuestion {
            treatment: Treatment::Filter,
            judged: Judged::PatchSnr,
            kinds: 2,
            frames: &frames,
            frames_a_slot: 1,
        };
        let all = analysed(&question).expect("enough frames").against[0].all;
        counts[0] += f64::from(u8::from(all.is_something()));
        counts[1] += f64::from(u8::from(all.interval[0] <= effect && effect <= all.interval[1]));
    }
    counts.map(|c| c / nights() as f64)
}

#[test]
fn a_trial_seldom_cries_wolf_and_sees_what_it_was_planned_for() {
    let [alarms, held] = played(0.0);
    assert!(alarms <= 0.065, "{alarms}");
    assert!((0.94..=0.99).contains(&held), "{held}");
    let [seen, held] = played(0.05);
    assert!(seen >= 0.8, "{seen}");
    assert!((0.94..=0.99).contains(&held), "{held}");
    let [seen, held] = played(0.15);
    assert!(seen > 0.999, "{seen}");
    assert!((0.94..=0.99).contains(&held), "{held}");
}

#[test]
fn power_is_that_of_statsmodels() {
    for row in reference("trial_power.csv") {
        let v: Vec<f64> = row.iter().map(|c| number(c)).collect();
        let ours = power(v[2] as usize, v[0], v[1]);
        assert!((ours - v[3]).abs() < 1e-6, "{row:?}: {ours}");
    }
}

#[test]
fn neighbours_differ_as_a_paired_t_test_says() {
    for expected in reference("trial_pairs.csv") {
        let frames: Vec<TrialFrame> = reference("trial_frames.csv")
            .iter()
            .filter(|r| r[0] == expected[0])
            .map(|r| TrialFrame {
                name: r[4].clone(),
                kind: r[1].parse().expect("a kind"),
                start_s: 60.0 * number(&r[4]),
                measure: number(&r[5]).exp(),
                known: BTreeMap::from([
                    (Covariate::Transparency, number(&r[2])),
                    (Covariate::Airmass, number(&r[3])),
                ]),
            })
            .collect();
        let question = TrialQuestion {
            treatment: Treatment::Filter,
            judged: Judged::LineSignal,
            kinds: 2,
            frames: &frames,
            frames_a_slot: 1,
        };
        let found = analysed(&question).expect("enough frames");
        let a = &found.against[0];
        assert_eq!(a.pairs.to_string(), expected[1]);
        let p = a.paired.expect("pairs");
        let ours = [p.ln, p.interval[0].ln_1p(), p.interval[1].ln_1p()];
        for (ours, theirs) in ours.into_iter().zip(&expected[2..]) {
            assert!((ours - number(theirs)).abs() < 1e-9, "{expected:?}: {ours}");
        }
        // A frame that was spoilt by hand is the only odd one.
        let odd: Vec<&str> = found.odd.iter().map(|o| o.name.as_str()).collect();
        assert_eq!(odd, if expected[0] == "uneven" { vec!["30.0"] } else { vec![] });
    }
}
