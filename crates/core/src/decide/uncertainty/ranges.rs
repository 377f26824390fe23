//! What is uncertain, carried to what each path reaches.

use serde::Serialize;
use std::collections::BTreeMap;
use utoipa::ToSchema;

use crate::decide::uncertainty::draws::{Draws, PathDraws, Range};
use crate::light::lines::Quantity;
use crate::path::scales::Scales;
use crate::scenario::document::Scenario;
use crate::signal::aim::clean_arcsec;
use crate::signal::channel::ChannelModel;
use crate::signal::model::LightPath;

/// The ranges of one quantity of one path.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct QuantityRange {
    /// Signal to noise in the given time.
    pub snr: Range,
    /// Side of the square on which the part that the goal names comes clean in the given time,
    /// arcsec; null where nothing is gathered.
    pub clean_arcsec: Option<Range>,
    /// Time on the clock to the goal, s; null where more than one draw in ten does not reach it.
    pub time_to_goal_s: Option<Range>,
    /// Target over sky; null where no sky shines.
    pub contrast: Option<Range>,
    /// Signal to noise over the first path's, draw by draw. Null for the first path or where it
    /// lacks the quantity.
    pub snr_over_first: Option<Range>,
    /// Time over the first path's time, draw by draw: what both share cancels. Null for the first
    /// path or where it lacks the quantity.
    pub time_over_first: Option<Range>,
    /// Contrast over the first path's, draw by draw. Null where either has none.
    pub contrast_over_first: Option<Range>,
}

/// Ranges of every quantity of every path.
pub fn ranges(
    s: &Scenario,
    paths: &[LightPath],
    draws: &Draws,
) -> Vec<BTreeMap<Quantity, QuantityRange>> {
    let shares: Vec<Vec<f64>> = paths.iter().map(LightPath::shares).collect();
    // What one state of sky, target and filter centres gives on a path.
    type Asked<'f> = &'f dyn Fn(&LightPath, &Scales, &[f64]) -> Option<f64>;
    let every = |i: usize, f: Asked| -> Vec<Option<f64>> {
        draws.of(i).iter().map(|(scales, centres)| f(&paths[i], scales, centres)).collect()
    };
    let over = |own: &[Option<f64>], first: Option<&Vec<Option<f64>>>| {
        let both = own.iter().zip(first?).filter_map(|(a, b)| Some(((*a)?, (*b)?)));
        Range::of(both.filter(|(_, b)| *b > 0.0).map(|(a, b)| a / b).collect())
    };
    let mut first: BTreeMap<Quantity, [Vec<Option<f64>>; 3]> = BTreeMap::new();
    (0..paths.len())
        .map(|i| {
            let of = |q: Quantity| {
                let snr = every(i, &|p, scales, centres| {
                    Some(p.snr(q, p.clock_s, &shares[i], scales, centres))
                });
                let times =
                    every(i, &|p, scales, centres| p.time_s(q, &shares[i], scales, centres));
                let contrasts = every(i, &|p, scales, centres| p.contrast(q, scales, centres));
                let reached = times.iter().flatten().count() * 10 >= times.len() * 9;
                let time_to_goal_s = if reached {
                    Range::of(times.iter().map(|t| t.unwrap_or(f64::INFINITY)).collect())
                } else {
                    None
                };
                let against = first.get(&q);
                let snr_range = Range::of(snr.iter().flatten().copied().collect())?;
                let range = QuantityRange {
                    snr: snr_range,
                    clean_arcsec: clean_range(&paths[i], q, &snr_range, draws.of(i)),
                    time_to_goal_s,
                    contrast: Range::of(contrasts.iter().flatten().copied().collect()),
                    snr_over_first: over(&snr, against.map(|a| &a[0])),
                    time_over_first: over(&times, against.map(|a| &a[1])),
                    contrast_over_first: over(&contrasts, against.map(|a| &a[2])),
                };
                Some((q, range, [snr, times, contrasts]))
            };
            let found: Vec<_> =
                s.target.judged().filter(|q| paths[i].records(*q)).filter_map(of).collect();
            let mut out = BTreeMap::new();
            for (q, range, draws) in found {
                out.insert(q, range);
                if i == 0 {
                    first.insert(q, draws);
                }
            }
            out
        })
        .collect()
}

/// The range of the clean detail of the part that the goal names: of the mean, `snr` says it.
fn clean_range(path: &LightPath, q: Quantity, snr: &Range, draws: PathDraws) -> Option<Range> {
    let part = path.goal_part(q);
    if part.of(q) == 1.0 {
        let side =
            |snr: f64| clean_arcsec(snr, path.instrument.square_arcsec, path.finest_arcsec(q));
        return (snr.low > 0.0).then(|| snr.map(|x| side(x).unwrap_or(f64::INFINITY)));
    }
    let shares = path.shares();
    let drawn =
        draws.iter().filter_map(|(d, c)| path.clean_arcsec(q, part, (path.clock_s, &shares), d, c));
    Range::of(drawn.collect())
}

/// The faintest star of each exposure, V mag, in its channel that reaches deepest; `None` where
/// nothing was exposed.
pub fn star_limits(path: &LightPath, draws: PathDraws) -> Vec<Option<Range>> {
    let limit = |at: usize, scales: &Scales, centres: &[f64]| {
        let e = &path.exposures[at];
        let subs = crate::signal::stack::subs_in(
            path.clock_s * e.share,
            e.sub_s,
            path.instrument.between_s,
        );
        let star = |c: &ChannelModel| {
            let rates = c.rates(scales, centres.get(at).copied().unwrap_or(0.0));
            e.instrument.star_terms(&rates, c.pixel_share, e.sub_s, subs).limit_v_mag()
        };
        let each = e.channels.iter().map(star);
        each.flatten().max_by(f64::total_cmp)
    };
    let of = |at: usize| {
        Range::of(draws.iter().filter_map(|(scales, centres)| limit(at, scales, centres)).collect())
    };
    (0..path.exposures.len()).map(of).collect()
}
