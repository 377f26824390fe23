//! A blind look at frames of one's own: which frames a round shows, and what the figures say of the
//! kinds that hid behind them.
//!
//! A round shows one picture of each kind, of frames taken about one moment, so that the sky was the
//! same for all. What could tell them apart besides their light is taken away: every picture is
//! stacked of as many frames, all are laid upon one frame that is drawn from among them, and what
//! one of them lacks at its edge is black in all.

use rand::seq::{IndexedRandom, SliceRandom};
use rand::{RngExt, SeedableRng};
use rand_pcg::Pcg64Mcg;
use serde::{Deserialize, Serialize};

use crate::look::blind::orders;
use crate::trial::analysis::analysed;
use crate::trial::answer::TrialError;
use crate::trial::beside::Piece;
use crate::trial::data::TrialFrame;
use crate::trial::document::{FrameInTrial, Trial};
use crate::trial::verdict::main_effect;

/// Most frames that one picture is stacked of.
pub const MOST_BLIND_FRAMES: usize = 16;

/// What a round shows.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct BlindRound {
    /// Id of the frame that all are laid upon, drawn among those that are shown.
    pub upon: String,
    /// Ids of the frames of each kind, of every kind as many.
    pub frames: Vec<Vec<String>>,
    /// At each position, the kind that is shown there.
    pub order: Vec<usize>,
}

/// Rounds of pictures stacked of `each` frames, at most half of what the kind with the fewest has:
/// a stack of all would be the same in every round, and known again. None where a kind has no frame.
/// No moment comes twice before all came.
pub fn blind_rounds(trial: &Trial, rounds: usize, each: usize, seed: u64) -> Vec<BlindRound> {
    let mut rng = Pcg64Mcg::seed_from_u64(seed);
    let counted: Vec<&FrameInTrial> = trial.frames.iter().filter(|f| f.counts()).collect();
    let of_kind = |k: usize| counted.iter().copied().filter(move |f| f.kind == Some(k));
    let fewest = (0..trial.kinds.len()).map(|k| of_kind(k).count()).min().unwrap_or(0);
    if fewest == 0 {
        return Vec::new();
    }
    let each = each.clamp(1, (fewest / 2).clamp(1, MOST_BLIND_FRAMES));
    let mut moments: Vec<f64> = counted.iter().map(|f| f.start_s).collect();
    moments.shuffle(&mut rng);
    let shown = |moment: f64, k: usize| -> Vec<String> {
        let mut near: Vec<&FrameInTrial> = of_kind(k).collect();
        let away = |f: &FrameInTrial| (f.start_s - moment).abs();
        near.sort_by(|a, b| away(a).total_cmp(&away(b)).then_with(|| a.id.cmp(&b.id)));
        near.into_iter().take(each).map(|f| f.id.clone()).collect()
    };
    let orders = orders(trial.kinds.len(), rounds, rng.random());
    let one = |(order, moment): (Vec<usize>, &f64)| {
        let frames: Vec<Vec<String>> = (0..trial.kinds.len()).map(|k| shown(*moment, k)).collect();
        let upon = frames.concat().choose(&mut rng).cloned().unwrap_or_default();
        BlindRound { upon, frames, order }
    };
    orders.into_iter().zip(moments.iter().cycle()).map(one).collect()
}

/// Makes pieces of one size alike at their edges: what one has not, none has.
pub fn edged_alike(pieces: &mut [Piece]) {
    let pixels = pieces.iter().map(|p| p.adu.len()).min().unwrap_or(0);
    for k in 0..pixels {
        if pieces.iter().any(|p| p.adu[k].is_nan()) {
            pieces.iter_mut().for_each(|p| p.adu[k] = f32::NAN);
        }
    }
}

/// What the figures say of a trial's kinds.
#[derive(Clone, Debug, PartialEq)]
pub struct KindFigures {
    /// What is judged, as a ratio to the first kind; more is better (of what is better for being
    /// less, the reciprocal).
    pub ratio: Vec<f64>,
    /// For each pair `[a][b]`, whether nothing lies outside the interval of their difference.
    pub differ: Vec<Vec<bool>>,
}

