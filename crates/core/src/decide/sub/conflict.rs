//! What one sub cannot serve: two lines behind one filter, and a bright core.

use serde::Serialize;
use utoipa::ToSchema;

use crate::decide::sub::view::{Spread, View, fastest, fastest_range};
use crate::decide::uncertainty::draws::{PathDraws, Range, span};
use crate::light::lines::Quantity;
use crate::path::rates::Rates;
use crate::signal::channel::ChannelModel;
use crate::signal::sub::{Plateau, SubTerms, plateau};
use crate::wording::{clock, seconds};

/// Two lines behind one filter.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Conflict {
    /// Whether no sub lies on both plateaus.
    pub apart: bool,
    /// The line in each of the two channels.
    pub quantities: [Quantity; 2],
    /// Share of its best information that each line gets at the sub in use.
    pub at_yours: [f64; 2],
    /// The ranges of these shares.
    pub at_yours_range: [Range; 2],
    /// The one sub that leaves the worse-served line best off, s, and what each then gets.
    pub compromise_s: f64,
    /// Its range, s.
    pub compromise_range_s: Range,
    /// Share of its best that each line gets at the compromise.
    pub at_compromise: [f64; 2],
    /// Share of its best that the worse-served line gets from two sets of subs, half the clock
    /// each.
    pub two_sets: f64,
    /// What it means, in a sentence.
    pub text: String,
}

/// A second set of short subs for a bright core.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct ShortSet {
    /// Length of a short sub, s.
    pub sub_s: f64,
    /// Its range, s.
    pub sub_range_s: Range,
    /// How many.
    pub subs: u32,
    /// Their time on the clock, s.
    pub clock_s: f64,
    /// Why, in a sentence.
    pub text: String,
}

/// The one sub that leaves the worse-served of two channels best off, s.
fn compromise(ta: &SubTerms, tb: &SubTerms, pa: &Plateau, pb: &Plateau) -> f64 {
    let (most_a, most_b) = (ta.information(pa.best_s), tb.information(pb.best_s));
    let worse = |t: f64| (ta.information(t) / most_a).min(tb.information(t) / most_b);
    // Between the two best subs the lesser of two single-peaked curves has one peak.
    let (mut lo, mut hi) = (pa.best_s.min(pb.best_s).ln(), pa.best_s.max(pb.best_s).ln());
    for _ in 0..40 {
        let (m1, m2) = (lo + (hi - lo) / 3.0, hi - (hi - lo) / 3.0);
        if worse(m1.exp()) < worse(m2.exp()) { lo = m1 } else { hi = m2 }
    }
    ((lo + hi) / 2.0).exp()
}

pub(super) fn conflict(v: &View, draws: PathDraws) -> Option<Conflict> {
    let mut lines: Vec<(Quantity, &ChannelModel)> = Vec::new();
    for q in Quantity::ALL.into_iter().filter(|q| *q != Quantity::Continuum) {
        let leading = v.model.leading(q);
        if leading.records[q]
            && leading.nominal().of(q) > 0.0
            && lines.iter().all(|(_, c)| c.name != leading.name)
        {
            lines.push((q, leading));
        }
    }
    let [(qa, a), (qb, b)] = lines[..] else { return None };
    let (ta, tb) = (
        v.model.instrument.sub_terms_at(a.nominal(), v.gain),
        v.model.instrument.sub_terms_at(b.nominal(), v.gain),
    );
    let (pa, pb) = (plateau(&ta), plateau(&tb));
    let share = |t: f64| {
        [
            ta.information(t) / ta.information(pa.best_s),
            tb.information(t) / tb.information(pb.best_s),
        ]
    };
    let compromise_s = compromise(&ta, &tb, &pa, &pb);
    let spreads = [a, b].map(|c| Spread::new(v, draws.rates(c, v.at)));
    let compromises = [0, 1, 2].map(|i| {
        let ((ta, pa), (tb, pb)) = (&spreads[0].0[i], &spreads[1].0[i]);
        compromise(ta, tb, pa, pb)
    });
    let at_compromise = share(compromise_s);
    let (one, two) = (share(pa.best_s), share(pb.best_s));
    let two_sets = ((one[0] + two[0]) / 2.0).min((one[1] + two[1]) / 2.0);
    let apart = pa.from_s.max(pb.from_s) > pa.to_s.min(pb.to_s);
    let at_yours = share(v.exposure.sub_s);
    let clips = [
        (qa, v.core_clips_s(a.nominal()), at_yours[0]),
        (qb, v.core_clips_s(b.nominal()), at_yours[1]),
    ];
    let sub = v.exposure.sub_s;
    let suffers = |i: usize| {
        format!(
            "{} loses {:.0} % of its information",
            v.s.target.name_of(clips[i].0),
            (1.0 - clips[i].2) * 100.0
        )
    };
    let text = match (clips.iter().position(|c| sub > c.1), apart) {
        (Some(i), _) => {
            format!(
                "At {} the core clips in {} (from {}) while {}.",
                seconds(sub),
                v.s.target.name_of(clips[i].0),
                seconds(clips[i].1),
                suffers(1 - i)
            )
        }
        (None, false) => format!(
            "One sub serves both lines: anything from {} to {} is on both plateaus.",
            seconds(pa.from_s.max(pb.from_s)),
            seconds(pa.to_s.min(pb.to_s))
        ),
        (None, true) => {
            let i = usize::from(at_yours[1] < at_yours[0]);
            let gain = two_sets - at_compromise[0].min(at_compromise[1]);
            let sets = if gain > 0.02 {
                format!("; two sets would give the worse line {:.0} % more", gain * 100.0)
            } else {
                "; two sets would gain nothing".into()
            };
            format!(
                "No sub is on both plateaus: at {} {}, {} is fairer{sets}.",
                seconds(sub),
                suffers(i),
                seconds(compromise_s)
            )
        }
    };
    Some(Conflict {
        apart,
        quantities: [qa, qb],
        at_yours,
        at_yours_range: [0, 1].map(|i| spreads[i].share(sub)),
        compromise_s,
        compromise_range_s: Range::of_three(compromises),
        at_compromise,
        two_sets,
        text,
    })
}

pub(super) fn short_set(v: &View, advised_s: f64, draws: PathDraws) -> Option<ShortSet> {
    if v.s.target.peak_factor <= 1.0 {
        return None;
    }
    let core = |r: &Rates| v.core_clips_s(r);
    let clips_s = fastest(v, &core);
    if advised_s <= clips_s {
        return None;
    }
    let sub_s = (0.7 * clips_s).max(0.001);
    let subs = v.choices.least_frames.ceil();
    let clock_s = subs * (sub_s + v.model.instrument.between_s);
    let sub_range_s = fastest_range(v, draws, &core).map(|t| (0.7 * t).max(0.001));
    let text = format!(
        "At {} the core clips (from {}): add {subs:.0} {} of {}{}, {} on the clock, and lay them \
            over the core.",
        seconds(advised_s),
        seconds(clips_s),
        if subs == 1.0 { "sub" } else { "subs" },
        seconds(sub_s),
        if sub_range_s.is_open() {
            format!(" ({} as the core may be)", span(&sub_range_s))
        } else {
            String::new()
        },
        clock(clock_s)
    );
    Some(ShortSet { sub_s, sub_range_s, subs: subs as u32, clock_s, text })
}
