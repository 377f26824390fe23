//! A plan's slots: how the night is cut up, and the call that plans it.

use crate::night::view::{NightView, SAMPLE_S};

/// A plan's blocks begin and end on slots of this length, s.
pub const SLOT_S: f64 = 300.0;

/// Samples of a night in a slot.
pub(super) const PER_SLOT: usize = (SLOT_S / SAMPLE_S) as usize;

/// Offsets of local time from UTC over a night: from when, and how many seconds.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct LocalClock(pub Vec<(f64, f64)>);

impl LocalClock {
    /// "23:40" of a moment.
    pub fn hm(&self, unix_s: f64) -> String {
        let offset = self
            .0
            .iter()
            .rev()
            .find(|(from, _)| *from <= unix_s)
            .or(self.0.first())
            .map_or(0.0, |o| o.1);
        let minutes = ((unix_s + offset) / 60.0).round() as i64;
        format!("{:02}:{:02}", minutes.div_euclid(60).rem_euclid(24), minutes.rem_euclid(60))
    }
}

/// Slots of a night.
pub(super) fn slots_of(view: &NightView) -> usize {
    view.samples.len().saturating_sub(1) / PER_SLOT
}

/// Whether every minute of a slot is dark enough and high enough.
pub(super) fn slot_usable(view: &NightView, slot: usize) -> bool {
    view.samples[slot * PER_SLOT..=(slot + 1) * PER_SLOT].iter().all(|s| s.usable)
}
