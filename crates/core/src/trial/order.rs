//! In which order the kinds are taken, so that what drifts through a night serves all alike.
//!
//! A block goes through the kinds and back (A B B A): a drift that is even over the block cancels.
//! Which kind begins is drawn by seed, blocks by twos, so that one and its mirror come equally
//! often. No block is cut by a moonrise or a meridian flip.

use rand::seq::SliceRandom;
use rand::{RngExt, SeedableRng};
use rand_pcg::Pcg64Mcg;
use serde::Serialize;
use utoipa::ToSchema;

/// Fewest and most kinds that one trial compares.
pub const KINDS: [usize; 2] = [2, 4];

/// Blocks of kinds for so many pairs: each block holds every kind twice, as far from its beginning
/// as from its end. Of odd numbers of pairs the next even one is made.
pub fn blocks(kinds: usize, pairs: usize, seed: u32) -> Vec<Vec<usize>> {
    let mut rng = Pcg64Mcg::seed_from_u64(u64::from(seed));
    let count = pairs.div_ceil(2);
    let mut all = Vec::with_capacity(count);
    while all.len() < count {
        let mut there: Vec<usize> = (0..kinds).collect();
        if kinds > 2 {
            there.shuffle(&mut rng);
        } else if rng.random::<bool>() {
            there.reverse();
        }
        // This block and its mirror.
        for _ in 0..2 {
            let block: Vec<usize> = there.iter().chain(there.iter().rev()).copied().collect();
            all.push(block);
            there.reverse();
        }
    }
    all.truncate(count);
    all
}

/// How long things take.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct SlotTimes<'a> {
    /// One exposure of each kind with its download, s.
    pub frame_s: &'a [f64],
    /// Changing the filter and focusing anew, s.
    pub change_s: f64,
    /// Frames that are taken of a kind before the next.
    pub frames: usize,
}

impl SlotTimes<'_> {
    fn slot_s(&self, kind: usize) -> f64 {
        self.frame_s.get(kind).copied().unwrap_or(0.0) * self.frames as f64
    }
}

/// A line of the run sheet.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct TrialSlot {
    /// Its block, from 0.
    pub block: usize,
    /// The kind, from 0.
    pub kind: usize,
    /// When the first frame begins, seconds since 1970 UTC.
    pub from_s: f64,
    /// When the last one is in.
    pub to_s: f64,
    /// Whether the filter is changed and the focus found before it.
    pub change: bool,
}

/// Lays blocks into a part of the night, none of them over one of the `cuts` (moonrise, flip).
///
/// `window` and `cuts` are seconds since 1970 UTC. Blocks that find no room are left out.
pub fn run_sheet(
    order: &[Vec<usize>],
    times: SlotTimes,
    [from, to]: [f64; 2],
    cuts: &[f64],
) -> Vec<TrialSlot> {
    let mut sheet: Vec<TrialSlot> = Vec::new();
    let mut at = from;
    for (block, kinds) in order.iter().enumerate() {
        // Laid out from here; where a cut falls into it, from the cut on.
        let laid = |mut at: f64, mut last: Option<usize>| {
            let slots: Vec<TrialSlot> = kinds
                .iter()
                .map(|&kind| {
                    let change = last != Some(kind);
                    let from_s = at + if change { times.change_s } else { 0.0 };
                    let to_s = from_s + times.slot_s(kind);
                    (at, last) = (to_s, Some(kind));
                    TrialSlot { block, kind, from_s, to_s, change }
                })
                .collect();
            slots
        };
        let mut slots = laid(at, sheet.last().map(|s| s.kind));
        let ends = |slots: &[TrialSlot]| slots.last().map_or(at, |s| s.to_s);
        let mut sorted: Vec<f64> = cuts.to_vec();
        sorted.sort_by(f64::total_cmp);
        for cut in sorted {
            if cut > at && cut < ends(&slots) {
                slots = laid(cut, None);
            }
        }
        if ends(&slots) > to {
            break;
        }
        at = ends(&slots);
        sheet.extend(slots);
    }
    sheet
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_block_is_its_own_mirror_and_every_kind_comes_as_often() {
        for kinds in KINDS[0]..=KINDS[1] {
            for seed in 0..20 {
                let all = blocks(kinds, 9, seed);
                assert_eq!(all.len(), 5, "two pairs a block");
                for block in &all {
                    let back: Vec<usize> = block.iter().rev().copied().collect();
                    assert_eq!(block, &back);
                    for kind in 0..kinds {
                        assert_eq!(block.iter().filter(|k| **k == kind).count(), 2);
                    }
                }
                // One and its mirror.
                assert_eq!(all[0][0], all[1][kinds - 1]);
            }
        }
        let first = |seed| blocks(2, 2, seed)[0][0];
        assert!((0..20).any(|s| first(s) == 0) && (0..20).any(|s| first(s) == 1));
        assert_eq!(blocks(2, 8, 3), blocks(2, 8, 3));
    }

    #[test]
    fn no_block_is_cut_and_none_runs_over() {
        let times = SlotTimes { frame_s: &[100.0, 100.0], change_s: 60.0, frames: 2 };
        let order = blocks(2, 8, 1);
        // A block: two changes or three, eight frames.
        let free = run_sheet(&order, times, [0.0, 1e5], &[]);
        assert_eq!(free.len(), 16);
        assert!(free[0].change && free[0].from_s == 60.0);
        for pair in free.windows(2) {
            let gap = pair[1].from_s - pair[0].to_s;
            assert_eq!(gap, if pair[0].kind == pair[1].kind { 0.0 } else { 60.0 });
        }
        let cut = 500.0;
        let sheet = run_sheet(&order, times, [0.0, 1e5], &[cut]);
        assert_eq!(sheet.len(), 16);
        assert!(sheet.iter().all(|s| s.from_s > cut), "the first block would have been cut");
        let short = run_sheet(&order, times, [0.0, 2500.0], &[]);
        assert_eq!(short.len() % 4, 0);
        assert!(!short.is_empty() && short.len() < 16 && short[short.len() - 1].to_s <= 2500.0);
    }
}
