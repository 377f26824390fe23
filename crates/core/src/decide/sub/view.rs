//! What a decision on a sub looks at: one exposure at one gain, with its limits, and the spread of
//! its light.

use crate::decide::uncertainty::draws::{PathDraws, Range, by_light};
use crate::light::lines::Quantity;
use crate::path::rates::Rates;
use crate::path::sensor::GainPoint;
use crate::scenario::choices::Choices;
use crate::scenario::document::Scenario;
use crate::scenario::exposure::Exposure;
use crate::scenario::rig::Contender;
use crate::signal::channel::ChannelModel;
use crate::signal::model::{ExposureModel, LightPath};
use crate::signal::sub::{Plateau, SubTerms, plateau};

/// Everything that a decision on a sub looks at.
pub(super) struct View<'a> {
    pub s: &'a Scenario,
    pub choices: &'a Choices,
    pub contender: &'a Contender,
    pub exposure: &'a Exposure,
    pub at: usize,
    pub model: &'a ExposureModel,
    pub gain: &'a GainPoint,
}

/// One channel's terms at one tenth, half and nine tenths of the light that was drawn, with the
/// plateau of each.
pub(super) struct Spread(pub [(SubTerms, Plateau); 3]);

impl Spread {
    pub fn new(v: &View, rates: Vec<Rates>) -> Self {
        Self(by_light(rates).map(|r| {
            let terms = v.model.instrument.sub_terms_at(&r, v.gain);
            (terms, plateau(&terms))
        }))
    }

    pub fn of(&self, f: impl Fn(&Plateau) -> f64) -> Range {
        Range::of_three([0, 1, 2].map(|i| f(&self.0[i].1)))
    }

    /// Share of the best at a sub of `t` seconds. Where the best sub passes over `t` within the
    /// range, the share reaches one.
    pub fn share(&self, t: f64) -> Range {
        let [a, middle, b] = [0, 1, 2]
            .map(|i| self.0[i].0.information(t) / self.0[i].0.information(self.0[i].1.best_s))
            .map(|share| share.min(1.0));
        let r = Range::of_three([a, middle, b]);
        let passes = self.0[2].1.best_s <= t && t <= self.0[0].1.best_s;
        if passes { Range { high: 1.0, ..r } } else { r }
    }
}

impl View<'_> {
    /// The sub in which the brightest part of the target reaches the accepted filling of a pixel,
    /// s.
    pub fn core_clips_s(&self, r: &Rates) -> f64 {
        self.choices.core_fill * self.gain.full_scale_e / peak_rate(self.s, r).max(1e-12)
    }

    /// The sub in which a star of the chosen magnitude clips, s.
    pub fn star_clips_s(&self, r: &Rates) -> f64 {
        let star = r.star_v0
            * self.model.instrument.star_peak_share()
            * 10f64.powf(-0.4 * self.choices.star_clips_v_mag);
        self.gain.full_scale_e / (star + r.background() + r.dark).max(1e-12)
    }

    pub fn clock_s(&self) -> f64 {
        self.s.clock_s(self.contender) * self.model.share
    }

    /// Subs longer than this are too few to reject outliers from, s; nothing where no length gives
    /// enough.
    pub fn frames_limit_s(&self) -> f64 {
        self.clock_s() / self.choices.least_frames - self.model.instrument.between_s
    }

    pub fn gb_per_sub(&self) -> f64 {
        let bytes = if self.contender.sensor.bits > 8 { 2.0 } else { 1.0 };
        f64::from(self.contender.sensor.columns) * f64::from(self.contender.sensor.rows) * bytes
            / 1e9
    }

    /// The shortest sub with which the clock's share fits on the disk, s.
    pub fn disk_from_s(&self) -> Option<f64> {
        let most = (self.choices.disk_gb? * self.model.share / self.gb_per_sub()).max(1.0);
        Some((self.clock_s() / most - self.model.instrument.between_s).max(0.0))
    }
}

/// The quantity that a channel carries most light of.
pub(super) fn main_quantity(c: &ChannelModel) -> Option<Quantity> {
    let r = c.nominal();
    Quantity::ALL.into_iter().filter(|q| c.records[*q]).max_by(|a, b| r.of(*a).total_cmp(&r.of(*b)))
}

pub(super) fn view<'a>(
    s: &'a Scenario,
    contender: &'a Contender,
    at: usize,
    path: &'a LightPath,
    gain: &'a GainPoint,
) -> View<'a> {
    View {
        s,
        choices: &s.choices,
        contender,
        exposure: &contender.exposures[at],
        at,
        model: &path.exposures[at],
        gain,
    }
}

/// The least over the channels of what a function gives for each.
pub(super) fn fastest(v: &View, f: &dyn Fn(&Rates) -> f64) -> f64 {
    v.model.channels.iter().map(|c| f(c.nominal())).fold(f64::INFINITY, f64::min)
}

pub(super) fn fastest_range(v: &View, draws: PathDraws, f: &dyn Fn(&Rates) -> f64) -> Range {
    draws.range(|scales, centres| {
        let centre = centres.get(v.at).copied().unwrap_or(0.0);
        v.model.channels.iter().map(|c| f(&c.rates(scales, centre))).fold(f64::INFINITY, f64::min)
    })
}

/// What the target's brightest part puts into a pixel, e-/s.
pub(crate) fn peak_rate(s: &Scenario, r: &Rates) -> f64 {
    r.target_sum() * s.target.peak_factor + r.background() + r.dark
}