/// The figures of a trial's kinds, each pair's difference with everything else allowed for.
///
/// # Errors
/// [`TrialError`] where its frames say nothing yet.
pub fn kind_figures(trial: &Trial) -> Result<KindFigures, TrialError> {
    let n = trial.kinds.len();
    let frames = trial.counted();
    let mut differ = vec![vec![false; n]; n];
    let mut ratio = vec![1.0; n];
    let sign = if trial.judged.more_is_better() { 1.0 } else { -1.0 };
    for (first, row) in differ.iter_mut().enumerate() {
        // The same fit, held against another kind: it takes the place of the first.
        let swapped = |k: usize| {
            if k == first {
                0
            } else if k == 0 {
                first
            } else {
                k
            }
        };
        let own: Vec<TrialFrame> =
            frames.iter().map(|f| TrialFrame { kind: swapped(f.kind), ..f.clone() }).collect();
        for a in analysed(&trial.question(&own))?.against {
            let effect = main_effect(&a);
            row[swapped(a.kind)] = effect.is_something();
            if first == 0 {
                ratio[a.kind] = (sign * effect.ln).exp();
            }
        }
    }
    Ok(KindFigures { ratio, differ })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::trial::data::Judged;
    use crate::trial::document::tests::trial_of_two_filters;
    use std::collections::BTreeMap;

    /// Frames in blocks A B B A, B holding `more`.
    fn taken(more: f64) -> Trial {
        let mut t = trial_of_two_filters();
        t.frames = (0..24)
            .map(|i| {
                let kind = usize::from(i % 4 == 1 || i % 4 == 2);
                let off = f64::from((i * 7) % 11) / 5.0 - 1.0;
                FrameInTrial {
                    id: format!("f{i:02}"),
                    name: format!("{i}.fits"),
                    kind: Some(kind),
                    by_hand: false,
                    left_out: false,
                    start_s: 1.8e9 + 300.0 * f64::from(i),
                    measure: Some((more.ln_1p() * kind as f64 + 0.02 * off).exp()),
                    known: BTreeMap::new(),
                }
            })
            .collect();
        t
    }

    #[test]
    fn a_round_shows_as_many_frames_of_each_kind_about_one_moment() {
        let mut t = taken(0.1);
        t.frames[5].left_out = true;
        let at = |id: &String| id[1..].parse::<i32>().expect("a number");
        let kind_at = |id: &String| usize::from(matches!(at(id) % 4, 1 | 2));
        for (asked, each) in [(1, 1), (4, 4), (99, 5)] {
            let rounds = blind_rounds(&t, 12, asked, 7);
            assert_eq!(rounds.len(), 12);
            for r in &rounds {
                for (k, own) in r.frames.iter().enumerate() {
                    assert_eq!(own.len(), each);
                    assert!(own.iter().all(|id| kind_at(id) == k && id != "f05"), "{own:?}");
                }
                let all = r.frames.concat();
                assert!(all.contains(&r.upon));
                let (low, high) =
                    all.iter().map(at).fold((99, 0), |(l, h), v| (l.min(v), h.max(v)));
                assert!(high - low <= 4 * each as i32, "{all:?}");
            }
        }
        // Not the same stack over and over.
        let stacks = blind_rounds(&t, 12, 99, 7);
        let others = stacks.iter().filter(|r| r.frames != stacks[0].frames).count();
        assert!(others >= 6, "{others} of 11 differ from the first");
        // Neither the place nor the frame that all are laid upon tells the kind.
        let many: Vec<BlindRound> =
            (0..40).flat_map(|seed| blind_rounds(&t, 12, 1, seed)).collect();
        let share = |yes: &dyn Fn(&BlindRound) -> bool| {
            many.iter().filter(|r| yes(r)).count() as f64 / many.len() as f64
        };
        // Of 480 draws, four standard deviations are nine per cent.
        let first = share(&|r| r.order[0] == 0);
        let laid = share(&|r| kind_at(&r.upon) == 0);
        assert!((first - 0.5).abs() < 0.09 && (laid - 0.5).abs() < 0.09, "{first} {laid}");
        let both = share(&|r| r.order[0] == kind_at(&r.upon));
        assert!((both - 0.5).abs() < 0.09, "the first is the one laid upon: {both}");
        t.frames.iter_mut().for_each(|f| f.left_out = f.kind == Some(1));
        assert!(blind_rounds(&t, 2, 1, 7).is_empty());
    }

    #[test]
    fn edges_do_not_tell_which_was_moved() {
        let of = |adu: &[f32]| Piece { size: [3, 1], adu: adu.to_vec() };
        let mut two = [of(&[1.0, f32::NAN, 3.0]), of(&[4.0, 5.0, f32::NAN])];
        edged_alike(&mut two);
        for p in &two {
            assert!(p.adu[0].is_finite() && p.adu[1].is_nan() && p.adu[2].is_nan(), "{p:?}");
        }
    }

    #[test]
    fn figures_are_held_against_each_kind_and_more_is_better() {
        let f = kind_figures(&taken(0.1)).expect("frames");
        assert!((f.ratio[1] - 1.1).abs() < 0.02 && f.ratio[0] == 1.0, "{f:?}");
        assert!(f.differ[0][1] && f.differ[1][0] && !f.differ[0][0]);
        let none = kind_figures(&taken(0.0)).expect("frames");
        assert!(!none.differ[0][1] && !none.differ[1][0]);
        let mut less = taken(0.1);
        less.judged = Judged::StarSize;
        let f = kind_figures(&less).expect("frames");
        assert!((f.ratio[1] - 1.0 / 1.1).abs() < 0.02, "the smaller stars are better: {f:?}");
        less.frames.truncate(3);
        assert!(kind_figures(&less).is_err());
    }
}
